package csvimport

import (
	"slices"
	"sync"

	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
)

// Targets of a column besides the traits.
const (
	Name     = "name"
	Bay      = "bay"
	Maker    = "maker"
	Model    = "machine-model" // goes with the maker into one field
	Serial   = "serial"
	Supplier = "supplier"
	Price    = "price"
	Bought   = "bought"
	Note     = "note"
	Hours    = "hours"
	HoursOn  = "hours-on" // the day on which the hours were read
	Volume   = "volume"   // X × Y × Z in one cell
)

// field is a target that is no trait, with headings that technicians write for it. Those
// of loose can mean something else as well.
type field struct {
	key, label   string
	words, loose []string
}

var fields = []field{
	{Name, "Name of the machine", []string{"name", "machine", "printer", "machine name", "printer name", "machine id", "printer id", "nickname", "device", "asset", "asset tag", "asset no", "machine no", "printer no"}, []string{"unit", "id", "tag", "call sign", "label", "no"}},
	{Bay, "Bay", []string{"bay", "room", "location", "zone", "area", "site", "workshop", "stand", "rack", "row"}, []string{"where", "position", "spot", "shelf"}},
	{Maker, "Maker and model of the machine", []string{"maker", "make and model", "maker and model", "machine maker", "printer maker", "brand", "manufacturer", "maker and model of the machine"}, nil},
	{Model, "Model of the machine", []string{"machine model", "printer model", "machine type", "printer type", "model of machine", "model name"}, []string{"model", "type", "series"}},
	{Serial, "Serial number", []string{"serial", "serial no", "serial number", "s/n", "sn", "s no", "machine serial", "printer serial", "factory no"}, nil},
	{Supplier, "Supplier", []string{"supplier", "dealer", "vendor", "seller", "bought from", "purchased from", "shop"}, []string{"source"}},
	{Price, "Price paid", []string{"price", "cost", "price paid", "paid", "bought price", "purchase price", "cost price"}, []string{"value"}},
	{Bought, "Bought on", []string{"bought", "bought on", "date bought", "bought date", "purchase date", "date of purchase", "purchased on", "acquired", "acquired on", "in service since", "in use since", "commissioned", "buy date"}, []string{"since", "date", "year"}},
	{Note, "Note", []string{"note", "notes", "remark", "comments", "memo", "mods", "other", "misc", "notice"}, nil},
	{Hours, "Print hours, as the meter shows", []string{"print hours", "hours", "meter", "meter hours", "hour meter", "printing hours", "operating hours", "total hours", "total print hours", "hours printed", "runtime", "run time", "print time", "hours on meter", "print hours as meter shows"}, nil},
	{HoursOn, "Day on which the hours were read", []string{"meter read", "read on", "meter date", "hours date", "date of reading", "hours read on", "meter read on", "reading date", "date read", "day on which hours were read"}, []string{"day", "date"}},
	{Volume, "Print width × depth × height", []string{"build volume", "print volume", "build size", "print area", "build area", "bed size", "volume", "print size", "working area", "print width depth height"}, []string{"size"}},
}

// kindWords are what technicians call the parts, besides the labels of their positions.
var kindWords = map[string][]string{
	parts.Mainboard: {"mainboard", "main board", "board", "controller", "controller board", "control board", "electronics board", "printer board", "processor"},
	parts.Driver:    {"driver", "motor driver", "stepper driver"},
	parts.Display:   {"display", "control panel", "lcd display"},
	parts.Host:      {"host", "host computer", "computer"},
	parts.Supply:    {"power supply", "supply", "power supply unit", "power brick"},
	parts.Relay:     {"relay", "bed relay", "solid state relay"},
	parts.Circuit:   {"circuit", "mains circuit", "mains", "breaker", "fuse"},
	parts.CaseFan:   {"case fan", "board fan", "mainboard fan", "electronics fan"},
	parts.Firmware:  {"firmware", "firmware build", "build"},
	parts.Card:      {"memory card", "sd card", "card"},
	parts.Carriage:  {"carriage", "x carriage"},
	parts.Toolhead:  {"toolhead", "tool head", "print head", "printhead"},
	parts.Bracket:   {"probe bracket", "bracket", "probe mount", "probe holder"},
	parts.Probe:     {"probe", "levelling probe", "bed probe", "z probe", "bed levelling", "levelling", "auto levelling", "bed levelling probe", "auto levelling probe", "level sensor"},
	parts.Hotend:    {"hotend", "hot end"},
	parts.Heater:    {"hotend heater", "hot end heater", "heater", "heater cartridge", "cartridge", "nozzle heater"},
	parts.Sensor:    {"hotend sensor", "hotend thermistor", "thermistor", "temperature sensor", "nozzle sensor", "hot end thermistor", "hotend temperature sensor"},
	parts.Nozzle:    {"nozzle"},
	parts.FanDuct:   {"part fan", "part cooling fan", "part cooling", "fan duct", "cooling duct", "layer fan"},
	parts.Extruder:  {"extruder", "feeder"},
	parts.Tube:      {"tube", "filament tube", "ptfe", "ptfe tube", "bowden", "bowden tube"},
	parts.Runout:    {"run out", "run out sensor", "filament sensor", "filament run out"},
	parts.Frame:     {"frame", "gantry", "chassis"},
	parts.Belts:     {"belt", "x y belt"},
	parts.ZDrive:    {"z drive", "lead screw", "z screw", "z axis"},
	parts.ToolPlate: {"tool plate", "tool changer", "tool changing plate", "quick change plate"},
	parts.Plate:     {"bed plate", "bed", "build plate", "print bed", "table"},
	parts.Springs:   {"spring", "bed spring"},
	parts.Surface:   {"surface", "bed surface", "build surface", "print surface", "build sheet", "print sheet", "sheet"},
}

// sited are the words of parts that stand elsewhere than the first of their kind.
var sited = map[string][]string{
	"bed heater": {"bed heater", "heated bed", "heating bed", "heater bed", "bed heating"},
	"bed sensor": {"bed sensor", "bed thermistor", "bed temperature sensor", "heated bed sensor", "heated bed thermistor"},
}

// traitWords are headings for a trait, with the words of its part or, where alone is set,
// without.
type traitWords struct {
	of    machine.TraitOf
	words []string
	alone []string
}

func text(kind, name string) machine.TraitOf {
	return machine.TraitOf{Kind: kind, Name: name, Value: machine.Text}
}

var written = []traitWords{
	{text(parts.Mainboard, "revision"), []string{"revision", "version", "rev no"}, []string{"board revision", "board version", "board rev", "pcb revision"}},
	{parts.MainboardProcessor, []string{"processor", "processor marking", "chip", "chip marking", "marking"}, []string{"chip", "processor", "chip marking", "cpu marking", "processor chip"}},
	{parts.MainboardFlash, []string{"flash", "memory", "flash memory", "flash size", "memory size", "rom"}, []string{"flash", "flash size", "flash memory", "memory size", "program memory"}},
	{machine.TraitOf{Kind: parts.Mainboard, Name: "chip-maker", Value: machine.Choice}, []string{"processor maker", "chip maker"}, []string{"chip maker", "processor maker", "chip source"}},
	{parts.MainboardProbePort, []string{"probe port", "probe header", "probe connector", "5 pin header", "5 pin probe header"}, []string{"probe port", "probe header", "probe connector", "5 pin header", "5 pin port"}},
	{parts.MainboardDisplayPort, []string{"10 pin header", "display port free"}, []string{"10 pin header", "display header free"}},
	{parts.MainboardBootloader, []string{"bootloader", "boot loader"}, []string{"bootloader", "boot loader", "has bootloader"}},
	{parts.MainboardBootloaderSize, []string{"bootloader size"}, []string{"bootloader size", "boot loader size"}},
	{parts.MainboardUpload, []string{"upload", "upload by", "way in"}, []string{"flash by", "upload by", "way in", "upload", "flash method", "update by"}},
	{machine.TraitOf{Kind: parts.Mainboard, Name: "usb-chip", Value: machine.Choice}, []string{"usb chip"}, []string{"usb chip", "usb serial chip", "serial chip"}},
	{text(parts.Mainboard, "shield-letter"), []string{"letter", "shield letter"}, []string{"shield letter", "letter on shield", "sd letter", "card slot letter"}},
	{parts.FirmwareFamily, []string{"family", "type"}, []string{"firmware family", "firmware type"}},
	{parts.FirmwareVersion, []string{"version", "release", "build version"}, []string{"firmware version", "build version", "firmware release"}},
	{parts.FirmwareSize, []string{"size"}, []string{"build size", "firmware size", "size of build"}},
	{text(parts.Firmware, "file"), []string{"file", "file name", "bin"}, []string{"firmware file", "last flashed file", "bin file"}},
	{machine.TraitOf{Kind: parts.Carriage, Name: "bracket-holes", Value: machine.YesNo}, []string{"hole", "bracket hole", "tapped hole"}, []string{"bracket holes", "carriage holes", "tapped holes"}},
	{machine.TraitOf{Kind: parts.Carriage, Name: "hole-spacing", Value: machine.Number, Unit: "mm"}, []string{"hole spacing", "hole distance"}, []string{"hole spacing", "hole distance"}},
	{parts.SupplyVolts, []string{"volt", "output volt"}, []string{"supply volt", "system volt", "machine volt"}},
	{parts.SupplyWatts, []string{"watt", "power", "rating", "rated watt"}, []string{"supply watt"}},
	{parts.NozzleBore, []string{"size", "diameter", "bore", "hole"}, []string{"nozzle size", "nozzle diameter", "nozzle bore"}},
	{text(parts.Driver, "marking"), []string{"chip", "marking"}, nil},
	{parts.SensorType, []string{"type", "sensor type"}, nil},
	{parts.ExtruderSteps, []string{"estep", "step", "steps per mm"}, []string{"estep", "e step", "extruder step"}},
	{machine.TraitOf{Kind: parts.Extruder, Name: "ratio", Value: machine.Number}, []string{"ratio", "gear ratio", "gearing", "reduction"}, []string{"gear ratio", "extruder gearing"}},
	{machine.TraitOf{Kind: parts.Extruder, Name: "gear-diameter", Value: machine.Number, Unit: "mm"}, []string{"gear diameter", "drive gear diameter", "hob diameter"}, []string{"drive gear diameter", "drive gear"}},
	{machine.TraitOf{Kind: parts.Hotend, Name: "rating", Value: machine.Number, Unit: "°C"}, []string{"highest temperature", "highest", "rating", "rated temperature", "temperature limit"}, []string{"highest temperature", "highest nozzle temperature", "temperature limit"}},
	{machine.TraitOf{Kind: parts.Hotend, Name: "liner", Value: machine.YesNo}, []string{"liner", "ptfe liner", "ptfe lined", "lined"}, []string{"ptfe liner", "ptfe lined"}},
	{parts.HotendWorkingTemperature, []string{"working temperature", "usual temperature"}, []string{"working temperature", "printing temperature", "print temperature"}},
	{parts.ZMotors, []string{"motor"}, []string{"z motors", "count of z motors", "no of z motors", "z motor count"}},
	{machine.TraitOf{Kind: parts.Relay, Name: "earthed", Value: machine.YesNo}, []string{"earthed", "protective earth"}, []string{"earthed", "bed earthed", "frame earthed", "protective earth"}},
	{machine.TraitOf{Kind: parts.Plate, Name: "mains", Value: machine.YesNo}, []string{"mains", "mains heated"}, []string{"mains bed", "bed on mains", "mains heated bed"}},
	{parts.TubeLength, []string{"length"}, []string{"tube length"}},
	{text(parts.Driver, "model"), []string{"type", "model"}, nil},
	{machine.TraitOf{Kind: parts.Driver, Name: "microsteps", Value: machine.Number}, []string{"microstep", "step setting"}, nil},
	{machine.TraitOf{Kind: parts.Driver, Name: "rs", Value: machine.Number, Unit: "Ω"}, []string{"sense resistor", "rs", "r sense", "rsense", "resistor"}, nil},
	{parts.MotorCurrent, []string{"current", "rated current", "ampere"}, nil},
	{machine.TraitOf{Kind: parts.Surface, Name: "thickness", Value: machine.Number, Unit: "mm"}, []string{"thickness"}, []string{"sheet thickness", "surface thickness"}},
	{machine.TraitOf{Kind: parts.Frame, Name: "x", Value: machine.Number, Unit: "mm"}, []string{"x", "width"}, []string{"x", "width", "print width", "size x", "x size", "build x", "x travel", "bed x", "bed size x", "volume x", "print size x", "build volume x"}},
	{machine.TraitOf{Kind: parts.Frame, Name: "y", Value: machine.Number, Unit: "mm"}, []string{"y", "depth"}, []string{"y", "depth", "print depth", "size y", "y size", "build y", "y travel", "bed y", "bed size y", "volume y", "print size y", "build volume y"}},
	{machine.TraitOf{Kind: parts.Frame, Name: "z", Value: machine.Number, Unit: "mm"}, []string{"z", "height"}, []string{"z", "height", "print height", "size z", "z size", "build z", "z travel", "build height", "z height", "volume z", "print size z", "build volume z"}},
	{machine.TraitOf{Kind: parts.Relay, Name: "amperes", Value: machine.Number, Unit: "A"}, []string{"ampere", "current"}, nil},
	{machine.TraitOf{Kind: parts.Circuit, Name: "amperes", Value: machine.Number, Unit: "A"}, []string{"ampere", "current", "rating"}, nil},
	{machine.TraitOf{Kind: parts.Circuit, Name: "volts", Value: machine.Number, Unit: "V"}, []string{"volt"}, []string{"mains volt", "line volt"}},
}

// measured are words for what a number is, by its trait's name or unit.
var measured = map[string][]string{
	"V": {"volt"}, "W": {"watt", "power"}, "A": {"ampere", "current"}, "g": {"mass"}, "mm²": {"cross section", "wire"}, "°C": {"temperature"},
	"grams": {"mass"}, "wire": {"wire", "wire size", "gauge", "wire gauge"}, "shaft": {"shaft", "shaft length"}, "lead": {"lead", "pitch"},
}

var known struct {
	once  sync.Once
	words map[string]bool
}

// wordKnownHere reports whether a single word is one that headings are made of.
func wordKnownHere(word string) bool {
	known.once.Do(func() {
		known.words = map[string]bool{}
		note := func(phrases []string) {
			for _, p := range phrases {
				for _, w := range wordsOf(p) {
					known.words[w] = true
				}
			}
		}
		for _, f := range fields {
			note(f.words)
			note(f.loose)
		}
		for _, list := range kindWords {
			note(list)
		}
		for _, list := range sited {
			note(list)
		}
		for _, w := range written {
			note(w.words)
			note(w.alone)
		}
		for _, list := range measured {
			note(list)
		}
		note([]string{"driver", "motor", "endstop", "axis", "head", "current"})
	})
	for _, w := range wordsOf(word) {
		if known.words[w] {
			return true
		}
	}
	return false
}

// wordKnown reports whether a cell looks like a heading: short, no number, and with at
// least half of its words among those that headings are made of.
func wordKnown(cell string) bool {
	h := readHeading(cell)
	if len(h.words) == 0 || len(h.words) > 8 || numeric(cell) {
		return false
	}
	hits := 0
	for _, w := range h.words {
		if wordKnownHere(w) {
			hits++
		}
	}
	return hits*2 >= len(h.words)
}

// fieldNamed reports whether a heading is one of a field of the machine by itself.
func fieldNamed(text string) bool {
	words := wordsOf(text)
	return slices.ContainsFunc(fields, func(f field) bool {
		return slices.ContainsFunc(f.words, func(w string) bool { return slices.Equal(wordsOf(w), words) })
	})
}
