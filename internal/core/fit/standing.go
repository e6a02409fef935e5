package fit

import (
	"fmt"
	"slices"
	"strings"

	"wardifex/internal/core/machine"
)

// Consistency is how a machine stands in what its parts need.
type Consistency string

const (
	KnownBroken        Consistency = "known broken"
	LeansBroken        Consistency = "leans broken"
	NothingKnownBroken Consistency = "nothing known broken"
)

// Standing is what is known to be not right on a machine as it stands.
type Standing struct {
	State   Consistency `json:"state" enum:"known broken,leans broken,nothing known broken"`
	Broken  []Outcome   `json:"broken" doc:"Needs of its parts that are known not to be met, and what is short"`
	Leaning []Outcome   `json:"leaning" doc:"Those that are not met if the claims are right"`
	Untold  int         `json:"untold" doc:"How many needs cannot be told either way"`
	// Of a kind of which some model needs something.
	Unknown []string `json:"unknown" doc:"Positions whose model is unknown"`

	open []Outcome
}

// Stand judges a machine as it stands by what its parts need as long as they are fitted,
// and by what they take of each other.
func Stand(s machine.Snapshot) Standing {
	out := Standing{State: NothingKnownBroken, Broken: []Outcome{}, Leaning: []Outcome{}, Unknown: []string{}}
	l := lastingOf(s.Vocabulary())
	for _, x := range l.instances(s) {
		t := x.root.truth(s)
		if t&strictly == isYes&strictly {
			continue
		}
		out.file(t, x.explain(s, nil))
	}
	for i := range capacities {
		if t := shortOf(&capacities[i], s); t.Hi() == No || t.LeanHi() == No {
			out.file(t, explainShort(&capacities[i], s, t))
		}
	}
	for _, p := range s.Structure().Positions() {
		if l.models[p.Index()] && s.At(modelOf(s, p)).Grade == machine.Unknown && s.Presence(p, machine.Marked).Possible {
			out.Unknown = append(out.Unknown, p.Label)
		}
	}
	switch {
	case len(out.Broken) > 0:
		out.State = KnownBroken
	case len(out.Leaning) > 0:
		out.State = LeansBroken
	}
	return out
}

func (st *Standing) file(t Truth, o Outcome) {
	switch {
	case t.Hi() == No:
		st.Broken = append(st.Broken, o)
		return
	case t.LeanHi() == No:
		st.Leaning = append(st.Leaning, o)
	default:
		st.Untold++
	}
	st.open = append(st.open, o)
}

// ConsistencyOf is Stand without explaining.
func ConsistencyOf(s machine.Snapshot) (state Consistency, untold int) {
	state = NothingKnownBroken
	see := func(t Truth, need bool) {
		switch {
		case t.Hi() == No:
			state = KnownBroken
		case t.LeanHi() == No && state == NothingKnownBroken:
			state = LeansBroken
		case need && t.Lo() != Yes && t.LeanHi() != No:
			untold++
		}
	}
	for _, x := range lastingOf(s.Vocabulary()).instances(s) {
		see(x.root.truth(s), true)
	}
	for i := range capacities {
		see(shortOf(&capacities[i], s), false)
	}
	return state, untold
}

// instances are all needs of the parts of a machine.
func (l *lasting) instances(s machine.Snapshot) []*instance {
	var out []*instance
	structure := s.Structure()
	l.each(s, func(n *partNeed, p *machine.Position) { out = append(out, n.on(l.voc, structure, p)) })
	return out
}

// shortOf is whether a capacity suffices for what a machine carries already: no where it
// surely does not.
func shortOf(c *Capacity, s machine.Snapshot) Truth {
	at := func(c *Capacity) tri {
		for _, h := range c.holders(s) {
			if !s.Presence(h, c.Least).Sure {
				continue // what may not be there is short of nothing
			}
			x := c.left(s, h, nil, false)
			if x.idle || x.hi >= 0 || x.offer.weak {
				continue
			}
			if c.Unless == nil || !c.Unless(s, c.Least).possible {
				return surelyNo
			}
		}
		return surely
	}
	strict := at(c)
	lean := strict
	if strict.sure {
		if lean = at(byClaims[c.Key]); !lean.sure {
			strict = maybe
		}
	}
	return truthOf(strict, lean)
}

// explainShort explains a capacity that does not suffice: where only the claims say so, as
// they have it.
func explainShort(c *Capacity, s machine.Snapshot, t Truth) Outcome {
	as := c
	if t.Hi() != No {
		as = byClaims[c.Key]
	}
	var x *sum
	for _, h := range c.holders(s) {
		if left := as.left(s, h, nil, true); s.Presence(h, as.Least).Sure && (x == nil || left.hi < x.hi) {
			x = &left
		}
	}
	o := Outcome{
		Label:      c.Title,
		Why:        c.Why,
		Otherwise:  c.Otherwise,
		Arithmetic: x.words(s),
		short:      strings.TrimSpace("short by " + figure(-x.hi.float()) + " " + c.Unit),
	}
	for _, it := range append([]item{x.offer}, x.items...) {
		t := it.trait
		if t == nil && it.at != nil {
			t = modelOf(s, it.at)
		}
		if t == nil {
			continue
		}
		o.Evidence = append(o.Evidence, evidence(s, t))
		if f := s.At(t); f.Grade < c.Least {
			o.open = append(o.open, t)
		}
	}
	o.least, o.truth = c.Least, t
	o.settle()
	return o
}

// Says is a finding in one sentence: who needs what, and why.
func (o Outcome) Says() string {
	says := o.Label
	if o.short != "" {
		says += ": " + o.short
	}
	switch {
	case o.Who == "":
	case o.byKind:
		says = fmt.Sprintf("%s needs: %s", o.At, says)
	default:
		says = fmt.Sprintf("%s (%s) needs: %s", o.At, o.Who, says)
	}
	return strings.TrimSpace(says + ".")
}

// Facts are the readings that a finding rests on, each once.
func (o Outcome) Facts() []Evidence {
	var out []Evidence
	var walk func(o Outcome)
	walk = func(o Outcome) {
		for _, e := range o.Evidence {
			if !slices.ContainsFunc(out, func(x Evidence) bool { return x.Key == e.Key }) {
				out = append(out, e)
			}
		}
		for _, p := range o.Parts {
			walk(p)
		}
	}
	walk(o)
	return out
}

// Open lists the facts that would tell what is worth knowing of a machine as it stands:
// where the claims lean to something broken, and where a hazard cannot be told; each
// once, and for whom.
func (st Standing) Open() []OpenFact {
	var out []OpenFact
	for _, o := range st.open {
		if o.truth.LeanHi() != No && o.Hazard == "" {
			continue
		}
		openLeaves(o, func(leaf Outcome) {
			for _, t := range leaf.open {
				if !slices.ContainsFunc(out, func(f OpenFact) bool { return f.Trait == t }) {
					out = append(out, OpenFact{Trait: t, Least: leaf.least, For: strings.TrimSuffix(o.Says(), ".")})
				}
			}
		})
	}
	return out
}

// remarks are what is known to be not right on a machine and is not touched by the kit.
func (j *Judge) remarks(s machine.Snapshot) []string {
	out := []string{}
	var touched []*instance
	if j.change.overlay != nil {
		touched = j.change.touched(s, j.change.after(s))
	}
	for _, x := range lastingOf(s.Vocabulary()).instances(s) {
		if x.root.truth(s).Hi() == No && !slices.Contains(touched, x) {
			out = append(out, "Already not right: "+x.explain(s, nil).Says())
		}
	}
	for i := range capacities {
		c := &capacities[i]
		if t := shortOf(c, s); t.Hi() == No && !j.draws(c.Key) {
			out = append(out, "Already not right: "+explainShort(c, s, t).Says())
		}
	}
	return out
}

// draws reports whether the kit draws on a capacity.
func (j *Judge) draws(capacity string) bool {
	found := false
	j.walk(func(n *node) { found = found || n.capacity != nil && n.capacity.Key == capacity })
	return found
}

// walk visits every node of a kit, those that additional changes bear on as they are
// with none of them made.
func (j *Judge) walk(visit func(*node)) {
	j.root.each(func(n *node) {
		visit(n)
		if n.kind == clusterKind {
			for i := range n.cluster.conjuncts {
				n.cluster.conjuncts[i].shown.each(visit)
			}
		}
	})
}
