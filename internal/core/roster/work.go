package roster

import (
	"fmt"
	"slices"
	"time"

	"wardifex/internal/core/machine"
	"wardifex/internal/core/maintenance"
	"wardifex/internal/core/parts"
)

// Minutes and intervals of work of which nobody has said them, and power of heaters of which it is
// not known. Source: from memory.
const (
	usualOrder    = 60
	usualRepair   = 45
	shortest      = 5
	usualInterval = 90 * day
	usualHeats    = 300 // W
)

// TaskKey, OrderKey and FaultKey say what work is, the same in every plan.
func TaskKey(machine int64, task string) string { return fmt.Sprintf("task/%d/%s", machine, task) }

// OrderKey is the key of a work order.
func OrderKey(order int64) string { return fmt.Sprintf("order/%d", order) }

// FaultKey is the key of a repair that has no order yet.
func FaultKey(fault int64) string { return fmt.Sprintf("fault/%d", fault) }

// Heats is what a machine draws while it heats, W.
func Heats(s machine.Snapshot) float64 {
	sum := 0.0
	for _, p := range s.Each(parts.Heater) {
		if w, ok := s.Number(p, parts.HeaterWatts); ok {
			sum += w
		}
	}
	if sum == 0 {
		return usualHeats
	}
	return sum
}

// WorkOrder is a work order, as far as its job follows from it.
type WorkOrder struct {
	ID          int64
	Task        string // that it is for; empty where it is for none
	Open        bool   // it locks its machine out
	Since       time.Time
	Minutes     float64 // that all of it usually takes; 0 where nobody knows
	Done, Steps int
	Mains       bool     // what is left of it puts hands on mains wiring
	Experience  string   // what its kit says of who should fit it, in words
	Models      []string // of the parts that it fits
	Repairs     bool     // a fault
	Danger      bool     // that fault can hurt somebody
}

// OrderJob is the job of a work order: what is left of it, and for one that is open to bring its machine
// back. Mains wiring asks for that skill. What a kit says in words of who should fit it counts where somebody
// here has it as a skill.
func OrderJob(o WorkOrder, skills []string) Job {
	minutes := o.Minutes
	if minutes == 0 {
		minutes = usualOrder
	}
	if o.Steps > 0 {
		minutes *= float64(o.Steps-o.Done) / float64(o.Steps)
	}
	job := Job{Key: OrderKey(o.ID), Kind: "order", Minutes: max(shortest, int(minutes)), Risk: 2, Pause: true}
	if o.Task != "" {
		job.Kind = o.Task
	}
	switch {
	case o.Danger:
		job.Stage, job.Risk = DangerRepair, maintenance.ShockAndFire.Weight()
	case o.Repairs:
		job.Stage = OrdinaryRepair
	case o.Task != "" && !o.Open: // what is begun is gone on with
		job.Stage = Maintenance
	}
	switch {
	case o.Mains:
		job.Skill = maintenance.MainsWiring
	case slices.Contains(skills, o.Experience):
		job.Skill = o.Experience
	}
	if o.Open {
		job.Unlocks, job.Due = true, o.Since.Add(day)
		return job
	}
	for _, model := range o.Models {
		job.need(model)
	}
	return job
}

// RepairJob is the job of a fault that nobody mends yet. One of danger, or of a machine that is out of use, is as
// grave as can be; of danger it is for who may touch mains wiring, and as soon as can be.
func RepairJob(fault int64, symptom string, danger, outOfUse bool, reported time.Time) Job {
	job := Job{Key: FaultKey(fault), Kind: "repair", Minutes: usualRepair, Risk: 2, Due: reported.Add(day), Pause: true,
		Stage: OrdinaryRepair}
	if minutes := maintenance.RepairMinutes(symptom); minutes > 0 {
		job.Minutes = int(minutes)
	}
	if danger {
		job.Skill, job.Stage, job.Due = maintenance.MainsWiring, DangerRepair, reported
	}
	if danger || outOfUse {
		job.Risk = maintenance.ShockAndFire.Weight()
	}
	return job
}

// TaskJob is the job of a task that is due on a machine. What safety depends on has its date as a limit, unless
// that has passed; what is due without a date is due now.
func TaskJob(id int64, s machine.Snapshot, t maintenance.Task, d maintenance.Due, now time.Time,
	in *time.Location) Job {
	job := Job{Key: TaskKey(id, t.Key), Kind: t.Key, Minutes: int(t.UsualMinutes()), Skill: t.Skill, Pause: t.Pause,
		Risk: t.Risk.Weight(), Interval: usualInterval, Due: now, Stage: Maintenance}
	if !t.Cold {
		job.Heats = Heats(s)
	}
	if d.On != nil {
		job.Due = d.On.End(in)
		if d.LastDone != nil && *d.On > *d.LastDone {
			job.Interval = time.Duration(*d.On-*d.LastDone) * day
		}
		if t.Risk.Safety() && job.Due.After(now) {
			job.Limit = (*d.On + 1).Start(in)
		}
	}
	if t.Renews != "" && t.Always {
		job.need(s.ModelAt(s.First(t.Renews)))
	}
	return job
}

// need asks for a piece of a model, where it is known.
func (j *Job) need(model string) {
	if model == "" || model == machine.None {
		return
	}
	if j.Parts == nil {
		j.Parts = map[string]int{}
	}
	j.Parts[model]++
}
