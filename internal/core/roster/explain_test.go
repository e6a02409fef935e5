package roster_test

import (
	"slices"
	"testing"
	"time"

	"wardifex/internal/core/roster"
	"wardifex/internal/core/schedule"
)

// oneJob is a shop of two machines that are open and worked in for eight hours, with one job of two.
func oneJob() *roster.Problem {
	whole := schedule.Join(schedule.Span{From: monday, To: monday.Add(8 * time.Hour)})
	return &roster.Problem{From: monday, Slot: time.Hour, Slots: 32, In: time.UTC, Weights: roster.Usual(), Open: whole,
		People:   []roster.Person{{Name: "Ansa", Works: whole}},
		Machines: []roster.Machine{{Name: "Avocet", Circuit: "north"}, {Name: "Bittern"}},
		Jobs:     []roster.Job{{Key: "belts", Kind: "belts", Minutes: 120, Risk: 1}},
		Stock:    map[string]roster.Stock{}, Circuits: map[string]float64{"north": 2000}}
}

// Each rule alone keeps a job out of the plan, and is named; at its limit it does not.
func TestWhatBlocksAJob(t *testing.T) {
	t.Parallel()
	at := func(hour int) time.Time { return monday.Add(time.Duration(hour) * time.Hour) }
	span := func(from, to int) schedule.Spans { return schedule.Join(schedule.Span{From: at(from), To: at(to)}) }
	for rule, c := range map[roster.Rule]struct{ blocked, enough func(*roster.Problem) }{
		roster.Skill: {
			func(p *roster.Problem) { p.Jobs[0].Skill = "mains" },
			func(p *roster.Problem) { p.Jobs[0].Skill, p.People[0].Skills = "mains", []string{"mains"} },
		},
		roster.Parts: {
			func(p *roster.Problem) { p.Jobs[0].Parts = map[string]int{"nozzle": 1} },
			func(p *roster.Problem) {
				p.Jobs[0].Parts = map[string]int{"nozzle": 1}
				p.Stock["nozzle"] = roster.Stock{Arriving: []roster.Arrival{{At: at(6), Count: 1}}}
			},
		},
		roster.Order: {
			func(p *roster.Problem) { p.Machines[0].Locked = true },
			func(p *roster.Problem) { p.Machines[0].Locked, p.Jobs[0].Unlocks = true, true },
		},
		roster.Safety: {
			func(p *roster.Problem) { p.Jobs[0].Limit = at(2).Add(-time.Minute) },
			func(p *roster.Problem) { p.Jobs[0].Limit = at(2) },
		},
		roster.Shifts: {
			func(p *roster.Problem) { p.People[0].Works = span(3, 4) },
			func(p *roster.Problem) { p.People[0].Works = span(3, 5) },
		},
		roster.Bookings: {
			func(p *roster.Problem) { p.Machines[0].Booked = span(1, 7) },
			func(p *roster.Problem) { p.Machines[0].Booked = span(1, 6) },
		},
		roster.Floors: {
			func(p *roster.Problem) {
				p.Floors = []roster.Floor{{Ability: "large", Machines: []int{0, 1}, Least: 2}}
			},
			func(p *roster.Problem) {
				p.Floors = []roster.Floor{{Ability: "large", Machines: []int{0, 1}, Least: 2}}
				p.Open = span(2, 8)
			},
		},
		roster.Power: {
			func(p *roster.Problem) { p.Jobs[0].Heats = 2001 },
			func(p *roster.Problem) { p.Jobs[0].Heats = 2000 },
		},
		roster.Others: {
			func(p *roster.Problem) {
				p.Jobs = append(p.Jobs, roster.Job{Key: "mains", Machine: 1, Minutes: 7 * 60, Risk: 4})
			},
			func(p *roster.Problem) {
				p.Jobs = append(p.Jobs, roster.Job{Key: "mains", Machine: 1, Minutes: 6 * 60, Risk: 4})
			},
		},
	} {
		t.Run(string(rule), func(t *testing.T) {
			p := oneJob()
			c.blocked(p)
			plan, err := roster.Make(p, roster.Search{Rounds: 50})
			if err != nil {
				t.Fatal(err)
			}
			if blocks := roster.Blocks(p, plan); len(blocks) != 1 || blocks[0].Job != 0 ||
				!slices.ContainsFunc(blocks[0].Ways, func(w roster.Way) bool {
					return slices.Equal(w.Rules,
						[]roster.Rule{rule})
				}) {
				t.Errorf("%+v", blocks)
			}
			for _, w := range roster.Blocks(p, plan)[0].Ways {
				if is := roster.Breaks(p, plan, w.First); is != w.Rules[0] {
					t.Errorf("put at %v it breaks %q; want %q", w.First, is, w.Rules[0])
				}
			}
			p = oneJob()
			c.enough(p)
			plan, err = roster.Make(p, roster.Search{Rounds: 50})
			if err != nil || len(plan.Unplaced) != 0 {
				t.Errorf("unplaced at the limit: %+v, %v", plan, err)
			}
		})
	}
}

// A plan says what a job costs where it stands, and what another day would.
func TestReasons(t *testing.T) {
	t.Parallel()
	p := oneJob()
	tomorrow := schedule.Span{From: monday.AddDate(0, 0, 1), To: monday.AddDate(0, 0, 1).Add(8 * time.Hour)}
	p.People[0].Works = schedule.Join(p.People[0].Works[0], tomorrow)
	p.Jobs[0].Due = monday.Add(2 * time.Hour)
	p.Jobs = append(p.Jobs, roster.Job{Key: "other belts", Machine: 1, Kind: "belts", Minutes: 60, Risk: 1})
	plan, err := roster.Make(p, roster.Search{Rounds: 200})
	if err != nil {
		t.Fatal(err)
	}
	reasons := roster.Reasons(p, plan)
	if len(reasons) != 2 {
		t.Fatalf("%+v", reasons)
	}
	r := reasons[0]
	if r.Late != 0 || r.SetUp != 0 || len(r.With) != 1 || r.With[0] != 1 {
		t.Errorf("done when it is due, in one go with the other: %+v", r)
	}
	// A day later it is 1 day late, 60 min a day, and needs a set-up and a walk of its own, 15 and 5 min.
	if r.Else == nil || r.Dearer != 80 || !r.Else.From.Equal(tomorrow.From) {
		t.Errorf("%+v, dearer by %g", r.Else, r.Dearer)
	}
	for name, change := range map[string]func(*roster.Problem){
		"no slots":                func(p *roster.Problem) { p.Slots = 0 },
		"no such machine":         func(p *roster.Problem) { p.Jobs[0].Machine = 2 },
		"no minutes":              func(p *roster.Problem) { p.Jobs[0].Minutes = 0 },
		"a risk that is none":     func(p *roster.Problem) { p.Jobs[0].Risk = 5 },
		"after one not there":     func(p *roster.Problem) { p.Jobs[0].After = []int{2} },
		"jobs in a circle":        func(p *roster.Problem) { p.Jobs[0].After, p.Jobs[1].After = []int{1}, []int{0} },
		"more jobs than it holds": func(p *roster.Problem) { p.Jobs = make([]roster.Job, 20_001) },
	} {
		p := oneJob()
		p.Jobs = append(p.Jobs, p.Jobs[0])
		change(p)
		if _, err := roster.Make(p, roster.Search{}); err == nil {
			t.Errorf("%s: taken", name)
		}
	}
}

// Whoever falls ill leaves their work to others, and the rest stays where it was.
func TestSomebodyFallsIll(t *testing.T) {
	t.Parallel()
	p := oneJob()
	p.People = append(p.People, roster.Person{Name: "Joren", Works: p.People[0].Works})
	for m := range 2 {
		p.Jobs = append(p.Jobs, roster.Job{Key: "fans", Machine: m, Kind: "fans", Minutes: 60, Risk: 2, Due: monday})
	}
	plan, err := roster.Make(p, roster.Search{Rounds: 200})
	if err != nil {
		t.Fatal(err)
	}
	ill := plan.Placed[0].Person
	p.People[ill].Works = nil
	got, err := roster.Replan(p, plan.Placed, plan.Placed[:1], roster.Search{Rounds: 200})
	if err != nil {
		t.Fatal(err)
	}
	if rule := broken(p, got.Placed); rule != "" || len(got.Unplaced) > 0 {
		t.Fatalf("%s, %d unplaced", rule, len(got.Unplaced))
	}
	if len(got.Loose) != 1 || got.Loose[0] != plan.Placed[0].Job {
		t.Errorf("the pin of somebody who is ill holds: %v", got.Loose)
	}
	for _, x := range plan.Placed {
		moved := slices.Contains(got.Moved, x.Job)
		if x.Person == ill != moved {
			t.Errorf("%+v moved: %v", x, moved)
		}
	}
}
