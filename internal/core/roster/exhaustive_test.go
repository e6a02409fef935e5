package roster_test

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"testing"
	"time"

	"wardifex/internal/core/roster"
	"wardifex/internal/core/schedule"
)

var monday = time.Date(2026, 11, 30, 8, 0, 0, 0, time.UTC)

// broken says which hard rule a plan breaks, told from the problem alone, moment by moment; it
// knows nothing of how plans are made.
func broken(p *roster.Problem, placed []roster.Placement) string {
	at := map[int]roster.Placement{}
	for _, x := range placed {
		at[x.Job] = x
	}
	span := func(x roster.Placement) schedule.Span { return schedule.Span{From: x.From, To: x.To} }
	for i, x := range placed {
		job, person := p.Jobs[x.Job], p.People[x.Person]
		m := p.Machines[job.Machine]
		worked := person.Works.And(schedule.Join(span(x))).Length()
		length := (time.Duration(job.Minutes)*time.Minute + p.Slot - 1).Truncate(p.Slot)
		switch {
		case x.From.Before(p.From) || x.From.Before(job.NotBefore) || !x.From.Equal(x.From.Truncate(p.Slot)):
			return "begins too early, or between slots"
		case x.To.After(p.From.Add(time.Duration(p.Slots) * p.Slot)):
			return "ends after the plan"
		case worked != length:
			return "not as long as it is, in its doer's shift"
		case !job.Pause && !person.Works.Cover(span(x)):
			return "in pieces"
		case !person.Works.At(x.From) || !person.Works.At(x.To.Add(-time.Nanosecond)):
			return "begins or ends out of the shift"
		case job.Skill != "" && !slices.Contains(person.Skills, job.Skill):
			return "no skill"
		case job.Stage != roster.DangerRepair && len(m.Booked.And(schedule.Join(span(x)))) > 0:
			return "over a booking"
		case !job.Limit.IsZero() && job.Limit.After(p.From) && x.To.After(job.Limit):
			return "after its limit"
		}
		before := waitsFor(p, x.Job)
		if m.Locked && !job.Unlocks && job.Stage != roster.DangerRepair {
			n := len(before)
			for j, other := range p.Jobs {
				if other.Unlocks && other.Machine == job.Machine {
					before = append(before, j)
				}
			}
			if n == len(before) {
				return "on a locked machine"
			}
		}
		for _, b := range before {
			if first, ok := at[b]; !ok || first.To.After(x.From) {
				return "before what it waits for"
			}
		}
		for _, y := range placed {
			other := p.Jobs[y.Job]
			if job.Stage == roster.Maintenance && other.Stage == roster.OrdinaryRepair && job.Machine == other.Machine &&
				y.To.After(x.From) {
				return "maintenance before a repair"
			}
		}
		for _, y := range placed[:i] {
			if span(x).Overlaps(span(y)) && (x.Person == y.Person || job.Machine == p.Jobs[y.Job].Machine) {
				return "two at once"
			}
		}
	}
	for model, stock := range p.Stock {
		for _, x := range placed { // as of each begin
			left := stock.Now
			for _, a := range stock.Arriving {
				if !a.At.After(x.From) {
					left += a.Count
				}
			}
			for _, y := range placed {
				if !y.From.After(x.From) {
					left -= p.Jobs[y.Job].Parts[model]
				}
			}
			if left < 0 && p.Jobs[x.Job].Parts[model] > 0 {
				return "no parts"
			}
		}
	}
	for s := range p.Slots {
		now := p.From.Add(time.Duration(s) * p.Slot)
		down := map[int]bool{}
		load := map[string]float64{}
		for m, machine := range p.Machines {
			if machine.Booked.At(now) {
				load[machine.Circuit] += machine.Prints
			}
			down[m] = machine.Down || machine.Locked
		}
		heating := map[string]bool{}
		for _, x := range placed {
			if !now.Before(x.From) && now.Before(x.To) {
				job := p.Jobs[x.Job]
				down[job.Machine] = true
				load[p.Machines[job.Machine].Circuit] += job.Heats
				heating[p.Machines[job.Machine].Circuit] = heating[p.Machines[job.Machine].Circuit] || job.Heats > 0
			}
		}
		for name, most := range p.Circuits {
			if heating[name] && load[name] > most {
				return "too much on one circuit"
			}
		}
		for _, f := range p.Floors {
			up, could := 0, 0
			for _, m := range f.Machines {
				if !down[m] {
					up++
				}
				if !p.Machines[m].Down && !p.Machines[m].Locked {
					could++
				}
			}
			if p.Open.At(now) && up < min(f.Least, could) {
				return "below the floor"
			}
		}
	}
	return ""
}

// waitsFor are the jobs that come before another, told from the problem alone: a danger of its machine before all
// else, and nothing else there before a danger.
func waitsFor(p *roster.Problem, j int) []int {
	job := p.Jobs[j]
	var out []int
	for o, other := range p.Jobs {
		danger := other.Stage == roster.DangerRepair
		here := other.Machine == job.Machine
		told := slices.Contains(job.After, o)
		if o != j && (told && (job.Stage != roster.DangerRepair || danger) ||
			job.Stage != roster.DangerRepair && danger && here) {
			out = append(out, o)
		}
	}
	return out
}

// firstMoments are the repairs of dangers where they have to be: the one that waits longest first, each as early as
// it can, and of those the one that ends first. What somebody has pinned stays where it can.
func firstMoments(p *roster.Problem, pinned map[int]roster.Placement) (out []roster.Placement, dangers map[int]bool) {
	dangers = map[int]bool{}
	var list []int
	for j, job := range p.Jobs {
		if job.Stage == roster.DangerRepair {
			list, dangers[j] = append(list, j), true
			if pin, ok := pinned[j]; ok && broken(p, append(slices.Clone(out), pin)) == "" {
				out = append(out, pin)
			}
		}
	}
	slices.SortStableFunc(list, func(a, b int) int { return p.Jobs[a].Due.Compare(p.Jobs[b].Due) })
	for _, j := range list {
		if slices.ContainsFunc(out, func(x roster.Placement) bool { return x.Job == j }) {
			continue
		}
		var best *roster.Placement
		for s := range p.Slots {
			for person := range p.People {
				x := placedAt(p, j, person, s)
				if x != nil && (best == nil || x.To.Before(best.To)) && broken(p, append(slices.Clone(out), *x)) == "" {
					best = x
				}
			}
			if best != nil {
				out = append(out, *best)
				break
			}
		}
	}
	return out, dangers
}

// placedAt is a job begun by somebody in a slot, as long as it takes in their shifts; nil where it does not end.
func placedAt(p *roster.Problem, j, person, slot int) *roster.Placement {
	x := roster.Placement{Job: j, Person: person, From: p.From.Add(time.Duration(slot) * p.Slot)}
	left := (time.Duration(p.Jobs[j].Minutes)*time.Minute + p.Slot - 1).Truncate(p.Slot)
	end := p.From.Add(time.Duration(p.Slots) * p.Slot)
	for x.To = x.From; left > 0 && x.To.Before(end); x.To = x.To.Add(p.Slot) {
		if p.People[person].Works.At(x.To) {
			left -= p.Slot
		}
	}
	if left > 0 {
		return nil
	}
	return &x
}

// costs is what a plan costs, in minutes.
func costs(p *roster.Problem, placed []roster.Placement) float64 {
	sum := 0.0
	type shift struct {
		person int
		day    string
	}
	days := map[shift][]roster.Placement{}
	for _, x := range placed {
		job := p.Jobs[x.Job]
		if !job.Due.IsZero() {
			if late := x.To.Sub(job.Due).Hours() / 24; late > 0 {
				sum += late * p.Weights.Late * float64(job.Risk)
			} else if job.Interval > 0 {
				sum += min(1, -late*24/job.Interval.Hours()) * float64(job.Minutes) * p.Weights.Waste
			}
		}
		if !p.Machines[job.Machine].Down && !p.Machines[job.Machine].Locked {
			for t := x.From; t.Before(x.To); t = t.Add(p.Slot) {
				sum += p.Busy[t.Weekday()][t.Hour()] * p.Slot.Minutes() * p.Weights.Down
			}
		}
		of := shift{x.Person, x.From.Format(time.DateOnly)}
		days[of] = append(days[of], x)
	}
	for _, list := range days {
		slices.SortFunc(list, func(a, b roster.Placement) int { return a.From.Compare(b.From) })
		for i, x := range list {
			if i == 0 || p.Jobs[list[i-1].Job].Kind != p.Jobs[x.Job].Kind {
				sum += p.Weights.SetUp
			}
			if i == 0 || p.Machines[p.Jobs[list[i-1].Job].Machine].Place != p.Machines[p.Jobs[x.Job].Machine].Place {
				sum += p.Weights.Walk
			}
		}
	}
	return sum
}

// everyPlan is the optimum of a small problem by trying all plans that break no rule: least
// unplaced work by its risk first, then as few moves from an earlier plan as can be, then cost.
type everyPlan struct {
	p      *roster.Problem
	was    []roster.Placement // the earlier plan; nil where none is
	pinned map[int]roster.Placement

	dangers  map[int]bool // repairs of dangers, which are placed already where they can be
	placed   []roster.Placement
	best     []roster.Placement
	unplaced int
	moves    int
	cost     float64
}

func (e *everyPlan) search() {
	e.unplaced, e.cost = math.MaxInt, math.Inf(1)
	e.placed, e.dangers = firstMoments(e.p, e.pinned)
	e.from(0, 0, 0)
}

func (e *everyPlan) from(j, unplaced, moves int) {
	if unplaced > e.unplaced || unplaced == e.unplaced && moves > e.moves {
		return
	}
	p := e.p
	if j == len(p.Jobs) {
		cost := costs(p, e.placed)
		if unplaced < e.unplaced || moves < e.moves || cost < e.cost {
			e.unplaced, e.moves, e.cost, e.best = unplaced, moves, cost, slices.Clone(e.placed)
		}
		return
	}
	if e.dangers[j] {
		missing, moved := 0, 0
		of := func(x roster.Placement) bool { return x.Job == j }
		at := slices.IndexFunc(e.placed, of)
		if at < 0 {
			missing = p.Jobs[j].Risk
		}
		_, pinned := e.pinned[j]
		if was := slices.IndexFunc(e.was, of); was >= 0 && !pinned && (at < 0 || e.placed[at] != e.was[was]) {
			moved = 1
		}
		e.from(j+1, unplaced+missing, moves+moved)
		return
	}
	var was *roster.Placement
	for i := range e.was {
		if e.was[i].Job == j {
			was = &e.was[i]
		}
	}
	pin, pinned := e.pinned[j]
	for person := range p.People {
		for s := range p.Slots {
			x := placedAt(p, j, person, s)
			if x == nil || pinned && *x != pin {
				continue
			}
			e.placed = append(e.placed, *x)
			if broken(p, e.placed) == "" {
				moved := 0
				if was != nil && *x != *was && !pinned {
					moved = 1
				}
				e.from(j+1, unplaced, moves+moved)
			}
			e.placed = e.placed[:len(e.placed)-1]
		}
	}
	if !pinned {
		moved := 0
		if was != nil {
			moved = 1
		}
		e.from(j+1, unplaced+p.Jobs[j].Risk, moves+moved)
	}
}

// smallShop is a shop by chance, with every kind of rule in it now and then.
func smallShop(r *rand.Rand) *roster.Problem {
	p := &roster.Problem{From: monday, Slot: time.Hour, Slots: 5 + r.IntN(3), In: time.UTC, Weights: roster.Usual(),
		Stock: map[string]roster.Stock{}, Circuits: map[string]float64{"north": 2000}}
	if r.IntN(3) == 0 { // over midnight
		p.From = monday.Add(13 * time.Hour)
	}
	at := func(slot int) time.Time { return p.From.Add(time.Duration(slot) * p.Slot) }
	some := func() schedule.Spans {
		from := r.IntN(p.Slots)
		return schedule.Join(schedule.Span{From: at(from), To: at(from + 1 + r.IntN(p.Slots))})
	}
	whole := schedule.Join(schedule.Span{From: at(0), To: at(p.Slots)})
	p.Open = whole
	if r.IntN(3) == 0 {
		p.Open = some()
	}
	for h := range p.Busy[1] {
		p.Busy[1][h], p.Busy[2][h] = float64(r.IntN(5))/4, float64(r.IntN(5))/4
	}
	for i := range 1 + r.IntN(2) {
		person := roster.Person{Name: fmt.Sprint("p", i), Works: whole}
		if r.IntN(2) == 0 {
			person.Works = some()
		}
		if r.IntN(3) == 0 {
			person.Works = person.Works.Minus(some())
		}
		if r.IntN(2) == 0 {
			person.Skills = []string{"mains"}
		}
		p.People = append(p.People, person)
	}
	machines := 1 + r.IntN(3)
	for i := range machines {
		m := roster.Machine{Name: fmt.Sprint("m", i), Place: fmt.Sprint(i / 2), Down: r.IntN(8) == 0, Locked: r.IntN(5) == 0,
			Prints: 900}
		if r.IntN(3) == 0 {
			m.Booked = some()
		}
		if r.IntN(2) == 0 {
			m.Circuit = "north"
		}
		p.Machines = append(p.Machines, m)
	}
	if r.IntN(2) == 0 {
		p.Floors = []roster.Floor{{Ability: "large", Machines: everybody(machines), Least: r.IntN(machines + 1)}}
	}
	if r.IntN(3) == 0 {
		stock := roster.Stock{Now: r.IntN(2)}
		if r.IntN(2) == 0 {
			stock.Arriving = []roster.Arrival{{At: at(r.IntN(p.Slots)), Count: 1}}
		}
		p.Stock["nozzle"] = stock
	}
	for i := range 2 + r.IntN(3) {
		j := roster.Job{Key: fmt.Sprint("j", i), Machine: r.IntN(machines), Kind: string(rune('a' + r.IntN(2))),
			Minutes: 30 + 60*r.IntN(3), Risk: 1 + r.IntN(4), Due: at(r.IntN(3*p.Slots) - p.Slots),
			Interval: time.Duration(10+r.IntN(400)) * time.Hour, Pause: r.IntN(3) == 0, Unlocks: r.IntN(4) == 0,
			Stage: roster.Stage(r.IntN(4))}
		if j.Stage == roster.DangerRepair && r.IntN(2) == 0 {
			j.Stage = roster.Maintenance // not too many dangers
		}
		if r.IntN(4) == 0 {
			j.Skill = "mains"
		}
		if r.IntN(4) == 0 {
			j.Limit = at(r.IntN(p.Slots+1) - 1)
		}
		if r.IntN(5) == 0 {
			j.NotBefore = at(r.IntN(p.Slots))
		}
		if r.IntN(3) == 0 {
			j.Heats = 1200
		}
		if _, kept := p.Stock["nozzle"]; kept && r.IntN(2) == 0 {
			j.Parts = map[string]int{"nozzle": 1}
		}
		if i > 0 && r.IntN(3) == 0 {
			j.After = []int{r.IntN(i)}
		}
		p.Jobs = append(p.Jobs, j)
	}
	// What unlocks comes first, so that every plan can be tried in the order of the jobs.
	first := map[int]bool{}
	for i := range p.Jobs {
		if m := p.Jobs[i].Machine; first[m] {
			p.Jobs[i].Unlocks = false
		} else {
			first[m] = true
		}
	}
	return p
}

func everybody(n int) []int {
	out := make([]int, n)
	for i := range out {
		out[i] = i
	}
	return out
}

func risk(p *roster.Problem, unplaced []int) (sum int) {
	for _, j := range unplaced {
		sum += p.Jobs[j].Risk
	}
	return sum
}

// Check finds something in a plan that was changed by hand where a rule is broken, and nothing where none is.
func TestCheckAgainstEveryRule(t *testing.T) {
	t.Parallel()
	found := 0
	for i := range 500 {
		r := rand.New(rand.NewPCG(uint64(i), 9))
		p := smallShop(r)
		plan, err := roster.Make(p, roster.Search{Seed: 1, Rounds: 100})
		if err != nil {
			t.Fatal(err)
		}
		if got := roster.Check(p, plan.Placed); len(got) > 0 {
			t.Fatalf("shop %d: %+v in a plan that was just made", i, got)
		}
		for range 20 {
			placed := slices.Clone(plan.Placed)
			for range 1 + r.IntN(2) {
				if len(placed) == 0 {
					break
				}
				k := r.IntN(len(placed))
				switch by := time.Duration(r.IntN(9)-4) * p.Slot; r.IntN(3) {
				case 0:
					placed[k].From, placed[k].To = placed[k].From.Add(by), placed[k].To.Add(by)
				case 1:
					placed[k].Person = r.IntN(len(p.People))
				default:
					placed = slices.Delete(placed, k, k+1)
				}
			}
			rule, got := broken(p, placed), roster.Check(p, placed)
			if (rule != "") != (len(got) > 0) {
				t.Fatalf("shop %d: broken %q, found %+v in %+v", i, rule, got, placed)
			}
			if rule != "" {
				found++
			}
		}
	}
	if found < 1000 {
		t.Errorf("%d plans that break a rule", found)
	}
}

// On 500 small shops a plan breaks no rule, is never better than the best of all plans, and on
// average at most 5 % dearer; as much work is placed as can be.
func TestAgainstEveryPlan(t *testing.T) {
	t.Parallel()
	const shops = 500
	var over float64
	exact := 0
	for i := range shops {
		p := smallShop(rand.New(rand.NewPCG(uint64(i), 3)))
		plan, err := roster.Make(p, roster.Search{Seed: 1, Rounds: 3000})
		if err != nil {
			t.Fatal(err)
		}
		if rule := broken(p, plan.Placed); rule != "" {
			t.Fatalf("shop %d: %s: %+v", i, rule, plan.Placed)
		}
		e := everyPlan{p: p}
		e.search()
		got, cost := risk(p, plan.Unplaced), float64(plan.Cost)/1000
		if own := costs(p, plan.Placed); math.Abs(own-cost) > 0.01 {
			t.Errorf("shop %d: says that it costs %.3f; it is %.3f", i, cost, own)
		}
		switch {
		case got < e.unplaced || got == e.unplaced && cost < e.cost-0.01:
			t.Errorf("shop %d: better than the best of all plans: unplaced %d, %.3f; %d, %.3f", i, got, cost, e.unplaced, e.cost)
		case got > e.unplaced:
			t.Errorf("shop %d: risk %d is unplaced, which can be %d", i, got, e.unplaced)
		}
		if e.cost > 0 {
			over += cost/e.cost - 1
		}
		if cost < e.cost+0.01 {
			exact++
		}
	}
	if mean := over / shops; mean > 0.05 {
		t.Errorf("on average %.1f %% dearer than the best", 100*mean)
	} else {
		t.Logf("on average %.3f %% dearer than the best; %d of %d are the best", 100*mean, exact, shops)
	}
}
