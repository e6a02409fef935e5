package fit

import (
	"cmp"
	"slices"

	"wardifex/internal/core/firmware"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
)

// Projection is a machine as it will be once a kit and its additional changes are
// made, with what they do on the way. It is the only "machine afterwards": verdicts,
// plans, consequences, work orders and the record that a finished order makes all
// come from it.
type Projection struct {
	Before, After machine.Snapshot
	Effects       []Effect // the additional changes' first
	Build         bool     // a new build is flashed, or a new configuration written
	Restated      []string // what the build states otherwise afterwards
	Added         []machine.Position
	Taken         []machine.Taking // what is taken from now on
	Freed         []machine.Taking // what parts that leave no longer take
	Set           []Stated         // of parts that stay or are moved
}

// Stated is a fact of a part that stays, as a change sets it.
type Stated struct {
	Key    machine.Key
	Value  machine.Value
	Before string // for people
}

// NewBuildModel stands for the build that the work will flash.
const NewBuildModel = "new build"

// Project makes a kit and its additional changes on a machine.
func Project(before machine.Snapshot, kit Kit, changes []AdditionalChange) (Projection, error) {
	return project(before, kit, changes, true)
}

// ProjectByHand puts a model at a position as somebody does outside of any kit: the
// build is left as it is.
func ProjectByHand(before machine.Snapshot, slot, model string) (Projection, error) {
	return project(before, Kit{Key: "by-hand", Effects: []Effect{{Slot: slot, Model: model}}}, nil, false)
}

func project(before machine.Snapshot, kit Kit, changes []AdditionalChange, build bool) (Projection, error) {
	p := Projection{Before: before}
	voc := before.Vocabulary()
	for _, f := range changes {
		p.Effects = append(p.Effects, f.Effects...)
	}
	p.Effects = append(p.Effects, kit.Effects...)
	overlay, err := overlayOf(p.Effects, voc)
	if err != nil {
		return p, err
	}
	p.After = before.Over(overlay).Settled()
	p.Freed = freed(overlay, before)
	for _, at := range p.After.Structure().Positions() {
		if !before.Has(at) {
			p.Added = append(p.Added, *at)
		}
	}
	p.Restated = firmware.Restated(before, p.After)
	p.Build = build && (kit.NewBuild != "" || len(p.Restated) > 0 || p.changesBuild())
	if p.Build {
		p.newBuild()
	}
	p.Taken = takings(p.After, overlay, kit, changes)
	p.After = p.After.Take(p.Taken...)
	p.Set = p.sets()
	return p, nil
}

// Takings are what a kit with its additional changes takes of the capacities of a
// machine on which it is fitted.
func Takings(s machine.Snapshot, kit Kit, changes []AdditionalChange) ([]machine.Taking, error) {
	effects := slices.Clone(kit.Effects)
	for _, f := range changes {
		effects = append(effects, f.Effects...)
	}
	overlay, err := overlayOf(effects, s.Vocabulary())
	if err != nil {
		return nil, err
	}
	return takings(s, overlay, kit, changes), nil
}

func freed(o *machine.Overlay, before machine.Snapshot) []machine.Taking {
	if o == nil {
		return nil
	}
	return o.Freed(before.Takings())
}

// changesBuild reports whether an effect names another build.
func (p *Projection) changesBuild() bool {
	return slices.ContainsFunc(p.Effects, func(e Effect) bool {
		at := p.Before.Vocabulary().At(e.Slot)
		return at != nil && p.Before.Vocabulary().Is(at.Kind, parts.Firmware) && e.Fits()
	})
}

// states reports whether an effect says what a trait is afterwards.
func (p *Projection) states(t *machine.Trait) bool {
	return t.Name != machine.ModelTrait && slices.ContainsFunc(p.Effects, func(e Effect) bool {
		_, stated := e.Traits[t.Name]
		return stated && e.Slot == t.Slot
	})
}

// newBuild puts a new build on the board. What is known of the old one is carried
// over, as the work asks; of a build of another family nothing is, but that its
// processor can run it.
func (p *Projection) newBuild() {
	voc := p.After.Vocabulary()
	at := p.After.First(parts.Firmware)
	if at == nil {
		return
	}
	o := machine.NewOverlay(voc)
	was, is := p.Before.Of(at, parts.FirmwareFamily), p.After.Of(at, parts.FirmwareFamily)
	values := map[string]machine.Value{machine.ModelTrait: {Text: NewBuildModel}}
	if model := p.After.ModelAt(at); p.changesBuild() && model != "" {
		values[machine.ModelTrait] = machine.Value{Text: model}
	}
	if was.Known() && is.Known() && !is.Trait.Same(was.Value, is.Value) {
		for _, t := range voc.TraitsAt(at.Key) {
			if p.states(t) {
				values[t.Name] = p.After.At(t).Value
			}
		}
		values[parts.FirmwareFamily.Name] = is.Value
		kept := p.Before.Of(at, parts.FirmwareListedChip)
		o.Fit(at.Key, values, machine.Observed)
		if _, stated := values[parts.FirmwareListedChip.Name]; kept.Known() && !stated {
			o.Set(at.Key, map[string]machine.Value{parts.FirmwareListedChip.Name: kept.Value}, kept.Grade)
		}
	} else {
		o.Set(at.Key, values, machine.Observed)
	}
	p.After = p.After.Over(o).Settled()
}

// takings are what a change takes of the capacities of the machine that it leaves.
func takings(after machine.Snapshot, o *machine.Overlay, kit Kit, changes []AdditionalChange) []machine.Taking {
	slot := principal(kit.Effects)
	voc := after.Vocabulary()
	out := takingsOf(after, o, consumptionOf(kit, voc), slot, kit.Name)
	for _, f := range changes {
		// Without a part of its own it belongs to the kit's.
		out = append(
			out,
			takingsOf(after, o, consumptionBy(f, voc), cmp.Or(principal(f.Effects), slot), cmp.Or(f.Title, kit.Name))...)
	}
	return out
}

func takingsOf(after machine.Snapshot, o *machine.Overlay, x consumption, slot, what string) []machine.Taking {
	var out []machine.Taking
	var covers []string
	for _, e := range x.effects {
		if e.Fits() || e.Moves() {
			covers = append(covers, e.Slot)
		}
	}
	take := func(u Use, slot string, covers []string) {
		c, ok := capacityOf(u.Capacity)
		if !ok || u.Amount == 0 {
			return
		}
		t := machine.Taking{Capacity: u.Capacity, Amount: u.Amount, What: cmp.Or(u.For, what), Slot: slot, Covers: covers}
		if c.Observed.Name != "" {
			seen := c.observedAt(after, c.holder(after, u.On))
			if seen == nil {
				return // nothing has it, so nothing is taken
			}
			t.Key = seen.Key()
			if !o.Sets(seen) {
				t.Shift = -u.Amount
				if c.Taken {
					t.Shift = u.Amount
				}
			}
		}
		out = append(out, t)
	}
	for _, u := range x.uses {
		take(u, slot, covers)
	}
	for _, u := range x.brought {
		take(u.Use, u.slot, []string{u.slot})
	}
	return out
}

// holder is the position that is meant; the first where none is named.
func (c *Capacity) holder(s machine.Snapshot, on string) *machine.Position {
	for _, h := range c.holders(s) {
		if on == "" || h.Key == on {
			return h
		}
	}
	return nil
}

// sets are the facts that are set of parts that stay or are moved, in the order of
// the vocabulary.
func (p *Projection) sets() []Stated {
	var out []Stated
	voc := p.Before.Vocabulary()
	for _, e := range p.Effects {
		if e.From == "" {
			continue
		}
		for _, t := range voc.TraitsAt(e.Slot) {
			_, stated := e.Traits[t.Name]
			if _, added := e.Adds[t.Name]; !stated && !added {
				continue
			}
			was, is := p.Before.Fact(machine.KeyOf(e.From, t.Name)), p.After.Fact(t.Key())
			if !was.Known() || !t.Same(was.Value, is.Value) || e.Moves() {
				out = append(out, Stated{Key: t.Key(), Value: is.Value, Before: t.Show(was.Value)})
			}
		}
	}
	return out
}

// Left is what is left of a capacity on a machine, at least and at most, at the
// holder where it is least.
func Left(s machine.Snapshot, capacity string) (lo, hi float64) {
	c, ok := capacityOf(capacity)
	if !ok {
		return 0, 0
	}
	n := capacityNode{Capacity: c}
	x := worst(n.sums(s, false))
	return x.lo.float(), x.hi.float()
}
