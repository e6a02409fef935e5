package fit

import (
	"fmt"
	"slices"
	"sort"
	"strings"
	"time"

	"wardifex/internal/core/civil"
	"wardifex/internal/core/machine"
)

// Verdict is the answer for one kit on one machine, with all that it rests on.
type Verdict struct {
	Answer Answer `json:"answer"`
	// Where something is to be looked at first.
	// Lean is which way the claims lean; empty where nothing is to be looked at.
	Lean       Answer             `json:"lean,omitempty" enum:"fits,fits if,does not fit,no lean,"`
	Headline   string             `json:"headline" doc:"The deciding reason in one sentence"`
	Reasons    Outcome            `json:"reasons"`
	Additional []AdditionalChange `json:"further" doc:"The additional changes under which it fits"`
	Look       []Look             `json:"look" doc:"Inspections that would settle what is open, cheapest first"`
	Decide     []string           `json:"decide" doc:"What somebody has to decide or record: no inspection settles it"`
	Saves      bool               `json:"saves" doc:"It fits either way; a look settles whether a change is needed too"`
	Remarks    []string           `json:"remarks" doc:"What is not right on the machine already, and is not touched"`
	// It counts as it is specified.
	Delivery []string `json:"delivery" doc:"What of the kit's parts is to be checked when it comes"`
	Head     int      `json:"head,omitempty" doc:"The head that it is for, where a kit can be for several"`

	Heads []HeadVerdict `json:"heads" doc:"How it comes out for each head, where it can be for any"`
}

// Outcome is how one requirement came out.
type Outcome struct {
	Group string `json:"group,omitempty" enum:"all,any,none"`
	State string `json:"state" enum:"met,not met,unknown,too weak,not exact,conflict,with an additional change,open"`
	// Where the state is open.
	Leans      string     `json:"leans,omitempty" enum:"met,not met,with an additional change," doc:"What the claims say"`
	Label      string     `json:"label"`
	Who        string     `json:"who,omitempty" doc:"The part that needs it as long as it is fitted"`
	At         string     `json:"at,omitempty" doc:"The position of that part"`
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
	byKind  bool   // every part of its kind needs it
	short   string // by how much a capacity does not suffice
	changes *AdditionalChange
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

// Chosen are the additional changes that are made with a kit on a machine.
func (j *Judge) Chosen(s machine.Snapshot) []AdditionalChange {
	if j.targets != nil {
		return j.On(s).Chosen(s)
	}
	made := []AdditionalChange{}
	for i := range j.root.parts {
		n := &j.root.parts[i]
		if n.kind == clusterKind {
			best, _ := n.cluster.best(s)
			made = append(made, best.changes...)
		}
		if n.offers(j.acting) { // some that only say what else would do
			root, chosen := j.explain(s)
			return append(chosen, furtherOf(root, j.acting)...)
		}
	}
	return made
}

// offers reports whether a node names additional changes that do not act: which of them
// are chosen follows from how it comes out.
func (n *node) offers(acting func(*AdditionalChange) bool) bool {
	if n.kind == clusterKind {
		return slices.ContainsFunc(n.cluster.conjuncts, func(c conjunct) bool { return c.shown.offers(acting) })
	}
	return n.req != nil && n.req.Additional != nil && !acting(n.req.Additional) ||
		slices.ContainsFunc(n.parts, func(p node) bool { return p.offers(acting) })
}

// Verdict judges a machine and explains.
func (j *Judge) Verdict(s machine.Snapshot) Verdict {
	if j.targets != nil {
		v := j.On(s).Verdict(s)
		v.Heads = j.heads(s)
		return v
	}
	root, chosen := j.explain(s)
	v := Verdict{
		Head:     j.head,
		Heads:    []HeadVerdict{},
		Answer:   root.truth.Answer(),
		Lean:     root.truth.Lean(),
		Reasons:  root,
		Remarks:  j.remarks(s),
		Delivery: j.change.deliveries(s),
	}
	v.Additional = append(chosen, furtherOf(root, j.acting)...)
	v.Look, v.Decide = j.look(root)
	v.Saves = root.truth.Lo() == If && root.truth.Hi() == Yes
	v.Headline = headline(v, root)
	return v
}

// explain explains every requirement, and says which of the additional changes that act
// are made.
func (j *Judge) explain(s machine.Snapshot) (root Outcome, made []AdditionalChange) {
	made = []AdditionalChange{}
	root = Outcome{Group: "all", Label: j.root.called(), Why: j.Kit.Needs.Why, truth: j.root.truth(s)}
	for i := range j.root.parts {
		switch n := &j.root.parts[i]; n.kind {
		case clusterKind:
			outcomes, changes := n.cluster.explain(s)
			root.Parts = append(root.Parts, outcomes...)
			made = append(made, changes...)
		case lastingKind:
			root.Parts = append(root.Parts, n.lasting.explain(s)...)
		default:
			root.Parts = append(root.Parts, n.explain(s))
		}
	}
	root.settle()
	return root, made
}

// explain explains what additional changes bear on, as it stands and, where that makes
// a difference, with the best of them made.
func (x *cluster) explain(s machine.Snapshot) ([]Outcome, []AdditionalChange) {
	best, _ := x.best(s)
	nodes, err := best.ready()
	var out []Outcome
	for i := range x.conjuncts {
		c := &x.conjuncts[i]
		if c.lasting {
			as := c.shown.lasting.explain(s)
			if len(best.changes) > 0 && err == nil {
				as = eitherWay(best.changes, as, nodes[i].lasting.explain(s))
			}
			out = append(out, as...)
			continue
		}
		as := c.shown.explain(s)
		if len(best.changes) == 0 || err != nil {
			if is := nodes; err == nil {
				as.truth = is[i].truth(s)
				as.settle()
				if as.truth.Hi() == No {
					x.noCure(s, i, &as)
				}
			}
			out = append(out, as)
			continue
		}
		with := nodes[i].explain(s)
		with.truth = nodes[i].truth(s)
		truth := with.truth.And(isIf)
		switch {
		case with.truth == isYes && as.truth.Lo() >= If,
			truth == as.truth,
			c.capacity == "" && c.result && truth == as.truth.And(isIf):
		case better(truth, as.truth):
			as = Outcome{
				Group: "any",
				Label: as.Label,
				Why:   as.Why,
				short: as.short,
				truth: as.truth.Or(truth),
				Parts: []Outcome{as, withMade(best.changes, with, truth)},
			}
		case better(as.truth, with.truth):
			as = Outcome{
				Group: "all",
				Label: as.Label,
				Why:   as.Why,
				short: with.short,
				truth: as.truth.And(truth),
				Parts: []Outcome{as, withMade(best.changes, with, truth)},
			}
		}
		as.settle()
		out = append(out, as)
	}
	return out, append([]AdditionalChange{}, best.changes...)
}

// eitherWay are the needs of parts as they come out without and with some additional
// changes, where that makes a difference.
func eitherWay(changes []AdditionalChange, without, with []Outcome) []Outcome {
	var out []Outcome
	same := func(a, b Outcome) bool { return a.Label == b.Label && a.Who == b.Who && a.At == b.At }
	for _, o := range without {
		truth := isIf // with the change nothing needs it
		made := Outcome{Label: o.Label, State: string(met), truth: isYes}
		if i := slices.IndexFunc(with, func(w Outcome) bool { return same(w, o) }); i >= 0 {
			made, truth = with[i], with[i].truth.And(isIf)
		}
		if better(truth, o.truth) {
			o = Outcome{Group: "any", Label: o.Label, Why: o.Why, Otherwise: o.Otherwise, Hazard: o.Hazard, Who: o.Who,
				At:    o.At,
				truth: o.truth.Or(truth), Parts: []Outcome{o, withMade(changes, made, truth)}}
			o.settle()
		}
		out = append(out, o)
	}
	for _, o := range with { // what the additional changes bring
		if !slices.ContainsFunc(without, func(w Outcome) bool { return same(w, o) }) {
			out = append(out, o)
		}
	}
	return out
}

// noCure says why no additional change that would meet a requirement is a cure: with it,
// something else is not so.
func (x *cluster) noCure(s machine.Snapshot, conjunct int, o *Outcome) {
	for _, a := range x.alternatives {
		nodes, err := a.ready()
		if len(a.changes) == 0 || err != nil || nodes[conjunct].truth(s).Hi() == No {
			continue
		}
		for i := range nodes {
			if nodes[i].truth(s).Hi() != No {
				continue
			}
			broken := nodes[i].explain(s)
			if nodes[i].kind == lastingKind {
				if found := nodes[i].lasting.explain(s); len(found) > 0 {
					broken = found[0]
				}
			}
			if f, ok := firstFailing(broken); ok {
				o.Otherwise = strings.TrimSpace(
					fmt.Sprintf(
						"%s would meet it, and then this would not be so: %s. %s",
						titles(a.changes),
						strings.TrimSuffix(f.Says(), "."),
						o.Otherwise,
					),
				)
				return
			}
		}
	}
}

func titles(changes []AdditionalChange) string {
	var names []string
	for _, f := range changes {
		names = append(names, f.Title)
	}
	return strings.Join(names, "; ")
}

// withMade is an outcome on the machine with some additional changes made.
func withMade(changes []AdditionalChange, o Outcome, truth Truth) Outcome {
	out := Outcome{Group: "all", Label: "With " + titles(changes), truth: truth}
	for i := range changes {
		f := &changes[i]
		out.Parts = append(out.Parts, Outcome{Label: f.Title, State: string(withMore), changes: f, truth: isIf})
	}
	o.settle()
	out.Parts = append(out.Parts, o)
	out.settle()
	return out
}

// settle puts an outcome's truth into words.
func (o *Outcome) settle() {
	if o.Group != "" || o.State == "" {
		o.State = groupState(o.truth)
	}
	o.Leans = ""
	if lean := o.truth.lean(); !o.truth.Decided() && lean.Decided() {
		o.Leans = groupState(lean)
	}
}

// without takes what a change has just written out of what is still to be looked at.
func (o *Outcome) without(change *machine.Overlay) {
	o.open = slices.DeleteFunc(slices.Clone(o.open), func(t *machine.Trait) bool { return change.Changes(t) })
	for i := range o.Parts {
		o.Parts[i].without(change)
	}
}

func (n *node) explain(s machine.Snapshot) Outcome {
	if n.over != nil {
		s = s.Over(n.over)
	}
	if n.kind == selectedKind {
		o := n.selection.on(s).explain(s)
		o.Label = n.called()
		return o
	}
	if n.selected {
		return n.explainSelected(s)
	}
	o := Outcome{Label: n.called(), Why: n.req.Why, Otherwise: n.req.Otherwise, HowTo: n.req.HowTo,
		Hazard: n.req.Hazard}
	switch n.kind {
	case allNode, anyNode, noneNode:
		o.Group = [...]string{"all", "any", "none"}[n.kind]
		for i := range n.parts {
			o.Parts = append(o.Parts, n.parts[i].explain(s))
		}
		o.truth = n.combine(o.Parts)
	case testNode:
		var why state
		o.truth, why = n.test(s)
		o.State = string(why)
		n.facts(s, &o, n.trait, n.own)
		if why == inexact && n.asksVersion() {
			o.HowTo = "Which release is it exactly? " + o.HowTo
		}
	case formulaKind:
		n.explainFormula(s, &o)
	case capacityKind:
		n.explainCapacity(s, &o)
	case kitKind:
		var why state
		o.truth, why = n.kitTruth(s)
		o.State = string(why)
		n.facts(s, &o, n.trait)
	case presenceNode, identityNode, featureNode:
		o.truth = n.truth(s)
		n.facts(s, &o, n.trait)
		if o.State = groupState(o.truth); !o.truth.Decided() {
			switch f := s.At(n.trait); {
			case f.Grade == machine.Unknown:
				o.State = string(unknown)
			case len(f.Conflict) > 0:
				o.State = string(conflict)
			case f.Grade < machine.Marked:
				o.State = string(weak)
			}
		}
	case nothingNode:
		o.truth = n.truth(s)
		if list := s.Vocabulary().Of(s.First(machine.ListComplete.Kind), machine.ListComplete); list != nil {
			n.facts(s, &o, list)
		}
	case fixedNode, headKind:
		o.truth = n.truth(s)
		o.State = groupState(o.truth)
	case furtherNode:
		o.truth, o.State, o.changes = isIf, string(withMore), n.req.Additional
	}
	o.settle()
	return o
}

// explainSelected explains a need of selected parts: each that is there, or may be.
func (n *node) explainSelected(s machine.Snapshot) Outcome {
	out := Outcome{
		Group:     map[bool]string{true: "all", false: "any"}[n.kind == allNode],
		Label:     n.called(),
		Why:       n.req.Why,
		Otherwise: n.req.Otherwise,
		HowTo:     n.req.HowTo,
		Hazard:    n.req.Hazard,
		truth:     n.truth(s),
	}
	var absent []Outcome
	for i := range n.parts {
		part := &n.parts[i]
		if len(part.parts) != 2 { // asked of what may not be there as well
			out.Parts = append(out.Parts, part.explain(s))
			continue
		}
		asked, there := &part.parts[1], &part.parts[0] // some: there, and so
		if n.kind == allNode {
			asked, there = &part.parts[0], &part.parts[1].parts[0] // every: so, or not there
		}
		switch is := there.truth(s); {
		case is == isYes:
			out.Parts = append(out.Parts, asked.explain(s))
		case is&strictly == isNo:
			absent = append(absent, there.explain(s))
		default:
			out.Parts = append(out.Parts, part.explain(s))
		}
	}
	if len(out.Parts) == 0 { // nothing is there
		out.Parts = absent
	}
	if len(out.Parts) == 1 {
		one := out.Parts[0]
		out.Group, out.State, out.Parts = one.Group, one.State, one.Parts
		out.Evidence, out.Arithmetic, out.Problem, out.Least = one.Evidence, one.Arithmetic, one.Problem, one.Least
		out.open, out.least, out.short = one.open, one.least, one.short
		if len(absent) == 1 && one.State != string(unknown) {
			out.State = groupState(out.truth)
		}
	}
	out.settle()
	return out
}

// facts notes the facts that decide, and those of them that are open.
func (n *node) facts(s machine.Snapshot, o *Outcome, traits ...*machine.Trait) {
	o.least = max(n.least, machine.Marked)
	if n.least == machine.Claimed {
		o.least = machine.Claimed
	}
	o.Least = o.least.String()
	for _, t := range traits {
		if t == nil {
			continue
		}
		f := s.At(t)
		if !o.truth.Decided() {
			t = s.Decides(t)
		}
		o.Evidence = append(o.Evidence, evidence(s, t))
		if !o.truth.Decided() && (f.Grade < o.least || !f.Known() || o.State == string(inexact)) {
			o.open = append(o.open, t)
		}
	}
	if !o.truth.Decided() && len(o.open) == 0 && len(traits) > 0 &&
		traits[0] != nil { // the part itself may not be there
		o.open = []*machine.Trait{s.Decides(traits[0])}
	}
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
		said := n.trait.Label + " " + string(n.op())
		if n.own != nil {
			said += " " + n.own.Label
		}
		for i, v := range n.values {
			if i > 0 && n.op() == Between {
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
		return n.req.Additional.Title
	}
	return "A need"
}

func (n *node) explainFormula(w machine.Snapshot, o *Outcome) {
	least := n.least
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
		switch changed := c.trial.overlay.Changes(t); {
		case t != nil && !changed:
			o.Evidence = append(o.Evidence, evidence(s, t))
		case t != nil && c.trial.inHand:
			o.Evidence = append(o.Evidence, evidence(after, t))
		}
	}
	open := x.open(after)
	if c.Unless != nil {
		decides := s.Vocabulary().Of(s.First(c.UnlessOf.Kind), c.UnlessOf)
		if decides != nil {
			o.Evidence = append(o.Evidence, evidence(s, decides))
		}
		switch holds := c.Unless(after, c.Least); {
		case holds.sure && decides != nil:
			o.Arithmetic = decides.Label + ": " + after.At(decides).Value.Text + ", so this does not matter"
		case holds.possible && decides != nil:
			open = append(open, decides)
		}
	}
	if !o.truth.Decided() {
		o.open = slices.DeleteFunc(open, func(t *machine.Trait) bool {
			return !c.trial.inHand &&
				c.trial.overlay.Changes(t)
		})
		for _, t := range x.openOf(x.was, s) { // whether it was as short before
			if !slices.Contains(o.open, t) {
				o.open = append(o.open, t)
			}
		}
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
	switch t & strictly {
	case isYes & strictly:
		return string(met)
	case isNo:
		return string(notMet)
	}
	if t.Lo() == If {
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
		e.Conflict = append(e.Conflict, fmt.Sprintf("%s (%s, %s)", t.Show(r.Value), r.By, r.TakenAt.Format(civil.Shown)))
	}
	if len(f.Conflict) > 0 {
		e.Value = "in conflict"
	}
	return e
}

// furtherOf picks the cheapest additional changes that bring the outcome to If, besides
// those that act, which are chosen apart.
func furtherOf(o Outcome, acts func(*AdditionalChange) bool) []AdditionalChange {
	if o.truth.Lo() == Yes || o.truth.Hi() == No {
		return nil
	}
	if o.changes != nil {
		if acts(o.changes) {
			return []AdditionalChange{}
		}
		return []AdditionalChange{*o.changes}
	}
	if o.Group == "any" {
		var best []AdditionalChange
		for _, p := range o.Parts {
			if f := furtherOf(p, acts); f != nil && (best == nil || cost(f) < cost(best)) {
				best = f
			}
		}
		return best
	}
	var out []AdditionalChange
	seen := map[string]bool{}
	for _, p := range o.Parts {
		f := furtherOf(p, acts)
		if f != nil && out == nil {
			out = []AdditionalChange{}
		}
		for _, f := range f {
			if !seen[optionKey(&f)] {
				seen[optionKey(&f)] = true
				out = append(out, f)
			}
		}
	}
	return out
}

// acting reports whether an additional change changes the machine or takes something.
func (j *Judge) acting(f *AdditionalChange) bool { return len(f.Effects) > 0 || len(f.Uses) > 0 }

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

// look lists the inspections that answer what is open, cheapest first, and what is to be
// decided where none does. Each open trait goes to the cheapest inspection that earns a
// sufficient grade.
func (j *Judge) look(root Outcome) ([]Look, []string) {
	at := map[string]*Look{}
	seen := map[machine.Key]bool{}
	decide := []string{}
	openLeaves(root, func(o Outcome) {
		for _, t := range o.open {
			if seen[t.Key()] {
				continue
			}
			seen[t.Key()] = true
			in, grade, ok := j.voc.CheapestWay(t, o.least)
			if !ok {
				decide = append(decide, undecided(t, o))
				continue
			}
			if o.State == string(conflict) {
				decide = append(decide, "settle the conflict about "+t.Label+", or look again: "+in.Title)
			}
			l := at[in.Key]
			if l == nil {
				l = &Look{Inspection: in, Grade: grade}
				at[in.Key] = l
			}
			l.Grade = min(l.Grade, grade)
			l.Keys = append(l.Keys, t.Key())
			label := t.Label
			if o.State == string(inexact) {
				label += " (which release is it exactly?)"
			}
			l.Labels = append(l.Labels, label)
		}
		if len(o.open) == 0 && o.Problem != "" {
			decide = append(decide, o.Label+": "+o.Problem)
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
	return out, decide
}

// undecided says what has to be decided where no inspection on record tells.
func undecided(t *machine.Trait, o Outcome) string {
	if o.State == string(conflict) {
		return "settle the conflict about " + t.Label
	}
	return fmt.Sprintf(
		"no inspection on record earns %s for %s: whoever can tell records it by hand, or adds how it is found out to "+
			"the catalogue",
		o.least,
		t.Label,
	)
}

// Unprovable names the needs that ask for better evidence than any inspection
// on record earns: on most machines they stay open for good.
func (j *Judge) Unprovable() []string {
	out := []string{}
	var walk func(n *node)
	walk = func(n *node) {
		for i := range n.parts {
			walk(&n.parts[i])
		}
		if n.kind == clusterKind {
			for i := range n.cluster.conjuncts {
				walk(&n.cluster.conjuncts[i].shown)
			}
		}
		var asked []*machine.Trait
		switch n.kind {
		case testNode:
			asked = []*machine.Trait{n.trait}
			if n.asksVersion() && n.own == nil && n.asked.all {
				out = append(
					out,
					fmt.Sprintf("%s: %q is no version that can be compared; write one such as 2.0.5", n.called(),
						n.values[0].Text),
				)
			}
		case formulaKind:
			asked = n.formula.traits
		}
		least := n.least
		for _, t := range asked {
			if _, _, ok := j.voc.CheapestWay(t, least); ok || least <= machine.Claimed {
				continue
			}
			best := machine.Claimed
			for _, w := range t.FindBy {
				best = max(best, w.Grade)
			}
			out = append(
				out,
				fmt.Sprintf(
					"%s: no inspection on record earns the grade %s for %s; %s is the best",
					n.called(),
					least,
					t.Label,
					best,
				),
			)
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
			says := "Not met: " + o.Label
			if o.short != "" {
				says = o.Label + ": " + o.short
			}
			if o.Who != "" {
				says += ", which " + o.Who + " needs"
			}
			return strings.TrimSpace(says + ". " + o.Otherwise)
		}
		return "A need is not met."
	case LookFirst:
		return openHeadline(v)
	case FitsIf:
		return "With: " + titles(v.Additional)
	}
	return "Every need is met."
}

// openHeadline names the first facts to look at and counts the rest.
func openHeadline(v Verdict) string {
	var names []string
	for _, l := range v.Look {
		names = append(names, l.Labels...)
	}
	const shown = 2
	switch {
	case len(names) == 0 && len(v.Decide) > 0:
		return "To be decided: " + v.Decide[0] + "."
	case len(names) == 0:
		return "A fact that decides is unknown, and no inspection on record answers it."
	case len(names) > shown+1:
		return fmt.Sprintf(
			"Unknown or too weakly known: %s, and %d more.",
			strings.Join(names[:shown], ", "),
			len(names)-shown,
		)
	}
	return "Unknown or too weakly known: " + strings.Join(names, ", ") + "."
}

func firstFailing(o Outcome) (Outcome, bool) {
	if o.truth.Hi() != No {
		return o, false
	}
	if o.Group == "all" {
		for _, p := range o.Parts {
			if f, ok := firstFailing(p); ok {
				if f.Who == "" {
					f.Who = o.Who
				}
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
	For   string        // what waits for it, where that is not a kit
}

// Open lists the facts on which a machine's verdict hangs, each once.
func (j *Judge) Open(s machine.Snapshot) []OpenFact {
	if j.targets != nil {
		return j.On(s).Open(s)
	}
	var out []OpenFact
	seen := map[*machine.Trait]bool{}
	root, _ := j.explain(s)
	openLeaves(root, func(o Outcome) {
		for _, t := range o.open {
			if !seen[t] {
				seen[t] = true
				out = append(out, OpenFact{Trait: t, Least: o.least})
			}
		}
	})
	return out
}
