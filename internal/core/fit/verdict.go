package fit

import (
	"fmt"
	"slices"
	"sort"
	"strings"
	"time"

	"wardifex/internal/core/machine"
)

// Verdict is the answer for one kit on one machine, with all that it rests on.
type Verdict struct {
	Answer   Answer    `json:"answer"`
	Headline string    `json:"headline" doc:"The deciding reason in one sentence"`
	Reasons  Outcome   `json:"reasons"`
	Further  []Further `json:"further" doc:"The further changes under which it fits"`
	Look     []Look    `json:"look" doc:"Inspections that would settle what is open, cheapest first"`
	Saves    bool      `json:"saves" doc:"It fits either way; looking settles whether a further change is needed"`
}

// Outcome is how one requirement came out.
type Outcome struct {
	Group      string     `json:"group,omitempty" enum:"all,any,none"`
	State      string     `json:"state" enum:"met,not met,unknown,too weak,conflict,with a further change,open"`
	Label      string     `json:"label"`
	Why        string     `json:"why,omitempty"`
	Otherwise  string     `json:"otherwise,omitempty"`
	HowTo      string     `json:"howTo,omitempty"`
	Hazard     string     `json:"hazard,omitempty"`
	Problem    string     `json:"problem,omitempty" doc:"Why it cannot be computed"`
	Arithmetic string     `json:"arithmetic,omitempty" doc:"A sum with its numbers"`
	Least      string     `json:"least,omitempty" doc:"The weakest grade that would decide"`
	Evidence   []Evidence `json:"evidence,omitempty"`
	Parts      []Outcome  `json:"parts,omitempty"`

	truth   Truth
	short   string // by how much a budget does not suffice
	further *Further
	open    []*machine.Trait
	least   machine.Grade
}

// Evidence is the reading behind a fact, or the lack of one.
type Evidence struct {
	Key       machine.Key   `json:"key"`
	Label     string        `json:"label"`
	Value     string        `json:"value"`
	Grade     machine.Grade `json:"grade"`
	By        string        `json:"by,omitempty"`
	TakenAt   *time.Time    `json:"takenAt,omitempty"`
	How       string        `json:"how,omitempty"`
	FromModel string        `json:"fromModel,omitempty"`
	Conflict  []string      `json:"conflict,omitempty"`
}

// Look is one inspection and what it would settle.
type Look struct {
	Inspection machine.Inspection `json:"inspection"`
	Keys       []machine.Key      `json:"keys"`
	Labels     []string           `json:"labels"`
	Grade      machine.Grade      `json:"grade" doc:"The grade its answers earn"`
}

// Verdict judges a machine and explains.
func (j *Judge) Verdict(s machine.Snapshot) Verdict {
	root := j.root.explain(s)
	v := Verdict{Answer: root.truth.Answer(), Reasons: root, Further: append([]Further{}, furtherOf(root)...), Look: j.look(root)}
	v.Saves = root.truth.Lo == If && root.truth.Hi == Yes
	v.Headline = headline(v, root)
	return v
}

func (n *node) explain(s machine.Snapshot) Outcome {
	o := Outcome{Label: n.called(), Why: n.req.Why, Otherwise: n.req.Otherwise, HowTo: n.req.HowTo, Hazard: n.req.Hazard}
	switch n.kind {
	case allNode, anyNode, noneNode:
		o.Group = [...]string{"all", "any", "none"}[n.kind]
		for i := range n.parts {
			o.Parts = append(o.Parts, n.parts[i].explain(s))
		}
		o.truth = n.combine(o.Parts)
		o.State = groupState(o.truth)
		if n.kind == anyNode {
			o.short = o.Parts[0].short // of a budget that nothing relieves
		}
	case testNode:
		var why state
		o.truth, why = n.test(s)
		o.State, o.least, o.Least = string(why), n.req.Test.Least, n.req.Test.Least.String()
		o.Evidence = []Evidence{evidence(s, n.trait)}
		if !o.truth.Decided() {
			o.open = []*machine.Trait{s.Decides(n.trait)}
		}
	case formulaKind:
		n.explainFormula(s, &o)
	case capacityKind:
		n.explainCapacity(s, &o)
	case kitKind:
		var why state
		o.truth, why = n.kitTruth(s)
		o.State, o.Evidence = string(why), []Evidence{evidence(s, n.trait)}
	case furtherNode:
		o.truth, o.State, o.further = isIf, string(withMore), n.req.Further
	}
	return o
}

// called is a need as its writer put it into words, or else as it is written.
func (n *node) called() string {
	if n.req.Label != "" {
		return n.req.Label
	}
	switch n.kind {
	case allNode:
		return "All of these"
	case anyNode:
		return "At least one of these"
	case noneNode:
		return "None of these"
	case testNode:
		if n.trait == nil {
			return "A fact"
		}
		said := n.trait.Label + " " + string(n.req.Test.Op)
		for i, v := range n.values {
			if i > 0 && n.req.Test.Op == Between {
				said += " and"
			} else if i > 0 {
				said += ","
			}
			said += " " + n.trait.Show(v)
		}
		return said
	case formulaKind:
		return n.req.Formula.Text
	case kitKind:
		return "The kit " + n.req.Kit.Key
	case furtherNode:
		return n.req.Further.Title
	}
	return "A need"
}

func (n *node) explainFormula(w machine.Snapshot, o *Outcome) {
	least := n.req.Formula.Least
	t, err := n.formula.truth(w, least)
	o.truth, o.State, o.least, o.Least = t, groupState(t), least, least.String()
	o.Arithmetic = n.formula.words(w, least)
	if err != nil {
		o.Problem = err.Error() + ". It cannot be judged until that fact is read again; the rest is"
		o.open = n.formula.traits
	} else if !t.Decided() {
		o.open = n.formula.open(w, least)
	}
	for _, trait := range n.formula.traits {
		o.Evidence = append(o.Evidence, evidence(w, trait))
	}
}

func (n *node) explainCapacity(s machine.Snapshot, o *Outcome) {
	c := n.capacity
	o.truth = c.truth(s)
	x := worst(c.sums(s, true))
	after := s.Over(c.trial.overlay)
	if o.truth == isNo {
		o.short = strings.TrimSpace("short by " + figure((x.keep - x.hi).float()) + " " + c.Unit)
	}
	o.State, o.least, o.Least, o.Arithmetic = groupState(o.truth), c.Least, c.Least.String(), x.words(after)
	for _, it := range append([]item{x.offer}, x.items...) {
		t := it.trait
		if t == nil && it.at != nil {
			t = modelOf(s, it.at)
		}
		if t != nil && !c.trial.overlay.Changes(t) {
			o.Evidence = append(o.Evidence, evidence(s, t))
		}
	}
	open := x.open(after)
	if c.Unless != nil {
		decides := s.Vocabulary().Of(s.First(c.UnlessOf.Kind), c.UnlessOf)
		if decides != nil {
			o.Evidence = append(o.Evidence, evidence(s, decides))
		}
		switch holds := c.Unless(after); {
		case holds.sure && decides != nil:
			o.Arithmetic = decides.Label + ": " + after.At(decides).Value.Text + ", so this does not matter"
		case holds.possible && decides != nil:
			open = append(open, decides)
		}
	}
	if !o.truth.Decided() {
		o.open = slices.DeleteFunc(open, func(t *machine.Trait) bool { return c.trial.overlay.Changes(t) })
	}
}

func (n *node) combine(parts []Outcome) Truth {
	t := isNo
	if n.kind == allNode {
		t = isYes
	}
	for _, p := range parts {
		if n.kind == allNode {
			t = t.And(p.truth)
		} else {
			t = t.Or(p.truth)
		}
	}
	if n.kind == noneNode {
		return t.Not()
	}
	return t
}

func groupState(t Truth) string {
	switch t {
	case isYes:
		return string(met)
	case isNo:
		return string(notMet)
	}
	if t.Lo == If {
		return string(withMore)
	}
	return "open"
}

func evidence(s machine.Snapshot, t *machine.Trait) Evidence {
	f := s.Fact(t.Key())
	e := Evidence{Key: t.Key(), Label: t.Label, Value: t.Show(f.Value), Grade: f.Grade, FromModel: f.FromModel}
	if f.Stands != nil {
		at := f.Stands.TakenAt
		e.By, e.TakenAt, e.How = f.Stands.By, &at, f.Stands.How
	}
	for _, r := range f.Conflict {
		e.Conflict = append(e.Conflict, fmt.Sprintf("%s (%s, %s)", t.Show(r.Value), r.By, r.TakenAt.Format("2006-01-02")))
	}
	if len(f.Conflict) > 0 {
		e.Value = "in conflict"
	}
	return e
}

// furtherOf picks the cheapest further changes that bring the outcome to If.
func furtherOf(o Outcome) []Further {
	if o.truth.Lo == Yes || o.truth.Hi == No {
		return nil
	}
	if o.further != nil {
		return []Further{*o.further}
	}
	if o.Group == "any" {
		var best []Further
		for _, p := range o.Parts {
			if f := furtherOf(p); f != nil && (best == nil || cost(f) < cost(best)) {
				best = f
			}
		}
		return best
	}
	var out []Further
	seen := map[string]bool{}
	for _, p := range o.Parts {
		for _, f := range furtherOf(p) {
			if !seen[f.Key] {
				seen[f.Key] = true
				out = append(out, f)
			}
		}
	}
	return out
}

// open gathers the outcomes whose answer could still change the verdict: those
// under groups that are all themselves undecided.
func openLeaves(o Outcome, visit func(Outcome)) {
	if o.truth.Decided() {
		return
	}
	if o.Group == "" {
		visit(o)
	}
	for _, p := range o.Parts {
		openLeaves(p, visit)
	}
}

// look lists the inspections that answer what is open, cheapest first. Each
// open trait goes to the cheapest inspection that earns a sufficient grade.
func (j *Judge) look(root Outcome) []Look {
	at := map[string]*Look{}
	seen := map[machine.Key]bool{}
	openLeaves(root, func(o Outcome) {
		for _, t := range o.open {
			if seen[t.Key()] {
				continue
			}
			seen[t.Key()] = true
			in, grade, ok := j.cheapestWay(t, o.least)
			if !ok {
				continue
			}
			l := at[in.Key]
			if l == nil {
				l = &Look{Inspection: in, Grade: grade}
				at[in.Key] = l
			}
			l.Grade = min(l.Grade, grade)
			l.Keys = append(l.Keys, t.Key())
			l.Labels = append(l.Labels, t.Label)
		}
	})
	out := make([]Look, 0, len(at))
	for _, l := range at {
		out = append(out, *l)
	}
	sort.Slice(out, func(a, b int) bool {
		x, y := out[a].Inspection, out[b].Inspection
		if x.Minutes != y.Minutes {
			return x.Minutes < y.Minutes
		}
		return x.Key < y.Key
	})
	return out
}

func (j *Judge) cheapestWay(t *machine.Trait, least machine.Grade) (machine.Inspection, machine.Grade, bool) {
	var best machine.Inspection
	var grade machine.Grade
	found := false
	for _, w := range t.FindBy {
		in, ok := j.voc.Inspection(w.Inspection)
		if ok && w.Grade >= least && (!found || in.Minutes < best.Minutes) {
			best, grade, found = in, w.Grade, true
		}
	}
	return best, grade, found
}

// Unanswerable names the needs that ask for better evidence than any inspection
// on record earns: on most machines they stay open for good.
func (j *Judge) Unanswerable() []string {
	out := []string{}
	var walk func(n *node)
	walk = func(n *node) {
		for i := range n.parts {
			walk(&n.parts[i])
		}
		var asked []*machine.Trait
		least := machine.Unknown
		switch n.kind {
		case testNode:
			asked, least = []*machine.Trait{n.trait}, n.req.Test.Least
		case formulaKind:
			asked, least = n.formula.traits, n.req.Formula.Least
		}
		for _, t := range asked {
			if _, _, ok := j.cheapestWay(t, least); ok || least <= machine.Claimed {
				continue
			}
			best := machine.Claimed
			for _, w := range t.FindBy {
				best = max(best, w.Grade)
			}
			out = append(out, fmt.Sprintf("%s: no inspection on record earns the grade %s for %s; %s is the best", n.called(), least, t.Label, best))
		}
	}
	walk(&j.root)
	return out
}

// headline puts the deciding reason in one sentence.
func headline(v Verdict, root Outcome) string {
	switch v.Answer {
	case DoesNotFit:
		if o, ok := firstFailing(root); ok {
			says := o.Label + ": not so."
			if o.short != "" {
				says = o.Label + ": " + o.short + "."
			}
			return strings.TrimSpace(says + " " + o.Otherwise)
		}
		return "A need is not met."
	case LookFirst:
		return openHeadline(v.Look)
	case FitsIf:
		var names []string
		for _, f := range v.Further {
			names = append(names, f.Title)
		}
		return "With: " + strings.Join(names, "; ")
	}
	return "Every need is met."
}

// openHeadline names the first facts to look at and counts the rest.
func openHeadline(look []Look) string {
	var names []string
	for _, l := range look {
		names = append(names, l.Labels...)
	}
	const shown = 2
	switch {
	case len(names) == 0:
		return "A fact that decides is unknown, and no inspection on record answers it."
	case len(names) > shown+1:
		return fmt.Sprintf("Unknown or too weakly known: %s, and %d more.", strings.Join(names[:shown], ", "), len(names)-shown)
	}
	return "Unknown or too weakly known: " + strings.Join(names, ", ") + "."
}

func firstFailing(o Outcome) (Outcome, bool) {
	if o.truth.Hi != No {
		return o, false
	}
	if o.Group == "all" {
		for _, p := range o.Parts {
			if f, ok := firstFailing(p); ok {
				return f, true
			}
		}
	}
	return o, true
}

// OpenFact is a fact that would settle a verdict that is open.
type OpenFact struct {
	Trait *machine.Trait
	Least machine.Grade // the weakest grade that decides
}

// Open lists the facts on which a machine's verdict hangs, each once.
func (j *Judge) Open(s machine.Snapshot) []OpenFact {
	var out []OpenFact
	seen := map[*machine.Trait]bool{}
	openLeaves(j.root.explain(s), func(o Outcome) {
		for _, t := range o.open {
			if !seen[t] {
				seen[t] = true
				out = append(out, OpenFact{t, o.least})
			}
		}
	})
	return out
}
