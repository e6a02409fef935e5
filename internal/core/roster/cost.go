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
	return late + waste + g.down[g.Slots] + 2*g.setUp() + 1
}

func (g *grid) setUp() int64 { return round(g.Weights.SetUp) }

func round(minutes float64) int64 { return int64(math.Round(minutes * thousandth)) }
