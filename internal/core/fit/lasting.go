package fit

import (
	"cmp"
	"fmt"
	"maps"
	"slices"
	"strings"
	"sync"

	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
)

// lasting is what parts need as long as they are fitted: of every kind, model and
// feature of a catalogue, made ready once.
type lasting struct {
	voc    *machine.Vocabulary
	kinds  []bool   // by position: its kind needs something
	models []bool   // by position: some model of its kind needs something
	builds []bool   // by position: it has a build, of which some feature needs something
	known  sync.Map // ownerKey → *owned
}

// ownerKey names what needs something: a kind, a model of it, or a feature of a build.
type ownerKey struct{ kind, model, feature string }

// owned is what one thing needs.
type owned struct {
	ownerKey
	who   string // "Lodestar 5 V", "stepper driver", "contact probe (in the build)"
	needs []*partNeed
}

// partNeed is a need of a part, made ready where it is met.
type partNeed struct {
	machine.Need
	of *owned
	at sync.Map // instanceKey → *instance
}

type instanceKey struct {
	structure *machine.Structure
	at        *machine.Position
}

// instance is a need of the part at a position of machines of one structure.
type instance struct {
	need  *partNeed
	at    *machine.Position
	guard node // that the part is what needs it
	that  node
	root  node
	looks []*machine.Trait // on which it depends
	// A change touches the need when it changes the value of what is read, or whether
	// there is anything at a position.
	reads []*machine.Trait
	sits  []*machine.Trait // models
	asks  []*machine.Trait // those of them by which it is met, and not only needed
}

type lastingKey struct{}

func lastingOf(voc *machine.Vocabulary) *lasting {
	return voc.Derived(lastingKey{}, func() any {
		l := &lasting{voc: voc}
		needy := map[string]bool{}
		for _, m := range voc.Catalogue.Models {
			if len(voc.NeedsOf(m.Kind, m.Name)) > 0 {
				needy[m.Kind] = true
			}
		}
		for i := range voc.Slots {
			kind := voc.Slots[i].Kind
			l.kinds = append(l.kinds, len(voc.NeedsOfKind(kind)) > 0)
			some := false
			for like := range needy {
				some = some || voc.Is(kind, like)
			}
			l.models = append(l.models, some)
			l.builds = append(l.builds, slices.ContainsFunc(voc.Features(kind),
				func(f machine.Feature) bool { return len(f.Needs) > 0 }))
		}
		return l
	}).(*lasting)
}

// owned is what something needs; nil when that is nothing.
func (l *lasting) owned(key ownerKey) *owned {
	if known, ok := l.known.Load(key); ok {
		return known.(*owned)
	}
	o := &owned{ownerKey: key}
	kind, _ := l.voc.Kind(key.kind)
	var needs []machine.Need
	switch {
	case key.feature != "":
		f, _ := l.voc.Feature(key.kind, key.feature)
		needs, o.who = f.Needs, f.Name+" in the build"
	case key.model != "":
		needs, o.who = l.voc.NeedsOf(key.kind, key.model), key.model
	default:
		needs, o.who = l.voc.NeedsOfKind(key.kind), strings.ToLower(kind.Label)
	}
	for _, n := range needs {
		o.needs = append(o.needs, &partNeed{Need: n, of: o})
	}
	kept, _ := l.known.LoadOrStore(key, o)
	return kept.(*owned)
}

// bearsOn reports whether what is at some positions needs something, or something may
// need it.
func (l *lasting) bearsOn(slots map[string]bool) bool {
	for slot := range slots {
		if p := l.voc.At(slot); p != nil && l.concerns()[p.Kind] {
			return true
		}
	}
	return false
}

type neighboursKey struct{}

// neighbours are, for every need of a catalogue, the kinds of part that have it or are
// asked, those that are like them among them.
func (l *lasting) neighbours() []map[string]bool {
	return l.voc.Derived(neighboursKey{}, func() any {
		var out []map[string]bool
		seen := map[string]bool{}
		name := func(kind string, needs []machine.Need) {
			for i := range needs {
				named := map[string]bool{kind: true}
				kindsIn(&needs[i].That, l.voc, named)
				if needs[i].When != nil {
					kindsIn(needs[i].When, l.voc, named)
				}
				all := map[string]bool{}
				for _, k := range l.voc.Catalogue.Kinds {
					for other := range named {
						if l.voc.Is(k.Key, other) {
							all[k.Key] = true
						}
					}
				}
				if key := fmt.Sprint(slices.Sorted(maps.Keys(all))); !seen[key] {
					seen[key] = true
					out = append(out, all)
				}
			}
		}
		for _, k := range l.voc.Catalogue.Kinds {
			name(k.Key, k.Needs)
			for _, f := range k.Features {
				name(k.Key, f.Needs)
			}
		}
		for i := range l.voc.Catalogue.Models {
			name(l.voc.Catalogue.Models[i].Kind, l.voc.Catalogue.Models[i].Needs)
		}
		return out
	}).([]map[string]bool)
}

type concernedKey struct{}

// concerns are the kinds of parts that need something, or that a need asks of.
func (l *lasting) concerns() map[string]bool {
	return l.voc.Derived(concernedKey{}, func() any {
		out := map[string]bool{}
		for _, n := range l.neighbours() {
			maps.Copy(out, n)
		}
		return out
	}).(map[string]bool)
}

// kindsIn names the kinds that a requirement asks of.
func kindsIn(r *Requirement, voc *machine.Vocabulary, into map[string]bool) {
	at := func(slot string, of *machine.Selector) {
		if of != nil {
			into[of.Kind] = true
		} else if p := voc.At(slot); p != nil {
			into[p.Kind] = true
		}
	}
	if r.Test != nil {
		at(r.Test.Slot, r.Test.Of)
	}
	if r.Formula != nil {
		if r.Formula.Of != nil {
			into[r.Formula.Of.Kind] = true
		}
		for _, word := range strings.FieldsFunc(r.Formula.Text,
			func(c rune) bool { return c != '-' && c != '.' && (c < 'a' || c > 'z') && (c < '0' || c > '9') }) {
			slot, _, _ := strings.Cut(word, ".")
			at(slot, nil)
		}
	}
	for _, group := range [][]Requirement{r.All, r.Any, r.None} {
		for i := range group {
			kindsIn(&group[i], voc, into)
		}
	}
}

// index is the place of a position in the vocabulary.
func (l *lasting) index(p *machine.Position) int { return p.Index() }

// each visits everything that is needed on a machine, and where. Of a model that is
// disputed every candidate is met; of an unknown one none. What a model needs goes before
// what its kind needs, where it has it by the same key.
func (l *lasting) each(s machine.Snapshot, visit func(*partNeed, *machine.Position)) {
	for _, p := range s.Structure().Positions() {
		i := l.index(p)
		var replaced []string
		if l.models[i] {
			f := s.At(modelOf(s, p))
			for _, v := range f.Candidates() {
				if v.Text == machine.None {
					continue
				}
				o := l.owned(ownerKey{kind: p.Kind, model: v.Text})
				if f.Known() && f.Grade >= machine.Marked {
					replaced = l.voc.ReplacedBy(p.Kind, v.Text)
				}
				for _, n := range o.needs {
					visit(n, p)
				}
			}
		}
		// What nobody knows anything of may be any part of its kind: what its kind needs is asked, and open.
		if l.kinds[i] {
			for _, n := range l.owned(ownerKey{kind: p.Kind}).needs {
				if !slices.Contains(replaced, n.Key) {
					visit(n, p)
				}
			}
		}
		if l.builds[i] {
			var seen []string
			for _, v := range s.Of(p, parts.FirmwareFeatures).Candidates() {
				for _, name := range FeaturesIn(v.Text) {
					if f, ok := l.voc.Feature(p.Kind, name); ok && len(f.Needs) > 0 && !slices.Contains(seen, name) {
						seen = append(seen, name)
						for _, n := range l.owned(ownerKey{kind: p.Kind, feature: name}).needs {
							visit(n, p)
						}
					}
				}
			}
		}
	}
}

// on is the need of a part at a position of machines of a structure.
func (n *partNeed) on(voc *machine.Vocabulary, structure *machine.Structure, p *machine.Position) *instance {
	key := instanceKey{structure, p}
	if known, ok := n.at.Load(key); ok {
		return known.(*instance)
	}
	made, err := n.compile(voc, structure, p)
	if err != nil { // a catalogue of before: the need is switched off, and named where it is checked
		off := node{kind: fixedNode, fixed: isYes, req: &n.That}
		made = &instance{need: n, at: p, root: off, that: off, guard: off}
	}
	kept, _ := n.at.LoadOrStore(key, made)
	return kept.(*instance)
}

func (n *partNeed) compile(
	voc *machine.Vocabulary,
	structure *machine.Structure,
	p *machine.Position,
) (*instance, error) {
	c := compiler{voc: voc, structure: structure, owner: p, lasting: true}
	x := &instance{need: n, at: p}
	var err error
	if x.that, err = c.compile(&n.That, 0); err != nil {
		return nil, err
	}
	guards := []node{n.of.identity(voc, p)}
	if n.When != nil {
		c.guard = true
		when, err := c.compile(n.When, 0)
		if err != nil {
			return nil, fmt.Errorf("where it is needed: %w", err)
		}
		guards = append(guards, when)
	}
	x.guard = node{kind: allNode, req: &Requirement{Label: "It is needed here"}, parts: guards}
	x.root = node{
		kind:  anyNode,
		req:   &n.That,
		parts: []node{x.that, {kind: noneNode, req: x.guard.req, parts: []node{x.guard}}},
	}
	add := func(to *[]*machine.Trait, traits ...*machine.Trait) {
		for _, t := range traits {
			if t != nil && !slices.Contains(*to, t) {
				*to = append(*to, t)
			}
		}
	}
	note := func(reads, sits *[]*machine.Trait) func(l *node) {
		return func(l *node) {
			add(reads, l.own)
			add(sits, l.model, l.ownModel)
			if l.kind != presenceNode {
				add(reads, l.trait)
			}
			if l.formula != nil {
				add(reads, l.formula.traits...)
				for _, t := range l.formula.traits {
					add(sits, voc.ModelAt(t.Position()))
				}
			}
		}
	}
	x.root.each(func(l *node) { add(&x.looks, l.looksAt(voc)...) })
	x.root.each(note(&x.reads, &x.sits))
	x.that.each(note(&x.asks, &x.asks))
	return x, nil
}

// identity is the node that says whether the part at a position is what needs something.
func (o *owned) identity(voc *machine.Vocabulary, p *machine.Position) node {
	n := node{req: &Requirement{Label: p.Label + " is " + article(o.who)}, least: machine.Marked}
	n.trait = voc.ModelAt(p)
	n.model = n.trait
	switch {
	case o.feature != "":
		n.kind, n.values = featureNode, []machine.Value{{Text: strings.ToLower(o.feature)}}
		n.trait = voc.Of(p, parts.FirmwareFeatures)
		n.req.Label = "The build has " + o.feature
	case o.model != "":
		n.kind, n.values = identityNode, []machine.Value{{Text: o.model}}
		n.req.Label = p.Label + " is " + o.model
	default:
		n.kind, n.position = presenceNode, p
		n.req.Label = p.Label + " is there"
	}
	return n
}

func article(word string) string { return "a " + word }

// touchedBy are the traits by writing which a change touches a need: a part that comes or
// goes, and what is compared.
func (n *node) touchedBy() []*machine.Trait {
	var out []*machine.Trait
	if n.kind == presenceNode {
		return append(out, n.trait)
	}
	for _, t := range []*machine.Trait{n.trait, n.model, n.own, n.ownModel} {
		if t != nil {
			out = append(out, t)
		}
	}
	if n.formula != nil {
		out = append(out, n.formula.traits...)
	}
	return out
}

// each visits a node and all that it is made of.
func (n *node) each(visit func(*node)) {
	visit(n)
	for i := range n.parts {
		n.parts[i].each(visit)
	}
}

// partChange is a change as far as parts are concerned: which needs it touches.
type partChange struct {
	lasting *lasting
	effects []Effect
	overlay *machine.Overlay
	inHand  bool // its part lies on the shelf, where it can be looked at
	family  bool // it changes what build runs: of another family nothing is known
	kit     Kit
	changes []AdditionalChange
	touches sync.Map // instance → touch

	nearOnce sync.Once
	nearBy   []bool
}

// newPartChange prepares a kit with some of its additional changes.
func newPartChange(kit Kit, changes []AdditionalChange, voc *machine.Vocabulary) (*partChange, error) {
	c := &partChange{lasting: lastingOf(voc), kit: kit, changes: changes}
	for _, f := range changes {
		c.effects = append(c.effects, f.Effects...)
	}
	c.effects = append(c.effects, kit.Effects...)
	var err error
	if c.overlay, err = overlayOf(c.effects, voc); c.overlay != nil {
		c.overlay = c.overlay.Specified()
	}
	for _, e := range c.effects {
		if p := voc.At(e.Slot); p != nil && voc.Is(p.Kind, parts.Firmware) {
			c.family = true
		}
	}
	return c, err
}

// after is the machine with the change made, as far as it is prepared for any machine;
// where another build comes, as it is worked out for this one.
func (c *partChange) after(s machine.Snapshot) machine.Snapshot {
	if c.family {
		if p, err := Project(s, c.kit, c.changes); err == nil {
			return p.After.Specified(c.overlay)
		}
	}
	return s.Over(c.overlay)
}

// touched are the needs on a machine that the change writes to or brings. Of those, and
// of no others, its verdict speaks.
func (c *partChange) touched(before, after machine.Snapshot) []*instance {
	if c.overlay == nil {
		return nil
	}
	var out []*instance
	structure := after.Structure()
	c.lasting.each(after, func(n *partNeed, p *machine.Position) {
		x := n.on(c.lasting.voc, structure, p)
		switch c.touch(x) {
		case untouched:
			return
		case touchesGuard: // what was needed before is needed as before
			if x.guard.truth(before)&strictly == isYes&strictly || x.same(before, after) {
				return
			}
		}
		out = append(out, x)
	})
	return out
}

// same reports whether everything that a need looks at is known to be after a change what
// it was before.
func (x *instance) same(before, after machine.Snapshot) bool {
	for _, t := range x.reads {
		was, is := before.At(t), after.At(t)
		if was != is && (!was.Known() || !is.Known() || !t.Same(was.Value, is.Value)) {
			return false
		}
	}
	for _, t := range x.sits {
		was, is := before.At(t), after.At(t)
		if was != is && (was.Value.Text == machine.None) != (is.Value.Text == machine.None) {
			return false
		}
	}
	return true
}

// touch is what of a need a change writes to, on whatever machine.
type touch uint8

const (
	untouched    touch = iota
	touchesGuard       // only whether it is needed
	touchesIt          // what it asks, or the part that has it
)

func (c *partChange) touch(x *instance) touch {
	if known, ok := c.touches.Load(x); ok {
		return known.(touch)
	}
	t := untouched
	switch {
	case c.brings(x.at), c.builds(x.at), slices.ContainsFunc(x.asks, c.overlay.Changes):
		t = touchesIt
	case slices.ContainsFunc(x.reads, c.overlay.Changes), slices.ContainsFunc(x.sits, c.overlay.Changes):
		t = touchesGuard
	}
	c.touches.Store(x, t)
	return t
}

// brings reports whether the change puts a part at a position.
func (c *partChange) brings(p *machine.Position) bool {
	return slices.Contains(c.overlay.Positions(), p)
}

// builds reports whether the change puts another build at a position.
func (c *partChange) builds(p *machine.Position) bool {
	return c.lasting.voc.Is(p.Kind, parts.Firmware) &&
		slices.ContainsFunc(c.effects, func(e Effect) bool { return e.Slot == p.Key && e.Fits() })
}

func (c *partChange) truth(s machine.Snapshot) Truth {
	if c.overlay == nil {
		return isYes
	}
	after := c.after(s)
	t := isYes
	for _, x := range c.touched(s, after) {
		if t = t.And(c.of(x, s, after)); t == isNo {
			break
		}
	}
	return t
}

// of is the truth of a need with the change made. What the change brings counts as it is
// specified: what is not stated of its parts nobody can look at yet, so that it is for the
// delivery and not for the verdict. Where the change bears only on whether it is needed,
// it is no objection as far as it was needed before.
func (c *partChange) of(x *instance, before, after machine.Snapshot) Truth {
	t := c.specified(x, after)
	if t.Lo() != Yes && c.touch(x) == touchesGuard {
		return t.Or(x.guard.truth(before))
	}
	return t
}

func (c *partChange) specified(x *instance, after machine.Snapshot) Truth {
	t := x.root.truth(after)
	if t.Lo() == Yes || t.Hi() == No {
		return t
	}
	return c.asSpecified(x.that.explain(after)).truth.Or(x.guard.truth(after).Not())
}

// asSpecified is an outcome where what is not stated of the change's parts is taken to be
// right: nobody can look at it before it is delivered.
func (c *partChange) asSpecified(o Outcome) Outcome {
	if o.Group == "" {
		if !o.truth.Decided() && slices.ContainsFunc(o.open, c.unstated) {
			return Outcome{Label: o.Label, Why: o.Why, Who: o.Who, At: o.At, State: string(met),
				Arithmetic: "not stated of the kit's part: to be checked at delivery", truth: isYes}
		}
		return o
	}
	t := isNo
	if o.Group == "all" {
		t = isYes
	}
	parts := make([]Outcome, len(o.Parts))
	for i, p := range o.Parts {
		parts[i] = c.asSpecified(p)
		if o.Group == "all" {
			t = t.And(parts[i].truth)
		} else {
			t = t.Or(parts[i].truth)
		}
	}
	if o.Group == "none" {
		t = t.Not()
	}
	o.Parts, o.truth = parts, t
	o.settle()
	return o
}

// unstated reports whether a trait is one of a part that the change brings, of which it
// says nothing.
func (c *partChange) unstated(t *machine.Trait) bool {
	return !c.inHand && c.brings(t.Position()) && !c.overlay.States(t)
}

// deliveries are what is to be checked at delivery: facts of parts that the change
// brings, which needs ask for and nobody has stated, or only their model.
func (c *partChange) deliveries(s machine.Snapshot) []string {
	out := []string{}
	if c.overlay == nil || c.inHand {
		return out
	}
	after := c.after(s)
	for _, x := range c.touched(s, after) {
		if x.guard.truth(after).Hi() == No {
			continue // it does not need it
		}
		for _, t := range x.reads {
			f := after.At(t)
			if c.brings(t.Position()) && t.Name != machine.ModelTrait && (f.Grade == machine.Unknown || f.FromModel != "") &&
				!slices.Contains(out, t.Label) {
				out = append(out, t.Label)
			}
		}
	}
	return out
}

// explain explains the needs that the change touches.
func (c *partChange) explain(s machine.Snapshot) []Outcome {
	var out []Outcome
	if c.overlay == nil {
		return nil
	}
	after := c.after(s)
	for _, x := range c.touched(s, after) {
		written := c.overlay
		if c.inHand {
			written = nil // what is claimed of it can be looked at
		}
		o := x.explain(after, written)
		if is := c.specified(x, after); is != o.truth {
			that := c.asSpecified(x.that.explain(after))
			o = x.needed(that, after)
			o.truth = is
			o.settle()
			if written != nil {
				o.without(written)
			}
		}
		if is := c.of(x, s, after); is != o.truth {
			needed := x.guard.explain(s)
			needed.Label = "It was needed before as well, so that nothing changes"
			o = Outcome{
				Group:     "any",
				Label:     o.Label,
				Why:       o.Why,
				Otherwise: o.Otherwise,
				Hazard:    o.Hazard,
				Who:       o.Who,
				At:        o.At,
				truth:     is,
				Parts:     []Outcome{o, needed},
			}
			o.settle()
		}
		out = append(out, o)
	}
	slices.SortStableFunc(out, func(a, b Outcome) int { return cmp.Compare(a.truth&strictly, b.truth&strictly) })
	return out
}

// explain explains a need of a part on a machine. What a change has just written is
// not to be looked at.
func (x *instance) explain(s machine.Snapshot, change *machine.Overlay) Outcome {
	o := x.needed(x.that.explain(s), s)
	o.truth = x.root.truth(s)
	o.settle()
	if change != nil {
		o.without(change)
	}
	return o
}

// needed is how what a need asks came out, as the need of a part: where it is not sure that
// it is needed, beside that.
func (x *instance) needed(that Outcome, s machine.Snapshot) Outcome {
	o := that
	o.Who, o.At = x.need.of.who, x.at.Label
	if guard := x.guard.truth(s); guard != isYes {
		applies := x.guard.explain(s)
		o = Outcome{
			Group:     "any",
			Label:     o.Label,
			Why:       o.Why,
			Otherwise: o.Otherwise,
			HowTo:     o.HowTo,
			Hazard:    o.Hazard,
			Who:       o.Who,
			At:        o.At,
			truth:     o.truth,
			Parts:     []Outcome{o, {Group: "none", Label: "It is not needed here", Parts: applies.Parts, truth: guard.Not()}},
		}
		o.Parts[0].Who, o.Parts[0].At = "", ""
		o.Parts[0].settle()
		o.Parts[1].settle()
	}
	o.byKind = x.need.of.model == "" && x.need.of.feature == ""
	return o
}
