package machine

import (
	"fmt"
	"slices"
	"strings"
)

// MostPositions is how many positions a machine can have.
const MostPositions = 600

// What is on record of a machine as a whole, at its position of the kind structure.
var (
	// ListComplete says that the list of the machine's positions was checked.
	ListComplete = TraitOf{Kind: structureKind, Name: "complete", Value: YesNo}
	// HeadsMode is how several heads share the machine: one of the Heads… words.
	HeadsMode = TraitOf{
		Kind:    structureKind,
		Name:    "heads",
		Value:   Choice,
		Choices: []string{HeadsTogether, HeadsChanged, HeadsByHand},
	}
	// HeadMounted is the number of the head that is mounted, of heads changed by hand.
	HeadMounted = TraitOf{Kind: structureKind, Name: "mounted", Value: Number}
)

const structureKind = "structure"

// How the heads of a machine share it.
const (
	HeadsTogether = "together"
	HeadsChanged  = "changed by the machine"
	HeadsByHand   = "by hand"
)

// Link names a position that another one rides on or is fed by, where that is
// not what follows from their places, with the evidence of it.
type Link struct {
	To    string `json:"to" doc:"Key of the other position"`
	Grade Grade  `json:"grade"`
	By    string `json:"by,omitempty"`
	How   string `json:"how,omitempty"`
}

// Structure is which positions a machine has, and how they hang together. It
// does not change once made; machines that are built alike share one.
type Structure struct {
	voc   *Vocabulary
	given []Position  // with their links
	list  []*Position // those of the vocabulary, in its order
	has   []bool      // by index in the vocabulary
	kinds map[string][]*Position
	feeds map[*Position]Relation
	rides map[*Position]Relation
	heads []int // numbers of the heads, ascending
}

// Relation is a position that another one hangs on.
type Relation struct {
	To *Position // nil when there is none on record
	// Claimed says that it is only claimed to be this one: it may as well be
	// as it usually is.
	Claimed bool
}

// Structure is the structure of these positions; keys that the vocabulary does
// not know are passed over. A position that is listed twice counts once.
func (v *Vocabulary) Structure(positions []Position) *Structure {
	key := signature(positions)
	if known, ok := v.structures.Load(key); ok {
		return known.(*Structure)
	}
	s := &Structure{voc: v, given: slices.Clone(positions), has: make([]bool, len(v.Slots)),
		kinds: map[string][]*Position{}, feeds: map[*Position]Relation{}, rides: map[*Position]Relation{}}
	links := map[*Position]*Position{}
	for i := range s.given {
		if at, ok := v.slots[s.given[i].Key]; ok {
			s.has[at] = true
			p, known := &s.given[i], &v.Slots[at] // what a key stands for is the same everywhere
			p.Kind, p.Label, p.Group, p.Serves, p.N = known.Kind, known.Label, known.Group, known.Serves, known.N
			links[&v.Slots[at]] = &s.given[i]
		}
	}
	for i := range v.Slots {
		p := &v.Slots[i]
		if !s.has[i] {
			continue
		}
		s.list = append(s.list, p)
		for _, kind := range v.likes[p.Kind] {
			s.kinds[kind] = append(s.kinds[kind], p)
		}
		if n := p.Serves.Head(); n > 0 && !slices.Contains(s.heads, n) {
			s.heads = append(s.heads, n)
		}
	}
	slices.Sort(s.heads)
	for _, p := range s.list {
		s.feeds[p] = s.relation(links[p].FedBy, s.feeder(p))
		s.rides[p] = s.relation(links[p].RidesOn, s.carrier(p))
	}
	kept, _ := v.structures.LoadOrStore(key, s)
	return kept.(*Structure)
}

func signature(positions []Position) string {
	var b strings.Builder
	for i := range positions {
		p := &positions[i]
		b.WriteString(p.Key)
		for _, l := range []*Link{p.FedBy, p.RidesOn} {
			if l != nil {
				fmt.Fprintf(&b, ">%s/%v", l.To, l.Grade > Claimed)
			}
			b.WriteByte('|')
		}
	}
	return b.String()
}

// With is the structure with further positions, as a change adds them.
func (s *Structure) With(more []*Position) *Structure {
	list := slices.Clone(s.given)
	for _, p := range more {
		if !s.Has(p) {
			list = append(list, *p)
		}
	}
	if len(list) == len(s.given) {
		return s
	}
	return s.voc.Structure(list)
}

// Has reports whether a position of the vocabulary is listed.
func (s *Structure) Has(p *Position) bool { return p != nil && s.has[p.index] }

// Positions are those that are listed, in the order of the sheet.
func (s *Structure) Positions() []*Position { return s.list }

// Heads are the numbers of the tool heads that have a position, ascending.
func (s *Structure) Heads() []int { return s.heads }

// Listed is how surely the list of positions is whole: what is not on it is absent
// with that grade. It is Unknown where somebody found that something is missing.
func (s Snapshot) Listed() Grade {
	f := s.Of(s.structure.First(structureKind), ListComplete)
	switch {
	case f.Known() && f.Value.Text == "yes":
		return f.Grade
	case f.Known():
		return Unknown
	}
	return Claimed
}

// Each lists the positions that hold parts of a kind, or of a kind that is like it.
func (s *Structure) Each(kind string) []*Position { return s.kinds[kind] }

// First is the first position of a kind: the one, where a machine has only one.
// It is nil when there is none.
func (s *Structure) First(kind string) *Position {
	if list := s.kinds[kind]; len(list) > 0 {
		return list[0]
	}
	return nil
}

// At lists the positions of a kind that serve a place.
func (s *Structure) At(kind string, place Place) []*Position {
	var out []*Position
	for _, p := range s.kinds[kind] {
		if p.Serves == place {
			out = append(out, p)
		}
	}
	return out
}

// Beside is the first position of a kind that serves the same place as another;
// nil when there is none.
func (s *Structure) Beside(p *Position, kind string) *Position {
	if p == nil || p.Serves == NoPlace {
		return nil
	}
	for _, o := range s.kinds[kind] {
		if o.Serves == p.Serves {
			return o
		}
	}
	return nil
}

// Select lists the positions that a selector selects, seen from the part that needs
// something; from is nil where nothing is seen from.
func (s *Structure) Select(sel Selector, from *Position) []*Position {
	var out []*Position
	for _, p := range s.kinds[sel.Kind] {
		if (sel.At == NoPlace || p.Serves == sel.At) && s.stands(p, sel.Relation, from) {
			out = append(out, p)
		}
	}
	return out
}

// stands reports whether a position stands in a relation to another.
func (s *Structure) stands(p *Position, relation RelationKind, from *Position) bool {
	if relation == Anywhere || from == nil {
		return true
	}
	switch relation {
	case Itself:
		return p == from
	case SamePlace:
		return p.Serves == from.Serves && p.Serves != NoPlace
	case SameHead:
		return p.Serves == from.Serves || from.Serves.Head() == 0 && p.Serves.Head() > 0
	case FeedsIt:
		return above(from, p, s.feeds)
	case FedByIt:
		return above(p, from, s.feeds)
	case CarriesIt:
		return above(from, p, s.rides)
	case RidesOnIt:
		return above(p, from, s.rides)
	}
	return false
}

// above reports whether one position hangs on another, itself or by what it hangs on.
func above(p, on *Position, by map[*Position]Relation) bool {
	for range MostPositions { // a circle ends
		next := by[p].To
		if next == nil || next == p {
			return false
		}
		if next == on {
			return true
		}
		p = next
	}
	return false
}

// FedBy is what feeds a position: a motor's driver, a part's board, a heater's
// supply.
func (s *Structure) FedBy(p *Position) Relation { return s.feeds[p] }

// RidesOn is what a position moves along with.
func (s *Structure) RidesOn(p *Position) Relation { return s.rides[p] }

func (s *Structure) relation(said *Link, usual *Position) Relation {
	if said == nil {
		return Relation{To: usual}
	}
	at, ok := s.voc.slots[said.To]
	if !ok || !s.has[at] {
		return Relation{To: usual}
	}
	return Relation{To: &s.voc.Slots[at], Claimed: said.Grade <= Claimed}
}

// feeder is what usually feeds a position: what its kind is fed by, at the same
// place and of the same ordinal; where none has the ordinal, the first there;
// else the one among the electronics, or of the shop, that feeds every place.
func (s *Structure) feeder(p *Position) *Position {
	kind, _ := s.voc.Kind(p.Kind)
	return s.hangsOn(p, s.voc.feeds(kind), func(o *Position) bool { return o.Serves == Electronics || o.Serves == Shop })
}

// carrier is what a position usually rides on, likewise.
func (s *Structure) carrier(p *Position) *Position {
	kind, _ := s.voc.Kind(p.Kind)
	return s.hangsOn(p, s.voc.carries(kind), func(o *Position) bool { return o.Serves.Kind() != AHead })
}

func (s *Structure) hangsOn(p *Position, kinds []string, general func(*Position) bool) *Position {
	for _, kind := range kinds {
		list := s.kinds[kind]
		for _, o := range list {
			if o != p && o.Serves == p.Serves && p.Serves != NoPlace && o.Ordinal() == p.Ordinal() {
				return o
			}
		}
		if beside := s.Beside(p, kind); beside != nil && beside != p {
			return beside
		}
		for _, o := range list {
			if o != p && general(o) {
				return o
			}
		}
	}
	return nil
}
