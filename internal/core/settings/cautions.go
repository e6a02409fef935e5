package settings

import (
	"strings"

	"wardifex/internal/core/dialect"
	"wardifex/internal/core/parts"
)

// Caution is something in settings by which people or the house can come to harm.
type Caution struct {
	File string `json:"file,omitempty"`
	Line int    `json:"line" doc:"Of its file, from 1"`
	Word string `json:"word"`
	Says string `json:"says"`
}

// harmful are options and values that take a protection away. Source: from memory.
var harmful = []struct {
	family, section, word string
	off                   bool     // the option is commented out
	values                []string // or it has one of these values
	says                  string
}{
	{family: parts.Compiled, word: "THERMAL_PROTECTION_HOTENDS", off: true,
		says: "the build does not watch its nozzles: a sensor that slips out lets the heater go on. Do not leave the " +
			"machine unattended with it"},
	{family: parts.Compiled, word: "THERMAL_PROTECTION_BED", off: true,
		says: "the build does not watch its bed: a sensor that comes off lets the heater go on. Do not leave the " +
			"machine unattended with it"},
	{family: parts.Compiled, word: "TEMP_SENSOR_0", values: []string{"998", "999"}, says: madeUp},
	{family: parts.Compiled, word: "TEMP_SENSOR_1", values: []string{"998", "999"}, says: madeUp},
	{family: parts.Compiled, word: "TEMP_SENSOR_BED", values: []string{"998", "999"}, says: madeUp},
}

const madeUp = "the build takes a made-up temperature for a measured one: the heater is not controlled"

// Cautions are what in settings takes a protection away.
func (s *Stated) Cautions() []Caution {
	d := s.Document
	out := []Caution{}
	for _, h := range harmful {
		if h.family != s.Family || d.Form == dialect.GCode {
			continue
		}
		var found *dialect.Entry
		on := false
		for i := range d.Entries {
			e := &d.Entries[i]
			if d.Word(e) != h.word || e.Force == dialect.Excluded {
				continue
			}
			is := e.Force == dialect.CommentedOut
			on = on || !is
			if is == h.off && (h.off || containsValue(h.values, d.Value(e))) {
				found = e
			}
		}
		if found == nil || h.off && on {
			continue
		}
		file, line := d.PlaceOf(found.Line)
		out = append(out, Caution{File: d.FileName(file), Line: line, Word: d.Says(found), Says: h.says})
	}
	return out
}

func containsValue(list []string, value string) bool {
	for _, v := range list {
		if strings.TrimSpace(value) == v {
			return true
		}
	}
	return false
}
