package catalogue_test

import (
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"

	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/machine"
)

// namesThings are the packages whose work it is to name kinds, traits and positions:
// the catalogue with the one table of the older version's keys, what rules declare that
// they need, and the invented demo room.
var namesThings = []string{"core/catalogue", "core/parts", "demo"}

// words are literals that happen to be spelt like a position and are none, by file.
var words = map[string][]string{
	"core/change/consequence.go": {"toolhead"},          // in a sentence
	"core/change/difference.go":  {"toolhead"},          // in a sentence
	"core/inspection/decode.go":  {"sensor"},            // a way of helping
	"core/machine/place.go":      {"frame"},             // a place
	"core/machine/structure.go":  {"structure"},         // a kind
	"core/settings/read.go":      {"extruder", "probe"}, // of a configuration
	"core/settings/write.go":     {"extruder", "probe"}, // of a configuration
	"core/wiring/loom.go":        {"probe"},             // a word on a wire sheet
	"server/routes.go":           {"structure"},         // an operation of the API
}

// No rule holds the key of a position or "position.trait": it asks by kind, place and
// relation, through what package parts declares.
func TestRulesHoldNoKeys(t *testing.T) {
	voc := catalogue.Vocabulary()
	positions := map[string]bool{}
	for _, p := range voc.Slots {
		positions[p.Key] = true
	}
	err := filepath.WalkDir("../..", func(path string, d fs.DirEntry, err error) error {
		file := filepath.ToSlash(strings.TrimPrefix(path, "../../"))
		switch {
		case err != nil:
			return err
		case d.IsDir() && slices.Contains(namesThings, file):
			return filepath.SkipDir
		case d.IsDir() || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go"):
			return nil
		}
		set := token.NewFileSet()
		f, err := parser.ParseFile(set, path, nil, parser.SkipObjectResolution)
		if err != nil {
			return err
		}
		ast.Inspect(f, func(n ast.Node) bool {
			if field, ok := n.(*ast.Field); ok && field.Tag != nil {
				return false // names in JSON
			}
			lit, ok := n.(*ast.BasicLit)
			if !ok || lit.Kind != token.STRING {
				return true
			}
			text, err := strconv.Unquote(lit.Value)
			if err != nil {
				t.Fatal(err)
			}
			slot, _, _ := strings.Cut(text, ".")
			_, trait := voc.Trait(machine.Key(text))
			if (positions[text] || trait || positions[slot] && strings.Contains(text, ".") && !strings.Contains(text, " ")) &&
				!slices.Contains(words[file], text) {
				t.Errorf("%s:%d: %q is the key of a position or of its trait", file, set.Position(lit.Pos()).Line, text)
			}
			return true
		})
		return nil
	})
	if err != nil {
		t.Fatal(err)
	}
}
