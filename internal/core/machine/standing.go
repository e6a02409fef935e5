package machine

import (
	"cmp"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"wardifex/internal/core/civil"
)

// Reading is one value of one trait as somebody found it.
type Reading struct {
	ID         int64
	Key        Key
	Value      Value
	Grade      Grade
	TakenAt    time.Time
	By         string
	How        string
	Note       string
	Superseded string // why it no longer counts: taken back, or lost a settled conflict; empty while it counts
	// SupersededAt is when it stopped counting; a record as of an earlier day
	// still counts it.
	SupersededAt time.Time
	// AsFitted says that nobody looked: it is what the part that was fitted is
	// stated to be.
	AsFitted bool
}

// Grades are those that a reading of the trait may have, weakest first: a hint is marked at
// most.
func (t *Trait) Grades() []Grade {
	if t.Hint != "" {
		return []Grade{Claimed, Marked}
	}
	return Grades()
}

// Surest is the way of finding out that earns the strongest grade; the first where several
// do. ok is false where there is none.
func (t *Trait) Surest() (way Way, ok bool) {
	for _, w := range t.FindBy {
		if !ok || w.Grade > way.Grade {
			way, ok = w, true
		}
	}
	return way, ok
}

// CheckReading says what is wrong with a new reading of a trait: a grade that
// is missing or more than a hint can earn, or a date that lies after now.
func CheckReading(t *Trait, r Reading, now time.Time) error {
	if r.Grade < Claimed || r.Grade > Proven {
		return errors.New("say how good the evidence is: claimed, marked, read or proven")
	}
	if t.Hint != "" && r.Grade > Marked {
		return fmt.Errorf("%s is a hint and proves nothing (%s); record it as marked", t.Label, t.Hint)
	}
	if r.TakenAt.After(now) {
		return fmt.Errorf(
			"the reading is dated %s, which is still to come; it is %s now",
			r.TakenAt.Format(civil.Moment),
			now.Format(civil.Moment),
		)
	}
	return nil
}

// Fact is what is known of one trait at a moment.
type Fact struct {
	Trait *Trait
	Value Value // the standing value; zero when unknown or in conflict
	Grade Grade // Unknown when nothing counts
	// Stands is the reading behind Value; nil when unknown, in conflict, or
	// when Value is the fitted model's default.
	Stands *Reading
	// Conflict holds two or more readings of the strongest grade that differ,
	// newest first; they are to be settled by a person, never averaged.
	Conflict []Reading
	// FromModel says that Value is only the catalogue's default for the model.
	FromModel string
	// Unlisted says that the machine has no such position: the value of its model
	// is None.
	Unlisted bool
	// Carried is what was fitted or taken out since Value was observed, and changed
	// it; Observed is what it was then.
	Carried  []Carried
	Observed Value

	counted []*Reading // of the trait, with those that were set aside
}

// Contradicted are the weaker readings that say something else than Value, strongest
// first.
func (f *Fact) Contradicted() []Reading {
	if f.Stands == nil {
		return nil
	}
	var out []Reading
	for _, r := range f.counted {
		if r.Superseded == "" && r.Grade < f.Grade && !f.Trait.Same(r.Value, f.Stands.Value) {
			out = append(out, *r)
		}
	}
	sortStrongest(out)
	return out
}

// Known reports whether one value stands.
func (f Fact) Known() bool { return !f.Value.IsZero() }

// Disputes reports whether a reading is one of those in conflict, by its number.
func (f Fact) Disputes(reading int64) bool {
	return slices.ContainsFunc(f.Conflict, func(r Reading) bool { return r.ID == reading })
}

// Candidates are the values that may be true as far as the strongest evidence
// goes: none, one, or the differing ones of a conflict.
func (f Fact) Candidates() []Value {
	if f.Known() {
		return []Value{f.Value}
	}
	var out []Value
	for _, r := range f.Conflict {
		out = append(out, r.Value)
	}
	return out
}

// Standing finds the value that stands among all readings of one trait of one
// fitted part: the strongest grade wins, among equals that agree the newest.
// Readings that were set aside do not count.
func Standing(t *Trait, readings []Reading) Fact {
	rs := make([]*Reading, len(readings))
	for i := range readings {
		rs[i] = &readings[i]
	}
	return standing(t, rs)
}

// standing is Standing without copying readings, for whole fleets.
func standing(t *Trait, readings []*Reading) Fact {
	f := Fact{Trait: t}
	var first *Reading
	for _, r := range readings {
		if r.Superseded == "" && (first == nil || stronger(r, first) < 0) {
			first = r
		}
	}
	if first == nil {
		return f
	}
	f.Grade, f.counted = first.Grade, readings
	for _, r := range readings {
		if r.Grade == first.Grade && r != first && r.Superseded == "" && !t.Same(r.Value, first.Value) {
			f.Conflict = conflict(readings, first.Grade)
			return f
		}
	}
	f.Value, f.Stands = first.Value, first
	return f
}

// conflict are the readings of a grade that count, newest first.
func conflict(readings []*Reading, grade Grade) []Reading {
	var out []Reading
	for _, r := range readings {
		if r.Superseded == "" && r.Grade == grade {
			out = append(out, *r)
		}
	}
	sortStrongest(out)
	return out
}

// stronger orders readings by grade, then newest first.
func stronger(a, b *Reading) int {
	return cmp.Or(cmp.Compare(b.Grade, a.Grade), b.TakenAt.Compare(a.TakenAt), cmp.Compare(b.ID, a.ID))
}

func sortStrongest(rs []Reading) {
	slices.SortStableFunc(rs, func(a, b Reading) int { return stronger(&a, &b) })
}

// RetractedMark begins the reason of readings that were a mistake, as against
// those that lost a settled conflict.
const RetractedMark = "taken back: "

// WhyRetracted is the reason a reading that was a mistake is set aside with.
func WhyRetracted(why string) string { return RetractedMark + why }

// Retracted reports whether the reading was a mistake and never said anything.
func (r Reading) Retracted() bool { return strings.HasPrefix(r.Superseded, RetractedMark) }
