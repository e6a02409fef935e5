package maintenance

import (
	"cmp"
	"slices"
	"strings"
	"unicode"
)

// Symptom is a fault as people see it, with its usual causes.
type Symptom struct {
	Key    string  `json:"key"`
	Title  string  `json:"title"`
	Causes []Cause `json:"causes"`
	Danger bool    `json:"danger" doc:"The machine is out of use at once when this is reported"`
	words  string  // by which it is recognised; beginnings of words
}

// Cause is a usual cause of a symptom and the check that shows it.
type Cause struct {
	Cause   string `json:"cause"`
	Check   string `json:"check"`
	Caution string `json:"caution,omitempty"`
}

const (
	hotNozzle = "Hot nozzle: burns."
	coolBed   = "Let the bed cool first: burns."
	powerOff  = "Power off and mains plug out first."
	noPulling = "Never plug or unplug a motor with power on: it kills drivers."
)

// symptoms as seen, commonest first. Source: common practice.
var symptoms = []Symptom{
	{"not-sticking", "The print does not stick to the bed", []Cause{
		{"The surface is greasy or worn", "Wash it with dish soap, dry it, print again in the same place.", coolBed},
		{"The nozzle starts too high", "Look at the first line: it must be pressed flat. Lower the Z offset by 0.05 mm.",
			hotNozzle},
		{"The bed is too cold for the filament", "Compare the set temperature with the spool's label.", ""}},
		false, "stick adhes peel warp lift detach"},
	{"clogged", "Nothing comes out of the nozzle", []Cause{
		{"Nozzle clogged", "Heat, push by hand: it must flow straight. Clean it by a cold pull.", hotNozzle},
		{"Heat creep: the filament swelled above the hotend", "Does the hotend fan turn as soon as the nozzle is warm?",
			hotNozzle},
		{"The filament is ground down at the drive gear", "Open the extruder, brush the teeth out.", powerOff}},
		false, "clog jam block nothing extrud stuck"},
	{"shifted", "Layers are shifted", []Cause{
		{"The head or bed was stopped by something", "Power off, move both by hand: no catch over the whole travel.",
			powerOff},
		{"A pulley slips on its motor shaft", "Mark pulley and shaft, print, compare. Tighten the grub screw on the flat.",
			powerOff},
		{"Belt loose, or the driver too hot", "Pluck the belts; feel the board's fan.", powerOff}},
		false, "layer shift skew stagger misalign"},
	{"ran-out", "The filament ran out or broke", []Cause{
		{"The spool is empty or tangled", "Load a new spool; for a paused print, resume it at the display.", hotNozzle},
		{"The run-out sensor sees filament that is not there", "Pull the filament out: does the display say so?", ""}},
		false, "ran out empty spool filament broke snap tangle"},
	{"extruder-clicks", "The extruder clicks", []Cause{
		{
			"The fast part of a load runs into the melt zone",
			"Shorten the fast part by 20 mm; it must end short of the nozzle.",
			"",
		},
		{"Too cold for the filament", "Compare the set temperature with the spool's label; heat 10 °C more.", hotNozzle},
		{"Nozzle blocked", "Heat, push by hand: it must flow straight and evenly.", hotNozzle},
		{
			"Motor current low",
			"Compare the driver's set current with the motor's rating.",
			"Power is on while measuring: plastic screwdriver, touch nothing else.",
		}},
		false, "click clack skip knock"},
	{"motor-buzzes", "A motor buzzes and does not turn", []Cause{
		{
			"The coils are split over the driver's pairs",
			"Compare the motor's lead order with the header's on the wire sheet.",
			noPulling,
		},
		{"A lead is loose", "Power off, measure each coil at the plug: a few ohms, both alike.", powerOff}},
		false, "buzz hum vibrat shak stall"},
	{"axis-backwards", "An axis runs the wrong way", []Cause{
		{"One coil is reversed", "Swap the two leads of one coil, or invert the axis in firmware.", noPulling},
		{"A motor of the revision that turns the other way", "Compare the label or colour with the other motors.", ""}},
		false, "backward wrong reverse direction opposite"},
	{"blank-display", "The display stays blank", []Cause{
		{"The build is for another display", "Send M115 over USB: does the board answer, and with which build?", ""},
		{"The plug is in another of its connectors", "Compare with the photograph or the leaflet.", powerOff}},
		false, "blank display screen dark empty black"},
	{"probe-blinks", "The probe blinks", []Cause{
		{
			"Too near the bed at power-up: its self-test failed",
			"Lift Z by 20 mm, cycle power.",
			"Keep fingers out from under the gantry.",
		},
		{"The pin is bent or worn", "Deploy it by hand; it must move freely. Try the spare tip.", ""}},
		false, "blink flash probe pin"},
	{"wont-update", "A new build does not go in", []Cause{
		{"The file has the name of the one flashed last: the board ignores it", "Rename the file, try again; wait 12 s.", ""},
		{"The card's format", "Format FAT32 with 4096-byte clusters; nothing else on the card.", ""},
		{"No bootloader", "Look up whether an upload ever worked on this board.", ""}},
		false, "update upgrade build firmware upload ignored"},
	{"first-layer-high", "The first layer is too high", []Cause{
		{
			"A thinner surface was put on",
			"Measure both surfaces; with an endstop or a metal-sensing probe the offset moves by the difference.",
			"",
		},
		{"The offset of another card or build is in force", "Read the offset on the display, compare with the record.", ""}},
		false, "first layer high gap"},
	{"levels-drift", "The level drifts from print to print", []Cause{
		{"Weak bed springs", "Press each corner: it must come back to the same height.", "Hot bed: let it cool."},
		{"Eccentric nuts loose", "Rock the gantry and the bed by hand: no play.", powerOff}},
		false, "drift level uneven tram"},
	{"salmon-skin", "Fine regular stripes on the walls", []Cause{
		{"Old drivers", "Print the wall test at half and double speed: the pattern follows the speed, not the place.", ""}},
		false, "stripe skin pattern moire"},
	{"ringing", "Ghosts beside edges (ringing)", []Cause{
		{"More mass on the head than when it was tuned", "Was the head changed since the resonance was measured?", ""},
		{"Belts loose or unequal", "Pluck both: the same note.", powerOff},
		{"The frame stands on something soft", "Push the frame: it must not rock.", ""}},
		false, "ring ghost echo wave ripple"},
	{"under-extrusion", "Too little plastic", []Cause{
		{"Steps per mm are those of another extruder", "Ask for 100 mm, measure what comes.", hotNozzle},
		{"A file overrides them with M92", "Look for M92 in the start code of the sliced file.", ""},
		{"Nozzle worn or partly blocked", "Push by hand when hot: it must flow straight.", hotNozzle}},
		false, "under extru thin missing gaps weak holes"},
	{"host-lost", "The host finds no machine", []Cause{
		{"The serial path is another", "List the serial devices by name; compare with the configuration.", ""},
		{
			"Host and mainboard are of different versions",
			"Read the message: a mismatch means rebuild and flash the mainboard.",
			"",
		}},
		false, "host connect serial network lost mcu"},
}

// repairMinutes is what finding and mending a symptom usually takes, by cause in their order, min.
// Source: from memory.
var repairMinutes = map[string][]float64{
	"extruder-clicks":  {10, 5, 30, 25},
	"motor-buzzes":     {30, 20},
	"axis-backwards":   {25, 25},
	"blank-display":    {40, 15},
	"probe-blinks":     {10, 20},
	"wont-update":      {15, 20, 60},
	"first-layer-high": {25, 20},
	"levels-drift":     {45, 30},
	"salmon-skin":      {20},
	"ringing":          {40, 25, 20},
	"under-extrusion":  {25, 15, 30},
	"host-lost":        {20, 60},
	"not-sticking":     {10, 15, 10},
	"clogged":          {30, 40, 20},
	"shifted":          {20, 30, 30},
	"ran-out":          {10, 20},
	"too-hot":          {90, 120},
	"sparks":           {120, 90},
	"shock":            {120, 120},
	"heater-stays-on":  {90, 60},
	"cracked-lead":     {60},
}

// Repair is a usual repair of a symptom: what would have to be mended, and how long it takes.
type Repair struct {
	Cause
	Minutes float64 `json:"minutes" doc:"Usual, with finding it, min"`
}

// Repairs are the usual repairs of a symptom, commonest first; none of one that is not known.
func Repairs(key string) []Repair {
	s, _ := SymptomOf(key)
	out := make([]Repair, len(s.Causes))
	for i, c := range s.Causes {
		out[i] = Repair{c, repairMinutes[key][i]}
	}
	return out
}

// RepairMinutes is what the commonest repair of a symptom takes; 0 of one that is not known.
func RepairMinutes(key string) float64 {
	if repairs := Repairs(key); len(repairs) > 0 {
		return repairs[0].Minutes
	}
	return 0
}

// Symptoms lists all: those of danger first, then the commonest.
func Symptoms() []Symptom { return allSymptoms }

var allSymptoms = slices.Concat(dangers, symptoms)

// SymptomOf finds a symptom by its key.
func SymptomOf(key string) (Symptom, bool) {
	i := slices.IndexFunc(allSymptoms, func(s Symptom) bool { return s.Key == key })
	if i < 0 {
		return Symptom{}, false
	}
	return allSymptoms[i], true
}

// Propose finds the symptoms that a report's words may mean, likeliest first;
// nil when none is recognised. A symptom of danger comes before all others.
func Propose(words string) []Symptom {
	said := strings.FieldsFunc(strings.ToLower(words), func(r rune) bool { return !unicode.IsLetter(r) })
	score := map[string]int{}
	var out []Symptom
	for _, s := range allSymptoms {
		n := 0
		for _, begin := range strings.Fields(s.words) {
			if slices.ContainsFunc(said, func(w string) bool { return strings.HasPrefix(w, begin) }) {
				n++
			}
		}
		if n > 0 {
			if s.Danger {
				n += 100
			}
			score[s.Key] = n
			out = append(out, s)
		}
	}
	slices.SortStableFunc(out, func(a, b Symptom) int { return cmp.Compare(score[b.Key], score[a.Key]) })
	return out
}

// Use is what a machine may be used for.
type Use string

const (
	InUse    Use = "in use"
	Attended Use = "attended only"
	OutOfUse Use = "out of use"
)

// Uses lists them, freest first.
func Uses() []Use { return []Use{InUse, Attended, OutOfUse} }
