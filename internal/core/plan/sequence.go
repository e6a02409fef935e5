package plan

import (
	"context"
	"slices"
	"strings"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/change"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
)

// budget bounds advice in counted steps, so that it takes the same course on every
// machine, and ends when nobody waits for it any more.
type budget struct {
	ctx   context.Context
	steps int // left
	cut   bool
}

func newBudget(ctx context.Context, steps int) *budget { return &budget{ctx: ctx, steps: steps} }

// spend takes one step; false when there are no more.
func (b *budget) spend() bool {
	if b.steps <= 0 {
		b.cut = true
		return false
	}
	b.steps--
	return true
}

// gone is why the asker no longer waits.
func (b *budget) gone() error { return b.ctx.Err() }

// sequence is kits made one after the other on a machine.
type sequence struct {
	stages []Stage
	truth  fit.Truth // of all of it
	weight float64   // with the additional changes
	st     machine.Snapshot

	// group are the kits since the machine was last run: what parts need is not met until
	// more of them are in. since is the machine then.
	group   []fit.Made
	since   machine.Snapshot
	failing []map[fit.Dependency]bool // what each of those needs looks at
}

// sequencer makes sequences, each prefix once.
type sequencer struct {
	records []calibration.Record
	start   machine.Snapshot
	known   map[string]*sequence
	budget  *budget
	brief   bool // stages are not to be read: only whether they fit, and what they cost
}

func newSequencer(start machine.Snapshot, records []calibration.Record, b *budget) *sequencer {
	return &sequencer{records: records, start: start, known: map[string]*sequence{}, budget: b}
}

func (x *sequencer) begin() *sequence {
	return &sequence{truth: fit.TruthOf(fit.Yes, fit.Yes, fit.Yes, fit.Yes), st: x.start}
}

// then is a sequence with one more kit; nil where that cannot be fitted there, or the
// budget is spent. A kit whose parts need what a later one brings is made together with
// it: the machine is not run in between.
func (x *sequencer) then(s *sequence, j *fit.Judge) (*sequence, error) {
	key := j.Kit.Key
	for i := len(s.stages) - 1; i >= 0; i-- {
		key = s.stages[i].Kit + "\x00" + key
	}
	if known, ok := x.known[key]; ok {
		return known, nil
	}
	if err := x.budget.gone(); err != nil {
		return nil, err
	}
	if !x.budget.spend() {
		return nil, nil
	}
	made, err := x.make(s, j)
	if err == nil {
		x.known[key] = made
	}
	return made, err
}

func (x *sequencer) make(s *sequence, j *fit.Judge) (*sequence, error) {
	j = j.On(s.st)
	judge := j
	var t fit.Truth
	if len(s.group) == 0 {
		t = j.Truth(s.st)
	}
	if len(s.group) > 0 || !fits(t) {
		judge = j.AtFitting()
		if t = judge.Truth(s.st); !fits(t) {
			return nil, nil
		}
	}
	v := fit.Verdict{Answer: t.Answer(), Lean: t.Lean()}
	switch {
	case !x.brief:
		v = judge.Verdict(s.st)
	case v.Answer != fit.Fits:
		v.Additional = judge.Chosen(s.st)
	}
	stage, after, err := x.stage(j, v, s.st, judge)
	if err != nil {
		return nil, err
	}
	out := &sequence{
		truth:  s.truth.And(t),
		weight: s.weight + fit.Weight(stage.Price, stage.Minutes),
		st:     after,
		stages: slices.Clone(s.stages),
	}
	if judge != j {
		out.group = append(slices.Clone(s.group), fit.Made{Kit: j.Kit, Additional: v.Additional})
		if out.since = s.since; len(s.group) == 0 {
			out.since = s.st
		}
		lasting, err := fit.Parts(out.since, after, out.group, x.brief)
		if err != nil {
			return nil, err
		}
		stage.Together = len(s.group) > 0
		if fits(lasting.Truth) { // run from here on
			out.truth, out.group = out.truth.And(lasting.Truth), nil
			if t = t.And(lasting.Truth); stage.Answer != t.Answer() {
				stage.Answer, stage.Lean, stage.Headline = t.Answer(), t.Lean(), headline(lasting.Open)
			}
		} else {
			stage.Waits, out.failing = headline(lasting.Open), lasting.Failing
		}
	}
	out.stages = append(out.stages, stage)
	return out, nil
}

// headline names needs that are not met, or not told.
func headline(open []fit.Outcome) string {
	var says []string
	for _, o := range open {
		says = append(says, strings.TrimSuffix(o.Says(), "."))
	}
	if len(says) > 2 {
		says = append(says[:2], "and more")
	}
	return strings.Join(says, "; ") + "."
}

func fits(t fit.Truth) bool { return t.Answer() != fit.DoesNotFit }

// ends reports whether a sequence ends in a machine that can be run: nothing waits for
// another kit, and what each kit is for is so. Its truth is then that of all of it.
func (s *sequence) ends(kits []*fit.Judge) (fit.Truth, bool) {
	t := s.truth
	for _, j := range kits {
		t = t.And(j.Result(s.st))
	}
	return t, len(s.group) == 0 && fits(t)
}

// stage is a kit in its place, and the machine after it.
func (x *sequencer) stage(
	j *fit.Judge,
	v fit.Verdict,
	st machine.Snapshot,
	judge *fit.Judge,
) (Stage, machine.Snapshot, error) {
	s := Stage{
		Kit:          j.Kit.Key,
		Name:         j.Kit.Name,
		Answer:       v.Answer,
		Lean:         v.Lean,
		Headline:     v.Headline,
		Additional:   v.Additional,
		Calibrations: []string{},
		Opens:        opens(j.Kit, v.Additional),
	}
	if v.Answer == fit.LookFirst && !x.brief {
		for _, f := range judge.Open(st) {
			if x.untouched(f.Trait, st) {
				s.lookNow = append(s.lookNow, f.Trait.Label)
			}
		}
	}
	s.Price, s.Minutes = j.Kit.Cost(v.Additional)
	if x.brief {
		after, err := j.After(st, v.Additional)
		return s, after, err
	}
	c, err := change.NewChange(j.Kit, v.Additional, st)
	if err != nil {
		return s, st, err
	}
	s.Flashes = c.Flashes()
	s.Calibrations = append(s.Calibrations, calibration.Titles(c.After, c.Needed(x.records))...)
	return s, c.After, nil
}

// untouched reports whether a fact and the part that it is of are those that the
// plan began with.
func (x *sequencer) untouched(t *machine.Trait, st machine.Snapshot) bool {
	model := machine.KeyOf(t.Slot, machine.ModelTrait)
	return x.start.At(t).Value == st.At(t).Value && x.start.Fact(model).Value == st.Fact(model).Value
}

// opens reports whether the cover has to come off for a kit: something is wired
// or a build is flashed by card or programmer behind it.
func opens(k fit.Kit, changes []fit.AdditionalChange) bool {
	wires := func(s fit.FittingStep) bool { return s.Phase == "wire" }
	return slices.ContainsFunc(k.Steps, wires) ||
		slices.ContainsFunc(changes, func(f fit.AdditionalChange) bool { return slices.ContainsFunc(f.Steps, wires) })
}

// Ahead says whether a kit can be made on a machine before others of a plan, which are
// made right after it and in that order: its own needs at fitting are met, and the needs
// of parts are once the others are in. until names those without which the machine is not
// to be run; ok is false where they do not help.
func Ahead(
	ctx context.Context,
	j *fit.Judge,
	rest []*fit.Judge,
	s machine.Snapshot,
	records []calibration.Record,
) (until []string, ok bool, err error) {
	x := newSequencer(s, records, newBudget(ctx, len(rest)+1))
	x.brief = true
	done, err := x.then(x.begin(), j)
	for _, next := range rest {
		if err != nil || done == nil || len(done.group) == 0 {
			break
		}
		until = append(until, next.Kit.Name)
		done, err = x.then(done, next)
	}
	return until, done != nil && len(done.group) == 0, err
}
