package fit_test

import (
	"fmt"
	"math/rand"
	"slices"
	"strings"
	"testing"

	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/quantity"
	"wardifex/internal/core/quantity/quantitytest"
)

// using is a kit that only takes something of a budget.
func using(t testing.TB, uses ...fit.Use) *fit.Judge {
	t.Helper()
	j, err := fit.NewJudge(
		fit.Kit{
			Key:  "k",
			Name: "kit",
			Needs: fit.Requirement{
				Label: "a machine",
				Test:  &fit.Test{Slot: "mainboard", Trait: "model", Op: fit.Present, Least: machine.Claimed},
			},
			Uses: uses,
		},
		plain,
	)
	if err != nil {
		t.Fatal(err)
	}
	return j
}

// Every budget, with its sum as a technician would write it: what there is, what
// is taken by what is fitted, what the kit takes.
func TestBudgets(t *testing.T) {
	board := func(more map[string]string) map[string]string {
		out := map[string]string{"mainboard.model": "Brace board"}
		for k, v := range more {
			out[k] = v
		}
		return out
	}
	m := func(pairs ...string) map[string]string {
		out := map[string]string{}
		for i := 0; i < len(pairs); i += 2 {
			out[pairs[i]] = pairs[i+1]
		}
		return board(out)
	}
	for _, tt := range []struct {
		name   string
		use    fit.Use
		on     map[string]string
		want   fit.Answer
		says   string // part of the arithmetic
		budget float64
	}{
		{"flash enough", fit.Use{Capacity: "flash", Amount: 5},
			m("mainboard.flash", "256", "mainboard.bootloader-size", "28/proven", "firmware.size", "186", "firmware.family",
				"compiled"), fit.Fits,
			"256 flash − 28 taken by the bootloader − 186 size of the build − 5 this kit = 37 KiB left", 0},
		{"flash to the last", fit.Use{Capacity: "flash", Amount: 42},
			m("mainboard.flash", "256", "mainboard.bootloader-size", "28/proven", "firmware.size", "186", "firmware.family",
				"compiled"), fit.Fits, "= 0 KiB left", 0},
		{"flash short", fit.Use{Capacity: "flash", Amount: 43},
			m("mainboard.flash", "256", "mainboard.bootloader-size", "28/proven", "firmware.size", "186", "firmware.family",
				"compiled"), fit.DoesNotFit, "= −1 KiB left", 1},
		{"flash of a host's board", fit.Use{Capacity: "flash", Amount: 43},
			m("mainboard.flash", "64", "firmware.family", "hosted"), fit.Fits, "", 0},
		{"flash only claimed", fit.Use{Capacity: "flash", Amount: 5},
			m("mainboard.flash", "512/claimed", "mainboard.bootloader-size", "28/proven", "firmware.size", "186",
				"firmware.family", "compiled"), fit.LookFirst, "512? flash", 0},
		{"a free header", fit.Use{Capacity: "probe-header", Amount: 1},
			m("mainboard.probe-port", "yes", "probe.model", "none"), fit.Fits, "= 0 left", 0},
		{"a header taken", fit.Use{Capacity: "probe-header", Amount: 1},
			m("mainboard.probe-port", "yes", "probe.model", "Plumbline", "probe.senses",
				"surface, by touch"), fit.DoesNotFit, "= −1 left", 1},
		{"no header", fit.Use{Capacity: "probe-header", Amount: 1},
			m("mainboard.probe-port", "no", "probe.model", "none"), fit.DoesNotFit, "= −1 left", 1},
		{"a fifth output", fit.Use{Capacity: "driver-outputs", Amount: 1},
			m("mainboard.driver-outputs", "5", "z-drive.motors", "one"), fit.Fits, "5 driver outputs − 4 Extruder motor, " +
				"Motor X, Motor Y, Motor Z − 1 this kit = 0 left", 0},
		{"the fifth output has the second Z motor", fit.Use{Capacity: "driver-outputs", Amount: 1},
			m("mainboard.driver-outputs", "5", "z-drive.motors", "two on two drivers"), fit.DoesNotFit, "= −1 left", 1},
		{"two motors on one driver take no more", fit.Use{Capacity: "driver-outputs", Amount: 1},
			m("mainboard.driver-outputs", "5", "z-drive.motors", "two on one driver"), fit.Fits, "= 0 left", 0},
		{"a heater output left", fit.Use{Capacity: "heater-outputs", Amount: 1}, m("mainboard.heater-outputs", "2"),
			fit.Fits, "2 heater outputs for hotends − 1 Hotend heater − 1 this kit = 0 left", 0},
		{"a heater output that a second hotend has", fit.Use{Capacity: "heater-outputs", Amount: 1},
			m("mainboard.heater-outputs", "2", "heater-2.model", "Forge", "structure.heads",
				"together"), fit.DoesNotFit, "= −1 left", 1},
		{"sensor inputs for hotend and bed only", fit.Use{Capacity: "sensor-inputs", Amount: 1},
			m("mainboard.sensor-inputs", "2"), fit.DoesNotFit, "2 inputs for temperature sensors − 2 Hotend sensor, Bed " +
				"sensor − 1 this kit = −1 left", 1},
		{"fan outputs, as noted", fit.Use{Capacity: "fan-outputs", Amount: 2}, m("mainboard.fan-outputs", "1"),
			fit.DoesNotFit, "1 fan outputs free − 2 this kit = −1 left", 1},
		{"watts", fit.Use{Capacity: "supply-watts", Amount: 60},
			m("supply.watts", "350", "heater.watts", "40", "bed-heater.watts", "220", "plate.mains",
				"no"), fit.DoesNotFit,
			"350 Power supply − 40 Hotend heater − 220 Bed heater − 40 motors, fans, electronics " +
				"(from memory) − 60 this kit = −10 W left", 10},
		{"watts, with the bed on the mains", fit.Use{Capacity: "supply-watts", Amount: 60},
			m("supply.watts", "350", "heater.watts", "40", "bed-heater.watts", "750", "plate.mains",
				"yes"), fit.Fits, "= 210 W left", 0},
		{"watts freed", fit.Use{Capacity: "supply-watts", Amount: -200, For: "the old bed"},
			m("supply.watts", "350", "heater.watts", "40", "bed-heater.watts", "220", "plate.mains",
				"no"), fit.Fits, "+ 200 freed by the old bed", 0},
		{"contacts of a plate", fit.Use{Capacity: "tool-contacts", Amount: 12},
			m("tool-plate.model", "Quayside", "tool-plate.contacts", "10"), fit.DoesNotFit, "= at most −2 left", 2},
		{"ways of a head's board", fit.Use{Capacity: "toolhead-ways", Amount: 3},
			m("toolhead-board.model", "Gull board", "toolhead-board.ways", "4"), fit.Fits, "= 1 left", 0},
		{"width, with some to be left", fit.Use{Capacity: "print-width", Amount: 40, For: "dock", Keep: 180},
			m("frame.x", "235"), fit.Fits, "235 print width X − 40 dock = 195 mm left, 180 mm must be", 0},
		{"width, and too little left", fit.Use{Capacity: "print-width", Amount: 40, Keep: 200}, m("frame.x", "235"),
			fit.DoesNotFit, "= 195 mm left, 200 mm must be", 5},
		{"width that nobody measured", fit.Use{Capacity: "print-width", Amount: 40, Keep: 180}, m(), fit.LookFirst,
			"cannot be told: Frame and gantry: print width X is unknown, 180 mm must be", 0},
		{"a head on a carriage with a limit", fit.Use{Capacity: "head-mass", Amount: 140},
			m("carriage.bears", "450", "toolhead.grams", "350"), fit.DoesNotFit, "= −40 g left", 40},
		{"a head that nobody weighed", fit.Use{Capacity: "head-mass", Amount: 140}, m("carriage.bears", "450"),
			fit.LookFirst, "", 0},
		{"a carriage without a limit", fit.Use{Capacity: "head-mass", Amount: 140}, m("toolhead.grams", "350"), fit.Fits,
			"", 0},
		{"a bed with a limit", fit.Use{Capacity: "bed-mass", Amount: 600},
			m("frame.bears", "2000", "plate.grams", "1200"), fit.Fits, "= 200 g left", 0},
		{"a circuit shared", fit.Use{Capacity: "mains-amperes", Amount: 4},
			m("circuit.amperes", "16", "circuit.others", "13"), fit.DoesNotFit, "= −1 A left", 1},
	} {
		j := using(t, tt.use)
		s := plainly(t, tt.on)
		v := j.Verdict(s)
		if v.Answer != tt.want || tt.says != "" && !quantitytest.Holds(arithmetics(v.Reasons), tt.says) {
			t.Errorf("%s: %s, %s", tt.name, v.Answer, arithmetics(v.Reasons))
		}
		if short := j.Short(tt.use.Capacity, s); short != tt.budget {
			t.Errorf("%s: short by %g, want %g", tt.name, short, tt.budget)
		}
	}
	if v := using(t, fit.Use{Capacity: "mains-amperes", Amount: 0.7}).Verdict(plainly(t,
		m("circuit.amperes", "1.1", "circuit.others", "0.3"))); !quantitytest.Holds(
		arithmetics(v.Reasons), "= 0.1 A left") {
		t.Errorf("tenths add up as they are read: %s", arithmetics(v.Reasons))
	}
	// What two uses of one budget take is one sum.
	j := using(
		t,
		fit.Use{Capacity: "flash", Amount: 20, For: "mesh"},
		fit.Use{Capacity: "flash", Amount: 23, For: "probe"},
	)
	if v := j.Verdict(plainly(t, m("mainboard.flash", "256", "mainboard.bootloader-size", "28/proven",
		"firmware.size", "186", "firmware.family", "compiled"))); v.Answer != fit.DoesNotFit ||
		!quantitytest.Holds(arithmetics(v.Reasons), "− 20 mesh − 23 probe = −1 KiB left") {
		t.Errorf("two uses: %s, %s", v.Answer, arithmetics(v.Reasons))
	}
}

// What a kit's parts are counts in the sums without being written as used: a
// stronger heater takes more, another board offers other outputs.
func TestPartsCountByWhatTheyAre(t *testing.T) {
	e := func(slot, model string, traits map[string]string) fit.Effect {
		return fit.Effect{Slot: slot, Model: model, Traits: traits}
	}
	machineWith := func(more map[string]string) machine.Snapshot {
		all := map[string]string{
			"mainboard.model":          "Brace board",
			"mainboard.driver-outputs": "5",
			"z-drive.motors":           "one",
			"supply.watts":             "350",
			"heater.watts":             "40",
			"bed-heater.watts":         "220",
			"plate.mains":              "no",
			"structure.heads":          "together",
		}
		for k, v := range more {
			if all[k] = v; v == "" {
				delete(all, k)
			}
		}
		return plainly(t, all)
	}
	written := fit.Use{Capacity: "driver-outputs", Amount: 1, For: "second Z motor"}
	for _, tt := range []struct {
		name    string
		effects []fit.Effect
		uses    []fit.Use
		on      map[string]string
		want    fit.Answer
		says    string
		budget  string
		left    float64
	}{
		{"a stronger heater", []fit.Effect{e("heater", "Forge", map[string]string{"watts": "60"})}, nil, nil, fit.Fits,
			"350 Power supply − 60 Hotend heater of this kit − 220 Bed heater − 40 motors, fans, electronics (from " +
				"memory) = 30 W left", "supply-watts", 30},
		{"a heater too strong", []fit.Effect{e("heater", "Forge", map[string]string{"watts": "100"})}, nil, nil,
			fit.DoesNotFit, "= −10 W left", "supply-watts", -10},
		{"a heater whose power is not stated", []fit.Effect{e("heater", "Forge", nil)}, nil, nil, fit.Fits, "", "", 0},
		{"what is written as used is the whole", []fit.Effect{e("heater", "Forge", map[string]string{"watts": "100"})},
			[]fit.Use{{Capacity: "supply-watts", Amount: 50}}, nil, fit.Fits, "350 Power supply − 220 Bed heater − 40 " +
				"motors, fans, electronics (from memory) − 50 this kit = 40 W left", "supply-watts", 40},
		{"a second heater", []fit.Effect{e("heater-2", "Forge", map[string]string{"watts": "60"})}, nil, nil,
			fit.DoesNotFit, "− 60 Hotend heater 2 of this kit", "supply-watts", -10},
		{"a second heater on a board with one output", []fit.Effect{e("heater-2", "Forge", nil)}, nil,
			map[string]string{"mainboard.heater-outputs": "1"}, fit.DoesNotFit, "1 heater outputs for hotends − 1 Hotend " +
				"heater − 1 Hotend heater 2 of this kit = −1 left", "heater-outputs", -1},
		{"a lesser supply", []fit.Effect{e("supply", "Trickle", map[string]string{"watts": "240"})}, nil, nil,
			fit.DoesNotFit, "240 Power supply of this kit − 40 Hotend heater − 220 Bed heater", "supply-watts", -60},
		{"a larger supply, though not large enough",
			[]fit.Effect{e("supply", "Torrent",
				map[string]string{"watts": "360"})}, nil, map[string]string{"bed-heater.watts": "400"}, fit.Fits,
			"= −120 W left; this kit takes no more than it gives", "supply-watts", -120},
		{"a heater moved, on a supply that is overloaded", []fit.Effect{{Slot: "heater-2", From: "heater"}}, nil,
			map[string]string{"heater.model": "Forge", "bed-heater.watts": "300",
				"mainboard.heater-outputs": "2"}, fit.Fits, "350 Power supply − 300 Bed heater − 40 Hotend heater 2",
			"supply-watts", -30},
		{"a larger supply for one that nobody read",
			[]fit.Effect{e("supply", "Torrent",
				map[string]string{"watts": "500"})}, nil, map[string]string{"supply.watts": ""}, fit.Fits, "= 200 W left",
			"supply-watts", 200},
		{"a bed on the mains, whatever the supply",
			[]fit.Effect{e("plate", "Hearth", map[string]string{"mains": "yes"}),
				e("bed-heater", "mat", map[string]string{"watts": "750"})}, nil, map[string]string{"supply.watts": ""},
			fit.Fits, "? Power supply − 40 Hotend heater − 40 motors, fans, electronics (from memory)", "", 0},
		{"a board with an output less than the motors need",
			[]fit.Effect{e("mainboard", "Brace 4",
				map[string]string{"driver-outputs": "4"})}, nil, map[string]string{"z-drive.motors": "two on two drivers"},
			fit.DoesNotFit, "4 driver outputs of this kit − 5 Extruder motor, Motor X, Motor Y, Motor Z, Z drive = −1 left",
			"driver-outputs", -1},
		{"a board with just the outputs",
			[]fit.Effect{e("mainboard", "Brace 5",
				map[string]string{"driver-outputs": "5"})}, nil, map[string]string{"z-drive.motors": "two on two drivers"},
			fit.Fits, "= 0 left", "driver-outputs", 0},
		{"a board with the output that the kit's own motor takes",
			[]fit.Effect{e("mainboard", "Brace 5", map[string]string{"driver-outputs": "5"}),
				e("z-drive", "Lift", map[string]string{"motors": "two on two drivers"})}, []fit.Use{written},
			map[string]string{"mainboard.driver-outputs": "4"}, fit.Fits, "5 driver outputs of this kit − 4 Extruder " +
				"motor, Motor X, Motor Y, Motor Z − 1 second Z motor = 0 left", "driver-outputs", 0},
		{"a lighter head on a carriage at its limit",
			[]fit.Effect{e("toolhead", "Wisp",
				map[string]string{"grams": "280"})}, nil, map[string]string{"carriage.bears": "300", "toolhead.grams": "350"},
			fit.Fits, "300 heaviest toolhead the shop lets it carry − 280 mass of this kit = 20 g left", "head-mass", 20},
		{"a heavier one", []fit.Effect{e("toolhead", "Anvil", map[string]string{"grams": "420"})}, nil,
			map[string]string{"carriage.bears": "400",
				"toolhead.grams": "350"}, fit.DoesNotFit, "= −20 g left", "head-mass", -20},
	} {
		on := machineWith(tt.on)
		j, err := fit.NewJudge(
			fit.Kit{
				Key:     "k",
				Name:    "kit",
				Effects: tt.effects,
				Uses:    tt.uses,
				Needs: fit.Requirement{
					Label: "a machine",
					Test:  &fit.Test{Slot: "mainboard", Trait: "model", Op: fit.Present, Least: machine.Claimed},
				},
			},
			plain,
		)
		if err != nil {
			t.Fatal(err)
		}
		v := j.Verdict(on)
		if v.Answer != tt.want || tt.says != "" && !quantitytest.Holds(arithmetics(v.Reasons), tt.says) {
			t.Errorf("%s: %s, %s", tt.name, v.Answer, arithmetics(v.Reasons))
		}
		// Once it is in, as much is left for the next kit as its sum says.
		after, err := j.After(on, nil)
		if err != nil {
			t.Fatal(err)
		}
		if tt.budget == "" {
			continue
		}
		amount := 1 + max(tt.left, 0)
		if short := using(t, fit.Use{Capacity: tt.budget, Amount: amount}).Short(tt.budget,
			after); short != amount-tt.left {
			t.Errorf("%s: for %g more it is short by %g afterwards", tt.name, amount, short)
		}
	}
}

func titlesOf(changes []fit.AdditionalChange) string {
	var out []string
	for _, f := range changes {
		out = append(out, f.Title)
	}
	return strings.Join(out, "; ")
}

func arithmetics(o fit.Outcome) string {
	out := o.Arithmetic
	for _, p := range o.Parts {
		out += "\n" + arithmetics(p)
	}
	return strings.TrimSpace(out)
}

// What an earlier kit of a plan takes, a later one does not find; and what a
// part takes by being there is not taken twice.
func TestSpentInAPlan(t *testing.T) {
	s := plainly(
		t,
		map[string]string{
			"mainboard.model":           "Brace board",
			"mainboard.flash":           "256",
			"mainboard.bootloader-size": "28/proven",
			"firmware.size":             "186",
			"firmware.family":           "compiled",
			"mainboard.probe-port":      "yes",
			"probe.model":               "none",
		},
	)
	first := using(t, fit.Use{Capacity: "flash", Amount: 40})
	after, err := first.After(s, nil)
	if err != nil {
		t.Fatal(err)
	}
	second := using(t, fit.Use{Capacity: "flash", Amount: 3})
	if v := second.Verdict(s); v.Answer != fit.Fits {
		t.Errorf("alone: %s", v.Answer)
	}
	if v := second.Verdict(after); v.Answer != fit.DoesNotFit ||
		!quantitytest.Holds(arithmetics(v.Reasons), "− 226 size of the build − 3 this kit = −1 KiB left") {
		t.Errorf("after the first: %s, %s", v.Answer, arithmetics(v.Reasons))
	}
	if v := second.Verdict(s); v.Answer != fit.Fits {
		t.Error("a plan changed the machine it began with")
	}

	probe := fit.Kit{
		Key:  "p",
		Name: "probe",
		Effects: []fit.Effect{{Slot: "probe", Model: "Plumbline",
			Traits: map[string]string{"senses": "surface, by touch"}}},
		Needs: fit.Requirement{
			Label: "none yet",
			Test:  &fit.Test{Slot: "probe", Trait: "model", Op: fit.Absent, Least: machine.Observed},
		},
		Uses: []fit.Use{{Capacity: "probe-header", Amount: 1}},
	}
	j, err := fit.NewJudge(probe, plain)
	if err != nil {
		t.Fatal(err)
	}
	if after, err = j.After(s, nil); err != nil {
		t.Fatal(err)
	}
	header := using(t, fit.Use{Capacity: "probe-header", Amount: 1})
	if v := header.Verdict(after); !quantitytest.Holds(arithmetics(v.Reasons), "= −1 left") {
		t.Errorf("the header is taken once, by the probe that is in it: %s", arithmetics(v.Reasons))
	}
}

// Whatever a kit changes about another's verdict, it changes something that that
// one looks at; and what it makes of a verdict that was a no, something unmet:
// the search for what would make a kit fit may leave out all others.
func TestNothingThatMattersIsMissed(t *testing.T) {
	rounds := 60
	if testing.Short() {
		rounds = 15
	}
	random := rand.New(rand.NewSource(21))
	judges := allJudges(t)
	traits := asked(judges)
	meets := func(a, b map[fit.Dependency]bool) bool {
		for m := range a {
			if b[m] {
				return true
			}
		}
		return false
	}
	changed := 0
	for range rounds {
		values := randomMachine(random, traits)
		values["firmware.model"] = "2.0.8" // a board runs something
		before := facts(t, values)
		for _, first := range judges {
			after, err := first.After(before, nil)
			if err != nil {
				t.Fatal(err)
			}
			for _, j := range judges {
				if j.Truth(before) == j.Truth(after) {
					continue
				}
				changed++
				if !meets(first.Writes(), j.Reads()) {
					t.Fatalf("%s changes the verdict of %s and is said not to touch it", first.Kit.Key, j.Kit.Key)
				}
				if was := j.Truth(before); was.Hi() == fit.No && !meets(first.Writes(), j.Unmet(before)) {
					t.Fatalf("%s makes %s possible and is said to change nothing unmet of it", first.Kit.Key, j.Kit.Key)
				}
			}
		}
	}
	if changed < 8*rounds {
		t.Errorf("only %d verdicts changed: the machines show nothing", changed)
	}
}

// Machines with one undecided key go on alike: whatever is found out next, by any
// inspection, it judges the kit the same on both.
func TestOneResidueOneFuture(t *testing.T) {
	rounds := 300
	if testing.Short() {
		rounds = 70
	}
	random := rand.New(rand.NewSource(22))
	judges := allJudges(t)
	traits := asked(judges)
	met := 0
	for _, j := range judges {
		seen := map[string]machine.Snapshot{}
		for range rounds {
			s := facts(t, randomMachine(random, traits))
			twin, twice := seen[j.UndecidedKey(s)]
			if !twice {
				seen[j.UndecidedKey(s)] = s
				continue
			}
			if j.Truth(s) != j.Truth(twin) {
				t.Fatalf("%s: one key, judged %v and %v", j.Kit.Key, j.Truth(s), j.Truth(twin))
			}
			if j.Truth(s).Decided() {
				continue
			}
			met++
			for range 8 {
				open := j.Open(s)
				tr := open[random.Intn(len(open))].Trait
				text := anything(random, tr)
				v, err := tr.Parse(text)
				if text == "" || err != nil || !unknownIn(tr, s) || !unknownIn(tr, twin) {
					continue
				}
				a, b := s.WithValue(tr.Key(), v, machine.Proven), twin.WithValue(tr.Key(), v, machine.Proven)
				if j.Truth(a) != j.Truth(b) || j.UndecidedKey(a) != j.UndecidedKey(b) {
					t.Fatalf("%s, with %s %s: %v and %v", j.Kit.Key, tr.Key(), text, j.Truth(a), j.Truth(b))
				}
			}
		}
	}
	if met == 0 {
		t.Error("no two machines had one undecided key")
	}
}

func unknownIn(tr *machine.Trait, s machine.Snapshot) bool { return s.At(tr).Grade == machine.Unknown }

// What a screen is told of an operator is what a rule is checked by: it is
// taken with as many values as it says, and with one fewer or more refused.
func TestOpsTakeWhatTheySay(t *testing.T) {
	slot := map[fit.Op][2]string{
		fit.Present:    {"probe", "model"},
		fit.Absent:     {"probe", "model"},
		fit.Contains:   {"mainboard", "processor"},
		fit.Version:    {"firmware", "version"},
		fit.Compatible: {"firmware", "version"},
	}
	for _, k := range fit.Ops() {
		at, ok := slot[k.Op]
		if !ok {
			at = [2]string{"supply", "volts"}
		}
		for n := 0; n <= 3; n++ {
			var values []string
			for i := range n {
				values = append(values, fmt.Sprint(12+i))
			}
			_, err := fit.NewJudge(
				fit.Kit{
					Key: "k",
					Needs: fit.Requirement{
						Label: "x",
						Test:  &fit.Test{Slot: at[0], Trait: at[1], Op: k.Op, Values: values, Least: machine.Observed},
					},
				},
				voc,
			)
			if want := n >= k.Least && n <= k.Most; (err == nil) != want {
				t.Errorf("%s with %d values: %v", k.Op, n, err)
			}
		}
	}
}

// Two tests of one number are refused together exactly when no number passes
// both, tried at every whole number that the trait allows.
func TestNeverIsNeitherTooStrictNorTooLax(t *testing.T) {
	random := rand.New(rand.NewSource(23))
	volts, _ := plain.Trait("mainboard.bootloader-size")
	test := func() fit.Requirement {
		lo := 6 + random.Intn(50)
		op, values := fit.AtLeast, []string{fmt.Sprint(lo)}
		switch random.Intn(4) {
		case 0:
			op = fit.AtMost
		case 1:
			op, values = fit.Between, []string{fmt.Sprint(lo), fmt.Sprint(min(60, lo+random.Intn(10)))}
		case 2:
			op = fit.Equal
		}
		return fit.Requirement{
			Label: "x",
			Test:  &fit.Test{Slot: "mainboard", Trait: "bootloader-size", Op: op, Values: values, Least: machine.Observed},
		}
	}
	refused := 0
	for range 400 {
		a, b := test(), test()
		barred := random.Intn(2) == 0
		needs := fit.Requirement{Label: "all", All: []fit.Requirement{a, b}}
		if barred {
			needs.All[1] = fit.Requirement{Label: "not", None: []fit.Requirement{b}}
		}
		one := func(r fit.Requirement) *fit.Judge {
			j, err := fit.NewJudge(fit.Kit{Key: "k", Needs: r}, plain)
			if err != nil {
				t.Fatal(err)
			}
			return j
		}
		ja, jb := one(a), one(b)
		possible := false
		for v := volts.Min; v <= volts.Max; v++ {
			s := plainly(t, map[string]string{"mainboard.bootloader-size": fmt.Sprint(v)})
			possible = possible || ja.Truth(s).Answer() == fit.Fits && (jb.Truth(s).Answer() == fit.Fits) != barred
		}
		_, err := fit.NewJudge(fit.Kit{Key: "k", Needs: needs}, plain)
		if (err == nil) != possible {
			t.Errorf(
				"%s %v and %s %v, barred %v: possible %v, but %v",
				a.Test.Op,
				a.Test.Values,
				b.Test.Op,
				b.Test.Values,
				barred,
				possible,
				err,
			)
		}
		if err != nil {
			refused++
		}
	}
	if refused < 50 || refused > 350 {
		t.Errorf("%d of 400 refused: the cases show nothing", refused)
	}
}

// What a kit costs of the print area and adds to moving mass is a use of these
// budgets without being written as one; and a plan finds what the kits before
// it have left.
func TestAreaAndMassAreSpent(t *testing.T) {
	kit := func(key string, loss, grams float64) *fit.Judge {
		j, err := fit.NewJudge(
			fit.Kit{
				Key:           key,
				Name:          key,
				AreaLoss:      [3]float64{loss, 0, 0},
				ToolheadGrams: grams,
				Needs: fit.Requirement{
					Label: "a board",
					Test:  &fit.Test{Slot: "mainboard", Trait: "model", Op: fit.Present},
				},
				Uses: []fit.Use{{Capacity: "print-width", Amount: loss, For: "dock", Keep: 180}},
			},
			plain,
		)
		if err != nil {
			t.Fatal(err)
		}
		return j
	}
	s := plainly(
		t,
		map[string]string{"mainboard.model": "b", "frame.x": "235", "toolhead.grams": "300", "carriage.bears": "500"},
	)
	first, second := kit("first", 40, 120), kit("second", 20, 100)
	for _, j := range []*fit.Judge{first, second} {
		if a := j.Verdict(s).Answer; a != fit.Fits {
			t.Errorf("%s alone: %s", j.Kit.Key, a)
		}
	}
	after, err := first.After(s, nil)
	if err != nil {
		t.Fatal(err)
	}
	if x, g := after.Fact("frame.x"), after.Fact("toolhead.grams"); x.Value.Text != "195" || g.Value.Text != "420" {
		t.Errorf("after the first: %s mm, %s g", x.Value.Text, g.Value.Text)
	}
	said := arithmetics(second.Verdict(after).Reasons)
	for _, want := range []string{"195 print width X − 20 dock = 175 mm left, 180 mm must be",
		"500 heaviest toolhead the shop lets it carry − 420 mass − 100 this kit = −20 g left"} {
		if !quantitytest.Holds(said, want) {
			t.Errorf("the second after the first lacks %q:\n%s", want, said)
		}
	}
	// Nothing known before, nothing known after; but what is taken is remembered.
	blank := plainly(t, map[string]string{"mainboard.model": "b"})
	if after, err = first.After(blank, nil); err != nil || after.Fact("frame.x").Known() {
		t.Errorf("a width out of nowhere: %v", err)
	}
	if said := arithmetics(second.Verdict(after).Reasons); !quantitytest.Holds(said, "− 40 dock − 20 dock") {
		t.Errorf("an unknown width: %s", said)
	}
}

// Ways and amperes are noted by hand, so that what a kit takes is noted too.
func TestWhatIsNotedAsFreeIsTaken(t *testing.T) {
	k := fit.Kit{
		Key:  "k",
		Name: "k",
		Uses: []fit.Use{
			{Capacity: "toolhead-ways", Amount: 3},
			{Capacity: "toolhead-ways", Amount: 2},
			{Capacity: "mains-amperes", Amount: 3.3},
			{Capacity: "flash", Amount: 5},
		},
	}
	s := plainly(t, map[string]string{"toolhead-board.ways": "12", "circuit.others": "4", "firmware.size": "186"})
	for key, want := range map[machine.Key]string{"toolhead-board.ways": "7", "circuit.others": "7.3",
		"firmware.size": "191"} {
		p, err := fit.Project(s, k, nil)
		if f := p.After.Fact(key); err != nil || f.Value.Text != want || f.Grade != machine.Observed {
			t.Errorf("%s is %s, want %s: %v", key, f.Value.Text, want, err)
		}
	}
	k.Effects = []fit.Effect{{Slot: "toolhead-board", Model: "another", Traits: map[string]string{"ways": "9"}}}
	if p, _ := fit.Project(s, k, nil); p.After.Fact("toolhead-board.ways").Value.Text != "9" {
		t.Errorf("a board that is exchanged has its own pins: %s", p.After.Fact("toolhead-board.ways").Value.Text)
	}
}

// An additional change takes of the budgets besides the kit: it can be made only
// where both go in, and what it takes is gone for the next.
func TestFurtherChangesTakeToo(t *testing.T) {
	kit := fit.Kit{Key: "k", Name: "k", Uses: []fit.Use{{Capacity: "flash", Amount: 5}},
		Needs: fit.Requirement{Any: []fit.Requirement{
			{
				Label: "header",
				Test: &fit.Test{
					Slot:   "mainboard",
					Trait:  "probe-port",
					Op:     fit.Equal,
					Values: []string{"yes"},
					Least:  machine.Observed,
				},
			},
			{
				Label: "adapter",
				Additional: &fit.AdditionalChange{
					Key:   "a",
					Title: "adapter",
					Uses:  []fit.Use{{Capacity: "display-header", Amount: 1}, {Capacity: "flash", Amount: 3}},
				},
			}}}}
	j, err := fit.NewJudge(kit, voc)
	if err != nil {
		t.Fatal(err)
	}
	on := func(port, display, size string) machine.Snapshot {
		return facts(
			t,
			map[string]string{
				"mainboard.model":           "b",
				"mainboard.probe-port":      port,
				"mainboard.display-port":    display,
				"mainboard.flash":           "256",
				"mainboard.bootloader-size": "8/proven",
				"firmware.family":           "compiled",
				"firmware.size":             size,
			},
		)
	}
	for name, tt := range map[string]struct {
		on   machine.Snapshot
		want fit.Answer
	}{
		"its own header":                     {on("yes", "no", "240"), fit.Fits},
		"by the adapter":                     {on("no", "yes", "240"), fit.FitsIf}, // 256 − 8 − 240 − 5 − 3 = 0
		"no header for the adapter":          {on("no", "no", "240"), fit.DoesNotFit},
		"flash for the kit and not for both": {on("no", "yes", "241"), fit.DoesNotFit},
		"flash for the kit alone":            {on("yes", "yes", "241"), fit.Fits},
	} {
		v := j.Verdict(tt.on)
		row := fit.NewMatrix([]*fit.Judge{j}).Judge(tt.on, nil)
		if v.Answer != tt.want || row.Truths[0].Answer() != tt.want {
			t.Errorf("%s: %s, in the matrix %s; want %s", name, v.Answer, row.Truths[0].Answer(), tt.want)
		}
		if tt.want == fit.FitsIf && (len(v.Additional) != 1 || v.Additional[0].Key != "a") {
			t.Errorf("%s: further %+v", name, v.Additional)
		}
	}
	s := on("no", "yes", "200")
	after, err := j.After(s, j.Verdict(s).Additional)
	if err != nil || !after.Is("mainboard.display-port", "no") {
		t.Errorf("the header is taken: %v", err)
	}
	said := arithmetics(using(t, fit.Use{Capacity: "flash", Amount: 1}).Verdict(after).Reasons)
	if !quantitytest.Holds(said, "− 208 size of the build − 1 this kit") {
		t.Errorf("kit and additional change took 8 KiB: %s", said)
	}
	if _, err := fit.NewJudge(fit.Kit{Key: "k",
		Needs: fit.Requirement{Additional: &fit.AdditionalChange{Title: "x", Uses: []fit.Use{{Capacity: "tea"}}}}},
		voc); err == nil {
		t.Error("a budget that there is not was taken")
	}
}

// What a kit's parts take by being what they are counts beside what a further
// change is written to free, or to take.
func TestPartsCountBesideWhatIsWritten(t *testing.T) {
	for _, tt := range []struct {
		amount float64 // of the additional change; negative frees
		need   bool    // the additional change is needed anyhow
		want   fit.Answer
		left   float64
	}{
		{-10, false, fit.FitsIf, 0}, // 310 − 60 − 220 − 40 = −10
		{-25, false, fit.FitsIf, 15},
		{-5, false, fit.DoesNotFit, 0},
		{-10, true, fit.FitsIf, 0},
		{5, true, fit.DoesNotFit, 0},
	} {
		other := fit.AdditionalChange{
			Key:   "f",
			Title: "something else",
			Uses:  []fit.Use{{Capacity: "supply-watts", Amount: tt.amount}},
		}
		needs := fit.Requirement{Label: "either", Any: []fit.Requirement{{Label: "f", Additional: &other}}}
		if !tt.need {
			needs.Any = append(
				needs.Any,
				fit.Requirement{
					Label: "a bed",
					Test:  &fit.Test{Slot: "plate", Trait: "mains", Op: fit.Equal, Values: []string{"no"}, Least: machine.Observed},
				},
			)
		}
		j, err := fit.NewJudge(
			fit.Kit{
				Key:     "k",
				Name:    "kit",
				Needs:   needs,
				Effects: []fit.Effect{{Slot: "heater", Model: "Forge", Traits: map[string]string{"watts": "60"}}},
			},
			plain,
		)
		if err != nil {
			t.Fatal(err)
		}
		s := plainly(
			t,
			map[string]string{"supply.watts": "310", "heater.watts": "40", "bed-heater.watts": "220", "plate.mains": "no"},
		)
		v := j.Verdict(s)
		if v.Answer != tt.want {
			t.Errorf("%+v: %s, %s", tt, v.Answer, arithmetics(v.Reasons))
		}
		if v.Answer != fit.FitsIf {
			continue
		}
		after, err := j.After(s, v.Additional)
		if short := using(t, fit.Use{Capacity: "supply-watts", Amount: 100}).Short("supply-watts", after); err != nil ||
			short != 100-tt.left {
			t.Errorf("%+v: for 100 W more it is short by %g, %v", tt, short, err)
		}
	}
}

// An additional change that frees something of a budget, or fits a part that offers
// more, makes the kit fit with it where the budget alone does not suffice.
func TestFurtherChangesRelieve(t *testing.T) {
	larger := fit.AdditionalChange{
		Key:     "larger",
		Title:   "larger supply",
		Price:   40,
		Minutes: 60,
		Effects: []fit.Effect{{Slot: "supply", Model: "Torrent", Traits: map[string]string{"watts": "500"}}},
	}
	slimmer := fit.AdditionalChange{
		Key:     "slim",
		Title:   "a slimmer build",
		Minutes: 30,
		Uses:    []fit.Use{{Capacity: "flash", Amount: -20, For: "what is left out"}},
	}
	kit := fit.Kit{
		Key:  "k",
		Name: "kit",
		Uses: []fit.Use{{Capacity: "supply-watts", Amount: 60}, {Capacity: "flash", Amount: 43}},
		Needs: fit.Requirement{Label: "all", All: []fit.Requirement{
			{
				Label: "a supply of 300 W",
				Any: []fit.Requirement{
					{
						Label: "one",
						Test: &fit.Test{Slot: "supply", Trait: "watts", Op: fit.AtLeast, Values: []string{"300"},
							Least: machine.Marked},
					},
					{Label: "larger", Additional: &larger},
				},
			},
			{
				Label: "a build",
				Any: []fit.Requirement{
					{Label: "any", Test: &fit.Test{Slot: "firmware", Trait: "size", Op: fit.Known, Least: machine.Observed}},
					{Label: "slim", Additional: &slimmer},
				},
			}}},
	}
	j, err := fit.NewJudge(kit, voc)
	if err != nil {
		t.Fatal(err)
	}
	for _, tt := range []struct {
		watts, bed, size string
		want             fit.Answer
		made             string
	}{
		{"400", "220", "150", fit.Fits, ""},
		{"350", "220", "150", fit.FitsIf, "larger supply"},                  // 350 − 40 − 220 − 40 − 60 = −10
		{"280", "220", "150", fit.FitsIf, "larger supply"},                  // and the need asks for it too: once
		{"350", "220", "190", fit.FitsIf, "larger supply; a slimmer build"}, // 256 − 28 − 190 − 43, +20
		// 150 W short before, 60 afterwards: no worse
		{"350", "420", "150", fit.FitsIf, "larger supply"},
		{"350", "700", "150", fit.FitsIf, "larger supply"},
		{"400", "220", "220", fit.DoesNotFit, ""}, // 35 KiB short, 15 with what is freed
		{"", "220", "150", fit.LookFirst, ""},
	} {
		all := map[string]string{
			"heater.watts":              "40",
			"plate.mains":               "no",
			"mainboard.flash":           "256",
			"mainboard.bootloader-size": "28/proven",
			"firmware.family":           "compiled",
			"firmware.size":             tt.size,
			"bed-heater.watts":          tt.bed,
			"supply.watts":              tt.watts,
		}
		if tt.watts == "" {
			delete(all, "supply.watts")
		}
		s := facts(t, all)
		v := j.Verdict(s)
		if v.Answer != tt.want || tt.want != fit.LookFirst && titlesOf(v.Additional) != tt.made {
			t.Errorf("%+v: %s, %s", tt, v.Answer, v.Headline)
		}
		if tt.want == fit.DoesNotFit && !quantitytest.Holds(v.Headline, "short by 35") {
			t.Errorf("it is short by 35 KiB: %s", v.Headline)
		}
		if tt.want == fit.LookFirst && !slices.ContainsFunc(v.Look, func(l fit.Look) bool {
			return slices.Contains(l.Keys, "supply.watts")
		}) {
			t.Errorf("the supply is to be looked at: %+v", v.Look)
		}
		if row := fit.NewMatrix([]*fit.Judge{j}).Judge(s, nil); row.Truths[0].Answer() != v.Answer {
			t.Errorf("%+v: the matrix says %s", tt, row.Truths[0].Answer())
		}
		bed, _ := quantity.Recorded(tt.bed)
		after, err := j.After(s, v.Additional)
		short := using(t, fit.Use{Capacity: "supply-watts", Amount: 1000}).Short("supply-watts", after)
		if tt.want == fit.FitsIf && (err != nil || short != 1000-(500-40-bed-40-60)) {
			t.Errorf("%+v: afterwards for 1000 W short by %g, %v", tt, short, err)
		}
	}
}

// Of the build of another family nothing is known; of the same family, all else
// stays.
func TestFamilyChangeForgetsTheBuild(t *testing.T) {
	s := facts(
		t,
		map[string]string{
			"mainboard.model":      "b",
			"firmware.family":      "compiled",
			"firmware.version":     "2.1",
			"firmware.size":        "186",
			"firmware.listed-chip": "yes",
		},
	)
	for family, kept := range map[string]bool{"hosted": false, "compiled": true} {
		j, err := fit.NewJudge(
			fit.Kit{
				Key:  "k",
				Name: "k",
				Needs: fit.Requirement{Label: "a board", Test: &fit.Test{Slot: "mainboard", Trait: "model",
					Op: fit.Present}},
				Effects: []fit.Effect{{Slot: "firmware", Model: "new", Traits: map[string]string{"family": family}}},
			},
			voc,
		)
		if err != nil {
			t.Fatal(err)
		}
		after, err := j.After(s, nil)
		if err != nil {
			t.Fatal(err)
		}
		f := after
		if !f.Is("firmware.family", family) || !f.Is("firmware.listed-chip", "yes") ||
			f.Fact("firmware.version").Known() != kept ||
			f.Fact("firmware.size").Known() != kept {
			t.Errorf("%s: version %v, size %v", family, f.Fact("firmware.version").Value, f.Fact("firmware.size").Value)
		}
	}
}
