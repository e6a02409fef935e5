package settings_test

import (
	"fmt"
	"math"
	"strings"
	"testing"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/dialect"
	"wardifex/internal/core/settings"
)

// lineOf is a word with a value, as its family writes it; others are the numbers of its list and of its
// calibration that stand beside it.
func lineOf(w settings.Word, value string) string {
	section := strings.NewReplacer("{n}", "", "{axis}", "x", "* ", "driver ").Replace(w.Section)
	items := ""
	for range w.Item - 1 {
		items += "1, "
	}
	switch {
	case w.Form == dialect.Sections:
		return fmt.Sprintf("[%s]\nmicrosteps: 16\ngear_ratio: 3:1\n%s: %s\n", section, w.Word, value)
	case w.Form == dialect.GCode:
		return fmt.Sprintf("%s %s%s\n", w.Word, w.Letter, value)
	case w.Item > 0:
		return fmt.Sprintf("#define %s { %s%s, 1, 1 }\n", w.Word, items, value)
	}
	return fmt.Sprintf("#define %s %s\n", w.Word, value)
}

// Every word that ships is one that a shop could have saved; read, written with another value and read
// again, each gives that value, whatever its unit, its sign and its gears.
func TestEveryWordIsReadAndWritten(t *testing.T) {
	voc := catalogue.Vocabulary()
	for _, w := range settings.Shipped().List() {
		name := strings.ReplaceAll(w.ID(), "\x00", " ")
		if err := w.Check(voc); err != nil {
			t.Errorf("%s: %v", name, err)
		}
		if len(w.Values) > 0 {
			checkChoices(t, name, w)
			continue
		}
		text := lineOf(w, "200")
		c, isCalibration := calibration.Of(w.Calibration)
		for p := range c.Parts { // the other numbers that its value is made of
			for _, o := range settings.Shipped().List() {
				if o.Calibration == w.Calibration && o.Family == w.Family && o.Form == w.Form && o.Part == p+1 &&
					o.Part != w.Part &&
					o.Of == w.Of && o.Word != w.Word {
					text += lineOf(o, "7")
				}
			}
		}
		if w.Form == dialect.GCode && len(c.Parts) > 1 {
			text = fmt.Sprintf("%s P200 I200 D200 X200 Y200\n", w.Word)
		}
		stated, err := settings.Shipped().ReadAs(w.Family, w.Form, text)
		if err != nil {
			t.Errorf("%s: %v", name, err)
			continue
		}
		if !isCalibration {
			if len(stated.Traits) == 0 {
				t.Errorf("%s: nothing is read in %q", name, text)
				continue
			}
			edits, err := stated.SetTrait(stated.Traits[0], 32, "")
			again := rewritten(t, stated, edits, err)
			if again.Traits[0].Value != 32 {
				t.Errorf("%s: 32 is read back as %g", name, again.Traits[0].Value)
			}
			continue
		}
		at := -1
		for i, st := range stated.Calibrations {
			if st.Kind == w.Calibration {
				at = i
			}
		}
		if at < 0 {
			t.Errorf("%s: nothing is read in %q", name, text)
			continue
		}
		value := "1.25"
		if len(c.Parts) > 0 {
			value = ""
			for _, p := range c.Parts {
				value += p.Name + " 1.25 "
			}
		}
		edits, err := stated.Set(stated.Calibrations[at], value)
		again := rewritten(t, stated, edits, err)
		for _, n := range c.Numbers(again.Calibrations[at].Subject, again.Calibrations[at].Value) {
			if math.Abs(n-1.25) > 0.002 {
				t.Errorf("%s: 1.25 is read back as %s of %q", name, again.Calibrations[at].Value, again.Document.Text)
			}
		}
	}
}

// rewritten is what a document states after edits.
func rewritten(t *testing.T, s *settings.Stated, edits []dialect.Edit, err error) *settings.Stated {
	t.Helper()
	if err != nil {
		t.Fatal(err)
	}
	text, err := dialect.Apply(s.Document.Text, edits)
	if err != nil {
		t.Fatal(err)
	}
	again, err := settings.Shipped().ReadAs(s.Family, s.Document.Form, text)
	if err != nil {
		t.Fatal(err)
	}
	return again
}

// One word in two families: an effective current in one, a peak in the other; an error in the third.
func TestOneWordInThreeFamilies(t *testing.T) {
	for family, want := range map[string]string{"compiled": "1.131 A", "scripted": "0.8 A", "hosted": ""} {
		got := said(family, "M906 X1131\n")
		if want == "" && !strings.Contains(got, "choose the machine's own file") || !strings.Contains(got, want) {
			t.Errorf("%s: %q", family, got)
		}
	}
}

// checkChoices sees that every choice of a word is read, and that each can be made another.
func checkChoices(t *testing.T, name string, w settings.Word) {
	t.Helper()
	choice := func(s *settings.Stated) settings.TraitStatement {
		for _, st := range s.Traits {
			if st.Choice != "" {
				return st
			}
		}
		return settings.TraitStatement{}
	}
	for as, is := range w.Values {
		stated, err := settings.Shipped().ReadAs(w.Family, w.Form, lineOf(w, as))
		if err != nil || choice(stated).Choice != is {
			t.Errorf("%s: %s is not read as %s: %v", name, as, is, err)
			continue
		}
		for _, other := range w.Values {
			edits, err := stated.SetTrait(choice(stated), 0, other)
			if again := rewritten(t, stated, edits, err); choice(again).Choice != other {
				t.Errorf("%s: %s is read back as %s", name, other, choice(again).Choice)
			}
		}
	}
}

// A word of a place that no machine can have, a 51st head, states nothing.
func TestAPlaceThatNoMachineHas(t *testing.T) {
	for place, want := range map[string]int{"head 50": 1, "head 51": 0} {
		words := settings.NewWords([]settings.Word{{Family: "compiled", Form: dialect.Header, Word: "MICROSTEPS",
			Trait: "driver.microsteps", Of: place}})
		stated, err := words.ReadAs("compiled", dialect.Header, "#define MICROSTEPS 16\n")
		if err != nil || len(stated.Traits) != want {
			t.Errorf("%s: %+v, %v", place, stated.Traits, err)
		}
	}
}

// An option is on or off by itself: set, it is written the other way, and read so.
func TestAnOptionIsOnOrOff(t *testing.T) {
	words := settings.NewWords([]settings.Word{{Family: "compiled", Form: dialect.Header, Word: "OBJECTS",
		Trait: "firmware.objects", Of: "electronics", Values: map[string]string{settings.On: "yes", settings.Off: "no"}}})
	for text, want := range map[string]string{"#define OBJECTS\n": "yes", "  //#define OBJECTS // why\n": "no",
		"//#define OBJECTS\n#define OBJECTS\n": "yes", "#if 0\n#define OBJECTS\n#endif\n": ""} {
		stated, err := words.ReadAs("compiled", dialect.Header, text)
		if err != nil {
			t.Fatal(err)
		}
		if want == "" {
			if len(stated.Traits) != 0 {
				t.Errorf("%q states %+v", text, stated.Traits)
			}
			continue
		}
		if len(stated.Traits) != 1 || stated.Traits[0].Choice != want {
			t.Errorf("%q states %+v, want %s", text, stated.Traits, want)
			continue
		}
		other := map[string]string{"yes": "no", "no": "yes"}[want]
		edits, err := stated.SetTrait(stated.Traits[0], 0, other)
		after, applied := dialect.Apply(text, edits)
		again, read := words.ReadAs("compiled", dialect.Header, after)
		if err != nil || applied != nil || read != nil || again.Traits[0].Choice != other {
			t.Errorf("%q became %q: %v, %+v", text, after, err, again)
		}
	}
}

func TestChecksWords(t *testing.T) {
	sensor := settings.Word{Family: "compiled", Form: dialect.Header, Word: "TEMP_SENSOR_2", Trait: "sensor.type",
		Of: "head 3", Values: map[string]string{"1": "100k thermistor"}}
	for want, change := range map[string]func(*settings.Word){
		"":                     func(*settings.Word) {},
		"none of 100k":         func(w *settings.Word) { w.Values = map[string]string{"1": "a thermistor"} },
		"is a choice: say how": func(w *settings.Word) { w.Values = nil },
		"is a number: it is read": func(w *settings.Word) {
			w.Trait, w.Values = "frame.x", map[string]string{"1": "2"}
		},
		"is a text: settings": func(w *settings.Word) { w.Trait, w.Values = "firmware.label", nil },
		"one to 60 letters":   func(w *settings.Word) { w.Values = map[string]string{" ": "Pt100"} },
		"only an option of a C header": func(w *settings.Word) {
			w.Form, w.Word, w.Letter, w.Values = dialect.GCode, "M305", "B", map[string]string{"on": "Pt100"}
		},
		"calibration is a number": func(w *settings.Word) {
			w.Trait, w.Calibration, w.Of = "", calibration.Steps, "head 1"
		},
	} {
		w := sensor
		change(&w)
		err := w.Check(catalogue.Vocabulary())
		if (err == nil) != (want == "") || err != nil && !strings.Contains(err.Error(), want) {
			t.Errorf("got %v, want %q", err, want)
		}
	}
}
