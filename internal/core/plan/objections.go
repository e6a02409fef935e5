package plan

import (
	"fmt"
	"strings"

	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
)

// Owned is a machine of the fleet with what it cost, 0 when that is not on
// record.
type Owned struct {
	Maker string
	Price float64
	Facts machine.Snapshot
}

// Work is what is to be done to a machine, as its price and time are weighed.
type Work struct {
	Changes  int // kits
	Price    float64
	Currency string // of every price, ISO 4217
	Minutes  int
	After    machine.Snapshot
	On       Owned // the machine before it
}

// money writes an amount: EUR 110.
func (w Work) money(n float64) string {
	return strings.TrimSpace(fmt.Sprintf("%s %.0f", w.Currency, n))
}

// Objections is what speaks against the work, with its numbers: the advice for who
// would go step by step, the price of a machine of its own, and where the print
// volume grows, of a larger one of the fleet. Source: common practice.
func (w Work) Objections(fleet []Owned) []string {
	out := []string{}
	if w.Changes > 1 {
		out = append(
			out,
			fmt.Sprintf(
				"One change at a time, measured before and after with the same test: %d changes at once, and nobody knows "+
					"what helped.",
				w.Changes,
			),
		)
	}
	hours := float64(w.Minutes) / 60
	if w.On.Price > 0 && w.Price > 0 {
		out = append(
			out,
			fmt.Sprintf(
				"It costs %s, the machine cost %s: %.0f %% of a new one, and %.1f hours of work besides.",
				w.money(w.Price),
				w.money(w.On.Price),
				100*w.Price/w.On.Price,
				hours,
			),
		)
	}
	if larger := w.larger(fleet); larger != nil {
		out = append(
			out,
			fmt.Sprintf(
				"Extend or buy: the extension costs %s and %.1f hours. A %s has that volume and cost %s, ready to print.",
				w.money(w.Price),
				hours,
				larger.Maker,
				w.money(larger.Price),
			),
		)
	} else if w.grows() {
		out = append(out, fmt.Sprintf("Extend or buy: the extension costs %s and %.1f hours, with bed, surface and "+
			"tuning besides. Compare with a larger machine; the fleet has none of that volume with a price on record.",
			w.money(w.Price), hours))
	}
	if w.Minutes >= 300 || w.grows() {
		out = append(out, "Whoever has never levelled, assembled and tuned this machine begins with something smaller.")
	}
	return out
}

var volume = []machine.TraitOf{parts.FrameX, parts.FrameY, parts.FrameZ}

// size is the print volume of a machine in one axis.
func size(s machine.Snapshot, axis machine.TraitOf) *machine.Fact {
	return s.Of(s.First(parts.Frame), axis)
}

// grows reports whether the print volume becomes a larger one in some axis.
func (w Work) grows() bool {
	for _, axis := range volume {
		if before, after := size(w.On.Facts, axis), size(w.After, axis); before.Known() && after.Known() &&
			after.Value.Number > before.Value.Number {
			return true
		}
	}
	return false
}

// larger is the cheapest machine of the fleet that has the volume already.
func (w Work) larger(fleet []Owned) *Owned {
	if !w.grows() {
		return nil
	}
	var best *Owned
	for i := range fleet {
		o := &fleet[i]
		enough := o.Price > 0
		for _, axis := range volume {
			has, wants := size(o.Facts, axis), size(w.After, axis)
			enough = enough && has.Known() && (!wants.Known() || has.Value.Number >= wants.Value.Number)
		}
		if enough && (best == nil || o.Price < best.Price) {
			best = o
		}
	}
	return best
}
