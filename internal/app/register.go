package app

import (
	"bytes"
	"context"
	"errors"
	"slices"
	"time"

	"wardifex/internal/core/civil"
	"wardifex/internal/core/csvimport"
	"wardifex/internal/core/maintenance"
	"wardifex/internal/core/quantity"
	"wardifex/internal/store"
)

// PlanRegister judges a register file against the fleet as it is now.
func (a *App) PlanRegister(ctx context.Context, t csvimport.Table, d csvimport.Decisions, now time.Time) (
	csvimport.Plan, error) {
	fleet, err := a.store.Existing(ctx)
	if err != nil {
		return csvimport.Plan{}, err
	}
	p, err := csvimport.NewPlan(ctx, t, d, fleet, a.store.Vocabulary(ctx), now)
	if err != nil {
		return p, Refused(err)
	}
	return p, nil
}

// ImportRegister writes a register file as it was previewed, all in one transaction.
// fingerprint is the previewed plan's; when the fleet has changed since, the plan differs
// and nothing is written. Other writers go on meanwhile: only where one of them wrote the
// same machine or position is nothing written.
func (a *App) ImportRegister(ctx context.Context, f store.ImportFile, t csvimport.Table, d csvimport.Decisions,
	fingerprint, by string, now time.Time) (csvimport.Plan, error) {
	before, err := a.store.Headings(ctx)
	if err != nil {
		return csvimport.Plan{}, err
	}
	var p csvimport.Plan
	err = a.store.InTx(ctx, func(ctx context.Context) error {
		if err := a.store.LockImports(ctx); err != nil {
			return err
		}
		var err error
		if p, err = a.PlanRegister(ctx, t, d, now); err != nil {
			return err
		}
		switch {
		case p.Fingerprint != fingerprint:
			return fleetChanged()
		case p.Faulty > 0:
			return refuse("%d rows have faults; correct them or leave them out", p.Faulty)
		case len(p.Questions) > 0:
			return refuse("%s", p.Questions[0].Text)
		}
		if err := a.store.WriteRegister(ctx, p, by, now); err != nil {
			return err
		}
		proposed := csvimport.Propose(t, a.store.Vocabulary(ctx), before)
		for _, h := range csvimport.Corrected(proposed, d.Mapping) {
			if err := a.store.RememberHeading(ctx, h.Heading, h.Target, by, now); err != nil {
				return err
			}
		}
		counts := map[string]int{"new": p.Created, "changed": p.Changed, "the same": p.Same, "left out": p.LeftOut}
		return a.store.NoteImport(ctx, "register", f, counts, by, now)
	})
	if errors.Is(err, store.ErrChanged) {
		err = fleetChanged()
	}
	return p, err
}

// fleetChanged is the conflict of an import that is not what was previewed any more.
func fleetChanged() error {
	return &Conflict{
		Sentence: "the fleet or the file has changed since the preview; nothing was imported. Look at the new preview",
	}
}

// RegisterCSV writes the register of the fleet, retired machines left out.
func (a *App) RegisterCSV(ctx context.Context) ([]byte, error) {
	fleet, err := a.store.Existing(ctx)
	if err != nil {
		return nil, err
	}
	standing := slices.DeleteFunc(fleet, func(e csvimport.Existing) bool { return e.Retired })
	for i := range standing {
		meters := maintenance.Counted(standing[i].Meters, maintenance.Hours)
		if n := len(meters); n > 0 {
			m := meters[n-1]
			standing[i].Fields[csvimport.Hours] = quantity.Unmistakable(m.Amount)
			standing[i].Fields[csvimport.HoursOn] = civil.Of(m.At).String()
		}
	}
	var b bytes.Buffer
	if err := csvimport.Write(&b, standing, a.store.Vocabulary(ctx)); err != nil {
		return nil, err
	}
	return b.Bytes(), nil
}
