// Package printfile reads sliced files of G-code, of any length, in one pass and little memory,
// and judges them against machines: volume, temperatures, start code, overrides, labels, nozzle and
// filament. Source of what the words do: from memory.
package printfile

import (
	"slices"
	"strings"

	"wardifex/internal/core/quantity"
)

// ProfileVersion is of the profile's shape, as it is kept. A profile of version 1 does not say what is
// left hot, nor what the tools after the first were sliced for; nothing is judged of that then.
// One of version 2 says what is left hot only where no word may end it. Up to version 3 it does not say what
// shifts coordinates, and its boxes are those of the coordinates; nor what puts a mesh out of force.
const ProfileVersion = 4

// Profile is what a sliced file does, as far as judging it needs: it stands for the file
// afterwards, so that a machine which is changed can be judged anew.
type Profile struct {
	Version int   `json:"version"`
	Bytes   int64 `json:"bytes" doc:"Unpacked"`
	Lines   int64 `json:"lines"`
	Moves   int64 `json:"moves"`
	// Bounds of the nozzle, of all moves and of those that extrude.
	Reach Box `json:"reach" doc:"Of all moves"`
	Used  Box `json:"used" doc:"Of moves that extrude"`
	// Tools that extrude or are heated, from 0.
	Tools   []Tool    `json:"tools"`
	Bed     []Extreme `json:"bed" doc:"Ever higher temperatures of the bed, °C"`
	Chamber []Extreme `json:"chamber" doc:"Ever higher temperatures of the chamber, °C"`
	// From version 2 on.
	ChamberWaits int64  `json:"chamberWaits,omitempty" doc:"Line of the first word that waits for the chamber"`
	Left         []Left `json:"left,omitempty" doc:"Still set to be hot at its end"`
	Ends         []Use  `json:"ends,omitempty" doc:"Words after the print that may end it by code of the machine's own"`

	Homed    int64 `json:"homed,omitempty" doc:"Line of the first homing; 0 for none"`
	HomedEnd int64 `json:"homedEnd,omitempty" doc:"Byte at which the line after homing begins; -1 where that is unknown"`
	Probed   int64 `json:"probed,omitempty" doc:"Line of the first probing of a mesh after homing; 0 for none"`
	ProbedBy *Use  `json:"probedBy,omitempty" doc:"The word of it"`
	Loaded   int64 `json:"loaded,omitempty" doc:"Line at which a stored mesh is put in force; 0 for none"`
	// From version 4 on.
	Shifted [3]int64 `json:"shifted,omitempty" doc:"Lines from which coordinates of X, Y, Z are shifted; 0 for none"`
	MeshOff *Use     `json:"meshOff,omitempty" doc:"What puts the mesh out of force before something is printed"`

	Extruded  int64 `json:"extruded,omitempty" doc:"Line of the first move that extrudes; 0 for none"`
	Overrides []Use `json:"overrides" doc:"Words that set what the machine keeps itself"`
	Words     []Use `json:"words" doc:"Other words by which families differ"`

	Labels  int64 `json:"labels" doc:"Objects that are labelled"`
	Hints   Hints `json:"hints"`
	Seconds int64 `json:"seconds" doc:"Of the moves, without acceleration"`
	// Faults are what is wrong with the file by itself.
	Faults []Fault `json:"faults"`
}

// Tool is what a file asks of one tool head.
type Tool struct {
	Tool     int       `json:"tool" doc:"From 0"`
	Filament float64   `json:"filament" doc:"mm"`
	Heat     []Extreme `json:"heat" doc:"Ever higher temperatures, °C"`
}

// CallsMacros reports whether the file calls commands that a host's configuration may define, or scripts.
func (p *Profile) CallsMacros() bool {
	return len(p.Ends) > 0 || slices.ContainsFunc(p.Words, func(u Use) bool { return u.isNamed() || u.isScript() })
}

// isNamed reports whether a word is a command by its name, as hosts have them.
func (u Use) isNamed() bool { return strings.Contains(u.Word, "_") && !u.isScript() }

// isScript reports whether a word runs a script of the machine's own.
func (u Use) isScript() bool { return strings.HasPrefix(u.Word, callsScript) }

// macro is the name of the macro or of the script that a word runs.
func (u Use) macro() string { return strings.TrimPrefix(u.Word, callsScript) }

// Left is a heater that is on when the file ends.
type Left struct {
	Tool int `json:"tool" doc:"From 0; −1 is the bed, −2 the chamber"`
	Extreme
}

// Extreme is a value that is further out than all before it, and the line of it.
type Extreme struct {
	Value float64 `json:"value"`
	Line  int64   `json:"line"`
}

// Box is a volume, mm. Each side is a list of ever further coordinates, with their lines, so that
// the first move outside of any machine's volume is known.
type Box struct {
	Low  [3][]Extreme `json:"low"`
	High [3][]Extreme `json:"high"`
}

// Bounds are the furthest coordinates of an axis; ok is false where it has none.
func (b *Box) Bounds(axis int) (low, high float64, ok bool) {
	if len(b.Low[axis]) == 0 {
		return 0, 0, false
	}
	return b.Low[axis][len(b.Low[axis])-1].Value, b.High[axis][len(b.High[axis])-1].Value, true
}

// Use is a word that a file holds.
type Use struct {
	Word  string `json:"word" doc:"M92, G29, a name"`
	Line  int64  `json:"line" doc:"Of the first"`
	Count int64  `json:"count"`
	// Of overrides: the line as it stands, and where in the file.
	Text string `json:"text,omitempty" doc:"The line as it is written"`
	From int64  `json:"from,omitempty" doc:"At which byte of the file the line begins"`
}

// Hints are what a slicer notes in comments.
type Hints struct {
	Nozzle   float64 `json:"nozzle,omitempty" doc:"Of the first tool, mm"`
	Filament string  `json:"filament,omitempty" doc:"Kind of filament of the first tool"`
	// Of each tool, where the slicer notes more than one.
	Nozzles   []float64 `json:"nozzles,omitempty" doc:"mm"`
	Filaments []string  `json:"filaments,omitempty"`
	Layer     float64   `json:"layer,omitempty" doc:"mm"`
	Seconds   int64     `json:"seconds,omitempty" doc:"Estimated printing time"`
	// A kind of firmware as the slicer took it.
	Flavour string `json:"flavour,omitempty" doc:"Of G-code, as the slicer calls it"`
}

// Fault is what is wrong with a file by itself.
type Fault struct {
	Line int64  `json:"line" doc:"From 1"`
	Says string `json:"says"`
}

// nozzleOf is the bore that a tool was sliced for; 0 where that is not noted.
func (h Hints) nozzleOf(tool int) float64 {
	if len(h.Nozzles) > 1 {
		if tool < len(h.Nozzles) {
			return h.Nozzles[tool]
		}
		return 0
	}
	return h.Nozzle
}

// filamentOf is the kind of filament that a tool was sliced for; empty where that is not noted.
func (h Hints) filamentOf(tool int) string {
	if len(h.Filaments) > 1 {
		if tool < len(h.Filaments) {
			return h.Filaments[tool]
		}
		return ""
	}
	return h.Filament
}

// first is the first of ever further values that lies beyond a limit; nil where none does.
func first(list []Extreme, limit float64, high bool) *Extreme {
	for i := range list {
		if high && list[i].Value > limit || !high && list[i].Value < limit {
			return &list[i]
		}
	}
	return nil
}

func mm(n float64) string { return quantity.Format(roundTo(n, 100)) + " mm" }
