package recordfile

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/civil"
	"wardifex/internal/core/firmware"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/maintenance"
	"wardifex/internal/core/wiring"
)

// Faults lists what is wrong with a record file, against a vocabulary that has
// what its catalogue says: references that lead nowhere, a part in two places
// at once, two parts in one slot, readings dated in the future or of values
// that cannot be. nil when it can be imported.
func (f File) Faults(voc *machine.Vocabulary, now time.Time) []string {
	c := checker{voc: voc, now: now, parts: map[int]*Part{}, builds: map[string]bool{}}
	for _, b := range f.Builds {
		if c.builds[strings.ToLower(b.Name)] {
			c.say("the build %q is in the file twice", b.Name)
		}
		c.builds[strings.ToLower(b.Name)] = true
		if err := b.Check(voc); err != nil {
			c.say("build %q: %s", b.Name, err)
		}
	}
	for i := range f.Parts {
		c.part(&f.Parts[i])
	}
	names := map[string]bool{}
	for i := range f.Machines {
		m := &f.Machines[i]
		if name := strings.ToLower(m.Name); names[name] {
			c.say("machine %q is in the file twice", m.Name)
		} else {
			names[name] = true
		}
		c.machine(m)
	}
	c.places(f.Machines)
	all := maintenance.In(f.Tasks)
	for i, t := range f.Tasks {
		if slices.ContainsFunc(f.Tasks[:i], func(o maintenance.Task) bool { return o.Key == t.Key }) {
			c.say("the task %q is in the file twice", t.Key)
		}
		if err := t.Check(all, voc); err != nil {
			c.say("task %q: %s", t.Key, err)
		}
	}
	if c.more > 0 {
		c.out = append(c.out, fmt.Sprintf("and %d faults more", c.more))
	}
	return c.out
}

type checker struct {
	voc    *machine.Vocabulary
	now    time.Time
	parts  map[int]*Part
	builds map[string]bool // by name, in small letters
	out    []string
	more   int // faults that are not listed
}

func (c *checker) say(format string, args ...any) {
	if len(c.out) == catalogue.MostFaults {
		c.more++
		return
	}
	c.out = append(c.out, fmt.Sprintf(format, args...))
}

func (c *checker) past(what string, at time.Time) {
	if at.After(c.now) {
		c.say("%s is dated %s, which is still to come", what, at.Format(civil.Moment))
	}
}

func (c *checker) part(p *Part) {
	if p.No < 1 || c.parts[p.No] != nil {
		c.say("part %d: numbers begin at 1 and each is there once", p.No)
	}
	c.parts[p.No] = p
	_, ok := c.voc.Kind(p.Kind)
	if !ok {
		c.say("part %d: there is no kind of part %q", p.No, p.Kind)
		return
	}
	if p.Price != nil && *p.Price < 0 {
		c.say("part %d: a price is not negative", p.No)
	}
	c.bought(fmt.Sprintf("part %d", p.No), p.BoughtOn)
	c.readings(fmt.Sprintf("part %d", p.No), p.Kind, p.Readings)
}

// bought checks the day on which something was bought.
func (c *checker) bought(what, text string) {
	if text == "" {
		return
	}
	var day civil.Day
	if err := day.UnmarshalText([]byte(text)); err != nil {
		c.say("%s: bought on: %s", what, err)
	} else if day > civil.Of(c.now) {
		c.past(what, day.Start(c.now.Location()))
	}
}

func (c *checker) machine(m *Machine) {
	if err := machine.PlainText(m.Name); err != nil {
		c.say("machine %q: its name: %s", m.Name, err)
	}
	c.past("machine "+m.Name, m.Since)
	c.bought("machine "+m.Name, m.BoughtOn)
	order := func(what string, n int) {
		if n < 0 || n > len(m.Orders) {
			c.say("machine %s, %s: there is no order %d in it", m.Name, what, n)
		}
	}
	open := 0
	for i, o := range m.Orders {
		if o.State == "open" {
			open++
		} else if o.State != "planned" && o.ClosedAt == nil {
			c.say("machine %s, order %d is %s without the time at which it was", m.Name, i+1, o.State)
		}
		keys := map[string]bool{}
		for _, s := range o.Steps {
			if keys[s.Key] {
				c.say("machine %s, order %d: step %q is there twice", m.Name, i+1, s.Key)
			}
			keys[s.Key] = true
		}
	}
	if open > 1 {
		c.say("machine %s has %d open orders; one locks it out", m.Name, open)
	}
	c.positions(m)
	for _, f := range m.Fittings {
		slot, ok := c.voc.Position(f.Slot)
		switch p := c.parts[f.Part]; {
		case !ok:
			c.say("machine %s: there is no position %q", m.Name, f.Slot)
		case p == nil:
			c.say("machine %s, %s: there is no part %d in the file", m.Name, slot.Label, f.Part)
		case p.Kind != slot.Kind:
			c.say("machine %s, %s: part %d is a %s, and the slot holds a %s", m.Name, slot.Label, f.Part, p.Kind, slot.Kind)
		}
		if f.To != nil && f.To.Before(f.From) {
			c.say("machine %s, %s: part %d is taken out before it is fitted", m.Name, f.Slot, f.Part)
		}
		c.past("machine "+m.Name+", "+f.Slot, f.From)
		order(f.Slot, f.Order)
	}
	for i, r := range m.Calibrations {
		if _, ok := calibration.Of(calibration.Kind(r.Kind)); !ok {
			c.say("machine %s, calibration %d: there is no kind %q", m.Name, i+1, r.Kind)
		}
		c.past(fmt.Sprintf("machine %s, calibration %d", m.Name, i+1), r.At)
		order("a calibration", r.Order)
		if _, err := calibration.ParseSubject(r.Subject); err != nil {
			c.say("machine %s, calibration %d: %s", m.Name, i+1, err)
		}
		for _, v := range r.Gone() {
			if _, err := calibration.ParseSubject(v.Subject); err != nil {
				c.say("machine %s, calibration %d: %s", m.Name, i+1, err)
			}
			order("an invalid calibration", v.Order)
		}
	}
	c.runs(m, order)
	type reading struct {
		of maintenance.Counter
		at int64
	}
	at := map[reading]bool{}
	for _, r := range m.Meters {
		if !maintenance.IsCounter(r.Counts()) {
			c.say("machine %s: %q is none of what machines count: %v", m.Name, r.Counter, maintenance.Counters())
		}
		if r.Hours < 0 {
			c.say("machine %s: a meter shows %g %s", m.Name, r.Hours, r.Counts().Unit())
		}
		this := reading{r.Counts(), r.At.UnixNano()}
		if at[this] {
			c.say("machine %s: the meter is read twice at %s", m.Name, r.At.Format(time.RFC3339))
		}
		at[this] = true
		c.past("machine "+m.Name+", a meter reading", r.At)
	}
	for _, l := range m.Labour {
		if l.Minutes < 1 {
			c.say("machine %s: %d minutes of work", m.Name, l.Minutes)
		}
		order("labour", l.Order)
	}
	for _, u := range m.Uses {
		if !slices.Contains(maintenance.Uses(), u.Use) {
			c.say("machine %s: %q is no use; there are %v", m.Name, u.Use, maintenance.Uses())
		}
	}
	heads := map[string]bool{}
	for _, w := range m.WireSheets {
		if heads[w.Head] {
			c.say("machine %s: head %q has two wire sheets", m.Name, w.Head)
		}
		heads[w.Head] = true
		if _, err := wiring.Check(w.Sheet); err != nil {
			c.say("machine %s, wire sheet: %s", m.Name, err)
		}
	}
}

// readings checks what was read of something of a kind.
func (c *checker) readings(what, kindKey string, list []Reading) {
	kind, _ := c.voc.Kind(kindKey)
	traits := c.voc.TraitsOf(kindKey)
	for i, r := range list {
		where := fmt.Sprintf("%s, reading %d", what, i+1)
		at := slices.IndexFunc(traits, func(t machine.TraitDef) bool { return t.Name == r.Trait })
		if at < 0 {
			c.say("%s: a %s has no trait %q", where, kind.Label, r.Trait)
			continue
		}
		t := &machine.Trait{TraitDef: traits[at], Label: kind.Label + ": " + traits[at].Short}
		if _, err := t.ParseRecorded(r.Value); err != nil {
			c.say("%s: %s", where, err)
		}
		if err := machine.CheckReading(t, machine.Reading{Grade: r.Grade, TakenAt: r.At}, c.now); err != nil {
			c.say("%s: %s", where, err)
		}
		if (r.SetAsideWhy == "") != (r.SetAsideAt == nil) {
			c.say("%s: set aside without a reason, or a reason without its time", where)
		}
	}
}

// runs checks the builds that the boards of a machine ran.
func (c *checker) runs(m *Machine, order func(string, int)) {
	var before []firmware.Run
	for i, r := range m.Runs {
		what := fmt.Sprintf("machine %s, run %d", m.Name, i+1)
		slot, ok := c.voc.Position(r.Slot)
		if !ok {
			c.say("%s: there is no position %q", what, r.Slot)
			continue
		}
		if kind, _ := c.voc.Kind(slot.Kind); !kind.Software {
			c.say("%s: %s holds parts, and runs no build", what, slot.Label)
		}
		if r.Build != "" && !c.builds[strings.ToLower(r.Build)] {
			c.say("%s: there is no build %q in the file", what, r.Build)
		}
		run := firmware.Run{Slot: r.Slot, From: r.From}
		if r.To != nil {
			run.To = *r.To
		}
		if err := firmware.CheckRun(run, before, c.now); err != nil {
			c.say("%s: %s", what, err)
		}
		before = append(before, run)
		c.readings(what, slot.Kind, r.Readings)
		order(what, r.Order)
	}
}

// elsewhere reports whether a position is at another place than the fleet has its key.
// Where the usual positions are, the catalogue says, and what is not placed can be
// anywhere.
func (c *checker) elsewhere(p, known machine.Position) bool {
	usual := slices.ContainsFunc(c.voc.Catalogue.Slots, func(o machine.Position) bool { return o.Key == p.Key })
	placed := p.Serves != machine.NoPlace && known.Serves != machine.NoPlace
	return !usual && placed && (p.Serves != known.Serves || p.Ordinal() != known.Ordinal())
}

// positions checks the list of a machine's positions.
func (c *checker) positions(m *Machine) {
	if n := len(m.Positions); n > 4*machine.MostPositions {
		c.say("machine %s has %d positions; at most %d are right", m.Name, n, machine.MostPositions)
		return
	}
	now := map[string]bool{}
	for _, p := range m.Positions {
		for _, fault := range c.voc.Catalogue.PositionFaults(p.Position) {
			c.say("machine %s, position %s", m.Name, fault)
		}
		if known, ok := c.voc.Position(p.Key); ok && known.Kind != p.Kind {
			c.say("machine %s, position %q holds a %s; elsewhere it holds a %s", m.Name, p.Key, p.Kind, known.Kind)
		} else if ok && c.elsewhere(p.Position, known) {
			c.say("machine %s, position %q is number %d at %s; on other machines it is number %d at %s. Give it another "+
				"key in the file, and what is fitted there",
				m.Name, p.Key, p.Ordinal(), p.Serves, known.Ordinal(), known.Serves)
		}
		if p.To != nil {
			continue
		}
		if now[p.Key] {
			c.say("machine %s has the position %q twice", m.Name, p.Key)
		}
		now[p.Key] = true
	}
	if len(now) > machine.MostPositions {
		c.say("machine %s has %d positions; at most %d are right", m.Name, len(now), machine.MostPositions)
	}
}

// stay is a part somewhere for a time.
type stay struct {
	what, where string
	from        time.Time
	to          *time.Time
}

// places finds parts that are in two places at once, and slots with two parts.
func (c *checker) places(machines []Machine) {
	parts, slots := map[string][]stay{}, map[string][]stay{}
	for _, m := range machines {
		for _, f := range m.Fittings {
			part, slot := fmt.Sprintf("part %d", f.Part), m.Name+", "+f.Slot
			parts[part] = append(parts[part], stay{part, slot, f.From, f.To})
			slots[slot] = append(slots[slot], stay{slot, part, f.From, f.To})
		}
	}
	for _, by := range []map[string][]stay{parts, slots} {
		var keys []string
		for k := range by {
			keys = append(keys, k)
		}
		slices.Sort(keys)
		for _, k := range keys {
			c.overlaps(by[k])
		}
	}
}

func (c *checker) overlaps(stays []stay) {
	slices.SortStableFunc(stays, func(a, b stay) int { return a.from.Compare(b.from) })
	for i := 1; i < len(stays); i++ {
		before, s := stays[i-1], stays[i]
		if before.to == nil || before.to.After(s.from) {
			what := "%s is fitted in two places at once: %s and %s, at %s"
			if !strings.HasPrefix(s.what, "part ") {
				what = "%s holds two parts at once: %s and %s, at %s"
			}
			c.say(what, s.what, before.where, s.where, s.from.Format(civil.Moment))
		}
	}
}
