package csvimport

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"strings"

	"wardifex/internal/core/bench"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
)

// Existing is a machine already in the register.
type Existing struct {
	ID      int64
	Fields  map[string]string // name, bay, maker, serial, note
	Retired bool
	Facts   machine.Snapshot
	// Held are the values that some counting reading of any grade already
	// states, by trait; such a value is not claimed again.
	Held map[machine.Key][]machine.Value
}

// Correction replaces one cell before the rows are judged.
type Correction struct {
	Line   int    `json:"line"`
	Column int    `json:"column" doc:"From 0"`
	Value  string `json:"value"`
}

// Fault is one thing wrong with a file, where it stands.
type Fault struct {
	Line    int    `json:"line"`
	Column  int    `json:"column" doc:"From 0; −1 when it is about the whole row"`
	Heading string `json:"heading"`
	Value   string `json:"value"`
	Problem string `json:"problem" doc:"What is wrong and what would be right"`
}

// Action is what bringing a row in does.
type Action string

const (
	Create Action = "create"
	Change Action = "change"
	Same   Action = "same"
	Faulty Action = "faulty"
	Out    Action = "left out"
)

// Row is one row of the file, judged.
type Row struct {
	Line    int       `json:"line"`
	Name    string    `json:"name"`
	Action  Action    `json:"action"`
	Changes []Written `json:"changes"`
	Faults  []Fault   `json:"faults"`

	MachineID int64 `json:"-"` // of an existing machine
}

// Written is one value that bringing the row in would write.
type Written struct {
	Target string `json:"target"`
	Label  string `json:"label"`
	Before string `json:"before,omitempty"`
	After  string `json:"after"`
	// Remark says what the claim meets: a stronger reading that stands above
	// it, or a claim that it contradicts.
	Remark string `json:"remark,omitempty"`

	Value machine.Value `json:"-"` // of a trait
}

// Plan is what bringing a file in would do.
type Plan struct {
	Rows        []Row  `json:"rows"`
	Created     int    `json:"created"`
	Changed     int    `json:"changed"`
	Same        int    `json:"same"`
	Faulty      int    `json:"faulty"`
	LeftOut     int    `json:"leftOut"`
	Fingerprint string `json:"fingerprint" doc:"Of all that would be written; it changes when the file or the fleet does"`
}

// Correct replaces cells. Corrections outside the table are refused.
func (t *Table) Correct(corrections []Correction) error {
	for _, c := range corrections {
		found := false
		for i, line := range t.Lines {
			if line != c.Line {
				continue
			}
			if c.Column < 0 || c.Column >= len(t.Headings) {
				break
			}
			for len(t.Rows[i]) <= c.Column {
				t.Rows[i] = append(t.Rows[i], "")
			}
			t.Rows[i][c.Column] = c.Value
			found = true
		}
		if !found {
			return fmt.Errorf("there is no cell in line %d, column %d to correct", c.Line, c.Column+1)
		}
	}
	return nil
}

// NewPlan judges every row: what it creates or changes, and each fault with
// its place. mapping names the target of each column, "" to leave it out.
// leaveOut are lines not to be brought in. The result depends on nothing else,
// so planning the same file again after bringing it in finds nothing to do.
func NewPlan(t Table, mapping []string, leaveOut []int, fleet []Existing, voc *machine.Vocabulary) (Plan, error) {
	columns, err := checkMapping(t, mapping, voc)
	if err != nil {
		return Plan{}, err
	}
	byName := make(map[string]*Existing, len(fleet))
	for i := range fleet {
		byName[fold(fleet[i].Fields[Name])] = &fleet[i]
	}
	out := map[int]bool{}
	for _, l := range leaveOut {
		out[l] = true
	}
	seen := map[string]int{}
	p := Plan{Rows: []Row{}}
	for i := range t.Rows {
		row := judgeRow(t, i, columns, byName, seen)
		if out[row.Line] {
			row.Action, row.Changes = Out, []Written{}
		}
		switch row.Action {
		case Create:
			p.Created++
		case Change:
			p.Changed++
		case Same:
			p.Same++
		case Faulty:
			p.Faulty++
		case Out:
			p.LeftOut++
		}
		p.Rows = append(p.Rows, row)
	}
	text, err := json.Marshal(p.Rows)
	if err != nil {
		return p, err
	}
	sum := sha256.Sum256(text)
	p.Fingerprint = hex.EncodeToString(sum[:])
	return p, nil
}

type column struct {
	target  string
	label   string
	trait   *machine.Trait
	index   int
	heading string
}

func checkMapping(t Table, mapping []string, voc *machine.Vocabulary) ([]column, error) {
	if len(mapping) != len(t.Headings) {
		return nil, fmt.Errorf("the file has %d columns, but %d were matched; match each column or leave it out", len(t.Headings), len(mapping))
	}
	labels := map[string]string{}
	for _, target := range Targets(voc) {
		labels[target.Key] = target.Label
	}
	var out []column
	used := map[string]string{}
	for i, target := range mapping {
		if target == "" {
			continue
		}
		label, ok := labels[target]
		if !ok {
			return nil, fmt.Errorf("column %q: there is nothing called %q to bring it into", t.Headings[i], target)
		}
		if other, twice := used[target]; twice {
			return nil, fmt.Errorf("the columns %q and %q are both matched to %s; leave one out", other, t.Headings[i], label)
		}
		used[target] = t.Headings[i]
		c := column{target: target, label: label, index: i, heading: t.Headings[i]}
		c.trait, _ = voc.Trait(machine.Key(target))
		out = append(out, c)
	}
	if _, ok := used[Name]; !ok {
		return nil, fmt.Errorf("no column is matched to the machine's name; choose the one that tells the machines apart")
	}
	return out, nil
}

// blank are cells that say nothing; the value stays as it is.
var blank = map[string]bool{"": true, "?": true, "-": true, "–": true, "unknown": true, "n/a": true, "tbd": true}

func judgeRow(t Table, i int, columns []column, byName map[string]*Existing, seen map[string]int) Row {
	cells := t.Rows[i]
	row := Row{Line: t.Lines[i], Action: Same, Changes: []Written{}, Faults: []Fault{}}
	fault := func(c column, value, problem string) {
		row.Faults = append(row.Faults, Fault{Line: row.Line, Column: c.index, Heading: c.heading, Value: value, Problem: problem})
	}
	for len(cells) > len(t.Headings) && strings.TrimSpace(cells[len(cells)-1]) == "" {
		cells = cells[:len(cells)-1] // spreadsheets add empty cells at the end
	}
	if len(cells) != len(t.Headings) {
		row.Faults = append(row.Faults, Fault{Line: row.Line, Column: -1, Problem: fmt.Sprintf("the row has %d cells under %d headings; a separator is missing or one too many, or the file is cut off", len(cells), len(t.Headings))})
	}
	var ex *Existing
	for _, c := range columns {
		if c.target != Name {
			continue
		}
		value := cell(cells, c.index)
		row.Name = value
		if err := CheckName(value); err != nil {
			fault(c, value, err.Error())
			break
		}
		if first, twice := seen[fold(value)]; twice {
			fault(c, value, fmt.Sprintf("line %d has the same name; names tell machines apart, give one another", first))
		} else {
			seen[fold(value)] = row.Line
		}
		ex = byName[fold(value)]
		if ex != nil && ex.Retired {
			fault(c, value, "a retired machine has this name; give the new one another, or take this row out")
		}
	}
	if ex == nil {
		row.Action = Create
	} else {
		row.MachineID = ex.ID
	}
	for _, c := range columns {
		value := cell(cells, c.index)
		if c.target == Name || blank[strings.ToLower(value)] {
			continue
		}
		var w Written
		var err error
		changes := true
		if c.trait != nil {
			w, changes, err = claim(c, value, ex)
		} else if err = machine.PlainText(value); err == nil {
			w = Written{Target: c.target, Label: c.label, After: value}
			if ex != nil {
				w.Before = ex.Fields[c.target]
				changes = w.Before != value
			}
		}
		if err != nil {
			fault(c, value, err.Error())
			continue
		}
		if changes {
			row.Changes = append(row.Changes, w)
		}
	}
	if row.Action == Same && len(row.Changes) > 0 {
		row.Action = Change
	}
	if len(row.Faults) > 0 {
		row.Action = Faulty
	}
	return row
}

// claim works out what a cell adds to a trait.
func claim(c column, text string, ex *Existing) (Written, bool, error) {
	v, err := c.trait.Parse(text)
	if err != nil {
		return Written{}, false, err
	}
	w := Written{Target: c.target, Label: c.label, After: c.trait.Show(v), Value: v}
	if c.trait.Is(parts.MainboardProcessor) {
		// A sheet may be copied wrong, or speak of an 8-bit processor: a claim
		// all the same, with a word of warning.
		if m := bench.DecodeProcessorMarking(v.Text); m.Problem != "" {
			w.Remark = "as a 32-bit processor's marking this was misread: " + m.Refusal()
		}
	}
	if ex == nil {
		return w, true, nil
	}
	for _, held := range ex.Held[c.trait.Key()] {
		if c.trait.Same(held, v) {
			return w, false, nil
		}
	}
	f := ex.Facts.Fact(c.trait.Key())
	if f.Known() && !f.Unlisted {
		w.Before = c.trait.Show(f.Value)
		if f.Grade > machine.Claimed {
			w.Remark = fmt.Sprintf("kept as a claim; %s (%s) stands", w.Before, f.Grade)
		} else if f.FromModel == "" {
			w.Remark = "contradicts an earlier claim: a conflict to settle"
		}
	}
	return w, true, nil
}

// CheckName judges a machine's name: 1 to 60 characters that tell it apart.
func CheckName(name string) error {
	if strings.TrimSpace(name) == "" {
		return fmt.Errorf("the name is empty; each machine has one of its own")
	}
	if len([]rune(name)) > 60 {
		return fmt.Errorf("the name is %d characters long; at most 60 fit on a label", len([]rune(name)))
	}
	return machine.PlainText(name)
}

func cell(cells []string, i int) string {
	if i >= len(cells) {
		return ""
	}
	// Blanks at the ends and line breaks inside a cell carry no meaning here.
	if len(cells[i]) > maxCell {
		return strings.Join(strings.Fields(cells[i][:maxCell]), " ")
	}
	return strings.Join(strings.Fields(cells[i]), " ")
}

func fold(s string) string { return strings.ToLower(strings.Join(strings.Fields(s), " ")) }
