package machine_test

import (
	"fmt"
	"strings"
	"testing"

	"wardifex/internal/core/machine"
)

// longKind is a key as long as may be.
const longKind = "a-kind-of-part-with-a-rather-longish-key"

// printer is a small machine with kinds of each sort: one per machine, one per place,
// any number; one that is like another.
func printer(t *testing.T, besides ...machine.Position) (*machine.Vocabulary, []machine.Position) {
	t.Helper()
	model := machine.TraitDef{Name: machine.ModelTrait, Short: "model", Kind: machine.Text}
	kind := func(key, like, onePer string) machine.PartKind {
		return machine.PartKind{
			Key:    key,
			Label:  strings.ToUpper(key[:1]) + key[1:],
			Like:   like,
			OnePer: onePer,
			Traits: []machine.TraitDef{model},
		}
	}
	c := machine.Catalogue{
		Kinds: []machine.PartKind{
			kind("board", "", "machine"),
			kind("heater", "", ""),
			kind("drive", "", "place"),
			{Key: "stove", Label: "Stove", Like: "heater"},
			{Key: longKind, Label: "Long", Like: "heater"},
			{
				Key:    "structure",
				Label:  "Structure",
				OnePer: "machine",
				Traits: []machine.TraitDef{model, {Name: "complete", Short: "list checked", Kind: machine.YesNo},
					{
						Name:    "heads",
						Short:   "heads",
						Kind:    machine.Choice,
						Choices: []string{machine.HeadsTogether, machine.HeadsChanged, machine.HeadsByHand},
					}, {Name: "mounted", Short: "head mounted", Kind: machine.Number, Max: 50}},
			},
		},
		Slots: []machine.Position{
			{Key: "structure", Label: "Structure", Kind: "structure"},
			{Key: "board", Label: "Board", Kind: "board", Serves: machine.Electronics},
			{
				Key:    "heater",
				Label:  "Heater",
				Kind:   "heater",
				Serves: machine.Head(1),
			},
			{Key: "drive-z", Label: "Drive Z", Kind: "drive", Serves: machine.Axis("z")},
		},
	}
	voc, err := c.Vocabulary(besides...)
	if err != nil {
		t.Fatal(err)
	}
	return voc, append(c.Slots, besides...)
}

func keyFor(kind string, serves machine.Place, n int) string {
	return strings.ReplaceAll(fmt.Sprintf("%s-%s-%d", kind, serves.Kind(), n+100*serves.Head()), " ", "-")
}

func TestParsePlace(t *testing.T) {
	for text, want := range map[string]machine.Place{"Axis Z": machine.Axis("z"), "head 50": machine.Head(50),
		" BED ": machine.Bed, "": machine.NoPlace} {
		if p, err := machine.ParsePlace(text); err != nil || p != want {
			t.Errorf("%q is %q: %v", text, p, err)
		}
	}
	for _, text := range []string{"head 0", "head 51", "head 02", "axis q", "attic", "head", "axis",
		strings.Repeat("bed", 999)} {
		if p, err := machine.ParsePlace(text); err == nil || !strings.Contains(err.Error(), "head 1 to head 50") ||
			len(err.Error()) > 300 {
			t.Errorf("%q is taken as %q: %v", text, p, err)
		}
	}
}

// A key that other machines have for the same kind at another place is not taken: the new position gets its own.
func TestKeyOfAnotherPlace(t *testing.T) {
	for name, tt := range map[string]struct {
		there machine.Position
		key   string
	}{
		"of the same place": {machine.Position{Kind: "heater", Serves: machine.Head(2)}, "heater-head-201"},
		"of another place":  {machine.Position{Kind: "heater", Serves: machine.Bed}, "heater-head-201-x2"},
		"of another number": {machine.Position{Kind: "heater", Serves: machine.Head(2), N: 2}, "heater-head-201-x2"},
		"of another kind":   {machine.Position{Kind: "stove", Serves: machine.Head(2)}, "heater-head-201-x2"},
	} {
		_, usual := printer(t)
		tt.there.Key, tt.there.Label = "heater-head-201", "Second"
		voc, _ := printer(t, tt.there)
		p, err := voc.Structure(usual).NewPosition(machine.Position{Kind: "heater", Serves: machine.Head(2)}, keyFor)
		if err != nil || p.Key != tt.key {
			t.Errorf("%s: %+v, %v; want %s", name, p, err, tt.key)
		}
		if name == "of the same place" && p.Label != "Second" {
			t.Errorf("it is called %q, and %q on other machines", p.Label, "Second")
		}
	}
}

// What is added gets the next number that is free, a key that nothing has, and a name
// that tells where it is; what cannot be is refused in a sentence.
func TestNewPosition(t *testing.T) {
	voc, list := printer(t)
	var added []machine.Position
	for _, tt := range []struct {
		add         machine.Position
		key, label  string
		otherwise   string
		thenListed  bool
		ordinalWant int
	}{
		{add: machine.Position{Kind: "heater", Serves: machine.Head(1)}, key: "heater-head-102",
			label: "Heater, head 1, no. 2", ordinalWant: 2, thenListed: true},
		{add: machine.Position{Kind: "heater", Serves: machine.Head(1)}, key: "heater-head-103",
			label: "Heater, head 1, no. 3", ordinalWant: 3, thenListed: true},
		{add: machine.Position{Kind: "heater", Serves: machine.Head(2)}, key: "heater-head-201", label: "Heater, head 2",
			ordinalWant: 1, thenListed: true},
		{add: machine.Position{Kind: "stove", Serves: machine.Enclosure, Label: "The stove"}, key: "stove-enclosure-1",
			label: "The stove", ordinalWant: 1, thenListed: true},
		{add: machine.Position{Kind: longKind, Serves: machine.Bed}, key: "a-kind-of-part-with-a-rather-longis",
			label: "Long, bed", ordinalWant: 1, thenListed: true},
		{add: machine.Position{Kind: longKind, Serves: machine.Bed}, key: "a-kind-of-part-with-a-rather-longis-x2",
			label: "Long, bed, no. 2", ordinalWant: 2, thenListed: true},
		{add: machine.Position{Kind: "drive", Serves: machine.Axis("u")}, key: "drive-axis-1", label: "Drive U",
			ordinalWant: 1},
		{add: machine.Position{Kind: "heater", Serves: machine.Head(1), N: 2}, otherwise: "is number 2 of its kind at " +
			"head 1 already"},
		{add: machine.Position{Kind: "heater", Serves: machine.Head(1), N: 51}, otherwise: "1 to 50 are kept"},
		{add: machine.Position{Kind: "heater", Serves: machine.Head(1), N: -1}, otherwise: "1 to 50 are kept"},
		{add: machine.Position{Kind: "heater", Serves: "head 51"}, otherwise: "no place of a machine"},
		{add: machine.Position{Kind: "heater"}, otherwise: "say what the heater serves"},
		{add: machine.Position{Kind: "drive", Serves: machine.Axis("z")}, otherwise: "there is one drive for axis Z, " +
			"and it is listed: Drive Z"},
		{add: machine.Position{Kind: "board", Serves: machine.Electronics}, otherwise: "a machine has one board, and " +
			"this one has it: Board"},
		{add: machine.Position{Kind: "ghost", Serves: machine.Bed}, otherwise: "there is no kind of part"},
	} {
		p, err := voc.Structure(list).NewPosition(tt.add, keyFor)
		if tt.otherwise != "" {
			if err == nil || !strings.Contains(err.Error(), tt.otherwise) {
				t.Errorf("%+v: %v, want %q", tt.add, err, tt.otherwise)
			}
			continue
		}
		if err != nil || p.Key != tt.key || p.Label != tt.label || p.Ordinal() != tt.ordinalWant {
			t.Errorf("%+v: %+v, %v", tt.add, p, err)
		}
		if tt.thenListed {
			added = append(added, p)
			voc, list = printer(t, added...)
		}
	}
}

// As many positions as a machine may have, and not one more.
func TestTooManyPositions(t *testing.T) {
	_, list := printer(t)
	var more []machine.Position
	for h := 1; len(list)+len(more) < machine.MostPositions; h = h%machine.MostHeads + 1 {
		more = append(
			more,
			machine.Position{
				Key:    fmt.Sprint("x", len(more)),
				Label:  "x",
				Kind:   "heater",
				Serves: machine.Head(h),
				N:      2 + len(more)/machine.MostHeads,
			},
		)
	}
	voc, list := printer(t, more...)
	s := voc.Structure(list)
	if len(s.Heads()) != machine.MostHeads {
		t.Errorf("%d heads", len(s.Heads()))
	}
	if _, err := s.NewPosition(machine.Position{Kind: "stove", Serves: machine.Enclosure}, keyFor); err == nil ||
		!strings.Contains(err.Error(), "more are not kept") {
		t.Errorf("one more: %v", err)
	}
}

// A position is moved and linked; what cannot be, and circles, are refused.
func TestChangedPosition(t *testing.T) {
	second := machine.Position{Key: "heater-2", Label: "Heater 2", Kind: "heater", Serves: machine.Head(2)}
	voc, list := printer(t, second)
	link := func(to string, g machine.Grade) *machine.Link { return &machine.Link{To: to, Grade: g} }
	for _, tt := range []struct {
		change    func(p *machine.Position)
		otherwise string
	}{
		{func(p *machine.Position) { p.Serves = machine.Bed }, ""},
		{func(p *machine.Position) { p.Serves = machine.NoPlace }, "say what Heater 2 serves; it is at head 2 now"},
		{func(p *machine.Position) { p.FedBy = link("board", machine.Observed) }, ""},
		{func(p *machine.Position) { p.Serves = machine.Head(1) }, "number 1 of its kind at head 1 already"},
		{func(p *machine.Position) { p.FedBy = link("heater-2", machine.Observed) }, "break the circle"},
		{func(p *machine.Position) { p.RidesOn = link("moon", machine.Observed) }, "no such position"},
		{func(p *machine.Position) { p.FedBy = link("board", machine.Unknown) }, "how good the evidence is"},
		{func(p *machine.Position) { p.Label = "two\nlines" }, "name of the position"},
		{func(p *machine.Position) { p.Key = "moon" }, "no position"},
	} {
		p := second
		tt.change(&p)
		_, err := voc.Structure(list).Changed(p, keyFor)
		if (err == nil) != (tt.otherwise == "") || err != nil && !strings.Contains(err.Error(), tt.otherwise) {
			t.Errorf("%+v: %v, want %q", p, err, tt.otherwise)
		}
	}
	// Placed otherwise, it is another to the fleet, with a name that tells where it is.
	p := second
	p.Serves = machine.Bed
	if p, err := voc.Structure(list).Changed(p, keyFor); err != nil || p.Key != "heater-bed-1" ||
		p.Label != "Heater, bed" {
		t.Errorf("at the bed it is %+v, %v", p, err)
	}
	// The board cannot hang on what hangs on it.
	list[len(list)-1].FedBy = link("board", machine.Observed)
	board := list[1]
	board.FedBy = link("heater-2", machine.Observed)
	if _, err := voc.Structure(list).Changed(board, keyFor); err == nil || !strings.Contains(err.Error(), "circle") {
		t.Errorf("a circle of two: %v", err)
	}
}

// Models based on one another, as long a chain as may be, take no recursion and no
// time to speak of; a longer one is refused.
func TestChainOfModels(t *testing.T) {
	for n, fine := range map[int]bool{machine.MostBased: true, machine.MostBased + 1: true, machine.MostBased + 2: false} {
		c := small()
		c.Models = nil
		for i := range n {
			m := machine.Model{Kind: c.Kinds[0].Key, Name: fmt.Sprint("Brace ", i), Defaults: map[string]string{}}
			if i > 0 {
				m.BasedOn = fmt.Sprint("Brace ", i-1)
			} else {
				m.Defaults["flash"] = "512"
			}
			c.Models = append(c.Models, m)
		}
		voc, err := c.Vocabulary()
		if (err == nil) != fine || err != nil && !strings.Contains(err.Error(), "base it on one nearer") {
			t.Errorf("%d models: %v", n, err)
		}
		if err == nil && voc.DefaultsOf(c.Kinds[0].Key, fmt.Sprint("Brace ", n-1))["flash"].Text != "512" {
			t.Errorf("%d models: the last does not inherit", n)
		}
	}
}
