package machine_test

import (
	"strings"
	"testing"

	"wardifex/internal/core/machine"
)

// What is in use is superseded, not deleted, and not turned into what its
// readings do not say; what is not in use may go.
func TestCheckChange(t *testing.T) {
	flash := machine.TraitDef{Name: "flash", Short: "flash", Kind: machine.Number, Unit: "KiB"}
	maker := machine.TraitDef{Name: "maker", Short: "maker", Kind: machine.Choice, Choices: []string{"first", "twin"}}
	before := machine.Catalogue{
		Kinds: []machine.PartKind{kind("board", flash, maker), kind("kettle")},
		Slots: []machine.Position{
			{Key: "board", Label: "Board", Kind: "board"},
			{Key: "spare", Label: "Spare", Kind: "board"},
		},
	}
	use := machine.Usage{
		Slots: map[string]int{"board": 3}, Parts: map[string]int{"board": 3},
		Values: map[string]map[string]map[string]int{"board": {"flash": {"512": 2, "256": 1}, "maker": {"twin": 2}}},
	}
	withTraits := func(traits ...machine.TraitDef) machine.Catalogue {
		return machine.Catalogue{Kinds: []machine.PartKind{kind("board", traits...), kind("kettle")}, Slots: before.Slots}
	}
	but := func(t machine.TraitDef, change func(*machine.TraitDef)) machine.TraitDef { change(&t); return t }
	for name, tt := range map[string]struct {
		after machine.Catalogue
		says  []string
	}{
		"nothing":             {before, nil},
		"an unused slot goes": {machine.Catalogue{Kinds: before.Kinds, Slots: before.Slots[:1]}, nil},
		"a used slot goes": {machine.Catalogue{Kinds: before.Kinds, Slots: before.Slots[1:]},
			[]string{"usual position Board is in use: 3 parts"}},
		"a used slot holds another": {machine.Catalogue{Kinds: before.Kinds,
			Slots: []machine.Position{{Key: "board", Label: "Board",
				Kind: "kettle"}}}, []string{"Add another position for parts of kind kettle"}},
		"an unused kind goes": {machine.Catalogue{Kinds: before.Kinds[:1], Slots: before.Slots}, nil},
		"a used kind goes": {machine.Catalogue{Kinds: before.Kinds[1:], Slots: before.Slots},
			[]string{"there are 3 parts of it"}},
		"a used trait goes": {withTraits(maker), []string{"flash is in use: there are 3 readings of " +
			"it. Supersede"}},
		"a used trait is superseded": {withTraits(but(flash,
			func(t *machine.TraitDef) { t.Superseded = "maker" }), maker), nil},
		"numbers become words": {withTraits(but(flash, func(t *machine.TraitDef) { t.Kind = machine.Text }),
			maker), []string{"its 3 readings would not be text"}},
		"another unit": {withTraits(but(flash, func(t *machine.TraitDef) { t.Unit = "" }), maker),
			[]string{"recorded in KiB", "wrong in plain numbers"}},
		"a used choice goes": {withTraits(flash,
			but(maker, func(t *machine.TraitDef) { t.Choices = []string{"first"} })),
			[]string{`"twin" is in use in 2 readings`}},
		"an unused choice goes": {withTraits(flash,
			but(maker, func(t *machine.TraitDef) { t.Choices = []string{"twin", "third"} })), nil},
		"two things at once, both are said": {withTraits(), []string{"flash is in use", "maker is in use"}},
	} {
		got := strings.Join(machine.CheckChange(before, tt.after, use), "\n")
		if (got == "") != (tt.says == nil) {
			t.Errorf("%s: %q", name, got)
		}
		for _, want := range tt.says {
			if !strings.Contains(got, want) {
				t.Errorf("%s: %q lacks %q", name, got, want)
			}
		}
	}
	if got := machine.CheckChange(before, machine.Catalogue{}, machine.Usage{}); got != nil {
		t.Errorf("of a record that uses nothing: %q", got)
	}
}

// No text leaves as a cell that a spreadsheet would run; every other text leaves
// as it is.
func TestCell(t *testing.T) {
	for text, want := range map[string]string{
		"Avocet": "Avocet", "": "", "-1.85": "-1.85", "+5": "+5", "−1.85 mm": "−1.85 mm", "'quoted'": "'quoted'",
		"=1+1": "'=1+1", "@SUM(A1)": "'@SUM(A1)", "\tx": "'\tx", "\rx": "'\rx", "-2+3": "'-2+3", "+cmd|x": "'+cmd|x",
	} {
		if got := machine.Cell(text); got != want {
			t.Errorf("%q: %q, want %q", text, got, want)
		}
	}
}

func TestWords(t *testing.T) {
	for name, tt := range map[string]struct {
		trait *machine.Trait
		want  string
	}{
		"yes or no": {trait(machine.YesNo, ""), "yes,no"},
		"a choice":  {trait(machine.Choice, "", "a", "b"), "a,b"},
		"a number":  {trait(machine.Number, "mm"), ""},
		"text":      {trait(machine.Text, ""), ""},
	} {
		words := tt.trait.Words()
		if got := strings.Join(words, ","); got != tt.want {
			t.Errorf("%s: %s", name, got)
		}
		for _, w := range words {
			if _, err := tt.trait.Parse(w); err != nil {
				t.Errorf("%s: %q is no value: %v", name, w, err)
			}
		}
	}
}

// Grades are written in files and over the API by their words, and nothing else
// is a grade.
func TestGradesAsText(t *testing.T) {
	for _, g := range append(machine.Grades(), machine.Unknown) {
		text, err := g.MarshalText()
		if err != nil {
			t.Fatal(err)
		}
		var back machine.Grade
		if err := back.UnmarshalText(text); err != nil || back != g {
			t.Errorf("%s: back as %v, %v", text, back, err)
		}
	}
	var g machine.Grade
	for _, bad := range []string{"sure", "5", "Read it"} {
		if err := g.UnmarshalText([]byte(bad)); err == nil {
			t.Errorf("%q is taken for %v", bad, g)
		}
	}
}

// Assuming a value changes that one fact of a copy, at the grade given.
func TestWithValue(t *testing.T) {
	voc := vocabulary(t, small())
	s := machine.NewSnapshot(voc, machine.Record{Readings: nil})
	for _, tr := range voc.Traits {
		v, err := tr.Parse(
			map[machine.Kind]string{machine.Number: "12", machine.YesNo: "yes", machine.Text: "word",
				machine.Choice: first(tr)}[tr.Kind],
		)
		if err != nil {
			t.Fatal(err)
		}
		then := s.WithValue(tr.Key(), v, machine.Proven)
		if f := then.Fact(tr.Key()); f.Grade != machine.Proven || !tr.Same(f.Value, v) {
			t.Errorf("%s: %+v", tr.Key(), f)
		}
		if s.At(tr).Known() {
			t.Errorf("%s: the machine itself was changed", tr.Key())
		}
		if n := machine.Alike(then, then); n != 1 {
			t.Errorf("%s: %d facts of it are known, want 1", tr.Key(), n)
		}
		if n := machine.Alike(s, then); n != 0 {
			t.Errorf("%s: what is unknown on one side is alike %d times", tr.Key(), n)
		}
	}
	if got := s.WithValue("ghost.trait", machine.Value{Text: "x"}, machine.Observed); len(machine.Diff(s, got)) != 0 {
		t.Error("a trait that there is not was assumed")
	}
}

func first(t *machine.Trait) string {
	if len(t.Choices) == 0 {
		return ""
	}
	return t.Choices[0]
}
