package fit

import (
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"sync"

	"wardifex/internal/core/machine"
)

// Which heads a kit is for that is written for head 1.
const (
	AnyHead  = "any"
	EachHead = "each"
)

// TargetKey is the key of a kit turned to one head: "twinpawl-kit@2".
func TargetKey(kit string, head int) string { return kit + "@" + strconv.Itoa(head) }

// SplitTarget takes the head off the key of a kit that is turned to one; head is 0 where
// the key names none.
func SplitTarget(key string) (kit string, head int) {
	kit, number, ok := strings.Cut(key, "@")
	n, err := strconv.Atoi(number)
	if !ok || err != nil || n < 1 || n > machine.MostHeads {
		return key, 0
	}
	return kit, n
}

// targets are the heads that a kit can be for, each judged as a kit of its own. A verdict
// speaks of one of them, the best.
type targets struct {
	kit     Kit
	voc     *machine.Vocabulary
	fitting bool // as AtFitting
	judges  sync.Map
}

// HeadVerdict is how a kit comes out for one of the heads that it can be for.
type HeadVerdict struct {
	Head     int    `json:"head"`
	Key      string `json:"key" doc:"Of the kit for that head"`
	Answer   Answer `json:"answer"`
	Lean     Answer `json:"lean,omitempty" enum:"fits,fits if,does not fit,no lean,"`
	Headline string `json:"headline"`
}

// newTargets makes a kit ready that can be for several heads. As it is written, for
// head 1, it must be right.
func newTargets(kit Kit, voc *machine.Vocabulary, fitting bool) (*Judge, error) {
	if kit.Heads != AnyHead && kit.Heads != EachHead {
		return nil, fmt.Errorf(
			"kit %s: it is for any head, for each, or, where nothing is said, for the one that it names; not for %q",
			kit.Key,
			kit.Heads,
		)
	}
	t := &targets{kit: kit, voc: voc, fitting: fitting}
	j := &Judge{Kit: kit, voc: voc, targets: t}
	first, err := t.judge()
	if err != nil {
		return nil, err
	}
	if !turns(kit, voc) {
		return nil, fmt.Errorf("kit %s: nothing of it is at head 1, so it cannot be turned to another head", kit.Key)
	}
	j.change = first.change
	j.root = node{kind: targetsKind, req: &j.Kit.Needs, targets: t}
	t.each(func(one *Judge) { j.root.parts = append(j.root.parts, one.root) })
	j.fitting = sync.OnceValue(func() *Judge {
		alone, err := newTargets(kit, voc, true)
		if err != nil {
			return j // checked above
		}
		return alone
	})
	return j, nil
}

// judge is the kit turned to some heads; as it is written where none is named.
func (t *targets) judge(heads ...int) (*Judge, error) {
	key := fmt.Sprint(heads)
	if known, ok := t.judges.Load(key); ok {
		return known.(*Judge), nil
	}
	kit, err := t.turned(heads)
	if err != nil {
		return nil, err
	}
	j, err := NewJudge(kit, t.voc)
	if err != nil {
		return nil, err
	}
	if t.fitting {
		j = j.AtFitting()
	}
	if len(heads) == 1 {
		j.head = heads[0]
		j.root.parts = append([]node{{kind: headKind, head: j.head, req: &Requirement{
			Label:     fmt.Sprintf("Head %d is there", j.head),
			Otherwise: "Fitting that head first would change that.",
		}}}, j.root.parts...)
	}
	kept, _ := t.judges.LoadOrStore(key, j)
	return kept.(*Judge), nil
}

// each visits the kit for every head that it can be for in the vocabulary: a head that
// has not all the places cannot have it.
func (t *targets) each(visit func(*Judge)) {
	if one, err := t.judge(); err == nil {
		visit(one)
	}
	var heads []int
	for i := range t.voc.Slots {
		if h := t.voc.Slots[i].Serves.Head(); h > 1 && !slices.Contains(heads, h) {
			heads = append(heads, h)
		}
	}
	for _, h := range heads {
		if one, err := t.judge(h); err == nil {
			visit(one)
		}
	}
}

func (t *targets) turned(heads []int) (Kit, error) {
	kit := t.kit
	kit.Heads = ""
	switch {
	case len(heads) == 0:
		return kit, nil
	case t.kit.Heads == AnyHead:
		return kit.turned(t.voc, heads[0])
	}
	return kit.forEach(t.voc, heads)
}

// candidates are the judges of the heads that a machine has.
func (t *targets) candidates(s machine.Snapshot) []*Judge {
	heads := s.Structure().Heads()
	one := func(heads ...int) []*Judge {
		if j, err := t.judge(heads...); err == nil {
			return []*Judge{j}
		}
		return nil
	}
	var out []*Judge
	switch {
	case len(heads) == 0 || len(heads) == 1 && heads[0] == 1:
		out = one()
	case t.kit.Heads == EachHead:
		out = one(heads...)
		if out == nil {
			out = []*Judge{t.nowhere(heads)}
		}
	default:
		for _, h := range heads {
			out = append(out, one(h)...)
		}
	}
	if len(out) == 0 {
		out = one()
	}
	return out
}

// nowhere is the judge of a kit for each head of a machine of which one has not all the
// places that it needs.
func (t *targets) nowhere(heads []int) *Judge {
	_, err := t.turned(heads)
	says := "Every head has the places for it"
	j := &Judge{Kit: t.kit, voc: t.voc, change: &partChange{lasting: lastingOf(t.voc)}}
	j.Kit.Heads = ""
	j.root = node{
		kind:  allNode,
		req:   &j.Kit.Needs,
		parts: []node{{kind: fixedNode, fixed: isNo, req: &Requirement{Label: says, Otherwise: fmt.Sprint(err) + "."}}},
	}
	j.fitting = func() *Judge { return j }
	return j
}

// On is the kit for the head of a machine on which it fits best, of equals for the
// first; the kit itself where it is for a certain one.
func (j *Judge) On(s machine.Snapshot) *Judge {
	if j.targets == nil {
		return j
	}
	best, _ := j.targets.best(s)
	return best
}

func (t *targets) best(s machine.Snapshot) (*Judge, Truth) {
	var best *Judge
	var is Truth
	for _, c := range t.candidates(s) {
		if t := c.Truth(s); best == nil || better(t, is) {
			best, is = c, t
		}
	}
	return best, is
}

// Head is the head of a machine that the kit fits best; 0 where there is no choice.
func (j *Judge) Head(s machine.Snapshot) int { return j.On(s).head }

// ForHead is the kit for a certain head. The error says why it cannot be for it.
func (j *Judge) ForHead(head int) (*Judge, error) {
	if j.targets == nil || j.targets.kit.Heads != AnyHead {
		return nil, fmt.Errorf("%s is not for one head among several", j.Kit.Name)
	}
	return j.targets.judge(head)
}

// Find is the judge of a kit by its key, turned to a head where the key names one; nil
// where none of these is it.
func Find(judges []*Judge, key string) *Judge {
	named := func(key string) *Judge {
		if i := slices.IndexFunc(judges, func(j *Judge) bool { return j.Kit.Key == key }); i >= 0 {
			return judges[i]
		}
		return nil
	}
	if j := named(key); j != nil {
		return j
	}
	kit, head := SplitTarget(key)
	j := named(kit)
	if head == 0 || j == nil {
		return nil
	}
	if j, err := j.ForHead(head); err == nil {
		return j
	}
	return nil
}

// heads are how a kit comes out for each head of a machine that it can be for; none
// where there is no choice.
func (j *Judge) heads(s machine.Snapshot) []HeadVerdict {
	out := []HeadVerdict{}
	if j.targets == nil || j.targets.kit.Heads != AnyHead {
		return out
	}
	all := j.targets.candidates(s)
	if len(all) < 2 {
		return out
	}
	for _, c := range all {
		v := c.Verdict(s)
		out = append(out, HeadVerdict{c.head, c.Kit.Key, v.Answer, v.Lean, v.Headline})
	}
	return out
}

// turns reports whether anything of a kit is at head 1.
func turns(k Kit, voc *machine.Vocabulary) bool {
	found := false
	m := mover{to: func(slot string) (string, error) {
		p := voc.At(slot)
		found = found || p != nil && p.Serves.Head() == 1
		return slot, nil
	}}
	m.kit(k)
	return found
}

// turner names the position of another head for each position of head 1; others stay.
func turner(voc *machine.Vocabulary, head int) *mover {
	return &mover{voc: voc, head: head, to: func(slot string) (string, error) {
		p := voc.At(slot)
		if p == nil || p.Serves.Head() != 1 {
			return slot, nil
		}
		for i := range voc.Slots {
			if o := &voc.Slots[i]; o.Kind == p.Kind && o.Serves.Head() == head && o.Ordinal() == p.Ordinal() {
				return o.Key, nil
			}
		}
		return "", fmt.Errorf("head %d has no place for what is at %s; add the position first", head, p.Label)
	}}
}

// turned is the kit for another head than head 1.
func (k Kit) turned(voc *machine.Vocabulary, head int) (Kit, error) {
	out, err := turner(voc, head).kit(k)
	out.Key, out.Name = TargetKey(k.Key, head), fmt.Sprintf("%s, head %d", k.Name, head)
	return out, err
}

// forEach is the kit for several heads at once. What is not at a head is needed and done
// once.
func (k Kit) forEach(voc *machine.Vocabulary, heads []int) (Kit, error) {
	out := k
	out.Name = fmt.Sprintf("%s, each of %d heads", k.Name, len(heads))
	out.Needs, out.Effects, out.Options, out.Steps, out.Uses = Requirement{
		Label: k.Needs.Label,
		Why:   k.Needs.Why,
		All:   []Requirement{},
	}, nil, nil, nil, nil
	out.Parts, out.Screws = nil, nil
	var results []Requirement
	for _, head := range heads {
		one, err := turner(voc, head).kit(k)
		if err != nil {
			return out, err
		}
		if !isEmpty(&one.Needs) {
			out.Needs.All = append(out.Needs.All, labelled(one.Needs, head))
		}
		if one.Result != nil {
			results = append(results, labelled(*one.Result, head))
		}
		for _, e := range one.Effects {
			if !slices.ContainsFunc(out.Effects, func(o Effect) bool { return o.Slot == e.Slot }) {
				out.Effects = append(out.Effects, e)
			}
		}
		for _, f := range one.Options {
			f.Key, f.Title = TargetKey(optionKey(&f), head), fmt.Sprintf("%s, head %d", f.Title, head)
			out.Options = append(out.Options, f)
		}
		for _, st := range one.Steps {
			st.Title = fmt.Sprintf("%s, head %d", st.Title, head)
			out.Steps = append(out.Steps, st)
		}
		out.Uses = append(out.Uses, one.Uses...)
		out.Parts, out.Screws = append(out.Parts, one.Parts...), append(out.Screws, one.Screws...)
	}
	if len(results) > 0 {
		out.Result = &Requirement{Label: k.Result.Label, All: results}
	}
	if len(out.Needs.All) == 0 {
		out.Needs = Requirement{}
	}
	out.Price, out.Minutes = k.Price*float64(len(heads)), k.Minutes*len(heads)
	return out, nil
}

func labelled(r Requirement, head int) Requirement {
	r.Label = strings.TrimSpace(fmt.Sprintf("%s, head %d", r.Label, head))
	return r
}

// mover names other positions. It keeps the first error.
type mover struct {
	voc  *machine.Vocabulary
	head int
	to   func(string) (string, error)
	err  error
}

// kit is a kit with every position that it names given as another.
func (m *mover) kit(k Kit) (Kit, error) {
	out := k
	out.Needs = m.requirement(k.Needs)
	if k.Result != nil {
		r := m.requirement(*k.Result)
		out.Result = &r
	}
	out.Options = nil
	for _, f := range k.Options {
		if m.has(f) {
			out.Options = append(out.Options, m.changes(f))
		}
	}
	out.Effects, out.Uses = m.effects(k.Effects), m.uses(k.Uses)
	return out, m.err
}

func (m *mover) slot(slot string) string {
	if slot == "" {
		return ""
	}
	to, err := m.to(slot)
	if err != nil && m.err == nil {
		m.err = err
	}
	return to
}

func (m *mover) effects(effects []Effect) []Effect {
	var out []Effect
	for _, e := range effects {
		e.Slot, e.From = m.slot(e.Slot), m.slot(e.From)
		out = append(out, e)
	}
	return out
}

func (m *mover) uses(uses []Use) []Use {
	var out []Use
	for _, u := range uses {
		u.On = m.slot(u.On)
		out = append(out, u)
	}
	return out
}

// has reports whether there is a place for all that an additional change does: else it is
// not offered there.
func (m *mover) has(f AdditionalChange) bool {
	at := func(slot string) bool {
		_, err := m.to(slot)
		return slot == "" || err == nil
	}
	return !slices.ContainsFunc(f.Effects, func(e Effect) bool { return !at(e.Slot) || !at(e.From) }) &&
		!slices.ContainsFunc(f.Uses, func(u Use) bool { return !at(u.On) })
}

func (m *mover) changes(f AdditionalChange) AdditionalChange {
	f.Effects, f.Uses = m.effects(f.Effects), m.uses(f.Uses)
	return f
}

// traitInFormula is a trait as a formula names it: position.trait.
var traitInFormula = regexp.MustCompile(`[a-z][a-z0-9-]*\.[a-z]`)

func (m *mover) requirement(r Requirement) Requirement {
	group := func(rs []Requirement) []Requirement {
		if rs == nil {
			return nil
		}
		out := make([]Requirement, len(rs))
		for i := range rs {
			out[i] = m.requirement(rs[i])
		}
		return out
	}
	offered := slices.DeleteFunc(
		slices.Clone(r.Any),
		func(p Requirement) bool { return p.Additional != nil && !m.has(*p.Additional) },
	)
	if len(offered) == 0 {
		offered = r.Any
	}
	r.All, r.Any, r.None = group(r.All), group(offered), group(r.None)
	if r.Test != nil {
		t := *r.Test
		if to, err := m.to(t.Slot); err == nil || t.Slot == "" {
			t.Slot, t.Of = to, m.selector(t.Of)
		} else { // no head so far has one there; those that have are asked
			t.Slot, t.Of = "", &machine.Selector{Kind: m.voc.At(t.Slot).Kind, At: machine.Head(m.head)}
		}
		r.Test = &t
	}
	if r.Formula != nil {
		f := *r.Formula
		f.Of = m.selector(f.Of)
		f.Text = traitInFormula.ReplaceAllStringFunc(f.Text, func(word string) string {
			slot, rest, _ := strings.Cut(word, ".")
			if slot == "part" || slot == "own" {
				return word
			}
			return m.slot(slot) + "." + rest
		})
		r.Formula = &f
	}
	if r.Kit != nil {
		k := *r.Kit
		k.Slot = m.slot(k.Slot)
		r.Kit = &k
	}
	if r.Additional != nil {
		f := m.changes(*r.Additional)
		r.Additional = &f
	}
	return r
}

// selector names the place of another head where it names head 1.
func (m *mover) selector(s *machine.Selector) *machine.Selector {
	if s == nil || s.At != machine.Head(1) || m.head == 0 {
		return s
	}
	other := *s
	other.At = machine.Head(m.head)
	return &other
}
