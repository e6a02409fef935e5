package roster

import (
	"math"
	"time"
)

const day = 24 * time.Hour

// cost is what a job costs in a time, without its set-up, in thousandths of a minute.
func (g *grid) cost(j, from, to int) int64 {
	late, waste, down := g.terms(j, from, to)
	return late + waste + down
}

func (g *grid) terms(j, from, to int) (late, waste, down int64) {
	job := &g.Jobs[j]
	if !job.Due.IsZero() {
		off := g.moment(to).Sub(job.Due)
		if off > 0 {
			late = round(off.Hours() / day.Hours() * g.Weights.Late * float64(job.Risk))
		} else if job.Interval > 0 {
			share := min(1, -off.Hours()/job.Interval.Hours())
			waste = round(share * float64(job.Minutes) * g.Weights.Waste)
		}
	}
	if !g.Machines[job.Machine].down() {
		down = g.down[to] - g.down[from]
	}
	return late, waste, down
}

// worst is more than a job costs anywhere, with what it does to set-ups.
func (g *grid) worst(j int) int64 {
	job := &g.Jobs[j]
	late, _, _ := g.terms(j, 0, g.Slots)
	waste := round(float64(job.Minutes) * g.Weights.Waste)
	return late + waste + g.down[g.Slots] + 2*(g.setUp()+g.walk()) + 1
}

func (g *grid) setUp() int64 { return round(g.Weights.SetUp) }
func (g *grid) walk() int64  { return round(g.Weights.Walk) }

// turn is what it costs to go over from one job to the next on somebody's day: another kind of work, another
// place. Before the first of a day both change; a -1 is none.
func (g *grid) turn(from, to int) (sum int64) {
	if to < 0 {
		return 0
	}
	if from < 0 || g.Jobs[from].Kind != g.Jobs[to].Kind {
		sum += g.setUp()
	}
	if from < 0 || g.place(from) != g.place(to) {
		sum += g.walk()
	}
	return sum
}

func (g *grid) place(j int) string { return g.Machines[g.Jobs[j].Machine].Place }

func round(minutes float64) int64 { return int64(math.Round(minutes * thousandth)) }
