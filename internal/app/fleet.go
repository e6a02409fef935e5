package app

import (
	"context"
	"slices"
	"time"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/firmware"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/fleetquery"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/maintenance"
	"wardifex/internal/store"
)

// Ask puts a question to the fleet as it is, or was.
func (a *App) Ask(ctx context.Context, q fleetquery.Question, now time.Time) (fleetquery.Answer, error) {
	from, at, err := q.Period(now)
	if err != nil {
		return fleetquery.Answer{}, Refused(err)
	}
	past := q.At != "" || !from.IsZero()
	fleet, err := a.store.Fleet(ctx)
	if err != nil {
		return fleetquery.Answer{}, err
	}
	histories := map[int64]*machine.History{}
	if past {
		retired, err := a.store.RetiredMachines(ctx)
		if err != nil {
			return fleetquery.Answer{}, err
		}
		fleet = append(fleet, retired...)
		if histories, err = a.store.Histories(ctx); err != nil {
			return fleetquery.Answer{}, err
		}
	}
	if err := a.store.Wear(ctx, fleet); err != nil {
		return fleetquery.Answer{}, err
	}
	voc := a.store.Vocabulary(ctx)
	subjects := make([]fleetquery.Subject, 0, len(fleet))
	for i := range fleet {
		m := &fleet[i]
		if past && !fleetquery.InFleet(m.Since, m.RetiredAt, from, at) {
			continue // not yet, or no more, in the fleet
		}
		subject := fleetquery.Subject{ID: m.ID, Name: m.Name, Fields: askedFields(m, now), Facts: m.Facts,
			Danger: m.Danger != nil && !past}
		if q.About(fleetquery.BrokenColumn) {
			state, _ := fit.ConsistencyOf(m.Facts)
			subject.Fields[fleetquery.BrokenColumn] = string(state)
		}
		if past {
			h := histories[m.ID]
			if h == nil {
				none := machine.NewHistory(voc, nil)
				h = &none
			}
			subject.Facts = h.At(at)
			if !from.IsZero() {
				subject.History = h
			}
		}
		subjects = append(subjects, subject)
	}
	out, err := fleetquery.Ask(q, subjects, voc, now)
	if err != nil {
		return out, Refused(err)
	}
	return out, nil
}

// mostValues is how many values of a column are offered.
const mostValues = 300

// Values are those that stand in a column over the fleet, for whoever asks for one of them.
func (a *App) Values(ctx context.Context, column string, now time.Time) ([]string, error) {
	answer, err := a.Ask(ctx, fleetquery.Question{Columns: []string{column}}, now)
	if err != nil {
		return nil, err
	}
	values := []string{}
	for _, row := range answer.Rows {
		if text := row.Cells[0].Text; text != "" && !row.Cells[0].Conflict {
			values = append(values, text)
		}
	}
	slices.Sort(values)
	values = slices.Compact(values)
	return values[:min(len(values), mostValues)], nil
}

// askedFields are a machine's columns that are no trait, as they are now.
func askedFields(m *store.Machine, now time.Time) map[string]string {
	c := fleetquery.Condition{
		Proven:    m.Protection(now).Proven,
		Danger:    m.Danger != nil,
		Use:       m.Use.Use,
		Faults:    m.OpenFaults,
		Conflicts: len(m.Facts.Conflicts()),
		Invalid:   calibration.CountInvalid(m.Facts, m.Records),
		Disagree:  len(calibration.Disagreements(m.Facts, m.Records, nil)),
		BuiltFor:  len(firmware.Mismatches(m.Facts, m.Configured)),
	}
	if m.OpenOrder != nil {
		c.Order = m.OpenOrder.ID
	}
	if list := maintenance.DueList(m.Subject(now), now); len(list) > 0 {
		c.Next = &list[0]
	}
	f := c.Fields()
	f[fleetquery.BayColumn], f[fleetquery.MakerColumn], f[fleetquery.SerialColumn],
		f[fleetquery.SupplierColumn] = m.Bay, m.Maker,
		m.Serial, m.Supplier
	return f
}
