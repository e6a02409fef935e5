package identify

import (
	"fmt"
	"strings"

	"wardifex/internal/core/bench"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
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
	for i, e := range s.Each(parts.Extruder) {
		known := s.Of(e, parts.ExtruderSteps)
		measured := known.Value.Number
		if !known.Known() && i == 0 { // what is calibrated is on record of the first
			measured = steps
		}
		out = append(out, drive(s, e, measured)...)
	}
	return out
}

func drive(s machine.Snapshot, extruder *machine.Position, measured float64) []Contradiction {
	d := bench.DriveOf(s, extruder)
	if !d.Contradicted(measured) {
		return nil
	}
	motor, driver := bench.DriveParts(s, extruder)
	c := say(false, nil, keys(at{motor, parts.MotorStepAngle}, at{driver, parts.DriverMicrosteps}, at{extruder, parts.ExtruderRatio}, at{extruder, parts.ExtruderGearDiameter}),
		"A %g° motor at 1/%g step on a %g:1 drive with a %g mm gear gives %.0f steps/mm, and %g were found: one of these parts is another.", d.StepAngle, d.Microsteps, d.Ratio, d.Diameter, d.StepsPerMM(), measured)
	for _, e := range d.Explain(measured) {
		c.Explains = append(c.Explains, e.Why)
	}
	if len(c.Explains) == 0 {
		c.Explains = []string{"No single fact explains it: two are other than stated, or the measurement is wrong."}
	}
	return []Contradiction{c}
}

// at is a trait at a position.
type at struct {
	p    *machine.Position
	name machine.TraitOf
}

// keys are the keys of traits, those that the machine has.
func keys(facts ...at) []machine.Key {
	var out []machine.Key
	for _, f := range facts {
		if f.p != nil {
			out = append(out, machine.KeyOf(f.p.Key, f.name.Name))
		}
	}
	return out
}

func say(safety bool, explains []string, facts []machine.Key, format string, args ...any) Contradiction {
	if explains == nil {
		explains = []string{}
	}
	return Contradiction{Keys: facts, Sentence: fmt.Sprintf(format, args...), Explains: explains, Safety: safety}
}

// bears is how far the voltage of a heater may be from its supply's. Source: from
// memory: a supply within 10 % of its nominal voltage is that supply.
const bears = 0.1

// heaters must be made for the voltage they get.
func heaters(s machine.Snapshot) []Contradiction {
	var out []Contradiction
	misread := []string{"the heater's marking was misread", "the supply is another than its label says"}
	for i, heater := range s.Each(parts.Heater) {
		supply := s.Structure().FedBy(heater).To
		if supply == nil || !s.Vocabulary().Is(supply.Kind, parts.Supply) || onMains(s, heater) {
			continue
		}
		is, gets := s.Of(heater, parts.HeaterVolts), s.Of(supply, parts.SupplyVolts)
		if !is.Known() || !gets.Known() {
			continue
		}
		facts := keys(at{supply, parts.SupplyVolts}, at{heater, parts.HeaterVolts})
		f := gets.Value.Number / is.Value.Number
		which := ""
		if i > 0 {
			which = " (" + heater.Label + ")"
		}
		switch {
		case is.Value.Number < gets.Value.Number*(1-bears):
			out = append(out, say(true, misread, facts,
				"A %s V heater%s on a %s V supply takes %.1f times its power: fire. Do not switch it on until one of the two is read again.", is.Value.Text, which, gets.Value.Text, f*f))
		case is.Value.Number > gets.Value.Number*(1+bears):
			out = append(out, say(false, misread, facts,
				"A %s V heater%s on a %s V supply gives %.0f %% of its power: it will not reach temperature.", is.Value.Text, which, gets.Value.Text, f*f*100))
		}
	}
	return append(out, overload(s)...)
}

// onMains reports whether a heater is heated from the mains: by its own voltage, or
// for the bed by its plate.
func onMains(s machine.Snapshot, heater *machine.Position) bool {
	if v, ok := s.Number(heater, parts.HeaterVolts); ok && v > 60 {
		return true
	}
	return heater.Serves == machine.Bed && s.Says(s.First(parts.Plate), parts.PlateMains, "yes")
}

// overload is heaters that take more than their supply gives.
func overload(s machine.Snapshot) []Contradiction {
	var out []Contradiction
	for _, supply := range s.Each(parts.Supply) {
		gives, ok := s.Number(supply, parts.SupplyWatts)
		if !ok {
			continue
		}
		load, facts := 0.0, keys(at{supply, parts.SupplyWatts})
		for _, heater := range s.Each(parts.Heater) {
			w, known := s.Number(heater, parts.HeaterWatts)
			if known && !onMains(s, heater) && s.Structure().FedBy(heater).To == supply {
				load += w
				facts = append(facts, keys(at{heater, parts.HeaterWatts})...)
			}
		}
		if load > gives {
			out = append(out, say(true, nil, facts, "The heaters take %.0f W; the supply gives %s W.", load, machine.FormatNumber(gives)))
		}
	}
	return out
}

// board compares what is read off the chip with what its marking says.
func board(s machine.Snapshot) []Contradiction {
	var out []Contradiction
	p := s.First(parts.Mainboard)
	marking := s.Of(p, parts.MainboardProcessor)
	if !marking.Known() {
		return nil
	}
	m := bench.DecodeProcessorMarking(marking.Value.Text)
	if s.Says(p, parts.MainboardWidth, bench.EightBit) {
		if m.Complete && strings.TrimSpace(marking.Value.Text) == m.Code {
			out = append(out, say(false, []string{"the board is a 32-bit one"}, keys(at{p, parts.MainboardWidth}, at{p, parts.MainboardProcessor}),
				"%s is an ordering code of a 32-bit processor, and the board is recorded as 8-bit.", m.Code))
		}
		return out
	}
	if f := s.Of(p, parts.MainboardFlash); m.Complete && f.Known() && int(f.Value.Number) != m.FlashKiB {
		out = append(out, say(false, []string{"the marking was misread", "the board is a twin with other flash than its maker says"}, keys(at{p, parts.MainboardProcessor}, at{p, parts.MainboardFlash}),
			"The marking %s stands for %d KiB of flash; %s KiB is recorded.", m.Code, m.FlashKiB, f.Value.Text))
	}
	if f := s.Of(p, parts.MainboardPins); m.Complete && f.Known() && int(f.Value.Number) != m.Pins {
		out = append(out, say(false, []string{"the marking was misread"}, keys(at{p, parts.MainboardProcessor}, at{p, parts.MainboardPins}),
			"The marking %s stands for %d pins; %s are recorded.", m.Code, m.Pins, f.Value.Text))
	}
	return out
}

// flash cannot hold more than there is.
func flash(s machine.Snapshot) []Contradiction {
	var out []Contradiction
	p, build := s.First(parts.Mainboard), s.First(parts.Firmware)
	size, room, boot := s.Of(build, parts.FirmwareSize), s.Of(p, parts.MainboardFlash), s.Of(p, parts.MainboardBootloaderSize)
	hosted := s.Says(build, parts.FirmwareFamily, parts.Hosted)
	if left := room.Value.Number - boot.Value.Number - size.Value.Number; size.Known() && room.Known() && left < 0 && !hosted {
		out = append(out, say(false, []string{"the board has more flash than recorded", "the size of another build was read", "there is no bootloader"},
			keys(at{p, parts.MainboardFlash}, at{p, parts.MainboardBootloaderSize}, at{build, parts.FirmwareSize}),
			"A build of %s KiB runs in %s KiB of flash with %s KiB taken by the bootloader: %.0f KiB too many.", size.Value.Text, room.Value.Text, orZero(boot.Value.Text), -left))
	}
	none := s.Says(p, parts.MainboardBootloader, "no")
	if none && boot.Known() && boot.Value.Number > 0 {
		out = append(out, say(false, []string{"the bootloader's share is only claimed"}, keys(at{p, parts.MainboardBootloader}, at{p, parts.MainboardBootloaderSize}),
			"There is no bootloader, and %s KiB are recorded as taken by one.", boot.Value.Text))
	}
	if none && s.Says(p, parts.MainboardUpload, parts.USB) {
		out = append(out, say(false, nil, keys(at{p, parts.MainboardBootloader}, at{p, parts.MainboardUpload}),
			"Without a bootloader no build goes in over USB: it takes the in-circuit programmer."))
	}
	return out
}

func orZero(text string) string {
	if text == "" {
		return "0"
	}
	return text
}

// family is where the motion code runs; a host and a display must go with it, and a
// driver's step range with its chip.
func family(s machine.Snapshot) []Contradiction {
	var out []Contradiction
	build := s.First(parts.Firmware)
	if s.Says(build, parts.FirmwareFamily, parts.Hosted) {
		host := s.First(parts.Host)
		if host == nil && s.Listed() > machine.Claimed || host != nil && s.ModelAt(host) == machine.None {
			out = append(out, say(false, []string{"the family is another", "the host stands elsewhere"}, keys(at{build, parts.FirmwareFamily}, at{host, machine.TraitOf{Name: machine.ModelTrait}}),
				"The hosted family runs on a host computer, and none is fitted."))
		}
		if display := s.First(parts.Display); s.Says(display, parts.DisplayKind, parts.ClosedDisplay) {
			out = append(out, say(false, []string{"the family is another"}, keys(at{build, parts.FirmwareFamily}, at{display, parts.DisplayKind}),
				"A closed display stays dead under the hosted family."))
		}
	}
	for _, driver := range s.Each(parts.Driver) {
		set, okSet := s.Number(driver, parts.DriverMicrosteps)
		finest, okFinest := s.Number(driver, parts.DriverMaxMicrosteps)
		if okSet && okFinest && set > finest {
			out = append(out, say(false, []string{"the chip is another than recorded"}, keys(at{driver, parts.DriverMicrosteps}, at{driver, parts.DriverMaxMicrosteps}),
				"1/%g step is set, and this chip goes to 1/%g.", set, finest))
		}
	}
	return out
}

// linerBears is the temperature that a PTFE liner bears, in °C. Source: from memory;
// the trade changes liners early above it.
const linerBears = 240

// probes that sense metal need some, and liners bear no more than they do.
func probes(s machine.Snapshot) []Contradiction {
	var out []Contradiction
	plate := s.First(parts.Plate)
	for _, probe := range s.Each(parts.Probe) {
		if s.Says(probe, parts.ProbeSenses, parts.ByMetal) && s.Says(plate, parts.PlateMetal, "no") {
			out = append(out, say(false, []string{"there is metal under the surface"}, keys(at{probe, parts.ProbeSenses}, at{plate, parts.PlateMetal}),
				"The probe senses metal, and there is none under the surface: it would drive the nozzle into the bed."))
		}
	}
	for _, hotend := range s.Each(parts.Hotend) {
		if works, ok := s.Number(hotend, parts.HotendWorkingTemperature); ok && works > linerBears && s.Says(hotend, parts.HotendLiner, "yes") {
			out = append(out, say(true, []string{"the hotend has no liner in its melt zone"}, keys(at{hotend, parts.HotendLiner}, at{hotend, parts.HotendWorkingTemperature}),
				"A PTFE liner works at %g °C here, above its rating: toxic fumes. Usual caution: stay at or below %d °C, ventilate.", works, linerBears))
		}
	}
	return out
}
