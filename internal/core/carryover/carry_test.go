package carryover_test

import (
	"fmt"
	"strings"
	"testing"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/carryover"
	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/dialect"
	"wardifex/internal/core/machine/machinetest"
)

func read(t testing.TB, form dialect.Form, text string) *dialect.Document {
	t.Helper()
	d, err := dialect.Read(form, text)
	if err != nil {
		t.Fatal(err)
	}
	return d
}

const (
	oldExample = "#define STEPS { 80, 80, 400, 93 }\n//#define MESH\n#define RETRACT_LENGTH_MM 3\n#define BEEP " +
		"1\n#define PARK 5\n" +
		"#define OLD_THING 1\n"
	ownConfig = "#define STEPS { 80, 80, 400, 415 }\n#define MESH\n#define RETRACT_LENGTH_MM 1.2\n//#define BEEP " +
		"1\n#define PARK 9\n" +
		"#define OLD_THING 2\n"
	newExample = "// version 2\n#define STEPS { 80, 80, 400, 93 } // per mm\n  //#define MESH // by probe\n#define " +
		"RETRACT_LENGTH 3\n" +
		"#define BEEP 1\n#define PARK 7\n#define FRESH 4\n"
)

func states(c carryover.Carried) string {
	var out []string
	for _, it := range c.Items {
		s := fmt.Sprintf("%s %s", it.Word, it.State)
		if it.To != "" {
			s += " " + it.To
		}
		out = append(out, s)
	}
	return strings.Join(out, "; ")
}

// A modded machine's values: each kind of fate once, before and after it is decided.
func TestCarry(t *testing.T) {
	carry := func(decisions ...carryover.Decision) carryover.Carried {
		c, err := carryover.Carry(read(t, dialect.Header, oldExample), read(t, dialect.Header, ownConfig),
			read(t, dialect.Header, newExample), decisions)
		if err != nil {
			t.Fatal(err)
		}
		return c
	}
	c := carry()
	want := "PARK in conflict; RETRACT_LENGTH_MM renamed RETRACT_LENGTH; OLD_THING gone; STEPS kept; MESH kept; BEEP " +
		"kept; FRESH new"
	if got := states(c); got != want {
		t.Errorf("got  %s\nwant %s", got, want)
	}
	if c.Open != 3 || len(c.Hand) != 3 {
		t.Errorf("%d to decide, by hand %q", c.Open, c.Hand)
	}
	c = carry(carryover.Decision{Word: "PARK", Action: carryover.TakeOwn},
		carryover.Decision{Word: "RETRACT_LENGTH_MM", Action: carryover.TakeName},
		carryover.Decision{Word: "OLD_THING", Action: carryover.LeaveOut},
		carryover.Decision{Word: "STEPS", Action: carryover.LeaveOut}) // which is not possible, and changes nothing
	text := "// version 2\n#define STEPS { 80, 80, 400, 415 } // per mm\n  #define MESH // by probe\n#define " +
		"RETRACT_LENGTH 1.2\n" +
		"//#define BEEP 1\n#define PARK 9\n#define FRESH 4\n"
	if c.Open != 0 || c.Text != text {
		t.Errorf("%d open, text\n%s", c.Open, c.Text)
	}
	// Carried over once more, everything is as it is.
	again, err := carryover.Carry(read(t, dialect.Header, newExample), read(t, dialect.Header, c.Text),
		read(t, dialect.Header, c.Text), nil)
	if err != nil || again.Open != 0 || again.Text != c.Text {
		t.Errorf("again: %v, %s", err, states(again))
	}
}

// Other blanks and other digits make no other value.
func TestWrittenOtherwise(t *testing.T) {
	for text, same := range map[string]bool{
		"{80,80,400,95}":            true,
		"{ 80, 80.0, 4e2, 95.00f }": true,
		"{ 80, 80, 400, 95.1 }":     false,
		"{ 80, 80, 400 }":           false,
		"\"{ 80,  80, 400, 95 }\"":  false,
	} {
		c, err := carryover.Carry(read(t, dialect.Header, "#define STEPS { 80, 80, 400, 95 } // mm\n"),
			read(t, dialect.Header, "#define STEPS "+text+"\n"),
			read(t, dialect.Header, "#define STEPS { 80, 80, 400, 93 }\n"), nil)
		if err != nil {
			t.Fatal(err)
		}
		if (len(c.Items) == 0) != same {
			t.Errorf("%s: %s", text, states(c))
		}
	}
	for own, want := range map[string]string{"2.1.10": "VERSION in conflict", "2.1.2": "VERSION same", "2.1.1": ""} {
		c, err := carryover.Carry(read(t, dialect.Header, "#define VERSION 2.1.1\n"),
			read(t, dialect.Header, "#define VERSION "+own+"\n"), read(t, dialect.Header, "#define VERSION 2.1.2\n"), nil)
		if err != nil || states(c) != want {
			t.Errorf("%s: %s, %v", own, states(c), err)
		}
	}
}

// Without the old example every value counts as the machine's; sections keep their keys apart.
func TestCarrySections(t *testing.T) {
	c, err := carryover.Carry(nil, read(t, dialect.Sections,
		"[extruder]\nrotation_distance: 7\nmax_temp: 250\n[fan]\nkick: 1\n"),
		read(t, dialect.Sections, "[extruder]\nrotation_distance: 33 # mm\nmax_temp: 250\n[fan]\nkick_start_time: 0\n"),
		[]carryover.Decision{{Section: "fan", Word: "kick", Action: carryover.LeaveOut}})
	if err != nil {
		t.Fatal(err)
	}
	if got, want := states(c), "kick gone; rotation_distance kept; kick_start_time new; max_temp same"; got != want {
		t.Errorf("got  %s\nwant %s", got, want)
	}
	if !strings.Contains(c.Text, "rotation_distance: 7 # mm") || c.Open != 0 {
		t.Errorf("%d open\n%s", c.Open, c.Text)
	}
	if _, err := carryover.Carry(nil, read(t, dialect.Header, "#define A 1\n"), read(t, dialect.Sections, "[a]\nb: 1\n"),
		nil); err == nil {
		t.Error("a header was carried into sections")
	}
}

// What somebody added that neither example has comes along, in its section or at the end; without the old
// example it cannot be told from what is gone, and is asked about.
func TestAddedByHandComesAlong(t *testing.T) {
	for name, tt := range map[string]struct {
		form                 dialect.Form
		before, own, example string
		decided              []carryover.Decision
		states, want         string
		open                 int
	}{
		"a macro and a key": {dialect.Sections, "[extruder]\na: 1\n",
			"[extruder]\na: 1\nmine: 2\n[gcode_macro GO]\ngcode:\n  G28\n  G29\n",
			"[extruder]\na: 1 # as before\n\n[fan]\nb: 1\n#*# [x]\n#*# y = 1\n", nil, "mine kept; gcode kept; b new; y new",
			"[extruder]\na: 1 # as before\nmine: 2\n\n[fan]\nb: 1\n[gcode_macro GO]\ngcode: \n  G28\n  G29\n#*# [x]\n" +
				"#*# y = 1\n", 0},
		"an option": {dialect.Header, "#define A 1\n", "#define A 1\n#define MINE 5\n", "#define A 1", nil, "MINE kept",
			"#define A 1\n#define MINE 5\n", 0},
		"a line": {dialect.GCode, "M92 E95\n", "M92 E95\nM569 P3 S1 ; turned\n", "M92 E95\n", nil,
			"M569 P kept; M569 S kept", "M92 E95\nM569 P3 S1 ; turned\n", 0},
		"asked about": {dialect.Header, "", "#define MINE 5\n", "#define A 1\n", nil, "MINE gone; A new",
			"#define A 1\n", 1},
		"decided": {dialect.Header, "", "#define MINE 5\n", "#define A 1\n",
			[]carryover.Decision{{Word: "MINE", Action: carryover.TakeOwn}}, "MINE gone; A new",
			"#define A 1\n#define MINE 5\n", 0},
	} {
		var before *dialect.Document
		if tt.before != "" {
			before = read(t, tt.form, tt.before)
		}
		c, err := carryover.Carry(before, read(t, tt.form, tt.own), read(t, tt.form, tt.example), tt.decided)
		if err != nil {
			t.Fatal(err)
		}
		if states(c) != tt.states || c.Text != tt.want || c.Open != tt.open {
			t.Errorf("%s: %s, %d open\n%q\nwant %s, %d open\n%q", name, states(c), c.Open, c.Text, tt.states, tt.open, tt.want)
		}
	}
}

// What becomes of values in another family: steps as rotation distance, PID measured again, the
// closed display lost; from hosted to compiled a list of losses.
func TestFamily(t *testing.T) {
	s := machinetest.Facts(catalogue.Vocabulary(), map[string]string{"firmware.family": "compiled",
		"display.kind": "closed, self-contained", "probe.model": "x"})
	records := []calibration.Record{
		{ID: 1, Kind: calibration.Steps, Subject: "head 1", Value: "415 steps/mm", Passed: true,
			Store: calibration.StoreSettings},
		{ID: 2, Kind: calibration.HotendPID, Subject: "head 1", Value: "P 21 I 1 D 70", Passed: true,
			Store: calibration.StoreSettings},
		{ID: 3, Kind: calibration.ZOffset, Subject: "head 1", Value: "-1.85 mm", Passed: true,
			Store: calibration.StoreSettings},
	}
	fates := func(from, to string) string {
		list, err := carryover.Family(s, records, from, to)
		if err != nil {
			t.Fatal(err)
		}
		var out []string
		for _, it := range list {
			out = append(out, it.Title+": "+string(it.Fate)+" "+strings.Join(it.Lines, " "))
		}
		return strings.Join(out, "\n")
	}
	got := fates("compiled", "hosted")
	for _, want := range []string{"Hotend PID: measure again", "Extruder steps per mm: carries over",
		"The closed display: lost",
		"The stored settings (M500): lost", "Z offset: carries over [probe] z_offset: 1.85"} {
		if !strings.Contains(got, want) {
			t.Errorf("%q is missing in\n%s", want, got)
		}
	}
	if n := strings.Count(fates("hosted", "compiled"), ": lost"); n < 6 {
		t.Errorf("hosted to compiled loses %d things", n)
	}
	if _, err := carryover.Family(s, records, "hosted", "hosted"); err == nil {
		t.Error("a change to the same family")
	}
}

// Whatever the three texts are, carrying over ends, and the configuration is one of its form.
func FuzzCarry(f *testing.F) {
	f.Add(oldExample, ownConfig, newExample)
	f.Add("#define A\n", "//#define A 1\n", "#define A /*\n")
	f.Fuzz(func(t *testing.T, before, own, example string) {
		for _, form := range []dialect.Form{dialect.Header, dialect.Sections, dialect.GCode} {
			b, errB := dialect.Read(form, before)
			o, errO := dialect.Read(form, own)
			e, errE := dialect.Read(form, example)
			if errB != nil || errO != nil || errE != nil {
				return
			}
			c, err := carryover.Carry(b, o, e, nil)
			if err != nil {
				t.Fatalf("%s: %v", form, err)
			}
			if _, err := dialect.Read(form, c.Text); err != nil {
				t.Fatalf("%s: %v", form, err)
			}
		}
	})
}
