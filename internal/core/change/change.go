package change

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
	"wardifex/internal/core/quantity"
)

// PartChange is one position whose part is changed.
type PartChange struct {
	Slot   string `json:"slot"`
	Label  string `json:"label"`
	Before string `json:"before"`
	After  string `json:"after"`
	Stays  bool   `json:"stays,omitempty" doc:"The part stays, and is set otherwise"`

	at      *machine.Position
	build   bool // it is the firmware build
	setting bool // all that is otherwise of it is set, such as microsteps
}

// Change is an upgrade on one machine: the machine before and after.
type Change struct {
	fit.Projection
	Kit         fit.Kit
	Additional  []fit.AdditionalChange
	PartChanges []PartChange
	// Delivery are labels of what the verdict rests on and only the models of its parts say.
	Delivery []string
}

// NewChange applies a kit and the additional changes under which it fits. The kit
// must have passed fit.NewJudge. Where something changes that a build states,
// or the kit says so, the build is exchanged too.
func NewChange(kit fit.Kit, further []fit.AdditionalChange, before machine.Snapshot) (Change, error) {
	c := Change{Kit: kit, Additional: further, PartChanges: []PartChange{}}
	var err error
	if c.Projection, err = fit.Project(before, kit, further); err != nil {
		return c, err
	}
	c.exchange()
	return c, nil
}

// ByHand is the exchange of one part for a model that somebody made outside of
// any kit; the build was left as it is.
func ByHand(slot, model string, before machine.Snapshot) (Change, error) {
	c := Change{PartChanges: []PartChange{}}
	var err error
	if c.Projection, err = fit.ProjectByHand(before, slot, model); err != nil {
		return c, err
	}
	c.exchange()
	return c, nil
}

// exchange lists the positions that are not as they were, in the order of the sheet.
func (c *Change) exchange() {
	left := fit.Leaves(c.Effects)
	voc := c.Before.Vocabulary()
	for _, p := range c.After.Structure().Positions() {
		x := PartChange{
			Slot:   p.Key,
			Label:  p.Label,
			Before: named(c.Before, p.Key),
			After:  named(c.After, p.Key),
			at:     p,
			build:  voc.Is(p.Kind, parts.Firmware),
		}
		at := slices.IndexFunc(c.Effects, func(e fit.Effect) bool { return e.Slot == p.Key })
		switch {
		case x.build && c.Build:
		case at < 0 && !slices.Contains(left, p.Key):
			continue
		case at >= 0 && c.Effects[at].Stays():
			x.set(c.Effects[at], c.Before, c.After)
		}
		c.PartChanges = append(c.PartChanges, x)
	}
}

// set says what is set otherwise of a part that stays.
func (x *PartChange) set(e fit.Effect, before, after machine.Snapshot) {
	x.Stays, x.setting = true, true
	var labels, was, is []string
	for _, t := range before.Vocabulary().TraitsAt(e.Slot) {
		_, set := e.Traits[t.Name]
		if _, added := e.Adds[t.Name]; set || added {
			x.setting = x.setting && isSetting(t)
			labels, was, is = append(
				labels,
				t.Short,
			), append(
				was,
				t.Show(before.At(t).Value),
			), append(
				is,
				t.Show(after.At(t).Value),
			)
		}
	}
	x.Label += ": " + strings.Join(labels, ", ")
	x.Before, x.After = strings.Join(was, ", "), strings.Join(is, ", ")
}

// exchanges reports whether a part of a kind is changed.
func (c Change) exchanges(kind string) bool {
	return slices.ContainsFunc(c.PartChanges, func(x PartChange) bool { return c.Before.Vocabulary().Is(x.at.Kind, kind) })
}

// Flashes reports whether the work brings a new build, or a new configuration
// where the family is hosted.
func (c Change) Flashes() bool { return c.Build }

// buildMust is what the new build must have, in words.
func (c Change) buildMust() string {
	switch {
	case c.Kit.NewBuild != "":
		return c.Kit.NewBuild
	case len(c.Restated) > 0:
		return strings.Join(c.Restated, "; ")
	}
	return "what this machine is fitted with"
}

// Carried says how what was observed is carried on by what the change takes and gives
// back: "Frame and gantry: print width X: 235 − 40 = 195 mm".
func (c Change) Carried() []string {
	var out []string
	for _, t := range c.Before.Vocabulary().Traits {
		was, is := c.Before.At(t), c.After.At(t)
		touched := slices.ContainsFunc(
			slices.Concat(c.Taken, c.Freed),
			func(x machine.Taking) bool { return x.Key == t.Key() && x.Shift != 0 },
		)
		switch {
		case !touched || !was.Known() || !is.Known() || was.Value == is.Value:
		case t.Kind == machine.Number:
			by, sign := is.Value.Number-was.Value.Number, "+"
			if by < 0 {
				by, sign = -by, "−"
			}
			out = append(
				out,
				fmt.Sprintf(
					"%s: %s %s %s = %s",
					t.Label,
					was.Value.Text,
					sign,
					quantity.Format(math.Round(by*1000)/1000),
					t.Show(is.Value),
				),
			)
		default:
			out = append(out, fmt.Sprintf("%s: %s → %s", t.Label, t.Show(was.Value), t.Show(is.Value)))
		}
	}
	return out
}

// Cost is the price, in the shop's currency, and the minutes of the kit with
// its additional changes.
func (c Change) Cost() (price float64, minutes int) {
	return c.Kit.Cost(c.Additional)
}

// named says what is at a position, for a change of it.
func named(s machine.Snapshot, slot string) string {
	f := s.Fact(machine.KeyOf(slot, machine.ModelTrait))
	switch name, _ := s.Named(slot); {
	case f.Unlisted:
		return machine.None
	case name == "":
		return "unknown"
	case f.Grade == machine.Unknown && !isBuild(s, slot):
		// Of a part without a name its traits would read as if they were one.
		return "unnamed " + kindWord(s, slot)
	default:
		return name
	}
}

func isBuild(s machine.Snapshot, slot string) bool {
	p := s.Vocabulary().At(slot)
	return p != nil && s.Vocabulary().Is(p.Kind, parts.Firmware)
}

// kindWord is what a part of a position is called, in small letters.
func kindWord(s machine.Snapshot, slot string) string {
	p := s.Vocabulary().At(slot)
	if p == nil {
		return "part"
	}
	kind, _ := s.Vocabulary().Kind(p.Kind)
	return strings.ToLower(kind.Label)
}

// familyOf is the firmware family that stands; empty when it is unknown.
func familyOf(s machine.Snapshot) string {
	return s.Of(s.First(parts.Firmware), parts.FirmwareFamily).Value.Text
}

// holds reports whether a part of a kind is known to be fitted anywhere.
func holds(s machine.Snapshot, kind string) bool {
	return slices.ContainsFunc(s.Each(kind), s.Holds)
}

// without reports whether a machine is known to have no part of a kind.
func without(s machine.Snapshot, kind string) bool {
	return !slices.ContainsFunc(s.Each(kind), func(p *machine.Position) bool { return s.ModelAt(p) != machine.None })
}
