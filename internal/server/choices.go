package server

import (
	"github.com/danielgtaylor/huma/v2"

	"wardifex/internal/core/drift"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/fleetquery"
	"wardifex/internal/core/machine"
)

// choices are the fields of which core lists what they may be: the list stands there, and
// in no tag of the field as well.
func choices() map[[2]string][]any {
	var ops, tests, relations, capacities, places []any
	for _, k := range fit.Ops() {
		ops = append(ops, string(k.Op))
	}
	for _, k := range fleetquery.Tests() {
		tests = append(tests, string(k.Test))
	}
	for _, k := range machine.RelationKinds() {
		relations = append(relations, string(k))
	}
	for _, p := range drift.Places {
		places = append(places, string(p))
	}
	for _, c := range fit.Capacities() {
		capacities = append(capacities, c.Key)
	}
	return map[[2]string][]any{
		{"OpKind", "op"}: ops, {"TestKind", "test"}: tests, {"Filter", "test"}: tests,
		{"SettingsOnRecord", "place"}: places, {"SettingsText", "place"}: places, {"Patch", "where"}: places,
		{"Selector", "relation"}: relations, {"Use", "budget"}: capacities,
	}
}

// AddChoices says in the schemas of a registry what those fields may be.
func AddChoices(r huma.Registry) {
	for at, list := range choices() {
		schema := r.Map()[at[0]]
		if schema == nil || schema.Properties[at[1]] == nil {
			continue // not of this document
		}
		field := schema.Properties[at[1]]
		field.Enum = list
		field.PrecomputeMessages()
	}
}
