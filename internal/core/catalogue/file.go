package catalogue

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"reflect"
	"slices"
	"strings"

	"wardifex/internal/core/fit"
	"wardifex/internal/core/jsonbounds"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
)

// Format and Version head a catalogue file.
const (
	Format  = "wardifex-catalogue"
	Version = 3
)

// MaxBytes is the size of the largest catalogue file that is read.
const MaxBytes = 8 << 20

// File is a catalogue as it is exchanged, in JSON; its schema is
// docs/catalogue.schema.json.
type File struct {
	Format  string `json:"format" enum:"wardifex-catalogue"`
	Version int    `json:"version" enum:"1,2,3"`
	machine.Catalogue
	Kits []fit.Kit `json:"kits,omitempty" doc:"Upgrades: what they ask for and what they do"`
}

// NewFile heads a catalogue with its kits for export.
func NewFile(c machine.Catalogue, kits []fit.Kit) File {
	return File{Format: Format, Version: Version, Catalogue: c, Kits: kits}
}

// ReadFile reads a catalogue file. Lists may be left out. The error says what
// is wrong and where.
func ReadFile(text []byte) (File, error) {
	var f File
	err := ReadJSON(text, MaxBytes, Format, Version, &f)
	if f.Version < Version {
		f.Catalogue = Older(f.Catalogue)
	}
	return f, err
}

// Older is a catalogue of a file of an older version, as it is read now: with what it
// could not say yet, and with whatever rules need of its kinds.
func Older(c machine.Catalogue) machine.Catalogue {
	shipped := Shipped()
	c = Upgraded(c)
	for i, p := range c.Slots {
		if at := slices.IndexFunc(shipped.Slots, func(s machine.Position) bool { return s.Key == p.Key }); at >= 0 {
			c.Slots[i].Sometimes = shipped.Slots[at].Sometimes
		}
	}
	lacking := machine.Catalogue{}
	for _, k := range shipped.Kinds {
		if slices.ContainsFunc(c.Kinds, func(o machine.PartKind) bool { return o.Key == k.Key }) {
			lacking.Kinds = append(lacking.Kinds, k)
		}
	}
	c, _, _ = parts.Restore(c, lacking)
	return c
}

// fileBounds are those of the files that people hand on. Numbers of a fleet are far below:
// sums of them stay numbers.
var fileBounds = jsonbounds.Bounds{Depth: 64, Number: 1e15, Bare: 10_000, List: 500_000}

// mostEntries is how many entries a catalogue file has, of all sorts together.
const mostEntries = 20_000

// MostFaults is how many faults of a file are listed; the first ones say enough.
const MostFaults = 50

// FirstFaults are the first faults of a file, with how many more there are.
func FirstFaults(all []string) []string {
	if more := len(all) - MostFaults; more > 0 {
		return append(slices.Clone(all[:MostFaults]), fmt.Sprintf("and %d faults more", more))
	}
	return all
}

// ReadJSON reads a file of one of our formats, of a version up to the one given, into
// a struct: the head first, so that a file of another format or version is named as
// such, then strictly, so that a misspelt field is found and not dropped.
func ReadJSON(text []byte, most int, format string, version int, into any) error {
	if len(text) > most {
		return fmt.Errorf("the file is larger than %d MiB", most>>20)
	}
	text = bytes.TrimPrefix(text, []byte("\ufeff"))
	if err := jsonbounds.Check(text, fileBounds); err != nil {
		return err
	}
	var head struct {
		Format  string
		Version json.Number
	}
	if err := json.Unmarshal(text, &head); err != nil {
		return readFault(text, err)
	}
	switch {
	case head.Format != format:
		return fmt.Errorf("this is no file of the format %s: its format says %q", format, short(head.Format))
	case !slices.ContainsFunc(upTo(version), func(v int) bool { return head.Version.String() == fmt.Sprint(v) }):
		return fmt.Errorf(
			"this file is of version %s of its format; versions 1 to %d are read here. Export it again from an application "+
				"of this version",
			orMissing(short(head.Version.String())),
			version,
		)
	}
	d := json.NewDecoder(bytes.NewReader(text))
	d.DisallowUnknownFields()
	if err := d.Decode(into); err != nil {
		return readFault(text, err)
	}
	return nil
}

func upTo(version int) []int {
	var out []int
	for v := 1; v <= version; v++ {
		out = append(out, v)
	}
	return out
}

func orMissing(s string) string {
	if s == "" {
		return "(missing)"
	}
	return s
}

func short(s string) string {
	if r := []rune(s); len(r) > 40 {
		return string(r[:39]) + "…"
	}
	return s
}

func readFault(text []byte, err error) error {
	var syntax *json.SyntaxError
	var kind *json.UnmarshalTypeError
	switch {
	case errors.As(err, &syntax):
		return fmt.Errorf("line %d: this is no valid JSON (%s)", lineOf(text, syntax.Offset), syntax)
	case errors.As(err, &kind):
		return fmt.Errorf("line %d: %s cannot be a %s", lineOf(text, kind.Offset), orMissing(kind.Field), kind.Value)
	}
	return fmt.Errorf("the file cannot be read: %s", strings.TrimPrefix(err.Error(), "json: "))
}

func lineOf(text []byte, offset int64) int {
	return 1 + bytes.Count(text[:min(int(offset), len(text))], []byte("\n"))
}

// Entry names one thing of a catalogue.
type Entry struct {
	Section string `json:"section" enum:"kind,slot,inspection,model,kit"`
	Key     string `json:"key"`
	Label   string `json:"label"`
}

// MergePlan is what importing a catalogue file would do.
type MergePlan struct {
	Added   []Entry           `json:"added"`
	Changed []Entry           `json:"changed"`
	Same    int               `json:"same" doc:"Entries that are here already just so"`
	Faults  []string          `json:"faults" doc:"What must be corrected before it can be imported"`
	After   machine.Catalogue `json:"-"`
	Kits    []fit.Kit         `json:"-"` // as they would be

	switchedOff []string            // needs that are wrong already, and stay so
	before      *machine.Vocabulary // nil where the catalogue cannot be read as it is
	besides     []machine.Position  // of machines
}

// NewMergePlan merges a catalogue into another: entries of the same key take the
// place of those here, others are added, nothing is removed.
func NewMergePlan(now, file machine.Catalogue, use machine.Usage, shop ...Mention) MergePlan {
	p := MergePlan{Added: []Entry{}, Changed: []Entry{}, Faults: []string{}}
	if len(file.Kinds)+len(file.Slots)+len(file.Inspections)+len(file.Models) > mostEntries {
		p.After = now
		p.Faults = append(p.Faults, fmt.Sprintf("a catalogue has at most %d entries", mostEntries))
		return p
	}
	p.asItIs(now, use)
	p.After.Kinds = merge(&p, now.Kinds, file.Kinds, kindEntry)
	p.After.Slots = merge(&p, now.Slots, file.Slots, slotEntry)
	p.After.Inspections = merge(&p, now.Inspections, file.Inspections, inspectionEntry)
	p.After.Models = merge(&p, now.Models, file.Models, modelEntry)
	p.Faults = append(p.Faults, p.After.Faults()...)
	p.Faults = append(p.Faults, machine.CheckChange(now, p.After, use)...)
	p.Faults = append(p.Faults, TakenAway(now, p.After)...)
	p.Faults = append(p.Faults, StillNamed(now, p.After, use, shop)...)
	return p
}

func kindEntry(k machine.PartKind) Entry          { return Entry{"kind", k.Key, k.Label} }
func slotEntry(p machine.Position) Entry          { return Entry{"slot", p.Key, p.Label} }
func inspectionEntry(in machine.Inspection) Entry { return Entry{"inspection", in.Key, in.Title} }
func modelEntry(m machine.Model) Entry            { return Entry{"model", ModelKey(m), m.Name} }

// Entries lists what a catalogue has, in its order.
func Entries(c machine.Catalogue) []Entry {
	var out []Entry
	for _, k := range c.Kinds {
		out = append(out, kindEntry(k))
	}
	for _, p := range c.Slots {
		out = append(out, slotEntry(p))
	}
	for _, in := range c.Inspections {
		out = append(out, inspectionEntry(in))
	}
	for _, m := range c.Models {
		out = append(out, modelEntry(m))
	}
	return out
}

// Deletion is what taking entries out of a catalogue would do, beside the kits: nothing is
// added, and its faults say who needs what is gone.
func Deletion(before, after machine.Catalogue, use machine.Usage, kits []fit.Kit, shop []Mention) MergePlan {
	p := MergePlan{After: after, Faults: append(after.Faults(), machine.CheckChange(before, after, use)...)}
	p.asItIs(before, use)
	p.Faults = append(p.Faults, StillNamed(before, after, use, shop)...)
	p.Faults = append(p.Faults, TakenAway(before, after)...)
	p.MergeKits(kits, nil)
	return p
}

// TakenAway lists what a change of the catalogue takes away that rules need, each in a
// sentence that names the rule.
func TakenAway(before, after machine.Catalogue) []string {
	was := parts.Broken(before)
	return slices.DeleteFunc(parts.Broken(after), func(fault string) bool { return slices.Contains(was, fault) })
}

// asItIs notes what is so before the change, which it is not blamed for.
func (p *MergePlan) asItIs(now machine.Catalogue, use machine.Usage) {
	p.besides = use.Positions
	if voc, err := now.Vocabulary(p.besides...); err == nil {
		p.before, p.switchedOff = voc, fit.CheckNeeds(voc)
	}
}

// Vocabulary is that of the catalogue after the change, with the positions of the machines.
func (p *MergePlan) Vocabulary() (*machine.Vocabulary, error) {
	return p.After.Vocabulary(p.besides...)
}

// brokenAlready reports whether a kit cannot be judged as it is either.
func (p *MergePlan) brokenAlready(k fit.Kit) bool {
	if p.before == nil {
		return false
	}
	_, err := fit.NewJudge(k, p.before)
	return err != nil
}

// MergeKits merges kits into those here, after the catalogue: each is judged by
// the catalogue as it would be, and together they are looked through for circles.
func (p *MergePlan) MergeKits(now, file []fit.Kit) {
	p.Kits = merge(p, now, file, func(k fit.Kit) Entry { return Entry{"kit", k.Key, k.Name} })
	if len(p.Faults) > 0 {
		return
	}
	voc, err := p.Vocabulary()
	if err != nil {
		p.Faults = append(p.Faults, err.Error())
		return
	}
	for _, fault := range fit.CheckNeeds(voc) {
		if !slices.Contains(p.switchedOff, fault) {
			p.Faults = append(p.Faults, fault)
		}
	}
	from := map[string]bool{}
	for _, k := range file {
		from[k.Key] = true
	}
	for _, k := range p.Kits {
		if err := k.Check(); err != nil && from[k.Key] {
			p.Faults = append(p.Faults, fmt.Sprintf("kit %s: %s", k.Key, err))
		}
		if _, err := fit.NewJudge(k, voc); err != nil && from[k.Key] {
			p.Faults = append(p.Faults, err.Error())
		} else if err != nil && !p.brokenAlready(k) {
			p.Faults = append(p.Faults, err.Error()+". A kit asks for it, so it has to stay; it can be superseded")
		}
	}
	if err := fit.CheckTogether(p.Kits); err != nil && len(file) > 0 {
		p.Faults = append(p.Faults, err.Error())
	}
}

// ModelKey is the key by which a model is one entry of a catalogue.
func ModelKey(m machine.Model) string {
	return m.Kind + "/" + fold(m.Name)
}

func merge[T any](p *MergePlan, now, file []T, entry func(T) Entry) []T {
	out := slices.Clone(now)
	at := map[string]int{}
	for i, x := range out {
		at[entry(x).Key] = i
	}
	seen := map[string]bool{}
	for _, x := range file {
		e := entry(x)
		if seen[e.Key] {
			p.Faults = append(p.Faults, fmt.Sprintf("%s %q is in the file twice", e.Section, e.Key))
			continue
		}
		seen[e.Key] = true
		i, there := at[e.Key]
		switch {
		case !there:
			out = append(out, x)
			p.Added = append(p.Added, e)
		case sameEntry(out[i], x):
			p.Same++
		default:
			out[i] = x
			p.Changed = append(p.Changed, e)
		}
	}
	return out
}

// sameEntry compares two entries as they are written: an empty list and none
// are the same.
func sameEntry(a, b any) bool {
	x, errX := json.Marshal(a)
	y, errY := json.Marshal(b)
	return errX == nil && errY == nil && (bytes.Equal(x, y) || reflect.DeepEqual(a, b))
}
