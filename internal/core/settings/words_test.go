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
			edits, err := stated.SetTrait(stated.Traits[0], 32)
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
