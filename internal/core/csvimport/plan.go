package csvimport

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"wardifex/internal/core/bench"
	"wardifex/internal/core/civil"
	"wardifex/internal/core/inspection"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/maintenance"
	"wardifex/internal/core/parts"
	"wardifex/internal/core/quantity"
)

// Existing is a machine already in the register.
type Existing struct {
	ID      int64
	Version int
	Fields  map[string]string // as recorded, by target: name, bay, maker, serial, supplier, price, bought, note
	Retired bool
	Facts   machine.Snapshot
	Meters  []maintenance.Meter
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
	Ask     bool   `json:"ask,omitempty" doc:"It is a question: the line is taken when it is accepted"`
}

// Action is what importing a row does.
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

	MachineID int64              `json:"-"` // of an existing machine
	Version   int                `json:"-"`
	Meter     *maintenance.Meter `json:"-"`
}

// Written is one value that importing the row would write.
type Written struct {
	Target string `json:"target"`
	Label  string `json:"label"`
	Before string `json:"before,omitempty"`
	After  string `json:"after"`
	// Remark says what the claim meets: a stronger reading that stands above
	// it, or a claim that it contradicts.
	Remark string `json:"remark,omitempty"`

	Value  machine.Value `json:"-"` // of a trait
	How    string        `json:"-"` // how the value of a trait was got, where not from the cell itself
	Number float64       `json:"-"` // of a price
	Day    civil.Day     `json:"-"` // of a date
}

// Plan is what importing a file would do.
type Plan struct {
	Rows        []Row          `json:"rows" doc:"Faulty ones first, then others, as many as are shown"`
	Created     int            `json:"created"`
	Changed     int            `json:"changed"`
	Same        int            `json:"same"`
	Faulty      int            `json:"faulty"`
	LeftOut     int            `json:"leftOut"`
	Questions   []FileQuestion `json:"questions" doc:"To be answered before the file can be imported"`
	FaultyLines []int          `json:"faultyLines" doc:"Of every row with a fault"`
	AskedLines  []int          `json:"askedLines" doc:"Of rows of which something is only asked"`
	// It changes when the file or the fleet does.
	Fingerprint string `json:"fingerprint" doc:"Of all that would be written"`
}

// Shown is the plan with no more than so many faulty and so many other rows.
func (p Plan) Shown(most int) Plan {
	var faulty, rest []Row
	p.FaultyLines, p.AskedLines = []int{}, []int{}
	for _, r := range p.Rows {
		if r.Action == Faulty {
			p.FaultyLines = append(p.FaultyLines, r.Line)
			if !slices.ContainsFunc(r.Faults, func(f Fault) bool { return !f.Ask }) {
				p.AskedLines = append(p.AskedLines, r.Line)
			}
		}
		if r.Action == Faulty && len(faulty) < most {
			faulty = append(faulty, r)
		} else if r.Action != Faulty && len(rest) < most {
			rest = append(rest, r)
		}
	}
	p.Rows = append(append([]Row{}, faulty...), rest...)
	return p
}

// Correct replaces cells. Corrections outside the table are refused.
func (t *Table) Correct(corrections []Correction) error {
	for _, c := range corrections {
		i := slices.Index(t.Lines, c.Line)
		if i < 0 || c.Column < 0 || c.Column >= len(t.Headings) {
			return fmt.Errorf("there is no cell in line %d, column %d to correct", c.Line, c.Column+1)
		}
		for len(t.Rows[i]) <= c.Column {
			t.Rows[i] = append(t.Rows[i], "")
		}
		t.Rows[i][c.Column] = c.Value
	}
	return nil
}

// planner judges the rows of a file one after the other.
type planner struct {
	table    Table
	columns  []column
	voc      *machine.Vocabulary
	now      time.Time
	byName   map[string]*Existing
	bySerial map[string]string // the machines of serial numbers on record
	names    map[string]int    // lines of names so far
	serials  map[string]int    // lines of serial numbers so far
	accepted map[int]bool
	nothing  machine.Snapshot      // of a machine of which nothing is known
	known    []map[string]readCell // by column, then by what is written
	ragged   bool                  // rows that are shorter than the headings are usual in the file
}

// NewPlan judges every row: what it creates or changes, and each fault with its place.
// The result depends on nothing else, so planning the same file again after importing it
// finds nothing to do.
func NewPlan(ctx context.Context, t Table, d Decisions, fleet []Existing, voc *machine.Vocabulary,
	now time.Time) (Plan, error) {
	columns, asks, err := understand(t, d, voc)
	if err != nil {
		return Plan{}, err
	}
	pl := planner{
		table:    t,
		columns:  columns,
		voc:      voc,
		now:      now,
		byName:   make(map[string]*Existing, len(fleet)),
		bySerial: map[string]string{},
		names:    map[string]int{},
		serials:  map[string]int{},
		accepted: map[int]bool{},
		nothing:  machine.NewSnapshot(voc, machine.Record{}),
		known:    make([]map[string]readCell, len(t.Headings)),
	}
	for i := range fleet {
		pl.byName[fold(fleet[i].Fields[Name])] = &fleet[i]
		if serial := fold(fleet[i].Fields[Serial]); serial != "" && !fleet[i].Retired {
			pl.bySerial[serial] = fleet[i].Fields[Name]
		}
	}
	for _, l := range d.Accepted {
		pl.accepted[l] = true
	}
	out := map[int]bool{}
	for _, l := range d.LeaveOut {
		out[l] = true
	}
	short := 0
	for _, r := range t.Rows {
		if len(r) < len(t.Headings) {
			short++
		}
	}
	pl.ragged = short*usualRagged > len(t.Rows)
	p := Plan{Rows: make([]Row, 0, len(t.Rows)), Questions: append([]FileQuestion{}, asks...)}
	for i := range t.Rows {
		if err := ctx.Err(); err != nil {
			return p, err
		}
		if out[t.Lines[i]] {
			p.LeftOut++
			p.Rows = append(
				p.Rows,
				Row{Line: t.Lines[i], Name: pl.nameOf(i), Action: Out, Changes: []Written{}, Faults: []Fault{}},
			)
			continue
		}
		row := pl.row(i)
		switch row.Action {
		case Create:
			p.Created++
		case Change:
			p.Changed++
		case Same:
			p.Same++
		case Faulty:
			p.Faulty++
		}
		p.Rows = append(p.Rows, row)
	}
	sum := sha256.New()
	if err := json.NewEncoder(sum).Encode(p.Rows); err != nil {
		return p, err
	}
	p.Fingerprint = hex.EncodeToString(sum.Sum(nil))
	return p, nil
}

// usualRagged: where more than one row in so many is short, short rows are how the file
// is written.
const usualRagged = 8

// blank are cells that say nothing; the value stays as it is.
var blank = map[string]bool{
	"":          true,
	"?":         true,
	"??":        true,
	"-":         true,
	"–":         true,
	"—":         true,
	"unknown":   true,
	"n/a":       true,
	"na":        true,
	"tbd":       true,
	"#n/a":      true,
	"unk":       true,
	"not known": true,
}

func (pl *planner) nameOf(i int) string {
	for _, c := range pl.columns {
		if c.target == Name {
			return cell(pl.table.Rows[i], c.index)
		}
	}
	return ""
}

func (pl *planner) row(i int) Row {
	cells := pl.table.Rows[i]
	row := Row{Line: pl.table.Lines[i], Action: Same, Changes: []Written{}, Faults: []Fault{}}
	fault := func(c column, value, problem string) {
		row.Faults = append(
			row.Faults,
			Fault{Line: row.Line, Column: c.index, Heading: c.heading, Value: value, Problem: problem},
		)
	}
	if n := len(trimmed(cells)); n > len(pl.table.Headings) {
		row.Faults = append(
			row.Faults,
			Fault{
				Line:   row.Line,
				Column: -1,
				Problem: fmt.Sprintf(
					"the row has %d cells under %d headings; a separator is one too many, or a cell with a separator in it is "+
						"not in quotation marks",
					n,
					len(pl.table.Headings),
				),
			},
		)
	}
	if n := len(cells); n < len(pl.table.Headings) && !pl.ragged && !pl.accepted[row.Line] {
		row.Faults = append(
			row.Faults,
			Fault{
				Line:   row.Line,
				Column: -1,
				Ask:    true,
				Problem: fmt.Sprintf(
					"the row has %d cells under %d headings; is the rest empty, or is a separator missing, or the file cut off?",
					n,
					len(pl.table.Headings),
				),
			},
		)
	}
	ex := pl.identify(&row, cells, fault)
	if ex == nil {
		row.Action = Create
	} else {
		row.MachineID, row.Version = ex.ID, ex.Version
	}
	given := map[string]bool{}
	var maker, model string
	var hours *column
	var on *civil.Day
	for _, c := range pl.columns {
		value := cell(cells, c.index)
		if c.target == Name || blank[fold(value)] {
			continue
		}
		given[c.target] = true
		switch c.target {
		case Maker:
			maker = value
		case Model:
			model = value
		case Hours:
			at := c
			hours = &at
			continue
		}
		changes, err := pl.read(c, value)
		var number *quantity.TwoMeanings
		var day *civil.TwoDays
		switch {
		case errors.As(err, &number) && c.decimal == quantity.Unsaid, errors.As(err, &day):
			continue // asked once, for the column or the file
		case err != nil:
			fault(c, value, err.Error())
			continue
		}
		for _, w := range changes {
			if (c.target == Bought || c.target == HoursOn) && w.Day > civil.Of(pl.now) {
				fault(c, value, fmt.Sprintf("%s is still to come; it is %s now", w.Day.Show(), pl.now.Format(civil.Shown)))
				continue
			}
			switch {
			case c.target == HoursOn:
				on = &w.Day
			case w.Target == Maker:
			case w.Value.IsZero():
				pl.change(&row, ex, w)
			default:
				pl.claim(&row, ex, w)
			}
		}
		if c.target == Serial {
			pl.serial(&row, ex, c, value)
		}
	}
	if both := strings.TrimSpace(maker + " " + model); both != "" {
		if maker != "" && strings.HasPrefix(fold(model), fold(maker)) {
			both = model
		}
		pl.change(&row, ex, Written{Target: Maker, Label: fieldLabel(Maker), After: both})
	}
	pl.decoded(&row, ex, given)
	if hours != nil {
		pl.meter(&row, ex, *hours, cell(cells, hours.index), on, fault)
	}
	if row.Action == Same && (len(row.Changes) > 0 || row.Meter != nil) {
		row.Action = Change
	}
	if len(row.Faults) > 0 {
		row.Action = Faulty
	}
	return row
}

func fieldLabel(key string) string {
	for _, f := range words.Fields {
		if f.Target == key {
			return f.Label
		}
	}
	return key
}

// identify finds the machine that a row is about; nil for a new one.
func (pl *planner) identify(row *Row, cells []string, fault func(column, string, string)) *Existing {
	for _, c := range pl.columns {
		if c.target != Name {
			continue
		}
		value := strings.TrimLeft(cell(cells, c.index), "'")
		row.Name = value
		if err := CheckName(value); err != nil {
			fault(c, value, err.Error())
			return nil
		}
		if first, twice := pl.names[fold(value)]; twice {
			fault(c, value, fmt.Sprintf("line %d has the same name; names tell machines apart, give one another", first))
		} else {
			pl.names[fold(value)] = row.Line
		}
		ex := pl.byName[fold(value)]
		if ex != nil && ex.Retired {
			fault(c, value, "a retired machine has this name; give the new one another, or take this row out")
		}
		return ex
	}
	return nil
}

// serial asks about a serial number that another machine has too.
func (pl *planner) serial(row *Row, ex *Existing, c column, value string) {
	key := fold(strings.TrimLeft(value, "'"))
	problem := ""
	if first, twice := pl.serials[key]; twice {
		problem = fmt.Sprintf("line %d has the same serial number; is that right?", first)
	} else if other := pl.bySerial[key]; other != "" && (ex == nil || fold(other) != fold(ex.Fields[Name])) {
		problem = fmt.Sprintf("%s has this serial number; is it the same machine under another name? Say that it is "+
			"right where two machines really have it", other)
	}
	if pl.serials[key] == 0 {
		pl.serials[key] = row.Line
	}
	if problem != "" && !pl.accepted[row.Line] {
		row.Faults = append(
			row.Faults,
			Fault{Line: row.Line, Column: c.index, Heading: c.heading, Value: value, Problem: problem, Ask: true},
		)
	}
}

// change adds a field, where it differs from what is on record.
func (pl *planner) change(row *Row, ex *Existing, w Written) {
	if ex != nil {
		w.Before = ex.Fields[w.Target]
		if w.Before == w.After || w.Target == Bought && w.Before == w.Day.String() {
			return
		}
	}
	row.Changes = append(row.Changes, w)
}

// claim adds what a cell says of a trait, unless it was said before.
func (pl *planner) claim(row *Row, ex *Existing, w Written) {
	t, _ := pl.voc.Trait(machine.Key(w.Target))
	if slices.ContainsFunc(row.Changes, func(o Written) bool { return o.Target == w.Target }) {
		return
	}
	if t.Is(parts.MainboardProcessor) {
		// A sheet may be copied wrong, or speak of an 8-bit processor: a claim
		// all the same, with a word of warning.
		if m := bench.DecodeProcessorMarking(w.Value.Text); m.Problem != "" {
			w.Remark = "as a 32-bit processor's marking this was misread: " + m.Refusal()
		}
	}
	if ex == nil {
		row.Changes = append(row.Changes, w)
		return
	}
	for _, held := range ex.Held[t.Key()] {
		if t.Same(held, w.Value) {
			return
		}
	}
	f := ex.Facts.Fact(t.Key())
	if f.Known() && !f.Unlisted {
		w.Before = t.Show(f.Value)
		if f.Grade > machine.Claimed {
			w.Remark = fmt.Sprintf("kept as a claim; %s (%s) stands", w.Before, f.Grade)
		} else if f.FromModel == "" {
			w.Remark = "contradicts an earlier claim: a conflict to settle"
		}
	}
	row.Changes = append(row.Changes, w)
}

// decoded adds what the markings of a row bring with them, as claims; what a column of
// its own says comes first.
func (pl *planner) decoded(row *Row, ex *Existing, given map[string]bool) {
	on := pl.nothing
	if ex != nil {
		on = ex.Facts
	}
	for _, w := range slices.Clone(row.Changes) {
		if w.Value.IsZero() {
			continue
		}
		readings, err := inspection.Decode(machine.Key(w.Target), w.Value.Text, on)
		if err != nil {
			continue // the remark says that it was misread
		}
		for _, key := range sortedKeys(readings) {
			t, ok := pl.voc.Trait(key)
			if !ok || given[string(key)] {
				continue
			}
			v, err := t.ParseRecorded(readings[key])
			if err != nil {
				continue
			}
			pl.claim(row, ex, Written{Target: string(key), Label: t.Label, After: t.Show(v), Value: v,
				Remark: "decoded from " + w.Value.Text, How: bench.DecodedFrom + w.Value.Text})
		}
	}
}

func sortedKeys(m map[machine.Key]string) []machine.Key {
	out := make([]machine.Key, 0, len(m))
	for k := range m {
		out = append(out, k)
	}
	slices.Sort(out)
	return out
}

// meter judges the print hours of a row against the readings on record.
func (pl *planner) meter(
	row *Row,
	ex *Existing,
	c column,
	text string,
	on *civil.Day,
	fault func(column, string, string),
) {
	n, err := readIn(text, "h", c.decimal)
	if two(err) && c.decimal == quantity.Unsaid {
		return
	}
	if err != nil {
		fault(c, text, err.Error())
		return
	}
	m := maintenance.HoursAt(pl.now, n)
	if on != nil && *on != civil.Of(pl.now) {
		m.At = on.Start(pl.now.Location())
	}
	var have []maintenance.Meter
	if ex != nil {
		have = maintenance.Counted(ex.Meters, maintenance.Hours)
	}
	for _, h := range have {
		if h.Amount == n && civil.Of(h.At) == civil.Of(m.At) {
			return
		}
	}
	// A register without a day beside the hours says nothing new where they are the same.
	if last := len(have) - 1; on == nil && last >= 0 && have[last].Amount == n {
		return
	}
	if err := maintenance.CheckMeter(have, m, pl.now); err != nil {
		fault(c, text, err.Error())
		return
	}
	row.Meter = &m
	w := Written{Target: Hours, Label: fieldLabel(Hours), After: quantity.Format(n) + " h on " + m.At.Format(civil.Shown)}
	if last := len(have) - 1; last >= 0 {
		w.Before = quantity.Format(have[last].Amount) + " h on " + have[last].At.Format(civil.Shown)
	}
	row.Changes = append(row.Changes, w)
}

// readCell is what a cell was read as.
type readCell struct {
	changes []Written
	err     error
}

// mostRead is how many different cells of a column are kept as they were read: the same
// few come again and again down a register.
const mostRead = 5000

// read is what a cell of a column says.
func (pl *planner) read(c column, text string) ([]Written, error) {
	known := pl.known[c.index]
	if r, ok := known[text]; ok {
		return r.changes, r.err
	}
	changes, err := c.read(text, pl.voc)
	if known == nil {
		known = map[string]readCell{}
		pl.known[c.index] = known
	}
	if len(known) < mostRead {
		known[text] = readCell{changes, err}
	}
	return changes, err
}

// read is what a cell says: a field, a trait, or several traits of a part.
func (c column) read(text string, voc *machine.Vocabulary) ([]Written, error) {
	w := Written{Target: c.target, Label: c.label, After: text}
	var err error
	switch c.target {
	case Name:
		return []Written{w}, CheckName(strings.TrimLeft(text, "'"))
	case Serial:
		w.After, err = readSerial(text)
		return []Written{w}, err
	case Price:
		w.Number, err = readPrice(text, c.decimal)
		w.After = quantity.Format(w.Number)
		return []Written{w}, err
	case Bought, HoursOn:
		w.Day, err = readDay(text, c.order)
		w.After = w.Day.Show()
		return []Written{w}, err
	case Hours:
		n, err := readIn(text, "h", c.decimal)
		w.After = quantity.Format(n) + " h"
		return []Written{w}, err
	case Volume:
		return c.volume(text, voc)
	}
	if c.trait == nil {
		return []Written{w}, machine.PlainText(text)
	}
	if c.trait.Name == machine.ModelTrait && !c.trait.KnownModel(text) {
		return c.model(text, voc)
	}
	v, err := readTrait(c.trait, text, c.unit, c.decimal)
	w.Value, w.After = v, c.trait.Show(v)
	return []Written{w}, err
}

// model is a part's model, and what else the cell says of the part.
func (c column) model(text string, voc *machine.Vocabulary) ([]Written, error) {
	is := splitModel(c.trait, voc, text)
	var out []Written
	if is.model != "" {
		v, err := c.trait.Parse(is.model)
		if err != nil {
			return nil, err
		}
		out = append(out, Written{Target: c.target, Label: c.label, After: c.trait.Show(v), Value: v})
	}
	for _, t := range voc.Traits {
		said, ok := is.traits[t.Name]
		if !ok || t.Slot != c.trait.Slot {
			continue
		}
		v, err := t.Parse(said)
		if err != nil {
			return nil, err
		}
		out = append(out, Written{Target: string(t.Key()), Label: t.Label, After: t.Show(v), Value: v})
	}
	return out, nil
}

// volume is the print width, depth and height that a cell says.
func (c column) volume(text string, voc *machine.Vocabulary) ([]Written, error) {
	numbers, err := readVolume(text, c.unit)
	if err != nil {
		return nil, err
	}
	var out []Written
	for i, of := range []machine.TraitOf{parts.FrameX, parts.FrameY, parts.FrameZ} {
		t := voc.Of(voc.First(parts.Frame), of)
		if t == nil || i >= len(numbers) {
			continue
		}
		v, err := t.ParseRecorded(quantity.Format(numbers[i]))
		if err != nil {
			return nil, err
		}
		out = append(out, Written{Target: string(t.Key()), Label: t.Label, After: t.Show(v), Value: v})
	}
	return out, nil
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
	text := cells[i]
	if len(text) > maxCell {
		text = text[:maxCell]
	}
	if plainCell(text) {
		return text
	}
	return strings.Join(strings.Fields(text), " ")
}

// plainCell reports whether a cell has no blanks to take out.
func plainCell(s string) bool {
	for i := range len(s) {
		if c := s[i]; c < ' ' || c >= 0x80 || c == ' ' && (i == 0 || i == len(s)-1 || s[i-1] == ' ') {
			return false
		}
	}
	return true
}

func fold(s string) string {
	if plainCell(s) {
		return strings.ToLower(s)
	}
	return strings.ToLower(strings.Join(strings.Fields(s), " "))
}
