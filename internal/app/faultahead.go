package app

import (
	"context"
	"slices"
	"time"

	"wardifex/internal/core/maintenance"
	"wardifex/internal/core/schedule"
	"wardifex/internal/store"
)

// FaultAhead is what a fault means for who has the machine next.
type FaultAhead struct {
	Next    *ShownBooking  `json:"next,omitempty" doc:"The next booking of the machine within a week; empty where none is"`
	Minutes float64        `json:"minutes" doc:"Until it begins, min; 0 where none is or it has begun"`
	Repairs []FittingFix   `json:"repairs" doc:"Usual repairs of the symptom"`
	Offers  []BookingOffer `json:"offers"  doc:"Able machines that are free for it, and when this one is"`
}

// FittingFix is a usual repair, and whether it fits before the next booking.
type FittingFix struct {
	maintenance.Repair
	Fits bool `json:"fits"`
}

// beforeBooking is how far ahead the next booking is looked for.
const beforeBooking = 7 * 24 * time.Hour

// FaultAhead tells what a fault means for the next booking of its machine.
func (a *App) FaultAhead(ctx context.Context, id int64, now time.Time) (FaultAhead, error) {
	out := FaultAhead{Repairs: []FittingFix{}, Offers: []BookingOffer{}}
	f, err := a.store.Fault(ctx, id)
	if err != nil {
		return out, err
	}
	times, err := a.bookedTimes(ctx, schedule.Span{From: now, To: now.Add(beforeBooking)}, f.MachineID)
	if err != nil {
		return out, err
	}
	fleet, err := a.store.Fleet(ctx)
	if err != nil {
		return out, err
	}
	if len(times) > 0 {
		next := times[0]
		shown := a.shownBookings(times[:1], fleet, Viewer{Staff: true}, now)
		if len(shown) == 1 {
			out.Next = &shown[0]
		}
		out.Minutes = max(0, next.From.Sub(now).Minutes())
		if out.Offers, err = a.offersFor(ctx, fleet, next, now); err != nil {
			return out, err
		}
	}
	for _, r := range maintenance.Repairs(f.Symptom) {
		out.Repairs = append(out.Repairs, FittingFix{r, out.Next == nil || r.Minutes <= out.Minutes})
	}
	return out, nil
}

// offersFor are machines that could take a booking, and when its own is next free.
func (a *App) offersFor(ctx context.Context, fleet []store.Machine, t BookedTime, now time.Time) ([]BookingOffer,
	error) {
	i := slices.IndexFunc(fleet, func(m store.Machine) bool { return m.ID == t.Machine })
	if i < 0 {
		return []BookingOffer{}, nil
	}
	b, err := a.bookableWithin(ctx, schedule.Span{From: t.From, To: t.To.Add(beforeBooking)})
	if err != nil {
		return nil, err
	}
	if err := a.store.Wear(ctx, fleet); err != nil {
		return nil, err
	}
	ask := BookingAsk{Machine: t.Machine, From: t.From, To: t.To, Attended: t.Attended, Need: t.Need}
	return b.offers(fleet, i, ask, now), nil
}
