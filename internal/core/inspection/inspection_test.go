package inspection_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/inspection"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/machine/machinetest"
	"wardifex/internal/core/quantity/quantitytest"
)

var voc = catalogue.Vocabulary()

func facts(_ testing.TB, values map[string]string) machine.Snapshot {
	return machinetest.Facts(voc, values)
}

func never(machine.Key, string) bool { return false }

func probeKit(t testing.TB) []inspection.Kit {
	j, err := fit.NewJudge(catalogue.MustKit("plumbline-probe"), voc)
	if err != nil {
		t.Fatal(err)
	}
	return []inspection.Kit{{Name: "probe", Judge: j}}
}

func keys(qs []inspection.Question) []string {
	var out []string
	for _, q := range qs {
		out = append(out, string(q.Key))
	}
	return out
}

// Questions come as the machine is opened, at the display first; within one
// depth what matters to safety is first; what one inspection answers stays
// together; what is known well enough is not asked.
func TestQuestionsInPhysicalOrder(t *testing.T) {
	s := facts(
		t,
		map[string]string{
			"firmware.family":            "compiled/claimed",
			"mainboard.flash":            "512/claimed",
			"supply.volts":               "24",
			"springs.model":              "none",
			"hotend.working-temperature": "210/claimed",
		},
	)
	qs := inspection.Questions(s, inspection.Needs, probeKit(t), never)
	depth, order := -1, map[string]int{}
	for i, q := range qs {
		if q.Inspection.Depth < depth {
			t.Errorf("%s at depth %d comes after depth %d", q.Key, q.Inspection.Depth, depth)
		}
		depth = q.Inspection.Depth
		if first, seen := order[q.Inspection.Key]; seen && qs[i-1].Inspection.Key != q.Inspection.Key {
			t.Errorf("%s is taken up again at %d after %d", q.Inspection.Key, i, first)
		}
		order[q.Inspection.Key] = i
		if q.Safety == "" && len(q.Pending)+len(q.Needed) == 0 {
			t.Errorf("%s matters to nothing", q.Key)
		}
	}
	got := keys(qs)
	for _, want := range []string{"firmware.family", "mainboard.flash", "mainboard.probe-port", "case-fan.wiring",
		"sensor.type", "supply.watts", "hotend.working-temperature"} {
		if !slices.Contains(got, want) {
			t.Errorf("%s is not asked: %v", want, got)
		}
	}
	for _, not := range []string{"supply.volts", "springs.stiff", "relay.amperes", "host.password-changed",
		"nozzle.bore"} {
		if slices.Contains(got, not) {
			t.Errorf("%s is asked, and it is known, concerns no part here, or matters to nothing", not)
		}
	}
	if at := slices.Index(got, "hotend.working-temperature"); qs[0].Inspection.Key != "display" ||
		at > slices.Index(got, "firmware.family") {
		t.Errorf("at the display safety is first: %v", got[:3])
	}
	if m := inspection.Minutes(voc, qs); m < 20 || m > 90 {
		t.Errorf("%d minutes for %d questions", m, len(qs))
	}
}

// A slot that only some machines have is asked about once something is
// recorded of it.
func TestRareSlots(t *testing.T) {
	s := facts(t, map[string]string{"relay.model": "Relay 40"})
	if got := keys(inspection.Questions(s, inspection.Needs, nil, never)); !slices.Contains(got, "relay.earthed") ||
		!slices.Contains(got, "relay.amperes") {
		t.Errorf("a bed relay is fitted and its safety is not asked: %v", got)
	}
}

// What could not be read one way is asked another way, or not at all.
func TestUnreadable(t *testing.T) {
	tried := map[string]bool{}
	asked := func(key machine.Key, inspection string) bool { return tried[string(key)+" "+inspection] }
	s := facts(t, nil)
	way := func() string {
		for _, q := range inspection.Questions(s, inspection.Needs, probeKit(t), asked) {
			if q.Key == "mainboard.bootloader-size" {
				return q.Inspection.Key
			}
		}
		return ""
	}
	first := way()
	tried["mainboard.bootloader-size "+first] = true
	if second := way(); first == "" || second == first {
		t.Errorf("asked by %q, then by %q", first, second)
	}
	tried["mainboard.bootloader-size cover"], tried["mainboard.bootloader-size upload"] = true, true
	if w := way(); w != "" {
		t.Errorf("still asked by %q", w)
	}
}

func TestMinutesShareTheCover(t *testing.T) {
	in := func(key string) machine.Inspection { i, _ := voc.Inspection(key); return i }
	q := func(key string) inspection.Question { return inspection.Question{Inspection: in(key)} }
	for _, tt := range []struct {
		want int
		qs   []inspection.Question
	}{
		{0, nil},
		{10, []inspection.Question{q("cover"), q("cover")}},
		// ribbon's 12 include the cover's 10
		{12, []inspection.Question{q("cover"), q("ribbon")}},
		{27, []inspection.Question{q("ribbon"), q("heat-sink")}},                           // 12 + 25 − 10
		{28, []inspection.Question{q("display"), q("ribbon"), q("cover"), q("heat-sink")}}, // 1 + 12 + 25 − 10
	} {
		if got := inspection.Minutes(voc, tt.qs); got != tt.want {
			t.Errorf("%d questions: %d minutes, want %d", len(tt.qs), got, tt.want)
		}
	}
}

func TestDecode(t *testing.T) {
	for _, tt := range []struct {
		key, text string
		known     map[string]string
		want      map[string]string // by trait; nil for nothing
	}{
		{"mainboard.processor", "RET6", nil, map[string]string{"mainboard.flash": "512", "mainboard.pins": "64"}},
		{"mainboard.processor", "EIGHT 16AU", map[string]string{"mainboard.width": "8-bit"}, nil},
		{"driver-x.marking", "sh90-la", nil,
			map[string]string{"driver-x.model": "Hush 9", "driver-x.law": "full-scale 0.325 V",
				"driver-x.max-microsteps": "256"}},
		{"driver-e.marking", "TW5L 2231", nil,
			map[string]string{"driver-e.law": "gain-of-5 chopper", "driver-e.max-microsteps": "16"}},
		{"driver-x.marking", "SH", nil, nil},      // the beginning of two
		{"driver-x.marking", "XX99-ZZ", nil, nil}, // nobody's
		{"nozzle.bore", "0.4", nil, nil},
	} {
		got, err := inspection.Decode(machine.Key(tt.key), tt.text, facts(t, tt.known))
		if err != nil || (len(got) == 0) != (tt.want == nil) {
			t.Errorf("%s %q: %v, %v", tt.key, tt.text, got, err)
		}
		for k, v := range tt.want {
			if got[machine.Key(k)] != v {
				t.Errorf("%s %q: %s is %q, want %q", tt.key, tt.text, k, got[machine.Key(k)], v)
			}
		}
	}
	if _, err := inspection.Decode("mainboard.processor", "R0T6", facts(t, nil)); err == nil {
		t.Error("a marking that cannot be was decoded")
	}
}

func TestPeek(t *testing.T) {
	dual := map[string]string{"motor-e.step-angle": "1.8", "driver-e.microsteps": "16", "extruder.ratio": "3"}
	s := facts(t, dual)
	p := inspection.PeekAt("extruder.steps", "415", s, nil)
	if len(p.Cells) != 1 || p.Cells[0].Value != "7.36 mm" || !quantitytest.Holds(p.Note, "415 steps/mm") {
		t.Errorf("the drive gear from measured steps: %+v", p)
	}
	if p := inspection.PeekAt("extruder.steps", "415", facts(t, nil), nil); !strings.Contains(p.Note, "step angle") {
		t.Errorf("without the parts it says what is missing: %+v", p)
	}
	if p := inspection.PeekAt("driver-x.marking", "5H90", s, nil); len(p.LookAlikes) == 0 || p.LookAlikes[0] != "SH90" {
		t.Errorf("a misread chip: %+v", p)
	}
	if p := inspection.PeekAt("driver-x.marking", "S", s, nil); !strings.Contains(p.Note, "type on") {
		t.Errorf("half typed: %+v", p)
	}
	if p := inspection.PeekAt("mainboard.shield-letter", "C", s, nil); !strings.Contains(p.Note, "hint") {
		t.Errorf("a letter on the shield: %+v", p)
	}
	if p := inspection.PeekAt("supply.volts", "lots", s, nil); p.Problem == "" {
		t.Error("no number, and no problem")
	}
	// An answer that contradicts the rest says so before it is recorded, and
	// only what is new.
	dual["extruder.gear-diameter"] = "7.36"
	if p := inspection.PeekAt("extruder.steps", "830", facts(t, dual), nil); len(p.Contradicts) != 1 ||
		!strings.Contains(p.Contradicts[0].Explains[0], "0.9°") {
		t.Errorf("830 on a 3:1 drive: %+v", p.Contradicts)
	}
	dual["extruder.steps"] = "830"
	if p := inspection.PeekAt("nozzle.bore", "0.4", facts(t, dual), nil); len(p.Contradicts) != 0 {
		t.Errorf("the nozzle has nothing to do with it: %+v", p.Contradicts)
	}
}

// Whether an answer differs from what stands is the trait's to say, not how it is written.
func TestAnAnswerThatDiffers(t *testing.T) {
	t.Parallel()
	s := facts(t, map[string]string{"supply.volts": "24", "nozzle.bore": "0.4", "plate.model": "Föhn Plate",
		"extruder.steps": "415"})
	for _, c := range []struct {
		key, text string
		want      bool
	}{{"supply.volts", "24.0 V", false}, {"extruder.steps", "41", true}, {"supply.volts", "12", true},
		{"nozzle.bore", "0,40", false}, {"nozzle.bore", "0.8", true}, {"plate.model", "föhn  plate", false},
		{"plate.model", "Föhn", true}, {"plate.thickness", "3", false}, {"supply.volts", "", false}} {
		if p := inspection.PeekAt(machine.Key(c.key), c.text, s, nil); p.Differs != c.want {
			t.Errorf("%s %q: %+v", c.key, c.text, p)
		}
	}
}

// What cannot be true together, each with a machine that is well beside it.
func TestContradictions(t *testing.T) {
	for _, tt := range []struct {
		name   string
		known  map[string]string
		steps  float64
		want   string // part of the sentence; "" when there is none
		safety bool
	}{
		{"a 12 V heater on 24 V", map[string]string{"heater.volts": "12", "supply.volts": "24"}, 0,
			"four times its power", true},
		{"a 24 V heater on 12 V", map[string]string{"heater.volts": "24", "supply.volts": "12"}, 0,
			"a quarter of its power", false},
		{"a mains bed is not on the supply", map[string]string{"bed-heater.volts": "230", "supply.volts": "24"}, 0, "",
			false},
		{"its own voltage", map[string]string{"heater.volts": "24", "supply.volts": "24"}, 0, "", false},
		// A supply measured within a tenth of 24 V is a 24 V supply (from memory).
		{"a tenth above", map[string]string{"heater.volts": "24", "supply.volts": "26.4"}, 0, "", false},
		{"more than a tenth above", map[string]string{"heater.volts": "24", "supply.volts": "26.5"}, 0,
			"four times its power", true},
		{"a tenth below", map[string]string{"heater.volts": "24", "supply.volts": "21.6"}, 0, "", false},
		{"more than a tenth below", map[string]string{"heater.volts": "24", "supply.volts": "21.5"}, 0,
			"a quarter of its power", false},
		// 350 W: a heater for 61 V and more is fed by the mains, and takes nothing of the supply.
		{"a heater for 60 V on the supply", map[string]string{"heater.watts": "60", "bed-heater.watts": "300",
			"bed-heater.volts": "60", "supply.watts": "350", "plate.mains": "no"}, 0, "short by 50 W", false},
		{"a heater for 61 V on the mains", map[string]string{"heater.watts": "60", "bed-heater.watts": "300",
			"bed-heater.volts": "61", "supply.watts": "350", "plate.mains": "no"}, 0, "", false},
		{"more heat than supply", map[string]string{"heater.watts": "60", "bed-heater.watts": "300",
			"supply.watts": "350", "plate.mains": "no"}, 0, "Power left: short by 50 W", false},
		{"flash against marking", map[string]string{"mainboard.processor": "RCT6", "mainboard.flash": "512"}, 0,
			"stands for 256 KiB", false},
		{"pins against marking", map[string]string{"mainboard.processor": "RCT6", "mainboard.pins": "100"}, 0,
			"stands for 64 pins", false},
		{"marking and flash agree", map[string]string{"mainboard.processor": "RCT6", "mainboard.flash": "256"}, 0, "", false},
		{"an 8-bit board with an ordering code",
			map[string]string{"mainboard.width": "8-bit", "mainboard.processor": "RCT6"}, 0, "32-bit processor", false},
		{"a build larger than flash", map[string]string{"firmware.size": "250", "mainboard.flash": "256",
			"mainboard.bootloader-size": "8", "firmware.family": "compiled"}, 0, "Flash left: short by 2 KiB", false},
		{"a bootloader that is not there",
			map[string]string{"mainboard.bootloader": "no", "mainboard.bootloader-size": "8"}, 0, "no bootloader", false},
		{"USB without bootloader", map[string]string{"mainboard.bootloader": "no", "mainboard.upload": "USB"}, 0,
			"in-circuit programmer", false},
		{"hosted without host", map[string]string{"firmware.family": "hosted", "host.model": "none"}, 0,
			"A host computer", false},
		{"hosted with a closed display",
			map[string]string{"firmware.family": "hosted", "display.kind": "closed, self-contained"}, 0, "stays dead", false},
		{"finer than the chip", map[string]string{"driver-x.microsteps": "64", "driver-x.max-microsteps": "32"}, 0,
			"Steps no finer than its chip goes", false},
		{"a metal probe over glass", map[string]string{"probe.senses": "metal, without touch", "plate.metal": "no",
			"surface.thickness": "1", "probe.reach": "2"}, 0, "into the bed", true},
		{"a liner too hot", map[string]string{"hotend.liner": "yes", "hotend.working-temperature": "260"}, 0,
			"toxic fumes", true},
		{"steps as calibrated", map[string]string{"motor-e.step-angle": "1.8", "driver-e.microsteps": "16",
			"extruder.ratio": "3", "extruder.gear-diameter": "7.36"}, 138, "138 were found", false},
		{"steps that follow", map[string]string{"motor-e.step-angle": "1.8", "driver-e.microsteps": "16",
			"extruder.ratio": "3", "extruder.gear-diameter": "7.36"}, 415, "", false},
		{"no single fact", map[string]string{"motor-e.step-angle": "1.8", "driver-e.microsteps": "16",
			"extruder.ratio": "3", "extruder.gear-diameter": "7.36"}, 40, "40 were found", false},
	} {
		got := inspection.Contradictions(facts(t, tt.known), calibrated(tt.steps))
		switch {
		case tt.want == "" && len(got) > 0:
			t.Errorf("%s: %+v", tt.name, got)
		case tt.want != "" && (len(got) != 1 || !strings.Contains(got[0].Sentence, tt.want) ||
			got[0].Safety != tt.safety || len(got[0].Keys) == 0):
			t.Errorf("%s: %+v, want one with %q", tt.name, got, tt.want)
		}
		for _, c := range got {
			for _, k := range c.Keys {
				if _, ok := voc.Trait(k); !ok {
					t.Errorf("%s: there is no trait %s", tt.name, k)
				}
			}
		}
	}
}

// calibrated is a record of an extruder's steps per mm; none where there are none.
func calibrated(steps float64) []calibration.Record {
	if steps == 0 {
		return nil
	}
	return []calibration.Record{
		{
			ID:     1,
			Kind:   calibration.Steps,
			Value:  fmt.Sprintf("%g steps/mm", steps),
			Store:  calibration.StoreSettings,
			Passed: true,
		},
	}
}
