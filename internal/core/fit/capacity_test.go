package fit_test

import (
	"fmt"
	"math/rand"
	"strings"
	"testing"

	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/machine/machinetest"
	"wardifex/internal/core/quantity/quantitytest"
)

// power is a machine with two hotends whose supply has a little to spare.
var power = map[string]string{
	"structure.complete": "yes",
	"structure.heads":    "together",
	"supply.model":       "Torrent",
	"supply.watts":       "350",
	"supply.volts":       "24",
	"heater.model":       "Forge",
	"heater.watts":       "40",
	"heater-2.model":     "none",
	"bed-heater.model":   "mat",
	"bed-heater.watts":   "220",
	"plate.model":        "sheet",
	"plate.mains":        "no",
}

// with is a set of values with some changed; "" takes one out.
func with(base map[string]string, pairs ...string) map[string]string {
	out := map[string]string{}
	for k, v := range base {
		out[k] = v
	}
	for i := 0; i < len(pairs); i += 2 {
		if out[pairs[i]] = pairs[i+1]; pairs[i+1] == "" {
			delete(out, pairs[i])
		}
	}
	return out
}

func fitting(t testing.TB, uses []fit.Use, effects ...fit.Effect) *fit.Judge {
	t.Helper()
	j, err := fit.NewJudge(fit.Kit{Key: "k", Name: "kit", Effects: effects, Uses: uses,
		Needs: fit.Requirement{
			Label: "a machine",
			Test: &fit.Test{
				Slot:   "structure",
				Trait:  "complete",
				Op:     fit.Equal,
				Values: []string{"yes"},
				Least:  machine.Claimed,
			},
		}}, plain)
	if err != nil {
		t.Fatal(err)
	}
	return j
}

// What each capacity says where evidence is weak, missing, in conflict, or where a
// part and what was written of it meet.
func TestCapacitiesByCase(t *testing.T) {
	header := with(nil, "structure.complete", "yes", "mainboard.model", "Brace", "mainboard.probe-port", "yes")
	head := with(
		nil,
		"structure.complete",
		"yes",
		"carriage.model",
		"plate",
		"carriage.bears",
		"500",
		"toolhead.model",
		"head",
	)
	second := fit.Effect{Slot: "heater-2", Model: "Forge", Traits: map[string]string{"watts": "60"}}
	probe := func(pairs ...string) map[string]string { return with(header, pairs...) }
	use := func(key string, n float64) []fit.Use { return []fit.Use{{Capacity: key, Amount: n}} }
	forge := func(watts string) fit.Effect {
		return fit.Effect{Slot: "heater", Model: "Anvil", Traits: map[string]string{"watts": watts}}
	}
	for _, tt := range []struct {
		name    string
		on      map[string]string
		uses    []fit.Use
		effects []fit.Effect
		want    fit.Answer
	}{
		// 350 − 40 − 220 − 40 = 50 W are left.
		{"a second heater of 60 W while both print", power, nil, []fit.Effect{second}, fit.DoesNotFit},
		{"a second heater of 60 W while the heads are changed", with(power, "structure.heads", "changed by the machine"),
			nil, []fit.Effect{second}, fit.Fits},
		{"a second heater of 60 W on heads changed by hand", with(power, "structure.heads", "by hand"), nil,
			[]fit.Effect{second}, fit.Fits},
		{"a second heater where it is only claimed that the heads are changed",
			with(power, "structure.heads", "by hand/claimed"), nil, []fit.Effect{second}, fit.LookFirst},

		{"a bed of which nobody knows whether the mains heat it",
			with(power, "plate.mains", "", "bed-heater.watts", "300"), use("supply-watts", 10), nil, fit.LookFirst},
		{"a bed that is claimed not to be on the mains",
			with(power, "plate.mains", "no/claimed", "bed-heater.watts", "300"), use("supply-watts", 10), nil, fit.LookFirst},
		{"a bed that is claimed to be on the mains",
			with(power, "plate.mains", "yes/claimed", "bed-heater.watts", "300"), use("supply-watts", 10), nil, fit.LookFirst},
		{"a bed that is on the mains, proven", with(power, "plate.mains", "yes/proven", "bed-heater.watts", "300"),
			use("supply-watts", 10), nil, fit.Fits},
		{"a bed that is on the supply, proven", with(power, "plate.mains", "no/proven", "bed-heater.watts", "300"),
			use("supply-watts", 10), nil, fit.DoesNotFit},

		// With a bed of 270 W nothing is left.
		{"another heater for a weaker one, on a full supply", with(power, "bed-heater.watts", "270"), nil,
			[]fit.Effect{forge("50")}, fit.DoesNotFit},
		{"another heater just as strong, on an overloaded supply", with(power, "bed-heater.watts", "280"), nil,
			[]fit.Effect{forge("40")}, fit.Fits},
		{"another heater for one that nobody read, with room for it", with(power, "heater.watts", ""), nil,
			[]fit.Effect{forge("50")}, fit.Fits},
		{"another heater for one that nobody read, on a full supply",
			with(power, "heater.watts", "", "bed-heater.watts", "270"), nil, []fit.Effect{forge("50")}, fit.LookFirst},
		{"another heater for one claimed as strong, on a full supply",
			with(power, "heater.watts", "50/claimed", "bed-heater.watts", "270"), nil, []fit.Effect{forge("50")}, fit.LookFirst},

		{"a header beside a probe of unknown kind", probe("probe.model", "Plumbline"), use("probe-header", 1), nil,
			fit.LookFirst},
		{"a header beside a probe of kinds in conflict",
			probe("probe.model", "Plumbline", "probe.senses", "surface, by touch|metal, without touch"), use("probe-header",
				1), nil, fit.LookFirst},
		{"a header beside a probe that is claimed to touch",
			probe("probe.model", "Plumbline", "probe.senses", "surface, by touch/claimed"), use("probe-header",
				1), nil, fit.LookFirst},
		{"a header beside a probe without touch",
			probe("probe.model", "Plumbline", "probe.senses", "metal, without touch"), use("probe-header", 1), nil, fit.Fits},
		{"a header where nobody looked for a probe", probe(), use("probe-header", 1), nil, fit.LookFirst},

		{"a carriage whose limit the shop has not set", with(head, "carriage.bears", "", "toolhead.grams", "900"),
			use("head-mass", 500), nil, fit.Fits},
		{"a limit that is the shop's word", with(head, "carriage.bears", "500/claimed", "toolhead.grams", "400"),
			use("head-mass", 101), nil, fit.DoesNotFit},
		{"a head that is claimed to be light", with(head, "toolhead.grams", "100/claimed"), use("head-mass", 100), nil,
			fit.LookFirst},
		{"a head that is claimed to be heavy", with(head, "toolhead.grams", "900/claimed"), use("head-mass", 100), nil,
			fit.LookFirst},
	} {
		v := fitting(t, tt.uses, tt.effects...).Verdict(plainly(t, tt.on))
		if v.Answer != tt.want {
			t.Errorf("%s: %s, want %s\n%s", tt.name, v.Answer, tt.want, arithmetics(v.Reasons))
		}
	}
}

// A motor is known by its current alone; two on a split lead are one to the board;
// a third motor of the axis has a driver of its own.
func TestOutputsByMotor(t *testing.T) {
	base := with(
		nil,
		"structure.complete",
		"yes",
		"mainboard.model",
		"Brace",
		"mainboard.driver-outputs",
		"8",
		"z-drive.motors",
		"one",
	)
	for _, tt := range []struct {
		name   string
		on     map[string]string
		lo, hi float64
	}{
		{"four motors", with(base, "motor-e2.model", "none"), 4, 4},
		{"a second extruder's motor, known by its current alone", with(base, "motor-e2.current", "0.8"), 3, 3},
		{"its current, and a claim that there is none",
			with(base, "motor-e2.current", "0.8", "motor-e2.model", "none/claimed"), 3, 3},
		{"two motors on a split lead", with(base, "z-drive.motors", "two on one driver", "motor-e2.model", "none"), 4, 4},
		{"two motors on two drivers", with(base, "z-drive.motors", "two on two drivers", "motor-e2.model", "none"), 3, 3},
		{"nobody looked at Z", with(base, "z-drive.motors", "", "motor-e2.model", "none"), 3, 4},
	} {
		if lo, hi := fit.Left(plainly(t, with(tt.on, "structure.heads", "together")), "driver-outputs"); lo != tt.lo ||
			hi != tt.hi {
			t.Errorf("%s: %g to %g outputs left, want %g to %g", tt.name, lo, hi, tt.lo, tt.hi)
		}
	}
}

// A head's mass counts once: the part's own, with what a kit brought besides; weighed
// complete, whatever is on it is in the weight, until something more is fitted.
func TestMassOfAHead(t *testing.T) {
	on := plainly(t, with(nil, "structure.complete", "yes", "carriage.bears", "600", "toolhead.grams", "300"))
	left := func(s machine.Snapshot, want float64, when string) {
		t.Helper()
		if lo, hi := fit.Left(s, "head-mass"); lo != want || hi != want {
			t.Errorf("%s: %g to %g g left, want %g", when, lo, hi, want)
		}
	}
	after := func(s machine.Snapshot, kit fit.Kit) machine.Snapshot {
		t.Helper()
		p, err := fit.Project(s, kit, nil)
		if err != nil {
			t.Fatal(err)
		}
		return p.After
	}
	left(on, 300, "as weighed")
	head := fit.Kit{
		Key:           "h",
		Name:          "Wisp head",
		Effects:       []fit.Effect{{Slot: "toolhead", Model: "Wisp", Traits: map[string]string{"grams": "280"}}},
		ToolheadGrams: -20,
	}
	left(after(on, head), 320, "a head of 280 g, whose kit says the difference as well")
	bracket := fit.Kit{
		Key:           "b",
		Name:          "bracket",
		Effects:       []fit.Effect{{Slot: "probe", Model: "Plumbline"}},
		ToolheadGrams: 50,
	}
	withProbe := after(on, bracket)
	left(withProbe, 250, "weighed before the probe")
	left(after(after(on, head), bracket), 270, "a new head, then a probe of 50 g")

	// Weighed again afterwards, the probe is in the weight.
	all := machinetest.Readings(
		plain,
		map[string]string{"structure.complete": "yes", "carriage.bears": "600", "toolhead.grams": "300"},
	)
	later := machinetest.Day.AddDate(0, 1, 0)
	p, err := fit.Project(on, bracket, nil)
	if err != nil {
		t.Fatal(err)
	}
	for i := range p.Taken {
		p.Taken[i].From, p.Taken[i].AfterReading = later, int64(len(all))
	}
	left(
		machine.NewSnapshot(plain, machine.Record{Readings: all, Takings: p.Taken}),
		250,
		"on record, weighed before the probe",
	)
	again := machinetest.Readings(plain, map[string]string{"toolhead.grams": "352"})
	again[0].ID, again[0].TakenAt = 100, later.AddDate(0, 0, 1)
	left(
		machine.NewSnapshot(plain, machine.Record{Readings: append(all, again...), Takings: p.Taken}),
		248,
		"weighed complete after it",
	)
	// Taken out again, what it took is back, by what was weighed with it and without.
	for i := range p.Taken {
		p.Taken[i].To, p.Taken[i].UntilReading = later.AddDate(0, 0, 2), 200
	}
	left(
		machine.NewSnapshot(plain, machine.Record{Readings: all, Takings: p.Taken}),
		300,
		"weighed before the probe, which is out again",
	)
	left(
		machine.NewSnapshot(plain, machine.Record{Readings: append(all, again...), Takings: p.Taken}),
		298,
		"weighed with the probe, which is out again",
	)
}

// Ten loads that together use exactly what is left fit, in whatever order they are
// written and fitted; a thousandth more does not.
func TestExactlyWhatIsLeft(t *testing.T) {
	on := plainly(t, power) // 50 W are left
	loads := []float64{0.1, 0.2, 0.3, 0.7, 1.1, 2.3, 4.9, 9.7, 13.3, 17.4}
	rng := rand.New(rand.NewSource(1))
	for range 50 {
		rng.Shuffle(len(loads), func(i, j int) { loads[i], loads[j] = loads[j], loads[i] })
		var uses []fit.Use
		s := on
		for i, n := range loads {
			uses = append(uses, fit.Use{Capacity: "supply-watts", Amount: n, For: fmt.Sprint("load ", i)})
			j := fitting(t, uses[i:])
			if v := j.Verdict(s); v.Answer != fit.Fits {
				t.Fatalf("%v, load %d: %s\n%s", loads, i, v.Answer, arithmetics(v.Reasons))
			}
			var err error
			if s, err = j.After(s, nil); err != nil {
				t.Fatal(err)
			}
		}
		if v := fitting(t, uses).Verdict(on); v.Answer != fit.Fits ||
			!quantitytest.Holds(arithmetics(v.Reasons), "= 0 W left") {
			t.Fatalf("%v at once: %s\n%s", loads, v.Answer, arithmetics(v.Reasons))
		}
		if v := fitting(t, append(uses,
			fit.Use{Capacity: "supply-watts", Amount: 0.001, For: "a breath"})).Verdict(on); v.Answer != fit.DoesNotFit {
			t.Fatalf("%v and a thousandth: %s", loads, v.Answer)
		}
	}
}

// An amount that cannot be is refused; sums with huge terms that came in by a file
// do not run over.
func TestTermsThatCannotBe(t *testing.T) {
	for _, n := range []float64{1e300, -1e300} {
		if _, err := fit.NewJudge(fit.Kit{Key: "k", Name: "kit", Uses: []fit.Use{{Capacity: "supply-watts", Amount: n}},
			Needs: fitting(t, nil).Kit.Needs}, plain); err == nil {
			t.Errorf("a use of %g W is taken", n)
		}
	}
	s := plainly(
		t,
		power,
	).Take(machine.Taking{Capacity: "supply-watts", Amount: 1e300}, machine.Taking{Capacity: "supply-watts",
		Amount: 1e300})
	if lo, hi := fit.Left(s, "supply-watts"); lo > -1e9 || hi > -1e9 {
		t.Errorf("%g to %g W left with two loads of 1e300 W", lo, hi)
	}
}

// A heater of which nobody said where it is may be one of a hotend: whether it takes
// an output is left open, and asked for.
func TestNotPlacedLeavesRulesOpen(t *testing.T) {
	loose := machine.Position{Key: "loose-heater", Label: "Loose heater", Kind: "heater"}
	wide, err := catalogue.Shipped().Vocabulary(loose)
	if err != nil {
		t.Fatal(err)
	}
	values := map[string]string{
		"structure.complete":       "yes",
		"structure.heads":          "together",
		"mainboard.model":          "Brace",
		"mainboard.heater-outputs": "2",
		"heater.model":             "Forge",
		"loose-heater.model":       "Stove",
	}
	list := []machine.Position{loose}
	for _, key := range []string{"structure", "mainboard", "heater", "bed-heater"} {
		list = append(list, *wide.At(key))
	}
	s := machine.NewSnapshot(wide, machine.Record{Readings: machinetest.Readings(wide, values), Positions: list})
	if lo, hi := fit.Left(s, "heater-outputs"); lo != 0 || hi != 1 {
		t.Errorf("%g to %g outputs left, want 0 to 1", lo, hi)
	}
	j, err := fit.NewJudge(fit.Kit{Key: "k", Name: "kit", Uses: []fit.Use{{Capacity: "heater-outputs", Amount: 1}},
		Needs: fit.Requirement{
			Label: "a board",
			Test:  &fit.Test{Slot: "mainboard", Trait: "model", Op: fit.Present, Least: machine.Observed},
		}}, wide)
	if err != nil {
		t.Fatal(err)
	}
	if v := j.Verdict(s); v.Answer != fit.LookFirst ||
		!strings.Contains(arithmetics(v.Reasons), "Loose heater") {
		t.Errorf("%s\n%s", v.Answer, arithmetics(v.Reasons))
	}
}
