package csvimport

import (
	"sort"
	"strings"
	"unicode"

	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
)

// Targets of a column besides the traits.
const (
	Name   = "name"
	Bay    = "bay"
	Maker  = "maker"
	Serial = "serial"
	Note   = "note"
)

// Target is something a column can be brought into.
type Target struct {
	Key     string `json:"key"`
	Label   string `json:"label"`
	aliases []string
}

// Match is the proposal for one column.
type Match struct {
	Heading string `json:"heading"`
	Target  string `json:"target" doc:"Key of the target; empty when the column is left out"`
	Sure    bool   `json:"sure" doc:"The heading says it plainly; otherwise it is a guess to look at"`
}

// aliases are headings technicians write, besides the traits' own labels.
var aliases = map[string][]string{
	Name:   {"machine", "printer", "machine name", "printer name", "unit", "asset"},
	Bay:    {"room", "place", "location", "where", "zone"},
	Maker:  {"brand", "manufacturer", "type of machine", "machine model", "printer model", "make"},
	Serial: {"serial number", "serial no", "s/n", "sn"},
	Note:   {"notes", "remark", "remarks", "comment", "comments"},
}

// written are headings technicians write for a trait of the first part of a kind.
type written struct {
	of    machine.TraitOf
	words []string
}

func modelOf(kind string) machine.TraitOf {
	return machine.TraitOf{Kind: kind, Name: machine.ModelTrait, Value: machine.Text}
}

var traitAliases = []written{
	{modelOf(parts.Mainboard), []string{"board", "motherboard", "main board", "controller", "controller board"}},
	{machine.TraitOf{Kind: parts.Mainboard, Name: "revision", Value: machine.Text}, []string{"board revision", "board rev", "rev", "revision", "board version"}},
	{parts.MainboardProcessor, []string{"chip", "cpu", "mcu", "processor", "chip marking", "cpu marking"}},
	{parts.MainboardFlash, []string{"flash", "flash size", "memory", "flash kb", "flash memory"}},
	{machine.TraitOf{Kind: parts.Mainboard, Name: "chip-maker", Value: machine.Choice}, []string{"chip maker", "cpu maker", "processor maker"}},
	{parts.MainboardProbePort, []string{"probe port", "probe header", "probe connector", "5 pin header"}},
	{parts.MainboardDisplayPort, []string{"display port free", "10 pin header"}},
	{parts.MainboardBootloader, []string{"bootloader", "boot loader"}},
	{parts.MainboardBootloaderSize, []string{"bootloader size", "bootloader kb"}},
	{parts.MainboardUpload, []string{"flash by", "upload", "upload by", "way in"}},
	{machine.TraitOf{Kind: parts.Mainboard, Name: "usb-chip", Value: machine.Choice}, []string{"usb chip", "usb serial chip", "serial chip"}},
	{modelOf(parts.Firmware), []string{"firmware build", "build"}},
	{parts.FirmwareFamily, []string{"firmware", "firmware family", "firmware type", "fw"}},
	{parts.FirmwareVersion, []string{"firmware version", "fw version", "version", "build version"}},
	{parts.FirmwareSize, []string{"build size", "firmware size", "size of build"}},
	{machine.TraitOf{Kind: parts.Carriage, Name: "bracket-holes", Value: machine.YesNo}, []string{"bracket holes", "carriage holes", "tapped holes"}},
	{machine.TraitOf{Kind: parts.Carriage, Name: "hole-spacing", Value: machine.Number, Unit: "mm"}, []string{"hole spacing", "hole distance"}},
	{modelOf(parts.Supply), []string{"psu", "power supply"}},
	{parts.SupplyVolts, []string{"voltage", "volts", "supply voltage", "psu volts"}},
	{parts.SupplyWatts, []string{"watts", "psu watts", "supply watts"}},
	{modelOf(parts.Probe), []string{"levelling probe", "leveling probe", "bed probe"}},
	{parts.NozzleBore, []string{"nozzle size", "nozzle diameter", "nozzle mm"}},
	{modelOf(parts.Surface), []string{"bed surface", "surface"}},
	{modelOf(parts.Plate), []string{"bed", "build plate"}},
	{modelOf(parts.Host), []string{"host"}},
	{modelOf(parts.Display), []string{"screen", "lcd"}},
	{parts.SensorType, []string{"thermistor", "temperature sensor"}},
}

// aliasesOf are the further headings of every trait that has any, by its key.
func aliasesOf(voc *machine.Vocabulary) map[machine.Key][]string {
	out := map[machine.Key][]string{}
	for _, w := range traitAliases {
		if t := voc.Of(voc.First(w.of.Kind), w.of); t != nil {
			out[t.Key()] = w.words
		}
	}
	return out
}

// Targets lists what columns can be brought into, in the sheet's order.
func Targets(voc *machine.Vocabulary) []Target {
	out := []Target{
		{Key: Name, Label: "Name of the machine"}, {Key: Bay, Label: "Bay"}, {Key: Maker, Label: "Maker and model of the machine"},
		{Key: Serial, Label: "Serial number"}, {Key: Note, Label: "Note"},
	}
	for _, t := range voc.Traits {
		slot, _ := voc.Position(t.Slot)
		label := t.Label
		if t.Unit != "" {
			label += " (" + t.Unit + ")"
		}
		target := Target{Key: string(t.Key()), Label: label, aliases: []string{t.Label}}
		if t.Name == machine.ModelTrait {
			target.aliases = append(target.aliases, slot.Label)
		} else {
			target.aliases = append(target.aliases, slot.Label+" "+t.Short)
		}
		out = append(out, target)
	}
	of := aliasesOf(voc)
	for i := range out {
		out[i].aliases = append(out[i].aliases, out[i].Key, out[i].Label)
		out[i].aliases = append(out[i].aliases, aliases[out[i].Key]...)
		out[i].aliases = append(out[i].aliases, of[machine.Key(out[i].Key)]...)
	}
	return out
}

// leastScore is how alike heading and alias must be for a proposal.
const leastScore = 0.66

// Propose matches headings to targets: each column to at most one target and
// each target to at most one column, the surest first.
func Propose(headings []string, voc *machine.Vocabulary) []Match {
	type pair struct {
		column, target int
		score          float64
	}
	targets := Targets(voc)
	var pairs []pair
	for c, h := range headings {
		words := wordsOf(h)
		for t := range targets {
			best := 0.0
			for _, a := range targets[t].aliases {
				best = max(best, alike(words, wordsOf(a)))
			}
			if best >= leastScore {
				pairs = append(pairs, pair{c, t, best})
			}
		}
	}
	sort.SliceStable(pairs, func(i, j int) bool { return pairs[i].score > pairs[j].score })
	out := make([]Match, len(headings))
	for i, h := range headings {
		out[i].Heading = h
	}
	taken := map[int]bool{}
	for _, p := range pairs {
		if out[p.column].Target == "" && !taken[p.target] {
			out[p.column].Target, out[p.column].Sure = targets[p.target].Key, p.score == 1
			taken[p.target] = true
		}
	}
	return out
}

// unitWords are left out when headings are compared: "Flash (KiB)" is flash.
var unitWords = map[string]bool{"kib": true, "kb": true, "mm": true, "v": true, "w": true, "h": true, "c": true, "deg": true}

func wordsOf(s string) map[string]bool {
	out := map[string]bool{}
	for _, w := range strings.FieldsFunc(strings.ToLower(s), func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) }) {
		if !unitWords[w] {
			out[strings.TrimSuffix(w, "s")] = true
		}
	}
	return out
}

// alike is the share of common words (Dice's coefficient), 0 to 1.
func alike(a, b map[string]bool) float64 {
	if len(a) == 0 || len(b) == 0 {
		return 0
	}
	common := 0
	for w := range a {
		if b[w] {
			common++
		}
	}
	return 2 * float64(common) / float64(len(a)+len(b))
}
