package app

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"wardifex/internal/core/civil"
	"wardifex/internal/core/roster"
)

// why tells in sentences without their full stop why a job stands where it does.
func (s *rosterShop) why(r roster.Reason, at roster.Placement) []string {
	job := &s.jobs[r.Job]
	var out []string
	say := func(format string, with ...any) { out = append(out, fmt.Sprintf(format, with...)) }
	switch due := civil.Of(job.Due.In(s.in)); {
	case job.order != 0 && job.Unlocks:
		say("the machine is locked out until it is done")
	case job.Due.IsZero():
	case r.Late > 0:
		say("due since %s", due.Show())
	default:
		say("due by %s", due.Show())
	}
	if job.waits != "" {
		say("it is left, and waits: %s", job.waits)
	}
	if !job.Limit.IsZero() {
		say("safety depends on it: it is not left for later")
	}
	if len(r.With) > 0 {
		say("in one go with the same on %s", s.machinesOf(r.With))
	}
	if r.Down > 0 {
		say("%s is down for %s then", s.fleet[job.Machine].Name, length(at))
	} else if !s.problem.Machines[job.Machine].Down && !s.problem.Machines[job.Machine].Locked {
		say("the shop is closed then, and nobody waits for the machine")
	}
	if next, ok := s.nextBooking(job.Machine, at.To); ok {
		say("the next booking begins %s", s.moment(next))
	}
	if job.Stage == roster.DangerRepair { // other days are not compared: it stands where it can begin first
		say("a danger comes before all other work: it begins as soon as it can")
		return out
	}
	if e := r.Else; e != nil {
		say("the next best day is %s with %s: %s dearer", s.day(e.From), s.problem.People[e.Person].Name,
			minuteWords(r.Dearer))
	} else {
		say("on no other day does it fit")
	}
	return out
}

func minuteWords(m float64) string { return fmt.Sprintf("%.0f min", max(0, m)) }

func length(at roster.Placement) string { return minuteWords(at.To.Sub(at.From).Minutes()) }

func (s *rosterShop) moment(t time.Time) string { return t.In(s.in).Format("Mon 2 Jan 15:04") }
func (s *rosterShop) day(t time.Time) string    { return t.In(s.in).Format("Mon 2 Jan") }

func (s *rosterShop) nextBooking(machine int, after time.Time) (time.Time, bool) {
	for _, b := range s.problem.Machines[machine].Booked {
		if !b.From.Before(after) {
			return b.From, true
		}
	}
	return time.Time{}, false
}

// mostNamed is how many machines a sentence names.
const mostNamed = 4

func (s *rosterShop) machinesOf(jobs []int) string {
	var names []string
	for _, j := range jobs {
		if name := s.fleet[s.jobs[j].Machine].Name; !slices.Contains(names, name) {
			names = append(names, name)
		}
	}
	slices.Sort(names)
	if more := len(names) - mostNamed; more > 0 {
		return fmt.Sprintf("%s and %d more", strings.Join(names[:mostNamed], ", "), more)
	}
	return strings.Join(names, ", ")
}

// BlockedWork is work that cannot be placed.
type BlockedWork struct {
	Key       string   `json:"key"`
	MachineID int64    `json:"machineId"`
	Machine   string   `json:"machine"`
	Title     string   `json:"title"`
	Why       []string `json:"why"     doc:"What stands in its way"`
	Unblock   []string `json:"unblock" doc:"What would let it be planned"`
	Model     string   `json:"model,omitempty" doc:"Of the part that it lacks"`
}

// blocked tells what stands in a job's way, and what would let it be planned.
func (s *rosterShop) blocked(b roster.Blocked) BlockedWork {
	job := &s.jobs[b.Job]
	m := s.fleet[job.Machine]
	out := BlockedWork{Key: job.Key, MachineID: m.ID, Machine: m.Name, Title: job.title, Why: []string{},
		Unblock: []string{}}
	for _, w := range b.Ways {
		var why, unblock []string
		for _, rule := range w.Rules {
			is, would := s.rule(rule, job, w.First)
			why, unblock = append(why, is), append(unblock, would)
			if rule == roster.Parts {
				out.Model, _ = s.lacking(job)
			}
		}
		out.Why = append(out.Why, strings.Join(why, ", and "))
		out.Unblock = append(out.Unblock, strings.Join(unblock, ", and "))
	}
	if len(b.Ways) == 0 {
		out.Why = append(out.Why, fmt.Sprintf("too much stands in its way at once in these %d days", s.set.Days))
		out.Unblock = append(out.Unblock, "plan further ahead, or give it to somebody by hand")
	}
	if len(s.problem.People) == 0 {
		out.Why = []string{"nobody has told when they work"}
		out.Unblock = []string{"set the shifts of those who do it, under People"}
	}
	return out
}

// rule says what a rule has against a job, and what would lift it.
func (s *rosterShop) rule(r roster.Rule, job *rosterJob, first roster.Placement) (why, unblock string) {
	name := s.fleet[job.Machine].Name
	switch r {
	case roster.Skill:
		return fmt.Sprintf("nobody who has the skill “%s” works when it could be done", job.Skill),
			fmt.Sprintf("somebody with the skill “%s”, at %s for instance", job.Skill, s.moment(first.From))
	case roster.Parts:
		model, n := s.lacking(job)
		return fmt.Sprintf("%d × %s lacking: %d on the shelf, %d planned for other work, %s", n, model,
				s.problem.Stock[model].Now, s.used[model], s.arriving(model)),
			fmt.Sprintf("an order of %d × %s", n, model)
	case roster.Order:
		if m := s.problem.Machines[job.Machine]; m.Locked && !job.Unlocks {
			return name + " is locked out, and the work on it is not planned", "plan or finish the work that is open on " + name
		}
		return "what comes before it is not planned", "plan what comes before it"
	case roster.Safety:
		return fmt.Sprintf("it cannot be done by %s, and safety depends on it", s.day(job.Limit)),
			fmt.Sprintf("take %s out of use from then on; the first time is %s", name, s.moment(first.From))
	case roster.Shifts:
		return fmt.Sprintf("nobody who can do it works %d min in one go when it could be done", job.Minutes),
			fmt.Sprintf("a shift over %s, for instance", s.moment(first.From))
	case roster.Bookings:
		return name + " is booked whenever it could be done", fmt.Sprintf("move the booking at %s", s.moment(first.From))
	case roster.Floors:
		return fmt.Sprintf("too few machines stay up: %s", s.floorsOf(job.Machine)),
			"bring another machine of this kind back, lower the floor, or work while the shop is closed"
	case roster.Power:
		circuit := s.problem.Machines[job.Machine].Circuit
		return fmt.Sprintf("it heats with %.0f W, and the circuit %s bears %.0f W for all on it", job.Heats, circuit,
			s.problem.Circuits[circuit]), "fewer machines that print on this circuit then"
	}
	return "those who can do it have other work whenever it could be done",
		fmt.Sprintf("one more person, or more time, at %s for instance", s.moment(first.From))
}

// lacking is the model of which a job lacks most, and how many.
func (s *rosterShop) lacking(job *rosterJob) (model string, n int) {
	for m, want := range job.Parts {
		if short := want - s.problem.Stock[m].Now; model == "" || short > n || short == n && m < model {
			model, n = m, max(1, short)
		}
	}
	return model, n
}

func (s *rosterShop) arriving(model string) string {
	list := s.problem.Stock[model].Arriving
	if len(list) == 0 {
		return "none expected"
	}
	first := slices.MinFunc(list, func(a, b roster.Arrival) int { return a.At.Compare(b.At) })
	return fmt.Sprintf("%d expected on %s", first.Count, civil.Of(first.At.In(s.in)).Show())
}

func (s *rosterShop) floorsOf(machine int) string {
	var out []string
	for _, f := range s.problem.Floors {
		if !slices.Contains(f.Machines, machine) {
			continue
		}
		up := 0
		for _, m := range f.Machines {
			if is := s.problem.Machines[m]; !is.Down && !is.Locked {
				up++
			}
		}
		out = append(out, fmt.Sprintf("of %s at least %d, and %d are up", f.Ability, f.Least, up))
	}
	return strings.Join(out, "; ")
}

// broken says why a job cannot be put where somebody wants it.
func (s *rosterShop) broken(r roster.Rule, job *rosterJob, at roster.Placement) string {
	name, who := s.fleet[job.Machine].Name, s.problem.People[at.Person].Name
	switch r {
	case roster.Skill:
		return fmt.Sprintf("%s has not the skill “%s”", who, job.Skill)
	case roster.Shifts:
		return fmt.Sprintf("%s does not work for %d min from %s", who, job.Minutes, s.moment(at.From))
	case roster.Bookings:
		return fmt.Sprintf("%s is booked then", name)
	case roster.Safety:
		return fmt.Sprintf("it has to be done by %s: safety depends on it", s.day(job.Limit))
	case roster.Others:
		return fmt.Sprintf("%s or %s has other pinned work then", who, name)
	}
	why, _ := s.rule(r, job, at)
	return why
}
