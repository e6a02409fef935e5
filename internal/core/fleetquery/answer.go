package fleetquery

import (
	"cmp"
	"io"
	"slices"
	"strconv"
	"strings"
	"time"

	"wardifex/internal/core/machine"
)

// Subject is a machine that is asked about.
type Subject struct {
	ID     int64
	Name   string
	Fields map[string]string // by column key
	Facts  machine.Snapshot  // at the moment asked for
	Danger bool              // comes before all others of its group, however the answer is sorted
	// History is needed for a period only.
	History *machine.History
}

// Cell is what one column shows of one machine.
type Cell struct {
	Text     string        `json:"text" doc:"Empty when nothing is known"`
	Grade    machine.Grade `json:"grade"`
	Since    *time.Time    `json:"since,omitempty" doc:"When it was read"`
	Conflict bool          `json:"conflict,omitempty"`

	number float64
}

// Line is a machine of an answer.
type Line struct {
	ID    int64  `json:"id"`
	Name  string `json:"name"`
	Group string `json:"group,omitempty"`
	Cells []Cell `json:"cells"`

	key    Cell
	danger bool
}

// Answer is a fleet's answer.
type Answer struct {
	Columns []Column  `json:"columns"`
	Rows    []Line    `json:"rows"`
	Of      int       `json:"of" doc:"Machines asked"`
	Found   int       `json:"found" doc:"Machines that are so, on all pages"`
	Untold  int       `json:"untold" doc:"Machines of which it cannot be told, because what is asked is not known of them"`
	Groups  []Group   `json:"groups,omitempty" doc:"How many are in each group, on all pages"`
	At      time.Time `json:"at" doc:"The moment the answer is for"`
}

// Group is a group of an answer.
type Group struct {
	Name  string `json:"name"`
	Count int    `json:"count"`
}

// Page is which part of an answer is wanted; what is zero narrows nothing.
type Page struct {
	Text          string // in a machine's name or in a cell
	Offset, Limit int
}

// Page is the part of the answer that is wanted, in its order.
func (a Answer) Page(p Page) Answer {
	if text := strings.ToLower(p.Text); text != "" {
		a.Rows = slices.DeleteFunc(slices.Clone(a.Rows), func(l Line) bool { return !l.mentions(text) })
	}
	a.Found, a.Groups = len(a.Rows), groupsOf(a.Rows)
	a.Rows = a.Rows[min(p.Offset, len(a.Rows)):]
	if p.Limit > 0 {
		a.Rows = a.Rows[:min(p.Limit, len(a.Rows))]
	}
	return a
}

// mentions reports whether a text in small letters is in the name or in a cell.
func (l Line) mentions(text string) bool {
	return strings.Contains(strings.ToLower(l.Name), text) ||
		slices.ContainsFunc(l.Cells, func(c Cell) bool { return strings.Contains(strings.ToLower(c.Text), text) })
}

// groupsOf counts lines by their groups, which are together.
func groupsOf(rows []Line) []Group {
	var out []Group
	for _, r := range rows {
		switch n := len(out); {
		case r.Group == "":
		case n > 0 && out[n-1].Name == r.Group:
			out[n-1].Count++
		default:
			out = append(out, Group{r.Group, 1})
		}
	}
	return out
}

// Ask puts a question to a fleet. now is the moment of asking; facts must be
// those of the moment that Question.Period gives. The error is a sentence.
func Ask(q Question, fleet []Subject, voc *machine.Vocabulary, now time.Time) (Answer, error) {
	a, err := prepare(q, voc, now)
	if err != nil {
		return Answer{}, err
	}
	out := Answer{Columns: a.columns, Rows: []Line{}, Of: len(fleet), At: a.at}
	if out.Columns == nil {
		out.Columns = []Column{}
	}
	for i := range fleet {
		m := &fleet[i]
		switch a.passes(m) {
		case cannotTell:
			out.Untold++
			continue
		case fails:
			continue
		}
		row := Line{ID: m.ID, Name: m.Name, Cells: make([]Cell, len(a.columns)), key: a.cell(m, a.sort), danger: m.Danger}
		for k, c := range a.columns {
			row.Cells[k] = a.cell(m, c)
		}
		if a.group != nil {
			if row.Group = a.cell(m, *a.group).Text; row.Group == "" {
				row.Group = "unknown"
			}
		}
		out.Rows = append(out.Rows, row)
	}
	sign := 1
	if a.down {
		sign = -1
	}
	slices.SortStableFunc(out.Rows, func(x, y Line) int {
		return cmp.Or(
			natural(x.Group, y.Group),
			first(x.danger, y.danger),
			sign*compare(a.sort, x.key, y.key),
			natural(x.Name, y.Name),
			cmp.Compare(x.ID, y.ID),
		)
	})
	out.Found, out.Groups = len(out.Rows), groupsOf(out.Rows)
	return out, nil
}

// first orders what is so before what is not.
func first(x, y bool) int {
	switch {
	case x == y:
		return 0
	case x:
		return -1
	}
	return 1
}

func compare(c Column, x, y Cell) int {
	if c.Kind == machine.Number && x.Text != "" && y.Text != "" {
		return cmp.Compare(x.number, y.number)
	}
	if (x.Text == "") != (y.Text == "") {
		return cmp.Compare(y.Text, x.Text) // what is unknown comes last
	}
	return natural(x.Text, y.Text)
}

// natural compares words without regard to case, and runs of digits in them as
// numbers: Pier 2 before Pier 10.
func natural(a, b string) int {
	x, y := strings.ToLower(a), strings.ToLower(b)
	for x != "" && y != "" {
		p, q := digits(x), digits(y)
		if p > 0 && q > 0 {
			m, n := strings.TrimLeft(x[:p], "0"), strings.TrimLeft(y[:q], "0")
			if c := cmp.Or(cmp.Compare(len(m), len(n)), strings.Compare(m, n)); c != 0 {
				return c
			}
			x, y = x[p:], y[q:]
			continue
		}
		if x[0] != y[0] {
			return cmp.Compare(x[0], y[0])
		}
		x, y = x[1:], y[1:]
	}
	return cmp.Or(cmp.Compare(len(x), len(y)), strings.Compare(a, b))
}

func digits(s string) int {
	n := 0
	for n < len(s) && s[n] >= '0' && s[n] <= '9' {
		n++
	}
	return n
}

func (a *asked) cell(m *Subject, c Column) Cell {
	if c.trait == nil {
		text := m.Name
		if c.Key != NameColumn {
			text = m.Fields[c.Key]
		}
		n, _ := strconv.ParseFloat(text, 64)
		return Cell{Text: text, number: n}
	}
	if !a.from.IsZero() && m.History != nil && c.Key != c.slot {
		return a.during(m, c)
	}
	f := *m.Facts.At(c.trait)
	if c.Key == c.slot {
		_, f = m.Facts.Named(c.slot)
	}
	return cellOf(m, c, f)
}

func cellOf(m *Subject, c Column, f machine.Fact) Cell {
	out := Cell{Grade: f.Grade, number: f.Value.Number}
	switch {
	case f.Unlisted: // there is no such position
		out.Grade = machine.Unknown
	case len(f.Conflict) > 0:
		out.Conflict, out.Text = true, "in conflict"
	case c.Key == c.slot:
		out.Text, _ = m.Facts.Named(c.slot)
	case f.Known():
		out.Text = c.trait.Show(f.Value)
	}
	if f.Stands != nil {
		at := f.Stands.TakenAt
		out.Since = &at
	}
	return out
}

// during shows the values that stood in a period, in their order.
func (a *asked) during(m *Subject, c Column) Cell {
	var out Cell
	var words []string
	for _, h := range m.History.During(c.trait.Key(), a.from, a.at) {
		cell := cellOf(m, c, h.Fact)
		if cell.Text == "" {
			continue
		}
		words = append(words, cell.Text)
		out = cell
	}
	out.Text = strings.Join(slices.Compact(words), " → ")
	return out
}

// outcome is whether a machine is as it was asked for, as far as that is known.
type outcome uint8

const (
	fails outcome = iota
	cannotTell
	passes
)

func outcomeOf(yes bool) outcome {
	if yes {
		return passes
	}
	return fails
}

// passes is the worst of the filters' outcomes where all must pass, the best where any may.
func (a *asked) passes(m *Subject) outcome {
	if len(a.filters) == 0 {
		return passes
	}
	out := outcomeOf(!a.any)
	for i := range a.filters {
		of := a.filters[i].passes(m, a)
		if a.any {
			out = max(out, of)
		} else {
			out = min(out, of)
		}
	}
	return out
}

func (f *filter) passes(m *Subject, a *asked) outcome {
	if f.column.trait == nil {
		return outcomeOf(f.field(a.cell(m, f.column)))
	}
	if !a.from.IsZero() && m.History != nil {
		out := fails
		for _, h := range m.History.During(f.column.trait.Key(), a.from, a.at) {
			out = max(out, f.outcome(m, h.Fact, a.at))
		}
		return out
	}
	return f.outcome(m, *m.Facts.At(f.column.trait), a.at)
}

// outcome judges one fact. Where a value is asked and none is known, nothing can be told.
func (f *filter) outcome(m *Subject, x machine.Fact, at time.Time) outcome {
	switch f.Test {
	case Is, IsNot, Contains, AtLeast, AtMost:
		if _, _, known := f.asked(m, x); !known {
			return cannotTell
		}
	}
	return outcomeOf(f.fact(m, x, at))
}

// asked is the fact as the filter sees it: the position by the name that it is shown under.
func (f *filter) asked(m *Subject, x machine.Fact) (text string, fact machine.Fact, known bool) {
	text = x.Value.Text
	if f.Of == f.column.slot {
		text, x = namedAs(m, f.column.slot, x)
	}
	return text, x, text != "" && len(x.Conflict) == 0
}

func (f *filter) field(c Cell) bool {
	switch f.Test {
	case Is:
		return strings.EqualFold(c.Text, f.Value)
	case IsNot:
		return !strings.EqualFold(c.Text, f.Value)
	case Contains:
		return strings.Contains(strings.ToLower(c.Text), strings.ToLower(f.Value))
	case AtLeast:
		return c.Text != "" && c.number >= f.value.Number
	case AtMost:
		return c.Text != "" && c.number <= f.value.Number
	case Known:
		return c.Text != ""
	}
	return c.Text == ""
}

// fact judges one fact. What is unknown is never "is", nor "is not": of what
// nobody has looked at, nothing can be said.
func (f *filter) fact(m *Subject, x machine.Fact, at time.Time) bool {
	t := f.column.trait
	text, x, known := f.asked(m, x)
	switch f.Test {
	case Is:
		return known && f.same(t, text, x)
	case IsNot:
		return known && !f.same(t, text, x)
	case Contains:
		return known && strings.Contains(strings.ToLower(text), strings.ToLower(f.Value))
	case AtLeast:
		return known && x.Value.Number >= f.value.Number
	case AtMost:
		return known && x.Value.Number <= f.value.Number
	case Surer:
		return x.Grade >= f.grade
	case Weaker:
		return x.Grade < f.grade
	case OlderThan:
		return x.Stands != nil && at.Sub(x.Stands.TakenAt).Hours()/24 > f.days
	case Conflict:
		return len(x.Conflict) > 0
	case Known:
		return known
	case Unknown:
		return !known
	case Empty:
		return m.Facts.Model(f.column.slot) == machine.None
	case Filled:
		return m.Facts.Fitted(f.column.slot)
	case Wrong:
		return slices.ContainsFunc(x.Contradicted(), func(r machine.Reading) bool { return r.Grade == machine.Claimed })
	}
	return false
}

func namedAs(m *Subject, slot string, x machine.Fact) (string, machine.Fact) {
	if x.Grade != machine.Unknown {
		return x.Value.Text, x
	}
	return m.Facts.Named(slot)
}

func (f *filter) same(t *machine.Trait, text string, x machine.Fact) bool {
	if f.Of == f.column.slot {
		return strings.EqualFold(text, f.Value)
	}
	return t.Same(x.Value, f.value)
}

// WriteCSV writes an answer as CSV: RFC 4180, a column for each value and one
// for its grade. Source: RFC 4180.
func WriteCSV(w io.Writer, a Answer) error {
	head := []string{"Machine"}
	for _, c := range a.Columns {
		head = append(head, c.Label)
		if c.trait != nil {
			head = append(head, c.Label+", evidence")
		}
	}
	lines := [][]string{head}
	for _, r := range a.Rows {
		line := []string{r.Name}
		for i, c := range r.Cells {
			line = append(line, c.Text)
			if a.Columns[i].trait != nil {
				line = append(line, c.Grade.String())
			}
		}
		lines = append(lines, line)
	}
	return machine.WriteCSV(w, lines)
}
