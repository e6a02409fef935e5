package catalogue

import (
	"maps"
	"slices"

	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
)

// relation is how a kind of part hangs together with others. Source: common
// practice.
type relation struct {
	onePer  string   // of what there is only one of it
	fedBy   []string // kinds that usually feed it
	ridesOn []string // kinds that it usually rides on
	serves  []machine.Place
}

const (
	perMachine = "machine"
	perPlace   = "place"
)

var (
	onHead = []string{parts.Toolhead, parts.Carriage}
	head   = []machine.Place{machine.Head(1)}
	bed    = []machine.Place{machine.Bed}
	inside = []machine.Place{machine.Electronics}
	frame  = []machine.Place{machine.Frame}
	axes   = []machine.Place{machine.Axis("x"), machine.Axis("y"), machine.Axis("z"), machine.Head(1)}
)

// Fans, probes and sensors of a head are taken to be wired to the mainboard: where
// a toolhead board has them, that is said of their position.
var relations = map[string]relation{
	parts.Mainboard:     {onePer: perMachine, fedBy: []string{parts.Supply}, serves: inside},
	parts.Driver:        {fedBy: []string{parts.Mainboard}, serves: axes},
	parts.ToolheadBoard: {onePer: perPlace, fedBy: []string{parts.Mainboard}, ridesOn: onHead, serves: head},
	parts.Display:       {onePer: perMachine, fedBy: []string{parts.Mainboard}, serves: inside},
	parts.Host:          {onePer: perMachine, serves: inside},
	parts.Supply:        {fedBy: []string{parts.Circuit}, serves: inside},
	parts.Relay:         {fedBy: []string{parts.Circuit}, serves: bed},
	parts.Circuit:       {onePer: perMachine, serves: []machine.Place{machine.Shop}},
	parts.CaseFan:       {fedBy: []string{parts.Mainboard}, serves: inside},
	parts.Firmware:      {onePer: perPlace, fedBy: []string{parts.ToolheadBoard, parts.Mainboard}, serves: []machine.Place{machine.Electronics, machine.Head(1)}},
	parts.Card:          {serves: inside},
	parts.Carriage:      {onePer: perPlace, serves: []machine.Place{machine.Axis("x")}},
	parts.Toolhead:      {onePer: perPlace, ridesOn: []string{parts.Carriage}, serves: head},
	parts.Bracket:       {ridesOn: onHead, serves: head},
	parts.Probe:         {fedBy: []string{parts.Mainboard}, ridesOn: onHead, serves: head},
	parts.Hotend:        {ridesOn: onHead, serves: head},
	parts.Heater:        {fedBy: []string{parts.Supply}, serves: []machine.Place{machine.Head(1), machine.Bed, machine.Enclosure}},
	parts.Sensor:        {fedBy: []string{parts.Mainboard}, serves: []machine.Place{machine.Head(1), machine.Bed, machine.Enclosure}},
	parts.Nozzle:        {ridesOn: onHead, serves: head},
	parts.FanDuct:       {fedBy: []string{parts.Mainboard}, ridesOn: onHead, serves: head},
	parts.Extruder:      {serves: head},
	extruderBracket:     {serves: head},
	parts.Motor:         {fedBy: []string{parts.Driver}, serves: axes},
	parts.Tube:          {serves: head},
	parts.Runout:        {fedBy: []string{parts.Mainboard}, serves: head},
	parts.Frame:         {onePer: perMachine, serves: frame},
	parts.Belts:         {serves: frame},
	parts.ZDrive:        {onePer: perMachine, serves: []machine.Place{machine.Axis("z")}},
	parts.Endstop:       {fedBy: []string{parts.Mainboard}, serves: axes},
	parts.ToolPlate:     {onePer: perMachine, ridesOn: []string{parts.Carriage}, serves: frame},
	parts.Plate:         {onePer: perMachine, ridesOn: []string{parts.Frame}, serves: bed},
	parts.Springs:       {onePer: perMachine, serves: bed},
	parts.Surface:       {onePer: perMachine, ridesOn: []string{parts.Plate}, serves: bed},
	parts.Structure:     {onePer: perMachine, serves: frame},
	mod:                 {serves: frame},
}

// possible is what can physically be, by kind and trait: what a sum takes a number
// for that nobody knows well enough. Source: from memory.
var possible = map[string]map[string]map[machine.PlaceKind]machine.Range{
	parts.Heater: {"watts": {machine.AHead: {Min: 15, Max: 120}, machine.ABed: {Min: 40, Max: 1500}, "": {Min: 5, Max: 2000}}},
	parts.Mainboard: {
		"flash":           {"": {Min: 16, Max: 8192}},
		"bootloader-size": {"": {Min: 0, Max: 64}},
		"driver-outputs":  {"": {Min: 3, Max: 12}},
		"heater-outputs":  {"": {Min: 1, Max: 6}},
		"sensor-inputs":   {"": {Min: 1, Max: 10}},
		"fan-outputs":     {"": {Min: 0, Max: 10}},
	},
	parts.Firmware:      {"size": {"": {Min: 8, Max: 4096}}},
	parts.Supply:        {"watts": {"": {Min: 30, Max: 1500}}},
	parts.Circuit:       {"amperes": {"": {Min: 5, Max: 63}}, "others": {"": {Min: 0, Max: 63}}},
	parts.Toolhead:      {"grams": {"": {Min: 60, Max: 2000}}, "wires": {"": {Min: 0, Max: 40}}},
	parts.ToolheadBoard: {"ways": {"": {Min: 0, Max: 40}}},
	parts.ToolPlate:     {"contacts": {"": {Min: 2, Max: 64}}},
	parts.Plate:         {"grams": {"": {Min: 100, Max: 10000}}},
	parts.Frame:         {"x": {"": {Min: 60, Max: 2000}}, "y": {"": {Min: 60, Max: 2000}}, "z": {"": {Min: 60, Max: 2500}}},
}

// nominals are the values that numbers stand for, by kind and trait.
var nominals = map[string]map[string]*machine.Nominal{
	parts.Supply: {"volts": supplied}, parts.Heater: {"volts": heated}, parts.Circuit: {"volts": mainsVolts},
}

// Upgraded is a catalogue of an older version with what it could not say yet:
// where its positions are, how its kinds hang together, what is possible, and what
// parts need. What it says itself stays; a need that a shop does not want is dropped
// by its key.
func Upgraded(c machine.Catalogue) machine.Catalogue {
	c.Slots, c.Kinds = slices.Clone(c.Slots), slices.Clone(c.Kinds)
	for i := range c.Slots {
		c.Slots[i] = Placed(c.Slots[i])
	}
	for i := range c.Kinds {
		c.Kinds[i] = related(c.Kinds[i])
		c.Kinds[i].Needs = withNeeds(c.Kinds[i].Needs, needsOfKinds[c.Kinds[i].Key])
		if c.Kinds[i].Key == parts.Firmware && c.Kinds[i].Features == nil {
			c.Kinds[i].Features = features
		}
	}
	c.Models = slices.Clone(c.Models)
	for i := range c.Models {
		m := &c.Models[i]
		at := slices.IndexFunc(needy, func(o machine.Model) bool { return ModelKey(o) == ModelKey(*m) })
		if at < 0 {
			continue
		}
		m.Needs = withNeeds(m.Needs, needy[at].Needs)
		if m.Uses == nil {
			m.Uses = needy[at].Uses
		}
	}
	return c
}

// withNeeds are needs with those that ship and are not among them by their key.
func withNeeds(own, shipped []machine.Need) []machine.Need {
	out := slices.Clone(own)
	for _, n := range shipped {
		if !slices.ContainsFunc(own, func(o machine.Need) bool { return o.Key == n.Key }) {
			out = append(out, n)
		}
	}
	return out
}

// related is a kind with how it hangs together with others, where it does not say.
func related(k machine.PartKind) machine.PartKind {
	r, ok := relations[k.Key]
	if !ok {
		return k
	}
	if k.OnePer == "" {
		k.OnePer = r.onePer
	}
	if k.FedBy == nil {
		k.FedBy = r.fedBy
	}
	if k.RidesOn == nil {
		k.RidesOn = r.ridesOn
	}
	if k.Serves == nil {
		k.Serves = r.serves
	}
	k.Traits = slices.Clone(k.Traits)
	for i, t := range k.Traits {
		if n := nominals[k.Key][t.Name]; t.Nominal == nil && n != nil && t.Kind == machine.Number {
			k.Traits[i].Nominal = n
		}
		if ranges := possible[k.Key][t.Name]; t.Possible == nil && ranges != nil && t.Kind == machine.Number {
			k.Traits[i].Possible = maps.Clone(ranges)
		}
	}
	return k
}
