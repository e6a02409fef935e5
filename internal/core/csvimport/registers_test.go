package csvimport_test

import (
	"slices"
	"strings"
	"testing"

	"wardifex/internal/core/csvimport"
	"wardifex/internal/core/machine"
)

// A register as somebody wrote it: what each column is ("-" is left out), and what some
// rows record. Sources: RFC 4180 for the form, common practice for headings.
type register struct {
	name, text, columns string
	records             map[string]string // of a machine: target and value, in pairs with "; "
}

var registers = []register{
	{
		"a heater's power",
		"Printer,Bed heater W\nAvocet,220\nBittern,250\n",
		"name bed-heater.watts",
		map[string]string{"Avocet": "bed-heater.watts 220 W"},
	},
	{
		"volts in brackets",
		"Name;PSU (V);PSU (W)\nAvocet;24;350\nBittern;12;240\n",
		"name supply.volts supply.watts",
		map[string]string{"Bittern": "supply.volts 12 V; supply.watts 240 W"},
	},
	{
		"a version under firmware",
		"machine,Firmware\nAvocet,2.0.8\nBittern,2.0.5 (Nov 20)\n",
		"name firmware.version",
		map[string]string{"Avocet": "firmware.version 2.0.8"},
	},
	{"a family under firmware", "machine,Firmware\nAvocet,compiled\nBittern,hosted\n", "name firmware.family", nil},
	{
		"a build under firmware",
		"machine,Firmware\nAvocet,loft build 3\nBittern,loft build 4\n",
		"name firmware.model",
		nil,
	},
	{
		"a board with its revision",
		"Machine,Board\nAvocet,Brace board v4.2\nBittern,Brace board rev 4.3b\nCurlew,Brace board\n",
		"name mainboard.model",
		map[string]string{
			"Avocet":  "mainboard.model Brace board; mainboard.revision 4.2",
			"Bittern": "mainboard.model Brace board; mainboard.revision 4.3b",
			"Curlew":  "mainboard.model Brace board",
		},
	},
	{
		"a marking is decoded",
		"Printer,CPU marking\nAvocet,RET6\n",
		"name mainboard.processor",
		map[string]string{
			"Avocet": "mainboard.processor RET6; mainboard.pins 64; mainboard.flash 512 KiB; mainboard.package LQFP",
		},
	},
	{
		"print hours and day bought",
		"Printer,Print hours,Date bought\nAvocet,1234,2024-03-01\nBittern,88,2025-11-30\n",
		"name hours bought",
		map[string]string{"Avocet": "hours 1234 h on 1 Jun 2026; bought 1 Mar 2024"},
	},
	{
		"a title line",
		"Register of the net loft 2026\n\nMachine;Room;Nozzle mm\nAvocet;Quay;0,4\nBittern;Loft;0,6\n",
		"name bay nozzle.bore",
		map[string]string{"Bittern": "bay Loft; nozzle.bore 0.6 mm"},
	},
	{
		"two lines, a part over several columns",
		"Machine,,Power supply,,Bed heater,\nName,Bay,V,W,V,W\nAvocet,Quay,24,350,230,400\n",
		"name bay supply.volts supply.watts bed-heater.volts bed-heater.watts",
		map[string]string{"Avocet": "supply.watts 350 W; bed-heater.volts 230 V"},
	},
	{
		"two lines, units beneath",
		"Printer;Flash;Tube length;Heater power\n;(KiB);(mm);(W)\nAvocet;512;450,5;40\n",
		"name mainboard.flash tube.length heater.watts",
		map[string]string{"Avocet": "tube.length 450.5 mm"},
	},
	{
		"a spreadsheet's first line",
		"sep=;\nPrinter;Steps/mm\nAvocet;95,4\nBittern;1.200,5\n",
		"name extruder.steps",
		map[string]string{"Bittern": "extruder.steps 1200.5 steps/mm"},
	},
	{
		"underscores",
		"printer_name,bay,board_rev,flash_kb,psu_watts\navocet,quay,4.2,512,350\n",
		"name bay mainboard.revision mainboard.flash supply.watts",
		nil,
	},
	{
		"camel case",
		"printerName,serialNumber,nozzleDiameter,driverX\nAvocet,0017,0.4,Hush 8\n",
		"name serial nozzle.bore driver-x.model",
		nil,
	},
	{
		"capitals",
		"MACHINE,LOCATION,HOTEND,EXTRUDER,PROBE\nAVOCET,QUAY,Grouse,Cleat,Plumb\n",
		"name bay hotend.model extruder.model probe.model",
		nil,
	},
	{
		"serial numbers",
		"Machine;S/N;Bought;Price\nAvocet;'0012;1.3.2024;249,00\nBittern;'0013;2.4.2024;€ 1.249,00\n",
		"name serial bought price",
		map[string]string{"Avocet": "serial 0012; bought 1 Mar 2024; price 249", "Bittern": "price 1249"},
	},
	{
		"make and model in two columns",
		"Printer,Make,Model,Serial no\nAvocet,Skerry,Tern 2,17\nBittern,Skerry,Skerry Gull,18\n",
		"name maker machine-model serial",
		map[string]string{"Avocet": "maker Skerry Tern 2", "Bittern": "maker Skerry Gull"},
	},
	{
		"print volume in one cell",
		"Printer,Build volume (mm)\nAvocet,235x235x250\nBittern,300 × 300 × 400\n",
		"name volume",
		map[string]string{"Bittern": "frame.x 300 mm; frame.z 400 mm"},
	},
	{"print volume in three", "Printer,X (mm),Y (mm),Z (mm)\nAvocet,235,235,250\n", "name frame.x frame.y frame.z", nil},
	{
		"volts and watts in one cell",
		"Printer,Power supply\nAvocet,Mast 24V 350W\nBittern,Mast 12 V\n",
		"name supply.model",
		map[string]string{"Avocet": "supply.model Mast; supply.volts 24 V; supply.watts 350 W"},
	},
	{
		"drivers by axis",
		"Printer,Driver X,Driver Y,Driver Z,Driver E,Microsteps E\nAvocet,Hush 8,Hush 8,Rasp 4,Hush 9,16\n",
		"name driver-x.model driver-y.model driver-z.model driver-e.model -",
		nil,
	},
	{
		"sense resistors",
		"Printer,X driver sense resistor\nAvocet,110 mΩ\nBittern,R150\n",
		"name driver-x.rs",
		map[string]string{"Avocet": "driver-x.rs 0.11 Ω", "Bittern": "driver-x.rs 0.15 Ω"},
	},
	{
		"wires by gauge",
		"Printer,Bed heater wire\nAvocet,AWG 16\nBittern,1.5 mm2\n",
		"name bed-heater.wire",
		map[string]string{"Avocet": "bed-heater.wire 1.30869572776 mm²"},
	},
	{"a nozzle by its bore", "Printer,Nozzle\nAvocet,0.4\nBittern,0.6 mm\n", "name nozzle.bore", nil},
	{
		"a nozzle by its material",
		"Printer,Nozzle material,Nozzle size\nAvocet,brass,0.4\nBittern,hardened,0.4\n",
		"name nozzle.material nozzle.bore",
		nil,
	},
	{
		"sensors",
		"Printer,Thermistor type,Bed thermistor type\nAvocet,100k thermistor,Pt100\n",
		"name sensor.type bed-sensor.type",
		nil,
	},
	{
		"yes and no",
		"Printer,Bootloader,Probe port,Stiffer springs\nAvocet,yes,no,x\nBittern,n,y,no\n",
		"name mainboard.bootloader mainboard.probe-port springs.stiff",
		nil,
	},
	{
		"a probe or none",
		"Unit,Bed levelling probe,Run-out sensor\nAvocet,none,Gate\nBittern,Plumb,none\n",
		"name probe.model runout.model",
		map[string]string{"Avocet": "probe.model none"},
	},
	{
		"with a column of remarks",
		"Printer,Colour of frame,Remarks\nAvocet,red,Lid is cracked; order one\n",
		"name - note",
		nil,
	},
	{
		"semicolons, commas inside, ragged",
		"Printer;Note;Bay\nAvocet;noisy, see Ann\nBittern;belt, wheels, frame;Quay\nCurlew\n",
		"name note bay",
		map[string]string{"Bittern": "note belt, wheels, frame; bay Quay"},
	},
	{
		"tabs",
		"Asset tag\tRoom\tHost computer\tDisplay\nAvocet\tQuay\tSmall host\tFour-line\n",
		"name bay host.model display.model",
		nil,
	},
	{
		"returns alone",
		"Printer,Belt width mm,Belt pitch mm\rAvocet,6,2\rBittern,9,2\r",
		"name belts.width belts.pitch",
		nil,
	},
	{
		"Windows letters",
		"Printer;Note;Max temp (\xb0C)\nD\xfcnlin;gro\xdf;260\nAvocet;;300\n",
		"name note hotend.rating",
		map[string]string{"Dünlin": "note groß; hotend.rating 260 °C"},
	},
	{
		"millimetres of mercury no, of steel yes",
		"Printer,Frame,Belts,Lead screw lead (mm)\nAvocet,portal,GT,8\n",
		"name frame.model belts.model z-drive.lead",
		nil,
	},
	{
		"a steps column with thousands",
		"Printer,E-steps\nAvocet,415.0\nBittern,\"1,200\"\n",
		"name extruder.steps",
		map[string]string{"Bittern": "extruder.steps 1200 steps/mm"},
	},
	{
		"decimal commas beside",
		"Printer;Steps per mm\nAvocet;95,4\nBittern;1,200\n",
		"name extruder.steps",
		map[string]string{"Bittern": "extruder.steps 1.2 steps/mm"},
	},
	{
		"days as a spreadsheet counts them",
		"Printer,Purchase date,Hours\nAvocet,45352,10\nBittern,45000,20\n",
		"name bought hours",
		map[string]string{"Avocet": "bought 1 Mar 2024"},
	},
	{
		"days with slashes that tell their order",
		"Printer,Bought on\nAvocet,13/02/2024\nBittern,3/4/2024\n",
		"name bought",
		map[string]string{"Bittern": "bought 3 Apr 2024"},
	},
	{
		"heads",
		"Printer,Hotend,Hotend 2,Nozzle 2 bore (mm)\nAvocet,Grouse,Grouse,0.8\n",
		"name hotend.model hotend-2.model nozzle-2.bore",
		nil,
	},
	{
		"currents",
		"Printer,Motor X current (A),Extruder motor rated current\nAvocet,0.85,1000 mA\n",
		"name motor-x.current motor-e.current",
		map[string]string{"Avocet": "motor-e.current 1 A"},
	},
	{
		"surfaces",
		"Printer,Build surface,Surface thickness (mm),Bed plate\nAvocet,Dune sheet,0.9,Shoal plate\n",
		"name surface.model surface.thickness plate.model",
		nil,
	},
	{
		"firmware in detail",
		"Printer,FW family,FW version,FW size (KB),Firmware file\nAvocet,compiled,2.1.1,186,loft3.bin\n",
		"name firmware.family firmware.version firmware.size firmware.file",
		nil,
	},
	{
		"where from",
		"Printer,Supplier,Cost,In service since\nAvocet,Harbour Parts,249,5 Jan 2024\n",
		"name supplier price bought",
		nil,
	},
	{
		"a title, a note and two lines of headings",
		"Netloft;;;\nas of May 2026;;;\nPrinter;Heater;;Bay\n;V;W;\nAvocet;24;40;Quay\n",
		"name heater.volts heater.watts bay",
		map[string]string{"Avocet": "heater.volts 24 V; heater.watts 40 W; bay Quay"},
	},
	{
		"extruder gears",
		"Printer,Gear ratio,Drive gear diameter mm\nAvocet,44:12,7.3\n",
		"name extruder.ratio extruder.gear-diameter",
		nil,
	},
	{"mains", "Printer,Mains voltage (V),Breaker (A)\nAvocet,230,16\n", "name circuit.volts circuit.amperes", nil},
}

// Judged column by column and cell by cell: no column is matched wrongly, at least 80 %
// of the matched ones are sure, and what is recorded is what was written.
func TestRegisters(t *testing.T) {
	matched, sure := 0, 0
	for _, r := range registers {
		tb, err := csvimport.ReadTable(t.Context(), []byte(r.text), csvimport.MaxRows, csvimport.Layout{})
		if err != nil {
			t.Errorf("%s: %v", r.name, err)
			continue
		}
		var d csvimport.Decisions
		want := strings.Fields(r.columns)
		if len(want) != len(tb.Headings) {
			t.Errorf("%s: %d headings, %q", r.name, len(tb.Headings), tb.Headings)
			continue
		}
		for i, m := range csvimport.Propose(tb, voc, nil) {
			d.Mapping = append(d.Mapping, m.Target)
			if m.Target != "" {
				matched++
			}
			if m.Sure {
				sure++
			}
			switch is := cmpOr(m.Target, "-"); {
			case is != want[i]:
				t.Errorf("%s: %q is matched to %s (sure: %v; %s), want %s", r.name, m.Heading, is, m.Sure, m.Why, want[i])
			case !m.Sure && is != "-":
				t.Logf("%s: %q is not sure: %s", r.name, m.Heading, m.Why)
			}
		}
		p, err := csvimport.NewPlan(t.Context(), tb, d, nil, voc, now)
		if err != nil || p.Faulty > 0 || len(p.Questions) > 0 {
			t.Errorf("%s: %v, %d faulty, %+v", r.name, err, p.Faulty, p.Questions)
		}
		for _, row := range p.Rows {
			for _, f := range row.Faults {
				t.Errorf("%s, line %d: %q %s", r.name, row.Line, f.Value, f.Problem)
			}
			if r.records[row.Name] == "" {
				continue
			}
			for _, pair := range strings.Split(r.records[row.Name], "; ") {
				if !slices.ContainsFunc(row.Changes, func(w csvimport.Written) bool { return w.Target+" "+w.After == pair }) {
					t.Errorf("%s, %s: want %s in %+v", r.name, row.Name, pair, row.Changes)
				}
			}
		}
	}
	t.Logf("%d registers, %d columns matched, %d of them sure", len(registers), matched, sure)
	if len(registers) < 40 || sure*10 < matched*8 {
		t.Errorf("%d of %d matched columns are sure", sure, matched)
	}
}

func cmpOr(a, b string) string {
	if a == "" {
		return b
	}
	return a
}

// Headings of other registers, each with the cells under it, and what it is; "-" where it
// is better left out. Source: common practice.
func TestHeadings(t *testing.T) {
	for _, tt := range []struct{ heading, cells, want string }{
		{"Heated bed power [W]", "220", "bed-heater.watts"}, {"Heated bed voltage", "24", "bed-heater.volts"},
		{"Hotend heater V", "24", "heater.volts"}, {"Power supply volts", "24", "supply.volts"},
		{"Supply voltage", "12 V", "supply.volts"}, {"PSU make", "Mast", "supply.model"},
		{"PSU", "24 V 350 W", "supply.model"}, {"Mainboard rev", "4.2", "mainboard.revision"},
		{"Board version", "v4.2", "mainboard.revision"}, {"MCU", "RET6", "mainboard.processor"},
		{"USB chip", "native", "mainboard.usb-chip"}, {"Bootloader?", "yes", "mainboard.bootloader"},
		{"Bootloader size (KiB)", "28", "mainboard.bootloader-size"}, {"Site", "Quay", "bay"}, {"Zone", "Quay", "bay"},
		{"Manufacturer", "Skerry", "maker"}, {"Model name", "Tern", "machine-model"}, {"S/No", "17", "serial"},
		{"Serial #", "17", "serial"}, {"Purchased", "2024-01-01", "bought"}, {"Date of purchase", "1.2.2024", "bought"},
		{"Runtime (h)", "1200", "hours"}, {"Total print hours", "1200", "hours"}, {"Meter h", "1200", "hours"},
		{"Read on", "2026-05-01", "hours-on"}, {"Comments", "x", "note"}, {"Dealer", "Harbour", "supplier"},
		{"Price (EUR)", "249,00", "price"}, {"Firmware ver.", "2.0.8", "firmware.version"}, {"FW", "2.0.8",
			"firmware.version"},
		{"Extruder steps/mm", "415", "extruder.steps"}, {"Extruder type", "Cleat dual", "extruder.model"},
		{"Extruder ratio", "3:1", "extruder.ratio"}, {"X stepper driver", "Hush 8", "driver-x.model"},
		{"Extruder driver", "Hush 9", "driver-e.model"}, {"Nozzle dia (mm)", "0.4", "nozzle.bore"},
		{"Nozzle mat.", "brass", "nozzle.material"}, {"Max nozzle temp", "300", "hotend.rating"},
		{"Hot end max °C", "300", "hotend.rating"}, {"Working temp (°C)", "245", "hotend.working-temperature"},
		{"Bed temp (°C)", "60", "plate.temperature"}, {"Bed size X", "235", "frame.x"}, {"Z height", "250", "frame.z"},
		{"Print area (mm)", "235 x 235", "volume"}, {"PTFE length (mm)", "450", "tube.length"},
		{"Part fan voltage", "24", "fan-duct.volts"}, {"Case fan wiring", "always on", "case-fan.wiring"},
		{"Bed thermistor", "100k thermistor", "bed-sensor.type"}, {"Probe type", "Plumb", "probe.model"},
		{"Heater cartridge (W)", "40", "heater.watts"}, {"Z motors", "one", "z-drive.motors"},
		{"Lead screw pitch (mm)", "8", "z-drive.lead"}, {"Earthed", "yes", "relay.earthed"}, {"Mains bed", "no",
			"plate.mains"},
		{"Motor current X", "0.8", "motor-x.current"}, {"Bed relay (A)", "25", "relay.amperes"},
		{"Tool head mass (g)", "380", "toolhead.grams"}, {"Tool plate contacts", "12", "tool-plate.contacts"},
		{"SD card", "Wren 8", "card.model"}, {"Filament sensor", "Gate", "runout.model"},
		{"Age", "3", "-"}, {"Status", "ok", "-"}, {"Owner", "Ann", "-"}, {"Steps", "95", "-"}, {"Microsteps", "16", "-"},
		{"Favourite colour", "red", "-"}, {"", "x", "-"},
	} {
		tb := csvimport.Table{Headings: []string{tt.heading}, Rows: [][]string{{tt.cells}}, Lines: []int{2}}
		if m := csvimport.Propose(tb, voc, nil)[0]; cmpOr(m.Target, "-") != tt.want {
			t.Errorf("%q over %q is matched to %q (%s), want %s", tt.heading, tt.cells, m.Target, m.Why, tt.want)
		}
	}
}

// Headings that say less than they seem to: none is sure, and none goes where its unit or
// its cells do not fit.
func TestNothingWrongIsSure(t *testing.T) {
	for text, never := range map[string]string{
		"Printer,PSU (V)\nA,24\n":                                    "supply.model",
		"Printer,Bed heater W\nA,220\n":                              "bed-heater.volts",
		"Printer,Heater\nA,24\nB,12\n":                               "heater.model",
		"Printer,Date\nA,2024-01-01\n":                               "name",
		"Printer,Board\nA,4.2\nB,4.3\n":                              "mainboard.model",
		"Printer,Display (W)\nA,5\n":                                 "display.model",
		"Printer,Version\nA,12 V\n":                                  "firmware.version",
		"Printer,Nozzle temperature (mm)\nA,0.4\n":                   "hotend.rating",
		"Printer,Weight of the person who carries it (kg)\nA,80\n":   "toolhead.grams",
		"Printer,Bed\nA,235 x 235\nB,300 x 300\n":                    "plate.model",
		"Printer,Power\nA,on\nB,off\n":                               "supply.watts",
		"Printer,Motor colour\nA,red\n":                              "motor-x.model",
		"Printer,Last firmware update\nA,2024-01-01\nB,2024-02-01\n": "firmware.version",
		"Printer,Probe offset X (mm)\nA,-24\n":                       "frame.x",
		"Printer,Hours since last nozzle change\nA,120\n":            "hours",
		"Printer,Board bought on\nA,2024-01-01\n":                    "mainboard.model",
		"Printer,Spare nozzles\nA,3\n":                               "nozzle.bore",
		"Printer,Serial port\nA,COM3\n":                              "serial",
		"Printer,Bed heater resistance (ohm)\nA,2.6\n":               "bed-heater.volts",
		"Printer,Extruder motor connector\nA,white\n":                "motor-e.model",
		"Printer,Number of heads\nA,2\nB,1\n":                        "structure.mounted",
	} {
		tb := table(t, text)
		m := csvimport.Propose(tb, voc, nil)[1]
		if m.Target == never ||
			m.Sure && m.Target != "supply.volts" && m.Target != "bed-heater.watts" && m.Target != "volume" {
			t.Errorf("%q: %q is matched to %q, sure %v (%s)", text, m.Heading, m.Target, m.Sure, m.Why)
		}
	}
}

// What is asked: the mark in a number once for its column, the order of slash dates once
// for the file; the answers settle it.
func TestQuestions(t *testing.T) {
	tb := table(
		t,
		"Printer;Steps/mm;Bought;Hours read on;Hours\nAvocet;1,200;3/4/2024;5/6/2024;10\nBittern;1,400;4/5/2024;;\n",
	)
	d := csvimport.Decisions{Mapping: []string{"name", "extruder.steps", "bought", "hours-on", "hours"}}
	p, err := csvimport.NewPlan(t.Context(), tb, d, nil, voc, now)
	if err != nil || len(p.Questions) != 2 || p.Faulty != 0 {
		t.Fatalf("%v: %+v", err, p)
	}
	if a := p.Questions[0]; a.About != "dates" || a.Answers[0].Means != "3 Apr 2024" ||
		a.Answers[1].Means != "4 Mar 2024" {
		t.Errorf("dates: %+v", a)
	}
	if a := p.Questions[1]; a.About != "decimals" || a.Column != 1 ||
		!strings.HasPrefix(a.Answers[0].Means, "1200 steps/mm") ||
		!strings.HasPrefix(a.Answers[1].Means, "1.2 steps/mm") {
		t.Errorf("decimals: %+v", a)
	}
	d.Decimals, d.DateOrder = []string{"", "."}, "month first"
	if p, err = csvimport.NewPlan(t.Context(), tb, d, nil, voc, now); err != nil || len(p.Questions) != 0 {
		t.Fatalf("%v: %+v", err, p.Questions)
	}
	var got []string
	for _, w := range p.Rows[0].Changes {
		got = append(got, w.Target+" "+w.After)
	}
	if want := []string{"extruder.steps 1200 steps/mm", "bought 4 Mar 2024", "hours 10 h on 6 May 2024"}; !slices.Equal(
		got,
		want,
	) {
		t.Errorf("%q, want %q", got, want)
	}
	under, asks, err := csvimport.Samples(tb, d, voc)
	if err != nil || len(asks) != 0 ||
		under[1].Samples[1] != (csvimport.Sample{Written: "1,400", Recorded: "1400 steps/mm"}) {
		t.Errorf("samples: %+v, %v, %v", under, asks, err)
	}
}

// An answer settles what has two meanings, and leaves alone what has one.
func TestAnAnswerLeavesOthersAlone(t *testing.T) {
	tb := table(t, "Printer;Steps/mm\nA;95,4\nB;95.4\nC;1,200\n")
	d := csvimport.Decisions{Mapping: []string{"name", "extruder.steps"}}
	p, err := csvimport.NewPlan(t.Context(), tb, d, nil, voc, now)
	if err != nil || len(p.Questions) != 1 || p.Faulty != 0 {
		t.Fatalf("%v: %+v", err, p)
	}
	d.Decimals = []string{"", "."}
	if p, err = csvimport.NewPlan(t.Context(), tb, d, nil, voc, now); err != nil || p.Faulty != 0 ||
		p.Rows[0].Changes[0].Value.Number != 95.4 ||
		p.Rows[1].Changes[0].Value.Number != 95.4 ||
		p.Rows[2].Changes[0].Value.Number != 1200 {
		t.Errorf("%v: %+v", err, p.Rows)
	}
	d.Decimals = []string{"", "x"}
	if _, err = csvimport.NewPlan(t.Context(), tb, d, nil, voc, now); err == nil {
		t.Error("x is a mark before decimals")
	}
}

// Serial numbers: noughts are kept, shortened ones refused, one that is there twice asked.
func TestSerials(t *testing.T) {
	tb := table(t, "Printer,Serial\nA,'0012\nB,1E+12\nC,0012\nD,77\n")
	d := csvimport.Decisions{Mapping: []string{"name", "serial"}}
	fleet := []csvimport.Existing{
		{ID: 1, Fields: map[string]string{"name": "Old", "serial": "77"}, Facts: machine.NewSnapshot(voc, machine.Record{})},
	}
	p, err := csvimport.NewPlan(t.Context(), tb, d, fleet, voc, now)
	if err != nil {
		t.Fatal(err)
	}
	for i, want := range []struct {
		problem string
		ask     bool
	}{{"", false}, {"spreadsheet has shortened", false}, {"line 2 has the same", true}, {"Old has this serial number",
		true}} {
		f := p.Rows[i].Faults
		if (len(f) == 0) != (want.problem == "") ||
			len(f) > 0 && (!strings.Contains(f[0].Problem, want.problem) || f[0].Ask != want.ask) {
			t.Errorf("line %d: %+v", i+2, f)
		}
	}
	d.Accepted = []int{4, 5}
	if p, _ = csvimport.NewPlan(t.Context(), tb, d, fleet, voc, now); p.Faulty != 1 ||
		p.Rows[2].Changes[0].After != "0012" {
		t.Errorf("said to be right: %+v", p.Rows)
	}
}

// What somebody matched by hand is found again, however the heading is written.
func TestRemembered(t *testing.T) {
	tb := table(t, "Printer,Colour of Frames,Bay\nA,red,Quay\n")
	before := csvimport.Remembered{csvimport.HeadingKey("frame colour"): "note", csvimport.HeadingKey("BAY"): ""}
	m := csvimport.Propose(tb, voc, before)
	if m[1].Target != "note" || !m[1].Sure || m[2].Target != "" {
		t.Errorf("%+v", m)
	}
}

// Where the headings are can be chosen.
func TestLayoutChosen(t *testing.T) {
	text := []byte("Avocet,Quay\nprinter,bay\nBittern,Loft\n")
	tb, err := csvimport.ReadTable(t.Context(), text, 10, csvimport.Layout{HeadingLine: 2, HeadingLines: 1})
	if err != nil || tb.Headings[0] != "printer" || len(tb.Rows) != 1 || tb.Above[0] != "Avocet Quay" {
		t.Errorf("%+v, %v", tb, err)
	}
	if _, err := csvimport.ReadTable(t.Context(), text, 10, csvimport.Layout{HeadingLine: 9}); err == nil {
		t.Error("a line that is not there")
	}
}
