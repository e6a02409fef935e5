// Package purchase is what is ordered of suppliers, what came of it, and what is still
// claimed of them: found against advertised, thing by thing.
package purchase

import (
	"errors"
	"fmt"
	"slices"

	"wardifex/internal/core/civil"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
)

// KeptPart is a part that goes on record when it comes.
type KeptPart struct {
	Kind  string `json:"kind"`
	Model string `json:"model" doc:"As it is advertised"`
}

// Line is a line of an order: boxes of a kit, parts, or things that go on no record.
type Line struct {
	What     string     `json:"what"`
	Kit      string     `json:"kit,omitempty" doc:"Its key"`
	Count    int        `json:"count"`
	Price    *float64   `json:"price,omitempty" doc:"Of all of them together"`
	Box      []string   `json:"box" doc:"What comes in each box, as the kit lists it"`
	Kept     []KeptPart `json:"kept" doc:"Parts in each box that go on record"`
	Machines []int64    `json:"machines" doc:"For which they are"`
}

const (
	mostCount = 1000
	mostPrice = 10_000_000 // in any currency: sums of them stay exact
)

// Check refuses a line that cannot be ordered.
func (l *Line) Check() error {
	if err := machine.PlainText(l.What); err != nil {
		return fmt.Errorf("what is ordered: %w", err)
	}
	if l.Count < 1 || l.Count > mostCount {
		return fmt.Errorf("%d of %s: write 1 to %d", l.Count, l.What, mostCount)
	}
	if l.Price != nil && (*l.Price < 0 || *l.Price > mostPrice) {
		return fmt.Errorf("a price of %v for %s: write 0 to %d", *l.Price, l.What, mostPrice)
	}
	return nil
}

// OfKit is a line for boxes of a kit; kind gives the kind of part at a position.
func OfKit(k fit.Kit, kind func(slot string) string) Line {
	l := Line{What: k.Name, Kit: k.Key, Box: slices.Concat(k.Parts, k.Screws)}
	for _, e := range k.Effects {
		if of := kind(e.Slot); e.Fits() && of != "" {
			l.Kept = append(l.Kept, KeptPart{Kind: of, Model: e.Model})
		}
	}
	return l
}

// Outcome is how a thing was found when it came.
type Outcome string

// The outcomes of a delivery. Only what is as advertised becomes stock.
const (
	AsAdvertised Outcome = "as advertised"
	Wrong        Outcome = "wrong"
	Damaged      Outcome = "damaged"
	Missing      Outcome = "missing" // named on the delivery note and not in the parcel
)

// Claim is how far what is claimed of a supplier has come.
type Claim string

// The states of a claim. One that is open or sent back is still waited for.
const (
	NoClaim  Claim = ""
	Open     Claim = "open"
	SentBack Claim = "sent back"
	Replaced Claim = "replaced"
	Refunded Claim = "refunded"
	GivenUp  Claim = "given up"
)

// Waits reports whether something is still expected of the supplier.
func (c Claim) Waits() bool { return c == Open || c == SentBack }

// MayBecome refuses a step of a claim that cannot follow on it. A replacement is received,
// not said.
func (c Claim) MayBecome(to Claim) error {
	switch {
	case !c.Waits():
		return errors.New("this claim is closed; nothing is claimed any more")
	case to == Replaced:
		return errors.New("receive the replacement against its order: that closes the claim")
	case to == SentBack, to == Refunded, to == GivenUp, to == Open:
		return nil
	}
	return fmt.Errorf("a claim cannot become %q; say sent back, refunded or given up", to)
}

// Came is a thing that came, or should have.
type Came struct {
	Line    int64
	Kept    int // which of the line's parts in a box; 0 where it has none
	Outcome Outcome
	Claim   Claim
}

// LineProgress is how much of something that was ordered has come.
type LineProgress struct {
	Ordered int `json:"ordered"`
	Good    int `json:"good" doc:"Came as advertised"`
	Claimed int `json:"claimed" doc:"Wrong, damaged or missing, and still waited for"`
	Closed  int `json:"closed" doc:"Refunded or given up: not waited for any more"`
	ToCome  int `json:"toCome" doc:"Still waited for, what is claimed among it"`
}

// Tally counts what came of a line: for each of its parts in a box, or for the line where it
// has none.
func Tally(line int64, l Line, came []Came) []LineProgress {
	out := make([]LineProgress, max(1, len(l.Kept)))
	for i := range out {
		out[i].Ordered = l.Count
	}
	for _, c := range came {
		if c.Line != line || c.Kept < 0 || c.Kept >= len(out) {
			continue
		}
		p := &out[c.Kept]
		switch {
		case c.Outcome == AsAdvertised:
			p.Good++
		case c.Claim.Waits():
			p.Claimed++
		case c.Claim == Refunded, c.Claim == GivenUp:
			p.Closed++
		}
	}
	for i := range out {
		p := &out[i]
		p.ToCome = max(0, p.Ordered-p.Good-p.Closed)
	}
	return out
}

// ReturnBy says until when a wrong thing can be sent back.
func ReturnBy(by *civil.Day, claim Claim, today civil.Day) string {
	switch {
	case by == nil || claim != Open:
		return ""
	case *by < today:
		return fmt.Sprintf("should have gone back by %s, %s ago", by.Show(), civil.Days(int(today-*by)))
	case *by == today:
		return fmt.Sprintf("send back today, %s", by.Show())
	}
	return fmt.Sprintf("send back by %s, %s left", by.Show(), civil.Days(int(*by-today)))
}
