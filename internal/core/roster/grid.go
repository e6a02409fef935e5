package roster

import (
	"math"
	"slices"
	"time"

	"wardifex/internal/core/civil"
	"wardifex/internal/core/schedule"
)

// grid is a problem on its slots.
type grid struct {
	*Problem
	order   []int   // the jobs, each after those that it waits for
	before  [][]int // jobs that each waits for, with those that unlock its machine
	behind  [][]int // jobs that wait for it
	length  []int   // slots of each job
	first   []int   // slot before which it does not begin
	last    []int   // slot by which it is done
	able    [][]int // people with its skill
	works   []slots // of each person
	ranks   [][]int // of each person: slots worked before each slot
	booked  []slots // of each machine
	floors  [][]int // of each machine
	least   [][]int16
	up      [][]int16 // to begin with, by floor and slot
	stock   map[string][]int
	load    map[string][]float64 // to begin with, by circuit and slot
	down    []int64              // cost of downtime before each slot, thousandths
	day     []int                // of each slot
	days    int
	dear    []int64 // what each job costs unplaced
	unlocks [][]int // of each machine
	repairs [][]int // of each job of maintenance: ordinary repairs of its machine
	upkeep  [][]int // of each ordinary repair: maintenance of its machine
	dangers []int   // repairs of dangers, the one that waits longest first
}

const thousandth = 1000

func newGrid(p *Problem) *grid {
	g := &grid{Problem: p, stock: map[string][]int{}, load: map[string][]float64{}}
	g.order, _ = order(p.Jobs)
	g.calendar()
	g.resources()
	g.jobs()
	return g
}

// slot is the slot in which a moment lies; the one after the last for a later one.
func (g *grid) slot(t time.Time) int {
	return max(0, min(g.Slots, int(math.Floor(float64(t.Sub(g.From))/float64(g.Slot)))))
}

// slotUp is the first slot that begins at a moment or after it.
func (g *grid) slotUp(t time.Time) int {
	return max(0, min(g.Slots, int(math.Ceil(float64(t.Sub(g.From))/float64(g.Slot)))))
}

func (g *grid) moment(slot int) time.Time { return g.From.Add(time.Duration(slot) * g.Slot) }

// within are the slots that lie wholly in some time; touching those of which a part does.
func (g *grid) within(all schedule.Spans) slots {
	out := newSlots(g.Slots)
	for _, s := range all {
		if from, to := g.slotUp(s.From), g.slot(s.To); from < to {
			out.set(from, to)
		}
	}
	return out
}

func (g *grid) touching(all schedule.Spans) slots {
	out := newSlots(g.Slots)
	for _, s := range all {
		if from, to := g.slot(s.From), g.slotUp(s.To); from < to {
			out.set(from, to)
		}
	}
	return out
}

func (g *grid) calendar() {
	g.down = make([]int64, g.Slots+1)
	g.day = make([]int, g.Slots+1)
	minutes := g.Slot.Minutes()
	var last civil.Day
	for s := range g.Slots + 1 {
		at := g.moment(s).In(g.In)
		if on := civil.Of(at); s == 0 || on != last {
			last, g.days = on, g.days+1
		}
		g.day[s] = g.days - 1
		if s < g.Slots {
			busy := g.Busy[at.Weekday()][at.Hour()]
			g.down[s+1] = g.down[s] + int64(math.Round(busy*minutes*g.Weights.Down*thousandth))
		}
	}
}

func (g *grid) resources() {
	for _, p := range g.People {
		works := g.within(p.Works)
		rank := make([]int, g.Slots+1)
		for s := range g.Slots {
			rank[s+1] = rank[s]
			if works.has(s) {
				rank[s+1]++
			}
		}
		g.works, g.ranks = append(g.works, works), append(g.ranks, rank)
	}
	for name := range g.Circuits {
		g.load[name] = make([]float64, g.Slots)
	}
	for _, m := range g.Machines {
		booked := g.touching(m.Booked)
		g.booked = append(g.booked, booked)
		if load := g.load[m.Circuit]; load != nil {
			for s := range g.Slots {
				if booked.has(s) {
					load[s] += m.Prints
				}
			}
		}
	}
	open := g.touching(g.Open)
	g.floors = make([][]int, len(g.Machines))
	for f, floor := range g.Floors {
		up := 0
		for _, m := range floor.Machines {
			if !g.Machines[m].down() {
				g.floors[m] = append(g.floors[m], f)
				up++
			}
		}
		count, least := make([]int16, g.Slots), make([]int16, g.Slots)
		for s := range g.Slots {
			count[s] = int16(up)
			if open.has(s) {
				least[s] = int16(min(up, floor.Least))
			}
		}
		g.up, g.least = append(g.up, count), append(g.least, least)
	}
	for model, stock := range g.Stock {
		pieces := make([]int, g.Slots)
		for s := range pieces {
			pieces[s] = stock.Now
			for _, a := range stock.Arriving {
				if g.slotUp(a.At) <= s {
					pieces[s] += a.Count
				}
			}
		}
		g.stock[model] = pieces
	}
}

func (g *grid) jobs() {
	n := len(g.Jobs)
	g.unlocks = make([][]int, len(g.Machines))
	for j, job := range g.Jobs {
		if job.Unlocks {
			g.unlocks[job.Machine] = append(g.unlocks[job.Machine], j)
		}
	}
	g.before, g.behind = make([][]int, n), make([][]int, n)
	worst := int64(1)
	for j, job := range g.Jobs {
		length := max(1, int(math.Ceil(float64(job.Minutes)/g.Slot.Minutes())))
		g.length = append(g.length, length)
		g.first = append(g.first, g.slotUp(job.NotBefore))
		last := g.Slots
		if !job.Limit.IsZero() && job.Limit.After(g.From) {
			last = g.slot(job.Limit)
		}
		g.last = append(g.last, last)
		var able []int
		for p, person := range g.People {
			if job.Skill == "" || slices.Contains(person.Skills, job.Skill) {
				able = append(able, p)
			}
		}
		g.able = append(g.able, able)
		g.before[j] = g.waitsFor(j)
		if g.Machines[job.Machine].Locked && !job.Unlocks && job.Stage != DangerRepair {
			for _, u := range g.unlocks[job.Machine] {
				if !slices.Contains(g.before[j], u) {
					g.before[j] = append(g.before[j], u)
				}
			}
		}
		for _, a := range g.before[j] {
			g.behind[a] = append(g.behind[a], j)
		}
		worst = max(worst, g.worst(j))
	}
	g.stages()
	g.order = inOrder(g.before)
	for j := range g.Jobs {
		g.dear = append(g.dear, worst*int64(n)*int64(g.Jobs[j].Risk))
	}
}

// waitsFor are the jobs that come before one: those that it says, and the repairs of dangers of its machine. A
// repair of a danger waits for other such repairs alone.
func (g *grid) waitsFor(j int) []int {
	job := &g.Jobs[j]
	out := slices.Clone(job.After)
	if job.Stage == DangerRepair {
		return slices.DeleteFunc(out, func(a int) bool { return g.Jobs[a].Stage != DangerRepair })
	}
	for d := range g.Jobs {
		if g.Jobs[d].Stage == DangerRepair && g.Jobs[d].Machine == job.Machine && !slices.Contains(out, d) {
			out = append(out, d)
		}
	}
	return out
}

// stages notes which jobs of a machine go before which others.
func (g *grid) stages() {
	g.repairs, g.upkeep = make([][]int, len(g.Jobs)), make([][]int, len(g.Jobs))
	of := make([][]int, len(g.Machines)) // ordinary repairs
	for j, job := range g.Jobs {
		switch job.Stage {
		case OrdinaryRepair:
			of[job.Machine] = append(of[job.Machine], j)
		case DangerRepair:
			g.dangers = append(g.dangers, j)
		}
	}
	for j, job := range g.Jobs {
		if job.Stage != Maintenance {
			continue
		}
		g.repairs[j] = of[job.Machine]
		for _, r := range of[job.Machine] {
			g.upkeep[r] = append(g.upkeep[r], j)
		}
	}
	slices.SortStableFunc(g.dangers, func(a, b int) int { return g.Jobs[a].Due.Compare(g.Jobs[b].Due) })
}

// inOrder is the jobs so that each comes after those before it. What waits in a circle comes last:
// it cannot be placed.
func inOrder(before [][]int) []int {
	jobs := make([]Job, len(before))
	for j := range jobs {
		jobs[j].After = before[j]
	}
	out, ok := order(jobs)
	if !ok {
		for j := range jobs {
			if !slices.Contains(out, j) {
				out = append(out, j)
			}
		}
	}
	return out
}
