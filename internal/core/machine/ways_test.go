package machine_test

import (
	"testing"

	"wardifex/internal/core/machine"
)

// One rule says which inspection somebody is sent to: without risk first, then quick, then
// shallow; one that was tried in vain is left out.
func TestCheapestWay(t *testing.T) {
	t.Parallel()
	for name, c := range map[string]struct {
		ways []machine.Inspection
		but  string
		want string
	}{
		"without risk before quick": {[]machine.Inspection{{Key: "a", Minutes: 1, Risk: "breaks"}, {Key: "b", Minutes: 9}},
			"", "b"},
		"quick before shallow":  {[]machine.Inspection{{Key: "a", Minutes: 9}, {Key: "b", Minutes: 8, Depth: 2}}, "", "b"},
		"shallow where as fast": {[]machine.Inspection{{Key: "a", Minutes: 9, Depth: 2}, {Key: "b", Minutes: 9}}, "", "b"},
		"tried in vain":         {[]machine.Inspection{{Key: "a", Minutes: 1}, {Key: "b", Minutes: 9}}, "a", "b"},
		"none is left":          {[]machine.Inspection{{Key: "a", Minutes: 1}}, "a", ""},
		"none earns the grade":  {[]machine.Inspection{{Key: "weak", Minutes: 1}}, "", ""},
	} {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			voc := ways(t, c.ways)
			trait, _ := voc.Trait("thing.size")
			in, _, ok := voc.CheapestWay(trait, machine.Observed, func(key string) bool { return key == c.but })
			if in.Key != c.want || ok != (c.want != "") {
				t.Errorf("%q, %v", in.Key, ok)
			}
		})
	}
}

// ways is a vocabulary of one trait that is found by inspections; a weak one only marks.
func ways(t *testing.T, list []machine.Inspection) *machine.Vocabulary {
	t.Helper()
	def := machine.TraitDef{Name: "size", Short: "size", Kind: machine.Text}
	c := machine.Catalogue{Slots: []machine.Position{{Key: "thing", Kind: "thing", Label: "Thing", Group: "x"}}}
	for _, in := range list {
		in.Title, in.How = in.Key, "look"
		c.Inspections = append(c.Inspections, in)
		grade := machine.Observed
		if in.Key == "weak" {
			grade = machine.Marked
		}
		def.FindBy = append(def.FindBy, machine.Way{Inspection: in.Key, Grade: grade})
	}
	c.Kinds = []machine.PartKind{{Key: "thing", Label: "Thing", Traits: []machine.TraitDef{
		{Name: machine.ModelTrait, Short: "model", Kind: machine.Text}, def}}}
	c.Complete()
	voc, err := c.Vocabulary()
	if err != nil {
		t.Fatal(err)
	}
	return voc
}
