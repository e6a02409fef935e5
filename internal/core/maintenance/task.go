package maintenance

import (
	_ "embed"
	"encoding/json"
	"fmt"
	"math"
	"slices"
	"strings"
	"sync"
	"time"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/machine"
)

// ProtectionTask is the key of the thermal-protection test, which outranks all
// others while it is not proven.
const ProtectionTask = "protection-test"

// Limits are after how much use, or how long, something is done; whichever comes first. What
// is zero sets none.
type Limits struct {
	Hours    float64 `json:"hours,omitempty"    doc:"Print hours"`
	Filament float64 `json:"filament,omitempty" doc:"m pushed through"`
	Prints   float64 `json:"prints,omitempty"   doc:"Prints begun"`
	Days     int     `json:"days,omitempty"     doc:"Calendar days"`
}

// Of is the limit of a counter.
func (l Limits) Of(c Counter) float64 {
	switch c {
	case Hours:
		return l.Hours
	case Filament:
		return l.Filament
	case Prints:
		return l.Prints
	}
	return 0
}

// over is the limits with others in their places.
func (l Limits) over(by Limits) Limits {
	if by == (Limits{}) {
		return l
	}
	return by
}

// times is the limits so many times as long.
func (l Limits) times(n float64) Limits {
	return Limits{Hours: l.Hours * n, Filament: l.Filament * n, Prints: l.Prints * n,
		Days: int(math.Round(float64(l.Days) * n))}
}

// Condition is where another limit holds: where a trait of the part, or of another part of the
// machine, stands at a word, or above a number.
type Condition struct {
	Trait string   `json:"trait" doc:"Kind and trait: nozzle.abrasive"`
	Is    string   `json:"is,omitempty"`
	Over  *float64 `json:"over,omitempty" doc:"In the trait's unit"`
	Limits
	Times float64 `json:"times,omitempty" doc:"By which the limits are multiplied; 0 is not at all"`
	Never bool    `json:"never,omitempty" doc:"The part needs no such work"`
	Words string  `json:"words" doc:"Why, as it is shown: abrasive filament"`
}

// Task is a kind of maintenance, as a shop has it.
type Task struct {
	Key   string `json:"key"`
	Title string `json:"title"`
	How   string `json:"how"`
	Limits
	When  []Condition `json:"when" doc:"Each that is so takes effect, in their order"`
	After []Event     `json:"after" enum:"upgrade,fault,build" doc:"Also due after these"`
	Kind  string      `json:"kind" doc:"The kind of part it is about; a machine without one is left out"`
	// Renews is the kind of part that the task puts in anew: always, or where the person
	// who did it says so. Calibrations that depend on it are invalid then.
	Renews   string   `json:"renews,omitempty"`
	Always   bool     `json:"always,omitempty" doc:"The task is the change"`
	Fitted   bool     `json:"fitted,omitempty" doc:"Only where such a part is known to be fitted"`
	Minutes  float64  `json:"minutes,omitempty" doc:"What it usually takes, min"`
	Skill    string   `json:"skill,omitempty" doc:"What who does it must be able to do; empty: anybody who works here"`
	Cold     bool     `json:"cold,omitempty" doc:"The machine is cold for it"`
	Pause    bool     `json:"pause,omitempty" doc:"May be left over the end of a shift, the machine locked out"`
	Tools    []string `json:"tools"`
	Cautions []string `json:"cautions"`
	// Steps are those of the house's own, in their order, after the task itself.
	Steps []TaskStep `json:"steps,omitempty"`
	Risk  Risk       `json:"risk" enum:"shock or fire,hurts people,breaks machines,spoils prints"`
	Off   bool       `json:"off,omitempty" doc:"This shop does not do it"`
}

// usualMinutes is what a task takes of which nobody has said it. Source: from memory.
const usualMinutes = 15

// UsualMinutes is what the task usually takes, min.
func (t Task) UsualMinutes() float64 {
	if t.Minutes > 0 {
		return t.Minutes
	}
	return usualMinutes
}

// TaskStep is a step of a work order for a task.
type TaskStep struct {
	Title string `json:"title"`
	Do    string `json:"do"`
}

// Risk is what a task that is not done leads to.
type Risk string

// The risks.
const (
	ShockAndFire   Risk = "shock or fire"
	HurtsPeople    Risk = "hurts people"
	BreaksMachines Risk = "breaks machines"
	SpoilsPrints   Risk = "spoils prints"
)

// Risks lists them, the worst first.
func Risks() []Risk { return []Risk{ShockAndFire, HurtsPeople, BreaksMachines, SpoilsPrints} }

// Weight is how grave it is that a task of the risk is late: 4 for shock or fire down to 1.
func (r Risk) Weight() int { return len(Risks()) - max(0, slices.Index(Risks(), r)) }

// Safety reports whether people's safety depends on it.
func (r Risk) Safety() bool { return r == ShockAndFire || r == HurtsPeople }

// MainsWiring is the skill of those who may put hands on mains wiring. What local rules ask for comes first.
const MainsWiring = "mains wiring"

// Event is something after which a task is due at once.
type Event string

// The events.
const (
	AfterUpgrade Event = "upgrade" // a work order that changed parts
	AfterFault   Event = "fault"   // one that was closed
	AfterBuild   Event = "build"   // another one runs
)

// Events lists them.
func Events() []Event { return []Event{AfterUpgrade, AfterFault, AfterBuild} }

// Happened is an event of a machine.
type Happened struct {
	Event Event
	At    time.Time
	Says  string // "work order 12"
}

//go:embed tasks.json
var shippedText []byte

var shipped = sync.OnceValue(func() []Task {
	var out []Task
	if err := json.Unmarshal(shippedText, &out); err != nil {
		panic(err) // part of the binary
	}
	for i := range out {
		out[i] = out[i].whole()
	}
	return out
})

// whole is a task whose lists are there where they are empty too.
func (t Task) whole() Task {
	t.When, t.After = append([]Condition{}, t.When...), append([]Event{}, t.After...)
	t.Tools, t.Cautions = append([]string{}, t.Tools...), append([]string{}, t.Cautions...)
	return t
}

// Shipped are the tasks to begin with; a shop changes them, and learns its own from its
// failures. Source of intervals and risks: from memory.
func Shipped() []Task { return slices.Clone(shipped()) }

// In are the tasks of a shop: those shipped, with those in their places that it keeps as its
// own, and its further ones behind.
func In(own []Task) []Task {
	out := Shipped()
	for _, t := range own {
		t = t.whole()
		if i := slices.IndexFunc(out, func(is Task) bool { return is.Key == t.Key }); i >= 0 {
			out[i] = t
		} else {
			out = append(out, t)
		}
	}
	return out
}

// Find gives the task of a key.
func Find(tasks []Task, key string) (Task, bool) {
	for _, t := range tasks {
		if t.Key == key {
			return t, true
		}
	}
	return Task{}, false
}

// Applies reports whether a machine has anything that the task is for.
func (t Task) Applies(s machine.Snapshot) bool {
	return slices.ContainsFunc(t.fitted(s), func(p *machine.Position) bool {
		_, _, applies := t.Interval(s, p)
		return applies
	})
}

// fitted are the positions of a machine at which it has a part that the task is for.
func (t Task) fitted(s machine.Snapshot) []*machine.Position {
	var out []*machine.Position
	for _, p := range s.Each(t.Kind) {
		if model := s.ModelAt(p); model != machine.None && (!t.Fitted || model != "") {
			out = append(out, p)
		}
	}
	return out
}

// Wearing are the positions of a machine whose parts wear with use, by some tasks.
func Wearing(tasks []Task, s machine.Snapshot) map[string]bool {
	out := map[string]bool{}
	for _, t := range tasks {
		if t.Off || !t.wears() {
			continue
		}
		for _, p := range t.fitted(s) {
			out[p.Key] = true
		}
	}
	return out
}

// wears reports whether any counter limits the task.
func (t Task) wears() bool {
	return slices.ContainsFunc(Counters(), func(c Counter) bool {
		return t.Of(c) > 0 || slices.ContainsFunc(t.When, func(w Condition) bool { return w.Of(c) > 0 })
	})
}

// Interval are the limits of the part at a position, and why they differ from
// the usual; applies is false where the part needs no such work.
func (t Task) Interval(s machine.Snapshot, p *machine.Position) (limits Limits, why string, applies bool) {
	limits = t.Limits
	for _, c := range t.When {
		if !c.holds(s, p) {
			continue
		}
		if c.Never {
			return Limits{}, c.Words, false
		}
		limits = limits.over(c.Limits)
		words := c.Words
		if c.Times > 0 {
			limits = limits.times(c.Times)
			words = fmt.Sprintf("%s ×%g", words, c.Times)
		}
		why = join(why, words)
	}
	return limits, why, true
}

// holds reports whether what stands makes the condition true, at the part itself or, of
// another kind, at any part of the machine.
func (c Condition) holds(s machine.Snapshot, p *machine.Position) bool {
	kind, trait, _ := strings.Cut(c.Trait, ".")
	at := []*machine.Position{p}
	if !s.Vocabulary().Is(p.Kind, kind) {
		at = s.Each(kind)
	}
	return slices.ContainsFunc(at, func(p *machine.Position) bool {
		t, ok := s.Vocabulary().Trait(machine.KeyOf(p.Key, trait))
		if !ok {
			return false
		}
		f := s.At(t)
		switch {
		case !f.Known():
			return false
		case c.Over != nil:
			return f.Value.Number > *c.Over
		}
		return strings.EqualFold(f.Value.Text, c.Is)
	})
}

func join(a, b string) string {
	if a == "" {
		return b
	}
	return a + ", " + b
}

// Renewed is what becomes of calibrations where a task put parts in anew at positions of
// a machine: at every one of the kind where none is named.
func (t Task) Renewed(s machine.Snapshot, at []string) (calibration.Difference, error) {
	d := calibration.Difference{Before: s, After: s, Exchanged: map[string]string{}}
	for _, key := range at {
		if !slices.ContainsFunc(s.Each(t.Renews), func(p *machine.Position) bool { return p.Key == key }) {
			return d, fmt.Errorf("%s: this machine has no position %q for it", t.Title, key)
		}
	}
	for _, p := range s.Each(t.Renews) {
		if (len(at) == 0 || slices.Contains(at, p.Key)) && s.ModelAt(p) != machine.None {
			d.Exchanged[p.Key] = p.Label + ": a new one, or adjusted, in maintenance"
		}
	}
	return d, nil
}
