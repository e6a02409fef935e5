package csvimport

import (
	"fmt"
	"strings"
	"time"

	"wardifex/internal/core/civil"
	"wardifex/internal/core/maintenance"
	"wardifex/internal/core/quantity"
)

// MaxMeterRows is how many meter readings one file may hold.
const MaxMeterRows = 20000

// MeterRow is one meter reading from a file.
type MeterRow struct {
	Line      int       `json:"line"`
	Name      string    `json:"name"`
	Day       string    `json:"day" doc:"ISO 8601"`
	Hours     float64   `json:"hours"`
	MachineID int64     `json:"-"`
	At        time.Time `json:"-"`
}

// MeterPlan is what bringing a file of meter readings in would do.
type MeterPlan struct {
	Rows   []MeterRow `json:"rows"`
	Same   int        `json:"same"`
	Faults []Fault    `json:"faults"`
}

// Metered is a machine with its meter readings so far.
type Metered struct {
	ID     int64
	Name   string
	Meters []maintenance.Meter
}

// PlanMeters judges a file of meter readings with the headings machine, date
// and hours (or words alike). Each row is checked against the readings on
// record and against the rows before it.
func PlanMeters(t Table, fleet []Metered, now time.Time) (MeterPlan, error) {
	at := map[string]int{}
	for i, h := range t.Headings {
		words := wordsOf(h)
		for target, names := range map[string][]string{
			"machine": {"machine", "name", "printer", "machine name", "printer name"},
			"date":    {"date", "day", "read on", "when"},
			"hours":   {"hours", "print hours", "meter", "meter hours", "hour"},
		} {
			for _, n := range names {
				if _, taken := at[target]; !taken && alike(words, wordsOf(n)) == 1 {
					at[target] = i
				}
			}
		}
	}
	for _, need := range []string{"machine", "date", "hours"} {
		if _, ok := at[need]; !ok {
			return MeterPlan{}, fmt.Errorf("no column is headed %q; meter readings have the columns machine, date, hours", need)
		}
	}
	byName := map[string]*Metered{}
	for i := range fleet {
		m := fleet[i]
		m.Meters = append([]maintenance.Meter(nil), m.Meters...)
		byName[fold(m.Name)] = &m
	}
	p := MeterPlan{Rows: []MeterRow{}, Faults: []Fault{}}
	for i, cells := range t.Rows {
		line := t.Lines[i]
		fault := func(what, problem string) {
			p.Faults = append(p.Faults, Fault{Line: line, Column: at[what], Heading: t.Headings[at[what]], Value: cell(cells, at[what]), Problem: problem})
		}
		m := byName[fold(cell(cells, at["machine"]))]
		if m == nil {
			fault("machine", "no machine in the register has this name")
			continue
		}
		day, err := civil.ParseMoment(cell(cells, at["date"]), now, civil.Unsaid)
		if err != nil {
			fault("date", err.Error())
			continue
		}
		hours, err := quantity.Parse(strings.TrimSuffix(cell(cells, at["hours"]), " h"))
		if err != nil {
			fault("hours", err.Error())
			continue
		}
		reading := maintenance.Meter{At: day, Hours: hours}
		if held(m.Meters, reading) {
			p.Same++
			continue
		}
		if err := maintenance.CheckMeter(m.Meters, reading, now); err != nil {
			fault("hours", err.Error())
			continue
		}
		m.Meters = append(m.Meters, reading)
		p.Rows = append(p.Rows, MeterRow{Line: line, Name: m.Name, Day: day.Format("2006-01-02"), Hours: hours, MachineID: m.ID, At: day})
	}
	return p, nil
}

func held(on []maintenance.Meter, m maintenance.Meter) bool {
	for _, r := range on {
		if r.At.Equal(m.At) && r.Hours == m.Hours {
			return true
		}
	}
	return false
}
