package app

import (
	"bytes"
	"cmp"
	"context"
	"encoding/csv"
	"slices"
	"strconv"
	"time"

	"wardifex/internal/core/civil"
	"wardifex/internal/core/maintenance"
	"wardifex/internal/core/parts"
	"wardifex/internal/core/schedule"
	"wardifex/internal/store"
)

// ReliabilityRow is how a group of machines did over a while.
type ReliabilityRow struct {
	Name string `json:"name"`
	schedule.Reliability
	// Weeks are the availabilities of each week, empty where the shop was closed.
	Weeks []*float64 `json:"weeks"`
}

// ReliabilityList is how the fleet did over a while, by groups.
type ReliabilityList struct {
	From    civil.Day        `json:"from"`
	To      civil.Day        `json:"to" doc:"The last day"`
	By      string           `json:"by" enum:"bay,model,machine"`
	Mondays []civil.Day      `json:"mondays" doc:"With which the weeks begin"`
	All     ReliabilityRow   `json:"all"`
	Rows    []ReliabilityRow `json:"rows"`
	Told    bool             `json:"told" doc:"The shop has told its opening hours"`
}

// mostReliabilityDays is over how long a while reliability is told.
const mostReliabilityDays = 800

// ReliabilityBy tells how the fleet did from a day to another, by bay, mainboard model or machine.
func (a *App) ReliabilityBy(ctx context.Context, from, to civil.Day, by string, now time.Time) (ReliabilityList,
	error) {
	out := ReliabilityList{From: from, To: to, By: by, Rows: []ReliabilityRow{}, Mondays: []civil.Day{}}
	if to < from || int(to-from) > mostReliabilityDays {
		return out, refuse("choose a first day and a last one after it, at most %d days", mostReliabilityDays)
	}
	services, fleet, told, err := a.services(ctx, from, to, now)
	if err != nil {
		return out, err
	}
	out.Told = told
	in := a.store.Location()
	for day := from; day <= to; day++ {
		if day == from || day.Weekday() == time.Monday {
			out.Mondays = append(out.Mondays, day)
		}
	}
	groups := map[string][]schedule.Service{}
	var all []schedule.Service
	for i := range fleet {
		name := groupOf(&fleet[i], by)
		groups[name] = append(groups[name], services[i])
		all = append(all, services[i])
	}
	row := func(name string, of []schedule.Service) ReliabilityRow {
		r := ReliabilityRow{Name: name, Reliability: schedule.ReliabilityOf(of, schedule.DaysOf(from, to, in)),
			Weeks: []*float64{}}
		for i, monday := range out.Mondays {
			last := to
			if i+1 < len(out.Mondays) {
				last = out.Mondays[i+1] - 1
			}
			r.Weeks = append(r.Weeks, schedule.ReliabilityOf(of, schedule.DaysOf(monday, last, in)).Available)
		}
		return r
	}
	out.All = row("All machines", all)
	for name, of := range groups {
		out.Rows = append(out.Rows, row(name, of))
	}
	slices.SortFunc(out.Rows, func(x, y ReliabilityRow) int { return cmp.Compare(x.Name, y.Name) })
	return out, nil
}

func groupOf(m *store.Machine, by string) string {
	switch by {
	case "machine":
		return m.Name
	case "model":
		if model := m.Facts.ModelAt(m.Facts.First(parts.Frame)); model != "" {
			return model
		}
		return cmp.Or(m.Maker, "model unknown")
	}
	return cmp.Or(m.Bay, "no bay")
}

// services are how the machines of the fleet stood over some days: in their order.
func (a *App) services(ctx context.Context, from, to civil.Day, now time.Time) ([]schedule.Service, []store.Machine,
	bool,
	error) {
	in := a.store.Location()
	fleet, err := a.store.Fleet(ctx)
	if err != nil {
		return nil, nil, false, err
	}
	set, err := a.store.Shop(ctx)
	if err != nil {
		return nil, nil, false, err
	}
	closed, err := a.store.Closures(ctx, from)
	if err != nil {
		return nil, nil, false, err
	}
	open, told := schedule.Opening(set.Settings, closed, from, to, in)
	out := make([]schedule.Service, len(fleet))
	index := map[int64]int{}
	for i := range fleet {
		index[fleet[i].ID] = i
		out[i].Open = open.And(schedule.Join(schedule.Span{From: fleet[i].Since, To: now}))
	}
	outages, err := a.store.Outages(ctx)
	if err != nil {
		return nil, nil, false, err
	}
	for _, o := range outages {
		if i, here := index[o.MachineID]; here {
			out[i].Down = schedule.Join(append(out[i].Down, spanOf(o, now))...)
		}
	}
	faults, err := a.store.FaultTimes(ctx)
	if err != nil {
		return nil, nil, false, err
	}
	for _, f := range faults {
		if i, here := index[f.MachineID]; here {
			out[i].Faults = append(out[i].Faults, spanOf(f, time.Time{}))
		}
	}
	return out, fleet, told, a.labour(ctx, out, fleet, index, schedule.DaysOf(from, to, in))
}

func spanOf(o store.Outage, open time.Time) schedule.Span {
	s := schedule.Span{From: o.From, To: open}
	if o.To != nil {
		s.To = *o.To
	}
	return s
}

// labour adds what work took: that on record, and for tasks marked as done what they usually take.
func (a *App) labour(ctx context.Context, out []schedule.Service, fleet []store.Machine, index map[int64]int,
	within schedule.Span) error {
	laboured, err := a.store.LabouredWithin(ctx, within.From, within.To)
	if err != nil {
		return err
	}
	for _, l := range laboured {
		i, here := index[l.MachineID]
		switch {
		case !here:
		case l.Fault:
			out[i].Unplanned += l.Minutes
		default:
			out[i].Planned += l.Minutes
		}
	}
	done, err := a.store.DoneWithin(ctx, within.From, within.To)
	for _, d := range done {
		i, here := index[d.MachineID]
		if !here {
			continue
		}
		task, _ := maintenance.Find(fleet[i].Tasks, d.Task)
		out[i].Planned += task.UsualMinutes() * float64(d.Times)
	}
	return err
}

// ReliabilityCSV is the list as a table. Source: RFC 4180.
func ReliabilityCSV(list ReliabilityList) ([]byte, error) {
	var text bytes.Buffer
	w := csv.NewWriter(&text)
	w.UseCRLF = true
	number := func(f *float64) string {
		if f == nil {
			return ""
		}
		return strconv.FormatFloat(*f, 'f', 3, 64)
	}
	rows := [][]string{{list.By, "machines", "open_h", "up_h", "available", "failures", "between_failures_h", "repaired",
		"to_repair_h", "planned_min", "unplanned_min"}}
	for _, r := range append(slices.Clone(list.Rows), list.All) {
		rows = append(rows, []string{r.Name, strconv.Itoa(r.Machines), number(&r.Open), number(&r.Up), number(r.Available),
			strconv.Itoa(r.Failures), number(r.Between), strconv.Itoa(r.Repaired), number(r.ToRepair), number(&r.Planned),
			number(&r.Unplanned)})
	}
	if err := w.WriteAll(rows); err != nil {
		return nil, err
	}
	return text.Bytes(), nil
}
