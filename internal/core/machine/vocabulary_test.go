package machine_test

import (
	"slices"
	"testing"

	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/machine"
)

func TestWhatIsNotInTheVocabulary(t *testing.T) {
	voc := catalogue.Vocabulary()
	if i, ok := voc.Inspection("no-such-look"); ok || i.Key != "" {
		t.Errorf("an inspection that is not there: %+v, %v", i, ok)
	}
	if i, ok := voc.Inspection("ribbon"); !ok || i.Key != "ribbon" {
		t.Errorf("one that is: %+v, %v", i, ok)
	}
	if _, ok := voc.Kind("ghost"); ok {
		t.Error("a kind that is not there is known")
	}
	if _, ok := voc.Position("ghost"); ok {
		t.Error("a position that is not there is known")
	}
	if _, ok := voc.Trait("ghost.model"); ok {
		t.Error("a trait that is not there is known")
	}
}

// What a model offers for other parts is told with the rating of a contact where it has one.
func TestBudgetsOfAModel(t *testing.T) {
	shop := catalogue.Shipped()
	shop.Models = append(shop.Models, machine.Model{Kind: "mainboard", Name: "Two ports", Ports: []machine.Port{
		{Name: "rated", Ways: 3, Amps: 2.5}, {Name: "not rated", Ways: 5}}})
	voc, err := shop.Vocabulary()
	if err != nil {
		t.Fatal(err)
	}
	m := shop.Models[len(shop.Models)-1]
	if got, want := voc.Budgets(m), []string{"rated: 3 ways of 2.5 A", "not rated: 5 ways"}; !slices.Equal(got, want) {
		t.Errorf("%q, want %q", got, want)
	}
}
