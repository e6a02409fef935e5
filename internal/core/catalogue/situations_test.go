package catalogue_test

import (
	"maps"
	"strings"
	"testing"

	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/machine/machinetest"
)

// lodestar is what stands on a hosted machine that carries a Lodestar probe.
var lodestar = m(
	"firmware.family",
	"hosted",
	"host.model",
	"Quayhost 4",
	"host.power",
	"a supply of its own",
	"probe.model",
	"Lodestar 5 V",
	"probe.senses",
	"metal, without touch",
	"bracket.model",
	"Lodestar bracket",
)

// plumbline is what stands on a machine that carries a contact probe.
var plumbline = m(
	"probe.model",
	"Plumbline contact probe",
	"probe.senses",
	"surface, by touch",
	"bracket.model",
	"Plumbline bracket, 3 mm",
)

func on(base map[string]string, pairs ...string) map[string]string {
	out := maps.Clone(base)
	maps.Copy(out, m(pairs...))
	return out
}

// situations are traps of the trade, asked in every way there is: "kit" judges a kit,
// "part position" a loose part there, "out position" what breaks when its part comes out,
// "stands" the machine as it is. Source: common practice; the sums follow from the numbers
// given.
var situations = []struct {
	ask     string
	part    map[string]string // of a loose part
	but     map[string]string
	want    string // the answer with its lean, what breaks, or how it stands
	because string // in the headline, a remark, or what is found
}{
	// What decides is at least marked; the claims lean.
	{"kit plumbline-probe", nil, m("mainboard.chip-maker", "first source/claimed"), "look first, fits", "processor maker"},
	{"kit plumbline-probe", nil, m("mainboard.chip-maker", "pin-compatible twin/claimed"),
		"look first, does not fit", "processor maker"},
	{"kit plumbline-probe", nil, m("mainboard.chip-maker", "pin-compatible twin/marked"),
		"does not fit", "A build for this board"},
	{"kit plumbline-probe", nil, m("mainboard.chip-maker", ""), "look first, no lean", "processor maker"},
	{"kit plumbline-probe", nil, m("mainboard.chip-maker", "first source|pin-compatible twin"),
		"look first, no lean", "processor maker"},
	{
		"kit plumbline-probe",
		nil,
		m(
			"mainboard.chip-maker",
			"first source|pin-compatible twin",
			"firmware.family",
			"hosted",
			"host.model",
			"Quayhost 4",
		),
		"fits",
		"",
	}, // it does not matter there
	{"kit plumbline-probe", nil, m("mainboard.probe-port", "no/claimed"), "look first, fits if", "probe header"},
	{"kit plumbline-probe", nil, m("carriage.bracket-holes", "no/claimed"), "look first, fits if", "tapped holes"},
	{"kit plumbline-probe", nil, m("probe.model", "none/claimed"),
		"look first, fits", "Probe"}, // an absence that is only claimed
	{"kit plumbline-probe", nil, m("firmware.size", ""), "look first, no lean", "size of the build"},
	{"kit plumbline-probe", nil, m("firmware.size", "500/claimed"), "look first, does not fit", "size of the build"},
	{"kit bollard-springs", nil, m("springs.model", "soft/claimed"), "fits", ""}, // harmless: a claim will do
	{"kit slate-sheet", nil, m("plate.temperature", "60/claimed"), "fits", ""},
	{"kit slate-sheet", nil, m("plate.temperature", "120/claimed"), "does not fit", "110 °C"},

	// 256 KiB with a build of 225 and 5 for the probe leave 26 for a bootloader.
	{"kit plumbline-probe", nil, m("mainboard.flash", "256", "firmware.size", "225", "mainboard.bootloader-size", ""),
		"look first, no lean", "taken by the bootloader"},
	{
		"kit plumbline-probe",
		nil,
		m("mainboard.flash", "256", "firmware.size", "225", "mainboard.bootloader-size", "28/claimed"),
		"look first, does not fit",
		"taken by the bootloader",
	},
	{
		"kit plumbline-probe",
		nil,
		m("mainboard.flash", "256", "firmware.size", "225", "mainboard.bootloader-size", "26/marked"),
		"fits",
		"",
	}, // printed beside the chip: no upload is needed
	{
		"kit plumbline-probe",
		nil,
		m("mainboard.flash", "256", "firmware.size", "225", "mainboard.bootloader-size", "27/marked"),
		"does not fit",
		"Flash left: short by 1 KiB",
	},
	{
		"kit plumbline-probe",
		nil,
		m(
			"mainboard.flash",
			"256",
			"firmware.size",
			"251",
			"mainboard.bootloader-size",
			"",
			"mainboard.bootloader",
			"no/proven",
		),
		"fits",
		"",
	},
	{
		"kit plumbline-probe",
		nil,
		m(
			"mainboard.flash",
			"256",
			"firmware.size",
			"252",
			"mainboard.bootloader-size",
			"",
			"mainboard.bootloader",
			"no/proven",
		),
		"does not fit",
		"Flash left: short by 1 KiB",
	},
	{
		"kit plumbline-probe",
		nil,
		m("mainboard.flash", "256", "firmware.size", "225", "mainboard.bootloader-size", "", "mainboard.bootloader", "no"),
		"look first, no lean",
		"taken by the bootloader",
	}, // only proven, by the programmer, it is nothing

	// A version is what its text tells.
	{"kit slate-display", nil, m("firmware.version", "2.0.5 (Nov 20)"), "fits", ""},
	{"kit slate-display", nil, m("firmware.version", "2.1.x"), "fits", ""},
	{"kit slate-display", nil, m("firmware.version", "2.0.x"), "look first, no lean", "which release is it exactly?"},
	{"kit slate-display", nil, m("firmware.version", "latest"), "look first, no lean", "which release is it exactly?"},
	{"kit slate-display", nil, m("firmware.version", "2.0.5-beta"), "does not fit", "2.0.5"},
	{"kit slate-display", nil, m("firmware.version", "2.0.4/claimed"), "look first, does not fit", "version"},
	{"kit slate-display", nil, m("firmware.version", "2.0.5+night"), "fits", ""},

	// A number near a nominal value stands for it.
	{"kit brace-5-board", nil, m("supply.volts", "24.1"), "fits", ""},
	{"kit quayside-second", nil, m("tool-plate.model", "Quayside change plate, 5 mm", "supply.volts", "23.6"), "fits", ""},
	{"kit brace-5-board", nil, m("supply.volts", "27"), "does not fit", "12 to 24 V"},
	{"kit hearth-230", nil, m("circuit.volts", "238"), "fits", ""},
	{"kit hearth-230", nil, m("circuit.volts", "258"), "does not fit", "Mains of 230 V"},
	{"part heater", m("model", "Forge heater 60 W", "volts", "24", "watts", "60"), m("supply.volts", "24.6"), "fits", ""},

	// A probe of 1.5 mm reach, and what lies on the bed.
	{"kit lodestar-5", nil, m("firmware.family", "hosted", "surface.thickness", "2.4"),
		"does not fit", "Surface at most 1.5 mm thick"},
	{"kit lodestar-5", nil, m("firmware.family", "hosted", "surface.thickness", "2.4/claimed"),
		"look first, does not fit", "thickness"},
	{"kit lodestar-5", nil, m("firmware.family", "hosted", "surface.model", "none", "surface.thickness", ""),
		"fits", ""}, // a bare plate
	{"kit loadstone-sheet", nil, lodestar, "does not fit", "Surface at most 1.5 mm thick, which Lodestar 5 V needs"},
	{"kit loadstone-sheet", nil, on(lodestar, "probe.model", "Lodestar 5 V/claimed", "probe.reach", "1.5/claimed"),
		"look first, does not fit", "Probe: model"},
	{"kit slate-sheet", nil, lodestar, "fits", ""},
	{"kit slate-sheet", nil, on(lodestar, "surface.thickness", "2.4"), "fits", ""}, // it mends
	{"kit bollard-springs", nil, on(lodestar, "surface.thickness", "2.4"),
		"fits", "Already not right: Probe (Lodestar 5 V) needs: Surface at most 1.5 mm thick"},
	{"part surface", m("model", "Middling sheet", "thickness", "2"), on(lodestar, "surface.thickness", "2.4"),
		"does not fit", "Surface at most 1.5 mm thick"}, // thinner, and still too thick
	{"part surface", m("model", "Thin sheet", "thickness", "1"), on(lodestar, "surface.thickness", "2.4"), "fits", ""},
	{"part surface", m("model", "Thin sheet", "thickness", "1/claimed"), lodestar, "look first, fits", "thickness"},
	{"part surface", m("model", "Thin sheet"), lodestar,
		"look first, no lean", "thickness"}, // it can be measured on the shelf
	{"part surface", m("model", "A sheet", "thickness", "2.4/claimed"), lodestar, "look first, does not fit", "thickness"},
	{"stands", nil, on(lodestar, "surface.thickness", "2.4"), "known broken", "Surface at most 1.5 mm thick"},
	{"stands", nil, on(lodestar, "surface.thickness", "2.4/claimed"), "leans broken", "Surface at most 1.5 mm thick"},
	{"stands", nil, on(lodestar, "probe.model", "Lodestar 5 V/claimed", "surface.thickness", "2.4"),
		"leans broken", "Surface at most 1.5 mm thick"},
	{"stands", nil, lodestar, "nothing known broken", ""},
	{"stands", nil, on(lodestar, "surface.model", "none", "surface.thickness", ""), "nothing known broken", ""},
	{"kit sounder-8", nil, m("surface.thickness", "4"), "fits", ""},
	{"kit sounder-8", nil, m("surface.thickness", "4.1"), "does not fit", "4 mm"},
	{"kit sounder-8", nil, m("plate.metal", "no/claimed"), "look first, does not fit", "metal under"},
	{"part probe", m("model", "Sounder inductive", "senses", "metal, without touch", "reach", "4"), m("plate.metal", "no"),
		"does not fit", "Metal under the surface"},
	{"part probe", m("model", "some probe", "senses", "metal, without touch", "reach", "1"), nil,
		"does not fit", "no thicker than it reaches"}, // the surface has 1.2 mm
	{"part probe", m("model", "some probe", "senses", "surface, by touch"), m("plate.metal", "no"), "fits", ""},
	{
		"part probe",
		m("model", "Plumbline contact probe", "senses", "surface, by touch"),
		m("mainboard.chip-maker", "pin-compatible twin", "bracket.model", "Plumbline bracket, 3 mm"),
		"does not fit",
		"A build for this board",
	},
	{
		"part probe",
		m("model", "Plumbline contact probe/claimed", "senses", "surface, by touch"),
		m("mainboard.chip-maker", "pin-compatible twin", "bracket.model", "Plumbline bracket, 3 mm"),
		"look first, does not fit",
		"model",
	},
	{
		"part probe",
		m("model", "Plumbline contact probe", "senses", "surface, by touch"),
		m("bracket.model", "Sounder clamp"),
		"does not fit",
		"Plumbline bracket",
	},

	// Bracket and carriage.
	{"part bracket", m("model", "Plumbline bracket, 3 mm"), m("carriage.hole-spacing", "24"),
		"does not fit", "18 mm apart"},
	{"part bracket", m("model", "Kedge bracket, 4 mm"), m("carriage.hole-spacing", "24"), "fits", ""},
	{"part carriage", m("model", "early carriage", "bracket-holes", "no"), on(plumbline, "firmware.version", "2.1"),
		"does not fit", "Two tapped holes"},

	// A part that needs a family, and a change to another.
	{"kit to-scripted", nil, plumbline,
		"does not fit", "A firmware family with a build for it, which Plumbline contact probe needs"},
	{"kit to-hosted", nil, on(plumbline, "mainboard.chip-maker", "pin-compatible twin"),
		"fits", ""}, // the twin does not matter to a host
	{"kit to-hosted", nil, m("display.model", "Amber display"), "does not fit", "which Amber display needs"},
	{"kit to-hosted", nil, m("display.model", "Amber display/claimed"), "look first, does not fit", "Display: model"},
	{"kit to-hosted", nil, m("display.kind", "closed, self-contained/claimed"),
		"look first, does not fit", "Display: kind"},
	{"kit to-scripted", nil, m("mainboard.width", "8-bit"), "does not fit", "32-bit board"},
	{"kit to-scripted", nil, m("display.model", "Slate touch display"), "look first, no lean", "version"},
	{"part display", m("model", "Amber display"), lodestar, "does not fit", "family with a build"},
	{"stands", nil, m("firmware.family", "hosted", "host.model", "none"), "known broken", "A host computer"},
	{"stands", nil, m("firmware.family", "hosted", "host.model", "none/claimed", "host.power", ""),
		"leans broken", "A host computer"},
	{"stands", nil, m("firmware.family", "hosted", "host.model", "none/claimed"),
		"nothing known broken", ""}, // its supply is a sign of it
	{"stands", nil, m("firmware.family", "scripted", "mainboard.flash", "256"), "known broken", "512 KiB"},
	{"stands", nil, m("firmware.features", "full mesh levelling, arc moves"), "known broken", "A probe"},
	{"stands", nil, m("firmware.features", "filament change", "firmware.max-extrude", "200"),
		"known broken", "as long as the unload"},
	{"stands", nil, m("firmware.features", "filament change"), "nothing known broken", ""},

	// Power: heaters and their supply, motors and their driver.
	{"part heater", m("model", "Old heater", "volts", "12", "watts", "40"), nil,
		"does not fit", "no more than its voltage"},
	{"part supply", m("model", "Trickle", "volts", "12", "watts", "500"), nil, "does not fit", "no less than its voltage"},
	{"part supply", m("model", "Trickle", "volts", "24", "watts", "250"), nil,
		"does not fit", "Power left: short by 30 W"}, // 250 − 40 − 200 − 40
	{
		"part supply",
		m("model", "Torrent", "volts", "24", "watts", "600"),
		m("supply.watts", "250", "bed-heater.volts", "24", "case-fan.volts", "24", "fan-duct.volts", "24", "relay.coil-volts",
			"24"),
		"fits",
		"",
	},
	{"part supply", m("model", "Torrent", "volts", "24", "watts", "600"),
		m("supply.watts", "250", "case-fan.volts", "24", "fan-duct.volts", "24"),
		"look first, no lean", "Bed heater: volts"}, // it is to suit every heater
	{"part supply", m("model", "Torrent", "volts", "24", "watts", "600"),
		m("supply.watts", "250", "bed-heater.volts", "24", "fan-duct.volts", "24"),
		"look first, no lean", "Case fan: volts"}, // and every fan
	{"part supply", m("model", "Torrent", "volts", "24", "watts", "600"),
		m("supply.watts", "250", "bed-heater.volts", "24", "fan-duct.volts", "24", "relay.coil-volts", "24",
			"case-fan.volts", "12", "case-fan.runs-on",
			"the supply's voltage"), "does not fit", "no more than its voltage"},
	{"part supply", m("model", "Torrent", "volts", "24", "watts", "600"),
		m("supply.watts", "250", "bed-heater.volts", "24", "fan-duct.volts", "24", "relay.coil-volts", "24",
			"case-fan.volts", "12", "case-fan.runs-on",
			"a voltage of its own"), "fits", ""},
	{"stands", nil, m("supply.watts", "250"), "known broken", "Power left: short by 30 W"},
	{"stands", nil, m("supply.watts", "250/claimed"), "leans broken", "Power left"},
	{"stands", nil, m("heater.volts", "12"), "known broken", "no more than its voltage"},
	{"stands", nil, m("z-drive.motors", "two on one driver", "motor-z.current", "1.2", "motor-z2.current", "1.2"),
		"known broken", "carries both motors"}, // 2.4 A on 2 A
	{
		"part motor-z",
		m("model", "Strong motor", "current", "1.2"),
		m("z-drive.motors", "two on one driver", "motor-z2.current", "0.8"),
		"does not fit",
		"carries both motors",
	},
	{"stands", nil, m("driver-e.max-microsteps", "8"), "known broken", "no finer than its chip goes"},
	{"part driver-e", m("model", "Rill 5", "microsteps", "32", "max-microsteps", "16"), nil,
		"does not fit", "no finer than its chip goes"},

	// Heads, plates and contacts.
	{
		"part heater",
		m("model", "Furnace", "volts", "24", "watts", "100"),
		m("tool-plate.model", "Quayside light plate, 3 mm", "heater.wire", "0.82"),
		"does not fit",
		"within its contact",
	}, // 4.2 A on 3 A
	{"part carriage", m("model", "tall bosses", "boss", "6"), m("tool-plate.model", "Quayside change plate, 5 mm"),
		"does not fit", "Bosses on the carriage"},
	{"part toolhead", m("model", "Petrel toolhead", "grams", "420"), nil, "does not fit", "screws enter from the rear"},
	{"kit quayside-3", nil, m("toolhead.wires", "12/claimed"), "look first, does not fit", "wires that it needs"},
	{"part tool-plate", m("model", "Quayside change plate, 5 mm"), nil, "fits", ""},

	// Mains.
	{"part plate", m("model", "Hearth plate, 230 V", "mains", "yes", "metal", "yes"), m("circuit.earth", "no"),
		"does not fit", "Protective earth"},
	{
		"part plate",
		m("model", "Hearth plate, 230 V", "mains", "yes", "metal", "yes"),
		m("relay.model", "none", "relay.amperes", ""),
		"does not fit",
		"relay",
	},
	{"stands", nil, m("plate.mains", "yes", "circuit.earth", "no"), "known broken", "Protective earth"},
	{"kit hearth-230", nil, m("circuit.earth", "yes/claimed"), "look first, fits", "earth"},

	// What breaks when something comes out.
	{"out host", nil, on(lodestar), "breaks", "A host computer"},
	{"out sensor", nil, m("heater.model", "Forge", "sensor.model", "Forge sensor"),
		"breaks", "A temperature sensor beside it"},
	{"out bracket", nil, plumbline, "breaks", "Plumbline bracket"},
	{"out surface", nil, lodestar, "nothing", ""},
	{"out springs", nil, nil, "nothing", ""},
	{"out probe", nil, on(plumbline, "firmware.features", "full mesh levelling"), "breaks", "A probe"},
	{"out tool-plate", nil, m("tool-plate.model", "Quayside change plate, 5 mm", "toolhead-2.model", "Quayside head 2"),
		"breaks", "change plate of 5 mm"},
	{"out relay", nil, m("plate.mains", "yes", "relay.model", "Relay 25 A"), "breaks", "relay"},
	{"out driver-e", nil, m("motor-e.model", "x", "driver-e.model", "Rill 8"), "breaks", "A driver that feeds it"},

	// Frames grow by what they are given.
	{"kit longshore-tall", nil, m("z-drive.motors", "two on one driver", "belts.pitch", "3"),
		"does not fit", "2 mm pitch"},
	{"kit longshore-500", nil, on(plumbline, "belts.pitch", "2/claimed"), "fits", ""}, // the kit's own belts are of 2 mm
	{"kit quayside-second", nil, m("tool-plate.model", ""), "look first, no lean", "Tool-changing plate"},
	{"kit gull-head", nil, m("tool-plate.model", "none/claimed"), "look first, fits", "Tool-changing plate"},
}

func TestSituations(t *testing.T) {
	voc := catalogue.Vocabulary()
	if n := len(situations) + len(cases); n < 150 {
		t.Errorf("only %d situations", n)
	}
	for _, c := range situations {
		facts := maps.Clone(known)
		for k, v := range c.but {
			if facts[k] = v; v == "" {
				delete(facts, k)
			}
		}
		s := machinetest.Facts(voc, facts)
		ask, what, _ := strings.Cut(c.ask, " ")
		got, says := "", ""
		verdict := func(v fit.Verdict) {
			got, says = string(v.Answer), v.Headline+" "+strings.Join(v.Remarks, " ")
			if v.Lean != "" {
				got += ", " + string(v.Lean)
			}
			if v.Answer == fit.LookFirst && len(v.Look)+len(v.Decide) == 0 {
				t.Errorf("%s with %v: look first, and nothing to look at or to decide", c.ask, c.but)
			}
		}
		switch ask {
		case "kit":
			k, ok := catalogue.Kit(what)
			if !ok {
				t.Fatal(what)
			}
			j, err := fit.NewJudge(k, voc)
			if err != nil {
				t.Fatal(err)
			}
			verdict(j.Verdict(s))
		case "part":
			v, err := fit.PartAt(s, what, loose(voc, what, c.part))
			if err != nil {
				t.Fatal(err)
			}
			verdict(v)
		case "out":
			if r := fit.Without(s, what); len(r.Breaks) > 0 {
				got = "breaks"
				for _, o := range r.Breaks {
					says += o.Says() + " "
				}
			} else {
				got = "nothing"
			}
		case "stands":
			stand := fit.Stand(s)
			got = string(stand.State)
			for _, o := range append(stand.Broken, stand.Leaning...) {
				says += o.Says() + " "
			}
			if quick, _ := fit.ConsistencyOf(s); quick != stand.State {
				t.Errorf("%v: %s, and quickly %s", c.but, stand.State, quick)
			}
		}
		if got != c.want || !strings.Contains(says, c.because) {
			t.Errorf("%s %v with %v: %s (%s); want %s for %q", c.ask, c.part, c.but, got, says, c.want, c.because)
		}
	}
}

// loose is a part with what is known of it, written as machinetest writes facts.
func loose(voc *machine.Vocabulary, slot string, values map[string]string) fit.Loose {
	readings := map[string]string{}
	for name, v := range values {
		readings[slot+"."+name] = v
	}
	s := machinetest.Facts(voc, readings)
	out := fit.Loose{Kind: voc.At(slot).Kind, Facts: map[string]machine.Fact{}}
	for name := range values {
		out.Facts[name] = s.Fact(machine.KeyOf(slot, name))
	}
	return out
}
