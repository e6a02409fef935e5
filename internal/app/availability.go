package app

import (
	"cmp"
	"context"
	"slices"
	"strings"
	"sync"
	"time"

	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/maintenance"
	"wardifex/internal/core/parts"
	"wardifex/internal/core/schedule"
	"wardifex/internal/store"
)

// Usable is a machine as whoever wants to print sees it.
type Usable struct {
	ID      int64                    `json:"id"`
	Name    string                   `json:"name"`
	Bay     string                   `json:"bay"`
	State   maintenance.Availability `json:"state"   enum:"free,attended only,locked out,known broken,out of use"`
	Why     string                   `json:"why"     doc:"Why it is not free; empty where it is"`
	Size    string                   `json:"size"    doc:"235 × 235 × 250 mm; empty where it is unknown"`
	Nozzles []string                 `json:"nozzles" doc:"Of each head: bore and material, as far as they are known"`
	Hottest string                   `json:"hottest" doc:"Highest temperature of its hotends"`
	Faults  int                      `json:"faults"  doc:"Open ones"`
	Taken   *time.Time               `json:"taken,omitempty" doc:"Until when it is booked or worked on now"`
	Next    *time.Time               `json:"next,omitempty"  doc:"When it is booked or worked on next, within a week"`
}

// MachineForMember is a machine as a member who stands before it sees it.
type MachineForMember struct {
	Usable
	Retired bool  `json:"retired"`
	Photo   int64 `json:"photo" doc:"The newest of its record; 0 where there is none"`
}

// ForMember is one machine as a member who stands before it sees it.
func (a *App) ForMember(ctx context.Context, id int64, now time.Time) (MachineForMember, error) {
	m, err := a.store.Machine(ctx, id)
	if err != nil {
		return MachineForMember{}, err
	}
	ahead, err := a.takenAhead(ctx, now)
	if err != nil {
		return MachineForMember{}, err
	}
	out := MachineForMember{Usable: a.usable(&m, now), Retired: m.RetiredAt != nil}
	out.Taken, out.Next = ahead.of(m.ID, now)
	out.Photo, err = a.store.NewestPhoto(ctx, id)
	return out, err
}

// UsableQuery narrows which machines are shown; what is zero narrows nothing.
type UsableQuery struct {
	Text string // of the name, the bay or a nozzle
	Job  maintenance.PrintJob
	Only bool // those that can be used now
}

// UsableList is the machines that were asked for, freest first.
type UsableList struct {
	Machines []Usable       `json:"machines"`
	Found    int            `json:"found"   doc:"How many were asked for, of which some are shown"`
	States   map[string]int `json:"states"  doc:"How many of those found are free, attended only and so on"`
	Unknown  int            `json:"unknown" doc:"Machines left out because what was asked is not on record of them"`
}

// Usable lists which machines can be used now, and for what.
func (a *App) Usable(ctx context.Context, q UsableQuery, offset, limit int, now time.Time) (UsableList, error) {
	out := UsableList{Machines: []Usable{}, States: map[string]int{}}
	fleet, err := a.store.Fleet(ctx)
	if err != nil {
		return out, err
	}
	ahead, err := a.takenAhead(ctx, now)
	if err != nil {
		return out, err
	}
	var all []Usable
	for i := range fleet {
		m := &fleet[i]
		known, enough := q.Job.Fits(m.Facts)
		if !known {
			out.Unknown++
		}
		u := a.usable(m, now)
		u.Taken, u.Next = ahead.of(m.ID, now)
		if known && enough && q.shows(u) {
			out.States[string(u.State)]++
			all = append(all, u)
		}
	}
	freest := maintenance.Availabilities()
	slices.SortStableFunc(all, func(a, b Usable) int {
		return cmp.Or(cmp.Compare(slices.Index(freest, a.State), slices.Index(freest, b.State)),
			cmp.Compare(since(a.Taken), since(b.Taken)))
	})
	out.Found = len(all)
	out.Machines = append(out.Machines, all[min(offset, len(all)):min(offset+limit, len(all))]...)
	return out, nil
}

// since is a moment as a number, so that none comes first.
func since(t *time.Time) int64 {
	if t == nil {
		return 0
	}
	return t.Unix()
}

// taken is when machines are booked or worked on, in their order.
type taken map[int64]schedule.Spans

// takenAhead is when machines are booked or worked on in the week ahead.
func (a *App) takenAhead(ctx context.Context, now time.Time) (taken, error) {
	within := schedule.Span{From: now, To: now.Add(beforeBooking)}
	times, err := a.bookedTimes(ctx, within)
	if err != nil {
		return nil, err
	}
	all := map[int64][]schedule.Span{}
	for _, t := range times {
		all[t.Machine] = append(all[t.Machine], t.Span)
	}
	work, err := a.plannedWork(ctx)
	for machine, list := range work {
		for _, w := range list {
			if w.Overlaps(within) {
				all[machine] = append(all[machine], w.Span)
			}
		}
	}
	out := taken{}
	for machine, spans := range all {
		out[machine] = schedule.Join(spans...)
	}
	return out, err
}

// of is until when a machine is taken now, and when it is next.
func (t taken) of(machine int64, now time.Time) (until, next *time.Time) {
	for _, s := range t[machine] {
		if !s.From.After(now) {
			until = &s.To
			continue
		}
		return until, &s.From
	}
	return until, nil
}

// consistency remembers what is known broken on machines as they are: working it out takes longer than all else
// that decides whether one can be used.
type consistency struct {
	mu    sync.Mutex
	known map[int64]knownConsistency
}

type knownConsistency struct {
	facts  machine.Snapshot
	broken string
}

// mostConsistencies bounds of how many machines it is remembered.
const mostConsistencies = 20_000

// broken is what is known broken on a machine as it stands; empty where nothing is.
func (c *consistency) broken(m *store.Machine) string {
	c.mu.Lock()
	is, known := c.known[m.ID]
	c.mu.Unlock()
	if known && is.facts.Same(m.Facts) {
		return is.broken
	}
	is = knownConsistency{facts: m.Facts}
	if state, _ := fit.ConsistencyOf(m.Facts); state == fit.KnownBroken {
		is.broken = "known broken"
		if st := fit.Stand(m.Facts); len(st.Broken) > 0 {
			is.broken = "known broken: " + st.Broken[0].Label
		}
	}
	c.mu.Lock()
	defer c.mu.Unlock()
	if c.known == nil || len(c.known) >= mostConsistencies {
		c.known = map[int64]knownConsistency{}
	}
	c.known[m.ID] = is
	return is.broken
}

// readiness is what decides whether a machine can be used.
func (a *App) readiness(m *store.Machine, now time.Time) maintenance.Readiness {
	ready := maintenance.Readiness{Use: m.Use.Use, Why: m.Use.Why, Proven: m.Protection(now).Proven}
	if m.OpenOrder != nil {
		ready.Work = m.OpenOrder.Kit
	}
	if m.Danger != nil {
		ready.Danger = m.Danger.String()
	}
	ready.Broken = a.consistency.broken(m)
	return ready
}

func (a *App) usable(m *store.Machine, now time.Time) Usable {
	u := Usable{ID: m.ID, Name: m.Name, Bay: m.Bay, Faults: m.OpenFaults, Nozzles: []string{}}
	u.State, u.Why = a.readiness(m, now).Available()
	frame := m.Facts.First(parts.Frame)
	if size := shown(m.Facts, frame, parts.FrameX, parts.FrameY, parts.FrameZ); len(size) == 3 {
		u.Size = strings.ReplaceAll(strings.Join(size[:2], " × "), " mm", "") + " × " + size[2]
	}
	for _, p := range m.Facts.Each(parts.Nozzle) {
		if words := shown(m.Facts, p, parts.NozzleBore, parts.NozzleMaterial); len(words) > 0 {
			u.Nozzles = append(u.Nozzles, strings.Join(words, ", "))
		}
	}
	if words := shown(m.Facts, maintenance.CoolestHotend(m.Facts), parts.HotendRating); len(words) > 0 {
		u.Hottest = words[0]
	}
	return u
}

// shown writes what is known of a position's traits.
func shown(s machine.Snapshot, p *machine.Position, names ...machine.TraitOf) []string {
	var out []string
	for _, name := range names {
		if f := s.Of(p, name); f.Known() {
			out = append(out, f.Trait.Show(f.Value))
		}
	}
	return out
}

func (q UsableQuery) shows(u Usable) bool {
	if q.Only && (!u.State.Usable() || u.Taken != nil) {
		return false
	}
	said := strings.ToLower(strings.Join(append([]string{u.Name, u.Bay}, u.Nozzles...), " "))
	return strings.Contains(said, strings.ToLower(strings.TrimSpace(q.Text)))
}

// freedom is how free a machine is, the freest first.
func freedom(u Usable) int { return slices.Index(maintenance.Availabilities(), u.State) }
