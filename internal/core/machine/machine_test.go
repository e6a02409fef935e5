package machine_test

import (
	"slices"
	"strings"
	"testing"
	"testing/quick"
	"time"

	"wardifex/internal/core/machine"
	"wardifex/internal/core/quantity"
)

func trait(kind machine.Kind, unit string, choices ...string) *machine.Trait {
	return &machine.Trait{
		Slot:     "s",
		Label:    "S: t",
		TraitDef: machine.TraitDef{Name: "t", Short: "t", Kind: kind, Unit: unit, Choices: choices},
	}
}

func TestParseValue(t *testing.T) {
	tests := []struct {
		trait *machine.Trait
		text  string
		want  string // canonical; "" when refused
		fault string // part of the sentence
	}{
		{trait(machine.Number, "KiB"), "512", "512", ""},
		{trait(machine.Number, "KiB"), "512 KB", "512", ""}, // boards' KB are binary: common practice
		{trait(machine.Number, "KiB"), "1 MB", "1024", ""},
		{trait(machine.Number, "mm"), "0,4 mm", "0.4", ""},
		{trait(machine.Number, "mm"), "−2.70", "-2.7", ""},
		{trait(machine.Number, "mm"), "1.8cm", "18", ""},
		{trait(machine.Number, "V"), "24V", "24", ""},
		{trait(machine.Number, "V"), "24 W", "", "recorded in V"},
		{trait(machine.Number, "V"), "1.234,5", "1234.5", ""},
		{trait(machine.Number, "steps/mm"), "1,200", "", "1.2 or 1200"},
		{trait(machine.Number, "V"), "twenty", "", "not a number"},
		{trait(machine.Number, "V"), "0x10", "", "recorded in V"},
		{trait(machine.Number, "V"), "1e400", "", "not a number"},
		{trait(machine.YesNo, ""), "Y", "yes", ""},
		{trait(machine.YesNo, ""), "absent", "no", ""},
		{trait(machine.YesNo, ""), "maybe", "", "neither yes nor no"},
		{trait(machine.Choice, "", "first source", "twin"), "First  Source", "first source", ""},
		{trait(machine.Choice, "", "first source", "twin"), "other", "", "not one of first source, twin"},
		{trait(machine.Text, ""), "  a  b ", "a b", ""},
		{trait(machine.Text, ""), "=SUM(A1)", "", "formula"},
		{trait(machine.Text, ""), "@cmd", "", "formula"},
		{trait(machine.Text, ""), "-2.70 mm", "-2.70 mm", ""},
		{trait(machine.Text, ""), "+cmd|calc", "", "formula"},
		{trait(machine.Text, ""), "a\x01b", "", "cannot be printed"},
		{trait(machine.Text, ""), strings.Repeat("x", 121), "", "at most 120"},
		{trait(machine.Text, ""), "   ", "", "no value given"},
	}
	for _, tt := range tests {
		v, err := tt.trait.Parse(tt.text)
		if v.Text != tt.want || (err == nil) != (tt.fault == "") || err != nil && !strings.Contains(err.Error(), tt.fault) {
			t.Errorf("%s %q: got %q, %v; want %q, fault with %q", tt.trait.Kind, tt.text, v.Text, err, tt.want, tt.fault)
		}
	}
	model := trait(machine.Text, "")
	model.Name = machine.ModelTrait
	for _, word := range []string{"None", "no", " EMPTY ", "Not  fitted"} {
		if v, err := model.Parse(word); err != nil || v.Text != machine.None {
			t.Errorf("a slot said to hold %q holds %q, %v", word, v.Text, err)
		}
	}
	named := trait(machine.Choice, "", "dual", "gantry")
	named.Labels = map[string]string{"dual": "Two carriages"}
	named.Aliases = map[string][]string{"gantry": {"bridge", "portal"}}
	for word, want := range map[string]string{"two carriages": "dual", "portal": "gantry", "Gantry": "gantry"} {
		if v, err := named.Parse(word); err != nil || v.Text != want {
			t.Errorf("%q is %q, %v; want %q", word, v.Text, err, want)
		}
	}
	bounded := trait(machine.Number, "V")
	bounded.Min, bounded.Max = 5, 60
	if _, err := bounded.Parse("230"); err == nil || !strings.Contains(err.Error(), "5 to 60 V") {
		t.Errorf("230 V of a 5 to 60 V trait: %v", err)
	}
}

// A measured voltage stands for the nominal one that it is near; two numbers that stand for none are the same only
// where they are equal.
func TestSame(t *testing.T) {
	plain, nominal, word := trait(machine.Number, "V"), trait(machine.Number, "V"), trait(machine.Text, "")
	nominal.Nominal = &machine.Nominal{Values: []float64{12, 24}, Within: 0.05}
	volts := func(n float64) machine.Value { return machine.Value{Text: quantity.Format(n), Number: n} }
	for _, tt := range []struct {
		trait *machine.Trait
		a, b  machine.Value
		want  bool
	}{
		{plain, volts(24), volts(24), true},
		{plain, volts(24), volts(24.1), false},
		{nominal, volts(24), volts(24.1), true},
		{nominal, volts(24), volts(25.2), true}, // 5 % over, the limit
		{nominal, volts(24), volts(25.3), false},
		{nominal, volts(24), volts(12.1), false},
		{plain, volts(0), machine.Value{}, false}, // unknown is not 0
		{word, machine.Value{Text: "Hush  9"}, machine.Value{Text: "hush 9"}, true},
		{word, machine.Value{Text: "Hush 9"}, machine.Value{Text: "Hush 8"}, false},
	} {
		if got := tt.trait.Same(tt.a, tt.b); got != tt.want || tt.trait.Same(tt.b, tt.a) != got {
			t.Errorf("%q and %q the same: %t, want %t", tt.a.Text, tt.b.Text, got, tt.want)
		}
	}
	for text, v := range map[string]machine.Value{"24 V": volts(24), "unknown": {}} {
		if got := plain.Show(v); got != text {
			t.Errorf("%+v is shown as %q, want %q", v, got, text)
		}
	}
}

// What a value is written as reads back as the same value.
func TestValueRoundTrip(t *testing.T) {
	number, text := trait(machine.Number, "mm"), trait(machine.Text, "")
	if err := quick.Check(func(n int32, d uint8) bool {
		v, err := number.Parse(quantity.Format(float64(n) + float64(d)/256))
		if err != nil {
			return false
		}
		again, err := number.Parse(v.Text)
		return err == nil && number.Same(v, again)
	}, nil); err != nil {
		t.Error(err)
	}
	if err := quick.Check(func(s string) bool {
		v, err := text.Parse(s)
		if err != nil {
			return true
		}
		again, err := text.Parse(v.Text)
		return err == nil && again == v
	}, nil); err != nil {
		t.Error(err)
	}
}

func FuzzParseValue(f *testing.F) {
	for _, s := range []string{"24 V", "=1", "−2,7", "1.2.3", "\u00a05", "+x"} {
		f.Add(s)
	}
	kinds := []*machine.Trait{
		trait(machine.Number, "mm"),
		trait(machine.YesNo, ""),
		trait(machine.Choice, "", "a", "b"),
		trait(machine.Text, ""),
	}
	f.Fuzz(func(t *testing.T, s string) {
		for _, tr := range kinds {
			v, err := tr.Parse(s)
			if err != nil {
				continue
			}
			if again, err := tr.Parse(v.Text); err != nil || !tr.Same(again, v) {
				t.Errorf("%s: %q → %q reads back as %q, %v", tr.Kind, s, v.Text, again.Text, err)
			}
			if machine.FormulaLike(v.Text) {
				t.Errorf("%s: %q → %q is a formula", tr.Kind, s, v.Text)
			}
		}
	})
}

func day(n int) time.Time { return time.Date(2026, 1, n, 0, 0, 0, 0, time.UTC) }

func reading(id int64, value string, g machine.Grade, d int) machine.Reading {
	return machine.Reading{ID: id, Key: "s.t", Value: machine.Value{Text: value}, Grade: g, TakenAt: day(d), By: "x"}
}

func TestStanding(t *testing.T) {
	aside := reading(9, "zzz", machine.Proven, 9)
	aside.Superseded = "taken back"
	tests := []struct {
		name         string
		readings     []machine.Reading
		value        string
		grade        machine.Grade
		stands       int64
		conflict     int
		contradicted int
	}{
		{"nothing recorded", nil, "", machine.Unknown, 0, 0, 0},
		{"one claim", []machine.Reading{reading(1, "a", machine.Claimed, 1)}, "a", machine.Claimed, 1, 0, 0},
		{
			"a stronger reading beats a newer weaker one",
			[]machine.Reading{reading(1, "a", machine.Observed, 1), reading(2, "b", machine.Marked, 2)},
			"a",
			machine.Observed,
			1,
			0,
			1,
		},
		{
			"a claim stays below what contradicts it",
			[]machine.Reading{reading(1, "a", machine.Claimed, 1), reading(2, "b", machine.Proven, 2)},
			"b",
			machine.Proven,
			2,
			0,
			1,
		},
		{
			"equal readings that agree: the newest stands",
			[]machine.Reading{reading(1, "a", machine.Observed, 1), reading(2, "A ", machine.Observed, 2)},
			"A ",
			machine.Observed,
			2,
			0,
			0,
		},
		{
			"equal readings that differ are a conflict, never averaged",
			[]machine.Reading{
				reading(1, "a", machine.Observed, 1),
				reading(2, "b", machine.Observed, 2),
				reading(3, "a", machine.Claimed, 3),
			},
			"",
			machine.Observed,
			0,
			2,
			0,
		},
		{
			"a stronger one ends the conflict",
			[]machine.Reading{
				reading(1, "a", machine.Observed, 1),
				reading(2, "b", machine.Observed, 2),
				reading(3, "b", machine.Proven, 3),
			},
			"b",
			machine.Proven,
			3,
			0,
			1,
		},
		{
			"set aside readings do not count",
			[]machine.Reading{reading(1, "a", machine.Observed, 1), aside},
			"a",
			machine.Observed,
			1,
			0,
			0,
		},
		{
			"same moment: the later entry",
			[]machine.Reading{reading(1, "a", machine.Observed, 1), reading(2, "a", machine.Observed, 1)},
			"a",
			machine.Observed,
			2,
			0,
			0,
		},
	}
	for _, tt := range tests {
		f := machine.Standing(trait(machine.Text, ""), tt.readings)
		var stands int64
		if f.Stands != nil {
			stands = f.Stands.ID
		}
		if f.Value.Text != tt.value || f.Grade != tt.grade || stands != tt.stands || len(f.Conflict) != tt.conflict ||
			len(f.Contradicted()) != tt.contradicted {
			t.Errorf(
				"%s: got %q %s, stands %d, %d in conflict, %d contradicted",
				tt.name,
				f.Value.Text,
				f.Grade,
				stands,
				len(f.Conflict),
				len(f.Contradicted()),
			)
		}
	}
}

// The order in which readings were entered does not matter to what stands.
func TestStandingIgnoresOrder(t *testing.T) {
	check := func(values []uint8, rotate uint8) bool {
		var rs []machine.Reading
		for i, v := range values {
			rs = append(rs, reading(int64(i+1), string('a'+rune(v%3)), machine.Grade(1+v/3%4), 1+int(v/16)))
		}
		a := machine.Standing(trait(machine.Text, ""), rs)
		if n := len(rs); n > 0 {
			k := int(rotate) % n
			rs = append(append([]machine.Reading(nil), rs[k:]...), rs[:k]...)
		}
		b := machine.Standing(trait(machine.Text, ""), rs)
		return a.Value == b.Value && a.Grade == b.Grade && len(a.Conflict) == len(b.Conflict)
	}
	if err := quick.Check(check, nil); err != nil {
		t.Error(err)
	}
}

func kind(key string, traits ...machine.TraitDef) machine.PartKind {
	return machine.PartKind{
		Key:    key,
		Label:  key,
		Traits: append([]machine.TraitDef{{Name: "model", Short: "model", Kind: machine.Text}}, traits...),
	}
}

var flashDef = machine.TraitDef{Name: "flash", Short: "flash", Kind: machine.Number, Unit: "KiB"}

// small is a catalogue of two slots, with two board models of which the second
// shares what the first is.
func small() machine.Catalogue {
	return machine.Catalogue{Kinds: []machine.PartKind{kind("board", flashDef), kind("probe")},
		Slots: []machine.Position{
			{Key: "board", Label: "Board", Kind: "board"},
			{Key: "probe", Label: "Probe", Kind: "probe"},
		},
		Models: []machine.Model{
			{
				Kind:     "board",
				Name:     "Brace 4",
				Defaults: map[string]string{"flash": "256 KB"},
				Ports:    []machine.Port{{Name: "fan", Ways: 2, Amps: 3}},
			},
			{Kind: "board", Name: "Brace 4b", BasedOn: "Brace 4"},
		}}
}

func vocabulary(t *testing.T, c machine.Catalogue) *machine.Vocabulary {
	t.Helper()
	v, err := c.Vocabulary()
	if err != nil {
		t.Fatal(err)
	}
	return v
}

func TestSnapshot(t *testing.T) {
	voc := vocabulary(t, small())
	flash := machine.Value{Text: "256", Number: 256}
	for _, model := range []string{"brace  4", "Brace 4B"} {
		rs := []machine.Reading{
			{ID: 1, Key: "board.model", Value: machine.Value{Text: model}, Grade: machine.Observed, TakenAt: day(1)},
		}
		if f := machine.NewSnapshot(voc, machine.Record{Readings: rs}).Fact("board.flash"); f.Value != flash ||
			f.Grade != machine.Claimed ||
			f.FromModel != model {
			t.Errorf("a model's default, its own or shared, counts as claimed: got %+v", f)
		}
	}
	if m, _ := voc.Model("board", "BRACE 4B"); len(voc.PortsOf("board", m.Name)) != 1 {
		t.Error("a model shares the ports of the one it is based on")
	}
	rs := []machine.Reading{
		{ID: 1, Key: "board.model", Value: machine.Value{Text: "brace  4"}, Grade: machine.Observed, TakenAt: day(1)},
	}
	s := machine.NewSnapshot(voc, machine.Record{Readings: rs})
	read := machine.Value{Text: "512", Number: 512}
	s2 := machine.NewSnapshot(
		voc,
		machine.Record{
			Readings: append(rs, machine.Reading{ID: 2, Key: "board.flash", Value: read, Grade: machine.Observed,
				TakenAt: day(2)}),
		},
	)
	if f := s2.Fact("board.flash"); f.Value != read || f.FromModel != "" {
		t.Errorf("a reading beats the default: got %+v", f)
	}
	other := machine.NewOverlay(voc)
	other.Fit("board", map[string]machine.Value{"model": {Text: "Sill"}}, machine.Observed)
	after := s2.Over(other)
	if after.Fact("board.flash").Known() || after.Model("board") != "Sill" || s2.Model("board") != "brace  4" {
		t.Error("a new part starts without the old one's readings, and the old snapshot stays")
	}
	if s.Fitted("probe") || s.Model("probe") != "" {
		t.Error("a slot of which nothing is known is neither fitted nor empty")
	}
}

// Of a conflict one reading is chosen: those that say something else are set aside, those that say the same stay.
func TestSettle(t *testing.T) {
	voc := vocabulary(t, small())
	flash, _ := voc.Trait("board.flash")
	f := machine.Standing(flash, []machine.Reading{boardReading(1, "flash", "256", machine.Observed, 1),
		boardReading(2, "flash", "512", machine.Observed, 1), boardReading(3, "flash", "256 KB", machine.Observed, 2)})
	for chosen, want := range map[int64][]int64{1: {2}, 2: {1, 3}, 3: {2}} {
		aside, ok := f.Settle(chosen)
		if slices.Sort(aside); !ok || !slices.Equal(aside, want) {
			t.Errorf("%d chosen: %v is set aside, %t; want %v", chosen, aside, ok, want)
		}
	}
	if aside, ok := f.Settle(9); ok || len(aside) > 0 {
		t.Errorf("one that is no part of it: %v, %t", aside, ok)
	}
}

// A trait of another vocabulary, as of an edited catalogue, is found by its key; one that is no more is not known.
func TestTraitsOfAnotherVocabulary(t *testing.T) {
	less := small()
	less.Kinds = []machine.PartKind{kind("probe", flashDef), kind("board", flashDef)}
	less.Slots = []machine.Position{less.Slots[1], less.Slots[0]} // probe first: all has another index
	old, edited := vocabulary(t, small()), vocabulary(t, less)
	s := machine.NewSnapshot(old, machine.Record{Readings: []machine.Reading{
		{ID: 1, Key: "board.flash", Value: machine.Value{Text: "256", Number: 256}, Grade: machine.Observed, TakenAt: day(1)},
		{ID: 2, Key: "probe.model", Value: machine.Value{Text: "Sounder"}, Grade: machine.Observed, TakenAt: day(1)},
		{ID: 3, Key: "probe.model", Value: machine.Value{Text: "Plumb"}, Grade: machine.Observed, TakenAt: day(1)},
	}})
	for _, tr := range edited.Traits {
		if got, want := s.At(tr), s.Fact(tr.Key()); got.Value != want.Value || got.Grade != want.Grade {
			t.Errorf("%s: %+v, want %+v", tr.Key(), got, want)
		}
	}
	if f := s.Fact("board.flash"); f.Value.Number != 256 {
		t.Errorf("%+v", f)
	}
	if gone, _ := edited.Trait("probe.flash"); s.At(gone).Known() || s.At(nil).Known() {
		t.Error("what the machine's vocabulary does not have is known")
	}
	if c := s.Conflicts(); len(c) != 1 || c[0].Trait.Key() != "probe.model" || len(c[0].Conflict) != 2 {
		t.Errorf("conflicts: %+v", c)
	}
}

func TestNamed(t *testing.T) {
	voc := vocabulary(
		t,
		machine.Catalogue{Slots: []machine.Position{{Key: "s", Label: "S", Kind: "k"}}, Kinds: []machine.PartKind{kind(
			"k",
			machine.TraitDef{
				Name:  "holes",
				Short: "holes",
				Kind:  machine.YesNo,
			},
			machine.TraitDef{Name: "family", Short: "family", Kind: machine.Text},
			machine.TraitDef{Name: "volts", Short: "volts", Kind: machine.Number, Unit: "V"},
		)}},
	)
	for _, tt := range []struct {
		values map[string]string
		want   string
		grade  machine.Grade
	}{
		{nil, "", machine.Unknown},
		{map[string]string{"holes": "no"}, "", machine.Unknown},
		{map[string]string{"holes": "no", "volts": "24"}, "24 V", machine.Observed},
		{map[string]string{"family": "compiled", "volts": "24"}, "compiled, 24 V", machine.Observed},
		{map[string]string{"model": "Lode", "family": "compiled"}, "Lode", machine.Observed},
	} {
		var rs []machine.Reading
		for trait, text := range tt.values {
			tr, _ := voc.Trait(machine.KeyOf("s", trait))
			v, err := tr.Parse(text)
			if err != nil {
				t.Fatal(err)
			}
			rs = append(rs, machine.Reading{ID: 1, Key: tr.Key(), Value: v, Grade: machine.Observed, TakenAt: day(1)})
		}
		if name, f := machine.NewSnapshot(voc, machine.Record{Readings: rs}).Named("s"); name != tt.want ||
			f.Grade != tt.grade {
			t.Errorf("%v is named %q (%s), want %q", tt.values, name, f.Grade, tt.want)
		}
	}
}

func TestCheckReading(t *testing.T) {
	letter := trait(machine.Text, "")
	letter.Hint = "its maker says it means nothing"
	for _, tt := range []struct {
		trait *machine.Trait
		grade machine.Grade
		on    int
		fault string
	}{
		{trait(machine.Text, ""), machine.Observed, 4, ""},
		{trait(machine.Text, ""), machine.Observed, 5, "still to come"},
		{trait(machine.Text, ""), machine.Unknown, 1, "how good the evidence is"},
		{letter, machine.Marked, 1, ""},
		{letter, machine.Observed, 1, "hint"},
	} {
		err := machine.CheckReading(tt.trait, reading(1, "a", tt.grade, tt.on), day(4))
		if (err == nil) != (tt.fault == "") || err != nil && !strings.Contains(err.Error(), tt.fault) {
			t.Errorf("%s on day %d: %v, want %q", tt.grade, tt.on, err, tt.fault)
		}
	}
}

func TestCatalogueFaults(t *testing.T) {
	if f := small().Faults(); f != nil {
		t.Fatalf("a good catalogue has faults: %v", f)
	}
	for want, spoil := range map[string]func(c *machine.Catalogue){
		"no kind of part \"ghost\"":               func(c *machine.Catalogue) { c.Slots[0].Kind = "ghost" },
		"usual position \"board\" is there twice": func(c *machine.Catalogue) { c.Slots = append(c.Slots, c.Slots[0]) },
		"a choice without choices": func(c *machine.Catalogue) {
			c.Kinds[0].Traits[1] = machine.TraitDef{Name: "x", Short: "x", Kind: machine.Choice}
		},
		"lacks its model trait": func(c *machine.Catalogue) { c.Kinds[1].Traits = nil },
		"no inspection \"?\"": func(c *machine.Catalogue) {
			c.Kinds[1].Traits[0].FindBy = []machine.Way{{Inspection: "?", Grade: machine.Observed}}
		},
		"\"furlong\" is no unit":  func(c *machine.Catalogue) { c.Kinds[0].Traits[1].Unit = "furlong" },
		"no kind of value":        func(c *machine.Catalogue) { c.Kinds[0].Traits[1].Kind = "colour" },
		"a key has small letters": func(c *machine.Catalogue) { c.Slots[0].Key = "Board.1" },
		"refers to itself": func(c *machine.Catalogue) {
			c.Slots[0].Superseded, c.Slots[1].Superseded = "probe",
				"board"
		},
		"based on itself":      func(c *machine.Catalogue) { c.Models[0].BasedOn = "Brace 4b" },
		"no model \"Brace 9\"": func(c *machine.Catalogue) { c.Models[1].BasedOn = "Brace 9" },
		"has no trait \"ram\"": func(c *machine.Catalogue) { c.Models[1].Defaults = map[string]string{"ram": "1"} },
		"recorded in KiB":      func(c *machine.Catalogue) { c.Models[1].Defaults = map[string]string{"flash": "1 V"} },
		"is there twice":       func(c *machine.Catalogue) { c.Models[1].Name = "BRACE 4" },
		"1 to 64 pins":         func(c *machine.Catalogue) { c.Models[0].Ports[0].Ways = 0 },
		"which is not there":   func(c *machine.Catalogue) { c.Kinds[0].Superseded = "plank" },
		"inspection \"base\" refers to itself": func(c *machine.Catalogue) {
			c.Inspections = []machine.Inspection{{Key: "cover", Title: "Cover", Within: "base"},
				{Key: "base", Title: "Base", Within: "cover"}}
		},
		"number stands for one within 0 to 0.2": func(c *machine.Catalogue) {
			c.Kinds[0].Traits[1].Nominal = &machine.Nominal{Values: []float64{256}, Within: 0.21}
		},
		"nominal values are numbers above 0": func(c *machine.Catalogue) {
			c.Kinds[0].Traits[0].Nominal = &machine.Nominal{Values: []float64{256}, Within: 0.2} // of a word
		},
	} {
		c := small()
		spoil(&c)
		if _, err := c.Vocabulary(); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("want a fault with %q, got %v", want, err)
		}
	}
}
