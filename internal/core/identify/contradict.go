package identify

import (
	"fmt"
	"strings"

	"wardifex/internal/core/bench"
	"wardifex/internal/core/machine"
)

// Contradiction is a set of facts that cannot all be true, or not together be
// right.
type Contradiction struct {
	Keys     []machine.Key `json:"keys" doc:"The facts concerned"`
	Sentence string        `json:"sentence"`
	Explains []string      `json:"explains" doc:"Single facts each of which would explain it, likeliest first"`
	Safety   bool          `json:"safety"`
}

// Contradictions lists what cannot be true together on a machine. steps is the
// extruder's steps/mm as calibrated, 0 when none is on record; a reading of it
// goes before.
func Contradictions(s machine.Snapshot, steps float64) []Contradiction {
	var out []Contradiction
	for _, rule := range []func(machine.Snapshot) []Contradiction{heaters, board, flash, family, probes} {
		out = append(out, rule(s)...)
	}
	for _, e := range []string{"extruder", "extruder-2"} {
		known := s.Fact(machine.KeyOf(e, "steps"))
		measured := known.Value.Number
		if !known.Known() && e == "extruder" {
			measured = steps
		}
		out = append(out, drive(s, e, measured)...)
	}
	return out
}

func drive(s machine.Snapshot, extruder string, measured float64) []Contradiction {
	d := bench.DriveOf(s, extruder)
	if !d.Contradicted(measured) {
		return nil
	}
	motor, driver := "motor-e", "driver-e"
	if extruder == "extruder-2" {
		motor, driver = "motor-e2", "driver-e2"
	}
	c := Contradiction{Keys: []machine.Key{machine.KeyOf(motor, "step-angle"), machine.KeyOf(driver, "microsteps"), machine.KeyOf(extruder, "ratio"), machine.KeyOf(extruder, "gear-diameter")},
		Sentence: fmt.Sprintf("A %g° motor at 1/%g step on a %g:1 drive with a %g mm gear gives %.0f steps/mm, and %g were found: one of these parts is another.", d.StepAngle, d.Microsteps, d.Ratio, d.Diameter, d.StepsPerMM(), measured)}
	for _, e := range d.Explain(measured) {
		c.Explains = append(c.Explains, e.Why)
	}
	if c.Explains == nil {
		c.Explains = []string{"No single fact explains it: two are other than stated, or the measurement is wrong."}
	}
	return []Contradiction{c}
}

func say(safety bool, explains []string, keys string, format string, args ...any) Contradiction {
	c := Contradiction{Sentence: fmt.Sprintf(format, args...), Explains: explains, Safety: safety}
	for _, k := range strings.Fields(keys) {
		c.Keys = append(c.Keys, machine.Key(k))
	}
	if c.Explains == nil {
		c.Explains = []string{}
	}
	return c
}

// heaters must be made for the voltage they get.
func heaters(s machine.Snapshot) []Contradiction {
	var out []Contradiction
	supply := s.Fact("supply.volts")
	load, keys := 0.0, "supply.watts"
	for _, slot := range []string{"heater", "heater-2", "bed-heater"} {
		v, w := s.Fact(machine.KeyOf(slot, "volts")), s.Fact(machine.KeyOf(slot, "watts"))
		mains := v.Value.Number > 60 || slot == "bed-heater" && s.Is("plate.mains", "yes")
		if w.Known() && !mains {
			load += w.Value.Number
			keys += " " + slot + ".watts"
		}
		switch {
		case !v.Known() || !supply.Known() || mains && slot == "bed-heater":
		case v.Value.Number < supply.Value.Number*0.9:
			f := supply.Value.Number / v.Value.Number
			out = append(out, say(true, []string{"the heater's marking was misread", "the supply is another than its label says"}, "supply.volts "+slot+".volts",
				"A %s V heater on a %s V supply takes %.1f times its power: fire. Do not switch it on until one of the two is read again.", v.Value.Text, supply.Value.Text, f*f))
		case v.Value.Number > supply.Value.Number*1.1:
			f := supply.Value.Number / v.Value.Number
			out = append(out, say(false, []string{"the heater's marking was misread", "the supply is another than its label says"}, "supply.volts "+slot+".volts",
				"A %s V heater on a %s V supply gives %.0f %% of its power: it will not reach temperature.", v.Value.Text, supply.Value.Text, f*f*100))
		}
	}
	if w := s.Fact("supply.watts"); w.Known() && load > w.Value.Number {
		out = append(out, say(true, nil, keys, "The heaters take %.0f W; the supply gives %s W.", load, w.Value.Text))
	}
	return out
}

// board compares what is read off the chip with what its marking says.
func board(s machine.Snapshot) []Contradiction {
	var out []Contradiction
	marking := s.Fact("mainboard.processor")
	if !marking.Known() {
		return nil
	}
	m := bench.DecodeProcessorMarking(marking.Value.Text)
	if s.Is("mainboard.width", "8-bit") {
		if m.Complete && strings.TrimSpace(marking.Value.Text) == m.Code {
			out = append(out, say(false, []string{"the board is a 32-bit one"}, "mainboard.width mainboard.processor", "%s is an ordering code of a 32-bit processor, and the board is recorded as 8-bit.", m.Code))
		}
		return out
	}
	if f := s.Fact("mainboard.flash"); m.Complete && f.Known() && int(f.Value.Number) != m.FlashKiB {
		out = append(out, say(false, []string{"the marking was misread", "the board is a twin with other flash than its maker says"}, "mainboard.processor mainboard.flash", "The marking %s stands for %d KiB of flash; %s KiB is recorded.", m.Code, m.FlashKiB, f.Value.Text))
	}
	if f := s.Fact("mainboard.pins"); m.Complete && f.Known() && int(f.Value.Number) != m.Pins {
		out = append(out, say(false, []string{"the marking was misread"}, "mainboard.processor mainboard.pins", "The marking %s stands for %d pins; %s are recorded.", m.Code, m.Pins, f.Value.Text))
	}
	return out
}

// flash cannot hold more than there is.
func flash(s machine.Snapshot) []Contradiction {
	var out []Contradiction
	size, room, boot := s.Fact("firmware.size"), s.Fact("mainboard.flash"), s.Fact("mainboard.bootloader-size")
	if left := room.Value.Number - boot.Value.Number - size.Value.Number; size.Known() && room.Known() && left < 0 && !s.Is("firmware.family", "hosted") {
		out = append(out, say(false, []string{"the board has more flash than recorded", "the size of another build was read", "there is no bootloader"}, "mainboard.flash mainboard.bootloader-size firmware.size",
			"A build of %s KiB runs in %s KiB of flash with %s KiB taken by the bootloader: %.0f KiB too many.", size.Value.Text, room.Value.Text, orZero(boot.Value.Text), -left))
	}
	if s.Is("mainboard.bootloader", "no") && boot.Known() && boot.Value.Number > 0 {
		out = append(out, say(false, []string{"the bootloader's share is only claimed"}, "mainboard.bootloader mainboard.bootloader-size", "There is no bootloader, and %s KiB are recorded as taken by one.", boot.Value.Text))
	}
	if s.Is("mainboard.bootloader", "no") && s.Is("mainboard.upload", "USB") {
		out = append(out, say(false, nil, "mainboard.bootloader mainboard.upload", "Without a bootloader no build goes in over USB: it takes the in-circuit programmer."))
	}
	return out
}

func orZero(text string) string {
	if text == "" {
		return "0"
	}
	return text
}

// family is where the motion code runs; a host and a display must go with it.
func family(s machine.Snapshot) []Contradiction {
	var out []Contradiction
	if s.Is("firmware.family", "hosted") {
		if s.Model("host") == machine.None {
			out = append(out, say(false, []string{"the family is another", "the host stands elsewhere"}, "firmware.family host.model", "The hosted family runs on a host computer, and none is fitted."))
		}
		if s.Is("display.kind", "closed, self-contained") {
			out = append(out, say(false, []string{"the family is another"}, "firmware.family display.kind", "A closed display stays dead under the hosted family."))
		}
	}
	for _, axis := range []string{"driver-x", "driver-y", "driver-z", "driver-e"} {
		set, finest := s.Fact(machine.KeyOf(axis, "microsteps")), s.Fact(machine.KeyOf(axis, "max-microsteps"))
		if set.Known() && finest.Known() && set.Value.Number > finest.Value.Number {
			out = append(out, say(false, []string{"the chip is another than recorded"}, axis+".microsteps "+axis+".max-microsteps", "1/%s step is set, and this chip goes to 1/%s.", set.Value.Text, finest.Value.Text))
		}
	}
	return out
}

// probes that sense metal need some.
func probes(s machine.Snapshot) []Contradiction {
	var out []Contradiction
	if s.Is("probe.senses", "metal, without touch") && s.Is("plate.metal", "no") {
		out = append(out, say(false, []string{"there is metal under the surface"}, "probe.senses plate.metal", "The probe senses metal, and there is none under the surface: it would drive the nozzle into the bed."))
	}
	if s.Is("hotend.liner", "yes") && s.Fact("hotend.working-temperature").Value.Number > 240 {
		out = append(out, say(true, []string{"the hotend has no liner in its melt zone"}, "hotend.liner hotend.working-temperature", "A PTFE liner works at %s °C here, above its rating: toxic fumes. Usual caution: stay at or below 240 °C, ventilate.", s.Fact("hotend.working-temperature").Value.Text))
	}
	return out
}
