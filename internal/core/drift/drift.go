// Package drift holds the places against each other in which one value can be set: the build's
// configuration, the stored settings of a board or a card, the host's configuration, and the start
// code of sliced files. It says which value is likely right, which one is in force, and how each
// place that is wrong is put right, in the form of that place.
package drift

import (
	"cmp"
	"fmt"
	"maps"
	"slices"
	"strings"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/dialect"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
	"wardifex/internal/core/quantity"
	"wardifex/internal/core/settings"
)

// Where is the place that a settings file is of.
type Where string

const (
	BuildConfiguration Where = "build configuration"
	StoredSettings     Where = "stored settings"
	CardFile           Where = "file on the memory card"
	HostConfiguration  Where = "host configuration"
	StartCode          Where = "start code"
)

// Places are those that a file can be of, the one that counts over all before it last: what
// start code says is set at every print, what is stored is loaded over what was built.
var Places = []Where{BuildConfiguration, HostConfiguration, StoredSettings, CardFile, StartCode}

// DriftedValue is a value that two places of a machine set to different numbers.
type DriftedValue struct {
	calibration.Disagreement
	InForce string  `json:"inForce,omitempty" doc:"The place whose value the machine prints with"`
	Patches []Patch `json:"patches" doc:"What puts the places right that are wrong, once it is clear which value is right"`
}

// Patch puts one place right.
type Patch struct {
	File    int64    `json:"file" doc:"Number of the settings file"`
	Name    string   `json:"name"`
	Where   Where    `json:"where"`
	Line    int      `json:"line" doc:"From 1"`
	Was     string   `json:"was"`
	Becomes string   `json:"becomes"`
	Diff    string   `json:"diff,omitempty" doc:"Unified, for the file"`
	Lines   []string `json:"lines,omitempty" doc:"G-code to send to the machine"`
	Then    string   `json:"then" doc:"What makes it count"`
	Fault   string   `json:"fault,omitempty" doc:"Why it cannot be written for this place"`
}

// Of are the values of a machine of which its settings files, its record and its parts disagree,
// with those that disagree without any file.
func Of(s machine.Snapshot, records []calibration.Record, since calibration.Since, sources []Source) []DriftedValue {
	found, from := founds(s, sources)
	list := calibration.Disagreements(s, records, since, found...)
	out := make([]DriftedValue, 0, len(list))
	for _, d := range list {
		v := DriftedValue{Disagreement: d, InForce: inForce(d, sources), Patches: []Patch{}}
		for _, wrong := range v.Wrong() {
			v.Patches = append(v.Patches, patch(from[placeOf(wrong.File, d)], wrong, d))
		}
		out = append(out, v)
	}
	return out
}

// Found are what settings files state of what a machine has.
func Found(s machine.Snapshot, sources []Source) []calibration.Found {
	found, _ := founds(s, sources)
	return found
}

// origin is where a statement was found: in which file, and which of its statements it is.
type origin struct {
	source    *Source
	statement *settings.ValueStatement
	trait     *settings.TraitStatement
}

// place is a value in a file: one line can state several.
type place struct {
	file    int64
	kind    calibration.Kind
	subject calibration.Subject
	key     machine.Key
}

func placeOf(file int64, d calibration.Disagreement) place {
	if d.Kind == "" {
		return place{file: file, key: d.Keys[0]}
	}
	return place{file: file, kind: d.Kind, subject: d.Subject}
}

// founds are what the files state of what the machine has.
func founds(s machine.Snapshot, sources []Source) ([]calibration.Found, map[place]origin) {
	var out []calibration.Found
	from := map[place]origin{}
	for i := range sources {
		src := &sources[i]
		if src.Called {
			continue
		}
		for j := range src.Stated.Calibrations {
			st := &src.Stated.Calibrations[j]
			c, ok := calibration.Of(st.Kind)
			if !ok || !slices.Contains(c.Subjects(s), st.Subject) {
				continue
			}
			f := calibration.Found{
				Kind:      st.Kind,
				Subject:   st.Subject,
				Statement: src.statement(st.File, st.Line, st.Word, st.Value),
				Numbers:   c.Numbers(st.Subject, st.Value),
			}
			if len(f.Numbers) == 0 {
				continue
			}
			out = append(out, f)
			from[place{file: f.File, kind: st.Kind, subject: st.Subject}] = origin{source: src, statement: st}
		}
		for j := range src.Stated.Traits {
			st := &src.Stated.Traits[j]
			t := traitAt(s, st)
			if t == nil {
				continue
			}
			f := calibration.Found{Key: t.Key(), Text: st.Choice}
			value := machine.Value{Text: st.Choice}
			if st.Choice == "" {
				f.Numbers = []float64{st.Value}
				value = machine.Value{Number: st.Value, Text: quantity.Format(st.Value)}
			}
			f.Statement = src.statement(st.File, st.Line, st.Word, t.Show(value))
			out = append(out, f)
			from[place{file: f.File, key: t.Key()}] = origin{source: src, trait: st}
		}
	}
	return out, from
}

// traitAt is the trait of the machine that settings state; nil where it has no such part.
func traitAt(s machine.Snapshot, st *settings.TraitStatement) *machine.Trait {
	list := s.Structure().At(st.Kind, st.Place)
	if len(list) == 0 {
		return nil
	}
	for _, t := range s.Vocabulary().TraitsAt(list[0].Key) {
		if t.Key().Trait() == st.Trait && (t.Kind == machine.Number) == (st.Choice == "") && t.Kind != machine.Text {
			return t
		}
	}
	return nil
}

// inForce is the place that counts of those that state a value.
func inForce(d calibration.Disagreement, sources []Source) string {
	best, where := -1, ""
	for _, x := range d.Statements {
		i := slices.IndexFunc(sources, func(s Source) bool {
			return x.File != 0 && slices.ContainsFunc(s.Files, func(f SourceFile) bool { return f.ID == x.File })
		})
		if i < 0 {
			continue
		}
		if rank := slices.Index(Places, sources[i].Where); rank > best {
			best, where = rank, x.Where
		}
	}
	return where
}

// patch puts a place right that states another value than the one that stands.
func patch(of origin, wrong calibration.Statement, d calibration.Disagreement) Patch {
	src := of.source
	_, name, _ := strings.Cut(wrong.Where, ", ")
	p := Patch{File: wrong.File, Name: name, Where: src.Where, Line: wrong.Line, Was: wrong.Word, Becomes: d.Stands,
		Then: then[src.Where]}
	if src.isScripts() {
		p.Then = then[CardFile]
	}
	edits, err := p.change(of, d)
	if err == nil && len(edits) > 0 {
		if src.Where != StartCode {
			var as []string
			for _, e := range edits {
				as = append(as, e.New)
			}
			if becomes := strings.TrimSpace(strings.Join(as, ", ")); becomes != "" && of.choice() == "" {
				p.Becomes = becomes
			}
		}
		p.Diff, err = src.diff(edits)
	}
	if err != nil {
		p.Fault = err.Error()
	}
	return p
}

// isScripts reports whether settings that are stored are scripts on the machine's card: the scripted family reads
// them at its start, and a value that is sent lasts until then.
func (src *Source) isScripts() bool {
	return src.Where == StoredSettings && src.Stated.Family == parts.Scripted
}

// choice is what is stated of a trait that is a choice; empty of a number.
func (o origin) choice() string {
	if o.trait == nil {
		return ""
	}
	return o.trait.Choice
}

// change is what makes a place state the value that stands: edits of its files, or lines to send.
func (p *Patch) change(of origin, d calibration.Disagreement) ([]dialect.Edit, error) {
	src := of.source
	sent := src.Where == StoredSettings && !src.isScripts()
	if of.statement != nil {
		switch {
		case sent:
			p.Lines = settings.Write(src.Stated.Family, d.Kind, d.Subject, d.Stands)
			if len(p.Lines) == 0 {
				return nil, fmt.Errorf("the %s family has no word that sets it from its value alone: set it at the machine",
					src.Stated.Family)
			}
			p.Lines = append(p.Lines, "M500")
			return nil, nil
		case src.Where == StartCode:
			p.Becomes = "left to the machine's own settings"
			return src.Stated.Drop(*of.statement), nil
		}
		return src.Stated.Set(*of.statement, d.Stands)
	}
	n, code := 0.0, ""
	for _, x := range d.Statements {
		if x.Value == d.Stands {
			code = x.Choice()
		}
	}
	if of.trait.Choice == "" {
		var err error
		text, _, _ := strings.Cut(d.Stands, " ")
		if n, err = quantity.Recorded(text); err != nil {
			return nil, err
		}
	}
	if sent && of.trait.Choice == "" {
		p.Lines = []string{src.Stated.LineOf(*of.trait, n), "M500"}
		return nil, nil
	}
	return src.Stated.SetTrait(*of.trait, n, code)
}

// diff is what edits change of the files of a place.
func (src *Source) diff(edits []dialect.Edit) (string, error) {
	d := src.Stated.Document
	by, err := d.Split(edits)
	if err != nil {
		return "", err
	}
	out := ""
	for _, file := range slices.Sorted(maps.Keys(by)) {
		diff, err := dialect.Diff(src.Files[file].Name, d.TextOf(file), by[file])
		if err != nil {
			return "", err
		}
		out += diff
	}
	return out, nil
}

// then is what makes a change in a place count.
var then = map[Where]string{
	BuildConfiguration: "Build it again, flash it, and enter this machine's own values again.",
	StoredSettings:     "Send the lines, then read the settings back (M503).",
	CardFile:           "Put the file back on the card, and start the machine with it.",
	HostConfiguration:  "Put the file back on the host, and restart the firmware.",
	StartCode:          "Change the profile in the slicer, and slice again what is still to be printed.",
}

// Sort puts values in the order in which they are to be settled: those that print wrong now
// before those that only stand ready to.
func Sort(list []DriftedValue) {
	slices.SortStableFunc(list, func(a, b DriftedValue) int {
		return cmp.Compare(urgency(a), urgency(b))
	})
}

func urgency(v DriftedValue) int {
	switch {
	case v.InForce != "" && slices.ContainsFunc(v.Patches, func(p Patch) bool {
		return strings.HasPrefix(v.InForce, string(p.Where))
	}):
		return 0
	case len(v.Patches) > 0:
		return 1
	}
	return 2
}
