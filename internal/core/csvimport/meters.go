package csvimport

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"wardifex/internal/core/civil"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/maintenance"
	"wardifex/internal/core/quantity"
)

// MeterRow is one meter reading from a file.
type MeterRow struct {
	Line      int               `json:"line"`
	Name      string            `json:"name"`
	Day       civil.Day         `json:"day" doc:"ISO 8601"`
	Amount    float64           `json:"amount"`
	Unit      string            `json:"unit"`
	MachineID int64             `json:"-"`
	Reading   maintenance.Meter `json:"-"`
}

// MeterPlan is what importing a file of meter readings would do: rows without a fault are
// taken, whatever is wrong with others.
type MeterPlan struct {
	Columns   []Match        `json:"columns"`
	Rows      []MeterRow     `json:"rows"`
	Same      int            `json:"same"`
	Faults    []Fault        `json:"faults"`
	Questions []FileQuestion `json:"questions" doc:"To be answered before the file can be imported"`
}

// Metered is a machine with its meter readings so far.
type Metered struct {
	ID     int64
	Name   string
	Meters []maintenance.Meter
}

// meterTargets are what the columns of a file of meter readings go into. A file without
// days was read today.
var meterTargets = []string{Name, Hours, Filament, Prints, HoursOn}

// isMeter reports whether a column holds what a meter shows: the targets are named as the counters.
func isMeter(target string) bool { return maintenance.IsCounter(maintenance.Counter(target)) }

// readMeter reads what a meter shows; prints have no unit.
func readMeter(target, text string, d quantity.Mark) (float64, error) {
	if target == Prints {
		return readIn(text, "", d)
	}
	return readIn(text, maintenance.Counter(target).Unit(), d)
}

// ProposeMeters matches the columns of a file of meter readings, as those of registers
// are, by heading, unit and cells.
func ProposeMeters(t Table, voc *machine.Vocabulary) []Match {
	out := make([]Match, len(t.Headings))
	var all []candidate
	var targets []Target
	for _, f := range words.Fields {
		if slices.Contains(meterTargets, f.Target) {
			target := fieldTarget(f)
			// There is nothing else here that the words could mean.
			target.whole, target.loose = append(slices.Clone(target.whole), target.loose...), nil
			targets = append(targets, target)
		}
	}
	among := index(targets)
	for c, text := range t.Headings {
		out[c].Heading = text
		all = append(all, candidates(c, readHeading(text), distinct(sample(t, c)), among)...)
	}
	slices.SortStableFunc(all, func(a, b candidate) int { return cmp.Compare(b.score, a.score) })
	taken := map[int]bool{}
	for _, x := range all {
		if m := &out[x.column]; m.Target == "" && !taken[x.target] && x.said.share >= leastShare {
			m.Target, m.Sure, m.Why = targets[x.target].Key, x.said.share == 1 && x.fit >= sureFit, x.why
			taken[x.target] = true
		}
	}
	return out
}

// distinct are cells without those that come again, as names do in a file of readings.
func distinct(cells []string) []string {
	var out []string
	for _, c := range cells {
		if !slices.ContainsFunc(out, func(o string) bool { return fold(o) == fold(c) }) {
			out = append(out, c)
		}
	}
	return out
}

// PlanMeters judges a file of meter readings. Each row is checked against the readings on
// record and against the rows before it.
func PlanMeters(ctx context.Context, t Table, d Decisions, fleet []Metered, voc *machine.Vocabulary,
	now time.Time) (MeterPlan, error) {
	p := MeterPlan{Columns: ProposeMeters(t, voc), Rows: []MeterRow{}, Faults: []Fault{}, Questions: []FileQuestion{}}
	if d.Mapping == nil {
		for _, m := range p.Columns {
			d.Mapping = append(d.Mapping, m.Target)
		}
	}
	if !slices.ContainsFunc(d.Mapping, isMeter) {
		return p, errors.New("no column holds print hours, filament or prints; choose the one with what a meter shows")
	}
	columns, asks, err := understand(t, d, voc)
	if err != nil {
		return p, err
	}
	p.Questions = append(p.Questions, asks...)
	at := map[string]column{}
	for _, c := range columns {
		if !slices.Contains(meterTargets, c.target) {
			return p, fmt.Errorf("column %q: a file of meter readings has the machine, what its meters show and the day",
				c.heading)
		}
		at[c.target] = c
	}
	byName := map[string]*Metered{}
	for i := range fleet {
		m := fleet[i]
		m.Meters = slices.Clone(m.Meters)
		byName[fold(m.Name)] = &m
	}
	for i := range t.Rows {
		if err := ctx.Err(); err != nil {
			return p, err
		}
		p.row(t, i, at, byName, now)
	}
	return p, nil
}

func (p *MeterPlan) row(t Table, i int, at map[string]column, byName map[string]*Metered, now time.Time) {
	value := func(target string) string {
		c, ok := at[target]
		if !ok {
			return ""
		}
		return cell(t.Rows[i], c.index)
	}
	fault := func(target, problem string) {
		c := at[target]
		p.Faults = append(
			p.Faults,
			Fault{Line: t.Lines[i], Column: c.index, Heading: c.heading, Value: value(target), Problem: problem},
		)
	}
	name := strings.TrimLeft(value(Name), "'")
	m := byName[fold(name)]
	if m == nil {
		fault(Name, "no machine in the register has this name")
		return
	}
	taken := now
	if text := value(HoursOn); text != "" {
		day, err := readDay(text, at[HoursOn].order)
		var asked *civil.TwoDays
		if errors.As(err, &asked) {
			return
		}
		if err != nil {
			fault(HoursOn, err.Error())
			return
		}
		if day != civil.Of(now) {
			taken = day.Start(now.Location())
		}
	}
	for _, c := range maintenance.Counters() {
		target := string(c)
		if blank[fold(value(target))] {
			continue
		}
		amount, err := readMeter(target, value(target), at[target].decimal)
		if two(err) && at[target].decimal == quantity.Unsaid {
			continue
		}
		reading := maintenance.Meter{Counter: c, At: taken, Amount: amount}
		if err == nil && held(m.Meters, reading) {
			p.Same++
			continue
		}
		if err == nil {
			err = maintenance.CheckMeter(m.Meters, reading, now)
		}
		if err != nil {
			fault(target, err.Error())
			continue
		}
		m.Meters = append(m.Meters, reading)
		p.Rows = append(p.Rows, MeterRow{Line: t.Lines[i], Name: m.Name, Day: civil.Of(taken), Amount: amount,
			Unit: c.Unit(), MachineID: m.ID, Reading: reading})
	}
}

func held(on []maintenance.Meter, m maintenance.Meter) bool {
	return slices.ContainsFunc(on, func(r maintenance.Meter) bool {
		return civil.Of(r.At.In(m.At.Location())) == civil.Of(m.At) && r.Counter == m.Counter && r.Amount == m.Amount
	})
}
