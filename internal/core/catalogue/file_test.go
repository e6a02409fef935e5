package catalogue_test

import (
	"encoding/json"
	"reflect"
	"strings"
	"testing"

	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/machine"
)

func shippedFile(t testing.TB) []byte {
	t.Helper()
	text, err := json.Marshal(catalogue.NewFile(catalogue.Shipped()))
	if err != nil {
		t.Fatal(err)
	}
	return text
}

// What goes out comes back as it was, and changes nothing where it came from.
func TestCatalogueFileRoundTrip(t *testing.T) {
	c, err := catalogue.ReadFile(shippedFile(t))
	if err != nil {
		t.Fatal(err)
	}
	again, _ := json.Marshal(catalogue.NewFile(c))
	if string(again) != string(shippedFile(t)) {
		t.Error("the shipped catalogue comes back changed")
	}
	p := catalogue.NewMergePlan(catalogue.Shipped(), c, machine.Usage{})
	if len(p.Added)+len(p.Changed)+len(p.Faults) != 0 || p.Same < 60 || !reflect.DeepEqual(p.After.Slots, catalogue.Shipped().Slots) {
		t.Errorf("brought in where it came from: %d added, %v changed, %v", len(p.Added), p.Changed, p.Faults)
	}
}

func TestReadFileRefuses(t *testing.T) {
	for part, text := range map[string]string{
		"no file of the format":   `{"format": "something", "version": 1}`,
		"version 2":               `{"format": "wardifex-catalogue", "version": 2, "kinds": []}`,
		"version (missing)":       `{"format": "wardifex-catalogue"}`,
		"line 2: this is no":      "{\"format\": \"wardifex-catalogue\",\n \"version\" 1}",
		"unknown field \"slotz\"": `{"format": "wardifex-catalogue", "version": 1, "slotz": []}`,
		"cannot be a string":      `{"format": "wardifex-catalogue", "version": 1, "kinds": "all"}`,
		"not a grade":             `{"format": "wardifex-catalogue", "version": 1, "kinds": [{"key": "a", "label": "a", "traits": [{"name": "model", "label": "m", "kind": "text", "findBy": [{"inspection": "cover", "grade": "sure"}]}]}]}`,
		"after top-level value":   `{"format": "wardifex-catalogue", "version": 1} {}`,
	} {
		if _, err := catalogue.ReadFile([]byte(text)); err == nil || !strings.Contains(err.Error(), part) {
			t.Errorf("want %q, got %v", part, err)
		}
	}
	if _, err := catalogue.ReadFile(make([]byte, catalogue.MaxBytes+1)); err == nil || !strings.Contains(err.Error(), "larger than 8 MiB") {
		t.Errorf("a file too large: %v", err)
	}
}

// A file with a unit that nobody knows, with a circle, or that would take from
// the fleet what it uses, is refused with a sentence each.
func TestMergePlanFaults(t *testing.T) {
	use := machine.Usage{Values: map[string]map[string]map[string]int{"supply": {"watts": {"350": 3}}, "probe": {"senses": {"metal, without touch": 2}}}, Parts: map[string]int{"supply": 3}, Slots: map[string]int{"supply": 3}}
	kind := func(key string) machine.PartKind {
		for _, k := range catalogue.Shipped().Kinds {
			if k.Key == key {
				k.Traits = append([]machine.TraitDef(nil), k.Traits...)
				return k
			}
		}
		panic(key)
	}
	supply, probe := kind("supply"), kind("probe")
	for part, file := range map[string]machine.Catalogue{
		"\"horsepower\" is no unit":              {Kinds: []machine.PartKind{{Key: "engine", Label: "Engine", Traits: []machine.TraitDef{{Name: "model", Short: "model", Kind: machine.Text}, {Name: "power", Short: "power", Kind: machine.Number, Unit: "horsepower"}}}}},
		"based on itself":                        {Models: []machine.Model{{Kind: "supply", Name: "A", BasedOn: "B"}, {Kind: "supply", Name: "B", BasedOn: "A"}}},
		"refers to itself":                       {Models: []machine.Model{{Kind: "supply", Name: "A", Superseded: "B"}, {Kind: "supply", Name: "B", Superseded: "A"}}},
		"watts is in use: there are 3 readings":  {Kinds: []machine.PartKind{{Key: "supply", Label: supply.Label, Traits: supply.Traits[:2]}}},
		"its 3 readings would be wrong in V":     {Kinds: []machine.PartKind{{Key: "supply", Label: supply.Label, Traits: []machine.TraitDef{supply.Traits[0], supply.Traits[1], {Name: "watts", Short: "watts", Kind: machine.Number, Unit: "V"}}}}},
		"would not be text":                      {Kinds: []machine.PartKind{{Key: "supply", Label: supply.Label, Traits: []machine.TraitDef{supply.Traits[0], supply.Traits[1], {Name: "watts", Short: "watts", Kind: machine.Text}}}}},
		"\"metal, without touch\" is in use":     {Kinds: []machine.PartKind{{Key: "probe", Label: probe.Label, Traits: []machine.TraitDef{probe.Traits[0], {Name: "senses", Short: "senses", Kind: machine.Choice, Choices: []string{"surface, by touch"}}, probe.Traits[2]}}}},
		"parts of kind supply. Add another slot": {Slots: []machine.Slot{{Key: "supply", Label: "Power supply", Group: "Electronics", Kind: "probe"}}},
		"is in the file twice":                   {Slots: []machine.Slot{{Key: "x", Label: "X", Group: "G", Kind: "probe"}, {Key: "x", Label: "X", Group: "G", Kind: "probe"}}},
		"there is no kind of part \"ghost\"":     {Slots: []machine.Slot{{Key: "x", Label: "X", Group: "G", Kind: "ghost"}}},
	} {
		if p := catalogue.NewMergePlan(catalogue.Shipped(), file, use); !strings.Contains(strings.Join(p.Faults, "\n"), part) {
			t.Errorf("want %q, got %v", part, p.Faults)
		}
	}
	// Superseding what is in use is the way.
	supply.Traits[2].Superseded = "volts"
	if p := catalogue.NewMergePlan(catalogue.Shipped(), machine.Catalogue{Kinds: []machine.PartKind{supply}}, use); len(p.Faults) > 0 || len(p.Changed) != 1 {
		t.Errorf("superseding: %v", p.Faults)
	}
}

func FuzzCatalogueFile(f *testing.F) {
	f.Add(shippedFile(f))
	f.Add([]byte(`{"format": "wardifex-catalogue", "version": 1, "models": [{"kind": "probe", "name": "A", "basedOn": "A"}]}`))
	f.Add([]byte(`{"format": "wardifex-catalogue", "version": 1, "slots": [{"key": "x", "superseded": "x"}]}`))
	f.Fuzz(func(t *testing.T, text []byte) {
		c, err := catalogue.ReadFile(text)
		if err != nil {
			return
		}
		p := catalogue.NewMergePlan(catalogue.Shipped(), c, machine.Usage{})
		if _, err := p.After.Vocabulary(); (err == nil) != (len(p.After.Faults()) == 0) {
			t.Errorf("faults %v, and the vocabulary says %v", p.After.Faults(), err)
		}
	})
}
