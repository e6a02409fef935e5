package main

import (
	"encoding/json"
	"fmt"
	"reflect"

	"github.com/danielgtaylor/huma/v2"
	"github.com/spf13/cobra"

	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/recordfile"
	"wardifex/internal/server"
)

// formats are the files that can be exchanged, by name.
var formats = map[string]reflect.Type{
	"catalogue": reflect.TypeFor[catalogue.File](),
	"record":    reflect.TypeFor[recordfile.File](),
}

func schemaCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "schema catalogue|record",
		Short: "Print the JSON Schema of a file format",
		Args:  cobra.ExactArgs(1),
		RunE: func(_ *cobra.Command, args []string) error {
			t, ok := formats[args[0]]
			if !ok {
				return fmt.Errorf("there is no format %q; there are catalogue and record", args[0])
			}
			text, err := schemaOf(t)
			if err == nil {
				fmt.Println(string(text))
			}
			return err
		},
	}
}

// schemaOf writes a type's JSON Schema with all that it refers to.
func schemaOf(t reflect.Type) ([]byte, error) {
	registry := huma.NewMapRegistry("#/$defs/", huma.DefaultSchemaNamer)
	root := huma.SchemaFromType(registry, t)
	server.AddChoices(registry)
	text, err := json.Marshal(root)
	if err != nil {
		return nil, err
	}
	var whole map[string]any
	if err := json.Unmarshal(text, &whole); err != nil {
		return nil, err
	}
	whole["$schema"] = "https://json-schema.org/draft/2020-12/schema"
	whole["$defs"] = registry.Map()
	return json.MarshalIndent(whole, "", "  ")
}
