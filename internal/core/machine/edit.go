package machine

import (
	"fmt"
	"slices"
	"strings"

	"wardifex/internal/core/quantity"
	"wardifex/internal/core/sentence"
)

// Listed are the positions of the structure as they were listed, with their links.
func (s *Structure) Listed() []Position { return s.given }

// NewPosition makes a position ready that is to be added: it gives it the next
// ordinal that is free, where none is said, and its key, label and group. keyFor
// gives the key of a kind, a place and an ordinal. The error says what is wrong and
// what would be right.
func (s *Structure) NewPosition(p Position, keyFor func(kind string, serves Place, n int) string) (Position, error) {
	kind, ok := s.voc.Kind(p.Kind)
	if !ok {
		return p, fmt.Errorf("there is no kind of part %q", quantity.Clip(p.Kind))
	}
	if len(s.given) >= MostPositions {
		return p, fmt.Errorf("the machine has %d positions already; more are not kept", MostPositions)
	}
	serves, err := ParsePlace(string(p.Serves))
	if err != nil {
		return p, err
	}
	if serves == NoPlace {
		return p, fmt.Errorf(
			"say what the %s serves: an axis, a head, the bed, the frame, the enclosure, the electronics or the shop",
			strings.ToLower(kind.Label),
		)
	}
	p.Serves = serves
	if err := s.only(kind, p); err != nil {
		return p, err
	}
	if p.N == 0 {
		for p.N = 1; s.taken(p) != nil; p.N++ {
		}
	}
	if p.N < 1 || p.N > MostOfAKind {
		return p, fmt.Errorf("%s %d at %s: 1 to %d are kept", strings.ToLower(kind.Label), p.N, serves, MostOfAKind)
	}
	if o := s.taken(p); o != nil {
		return p, fmt.Errorf(
			"%s is number %d of its kind at %s already; choose another number, or none",
			o.Label,
			p.N,
			serves,
		)
	}
	return s.named(p, keyFor), nil
}

// only refuses one more of what there is only one of.
func (s *Structure) only(kind PartKind, p Position) error {
	for _, o := range s.kinds[kind.Key] {
		switch {
		case o.Key == p.Key:
		case kind.OnePer == "machine":
			return fmt.Errorf("a machine has one %s, and this one has it: %s", strings.ToLower(kind.Label), o.Label)
		case kind.OnePer == "place" && o.Serves == p.Serves:
			return fmt.Errorf("there is one %s for %s, and it is listed: %s", strings.ToLower(kind.Label), p.Serves, o.Label)
		}
	}
	return nil
}

// MayAdd says why no other position for a kind can be added: there is one only.
func (s *Structure) MayAdd(kind string) error {
	k, ok := s.voc.Kind(kind)
	if !ok || k.OnePer != "machine" {
		return nil
	}
	return s.only(k, Position{Kind: kind})
}

// Places are the places that positions of the structure serve, in the order of the
// sheet, and the next head after those.
func (s *Structure) Places() []Place {
	var out []Place
	for _, p := range s.list {
		if p.Serves != NoPlace && !slices.Contains(out, p.Serves) {
			out = append(out, p.Serves)
		}
	}
	if next := len(s.heads) + 1; next <= MostHeads && !slices.Contains(out, Head(next)) {
		out = append(out, Head(next))
	}
	for _, p := range []Place{Bed, Frame, Enclosure, Electronics, Shop} {
		if !slices.Contains(out, p) {
			out = append(out, p)
		}
	}
	return out
}

// taken is the position that has the kind, place and ordinal of another.
func (s *Structure) taken(p Position) *Position {
	for _, o := range s.list {
		if o.Kind == p.Kind && o.Serves == p.Serves && o.Ordinal() == p.Ordinal() && o.Key != p.Key {
			return o
		}
	}
	return nil
}

// named gives a new position its key, label and group: those that the fleet has for
// it, where any machine has such a one.
func (s *Structure) named(p Position, keyFor func(string, Place, int) string) Position {
	base := keyFor(p.Kind, p.Serves, p.Ordinal())
	if most := longestKey - len("-x999"); len(base) > most {
		base = strings.TrimRight(base[:most], "-")
	}
	key := base
	for n := 2; ; n++ {
		known := s.voc.At(key)
		fits := known == nil || known.Kind == p.Kind && (known.Serves == p.Serves && known.Ordinal() == p.Ordinal())
		if fits && !s.Has(known) {
			if known != nil {
				if p.Label == "" {
					p.Label = known.Label
				}
				p.Group = known.Group
			}
			break
		}
		key = fmt.Sprintf("%s-x%d", base, n)
	}
	p.Key = key
	kind, _ := s.voc.Kind(p.Kind)
	if p.Label == "" {
		p.Label = label(kind.Label, p)
	}
	if p.Group == "" {
		p.Group = s.group(p)
	}
	return p
}

// label names a position by its kind, its place and its ordinal: "Hotend heater 3",
// "Stepper driver Z4".
func label(kind string, p Position) string {
	n := ""
	if p.Ordinal() > 1 {
		n = fmt.Sprint(p.Ordinal())
	}
	switch {
	case p.Serves.Head() > 0:
		out := fmt.Sprintf("%s, head %d", kind, p.Serves.Head())
		if n != "" {
			out += ", no. " + n
		}
		return out
	case p.Serves.Letter() != "":
		return kind + " " + strings.ToUpper(p.Serves.Letter()) + n
	case n == "":
		return fmt.Sprintf("%s, %s", kind, p.Serves)
	}
	return fmt.Sprintf("%s, %s, no. %s", kind, p.Serves, n)
}

// group is where on the sheet a new position stands: with what serves the same place,
// or with others of its kind.
func (s *Structure) group(p Position) string {
	if n := p.Serves.Head(); n > 1 {
		for i := range s.voc.Slots {
			if o := &s.voc.Slots[i]; o.Serves == p.Serves && o.Group != "" {
				return o.Group
			}
		}
		return fmt.Sprintf("Head %d", n)
	}
	for i := range s.voc.Slots {
		if o := &s.voc.Slots[i]; o.Kind == p.Kind && o.Serves.Kind() == p.Serves.Kind() && o.Group != "" {
			return o.Group
		}
	}
	for i := range s.voc.Slots {
		if o := &s.voc.Slots[i]; o.Serves == p.Serves && o.Group != "" {
			return o.Group
		}
	}
	return sentence.Begin(string(p.Serves.Kind()))
}

// Changed checks a position that is listed and is to be placed, named or linked
// otherwise. Its kind stays. What a key stands for is the same on every machine: placed
// otherwise than the fleet has its key, the position gets the key of the new place, by
// keyFor; a key of which nobody said yet where it is keeps it.
func (s *Structure) Changed(p Position, keyFor func(kind string, serves Place, n int) string) (Position, error) {
	i := slices.IndexFunc(s.given, func(o Position) bool { return o.Key == p.Key })
	if i < 0 {
		return p, fmt.Errorf("the machine has no position %q", quantity.Clip(p.Key))
	}
	was := s.given[i]
	serves, err := ParsePlace(string(p.Serves))
	if err != nil {
		return p, err
	}
	p.Kind, p.Serves, p.Sometimes, p.Superseded = was.Kind, serves, was.Sometimes, was.Superseded
	if p.Group == "" {
		p.Group = was.Group
	}
	if err := PlainText(p.Label); err != nil {
		return p, fmt.Errorf("name of the position: %w", err)
	}
	kind, _ := s.voc.Kind(p.Kind)
	if serves == NoPlace && was.Serves != NoPlace {
		return p, fmt.Errorf("say what %s serves; it is at %s now", was.Label, was.Serves)
	}
	if serves != was.Serves {
		if err := s.only(kind, p); err != nil {
			return p, err
		}
	}
	if o := s.taken(p); o != nil && serves != NoPlace {
		return p, fmt.Errorf("%s is number %d of its kind at %s already", o.Label, p.Ordinal(), serves)
	}
	if err := s.checkLink("rides on", p, p.RidesOn, func(o Position) *Link { return o.RidesOn }); err != nil {
		return p, err
	}
	if err := s.checkLink("is fed by", p, p.FedBy, func(o Position) *Link { return o.FedBy }); err != nil {
		return p, err
	}
	if was.Serves == NoPlace || was.Serves == p.Serves && was.Ordinal() == p.Ordinal() {
		return p, nil
	}
	if p.Label == was.Label {
		p.Label = "" // it said where it was
	}
	p.Group = ""
	return s.named(p, keyFor), nil
}

// checkLink refuses a link to what is not there, and circles.
func (s *Structure) checkLink(what string, p Position, l *Link, of func(Position) *Link) error {
	if l == nil {
		return nil
	}
	if l.Grade < Claimed || l.Grade > Proven {
		return fmt.Errorf("%s %s: say how good the evidence is", p.Label, what)
	}
	by := map[string]*Link{}
	for _, o := range s.given {
		by[o.Key] = of(o)
	}
	if _, ok := by[l.To]; !ok {
		return fmt.Errorf("%s %s %q: the machine has no such position", p.Label, what, quantity.Clip(l.To))
	}
	by[p.Key] = l
	at := p.Key
	for range len(s.given) + 1 {
		next := by[at]
		if next == nil {
			return nil
		}
		if at = next.To; at == p.Key {
			return fmt.Errorf("%s %s itself, by way of others: break the circle", p.Label, what)
		}
	}
	return fmt.Errorf("%s %s what goes round in a circle", p.Label, what)
}

// MayRemove says why a position cannot be taken off the list: a part is there, or
// another position hangs on it.
func (s Snapshot) MayRemove(key string) error {
	p := s.voc.At(key)
	if !s.Has(p) {
		return fmt.Errorf("the machine has no position %q", quantity.Clip(key))
	}
	if name, _ := s.Named(key); name != "" && name != None {
		return fmt.Errorf("%s holds %s; take it out first", p.Label, name)
	}
	for _, o := range s.structure.given {
		for _, l := range []*Link{o.RidesOn, o.FedBy} {
			if l != nil && l.To == key {
				return fmt.Errorf("%s hangs on it; say first on what else", o.Label)
			}
		}
	}
	return nil
}

// NotPlaced are the positions of which nobody has said what they serve: rules that
// ask for a place take them for any.
func (s *Structure) NotPlaced() []*Position {
	var out []*Position
	for _, p := range s.list {
		if p.Serves == NoPlace {
			out = append(out, p)
		}
	}
	return out
}
