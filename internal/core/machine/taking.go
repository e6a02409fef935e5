package machine

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"wardifex/internal/core/quantity"
)

// Taking is what a fitted part takes of a capacity of its machine, as the kit that
// fitted it states it: 40 mm of the print width, a way of a header, 12 W.
type Taking struct {
	Capacity string  `json:"capacity"`
	Amount   float64 `json:"amount" doc:"In the capacity's unit; negative when it gives"`
	What     string  `json:"what,omitempty" doc:"What takes it"`
	// Key is the trait by which what is left, or what is there, is observed; empty
	// where the capacity is a sum over parts. Shift is what the taking changes of it.
	Key   Key     `json:"key,omitempty"`
	Shift float64 `json:"shift,omitempty"`
	// Covers are the positions whose parts count in Amount: what they take by being
	// what they are is not counted besides.
	Covers []string  `json:"covers,omitempty"`
	Slot   string    `json:"-"` // where the part is that takes it; empty when it is no part
	From   time.Time `json:"-"`
	To     time.Time `json:"-"` // zero while it is fitted
	// AfterReading and UntilReading are the numbers of the last readings before From
	// and before To: they tell what came first at one and the same moment.
	AfterReading int64 `json:"-"`
	UntilReading int64 `json:"-"`
}

// Takings are what the fitted parts take of the machine's capacities.
func (s Snapshot) Takings() []Taking {
	if s.over != nil {
		return s.over.takings(s.takings)
	}
	return s.takings
}

func current(all []Taking) []Taking {
	var out []Taking
	for _, t := range all {
		if t.To.IsZero() {
			out = append(out, t)
		}
	}
	return out
}

// carry carries each observation on by what changed since: what was fitted after
// it takes, what was taken out after it gives back. A newer observation has seen it
// already. What a part is stated to be, without anybody having looked, is changed
// by every other part that is fitted now, and not by itself.
func (s *Snapshot) carry(all []Taking) {
	for _, x := range all {
		t, ok := s.voc.Trait(x.Key)
		if !ok || s.facts[t.index] == nil {
			continue
		}
		f := s.facts[t.index].seenSince(all)
		if f.Known() {
			if by := x.since(f.Stands, t.Slot); by != 0 {
				f = f.plus(t, by, x.What)
			}
		}
		s.facts[t.index] = f
	}
}

// since is by how much a taking has changed what a reading at a position observed; a
// nil reading is what a model is stated to be.
func (x Taking) since(r *Reading, slot string) float64 {
	switch stated := r == nil || r.AsFitted; {
	case stated && (x.Slot == slot || !x.To.IsZero()):
	case stated, x.To.IsZero() && r.before(x.From, x.AfterReading):
		return x.Shift
	case !x.To.IsZero() && r.before(x.To, x.UntilReading) && !r.before(x.From, x.AfterReading):
		return -x.Shift
	}
	return 0
}

// seenSince is a fact without the conflict of observations between which something was
// fitted or taken out that changes what is observed: the newer one has seen it.
func (f *Fact) seenSince(all []Taking) *Fact {
	if len(f.Conflict) == 0 {
		return f
	}
	newest := &f.Conflict[0]
	var still []Reading
	for i := range f.Conflict {
		if r := &f.Conflict[i]; !r.outdated(newest, f.Trait.Key(), all) {
			still = append(still, *r)
		}
	}
	if len(still) == len(f.Conflict) {
		return f
	}
	out := *f
	out.Conflict = still
	if !slices.ContainsFunc(still, func(r Reading) bool { return !f.Trait.Same(r.Value, newest.Value) }) {
		out.Value, out.Stands, out.Conflict = newest.Value, newest, nil
	}
	return &out
}

// outdated reports whether what a reading observed was changed before a newer one.
func (r *Reading) outdated(newest *Reading, key Key, all []Taking) bool {
	return slices.ContainsFunc(all, func(x Taking) bool {
		between := func(at time.Time, last int64) bool {
			return !at.IsZero() && r.before(at, last) && !newest.before(at, last)
		}
		return x.Key == key && x.Shift != 0 && (between(x.From, x.AfterReading) || between(x.To, x.UntilReading))
	})
}

// Saw reports whether what a taking took is in the value, or in any of the values that
// are in conflict; in a value that stands it always is: it was seen, or carried on.
func (f *Fact) Saw(x Taking) bool {
	return f.Known() || slices.ContainsFunc(f.Conflict, func(r Reading) bool {
		return !x.From.IsZero() && !r.before(x.From, x.AfterReading)
	})
}

// before reports whether a reading was taken before a moment, of which it is known
// which reading was the last before it.
func (r *Reading) before(at time.Time, last int64) bool {
	return r.TakenAt.Before(at) || r.TakenAt.Equal(at) && r.ID <= last
}

// plus is a fact changed by an amount since it was observed.
func (f *Fact) plus(t *Trait, by float64, why string) *Fact {
	out := *f
	if len(out.Carried) == 0 {
		out.Observed = out.Value
	}
	out.Carried = append(slices.Clone(out.Carried), Carried{By: by, What: why})
	out.Value = t.plus(out.Value, by)
	return &out
}

// plus is a value changed by an amount: a number by as much, yes to no where
// something is taken, and back.
func (t *Trait) plus(v Value, by float64) Value {
	switch {
	case t.Kind == YesNo && by < 0:
		return Value{Text: "no"}
	case t.Kind == YesNo && by > 0:
		return Value{Text: "yes"}
	case t.Kind == Number:
		n := roundThousandth(v.Number + by)
		return Value{Text: quantity.Format(n), Number: n}
	}
	return v
}

// HowCarried writes how what was observed became what stands, with the numbers: "235
// observed, − 40 dock = 195 mm"; empty where nothing changed it.
func (f Fact) HowCarried() string {
	if len(f.Carried) == 0 || f.Trait == nil {
		return ""
	}
	var b strings.Builder
	fmt.Fprintf(&b, "%s observed", f.Observed.Text)
	for _, c := range f.Carried {
		if f.Trait.Kind != Number {
			fmt.Fprintf(&b, ", changed by %s", c.What)
			continue
		}
		sign, by := "+", c.By
		if by < 0 {
			sign, by = "−", -by
		}
		fmt.Fprintf(&b, ", %s %s %s", sign, quantity.Format(roundThousandth(by)), c.What)
	}
	return b.String() + " = " + f.Trait.Show(f.Value)
}

// Carried is one change of an observed value since it was observed.
type Carried struct {
	By   float64
	What string
}
