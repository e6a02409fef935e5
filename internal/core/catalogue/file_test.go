package catalogue_test

import (
	"encoding/json"
	"reflect"
	"strings"
	"testing"

	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
)

func shippedFile(t testing.TB) []byte {
	t.Helper()
	text, err := json.Marshal(catalogue.NewFile(catalogue.Shipped(), catalogue.Kits()))
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
	again, _ := json.Marshal(c)
	if string(again) != string(shippedFile(t)) {
		t.Error("the shipped catalogue comes back changed")
	}
	p := catalogue.NewMergePlan(catalogue.Shipped(), c.Catalogue, machine.Usage{})
	p.MergeKits(catalogue.Kits(), c.Kits)
	if len(p.Added)+len(p.Changed)+len(p.Faults) != 0 || p.Same < 60 ||
		!reflect.DeepEqual(p.After.Slots, catalogue.Shipped().Slots) {
		t.Errorf("brought in where it came from: %d added, %v changed, %v", len(p.Added), p.Changed, p.Faults)
	}
}

func TestReadFileRefuses(t *testing.T) {
	for part, text := range map[string]string{
		"no file of the format":   `{"format": "something", "version": 1}`,
		"version 4":               `{"format": "wardifex-catalogue", "version": 4, "kinds": []}`,
		"version (missing)":       `{"format": "wardifex-catalogue"}`,
		"line 2: this is no":      "{\"format\": \"wardifex-catalogue\",\n \"version\" 1}",
		"unknown field \"slotz\"": `{"format": "wardifex-catalogue", "version": 1, "slotz": []}`,
		"cannot be a string":      `{"format": "wardifex-catalogue", "version": 1, "kinds": "all"}`,
		"not a grade": `{"format": "wardifex-catalogue", "version": 1, "kinds": [{"key": "a", "label": "a",
			"traits": [{"name": "model", "label": "m", "kind": "text", "findBy": [{"inspection": "cover", "grade":
				"sure"}]}]}]}`,
		"after top-level value": `{"format": "wardifex-catalogue", "version": 1} {}`,
	} {
		if _, err := catalogue.ReadFile([]byte(text)); err == nil || !strings.Contains(err.Error(), part) {
			t.Errorf("want %q, got %v", part, err)
		}
	}
	if _, err := catalogue.ReadFile(make([]byte, catalogue.MaxBytes+1)); err == nil ||
		!strings.Contains(err.Error(), "larger than 8 MiB") {
		t.Errorf("a file too large: %v", err)
	}
}

// A file with a unit that nobody knows, with a circle, or that would take from
// the fleet what it uses, is refused with a sentence each.
func TestMergePlanFaults(t *testing.T) {
	use := machine.Usage{
		Values: map[string]map[string]map[string]int{
			"supply": {"watts": {"350": 3}},
			"probe":  {"senses": {"metal, without touch": 2}},
		},
		Parts: map[string]int{"supply": 3},
		Slots: map[string]int{"supply": 3},
	}
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
		"\"horsepower\" is no unit": {Kinds: []machine.PartKind{{Key: "engine", Label: "Engine",
			Traits: []machine.TraitDef{{Name: "model", Short: "model", Kind: machine.Text},
				{Name: "power", Short: "power", Kind: machine.Number, Unit: "horsepower"}}}}},
		"based on itself": {Models: []machine.Model{{Kind: "supply", Name: "A", BasedOn: "B"},
			{Kind: "supply", Name: "B", BasedOn: "A"}}},
		"refers to itself": {Models: []machine.Model{{Kind: "supply", Name: "A",
			Superseded: "B"}, {Kind: "supply", Name: "B", Superseded: "A"}}},
		"watts is in use: there are 3 readings": {Kinds: []machine.PartKind{{Key: "supply", Label: supply.Label,
			Traits: supply.Traits[:2]}}},
		"its 3 readings would be wrong in V": {Kinds: []machine.PartKind{{Key: "supply", Label: supply.Label,
			Traits: []machine.TraitDef{supply.Traits[0], supply.Traits[1],
				{Name: "watts", Short: "watts", Kind: machine.Number, Unit: "V"}}}}},
		"would not be text": {Kinds: []machine.PartKind{{Key: "supply", Label: supply.Label,
			Traits: []machine.TraitDef{supply.Traits[0], supply.Traits[1],
				{Name: "watts", Short: "watts", Kind: machine.Text}}}}},
		"\"metal, without touch\" is in use": {Kinds: []machine.PartKind{{Key: "probe", Label: probe.Label,
			Traits: []machine.TraitDef{probe.Traits[0],
				{Name: "senses", Short: "senses", Kind: machine.Choice,
					Choices: []string{"surface, by touch"}}, probe.Traits[2]}}}},
		"parts of kind supply. Add another position": {Slots: []machine.Position{{Key: "supply", Label: "Power supply",
			Group: "Electronics", Kind: "probe"}}},
		"is in the file twice": {Slots: []machine.Position{{Key: "x", Label: "X", Group: "G",
			Kind: "probe"}, {Key: "x", Label: "X", Group: "G", Kind: "probe"}}},
		"there is no kind of part \"ghost\"": {Slots: []machine.Position{{Key: "x", Label: "X", Group: "G", Kind: "ghost"}}},
	} {
		if p := catalogue.NewMergePlan(catalogue.Shipped(), file, use); !strings.Contains(
			strings.Join(p.Faults, "\n"),
			part,
		) {
			t.Errorf("want %q, got %v", part, p.Faults)
		}
	}
	// Superseding what is in use is the way.
	supply.Traits[2].Superseded = "volts"
	if p := catalogue.NewMergePlan(catalogue.Shipped(), machine.Catalogue{Kinds: []machine.PartKind{supply}}, use); len(
		p.Faults,
	) > 0 ||
		len(p.Changed) != 1 {
		t.Errorf("superseding: %v", p.Faults)
	}
}

func FuzzCatalogueFile(f *testing.F) {
	f.Add(shippedFile(f))
	f.Add(
		[]byte(`{"format": "wardifex-catalogue", "version": 1, "models": [{"kind": "probe", "name": "A", "basedOn": "A"}]}`),
	)
	f.Add([]byte(`{"format": "wardifex-catalogue", "version": 1, "slots": [{"key": "x", "superseded": "x"}]}`))
	f.Fuzz(func(t *testing.T, text []byte) {
		c, err := catalogue.ReadFile(text)
		if err != nil {
			return
		}
		p := catalogue.NewMergePlan(catalogue.Shipped(), c.Catalogue, machine.Usage{})
		p.MergeKits(catalogue.Kits(), c.Kits)
		if _, err := p.After.Vocabulary(); (err == nil) != (len(p.After.Faults()) == 0) {
			t.Errorf("faults %v, and the vocabulary says %v", p.After.Faults(), err)
		}
	})
}

// Kits come in beside the catalogue: judged by the catalogue as it will be, and
// looked through for circles; one that is here already just so is left alone.
func TestMergeKits(t *testing.T) {
	chamber := machine.Catalogue{
		Kinds: []machine.PartKind{
			{
				Key:   "chamber",
				Label: "Chamber",
				Traits: []machine.TraitDef{
					{Name: "model", Short: "model", Kind: machine.Text},
					{Name: "litres", Short: "volume", Kind: machine.Number},
				},
			},
		},
		Slots: []machine.Position{{Key: "chamber", Label: "Chamber", Group: "Mods", Kind: "chamber"}},
	}
	kit := func(key string, need fit.Requirement) fit.Kit {
		return fit.Kit{Key: key, Name: key, What: "enclosure", Needs: need}
	}
	roomy := fit.Requirement{
		Label: "roomy",
		Test:  &fit.Test{Slot: "chamber", Trait: "litres", Op: fit.AtLeast, Values: []string{"90"}, Least: machine.Observed},
	}
	needs := func(key string) fit.Requirement {
		return fit.Requirement{Label: "the other", Kit: &fit.KitRef{Key: key, Slot: "mod-1", Model: "x"}}
	}
	changed := catalogue.MustKit("bollard-springs")
	changed.Price++
	for name, tt := range map[string]struct {
		file  machine.Catalogue
		kits  []fit.Kit
		want  string // part of a fault; empty for none
		added int
		other int // changed
	}{
		"with the kind that it asks for": {chamber, []fit.Kit{kit("hood", roomy)}, "", 3, 0},
		"without that kind": {machine.Catalogue{}, []fit.Kit{kit("hood", roomy)},
			"no trait chamber.litres", 1, 0},
		"a shipped kit, as it is":         {machine.Catalogue{}, []fit.Kit{catalogue.MustKit("bollard-springs")}, "", 0, 0},
		"a shipped kit, at another price": {machine.Catalogue{}, []fit.Kit{changed}, "", 0, 1},
		"a circle": {machine.Catalogue{}, []fit.Kit{kit("a", needs("b")), kit("b", needs("a"))},
			"circle", 2, 0},
		"twice":          {machine.Catalogue{}, []fit.Kit{changed, changed}, "twice", 0, 1},
		"without a name": {machine.Catalogue{}, []fit.Kit{{Key: "n", What: "w", Needs: roomy}}, "needs a name", 1, 0},
		"a price that is none": {machine.Catalogue{}, []fit.Kit{{Key: "n", Name: "n", What: "w", Price: -1}},
			"a price lies between", 1, 0},
	} {
		p := catalogue.NewMergePlan(catalogue.Shipped(), tt.file, machine.Usage{})
		p.MergeKits(catalogue.Kits(), tt.kits)
		faults := strings.Join(p.Faults, "\n")
		if (tt.want == "") != (faults == "") || !strings.Contains(faults, tt.want) || len(p.Added) != tt.added ||
			len(p.Changed) != tt.other {
			t.Errorf("%s: added %v, changed %v, faults %q", name, p.Added, p.Changed, faults)
		}
	}
	// What a kit asks for is not taken out of the catalogue.
	p := catalogue.MergePlan{After: catalogue.Shipped()}
	p.After.Kinds = nil
	p.After.Slots, p.After.Models = nil, nil
	p.MergeKits(catalogue.Kits(), nil)
	if faults := strings.Join(p.Faults, "\n"); !strings.Contains(faults, "A kit asks for it, so it has to stay") {
		t.Errorf("an empty catalogue: %.200s", faults)
	}
}
