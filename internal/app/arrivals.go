package app

import (
	"context"
	"time"

	"wardifex/internal/core/civil"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/purchase"
	"wardifex/internal/store"
)

// Received is a thing of an order as it came.
type Received struct {
	store.ArrivalFields
	Findings   []purchase.TraitFound `json:"findings,omitempty" maxItems:"60"`
	Tag        string                `json:"tag,omitempty" maxLength:"60" doc:"The shop's label that goes on it"`
	Serial     string                `json:"serial,omitempty" maxLength:"120"`
	Shelf      string                `json:"shelf,omitempty" maxLength:"60" doc:"Where it is laid"`
	ForMachine *int64                `json:"forMachine,omitempty" doc:"Number of the machine that it is for"`
}

// Arrived is what a received thing became.
type Arrived struct {
	ID      int64            `json:"id"`
	Outcome purchase.Outcome `json:"outcome" enum:"as advertised,wrong,damaged,missing"`
	PartID  int64            `json:"partId,omitempty" doc:"The part on the shelf; none where it is no stock"`
}

// Receive takes in one thing of an order. Only what is as advertised becomes a part of the
// shop's, with what was found as its readings; of all else a claim is open from then on.
func (a *App) Receive(ctx context.Context, order int64, r Received, by string, now time.Time) (Arrived, error) {
	if err := checkReceived(&r, now); err != nil {
		return Arrived{}, err
	}
	out := Arrived{}
	err := a.store.InTx(ctx, func(ctx context.Context) error {
		out = Arrived{}
		p, err := a.store.LockPurchase(ctx, order)
		if err != nil {
			return err
		}
		line, err := expected(p, r.ArrivalFields)
		if err != nil {
			return err
		}
		if r.CameOn < p.OrderedOn { // both ISO 8601
			return refuse("it was ordered on %s, so it cannot have come on %s", p.OrderedOn, r.CameOn)
		}
		checked, outcome, err := a.checkDelivered(ctx, line, r)
		if err != nil {
			return err
		}
		r.Outcome, out.Outcome = outcome, outcome
		state := purchase.Open
		if outcome == purchase.AsAdvertised {
			state, r.ReturnBy = purchase.NoClaim, ""
			if len(line.Kept) > 0 {
				if out.PartID, err = a.stock(ctx, p, line, r, checked, by, now); err != nil {
					return err
				}
			}
		}
		if err := a.closeReplaced(ctx, p, r, by, now); err != nil {
			return err
		}
		out.ID, err = a.store.AddArrival(ctx, r.ArrivalFields, state, checked, out.PartID, by, now)
		return err
	})
	return out, err
}

func checkReceived(r *Received, now time.Time) error {
	err := checkTexts([]named{{"delivery note", r.Slip}, {"lot", r.Lot}, {"tag", r.Tag}, {"serial number", r.Serial},
		{"shelf", r.Shelf}})
	if err == nil {
		r.CameOn, err = dayUntil("came on", r.CameOn, now)
	}
	if err == nil {
		r.ReturnBy, err = returnBy(r.ReturnBy, r.CameOn)
	}
	return err
}

// returnBy reads the day until when something can be sent back, as typed, and writes it as
// ISO 8601; empty where it is empty.
func returnBy(text, came string) (string, error) {
	if text == "" {
		return "", nil
	}
	day, err := civil.ParseDay(text, civil.Unsaid)
	if err != nil {
		return "", refuse("send back by: %s", err)
	}
	if day.String() < came {
		return "", refuse("send back by %s, but it came only on %s", day.Show(), came)
	}
	return day.String(), nil
}

// expected is the line of an order of which a thing came, if another is still waited for.
func expected(p store.Purchase, f store.ArrivalFields) (store.PurchaseLine, error) {
	if p.ClosedAt != nil {
		return store.PurchaseLine{}, refuse("this order was closed (%s); open it again to receive something", p.ClosedWhy)
	}
	for _, l := range p.Lines {
		if l.ID != f.LineID {
			continue
		}
		if f.Kept < 0 || f.Kept >= len(l.Progress) {
			return l, refuse("%s has %d parts in its box; there is no number %d", l.What, len(l.Kept), f.Kept+1)
		}
		if g := l.Progress[f.Kept]; g.ToCome == 0 || f.Replaces == nil && g.ToCome <= g.Claimed {
			return l, refuse("of %d ordered nothing more is waited for, besides what is claimed: receive a replacement as "+
				"that, and what nobody ordered as a part on the shelf", g.Ordered)
		}
		return l, nil
	}
	return store.PurchaseLine{}, refuse("this order has no line %d", f.LineID)
}

// checkDelivered compares what was found with what is advertised.
func (a *App) checkDelivered(ctx context.Context, l store.PurchaseLine, r Received) ([]purchase.TraitChecked,
	purchase.Outcome, error) {
	if len(l.Kept) == 0 {
		if len(r.Findings) > 0 {
			return nil, "", refuse("%s goes on no record, so nothing is found of it; write a note", l.What)
		}
		outcome, err := purchase.Conclude(r.Outcome, purchase.AsAdvertised, r.Note)
		return nil, outcome, refusedOr(err)
	}
	checked, found, err := purchase.Compare(a.store.Vocabulary(ctx), l.Kept[r.Kept].Kind, r.Findings)
	if err != nil {
		return nil, "", Refused(err)
	}
	outcome, err := purchase.Conclude(r.Outcome, found, r.Note)
	return checked, outcome, refusedOr(err)
}

func refusedOr(err error) error {
	if err == nil {
		return nil
	}
	return Refused(err)
}

// stock puts a part that came on the shelf: its model and what is advertised as claims of its
// supplier, and what was found.
func (a *App) stock(ctx context.Context, p store.Purchase, l store.PurchaseLine, r Received,
	checked []purchase.TraitChecked,
	by string, now time.Time) (int64, error) {
	kept := l.Kept[r.Kept]
	f := store.PartFields{Tag: r.Tag, Serial: r.Serial, Supplier: p.Supplier, BoughtOn: p.OrderedOn, Shelf: r.Shelf,
		Lot: r.Lot, ForMachine: r.ForMachine}
	if l.Price != nil && len(l.Kept) == 1 {
		each := *l.Price / float64(l.Count)
		f.Price = &each
	}
	id, err := a.AddPart(ctx, kept.Kind, kept.Model, f, by, now)
	if err != nil {
		return 0, err
	}
	read := func(trait, value string, grade machine.Grade, how string) error {
		if value == "" {
			return nil
		}
		r := machine.Reading{Grade: grade, TakenAt: now, By: by, How: how}
		_, err := a.AddPartReading(ctx, id, trait, value, r, now)
		return err
	}
	for _, c := range checked {
		if c.Trait != machine.ModelTrait { // which AddPart has claimed
			if err := read(c.Trait, c.Advertised, machine.Claimed, "as advertised"); err != nil {
				return 0, err
			}
		}
		if err := read(c.Trait, c.Found, c.Grade, "at delivery"); err != nil {
			return 0, err
		}
	}
	return id, nil
}

// closeReplaced closes the claim of the thing that another came for.
func (a *App) closeReplaced(ctx context.Context, p store.Purchase, r Received, by string, now time.Time) error {
	if r.Replaces == nil {
		return nil
	}
	for _, old := range p.Arrivals {
		if old.ID != *r.Replaces {
			continue
		}
		if !old.Claim.Waits() || old.LineID != r.LineID || old.Kept != r.Kept {
			return refuse("nothing like this is claimed there any more, so nothing replaces it")
		}
		return a.store.WriteClaim(ctx, old.ID, purchase.Replaced, old.ClaimNote, old.ReturnBy, by, now)
	}
	return refuse("what it is to replace is not of this order")
}

// ChangeClaim writes how far a claim has come over the version that the editor saw.
func (a *App) ChangeClaim(ctx context.Context, id int64, version int, to purchase.Claim, note, until, by string,
	now time.Time) error {
	if err := checkTexts([]named{{"note", note}}); err != nil {
		return err
	}
	return a.store.InTx(ctx, func(ctx context.Context) error {
		c, err := a.store.LockArrival(ctx, id)
		if err != nil {
			return err
		}
		if c.Version != version {
			return editedMeanwhile("claim", c.ChangedBy, c.ChangedAt, c)
		}
		if err := c.Claim.MayBecome(to); err != nil {
			return Refused(err)
		}
		if until == "" {
			until = c.ReturnBy
		}
		day, err := returnBy(until, c.CameOn)
		if err != nil {
			return err
		}
		return a.store.WriteClaim(ctx, id, to, note, day, by, now)
	})
}
