package csvimport

import (
	"testing"

	"wardifex/internal/core/catalogue"
)

// Every target of the words is one that there is, and every kind and trait too, as far as
// they are shipped.
func TestWords(t *testing.T) {
	voc := catalogue.Vocabulary()
	for _, f := range words.Fields {
		if f.Label == "" || len(f.Words) == 0 {
			t.Errorf("%s has no words", f.Target)
		}
	}
	for kind := range words.Parts {
		if voc.First(kind) == nil {
			t.Errorf("there is no kind %s", kind)
		}
	}
	for _, w := range words.Traits {
		found := false
		for _, tr := range voc.Traits {
			found = found || tr.Name == w.Trait && voc.Is(tr.Position().Kind, w.Kind)
		}
		if !found {
			t.Errorf("%s has no trait %s", w.Kind, w.Trait)
		}
	}
}
