package fleetquery

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"wardifex/internal/core/civil"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/quantity"
)

// Test is how a filter compares.
type Test string

const (
	Is        Test = "is"
	IsNot     Test = "is not"
	Contains  Test = "contains"
	AtLeast   Test = "at least"             // numbers
	AtMost    Test = "at most"              // numbers
	Surer     Test = "known at least as"    // Value is a grade
	Weaker    Test = "known less than"      // Value is a grade
	OlderThan Test = "read longer ago than" // Value is days
	Conflict  Test = "in conflict"
	Known     Test = "known"
	Unknown   Test = "unknown"
	Empty     Test = "slot empty"
	Filled    Test = "slot filled"
	Wrong     Test = "claim found false"
)

// TestKind is a test with what it can be put to.
type TestKind struct {
	Test   Test `json:"test"`
	Bare   bool `json:"bare" doc:"Takes no value"`
	Fields bool `json:"fields" doc:"Can be put to a field; the others ask how a trait is known"`
}

var tests = []TestKind{
	{Test: Is, Fields: true},
	{Test: IsNot, Fields: true},
	{Test: Contains, Fields: true},
	{Test: AtLeast, Fields: true},
	{Test: AtMost, Fields: true},
	{
		Test: Surer,
	},
	{Test: Weaker},
	{Test: OlderThan},
	{Test: Conflict, Bare: true},
	{Test: Known, Bare: true, Fields: true},
	{Test: Unknown, Bare: true, Fields: true},
	{Test: Empty, Bare: true},
	{Test: Filled, Bare: true},
	{Test: Wrong, Bare: true},
}

// Tests lists every test.
func Tests() []TestKind { return tests }

// Filter keeps machines of which a column passes a test.
type Filter struct {
	Of    string `json:"of" doc:"A column: a slot, a trait such as mainboard.flash, or a field such as machine.bay"`
	Test  Test   `json:"test"`
	Value string `json:"value,omitempty" maxLength:"200"`
}

// Question is what is asked of a fleet.
type Question struct {
	Columns []string `json:"columns" maxItems:"40" doc:"Slots, traits and fields, in the order shown"`
	Match   string   `json:"match,omitempty" enum:"all,any," doc:"Whether every filter must pass or any; all when empty"`
	Where   []Filter `json:"where" maxItems:"40"`
	Sort    string   `json:"sort,omitempty" doc:"A column; the name when empty"`
	Down    bool     `json:"down,omitempty"`
	Group   string   `json:"group,omitempty" doc:"A column; not grouped when empty"`
	// At is the day as of which is asked; From and To a period at any time of
	// which the filters may have passed. All empty means now.
	At   string `json:"at,omitempty" doc:"ISO 8601 day: as the record stood at its end"`
	From string `json:"from,omitempty" doc:"ISO 8601 day: first of a period"`
	To   string `json:"to,omitempty" doc:"ISO 8601 day: last of a period"`
}

// Columns of the machine as a whole.
const (
	ofMachine        = "machine."
	NameColumn       = ofMachine + "name"
	BayColumn        = ofMachine + "bay"
	MakerColumn      = ofMachine + "maker"
	SerialColumn     = ofMachine + "serial"
	SupplierColumn   = ofMachine + "supplier"
	UseColumn        = ofMachine + "use"
	ProtectionColumn = ofMachine + "protection"
	StateColumn      = ofMachine + "state"
	OrderColumn      = ofMachine + "order"
	InvalidColumn    = ofMachine + "void" // as saved questions of earlier versions have it
	BuiltForColumn   = ofMachine + "built-for"
	DisagreeColumn   = ofMachine + "disagreements"
	ConflictsColumn  = ofMachine + "conflicts"
	NextColumn       = ofMachine + "next"
	FaultsColumn     = ofMachine + "faults"
	BrokenColumn     = ofMachine + "broken"
)

// Fields of a machine that can be columns, besides slots and traits.
var fields = []Column{
	{
		Key:   BayColumn,
		Label: "Bay",
	}, {Key: MakerColumn, Label: "Maker and model"}, {Key: SerialColumn, Label: "Serial number"},
	{
		Key:   SupplierColumn,
		Label: "Supplier",
	}, {Key: UseColumn, Label: "May be used"}, {Key: ProtectionColumn, Label: "Protection"},
	{
		Key:   StateColumn,
		Label: "State",
	}, {Key: OrderColumn, Label: "Open work"}, {Key: InvalidColumn, Label: "Invalid calibrations"},
	{Key: DisagreeColumn, Label: "Values that disagree"}, {Key: BuiltForColumn, Label: "Built for other parts"},
	{Key: ConflictsColumn, Label: "Conflicts"},
	{
		Key:   NextColumn,
		Label: "Next maintenance",
	}, {Key: FaultsColumn, Label: "Open faults"}, {Key: BrokenColumn, Label: "Needs of its parts"},
}

// About reports whether a question shows or asks for a column.
func (q Question) About(column string) bool {
	return slices.Contains(q.Columns, column) || q.Sort == column || q.Group == column ||
		slices.ContainsFunc(q.Where, func(f Filter) bool { return f.Of == column })
}

// Fields lists the columns that are no slot and no trait.
func Fields() []Column { return fields }

// Column is what a column of an answer shows.
type Column struct {
	Key   string       `json:"key"`
	Label string       `json:"label"`
	Kind  machine.Kind `json:"kind,omitempty"`
	Unit  string       `json:"unit,omitempty"`

	slot  string
	trait *machine.Trait
}

// ColumnOf finds a column by its key. The error says what there is.
func ColumnOf(key string, voc *machine.Vocabulary) (Column, error) {
	if key == NameColumn {
		return Column{Key: key, Label: "Machine"}, nil
	}
	if i := slices.IndexFunc(fields, func(c Column) bool { return c.Key == key }); i >= 0 {
		return fields[i], nil
	}
	if t, ok := voc.Trait(machine.Key(key)); ok {
		return Column{Key: key, Label: t.Label, Kind: t.Kind, Unit: t.Unit, trait: t, slot: t.Slot}, nil
	}
	if s, ok := voc.Position(key); ok {
		t, _ := voc.Trait(machine.KeyOf(s.Key, machine.ModelTrait))
		return Column{Key: key, Label: s.Label, Kind: machine.Text, slot: s.Key, trait: t}, nil
	}
	return Column{}, fmt.Errorf(
		"there is no column %q: it is a position such as mainboard, a trait such as mainboard.flash, or a field such "+
			"as machine.bay",
		key,
	)
}

// asked is a question made ready.
type asked struct {
	columns []Column
	filters []filter
	any     bool
	sort    Column
	group   *Column
	down    bool
	at      time.Time
	from    time.Time // zero when no period is asked
}

type filter struct {
	Filter
	column Column
	value  machine.Value
	grade  machine.Grade
	days   float64
}

// Period is the stretch of time a question is about: one moment, or from a day's
// start to another's end.
func (q Question) Period(now time.Time) (from, to time.Time, err error) {
	parse := func(what, text string) (civil.Day, error) {
		day, err := civil.ParseDay(text, civil.Unsaid)
		if err == nil && day > civil.Of(now) {
			err = fmt.Errorf("%s is still to come", day.Show())
		}
		if err != nil {
			return day, fmt.Errorf("%s: %w", what, err)
		}
		return day, nil
	}
	end := func(day civil.Day) time.Time {
		if e := day.End(now.Location()); e.Before(now) {
			return e
		}
		return now
	}
	switch {
	case q.At != "" && (q.From != "" || q.To != ""):
		return from, to, fmt.Errorf("ask as of one day or for a period, not both")
	case q.At != "":
		day, err := parse("as of", q.At)
		return time.Time{}, end(day), err
	case q.From == "" && q.To == "":
		return time.Time{}, now, nil
	case q.From == "":
		return from, to, fmt.Errorf("a period needs its first day")
	}
	first, err := parse("from", q.From)
	if err != nil {
		return from, to, err
	}
	from, to = first.Start(now.Location()), now
	if q.To != "" {
		day, err := parse("to", q.To)
		if err != nil {
			return from, to, err
		}
		to = end(day)
	}
	if to.Before(from) {
		return from, to, fmt.Errorf("the period ends before it begins")
	}
	return from, to, nil
}

func prepare(q Question, voc *machine.Vocabulary, now time.Time) (asked, error) {
	a := asked{any: q.Match == "any", down: q.Down}
	var err error
	if a.from, a.at, err = q.Period(now); err != nil {
		return a, err
	}
	for _, key := range q.Columns {
		c, err := ColumnOf(key, voc)
		if err != nil {
			return a, err
		}
		a.columns = append(a.columns, c)
	}
	if a.sort, err = ColumnOf(orName(q.Sort), voc); err != nil {
		return a, err
	}
	if q.Group != "" {
		c, err := ColumnOf(q.Group, voc)
		if err != nil {
			return a, err
		}
		a.group = &c
	}
	for _, f := range q.Where {
		ready, err := prepareFilter(f, voc)
		if err != nil {
			return a, err
		}
		a.filters = append(a.filters, ready)
	}
	return a, nil
}

func orName(key string) string {
	if key == "" {
		return NameColumn
	}
	return key
}

func prepareFilter(f Filter, voc *machine.Vocabulary) (filter, error) {
	c, err := ColumnOf(f.Of, voc)
	out := filter{Filter: f, column: c}
	if err != nil {
		return out, err
	}
	field := c.trait == nil
	i := slices.IndexFunc(tests, func(k TestKind) bool { return k.Test == f.Test })
	switch {
	case i < 0:
		names := make([]Test, len(tests))
		for k := range tests {
			names[k] = tests[k].Test
		}
		return out, fmt.Errorf("%q is no test; there are %v", f.Test, names)
	case field && !tests[i].Fields:
		return out, fmt.Errorf("%s is not read off the machine: it cannot be %s", c.Label, f.Test)
	case !tests[i].Bare && strings.TrimSpace(f.Value) == "":
		return out, fmt.Errorf("%s %s …: a value is missing", c.Label, f.Test)
	}
	switch f.Test {
	case Surer, Weaker:
		out.grade, err = machine.ParseGrade(f.Value)
	case OlderThan:
		out.days, err = quantity.Parse(f.Value)
		if err == nil && out.days < 0 {
			err = fmt.Errorf("%s is no number of days", f.Value)
		}
	case AtLeast, AtMost:
		if !field && c.Kind != machine.Number {
			return out, fmt.Errorf("%s is no number: it cannot be %s", c.Label, f.Test)
		}
		if field {
			out.value.Number, err = quantity.Parse(f.Value)
			break
		}
		out.value, err = plain(c.trait).Parse(f.Value)
	case Is, IsNot:
		out.value = machine.Value{Text: f.Value}
		if !field && f.Of != c.slot { // a slot alone is asked by its name as shown
			out.value, err = plain(c.trait).Parse(f.Value)
		}
	}
	return out, err
}

// plain is a trait without bounds: one may ask for what cannot be.
func plain(t *machine.Trait) *machine.Trait {
	p := *t
	p.Min, p.Max = 0, 0
	return &p
}
