package catalogue

import (
	"regexp"
	"strconv"
	"strings"

	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
)

// spot is where a position of the older versions is: what it serves, and which of
// its kind there.
type spot struct {
	kind   string
	serves machine.Place
	n      int
}

// olderKeys is the one table of the keys that positions had before they were a
// machine's own. They stay the keys of the usual positions.
var olderKeys = map[string]spot{
	"mainboard":        {parts.Mainboard, machine.Electronics, 1},
	"toolhead-board":   {parts.ToolheadBoard, machine.Head(1), 1},
	"display":          {parts.Display, machine.Electronics, 1},
	"host":             {parts.Host, machine.Electronics, 1},
	"supply":           {parts.Supply, machine.Electronics, 1},
	"relay":            {parts.Relay, machine.Bed, 1},
	"circuit":          {parts.Circuit, machine.Shop, 1},
	"case-fan":         {parts.CaseFan, machine.Electronics, 1},
	"firmware":         {parts.Firmware, machine.Electronics, 1},
	"card":             {parts.Card, machine.Electronics, 1},
	"carriage":         {parts.Carriage, machine.Axis("x"), 1},
	"bracket":          {parts.Bracket, machine.Head(1), 1},
	"probe":            {parts.Probe, machine.Head(1), 1},
	"toolhead":         {parts.Toolhead, machine.Head(1), 1},
	"hotend":           {parts.Hotend, machine.Head(1), 1},
	"heater":           {parts.Heater, machine.Head(1), 1},
	"sensor":           {parts.Sensor, machine.Head(1), 1},
	"nozzle":           {parts.Nozzle, machine.Head(1), 1},
	"fan-duct":         {parts.FanDuct, machine.Head(1), 1},
	"extruder":         {parts.Extruder, machine.Head(1), 1},
	"extruder-bracket": {extruderBracket, machine.Head(1), 1},
	"tube":             {parts.Tube, machine.Head(1), 1},
	"runout":           {parts.Runout, machine.Head(1), 1},
	"driver-x":         {parts.Driver, machine.Axis("x"), 1},
	"driver-y":         {parts.Driver, machine.Axis("y"), 1},
	"driver-z":         {parts.Driver, machine.Axis("z"), 1},
	"driver-e":         {parts.Driver, machine.Head(1), 1},
	"motor-x":          {parts.Motor, machine.Axis("x"), 1},
	"motor-y":          {parts.Motor, machine.Axis("y"), 1},
	"motor-z":          {parts.Motor, machine.Axis("z"), 1},
	"motor-e":          {parts.Motor, machine.Head(1), 1},
	"z-drive":          {parts.ZDrive, machine.Axis("z"), 1},
	"x-endstop":        {parts.Endstop, machine.Axis("x"), 1},
	"y-endstop":        {parts.Endstop, machine.Axis("y"), 1},
	"z-endstop":        {parts.Endstop, machine.Axis("z"), 1},
	"frame":            {parts.Frame, machine.Frame, 1},
	"belts":            {parts.Belts, machine.Frame, 1},
	"tool-plate":       {parts.ToolPlate, machine.Frame, 1},
	"plate":            {parts.Plate, machine.Bed, 1},
	"bed-heater":       {parts.Heater, machine.Bed, 1},
	"bed-sensor":       {parts.Sensor, machine.Bed, 1},
	"springs":          {parts.Springs, machine.Bed, 1},
	"surface":          {parts.Surface, machine.Bed, 1},
	"structure":        {parts.Structure, machine.Frame, 1},
	"mod":              {mod, machine.Frame, 1},
}

const (
	extruderBracket = "extruder-bracket"
	mod             = "mod"
)

var (
	ofHead = regexp.MustCompile(`^([a-z-]+?)-([1-9][0-9]?)$`)      // heater-2, mod-3
	ofAxis = regexp.MustCompile(`^(driver|motor)-z([1-9])$`)       // motor-z2
	ofFeed = regexp.MustCompile(`^(driver|motor)-e([1-9][0-9]?)$`) // motor-e2
)

// PlaceOf is where a position of an older key is: by the table, or as the keys of
// further ones were written after the same pattern ("heater-3" is the heater of
// head 3). ok is false where its kind or its key does not say it.
func PlaceOf(key, kind string) (serves machine.Place, n int, ok bool) {
	if at, known := olderKeys[key]; known {
		return at.serves, at.n, at.kind == kind
	}
	if m := ofAxis.FindStringSubmatch(key); m != nil && m[1] == kind {
		n, _ := strconv.Atoi(m[2])
		return machine.Axis("z"), n, true
	}
	if m := ofFeed.FindStringSubmatch(key); m != nil && m[1] == kind {
		n, _ := strconv.Atoi(m[2])
		return machine.Head(n), 1, n <= machine.MostHeads
	}
	m := ofHead.FindStringSubmatch(key)
	if m == nil {
		return machine.NoPlace, 0, false
	}
	at, known := olderKeys[strings.TrimSuffix(m[1], "-")]
	n, _ = strconv.Atoi(m[2])
	switch {
	case !known || at.kind != kind:
		return machine.NoPlace, 0, false
	case at.serves.Kind() == machine.AHead:
		return machine.Head(n), 1, n <= machine.MostHeads
	}
	return at.serves, n, n <= machine.MostOfAKind
}

// KeyFor is the key of a position by its kind and place: the older one where there
// was one, else one after the same pattern.
func KeyFor(kind string, serves machine.Place, n int) string {
	n = max(n, 1)
	for key, at := range olderKeys {
		if at.kind == kind && at.serves == serves && at.n == n {
			return key
		}
	}
	number := func(key string, n int) string { return key + "-" + strconv.Itoa(n) }
	switch head := serves.Head(); {
	case head > 0:
		key := kind
		if kind == parts.Driver || kind == parts.Motor {
			key = kind + "-e" + strconv.Itoa(head)
			if head == 1 {
				key = kind + "-e"
			}
		} else if head > 1 {
			key = number(kind, head)
		}
		if n > 1 {
			key += "-" + letter(n)
		}
		return key
	case serves.Letter() != "" && (kind == parts.Driver || kind == parts.Motor):
		key := kind + "-" + serves.Letter()
		if n > 1 {
			key += strconv.Itoa(n)
		}
		return key
	case serves.Letter() != "":
		return suffixed(serves.Letter()+"-"+kind, n)
	case serves == machine.Bed && (kind == parts.Heater || kind == parts.Sensor):
		return suffixed("bed-"+kind, n)
	}
	for key, at := range olderKeys { // one more of what is at the place already
		if at.kind == kind && at.serves == serves {
			return suffixed(key, n)
		}
	}
	if serves == machine.NoPlace || serves == machine.Frame {
		return suffixed(kind, n)
	}
	return suffixed(string(serves.Kind())+"-"+kind, n)
}

func suffixed(key string, n int) string {
	if n > 1 {
		return key + "-" + strconv.Itoa(n)
	}
	return key
}

// letter tells several of a kind on one head apart: b for the second.
func letter(n int) string { return string(rune('a' + (n-1)%26)) }
