package machine

// Presence says whether a part is at a position.
type Presence struct {
	Sure     bool // one is there
	Possible bool // one may be there
}

// Presence reports whether a part is at a position, as far as evidence of a grade
// goes. A position that is not listed holds none. A positive sign, such as a motor
// known by its current, outranks a claim that there is none. The first motor of an
// axis that is listed, like the first parts of the first head and of the bed, is
// there even where nobody has looked: a machine cannot be without it.
func (s Snapshot) Presence(p *Position, least Grade) Presence {
	if !s.Has(p) {
		return Presence{}
	}
	f := s.At(s.voc.of[p.index][ModelTrait])
	sign := s.sign(p)
	switch {
	case f.Known() && f.Value.Text == None && f.Grade >= least && (f.Grade > Claimed || sign == Unknown):
		return Presence{}
	case f.Known() && f.Value.Text != None && f.Grade >= least, sign >= least && sign != Unknown:
		return Presence{Sure: true, Possible: true}
	case len(f.Conflict) > 0 && f.Grade >= least:
		return Presence{Sure: !f.may(None), Possible: true}
	}
	return Presence{Sure: p.essential() && !f.may(None), Possible: true}
}

// may reports whether a value is among those that may be true.
func (f *Fact) may(text string) bool {
	for _, v := range f.Candidates() {
		if v.Text == text {
			return true
		}
	}
	return false
}

// Sign is the best grade at which something is known of what is at a position besides its
// model: evidence that something is there.
func (s Snapshot) Sign(p *Position) Grade { return s.sign(p) }

// sign is the best grade at which something besides the model is known of what is
// at a position. A bare yes or no says nothing: it may be said of an empty place.
func (s Snapshot) sign(p *Position) Grade {
	best := Unknown
	for _, t := range s.voc.signs[p.index] {
		best = max(best, s.At(t).Grade)
	}
	return best
}

// essential reports whether a machine that has the position cannot be without what
// is at it. Source: common practice.
func (p *Position) essential() bool {
	switch p.Serves.Kind() {
	case AnAxis, ABed:
		return p.Ordinal() == 1
	case AHead:
		return p.Serves.Head() == 1 && p.Ordinal() == 1
	}
	return false
}
