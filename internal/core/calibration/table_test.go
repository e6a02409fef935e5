package calibration_test

import (
	"fmt"
	"maps"
	"slices"
	"strings"
	"testing"
	"time"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/machine/machinetest"
)

var (
	voc = catalogue.Vocabulary()
	now = time.Date(2026, 5, 1, 12, 0, 0, 0, time.UTC)
)

func on(day int) time.Time { return now.AddDate(0, 0, day) }

// with is a machine with one head and a bed that moves along Y, and what else is said.
func with(more map[string]string) machine.Snapshot {
	known := map[string]string{
		"frame.bed-moves": "along Y", "tube.length": "45", "probe.model": "P", "probe.senses": "surface, by touch",
		"firmware.family": "compiled", "firmware.model": "b",
		"mainboard.model": "m",
	}
	maps.Copy(known, more)
	maps.DeleteFunc(known, func(_, value string) bool { return value == "" })
	return machinetest.Facts(voc, known)
}

// twoHeads are the facts of a second head, and how the heads share the machine.
func twoHeads(mode string, more map[string]string) machine.Snapshot {
	known := map[string]string{
		"structure.heads": mode, "hotend-2.model": "H", "heater-2.model": "h", "sensor-2.model": "s",
		"nozzle-2.model": "n", "extruder-2.model": "e",
		"motor-e2.model": "m", "driver-e2.microsteps": "16", "toolhead-2.model": "t", "tube-2.length": "45",
		"fan-duct-2.model": "f",
	}
	maps.Copy(known, more)
	return with(known)
}

// recorded is a record of every calibration of every subject, kept where such values
// usually are.
func recorded(s machine.Snapshot) []calibration.Record {
	var out []calibration.Record
	for _, c := range calibration.All() {
		store := calibration.StorePart
		switch c.Kind {
		case calibration.HotendPID,
			calibration.BedPID,
			calibration.Steps,
			calibration.ZOffset,
			calibration.Mesh,
			calibration.ProbeXY:
			store = calibration.StoreSettings
		case calibration.LoadLength:
			store = calibration.StoreCard
		}
		for _, x := range c.Subjects(s) {
			out = append(
				out,
				calibration.Record{
					ID:      int64(len(out) + 1),
					Kind:    c.Kind,
					Subject: x,
					Value:   "1",
					Store:   store,
					Passed:  true,
					At:      on(-30),
					By:      "x",
				},
			)
		}
	}
	return out
}

// gone writes what is no longer valid, after a bar what is to be entered again, and after
// another what cannot be told.
func gone(list []calibration.Invalid) string {
	var words [3][]string
	for _, v := range list {
		at := map[calibration.Remedy]int{calibration.MeasureAgain: 0, calibration.EnterAgain: 1,
			calibration.CannotTell: 2}[v.Remedy]
		name := string(v.Kind)
		if v.Subject != "" {
			name += "@" + strings.ReplaceAll(string(v.Subject), " ", "-")
		}
		words[at] = append(words[at], name)
	}
	out := strings.Join(words[0], " ")
	for i, mark := range []string{" | ", " ? "} {
		if len(words[i+1]) > 0 {
			out += mark + strings.Join(words[i+1], " ")
		}
	}
	return strings.TrimSpace(out)
}

func exchanged(s machine.Snapshot, slots ...string) calibration.Difference {
	d := calibration.Difference{Before: s, After: s, Exchanged: map[string]string{}}
	for _, slot := range slots {
		d.Exchanged[slot] = slot + ": old → new"
	}
	return d
}

// of writes a kind for several subjects: "motor-direction@axis-x motor-direction@axis-y".
func of(kind string, subjects ...string) string {
	var out []string
	for _, x := range subjects {
		out = append(out, kind+"@"+x)
	}
	return strings.Join(out, " ")
}

// What each part of a machine with one head makes invalid when it is exchanged. Source of
// every row: common practice.
func TestEveryPart(t *testing.T) {
	stored := " | hotend-pid@head-1 bed-pid@bed steps-per-mm@head-1 probe-offset@head-1 z-offset@head-1 " +
		"mesh@surface filament-change@head-1"
	drives := of("motor-direction", "head-1", "axis-x", "axis-y", "axis-z")
	proofs := of("protection", "head-1", "bed")
	table := map[string]string{
		"mainboard": proofs + " " + drives + " " + of(
			"motor-current",
			"head-1",
			"axis-x",
			"axis-y",
			"axis-z",
		) + " sensor-sanity" + stored,
		"firmware":       proofs + " " + drives + " sensor-sanity" + stored,
		"toolhead-board": "", "display": "", "host": "", "relay": "", "circuit": "", "case-fan": "",
		"extruder-bracket": "", "runout": "", "mod": "", "structure": "",
		"supply":   "hotend-pid@head-1 bed-pid@bed",
		"card":     "| filament-change@head-1",
		"driver-x": "motor-current@axis-x axis-steps@axis-x", "driver-y": "motor-current@axis-y axis-steps@axis-y",
		"driver-z": "motor-current@axis-z axis-steps@axis-z",
		"driver-e": "motor-current@head-1 steps-per-mm@head-1",
		"motor-x":  "motor-direction@axis-x motor-current@axis-x axis-steps@axis-x",
		"motor-y":  "motor-direction@axis-y motor-current@axis-y axis-steps@axis-y",
		"motor-z":  "motor-direction@axis-z motor-current@axis-z axis-steps@axis-z",
		"motor-e":  "motor-direction@head-1 motor-current@head-1 steps-per-mm@head-1",
		"carriage": "resonance@axis-x print-area",
		"toolhead": "probe-offset@head-1 mesh@surface resonance@axis-x print-area",
		"bracket":  "probe-offset@head-1 z-offset@head-1 mesh@surface",
		"probe":    "probe-offset@head-1 z-offset@head-1 mesh@surface resonance@axis-x",
		"hotend": "hotend-pid@head-1 probe-offset@head-1 z-offset@head-1 mesh@surface resonance@axis-x " +
			"retraction@head-1 filament-change@head-1",
		"heater":     "protection@head-1 hotend-pid@head-1",
		"sensor":     "protection@head-1 sensor-sanity hotend-pid@head-1",
		"nozzle":     "z-offset@head-1 retraction@head-1",
		"fan-duct":   "hotend-pid@head-1",
		"extruder":   "steps-per-mm@head-1 resonance@axis-x retraction@head-1 filament-change@head-1",
		"tube":       "retraction@head-1 filament-change@head-1",
		"frame":      "tramming@bed mesh@surface resonance@axis-x resonance@axis-y print-area",
		"belts":      "axis-steps@axis-x axis-steps@axis-y resonance@axis-x resonance@axis-y",
		"z-drive":    "axis-steps@axis-z tramming@bed mesh@surface",
		"tool-plate": "resonance@axis-x print-area",
		"plate":      "bed-pid@bed tramming@bed z-offset@head-1 mesh@surface resonance@axis-y",
		"bed-heater": "protection@bed bed-pid@bed resonance@axis-y",
		"bed-sensor": "protection@bed sensor-sanity bed-pid@bed",
		"springs":    "tramming@bed z-offset@head-1 mesh@surface",
		"surface":    "mesh@surface resonance@axis-y",      // the probe touches it, and follows
		"x-endstop":  "", "y-endstop": "", "z-endstop": "", // the probe is in its place
	}
	s := with(nil)
	for _, p := range s.Structure().Positions() {
		want, ok := table[p.Key]
		if !ok {
			t.Errorf("there is no row for %s", p.Key)
			continue
		}
		d := exchanged(s, p.Key)
		if got := gone(d.Invalidated(recorded(s))); got != want {
			t.Errorf("%s:\n got %s\nwant %s", p.Key, got, want)
		}
		for _, v := range d.Invalidated(recorded(s)) {
			if v.Reason == "" || v.Title == "" {
				t.Errorf("%s: %s without a reason", p.Key, v.Kind)
			}
		}
	}
}

// Other machines, and other things that are done to them. Source: common practice.
func TestOtherMachines(t *testing.T) {
	for _, tt := range []struct {
		name string
		s    machine.Snapshot
		at   string
		want string
	}{
		{"the surface under a probe for metal", with(map[string]string{"probe.senses": "metal, without touch"}),
			"surface", "z-offset@head-1 mesh@surface resonance@axis-y"},
		{"the surface without a probe", with(map[string]string{"probe.model": "none"}), "surface",
			"z-offset@head-1 resonance@axis-y"},
		{"the surface under a probe of which nobody knows how it senses", with(map[string]string{"probe.senses": ""}),
			"surface", "mesh@surface resonance@axis-y ? z-offset@head-1"},
		{"the endstop without a probe", with(map[string]string{"probe.model": "none"}), "z-endstop", "z-offset@head-1"},
		{"the nozzle of head 2, heads together", twoHeads("together", nil), "nozzle-2",
			"retraction@head-2 nozzle-to-nozzle@head-2"},
		{"the nozzle of head 1, heads together", twoHeads("together", nil), "nozzle",
			"z-offset@head-1 retraction@head-1 nozzle-to-nozzle@head-2"},
		{"the nozzle of head 2, heads changed by hand", twoHeads("by hand", nil), "nozzle-2",
			"z-offset@head-2 retraction@head-2 nozzle-to-nozzle@head-2"},
		{"the hotend of head 2, changed by the machine", twoHeads("changed by the machine", nil), "hotend-2",
			"hotend-pid@head-2 probe-offset@head-2 z-offset@head-2 mesh@surface resonance@axis-x-with-head-2 " +
				"retraction@head-2 filament-change@head-2 nozzle-to-nozzle@head-2"},
		{"the heater of head 2", twoHeads("together", nil), "heater-2", "protection@head-2 hotend-pid@head-2"},
		{"the toolhead of head 2, by hand", twoHeads("by hand", nil), "toolhead-2", "resonance@axis-x-with-head-2 " +
			"print-area@head-2"},
		{"the motor of head 2", twoHeads("together", nil), "motor-e2", "motor-direction@head-2 motor-current@head-2 " +
			"steps-per-mm@head-2"},
		{"an extruder on the frame", with(map[string]string{"tube.length": "450"}), "extruder",
			"steps-per-mm@head-1 retraction@head-1 filament-change@head-1"},
		{"an extruder that may ride along", with(map[string]string{"tube.length": ""}), "extruder",
			"steps-per-mm@head-1 retraction@head-1 filament-change@head-1 ? resonance@axis-x"},
		{"the plate of a bed that does not move along Y", with(map[string]string{"frame.bed-moves": "up and down only"}),
			"plate", "bed-pid@bed tramming@bed z-offset@head-1 mesh@surface"},
		{"the toolhead where nobody knows how the bed moves", with(map[string]string{"frame.bed-moves": ""}), "toolhead",
			"probe-offset@head-1 mesh@surface resonance@axis-x print-area ? resonance@axis-y"},
		{"the supply of a bed on the mains", with(map[string]string{"plate.mains": "yes"}), "supply", "hotend-pid@head-1"},
		{"the host, where it keeps values", with(nil), "host", ""},
	} {
		if got := gone(exchanged(tt.s, tt.at).Invalidated(recorded(tt.s))); got != tt.want {
			t.Errorf("%s:\n got %s\nwant %s", tt.name, got, tt.want)
		}
	}
}

// Heads that are exchanged for each other: what belongs to either is not valid.
func TestSwappedParts(t *testing.T) {
	s := twoHeads("together", nil)
	got := gone(exchanged(s, "hotend", "hotend-2").Invalidated(recorded(s)))
	for _, want := range []string{"hotend-pid@head-1", "hotend-pid@head-2", "retraction@head-1", "retraction@head-2",
		"nozzle-to-nozzle@head-2"} {
		if !strings.Contains(got, want) {
			t.Errorf("%s is valid still: %s", want, got)
		}
	}
}

// A supply of the same voltage, a driver of the same step range: what depends on the
// voltage or the range alone is valid still.
func TestTheSameTrait(t *testing.T) {
	for _, tt := range []struct{ slot, trait, was, is, want string }{
		{"supply", "volts", "24", "24.1", ""},
		{"supply", "volts", "24", "12", "hotend-pid@head-1 bed-pid@bed"},
		{"supply", "volts", "", "24", "hotend-pid@head-1 bed-pid@bed"},
		{"driver-e", "microsteps", "16", "16", "motor-current@head-1"},
		{"driver-e", "microsteps", "16", "32", "motor-current@head-1 steps-per-mm@head-1"},
	} {
		d := exchanged(with(map[string]string{tt.slot + "." + tt.trait: tt.was}), tt.slot)
		d.After = with(map[string]string{tt.slot + "." + tt.trait: tt.is})
		if got := gone(d.Invalidated(recorded(d.Before))); got != tt.want {
			t.Errorf("%s, %s %q → %q: %s, want %s", tt.slot, tt.trait, tt.was, tt.is, got, tt.want)
		}
	}
}

// A reading that differs makes invalid what depends on it; one that makes known what was
// unknown, or only claimed, does not.
func TestReadAnew(t *testing.T) {
	for _, tt := range []struct{ key, was, is, want string }{
		{"driver-e.microsteps", "16", "32", "steps-per-mm@head-1"},
		{"driver-e.microsteps", "16", "16", ""},
		{"driver-e.microsteps", "", "32", ""},
		{"driver-x.microsteps", "16", "32", "axis-steps@axis-x"},
		{"z-drive.lead", "8", "2", "axis-steps@axis-z"},
		{"z-drive.lead", "8", "8", ""},
		{"extruder.ratio", "1", "3", "steps-per-mm@head-1"},
		{"plate.temperature", "60", "85", "mesh@surface"},
		{"nozzle.model", "brass", "steel", "z-offset@head-1 retraction@head-1"},
		{"nozzle.bore", "0.4", "0.6", ""},
		{"toolhead.grams", "300", "420", "resonance@axis-x"},
		{"motor-x.leads", "1A 2A 1B 2B", "1A 1B 2A 2B", "motor-direction@axis-x"},
		{"sensor.type", "100k thermistor", "104 thermistor", "protection@head-1 sensor-sanity hotend-pid@head-1"},
	} {
		before, after := with(map[string]string{tt.key: tt.was}), with(map[string]string{tt.key: tt.is})
		trait, _ := voc.Trait(machine.Key(tt.key))
		got := gone(calibration.ReadAnew(before, after, trait, now).Invalidated(recorded(before)))
		if got != tt.want {
			t.Errorf("%s %q → %q: %q, want %q", tt.key, tt.was, tt.is, got, tt.want)
		}
	}
	before, after := with(
		map[string]string{"driver-e.microsteps": "16"},
	), with(
		map[string]string{"driver-e.microsteps": "32"},
	)
	trait, _ := voc.Trait("driver-e.microsteps")
	if got := calibration.ReadAnew(before, after, trait, on(-31)).Invalidated(recorded(before)); len(got) != 0 {
		t.Errorf("calibrated after the reading was taken, and invalid: %v", got)
	}
	version := calibration.ReadAnew(
		with(map[string]string{"firmware.version": "2.0"}),
		with(map[string]string{"firmware.version": "2.1"}),
		mustTrait("firmware.version"),
		now,
	)
	if got := gone(version.Invalidated(recorded(with(nil)))); !strings.Contains(got, "protection@bed") ||
		!strings.Contains(got, "| hotend-pid@head-1") {
		t.Errorf("another version runs: %s", got)
	}
}

func mustTrait(key machine.Key) *machine.Trait { t, _ := voc.Trait(key); return t }

// The board on the head is flashed: its extruder's direction is to be seen again, and
// not that of X; the head's protection, and not the bed's.
func TestToolheadBoardFlashed(t *testing.T) {
	withBoard := withToolheadBoard(t)
	records := recorded(withBoard)
	got := gone(exchanged(withBoard, "firmware-1").Invalidated(records))
	if want := "protection@head-1 motor-direction@head-1 sensor-sanity"; got != want {
		t.Errorf("got %s, want %s", got, want)
	}
	got = gone(exchanged(withBoard, "firmware").Invalidated(records))
	if strings.Contains(got, "motor-direction@head-1") || !strings.Contains(got, "motor-direction@axis-x") ||
		!strings.Contains(got, "protection@head-1") {
		t.Errorf("the mainboard is flashed: %s", got)
	}
}

// withToolheadBoard is a machine whose head has a board of its own, which drives the
// extruder and reads the head's sensor, and runs a build of its own.
func withToolheadBoard(t *testing.T) machine.Snapshot {
	t.Helper()
	run := machine.Position{
		Key:    "firmware-1",
		Kind:   "firmware",
		Label:  "Build of the toolhead board",
		Serves: machine.Head(1),
		N:      1,
	}
	own, err := catalogue.Shipped().Vocabulary(run)
	if err != nil {
		t.Fatal(err)
	}
	list := own.Usual(func(p machine.Position) bool { return p.Key == "firmware-1" || p.Key == "toolhead-board" })
	for i := range list {
		switch list[i].Key {
		case "driver-e", "sensor":
			list[i].FedBy = &machine.Link{To: "toolhead-board", Grade: machine.Observed}
		}
	}
	return machine.NewSnapshot(own, machine.Record{Positions: list})
}

// Whatever is exchanged, what becomes invalid is what depends on it, and nothing else;
// a kind of which the machine has no subject never is.
func TestInvalidIsWhatDepends(t *testing.T) {
	for name, s := range map[string]machine.Snapshot{"one head": with(nil),
		"nothing known": machinetest.Facts(voc, nil), "by hand": twoHeads("by hand",
			nil), "together": twoHeads("together", nil)} {
		records := recorded(s)
		for i := range records {
			records[i].Store = calibration.StorePart
		}
		for _, p := range s.Structure().Positions() {
			invalid := map[string]bool{}
			for _, v := range exchanged(s, p.Key).Invalidated(records) {
				invalid[fmt.Sprint(v.Kind, v.Subject)] = true
			}
			for _, c := range calibration.All() {
				for _, x := range c.Subjects(s) {
					depends := slices.ContainsFunc(
						c.DependsOn(s, x),
						func(n calibration.Dependency) bool { return n.At == p && (n.Part || !sameAfter(s, n)) },
					)
					if depends != invalid[fmt.Sprint(c.Kind, x)] {
						t.Errorf("%s, %s: %s of %s depends %v, invalid %v", name, p.Key, c.Kind, x, depends, !depends)
					}
				}
			}
		}
	}
}

// sameAfter reports whether all traits of a dependency are known, and so the same.
func sameAfter(s machine.Snapshot, n calibration.Dependency) bool {
	return !slices.ContainsFunc(n.Traits, func(name machine.TraitOf) bool { return !s.Of(n.At, name).Known() })
}

// A head that carries a build of its own brings it with it: while another is mounted, its
// flash touches nothing that the mainboard does.
func TestHeadsCarryBuilds(t *testing.T) {
	carried := machine.Position{
		Key:    "firmware-head-2",
		Kind:   "firmware",
		Label:  "Build of head 2",
		Serves: machine.Head(2),
		N:      1,
	}
	own, err := catalogue.Shipped().Vocabulary(carried)
	if err != nil {
		t.Fatal(err)
	}
	for mounted, want := range map[string]string{"1": "firmware", "2": "firmware-head-2"} {
		rs := machinetest.Readings(
			own,
			map[string]string{"structure.heads": "by hand", "structure.mounted": mounted, "hotend-2.model": "H"},
		)
		list := own.Usual(func(p machine.Position) bool { return p.Key == "firmware-head-2" || p.Key == "hotend-2" })
		for i := range list {
			if list[i].Key == carried.Key {
				list[i].FedBy = &machine.Link{To: "mainboard", Grade: machine.Observed}
			}
		}
		s := machine.NewSnapshot(own, machine.Record{Readings: rs, Positions: list})
		if runs := calibration.Runs(s, own.At("mainboard")); len(runs) != 1 || runs[0].Key != want {
			t.Errorf("head %s mounted: %v", mounted, runs)
		}
		other := map[string]string{"firmware": "firmware-head-2", "firmware-head-2": "firmware"}[want]
		if got := gone(exchanged(s, other).Invalidated(recorded(s))); got != "" {
			t.Errorf("head %s mounted, %s flashed: %s", mounted, other, got)
		}
	}
}

// The configuration of a host goes with the hosted family.
func TestLeavingHosts(t *testing.T) {
	for is, want := range map[string]string{"scripted": "| mesh@surface", "hosted": "", "": ""} {
		before, after := with(map[string]string{"firmware.family": "hosted"}), with(map[string]string{"firmware.family": is})
		record := []calibration.Record{
			{
				ID:      1,
				Kind:    calibration.Mesh,
				Subject: calibration.Surface,
				Value:   "6 × 6",
				Store:   calibration.StoreHost,
				Passed:  true,
				At:      on(-1),
			},
		}
		d := calibration.Difference{Before: before, After: after, Exchanged: map[string]string{"firmware": "another build"}}
		if got := gone(d.Invalidated(record)); got != want {
			t.Errorf("hosted → %q: %q, want %q", is, got, want)
		}
	}
}
