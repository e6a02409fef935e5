package fit

import (
	"slices"

	"wardifex/internal/core/machine"
)

// trial is what a kit that is judged does to one capacity: the parts that it fits,
// and what is written as used.
type trial struct {
	overlay *machine.Overlay
	uses    []Use
	head    int                 // of the part that takes what is written; 0 for none
	covered []*machine.Position // whose parts count in what is written
	inHand  bool                // what is fitted lies on the shelf, where it can be looked at
}

// touches reports whether the kit puts a part at a position.
func (t *trial) fits(p *machine.Position) bool {
	return t != nil && t.overlay != nil && slices.Contains(t.overlay.Positions(), p)
}

// holders are the positions that have a capacity on a machine.
func (c *Capacity) holders(s machine.Snapshot) []*machine.Position { return s.Each(c.Holder) }

// left adds up what is left of a capacity at a holder (nil where the machine has
// none): before is the machine as it is, and t what the kit that is judged does; nil
// for the machine by itself. collect keeps the items for explaining.
func (c *Capacity) left(before machine.Snapshot, holder *machine.Position, t *trial, collect bool) sum {
	after := before
	if t != nil && t.overlay != nil {
		after = before.Over(t.overlay)
	}
	x := sum{Capacity: c, holder: holder, heads: headsOf(after, c.Least)}
	x.offer = c.offer(after, holder)
	x.offer.tried = t != nil && t.overlay.States(x.offer.trait)
	if c.Limit && x.offer.weak && after.At(x.offer.trait).Grade == machine.Unknown {
		x.idle = true
		return x
	}
	taken := tally{mode: x.heads}
	count := func(it item) {
		taken.add(it)
		if collect {
			x.items = append(x.items, it)
		}
	}
	c.draws(after, holder, t, count)
	takenLo, takenHi := taken.total()
	fixed := toMilli(c.Fixed)
	x.lo, x.hi = x.offer.lo-takenHi-fixed, x.offer.hi-takenLo-fixed
	if t == nil {
		return x
	}
	for _, u := range t.uses {
		x.keep = max(x.keep, toMilli(u.Keep))
	}
	if x.lo < x.keep {
		x.compare(before, after, t, collect)
	}
	return x
}

// compare says whether the kit makes what is left no less, or surely less. Only
// terms that are exchanged count: what is unknown before and after is the same.
func (x *sum) compare(before, after machine.Snapshot, t *trial, collect bool) {
	c := x.Capacity
	mode := headsOf(before, c.Least)
	was, is := tally{mode: mode}, tally{mode: x.heads}
	shared := x.heads == together && mode == together
	exchanged := func(it item) bool {
		return !shared || it.at == nil || it.tried || t.overlay.Touches(it.at) || c.decidedBy(before, t, it.at)
	}
	c.draws(before, x.holder, nil, func(it item) {
		if exchanged(it) {
			was.add(it)
			if collect {
				x.was = append(x.was, it)
			}
		}
	})
	c.draws(after, x.holder, t, func(it item) {
		if exchanged(it) {
			is.add(it)
		}
	})
	wasLo, wasHi := was.total()
	isLo, isHi := is.total()
	moreLo, moreHi := isLo-wasHi, isHi-wasLo // taken besides, at least and at most
	if t.overlay.Changes(x.offer.trait) {
		old := c.offer(before, x.holder)
		if collect {
			x.was = append(x.was, old)
		}
		moreLo, moreHi = moreLo+old.lo-x.offer.hi, moreHi+old.hi-x.offer.lo
	}
	x.relief = moreHi <= 0 && x.keep == 0
	x.worse = moreLo > 0 || x.keep > 0
}

// decidedBy reports whether the kit changes what decides whether a part counts: the
// plate that is heated from the mains, for its heater.
func (c *Capacity) decidedBy(s machine.Snapshot, t *trial, p *machine.Position) bool {
	for _, d := range c.Draws {
		if !s.Vocabulary().Is(p.Kind, d.Kind) {
			continue
		}
		for _, name := range d.OnlyOf {
			if t.overlay.Changes(onlyTrait(s, p, name)) {
				return true
			}
		}
	}
	return false
}

// offer is what a holder has.
func (c *Capacity) offer(s machine.Snapshot, holder *machine.Position) item {
	if holder == nil {
		t := s.Vocabulary().Of(s.First(machine.ListComplete.Kind), machine.ListComplete)
		if s.Listed() >= c.Least {
			return item{what: "none: there is nothing that has it", trait: t}
		}
		most := mostMilli
		for _, k := range s.Vocabulary().TraitsOf(c.Holder) {
			if k.Name == c.Offers.Name {
				_, most = possible(k, "")
			}
		}
		return item{hi: most, trait: t, weak: true}
	}
	t := s.Vocabulary().Of(holder, c.Offers)
	it := item{at: holder, trait: t}
	if t == nil { // the rule is off: the catalogue has the trait otherwise
		it.lo, it.hi, it.weak = -mostMilli, mostMilli, true
		return it
	}
	least := c.Least
	if c.Limit {
		least = machine.Claimed // the shop's own word, not evidence
	}
	f := s.At(t)
	if there := s.Presence(holder, least); !there.Possible && f.Grade == machine.Unknown {
		return it
	}
	if t.Kind == machine.YesNo {
		has := says(s, holder, c.Offers, least, "yes")
		it.weak = has == maybe
		if has.possible {
			it.hi = 1000
		}
		if has.sure {
			it.lo = 1000
		}
		return it
	}
	it.lo, it.hi, it.weak = amount(f, t, least)
	return it
}

// amount is what a number may be: what stands of it, the span of a conflict, or
// what is physically possible.
func amount(f *machine.Fact, t *machine.Trait, least machine.Grade) (lo, hi milli, weak bool) {
	if f.Grade < least || f.Grade == machine.Unknown {
		place := machine.PlaceKind("")
		if p := t.Position(); p != nil {
			place = p.Serves.Kind()
		}
		lo, hi = possible(t.TraitDef, place)
		return lo, hi, true
	}
	for i, v := range f.Candidates() {
		n := toMilli(v.Number)
		if i == 0 {
			lo, hi = n, n
		}
		lo, hi = min(lo, n), max(hi, n)
	}
	return lo, hi, lo != hi
}

// possible is where a number can physically lie at a place.
func possible(t machine.TraitDef, place machine.PlaceKind) (lo, hi milli) {
	r, ok := t.Possible[place]
	if !ok {
		r, ok = t.Possible[""]
	}
	switch {
	case ok:
		return toMilli(r.Min), toMilli(r.Max)
	case t.Max > t.Min:
		return toMilli(t.Min), toMilli(t.Max)
	}
	return -mostMilli, mostMilli
}

// draws gives everything that is taken at a holder: by parts, by what was written
// when they were fitted, and by the kit that is judged.
func (c *Capacity) draws(s machine.Snapshot, holder *machine.Position, t *trial, count func(item)) {
	takings := s.Takings()
	c.parts(s, holder, t, nil, takings, count)
	for _, x := range takings {
		if n := c.besides(x, s, holder); n != 0 {
			count(item{lo: n, hi: n, what: orKit(x.What, "an earlier kit"), head: headAt(s, x.Slot)})
		}
	}
	if t == nil {
		return
	}
	for _, u := range t.uses {
		if !c.statedBy(t.overlay, s, holder) {
			n := toMilli(u.Amount)
			count(item{lo: n, hi: n, what: orKit(u.For, "this kit"), head: t.head, tried: true})
		}
	}
}

// parts gives what parts take: all of them, or only those at some positions.
func (c *Capacity) parts(
	s machine.Snapshot,
	holder *machine.Position,
	t *trial,
	only []*machine.Position,
	takings []machine.Taking,
	count func(item),
) {
	for i := range c.Draws {
		c.draw(&c.Draws[i], s, holder, t, only, takings, count)
	}
	c.byModels(s, holder, t, only, takings, count)
}

// byModels counts what parts take by their models, of a capacity that is a sum; what is
// observed has them in it.
func (c *Capacity) byModels(
	s machine.Snapshot,
	holder *machine.Position,
	t *trial,
	only []*machine.Position,
	takings []machine.Taking,
	count func(item),
) {
	kinds := usersOf(s.Vocabulary(), c.Key)
	if len(kinds) == 0 || c.Observed.Name != "" {
		return
	}
	for _, p := range s.Structure().Positions() {
		if only != nil && !slices.Contains(only, p) || !kinds[p.Kind] || t.fits(p) && slices.Contains(t.covered, p) ||
			c.takenBy(p, takings) ||
			!c.hangsOn(s, p, holder) {
			continue
		}
		f := s.At(modelOf(s, p))
		for i, v := range f.Candidates() {
			n := c.statedUse(s.Vocabulary(), p, v.Text)
			it := item{lo: n, hi: n, at: p, what: v.Text, head: p.Serves.Head(), tried: t.fits(p)}
			if f.Grade < c.Least || !f.Known() {
				it.lo, it.hi, it.weak = min(n, 0), max(n, 0), true
			}
			if n != 0 && i == 0 {
				count(it)
			}
		}
	}
}

// statedUse is what a part of a model is said to take.
func (c *Capacity) statedUse(voc *machine.Vocabulary, p *machine.Position, model string) milli {
	n := milli(0)
	for _, u := range voc.UsesOf(p.Kind, model) {
		if u.Capacity == c.Key {
			n += toMilli(u.Amount)
		}
	}
	return n
}

// takenBy reports whether what a part takes was written when it was fitted.
func (c *Capacity) takenBy(p *machine.Position, takings []machine.Taking) bool {
	return slices.ContainsFunc(takings, func(x machine.Taking) bool {
		return x.Capacity == c.Key && x.Key == "" && slices.Contains(x.Covers, p.Key)
	})
}

// byItsModel reports whether the model of a part may say what it takes.
func (c *Capacity) byItsModel(s machine.Snapshot, p *machine.Position) bool {
	if !usersOf(s.Vocabulary(), c.Key)[p.Kind] || c.Observed.Name != "" {
		return false
	}
	return slices.ContainsFunc(
		s.At(modelOf(s, p)).Candidates(),
		func(v machine.Value) bool { return c.statedUse(s.Vocabulary(), p, v.Text) != 0 },
	)
}

// besides is what a taking takes besides what parts take and observations show: all of
// it where the capacity is a sum, and where nothing good enough was observed that it
// could have been carried into.
func (c *Capacity) besides(x machine.Taking, s machine.Snapshot, holder *machine.Position) milli {
	switch {
	case x.Capacity != c.Key:
		return 0
	case x.Key == "":
		return toMilli(x.Amount)
	}
	t := c.observedAt(s, holder)
	if t == nil || t.Key() != x.Key {
		return 0
	}
	switch f := s.At(t); {
	case f.Grade >= c.Least && f.Grade != machine.Unknown && f.Saw(x):
		return 0
	case c.Taken:
		return toMilli(x.Shift)
	}
	return -toMilli(x.Shift)
}

// statedBy reports whether a change says itself what will be observed of the
// capacity afterwards: the mass of the new toolhead, the width of the new frame.
func (c *Capacity) statedBy(o *machine.Overlay, s machine.Snapshot, holder *machine.Position) bool {
	return o.Sets(c.observedAt(s, holder))
}

// observedAt is the trait by which the capacity is observed at a holder, or would be if
// the machine had one; nil where it is a sum.
func (c *Capacity) observedAt(s machine.Snapshot, holder *machine.Position) *machine.Trait {
	if c.Observed.Name == "" {
		return nil
	}
	if holder == nil {
		return s.Vocabulary().Of(s.Vocabulary().First(c.Observed.Kind), c.Observed)
	}
	if s.Vocabulary().Is(holder.Kind, c.Observed.Kind) {
		return s.Vocabulary().Of(holder, c.Observed)
	}
	for _, p := range s.Each(c.Observed.Kind) {
		if c.hangsOn(s, p, holder) {
			return s.Vocabulary().Of(p, c.Observed)
		}
	}
	return nil
}

func orKit(what, otherwise string) string {
	if what == "" {
		return otherwise
	}
	return what
}

func headAt(s machine.Snapshot, slot string) int {
	if p := s.Vocabulary().At(slot); p != nil {
		return p.Serves.Head()
	}
	return 0
}

// draw counts the parts of one kind.
func (c *Capacity) draw(
	d *Draw,
	s machine.Snapshot,
	holder *machine.Position,
	t *trial,
	only []*machine.Position,
	takings []machine.Taking,
	count func(item),
) {
	var together []*machine.Position // what feeds parts that were counted already
	for _, p := range s.Each(d.Kind) {
		if only != nil && !slices.Contains(only, p) {
			continue
		}
		tried := t.fits(p)
		if tried && (slices.Contains(t.covered, p) && !c.observes(d) || d.Stated) || c.writtenFor(d, p, takings) ||
			c.byItsModel(s, p) {
			continue // counted in what is written, or by its model
		}
		if d.Kind != c.Holder && !c.hangsOn(s, p, holder) {
			continue
		}
		if d.More != nil {
			if more := d.More(s, p, c.Least); more.possible {
				it := item{hi: 1000, at: p, what: "one more", head: p.Serves.Head(), tried: tried}
				if more.sure {
					it.lo = 1000
				}
				count(it)
			}
		}
		counts := surely
		if d.Only != nil {
			if counts = d.Only(s, p, c.Least); !counts.possible {
				continue
			}
		}
		there := s.Presence(p, c.Least)
		if !there.Possible {
			continue
		}
		it := item{at: p, head: p.Serves.Head(), tried: tried && t.overlay.States(s.Vocabulary().Of(p, d.Of))}
		if d.Of.Name == "" {
			it.tried = tried
			if shared := d.shares(s, p, together); shared {
				continue
			}
			if d.Shared != nil {
				together = append(together, d.Shared(s, p))
			}
			it.lo, it.hi = 1000, 1000
		} else {
			it.trait = s.Vocabulary().Of(p, d.Of)
			if it.trait == nil {
				continue // the rule is off
			}
			it.lo, it.hi, it.weak = amount(s.At(it.trait), it.trait, c.Least)
		}
		if !there.Sure || !counts.sure {
			it.lo, it.hi = min(it.lo, 0), max(it.hi, 0)
		}
		count(it)
	}
}

// shares reports whether a part takes what another one has taken already: a second
// motor on the driver of the first.
func (d *Draw) shares(s machine.Snapshot, p *machine.Position, together []*machine.Position) bool {
	if d.Shared == nil {
		return false
	}
	by := d.Shared(s, p)
	return by != nil && slices.Contains(together, by)
}

// observes reports whether a draw is the trait by which the capacity is observed:
// what is written then counts besides.
func (c *Capacity) observes(d *Draw) bool {
	return d.Of.Name != "" && d.Of.Name == c.Observed.Name && d.Of.Kind == c.Observed.Kind
}

// writtenFor reports whether what a part takes was written when it was fitted: of
// this capacity, or, where that tells where the part hangs, of any.
func (c *Capacity) writtenFor(d *Draw, p *machine.Position, takings []machine.Taking) bool {
	for _, x := range takings {
		if !slices.Contains(x.Covers, p.Key) {
			continue
		}
		if d.Stated || x.Capacity == c.Key && x.Key == "" {
			return true
		}
	}
	return false
}

// hangsOn reports whether a part draws on this holder, where a machine has several:
// the one that feeds it, or that it rides on.
func (c *Capacity) hangsOn(s machine.Snapshot, p, holder *machine.Position) bool {
	holders := c.holders(s)
	if len(holders) < 2 || holder == nil {
		return true
	}
	voc := s.Vocabulary()
	for at := p; at != nil; {
		fed := s.Structure().FedBy(at)
		if fed.To != nil && voc.Is(fed.To.Kind, c.Holder) {
			return fed.To == holder
		}
		at = fed.To
	}
	if rides := s.Structure().RidesOn(p); rides.To != nil && voc.Is(rides.To.Kind, c.Holder) {
		return rides.To == holder
	}
	return holders[0] == holder
}
