package app

import (
	"context"
	"slices"
	"time"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/settings"
	"wardifex/internal/store"
)

// PastedSettings are the settings that were pasted into a step, as far as they are read.
type PastedSettings struct {
	Step   string                    `json:"step" doc:"Key of the step"`
	Stated []settings.StatedOnRecord `json:"stated"`
}

// pasted reads the settings that were pasted into the note of an order's step, against the
// record of the machine as it was; nil where nothing was read in any.
func (o order) pasted() *PastedSettings {
	for _, s := range o.StepList {
		if !s.Settings || s.Note == "" {
			continue
		}
		stated, err := o.words.Read(o.machine.Family(), s.Note)
		if err != nil {
			continue // the note is no settings; it may be any words
		}
		list := settings.Compare(o.machine.Facts, o.machine.Records, stated)
		if len(list) > 0 {
			return &PastedSettings{Step: s.Key, Stated: list}
		}
	}
	return nil
}

// StatedValue is one of those that pasted settings state.
type StatedValue struct {
	Kind    calibration.Kind    `json:"kind"`
	Subject calibration.Subject `json:"subject"`
}

// RecordPasted records values that the settings pasted into an open order state and that were
// not on record: as values that were in force, where the family keeps them.
func (a *App) RecordPasted(ctx context.Context, id int64, chosen []StatedValue, by string, now time.Time) error {
	return a.withOpen(ctx, id, func(ctx context.Context, o order) error {
		p := o.pasted()
		if p == nil {
			return refuse("no settings are pasted into this order, or none of their values is known")
		}
		if err := notParked(o); err != nil {
			return err
		}
		for _, want := range chosen {
			at := slices.IndexFunc(p.Stated, func(c settings.StatedOnRecord) bool {
				return c.Kind == want.Kind && c.Subject == want.Subject
			})
			switch {
			case at < 0:
				return refuse("the settings no longer state %s of %s: look at them again", want.Kind, want.Subject)
			case p.Stated[at].Is != settings.NotOnIt:
				return refuse("%s is on record already: measure it where the two disagree", p.Stated[at].Title)
			}
			st := p.Stated[at]
			r := calibration.Record{Kind: st.Kind, Subject: st.Subject, Value: st.Value, Passed: true, At: now, By: by,
				Store: settings.StoreOf(o.machine.Family()), Method: "read in the settings, " + st.Word}
			if err := a.store.AddCalibration(ctx, o.MachineID, id, r); err != nil {
				return err
			}
		}
		return nil
	})
}

// masked is a step without the secrets that were typed into its note: they are never kept.
func masked(step store.OrderStep) store.OrderStep {
	step.Note, _ = settings.Mask(step.Note)
	return step
}
