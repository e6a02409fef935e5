package roster

import (
	"errors"
	"fmt"
	"time"

	"wardifex/internal/core/schedule"
)

// Problem is a shop with its work.
type Problem struct {
	From     time.Time     // the beginning of the first slot
	Slot     time.Duration // length of a slot
	Slots    int
	In       *time.Location // by which days are told apart
	People   []Person
	Machines []Machine
	Jobs     []Job
	Open     schedule.Spans // opening hours, in which floors hold
	Floors   []Floor
	Stock    map[string]Stock // by model
	Circuits map[string]float64
	// Busy is how busy an hour is, from 0 to 1, by weekday and hour: downtime counts by it.
	Busy    [7][24]float64
	Weights Weights
}

// Person is somebody who does work.
type Person struct {
	Name   string
	Skills []string
	Works  schedule.Spans
}

// Machine is one on which work is done.
type Machine struct {
	Name   string
	Place  string // a bay: to go to another takes a walk
	Booked schedule.Spans
	// Down is a machine that is out of use: it counts as down throughout.
	Down bool
	// Locked is one that is locked out, and down: jobs that do not unlock it wait for those that do.
	Locked  bool
	Circuit string
	Prints  float64 // W that it draws while it is booked
}

func (m Machine) down() bool { return m.Down || m.Locked }

// Stage is when a job is done among the others of its machine.
type Stage uint8

// Stages.
const (
	AnyTime Stage = iota
	// DangerRepair goes before all else of its machine, which waits for it; it waits for other such repairs alone. It
	// begins as early as it can, whatever else that moves: bookings of its machine, which is closed, and what locks
	// it do not stand in its way.
	DangerRepair
	// OrdinaryRepair goes before maintenance of its machine, where both are placed.
	OrdinaryRepair
	// Maintenance goes after the repairs of its machine.
	Maintenance
)

// Job is a piece of work on a machine.
type Job struct {
	Key       string // the same over several plans
	Machine   int
	Kind      string // work of one kind in one go shares a set-up
	Minutes   int
	Skill     string
	Parts     map[string]int // pieces, by model
	NotBefore time.Time
	Due       time.Time     // zero: whenever
	Limit     time.Time     // by which safety work is done; zero: none
	Interval  time.Duration // of the task: what is done early wastes a part of it
	Risk      int           // 1 spoils prints, 2 breaks machines, 3 hurts people, 4 shock or fire
	Pause     bool          // may be left over the end of a shift
	After     []int         // jobs that come before it
	Stage     Stage
	Heats     float64 // W that it draws while it lasts
	Unlocks   bool    // brings a machine back that is down
}

// Floor is how many machines of an ability stay up in opening hours.
type Floor struct {
	Ability  string
	Machines []int
	Least    int
}

// Stock is how many pieces of a model there are, and when more arrive.
type Stock struct {
	Now      int
	Arriving []Arrival
}

// Arrival is when pieces that are on order can be used.
type Arrival struct {
	At    time.Time
	Count int
}

// Weights are what costs are made of: each is how many minutes one unit of it is worth.
// Source: from memory; a shop sets its own.
type Weights struct {
	Late  float64 `json:"late"  minimum:"0" maximum:"10000" doc:"Of a day after it is due, times the risk from 1 to 4"`
	Waste float64 `json:"waste" minimum:"0" maximum:"10000" doc:"Of a minute of work done a whole interval early"`
	Down  float64 `json:"down"  minimum:"0" maximum:"10000" doc:"Of a minute down in the busiest hour"`
	Walk  float64 `json:"walk"  minimum:"0" maximum:"10000" doc:"Of a walk to another bay"`
	SetUp float64 `json:"setUp" minimum:"0" maximum:"10000" doc:"Of another kind of work, and the first of a day"`
}

// Usual are the weights of a shop that has set none. Source: from memory.
func Usual() Weights { return Weights{Late: 60, Waste: 1, Down: 1, SetUp: 15, Walk: 5} }

// Placement is a job's doer and time.
type Placement struct {
	Job      int
	Person   int
	From, To time.Time
}

// Plan is where each job stands; those that are not in it are unplaced.
type Plan struct {
	Placed   []Placement // by job
	Unplaced []int
	Cost     int64 // thousandths of a minute, without unplaced work
}

// Bounds of a problem.
const (
	mostSlots = 5 * 7 * 24 * 12 // five weeks of five minutes
	mostJobs  = 20_000
)

// Check refuses a problem that contradicts itself.
func (p *Problem) Check() error {
	switch {
	case p.Slot < time.Minute || p.Slots < 1 || p.Slots > mostSlots:
		return fmt.Errorf("a plan has 1 to %d slots of at least a minute", mostSlots)
	case len(p.Jobs) > mostJobs:
		return fmt.Errorf("a plan holds at most %d jobs; these are %d", mostJobs, len(p.Jobs))
	}
	for _, j := range p.Jobs {
		if j.Machine < 0 || j.Machine >= len(p.Machines) || j.Minutes < 1 || j.Risk < 1 || j.Risk > 4 {
			return fmt.Errorf("job %s: no such machine, no minutes, or no risk from 1 to 4", j.Key)
		}
		for _, a := range j.After {
			if a < 0 || a >= len(p.Jobs) {
				return fmt.Errorf("job %s comes after one that is not there", j.Key)
			}
		}
	}
	if _, ok := order(p.Jobs); !ok {
		return errors.New("some jobs wait for each other in a circle")
	}
	return nil
}

// order is the jobs so that each comes after those that it waits for; ok is false where they wait
// in a circle.
func order(jobs []Job) (out []int, ok bool) {
	waits := make([]int, len(jobs))
	next := make([][]int, len(jobs))
	for j, job := range jobs {
		waits[j] = len(job.After)
		for _, a := range job.After {
			next[a] = append(next[a], j)
		}
	}
	for j := range jobs {
		if waits[j] == 0 {
			out = append(out, j)
		}
	}
	for i := 0; i < len(out); i++ {
		for _, n := range next[out[i]] {
			if waits[n]--; waits[n] == 0 {
				out = append(out, n)
			}
		}
	}
	return out, len(out) == len(jobs)
}
