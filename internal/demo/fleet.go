package demo

// batch is a group of machines bought together under one name.
type batch struct {
	maker    string
	since    string // day of purchase
	sheet    map[string]string
	supplier string
	price    float64 // of one machine
}

// The seller's sheets: what was claimed of each batch when it was bought.
var batches = map[string]batch{
	"skerry": {maker: "Hollin Works Skerry 22", since: "2024-11-18", sheet: map[string]string{
		"mainboard.model": "Brace board", "mainboard.revision": "4.2", "mainboard.flash": "512",
		"mainboard.chip-maker": "first source", "mainboard.bootloader": "yes", "mainboard.bootloader-size": "28",
		"mainboard.upload": "memory card", "firmware.family": "compiled", "firmware.version": "2.0.8",
		"firmware.size": "186", "supply.model": "Lode 350", "supply.volts": "24", "supply.watts": "350",
		"probe.model": "none", "z-endstop.model": "lever switch", "extruder.model": "Cleat single drive",
		"nozzle.model": "plain nozzle", "nozzle.bore": "0.4", "nozzle.material": "brass",
		"surface.model": "glass, coated", "surface.thickness": "3.8", "springs.model": "factory springs",
		"springs.stiff": "no", "tube.model": "long tube", "plate.model": "235 plate", "hotend.model": "Ember lined",
		"hotend.liner": "yes",
		"sensor.type":  "100k thermistor", "display.kind": "driven by the board", "z-drive.motors": "one"},
		supplier: "Quick Parcel Parts", price: 219},
	"tern": {maker: "Ardal Tern 3", since: "2025-03-10", sheet: map[string]string{
		"mainboard.model": "Sill R2", "mainboard.flash": "512", "mainboard.chip-maker": "first source",
		"mainboard.probe-port": "yes", "firmware.family": "hosted", "firmware.version": "0.12.3", "host.model": "Quayhost 4",
		"supply.model": "Lode 360", "supply.volts": "24", "supply.watts": "360", "probe.model": "Sounder inductive",
		"probe.senses": "metal, without touch", "extruder.model": "Twinpawl 3:1", "extruder.ratio": "3",
		"tube.model":   "direct",
		"nozzle.model": "plain nozzle", "nozzle.bore": "0.4", "surface.model": "spring steel, textured",
		"surface.thickness": "1.2", "plate.model": "255 plate", "plate.metal": "yes", "springs.model": "silicone columns",
		"hotend.model": "Forge all-metal", "hotend.liner": "no", "z-drive.motors": "two on two drivers"},
		supplier: "Dockside Supply", price: 689},
	"drift": {maker: "Mossby Drift 350", since: "2025-09-01", sheet: map[string]string{
		"mainboard.model": "Trestle 5", "mainboard.flash": "256", "mainboard.chip-maker": "first source",
		"mainboard.upload": "USB", "mainboard.bootloader-size": "8", "firmware.family": "compiled",
		"firmware.version": "1.1.9", "firmware.size": "212",
		"supply.model": "Lode 500", "supply.volts": "24", "supply.watts": "500", "probe.model": "none",
		"z-endstop.model": "optical", "extruder.model": "Cleat single drive", "nozzle.model": "wide nozzle",
		"nozzle.bore":   "0.6",
		"surface.model": "glass, plain", "surface.thickness": "4", "springs.model": "factory springs",
		"tube.model": "long tube", "plate.model": "360 plate", "hotend.model": "Ember lined", "hotend.liner": "yes",
		"z-drive.motors": "two on one driver"}, supplier: "Kelp & Sons", price: 455},
}

// found is what technicians saw when they looked, as readings of grade read
// unless the trait says otherwise.
type found map[string]string

// unit is one machine of a batch with what is special about it.
type unit struct {
	name, bay, batch string
	found            found
	perDay           float64 // print hours a day
	hours            float64 // on the meter today
	protection       string  // day of the last test; "" never; "silent" when it failed
	offset           string  // Z offset on record
}

var look = found{
	"mainboard.processor":    "RET6",
	"mainboard.chip-maker":   "first source",
	"mainboard.probe-port":   "yes",
	"mainboard.display-port": "yes",
	"carriage.bracket-holes": "yes",
	"carriage.hole-spacing":  "18",
	"firmware.family":        "compiled",
	"firmware.version":       "2.0.8",
	"firmware.size":          "186",
}

// opened is what is seen besides with the cover off and a meter in hand.
var opened = found{
	"tool-plate.model":           "none",
	"toolhead.model":             "factory head",
	"extruder.model":             "Cleat single drive",
	"mainboard.slack":            "60",
	"mainboard.heater-outputs":   "1",
	"mainboard.sensor-inputs":    "2",
	"mainboard.fan-outputs":      "1",
	"toolhead.wires":             "10",
	"toolhead.polarity":          "yes",
	"toolhead.grams":             "380",
	"heater.wire":                "0.5",
	"extruder-bracket.hole":      "8",
	"circuit.volts":              "230",
	"circuit.earth":              "yes",
	"plate.temperature":          "60",
	"supply.volts":               "24",
	"supply.watts":               "350",
	"heater.watts":               "40",
	"bed-heater.watts":           "220",
	"frame.hole-square":          "101.5",
	"frame.z-room":               "yes",
	"springs.stiff":              "no",
	"motor-z.current":            "0.8",
	"z-drive.output-amperes":     "2",
	"display.kind":               "driven by the board",
	"display.plug":               "yes",
	"runout.model":               "none",
	"belts.pitch":                "2",
	"belts.pulley-teeth":         "20",
	"plate.mains":                "no",
	"mainboard.driver-outputs":   "5",
	"motor-e.shaft":              "22",
	"tube.length":                "450",
	"mainboard.width":            "32-bit",
	"driver-e.microsteps":        "16",
	"driver-e.silent":            "no",
	"toolhead-board.ways":        "0",
	"circuit.amperes":            "16",
	"circuit.others":             "6",
	"relay.amperes":              "25",
	"firmware.max-extrude":       "200",
	"frame.x":                    "235",
	"frame.y":                    "235",
	"frame.z":                    "250",
	"z-drive.motors":             "one",
	"carriage.model":             "Skerry carriage",
	"carriage.screws-from":       "front",
	"carriage.boss":              "2.5",
	"carriage.slack":             "60",
	"hotend.mount":               "two screws 16 mm",
	"heater.volts":               "24",
	"probe.model":                "none",
	"plate.metal":                "yes",
	"surface.thickness":          "3.8",
	"springs.corner-room":        "18",
	"extruder-bracket.thickness": "3",
	"extruder-bracket.screw":     "14",
	"motor-e.flat":               "no",
	"motor-e.leads":              "1A 1B 2A 2B",
	"bed-sensor.type":            "100k thermistor",
}

// but is a set of findings with some replaced; an empty value leaves one out.
func (f found) but(changes found) found {
	out := found{}
	for k, v := range f {
		out[k] = v
	}
	for k, v := range changes {
		if v == "" {
			delete(out, k)
		} else {
			out[k] = v
		}
	}
	return out
}

var units = []unit{
	// Quay: the Skerry batch. Some boards carry the twin chip or half the
	// flash, early carriages have no holes.
	{"Avocet", "Quay", "skerry", opened.but(look), 7.1, 3890, "2026-09-14", "−1.85 mm"},
	{
		"Bittern",
		"Quay",
		"skerry",
		opened.but(look).
			but(found{"firmware.listed-chip": "yes", "springs.stiff": "yes", "carriage.bracket-holes": "no",
				"carriage.hole-spacing": ""}),
		5.0,
		3310,
		"2026-08-30",
		"−2.10 mm",
	},
	{
		"Curlew",
		"Quay",
		"skerry",
		opened.but(look).but(found{"mainboard.chip-maker": "pin-compatible twin", "display.plug": "no"}),
		6.2,
		4020,
		"2026-10-02",
		"−1.92 mm",
	},
	{
		"Dunlin",
		"Quay",
		"skerry",
		found{
			"firmware.family":        "compiled",
			"firmware.size":          "186",
			"carriage.bracket-holes": "yes",
			"carriage.hole-spacing":  "18",
		},
		3.4,
		2150,
		"2026-03-11",
		"−2.02 mm",
	},
	{
		"Eider",
		"Quay",
		"skerry",
		look.but(found{"mainboard.processor": "RCT6", "firmware.size": "225"}),
		8.3,
		4410,
		"2026-07-21",
		"−1.77 mm",
	},
	{
		"Fulmar",
		"Quay",
		"skerry",
		found{"firmware.version": "2.0.8", "firmware.family": "compiled"},
		4.6,
		2980,
		"",
		"−1.60 mm",
	},
	{
		"Gannet",
		"Quay",
		"skerry",
		opened.but(look).
			but(found{"supply.watts": "250", "carriage.screws-from": "rear", "motor-e.flat": "yes",
				"mainboard.probe-port": "no"}),
		5.8,
		3605,
		"2026-06-25",
		"−2.24 mm",
	},
	{"Heron", "Quay", "skerry", nil, 2.2, 1240, "silent", ""},
	{
		"Ibis",
		"Quay",
		"skerry",
		opened.but(look).but(found{"toolhead-board.ways": "10", "motor-e.shaft": "16", "frame.z-room": "no"}),
		6.9,
		3120,
		"2026-10-19",
		"−1.71 mm",
	},
	// Loft: hosted machines with a probe that senses metal.
	{
		"Jackdaw",
		"Loft",
		"tern",
		found{
			"firmware.family":        "hosted",
			"mainboard.probe-port":   "yes",
			"carriage.bracket-holes": "yes",
			"carriage.hole-spacing":  "18",
		},
		9.5,
		5230,
		"2026-09-02",
		"−0.84 mm",
	},
	{
		"Kittiwake",
		"Loft",
		"tern",
		opened.but(
			found{
				"extruder.model":             "Twinpawl 3:1",
				"firmware.version":           "0.12.3",
				"firmware.objects":           "no",
				"toolhead-board.ways":        "10",
				"supply.watts":               "360",
				"display.kind":               "",
				"display.plug":               "",
				"z-drive.motors":             "two on two drivers",
				"tube.length":                "",
				"probe.model":                "Sounder inductive",
				"probe.senses":               "metal, without touch",
				"surface.thickness":          "1.2",
				"carriage.model":             "",
				"extruder-bracket.thickness": "",
				"motor-e.flat":               "yes",
				"host.power":                 "a supply of its own",
				"frame.x":                    "255",
				"frame.y":                    "255",
				"firmware.family":            "hosted",
				"mainboard.probe-port":       "yes",
			},
		),
		9.1,
		4975,
		"2026-09-02",
		"−0.91 mm",
	},
	{"Lapwing", "Loft", "tern", found{"firmware.family": "hosted"}, 8.8, 4810, "2026-05-06", "−0.77 mm"},
	{
		"Nightjar",
		"Loft",
		"tern",
		opened.but(
			found{
				"extruder.model":             "Twinpawl 3:1",
				"toolhead-board.ways":        "10",
				"carriage.hole-spacing":      "24",
				"carriage.bracket-holes":     "yes",
				"supply.watts":               "360",
				"display.kind":               "",
				"display.plug":               "",
				"z-drive.motors":             "two on two drivers",
				"tube.length":                "",
				"probe.model":                "Sounder inductive",
				"probe.senses":               "metal, without touch",
				"surface.thickness":          "1.2",
				"carriage.model":             "",
				"extruder-bracket.thickness": "",
				"motor-e.flat":               "yes",
				"host.power":                 "a supply of its own",
				"frame.x":                    "255",
				"frame.y":                    "255",
				"frame.z-room":               "no",
				"firmware.family":            "hosted",
				"mainboard.probe-port":       "no",
				"mainboard.display-port":     "no",
			},
		),
		7.7,
		4166,
		"2026-08-12",
		"−0.88 mm",
	},
	{"Osprey", "Loft", "tern", nil, 6.0, 3320, "2026-08-12", "−0.95 mm"},
	{
		"Plover",
		"Loft",
		"tern",
		found{
			"firmware.family":        "hosted",
			"mainboard.probe-port":   "yes",
			"carriage.bracket-holes": "yes",
			"carriage.hole-spacing":  "24",
		},
		6.4,
		3511,
		"2026-10-28",
		"−0.80 mm",
	},
	{
		"Quail",
		"Loft",
		"tern",
		found{"firmware.family": "scripted", "firmware.version": "3.4.1"},
		5.9,
		3050,
		"2026-10-28",
		"−1.05 mm",
	},
	{
		"Redshank",
		"Loft",
		"tern",
		found{"nozzle.abrasive": "yes", "nozzle.material": "hardened"},
		10.2,
		5600,
		"2026-07-01",
		"−0.86 mm",
	},
	// Slip: the big ones.
	{
		"Sanderling",
		"Slip",
		"drift",
		found{
			"firmware.family":        "compiled",
			"mainboard.chip-maker":   "first source",
			"mainboard.processor":    "VCT6",
			"firmware.size":          "212",
			"mainboard.probe-port":   "yes",
			"carriage.bracket-holes": "no",
		},
		3.9,
		1610,
		"2026-09-22",
		"−1.40 mm",
	},
	{
		"Turnstone",
		"Slip",
		"drift",
		found{
			"firmware.family":      "compiled",
			"mainboard.chip-maker": "first source",
			"mainboard.processor":  "VCT6",
			"firmware.size":        "246",
		},
		4.2,
		1702,
		"2026-09-22",
		"−1.33 mm",
	},
	{"Whimbrel", "Slip", "drift", nil, 3.1, 1220, "2026-04-18", "−1.52 mm"},
	{"Yaffle", "Slip", "drift", found{"firmware.family": "compiled"}, 2.6, 1011, "2026-10-06", "−1.45 mm"},
	{
		"Shearwater",
		"Slip",
		"drift",
		look.but(
			found{
				"probe.model":         "none",
				"bracket.model":       "none",
				"plate.temperature":   "70",
				"mainboard.processor": "VCT6",
				"firmware.size":       "180",
				"firmware.version":    "1.2.0",
			},
		),
		5.1,
		2040,
		"2026-11-02",
		"−1.38 mm",
	},
	{"Phalarope", "Slip", "drift", nil, 0, 0, "", ""},
	{
		"Razorbill",
		"Slip",
		"drift",
		found{"firmware.family": "compiled", "mainboard.chip-maker": "pin-compatible twin"},
		4.4,
		1790,
		"2026-08-05",
		"−1.41 mm",
	},
}
