package catalogue_test

import (
	"maps"
	"strings"
	"testing"

	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine/machinetest"
)

// known is a machine of which everything is read that a kit may ask for.
var known = map[string]string{
	"mainboard.model": "Brace board", "mainboard.width": "32-bit", "mainboard.chip-maker": "first source",
	"mainboard.flash": "512", "mainboard.bootloader-size": "28", "mainboard.probe-port": "yes",
	"mainboard.display-port": "yes", "mainboard.driver-outputs": "5",
	"driver-e.microsteps": "16", "driver-e.silent": "yes", "toolhead-board.model": "Gull board",
	"toolhead-board.ways": "12", "display.kind": "driven by the board", "display.plug": "yes",
	"host.power":   "a supply of its own",
	"supply.volts": "24", "supply.watts": "500", "circuit.amperes": "16", "circuit.others": "4",
	"relay.amperes": "25", "firmware.family": "compiled", "firmware.version": "2.1.2", "firmware.size": "186",
	"firmware.listed-chip": "yes", "firmware.max-extrude": "700", "firmware.objects": "yes",
	"frame.x": "235", "frame.y": "235", "frame.z": "250", "frame.z-room": "yes", "frame.hole-square": "101.5",
	"z-drive.motors": "one", "z-drive.output-amperes": "2", "motor-z.current": "0.8",
	"carriage.model": "Skerry carriage", "carriage.bracket-holes": "yes", "carriage.hole-spacing": "18",
	"carriage.screws-from": "front", "carriage.boss": "2.5", "carriage.slack": "60", "hotend.mount": "two screws 16 mm",
	"heater.volts": "24", "heater.watts": "40", "bed-heater.watts": "200", "probe.model": "none",
	"z-endstop.model": "lever", "plate.model": "235 plate", "plate.metal": "yes", "plate.mains": "no",
	"surface.thickness": "1.2",
	"springs.model":     "soft", "springs.stiff": "no", "springs.corner-room": "18",
	"extruder.model": "Cleat single drive", "extruder-bracket.thickness": "3", "extruder-bracket.screw": "14",
	"motor-e.flat": "yes", "motor-e.shaft": "22", "motor-e.leads": "1A 1B 2A 2B",
	"tube.length": "450", "runout.model": "none", "bed-sensor.type": "100k thermistor", "belts.pitch": "2",
	"mainboard.slack": "60", "extruder-bracket.hole": "8", "toolhead.model": "head", "toolhead.wires": "8",
	"toolhead.polarity": "yes", "heater.wire": "0.5", "plate.temperature": "60", "circuit.volts": "230",
	"circuit.earth": "yes", "toolhead-2.model": "none", "tool-plate.model": "none",
}

// cases are situations of the trade and what a practitioner would say; the
// reason must be in the headline. An empty value forgets a fact. Source: common
// practice; the sums follow from the numbers given.
var cases = []struct {
	kit     string
	but     map[string]string
	want    fit.Answer
	because string
}{
	{"plumbline-probe", nil, fit.Fits, ""},
	{"plumbline-probe", m("mainboard.chip-maker", "pin-compatible twin"), fit.DoesNotFit, "A build for this board"},
	{"plumbline-probe", m("mainboard.chip-maker", "first source/claimed"), fit.LookFirst, "processor maker"},
	{"plumbline-probe", m("mainboard.probe-port", "no"), fit.FitsIf, "adapter board"},
	{"plumbline-probe", m("carriage.bracket-holes", "no"), fit.FitsIf, "carriage plate"},
	{
		"plumbline-probe",
		m("mainboard.flash", "256", "mainboard.bootloader-size", "8", "firmware.size", "244"),
		fit.DoesNotFit,
		"Flash left",
	}, // 4 KiB, 5 needed
	{"plumbline-probe", m("firmware.family", "scripted"), fit.DoesNotFit, "family"},
	{"kedge-probe", m("carriage.hole-spacing", "24"), fit.Fits, ""},
	{"kedge-probe", nil, fit.DoesNotFit, "Holes 24 mm"},
	{
		"kedge-probe",
		m("carriage.hole-spacing", "24", "toolhead-board.ways", "4"),
		fit.DoesNotFit,
		"Pins free on the toolhead board: short by 1",
	},
	{
		"kedge-probe",
		m("carriage.hole-spacing", "24", "toolhead-board.model", "none", "toolhead-board.ways", ""),
		fit.DoesNotFit,
		"toolhead board",
	},

	{"sounder-8", nil, fit.Fits, ""},
	{"sounder-8", m("plate.metal", "no"), fit.DoesNotFit, "Metal under the surface"},
	{"sounder-8", m("plate.metal", ""), fit.LookFirst, "metal under"},
	{"sounder-8", m("surface.thickness", "6"), fit.DoesNotFit, "at most 4 mm"},
	{"sounder-8", m("supply.volts", "5"), fit.DoesNotFit, "10 and 30 V"},
	{"lodestar-5", m("firmware.family", "hosted"), fit.Fits, ""},
	{"lodestar-5", m("firmware.family", "hosted", "surface.thickness", "3.8"), fit.DoesNotFit, "1.5 mm"},
	{
		"lodestar-5",
		m("firmware.family", "hosted", "probe.model", "Plumbline", "probe.senses", "surface, by touch"),
		fit.Fits,
		"",
	}, // the other one comes out, and frees the header
	{"lodestar-5", m("firmware.family", "hosted", "mainboard.probe-port", "no"), fit.DoesNotFit, "Probe header free"},

	{"brace-5-board", nil, fit.Fits, ""},
	{"brace-5-board", m("frame.hole-square", "95"), fit.DoesNotFit, "Mounting holes"},
	{"brace-5-board", m("display.plug", "no"), fit.FitsIf, "adapter lead"},
	{"brace-5-board", m("display.kind", "closed, self-contained"), fit.DoesNotFit, "display"},
	{"brace-5-board", m("supply.volts", "24/claimed"), fit.LookFirst, "volts"},
	{"sill-r3-board", m("frame.hole-square", "95", "firmware.family", "hosted"), fit.Fits, ""},
	{"sill-r3-board", m("frame.hole-square", "95"), fit.DoesNotFit, "hosted family"},
	{
		"sill-r3-board",
		m("frame.hole-square", "95", "firmware.family", "hosted", "host.power", "another computer's port"),
		fit.DoesNotFit,
		"supply of its own",
	},

	{"brace-5-board", m("mainboard.slack", "10"), fit.FitsIf, "extensions"},
	{"brace-5-board", m("mainboard.slack", ""), fit.LookFirst, "slack"},

	{"amber-display", nil, fit.Fits, ""},
	{"amber-display", m("mainboard.display-port", "no"), fit.DoesNotFit, "10-pin"},
	{"slate-display", nil, fit.Fits, ""},
	{"slate-display", m("firmware.version", "2.0.4"), fit.DoesNotFit, "2.0.5"},
	{"slate-display", m("firmware.version", "2.0.10"), fit.Fits, ""}, // ten comes after five
	{"slate-display", m("mainboard.width", "8-bit"), fit.DoesNotFit, "32-bit"},

	{"twinlift", nil, fit.Fits, ""}, // 2 × 0.8 A on 2 A
	{"twinlift", m("motor-z.current", "1.2"), fit.DoesNotFit, "carries both motors"}, // 2.4 A on 2 A
	{"twinlift", m("motor-z.current", ""), fit.LookFirst, "rated current"},
	{"twinlift", m("frame.z-room", "no"), fit.DoesNotFit, "Room beside"},
	{"twinlift", m("z-drive.motors", "two on one driver"), fit.DoesNotFit, "One Z motor now"},
	{"twinlift-own", nil, fit.Fits, ""},
	{"twinlift-own", m("mainboard.driver-outputs", "4"), fit.DoesNotFit, "Driver outputs free"},
	{
		"twinlift-own",
		m("motor-e2.model", "second extruder motor", "structure.heads", "together"),
		fit.DoesNotFit,
		"Driver outputs free",
	}, // the fifth is taken

	{"twinpawl-kit", nil, fit.Fits, ""},                                               // 14 − 4 − 0.5 = 9.5 mm of thread
	{"twinpawl-kit", m("extruder-bracket.screw", "8"), fit.DoesNotFit, "Thread left"}, // 3.5 mm
	{"twinpawl-kit", m("extruder-bracket.screw", "9"), fit.Fits, ""},                  // 4.5 mm: just enough
	{"twinpawl-kit", m("motor-e.flat", "no"), fit.DoesNotFit, "flat"},
	{"twinpawl-kit", m("runout.model", "Watcher", "runout.in-the-way", "yes"), fit.FitsIf, "run-out sensor moved aside"},
	{"pawl-mini", m("motor-e.shaft", "17"), fit.Fits, ""},
	{
		"pawl-mini",
		m("motor-e.shaft", "21", "extruder-bracket.thickness", "6"),
		fit.DoesNotFit,
		"one and a half diameters",
	}, // 10 − 6 − 0.5 = 3.5 mm
	{
		"pawl-mini",
		m("motor-e.shaft", "17", "extruder-bracket.hole", "6"),
		fit.DoesNotFit,
		"bottom out",
	}, // 6.5 mm into 6
	{
		"pawl-mini",
		nil,
		fit.DoesNotFit,
		"at most 16",
	}, // 22 − 3 = 19 mm out of the bracket
	{"pawl-mini", m("motor-e.shaft", "14"), fit.DoesNotFit, "at least 12"},

	{"cadge-extruder", nil, fit.Fits, ""},
	{"cadge-extruder", m("motor-e.leads", ""), fit.LookFirst, "lead order"},
	{"cadge-extruder", m("driver-e.microsteps", "8"), fit.DoesNotFit, "1/16"},
	{"cadge-fine", nil, fit.Fits, ""},
	{"cadge-fine", m("mainboard.width", "8-bit"), fit.DoesNotFit, "32-bit"},

	{"shortpath-skerry", nil, fit.Fits, ""},
	{"shortpath-skerry", m("carriage.model", "Drift carriage"), fit.DoesNotFit, "carriage of this model"},
	{"shortpath-skerry", m("tube.length", "40"), fit.DoesNotFit, "Long tube"},
	{"shortpath-skerry", m("carriage.slack", "10"), fit.DoesNotFit, "Slack"},
	{"shortpath-drift", m("carriage.model", "Drift carriage", "hotend.mount", "groove"), fit.Fits, ""},
	{"shortpath-drift", m("carriage.model", "Drift carriage"), fit.DoesNotFit, "pair of extruder and hotend"},
	{
		"shortpath-drift",
		m("carriage.model", "Drift carriage", "hotend.mount", "groove", "extruder.model", "Twinpawl 3:1"),
		fit.DoesNotFit,
		"pair of extruder and hotend",
	}, // each is in the table, not both together
	{
		"shortpath-drift",
		m("carriage.model", "Drift carriage", "hotend.mount", "four screws 14 mm", "extruder.model", "Twinpawl 3:1"),
		fit.Fits,
		"",
	},
	{"shortpath-skerry", m("hotend.mount", ""), fit.LookFirst, "mount"},

	{"quayside-5", nil, fit.Fits, ""},
	{"quayside-5", m("carriage.boss", "6"), fit.DoesNotFit, "bosses"},
	{
		"quayside-3",
		m("carriage.boss", "4"),
		fit.DoesNotFit,
		"bosses",
	}, // a 3 mm plate over taller bosses rocks
	{
		"quayside-3",
		m("heater.volts", "12"),
		fit.DoesNotFit,
		"current within its contact",
	}, // 40 W ÷ 12 V = 3.3 A on 3 A
	{
		"quayside-3",
		nil,
		fit.Fits,
		"",
	}, // 40 W ÷ 24 V = 1.7 A
	{
		"quayside-5",
		m("frame.x", "200"),
		fit.DoesNotFit,
		"print width left",
	}, // 200 − 40 mm; 180 must be
	{"quayside-5", m("frame.x", "220"), fit.Fits, ""},                                                  // just enough
	{"quayside-5", m("heater.watts", "80", "heater.wire", "0.33"), fit.DoesNotFit, "within its wires"}, // 3.3 A on 2.0 A
	{"quayside-3", m("toolhead.wires", "12"), fit.DoesNotFit, "Contacts for every wire"},
	{"quayside-5", m("toolhead.wires", "12"), fit.Fits, ""},
	{"quayside-5", m("toolhead.polarity", "no"), fit.DoesNotFit, "Polarity"},
	{"quayside-5", m("toolhead.polarity", ""), fit.LookFirst, "polarity"},
	{"quayside-5", m("heater.watts", ""), fit.LookFirst, "watts"},

	{"quayside-second", nil, fit.DoesNotFit, "Quayside change plate, 5 mm"},
	{"quayside-second", m("tool-plate.model", "Quayside change plate, 5 mm"), fit.Fits, ""},
	{
		"quayside-second",
		m("tool-plate.model", "Quayside change plate, 5 mm", "toolhead-2.model", "Laser"),
		fit.DoesNotFit,
		"No second head yet",
	},
	{
		"quayside-second",
		m("tool-plate.model", "Quayside change plate, 5 mm", "supply.volts", "12"),
		fit.DoesNotFit,
		"A supply of 24 V",
	},

	{"gull-head", nil, fit.Fits, ""},
	{"gull-head", m("tool-plate.model", "Quayside light plate, 3 mm"), fit.DoesNotFit, "No change plate between"},
	{
		"gull-head",
		m("heater.watts", "60", "supply.watts", "300"),
		fit.Fits,
		"",
	}, // the old heater gives way: 300 − 60 − 40 − 200 = 0 W
	{"gull-head", m("carriage.screws-from", "rear"), fit.DoesNotFit, "front"},
	{"gull-head", m("supply.watts", "290"), fit.DoesNotFit, "Power left: short by 10 W"}, // 290 − 60 − 200 − 40
	{"petrel-head", m("carriage.screws-from", "rear"), fit.FitsIf, "own probe"},
	{
		"petrel-head",
		m("carriage.screws-from", "rear", "probe.model", "Plumbline", "probe.senses", "surface, by touch"),
		fit.Fits,
		"",
	},
	{
		"petrel-head",
		m("carriage.screws-from", "rear", "carriage.bears", "410", "toolhead.grams", "350"),
		fit.DoesNotFit,
		"carriage may still carry",
	}, // the new head has 420 g
	{
		"petrel-head",
		m("carriage.screws-from", "rear", "carriage.bears", "420", "toolhead.grams", "350"),
		fit.FitsIf,
		"own probe",
	},
	{
		"petrel-head",
		m("carriage.screws-from", "rear", "carriage.bears", "450"),
		fit.FitsIf,
		"own probe",
	}, // whatever the old head has
	{"petrel-head", m("carriage.screws-from", "rear", "toolhead-board.ways", "8"), fit.DoesNotFit, "Pins free"},

	{"longshore-500", m("probe.model", "Plumbline", "probe.senses", "surface, by touch"), fit.Fits, ""},
	{"longshore-500", nil, fit.FitsIf, "a probe"},
	{"longshore-500", m("supply.watts", "350"), fit.DoesNotFit, "Power left"}, // 350 − 40 − 240 = 70 W; 150 needed
	{"longshore-500", m("mainboard.chip-maker", "pin-compatible twin"), fit.DoesNotFit, "build for the new volume"},
	{"longshore-tall", nil, fit.DoesNotFit, "Two Z motors"},
	{"longshore-tall", m("z-drive.motors", "two on one driver"), fit.Fits, ""},

	{"slate-sheet", nil, fit.Fits, ""},
	{"slate-sheet", m("plate.temperature", "120"), fit.DoesNotFit, "110 °C"},
	{"loadstone-sheet", nil, fit.FitsIf, "endstop"},
	{"loadstone-sheet", m("probe.model", "Plumbline", "probe.senses", "surface, by touch"), fit.Fits, ""},

	{"hearth-230", nil, fit.Fits, ""}, // 16 − 4 − 3.3 A
	{"hearth-230", m("relay.model", "none", "relay.amperes", ""), fit.FitsIf, "solid-state relay"},
	{"hearth-230", m("circuit.volts", "120"), fit.DoesNotFit, "Mains of 230 V"},
	{"hearth-230", m("circuit.earth", "no"), fit.DoesNotFit, "earth"},
	{"hearth-230", m("circuit.earth", ""), fit.LookFirst, "earth"},
	{"hearth-120", m("circuit.volts", "120"), fit.Fits, ""},
	{"hearth-230", m("circuit.others", "14"), fit.DoesNotFit, "Mains circuit left"},
	{"hearth-230", m("circuit.amperes", ""), fit.LookFirst, "rated current"},
	{
		"hearth-120",
		m("circuit.volts", "120", "circuit.others", "11.5"),
		fit.DoesNotFit,
		"Mains circuit left",
	}, // 4.5 A left, 5 needed
	{"hearth-120", m("circuit.volts", "120", "bed-sensor.type", "Pt100"), fit.DoesNotFit, "bed sensor"},

	{"bollard-springs", nil, fit.Fits, ""},
	{
		"bollard-springs",
		m("springs.corner-room", "14"),
		fit.DoesNotFit,
		"Room at the cable corner",
	}, // three long, one short: it still has to go in
	{"bollard-springs", m("springs.corner-room", ""), fit.LookFirst, "cable corner"},
	{"bollard-springs", m("springs.stiff", "yes"), fit.DoesNotFit, "Not stiff already"},
	{"bollard-short", nil, fit.Fits, ""},
	{"bollard-short", m("springs.corner-room", "25"), fit.DoesNotFit, "cable corner"},

	{"to-hosted", nil, fit.Fits, ""},
	{"to-hosted", m("host.power", "another computer's port"), fit.FitsIf, "host computer"},
	{"to-hosted", m("firmware.listed-chip", "no"), fit.DoesNotFit, "on the host's list"},
	{"to-hosted", m("display.kind", "closed, self-contained"), fit.DoesNotFit, "A family other than the hosted one"},
	{"to-scripted", nil, fit.Fits, ""},
	{"to-scripted", m("mainboard.flash", "256"), fit.DoesNotFit, "512 KiB"},

	{"watcher-runout", nil, fit.Fits, ""}, // 700 ≥ 450 + 50 mm
	{"watcher-runout", m("firmware.max-extrude", "200"), fit.DoesNotFit, "as long as the unload"},
	{"watcher-runout", m("firmware.family", "hosted"), fit.DoesNotFit, "compiled build"},
	{"watcher-hosted", m("firmware.family", "hosted"), fit.Fits, ""},
	{"close-mesh", m("firmware.family", "hosted", "firmware.version", "0.12.3", "probe.model", "Sounder"), fit.Fits, ""},
	{
		"close-mesh",
		m("firmware.family", "hosted", "firmware.version", "0.9", "host.version", "0.9", "probe.model", "Sounder"),
		fit.DoesNotFit,
		"0.12.0",
	},
	{
		"close-mesh",
		m("firmware.family", "hosted", "firmware.version", "0.9", "host.version", "0.12.1", "probe.model", "Sounder"),
		fit.Fits,
		"",
	},
	{
		"close-mesh",
		m("firmware.family", "hosted", "firmware.version", "0.9", "probe.model", "Sounder"),
		fit.LookFirst,
		"version of its software",
	},
	{
		"close-mesh",
		m("firmware.family", "hosted", "firmware.version", "0.12.3", "probe.model", "Sounder", "firmware.objects", "no"),
		fit.FitsIf,
		"object list",
	},
	{"close-mesh-board", m("probe.model", "Plumbline"), fit.Fits, ""},
	{
		"close-mesh-board",
		m("probe.model", "Plumbline", "mainboard.flash", "256", "mainboard.bootloader-size", "8", "firmware.size", "210"),
		fit.DoesNotFit,
		"Flash left",
	}, // 38 KiB; a full mesh takes 43
	{"close-mesh-board", nil, fit.DoesNotFit, "A probe"},
}

func m(pairs ...string) map[string]string {
	out := map[string]string{}
	for i := 0; i < len(pairs); i += 2 {
		out[pairs[i]] = pairs[i+1]
	}
	return out
}

func TestJudgedCases(t *testing.T) {
	voc := catalogue.Vocabulary()
	judges, seen := map[string]*fit.Judge{}, map[string]bool{}
	for _, k := range catalogue.Kits() {
		k.Heads = "" // as it is written, for head 1
		j, err := fit.NewJudge(k, voc)
		if err != nil {
			t.Fatal(err)
		}
		judges[k.Key] = j
	}
	for _, c := range cases {
		facts := maps.Clone(known)
		for k, v := range c.but {
			if facts[k] = v; v == "" {
				delete(facts, k)
			}
		}
		v := judges[c.kit].Verdict(machinetest.Facts(voc, facts))
		seen[c.kit] = true
		if v.Answer != c.want || !strings.Contains(strings.ToLower(v.Headline), strings.ToLower(c.because)) {
			t.Errorf("%s, %v: %s (%s); want %s for %q", c.kit, c.but, v.Answer, v.Headline, c.want, c.because)
		}
	}
	for key := range judges {
		if !seen[key] {
			t.Errorf("no case judges %s", key)
		}
	}
	if len(cases) < 60 {
		t.Errorf("%d cases", len(cases))
	}
}
