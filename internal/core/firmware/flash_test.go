package firmware_test

import (
	"slices"
	"strings"
	"testing"

	"wardifex/internal/core/firmware"
)

// Every trap of a flash, by the ways in at which it lies, with the step that prevents it and what
// that step must come before. Source: common practice.
func TestEveryTrapHasItsStep(t *testing.T) {
	const card, usb, programmer, jumper, hosted = "memory card", "USB", "in-circuit programmer", "USB with a boot jumper",
		"hosted"
	for _, tt := range []struct {
		trap   firmware.Trap
		ways   []string
		step   string
		before string
	}{
		{firmware.SameName, []string{card}, "file-name", "write-card"},
		{firmware.OtherName, []string{card}, "file-name", "write-card"},
		{firmware.OtherOffset, []string{card, usb, jumper, programmer, hosted}, "make-build", "flash"},
		{firmware.OtherProcessor, []string{card, usb, jumper, programmer, hosted}, "make-build", "flash"},
		{firmware.StaleObjects, []string{card, usb, jumper, programmer, hosted}, "make-build", "flash"},
		{firmware.MixedVersions, []string{card, usb, jumper, programmer}, "make-build", "flash"},
		{firmware.CardFormat, []string{card}, "write-card", "card-in"},
		{firmware.CutShort, []string{card}, "card-in", "flash"},
		{firmware.LostBootloader, []string{programmer}, "bootloader", "programmer-power"},
		{firmware.LostBootloader, []string{jumper}, "jumper-on", "flash"},
		{firmware.BackFeed, []string{programmer}, "programmer-power", "flash"},
		{firmware.WrongWay, []string{programmer}, "programmer-power", "flash"},
		{firmware.BackFeed, []string{usb}, "connect", "flash"},
		{firmware.BlankDisplay, []string{card, usb, jumper, programmer}, "flash", ""},
		{firmware.NotRunning, []string{card, usb, jumper, programmer, hosted}, "flash", ""},
		{firmware.JumperLeft, []string{jumper}, "flash", ""},
		{firmware.LostWayBack, []string{hosted}, "host-backup", "flash"},
		{firmware.LaptopPort, []string{hosted}, "host-power", "flash"},
		{firmware.ClosedScreen, []string{hosted}, "host-power", "flash"},
		{firmware.OpenPassword, []string{hosted}, "host-power", "flash"},
		{firmware.HostMismatch, []string{hosted}, "make-build", "flash"},
		{firmware.ShiftedOffset, []string{hosted}, "paper", ""},
	} {
		for _, way := range tt.ways {
			known := map[string]string{"firmware.family": "compiled", "mainboard.upload": way}
			if way == hosted {
				known = map[string]string{"firmware.family": "hosted"}
			}
			steps := firmware.Flashing{Machine: facts(known), Must: "x"}.Steps()
			at := func(key string) int {
				return slices.IndexFunc(steps, func(s firmware.FlashStep) bool { return s.Key == key })
			}
			i := at(tt.step)
			if i < 0 || !slices.Contains(steps[i].Prevents, tt.trap) || tt.before != "" && at(tt.before) <= i {
				t.Errorf("%s, by %s: no step %s before %q prevents it", tt.trap, way, tt.step, tt.before)
			}
		}
	}
}

// The start of the build as the board's bootloader leaves it, as people and as the build tools write it.
// 28 KiB = 28 × 1024 = 28672 = 0x7000 bytes.
func TestStartOfTheBuild(t *testing.T) {
	for offset, want := range map[string]string{"28": "0x7000", "8": "0x2000", "64": "0x10000", "": ""} {
		known := map[string]string{"firmware.family": "compiled", "mainboard.upload": "memory card"}
		if offset != "" {
			known["mainboard.start-offset"] = offset
		}
		steps := firmware.Flashing{Machine: facts(known), Must: "x"}.Steps()
		i := slices.IndexFunc(steps, func(s firmware.FlashStep) bool { return s.Key == "make-build" })
		lines := strings.Join(steps[i].Lines, "\n")
		if !slices.Contains(steps[i].Prevents, firmware.OtherOffset) || strings.Contains(lines, "0x") != (want != "") ||
			!strings.Contains(lines, want) {
			t.Errorf("%q KiB: %q, prevents %v", offset, lines, steps[i].Prevents)
		}
	}
}

// A name that no board has seen that flashed the last one, within eight characters.
func TestUniqueName(t *testing.T) {
	for _, tt := range []struct{ machine, last, want string }{
		{"Avocet 3", "", "avo1126a.bin"}, {"Avocet 3", "AVO1126A.BIN", "avo1126b.bin"}, {"Ä", "", "1126a.bin"},
	} {
		got := firmware.UniqueName(tt.machine, "2026-11-26", tt.last)
		if got != tt.want || len(strings.TrimSuffix(got, ".bin")) > 8 || firmware.CheckCardName(tt.last, got, "") != nil {
			t.Errorf("%s after %q: %s, want %s", tt.machine, tt.last, got, tt.want)
		}
	}
}

func TestPairs(t *testing.T) {
	for _, tt := range []struct {
		build firmware.Build
		bad   int
	}{
		{firmware.Build{Family: "compiled", Version: "2.1.2", ConfigVersion: "2.1.2"}, 0},
		{firmware.Build{Family: "compiled", Version: "2.1.2 (Nov 20) bench 4", ConfigVersion: "v2.1.2"}, 0},
		{firmware.Build{Family: "compiled", Version: "2.1.2", ConfigVersion: "2.0.9"}, 1},
		{firmware.Build{Family: "compiled", Version: "2.1.2"}, 0},
		{firmware.Build{Family: "hosted", Version: "0.12.0", HostVersion: "0.12.0"}, 0},
		{firmware.Build{Family: "hosted", Version: "0.11.0", HostVersion: "0.12.0", ConfigVersion: "0.12.0"}, 2},
	} {
		if got := tt.build.Pairs(); len(got) != tt.bad {
			t.Errorf("%+v: %q", tt.build, got)
		}
	}
}

// A label against the screen: just as long as a line, and one longer.
func TestLabel(t *testing.T) {
	for _, tt := range []struct {
		label   string
		columns float64
		says    string
	}{
		{"Avocet 2026-11-26abc", 20, ""}, {"Avocet 2026-11-26abcd", 20, "is cut off"}, {"Avocet 2026-11-26abcd", 40, ""},
		{"Avocet 2026-11-26abcd", 0, "not on record"}, {"", 20, "no label"}, {"Plover 1126", 20, "does not name"},
		{"Avocet", 20, "no date"},
	} {
		got := firmware.Build{Label: tt.label}.CheckLabel("Avocet", tt.columns)
		if (got == "") != (tt.says == "") || !strings.Contains(got, tt.says) {
			t.Errorf("%q in %g: %q", tt.label, tt.columns, got)
		}
	}
}

func TestAdvertised(t *testing.T) {
	b := firmware.Build{Version: "1.1.9", Advertised: &firmware.Advertised{Version: "2.0.6", Bootloader: "yes",
		Found:    "no",
		Supplier: "Tern Supplies"}}
	if got := b.Differs(); len(got) != 2 || !strings.Contains(got[0], "2.0.6 was advertised by Tern Supplies") ||
		!strings.Contains(got[1], "none was found") {
		t.Errorf("%q", got)
	}
	b.Advertised.Bootloader, b.Advertised.Found = "no", "yes"
	if got := b.Differs(); len(got) != 2 || !strings.Contains(got[1], "no bootloader was advertised") {
		t.Errorf("%q", got)
	}
	b.Advertised.Bootloader = "yes"
	b.Version, b.Advertised.Found = "2.0.6 (Nov)", "yes"
	if got := b.Differs(); len(got) != 0 {
		t.Errorf("%q", got)
	}
}

// What is checked before a flash: each limit from either side.
func TestGuards(t *testing.T) {
	at := func(n float64) *float64 { return &n }
	known := map[string]string{"firmware.family": "compiled", "mainboard.model": "Rook 3",
		"mainboard.processor": "8-bit 256K",
		"mainboard.flash":     "256", "mainboard.bootloader": "yes", "mainboard.bootloader-size": "8",
		"mainboard.upload":       "memory card",
		"mainboard.start-offset": "28", "display.columns": "20", "probe.senses": "surface, by touch"}
	good := firmware.Build{Name: "B", Family: "compiled", Version: "2.1.2", ConfigVersion: "2.1.2",
		Processor: "8-Bit 256k",
		KiB:       248, Offset: at(28), File: "new.bin", Label: "Avocet 1126",
		ConfiguredFor: firmware.Configuration(facts(known))}
	for name, tt := range map[string]struct {
		change func(*firmware.Build)
		level  firmware.GuardLevel
		what   string
	}{
		"all passes":      {func(*firmware.Build) {}, firmware.GuardPasses, ""},
		"a KiB too large": {func(b *firmware.Build) { b.KiB = 249 }, firmware.GuardStops, "Memory"},
		"another start":   {func(b *firmware.Build) { b.Offset = at(32) }, firmware.GuardStops, "Start offset"},
		"start unknown":   {func(b *firmware.Build) { b.Offset = nil }, firmware.GuardAsks, "Start offset"},
		"another chip":    {func(b *firmware.Build) { b.Processor = "32-bit" }, firmware.GuardStops, "Processor"},
		"mixed versions":  {func(b *firmware.Build) { b.ConfigVersion = "2.0" }, firmware.GuardStops, "Versions"},
		"the last name":   {func(b *firmware.Build) { b.File = "OLD.bin" }, firmware.GuardStops, "File name"},
		"another family":  {func(b *firmware.Build) { b.Family = "scripted" }, firmware.GuardAsks, "Family"},
		"another probe": {func(b *firmware.Build) {
			c := firmware.Configuration(facts(known))
			c["probe.senses"] = "metal, without touch"
			b.ConfiguredFor = c
		}, firmware.GuardStops, "Probe"},
	} {
		b := good
		tt.change(&b)
		g := firmware.Guards(b, facts(known), "Avocet", "old.bin")[0]
		if g.Level != tt.level || tt.what != "" && !strings.HasPrefix(g.What, tt.what) {
			t.Errorf("%s: %+v", name, g)
		}
	}
}

// What a bootloader of unknown size may take is counted: 256 KiB less at most 64.
func TestAnUnknownBootloaderMayTakeAll(t *testing.T) {
	known := map[string]string{"firmware.family": "compiled", "mainboard.flash": "256", "mainboard.bootloader": "yes"}
	for kib, want := range map[float64]firmware.GuardLevel{192: firmware.GuardPasses, 193: firmware.GuardAsks,
		252: firmware.GuardAsks, 257: firmware.GuardStops} {
		for _, g := range firmware.Guards(firmware.Build{Name: "B", Family: "compiled", KiB: kib}, facts(known), "", "") {
			if g.What == "Memory" && g.Level != want {
				t.Errorf("%g KiB: %+v, want %v", kib, g, want)
			}
		}
	}
	if use := firmware.FlashUseOf(facts(known), firmware.Build{KiB: 200}); use.Free != 56 || use.Least != -8 {
		t.Errorf("%g to %g KiB left", use.Least, use.Free)
	}
}

func TestMessages(t *testing.T) {
	for text, want := range map[string]string{
		"Option 'max_accel_to_decel' is not valid in section 'printer'": "does not know this key",
		"mcu 'mcu': version mismatch, host v0.12 mcu v0.11":             "two versions",
		"Unable to connect: /dev/ttyUSB0 no such file":                  "does not find the mainboard",
		"Heater extruder not heating at expected rate":                  "the protection has stopped the machine",
		"Error: MINTEMP triggered, system stopped":                      "open, shorted",
		"Lost communication with the board":                             "did not answer in time",
		"Probe triggered prior to movement":                             "reads closed where it should be open",
		"Endstop x still triggered after retract":                       "reads closed where it should be open",
		"All is well, probe at 3 mm":                                    "",
	} {
		got := firmware.MeaningsOf(text)
		if (len(got) == 0) != (want == "") || want != "" && !strings.Contains(got[0].Means, want) {
			t.Errorf("%q: %+v", text, got)
		}
	}
	two := firmware.MeaningsOf("Option 'kick' is not valid in section 'fan'\nOption 'step' is not valid in section 'x'\n" +
		"Option 'kick' is not valid in section 'fan'\n")
	if len(two) != 2 || two[0].Key != "kick" || two[1].Key != "step" || two[1].Section != "x" {
		t.Errorf("%+v", two)
	}
	if m := firmware.MeaningsOf("Option 'kick' is not valid in section 'fan_generic x'")[0]; m.Key != "kick" ||
		m.Section != "fan_generic x" {
		t.Errorf("%+v", m)
	}
}
