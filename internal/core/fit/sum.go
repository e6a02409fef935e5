package fit

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"wardifex/internal/core/machine"
	"wardifex/internal/core/quantity"
)

// milli is an amount in whole thousandths of its unit: sums of them come out the
// same in any order, also at an exact limit.
type milli int64

// mostMilli bounds any term, so that no sum runs over.
const mostMilli = milli(1) << 50

func toMilli(x float64) milli {
	switch n := math.Round(x * 1000); {
	case n >= float64(mostMilli):
		return mostMilli
	case n <= -float64(mostMilli):
		return -mostMilli
	default:
		return milli(n)
	}
}

func (m milli) float() float64 { return float64(m) / 1000 }

// item is one term of a sum: what a part takes, at least and at most.
type item struct {
	lo, hi milli
	at     *machine.Position // of the part; nil for what is written
	trait  *machine.Trait    // that says how much; nil where a part takes one
	what   string            // of what is written, or fixed
	head   int               // the head that it is on; 0 for none
	weak   bool              // its trait is not known well enough
	tried  bool              // the kit that is judged brings it
}

// sum is what is left of a capacity at one holder.
type sum struct {
	*Capacity
	holder *machine.Position
	offer  item
	items  []item
	was    []item // what is exchanged, as it was before
	heads  headMode
	keep   milli
	idle   bool  // the shop has set no limit
	relief bool  // whatever is left, the kit makes it no less
	lo, hi milli // what is left
	worse  bool  // the kit surely leaves less than there was
}

// headMode says how the heads of a machine share it.
type headMode uint8

const (
	together headMode = iota
	changed           // one at a time: the one that asks most counts
	unsure            // either
)

func headsOf(s machine.Snapshot, least machine.Grade) headMode {
	if len(s.Structure().Heads()) < 2 {
		return together
	}
	mode := s.First(machine.HeadsMode.Kind)
	t := says(s, mode, machine.HeadsMode, least, machine.HeadsTogether)
	switch {
	case t.sure:
		return together
	case t.possible:
		return unsure
	}
	return changed
}

// tally adds items up: those of heads that are changed count by the head that asks
// most.
type tally struct {
	mode   headMode
	lo, hi milli
	heads  []headTally
	fixed  [4]headTally
}

type headTally struct {
	head   int
	lo, hi milli
}

func (t *tally) add(it item) {
	if it.head == 0 || t.mode == together {
		t.lo, t.hi = t.lo+it.lo, t.hi+it.hi
		return
	}
	if t.heads == nil {
		t.heads = t.fixed[:0]
	}
	for i := range t.heads {
		if h := &t.heads[i]; h.head == it.head {
			h.lo, h.hi = h.lo+it.lo, h.hi+it.hi
			return
		}
	}
	t.heads = append(t.heads, headTally{it.head, it.lo, it.hi})
}

// total is what is taken, at least and at most.
func (t *tally) total() (lo, hi milli) {
	var mostLo, mostHi, allLo, allHi milli
	for i, h := range t.heads {
		if i == 0 {
			mostLo, mostHi = h.lo, h.hi
		}
		mostLo, mostHi = max(mostLo, h.lo), max(mostHi, h.hi)
		allLo, allHi = allLo+h.lo, allHi+h.hi
	}
	if t.mode == unsure {
		return t.lo + min(mostLo, allLo), t.hi + max(mostHi, allHi)
	}
	return t.lo + mostLo, t.hi + mostHi
}

// truth judges the sum: it holds where enough is left, or where the kit makes it no
// worse than it was.
func (x *sum) truth() tri {
	switch {
	case x.idle || x.relief || x.lo >= x.keep:
		return surely
	case x.hi < x.keep && x.worse:
		return surelyNo
	}
	return maybe
}

// open are the traits that leave the sum undecided.
func (x *sum) open(s machine.Snapshot) []*machine.Trait {
	return x.openOf(append([]item{x.offer}, x.items...), s)
}

// openOf are the traits that leave some items undecided.
func (x *sum) openOf(items []item, s machine.Snapshot) []*machine.Trait {
	var out []*machine.Trait
	add := func(t *machine.Trait) {
		if t == nil {
			return
		}
		if t = s.Decides(t); !slices.Contains(out, t) {
			out = append(out, t)
		}
	}
	for _, it := range items {
		if it.lo == it.hi {
			continue
		}
		if it.weak {
			if it.trait != nil {
				add(it.trait)
			} else if it.at != nil {
				add(modelOf(s, it.at))
			}
			continue
		}
		if it.at == nil {
			continue
		}
		n := len(out)
		if it.trait == nil && !s.Presence(it.at, x.Least).Sure {
			add(modelOf(s, it.at))
		}
		for _, d := range x.Draws { // known, and yet it may not count
			for _, name := range d.OnlyOf {
				if t := onlyTrait(s, it.at, name); s.Vocabulary().Is(it.at.Kind, d.Kind) && t != nil && !x.tells(s.At(t)) {
					add(t)
				}
			}
		}
		if len(out) == n {
			add(modelOf(s, it.at))
		}
	}
	if x.heads == unsure && slices.ContainsFunc(items, func(it item) bool { return it.head > 1 }) {
		add(s.Vocabulary().Of(s.First(machine.HeadsMode.Kind), machine.HeadsMode))
	}
	return out
}

// tells reports whether a fact is known well enough for the capacity.
func (c *Capacity) tells(f *machine.Fact) bool { return f.Known() && f.Grade >= c.Least }

func modelOf(s machine.Snapshot, p *machine.Position) *machine.Trait {
	return s.Vocabulary().ModelAt(p)
}

// onlyTrait is the trait by which a part may count or not: its own, or that of the
// part of another kind that decides it.
func onlyTrait(s machine.Snapshot, p *machine.Position, name machine.TraitOf) *machine.Trait {
	if s.Vocabulary().Is(p.Kind, name.Kind) {
		return s.Vocabulary().Of(p, name)
	}
	return s.Vocabulary().Of(s.First(name.Kind), name)
}

// words writes the sum with its numbers, for people.
func (x *sum) words(s machine.Snapshot) string {
	if x.idle {
		return fmt.Sprintf("not judged: the shop has set no limit (%s)", x.offer.called(x))
	}
	var b strings.Builder
	b.WriteString(x.offer.words(s, x, 1))
	ones := map[bool][]string{} // parts that take one, by nothing but what they are; of the kit or not
	for _, it := range x.items {
		switch {
		case it.at == nil:
		case it.trait == nil && it.lo == 1000 && it.hi == 1000:
			ones[it.tried] = append(ones[it.tried], it.at.Label)
		case it.lo != 0 || it.hi != 0:
			b.WriteString(it.words(s, x, -1))
		}
	}
	for _, tried := range []bool{false, true} {
		if names := ones[tried]; len(names) > 0 {
			fmt.Fprintf(&b, " − %d %s", len(names), strings.Join(names, ", "))
			if tried {
				b.WriteString(" of this kit")
			}
		}
	}
	if x.Fixed > 0 {
		fmt.Fprintf(&b, " − %s %s", figure(x.Fixed), x.For)
	}
	for _, tried := range []bool{false, true} { // what is written: by earlier kits, by this one
		for _, it := range x.items {
			if it.at == nil && it.tried == tried {
				b.WriteString(it.words(s, x, -1))
			}
		}
	}
	unit := ""
	if x.Unit != "" {
		unit = " " + x.Unit
	}
	switch why := x.unknowns(s); {
	case x.lo == x.hi:
		fmt.Fprintf(&b, " = %s%s left", figure(x.lo.float()), unit)
	case x.truth() == surelyNo, x.hi < 0:
		fmt.Fprintf(&b, " = at most %s%s left", figure(x.hi.float()), unit)
	case x.truth() == surely && x.lo >= x.keep:
		fmt.Fprintf(&b, " = at least %s%s left", figure(x.lo.float()), unit)
	case why != "":
		b.WriteString(" = cannot be told: " + why)
	default:
		fmt.Fprintf(&b, " = between %s and %s%s left", figure(x.lo.float()), figure(x.hi.float()), unit)
	}
	if x.keep > 0 {
		fmt.Fprintf(&b, ", %s%s must be", figure(x.keep.float()), unit)
	}
	if x.lo < 0 && x.relief {
		b.WriteString("; this kit takes no more than it gives")
	}
	if x.hi < x.keep && !x.relief && !x.worse && len(x.was) > 0 {
		b.WriteString("; whether it was as short before is not known")
	}
	if x.heads == changed && slices.ContainsFunc(x.items, func(it item) bool { return it.head > 1 }) {
		b.WriteString("; of the heads, which are changed, the one that asks most counts")
	}
	return strings.TrimSpace(b.String())
}

// unknowns says which facts are not known at all, where that leaves the sum open:
// "Firmware build: size of the build is unknown", "the place of Heater 3 is unknown".
func (x *sum) unknowns(s machine.Snapshot) string {
	var names []string
	for _, it := range x.items {
		if it.lo != it.hi && !it.weak && it.at != nil && it.at.Serves == machine.NoPlace {
			names = append(names, "the place of "+it.at.Label)
		}
	}
	for _, t := range x.open(s) {
		if s.At(t).Grade == machine.Unknown {
			names = append(names, t.Label)
		}
	}
	switch len(names) {
	case 0:
		return ""
	case 1:
		return names[0] + " is unknown"
	}
	return strings.Join(names[:len(names)-1], ", ") + " and " + names[len(names)-1] + " are unknown"
}

// words writes an item with its number and sign.
func (it item) words(s machine.Snapshot, x *sum, sign int) string {
	mark := map[int]string{1: "", -1: " − "}[sign]
	switch {
	case it.lo == it.hi && it.lo < 0 && sign < 0:
		return fmt.Sprintf(" + %s freed by %s", figure(-it.lo.float()), it.called(x))
	case it.lo == it.hi:
		return mark + figure(it.lo.float()) + " " + it.called(x)
	}
	if it.trait != nil {
		if f := s.At(it.trait); f.Known() && it.trait.Kind == machine.Number {
			return mark + f.Value.Text + "? " + it.called(x)
		}
	}
	return mark + "? " + it.called(x)
}

// called is what an item is, in a few words.
func (it item) called(x *sum) string {
	name := it.what
	if it.trait != nil {
		name = it.trait.Short
		same := 0
		for _, o := range append([]item{x.offer}, x.items...) {
			if o.trait != nil && o.trait.Short == it.trait.Short {
				same++
			}
		}
		if same > 1 { // told apart by where they are
			name = it.at.Label
		}
	} else if it.at != nil {
		name = it.at.Label
	}
	if it.tried && it.at != nil {
		name += " of this kit"
	}
	return name
}

// figure writes a computed number as it is read: to the thousandth, with a real
// minus.
func figure(n float64) string {
	n = math.Round(n*1000) / 1000
	if n == 0 {
		return "0"
	}
	return strings.Replace(quantity.Format(n), "-", "−", 1)
}
