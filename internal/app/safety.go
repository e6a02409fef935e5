package app

import (
	"context"
	"errors"
	"time"

	"wardifex/internal/core/civil"
	"wardifex/internal/core/safety"
	"wardifex/internal/store"
)

// SafetySheet is a safety file with the days of which others are kept.
type SafetySheet struct {
	File safety.DayFile `json:"file"`
	Kept bool           `json:"kept" doc:"As it was kept that day; else as it is known now"`
	Days []string       `json:"days" doc:"Of which a file is kept, the newest first"`
}

// SafetyFile is the safety file of a day: as it is known now for today, or as it was kept on
// that day or the last one before it.
func (a *App) SafetyFile(ctx context.Context, day string, by string, now time.Time) (SafetySheet, error) {
	out := SafetySheet{}
	var err error
	if out.Days, err = a.store.SafetyDays(ctx); err != nil {
		return out, err
	}
	if day == "" {
		out.File, err = a.safetyNow(ctx, by, now)
		return out, err
	}
	d, err := civil.ParseDay(day, civil.Unsaid)
	if err != nil {
		return out, Refused(err)
	}
	if d > civil.Of(now) {
		return out, refuse("%s is still to come", d.Show())
	}
	out.Kept = true
	out.File, err = a.store.SafetyFile(ctx, d.String())
	if errors.Is(err, store.ErrNotFound) {
		return out, refuse("no safety file was kept on %s or before it: the first is kept from today on", d.Show())
	}
	return out, err
}

// KeepSafetyFile keeps the safety file of today, once; further ones of the same day change
// nothing.
func (a *App) KeepSafetyFile(ctx context.Context, by string, now time.Time) error {
	f, err := a.safetyNow(ctx, by, now)
	if err != nil {
		return err
	}
	return a.store.KeepSafetyFile(ctx, f)
}

func (a *App) safetyNow(ctx context.Context, by string, now time.Time) (safety.DayFile, error) {
	out := safety.DayFile{Version: safety.Version, Day: civil.Of(now).String(), TakenAt: now, TakenBy: by,
		Machines: []safety.MachineSafety{}}
	shop, err := a.store.Shop(ctx)
	if err != nil {
		return out, err
	}
	out.Shop = shop.Name
	fleet, err := a.store.Fleet(ctx)
	if err != nil {
		return out, err
	}
	work, err := a.store.MainsWork(ctx)
	if err != nil {
		return out, err
	}
	locks, err := a.store.LocksOn(ctx)
	if err != nil {
		return out, err
	}
	for i := range fleet {
		m := &fleet[i]
		e := safety.MachineSafety{ID: m.ID, Name: m.Name, Bay: m.Bay, Work: work[m.ID], Locks: locks[m.ID],
			Faults: m.OpenFaults}
		if e.Work == nil {
			e.Work = []safety.MainsWork{}
		}
		if e.Locks == nil {
			e.Locks = []string{}
		}
		e.Of(safety.Known{Facts: m.Facts, Records: m.Records, Ready: a.readiness(m, now), Protection: m.Protection(now)})
		out.Machines = append(out.Machines, e)
	}
	return out, ctx.Err()
}
