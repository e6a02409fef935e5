package roster_test

import (
	"fmt"
	"math/rand/v2"
	"testing"
	"time"

	"wardifex/internal/core/roster"
	"wardifex/internal/core/schedule"
)

// largeShop is a shop of so many machines over four weeks: eight jobs a machine, a technician for
// every thirty machines, a booking every other day.
func largeShop(machines int) *roster.Problem {
	r := rand.New(rand.NewPCG(uint64(machines), 5))
	p := &roster.Problem{From: monday.Truncate(24 * time.Hour), Slot: 15 * time.Minute, Slots: 28 * 96, In: time.UTC,
		Weights: roster.Usual(), Stock: map[string]roster.Stock{"nozzle": {Now: machines / 2,
			Arriving: []roster.Arrival{{At: monday.AddDate(0, 0, 9), Count: machines}}}},
		Circuits: map[string]float64{}}
	at := func(day, hour int) time.Time { return p.From.AddDate(0, 0, day).Add(time.Duration(hour) * time.Hour) }
	var open, shift []schedule.Span
	for day := range 28 {
		if day%7 < 6 {
			open = append(open, schedule.Span{From: at(day, 10), To: at(day, 21)})
		}
		if day%7 < 5 {
			shift = append(shift, schedule.Span{From: at(day, 8), To: at(day, 12)}, schedule.Span{From: at(day, 13), To: at(day,
				17)})
		}
	}
	p.Open = schedule.Join(open...)
	for d := range 7 {
		for h := 10; h < 21; h++ {
			p.Busy[d][h] = float64(h-9) / 12
		}
	}
	for i := range 2 + machines/30 {
		person := roster.Person{Name: fmt.Sprint("p", i), Works: schedule.Join(shift...)}
		if i%3 == 0 {
			person.Skills = []string{"mains"}
		}
		p.People = append(p.People, person)
	}
	for f := range 3 {
		p.Circuits[fmt.Sprint("c", f)] = 3600
		p.Floors = append(p.Floors, roster.Floor{Ability: fmt.Sprint("ability ", f), Least: machines/3 - 2 - machines/30})
	}
	for m := range machines {
		var booked []schedule.Span
		for day := m % 2; day < 28; day += 2 {
			from := at(day, 10+r.IntN(6))
			booked = append(booked, schedule.Span{From: from, To: from.Add(time.Duration(2+r.IntN(5)) * time.Hour)})
		}
		p.Machines = append(p.Machines, roster.Machine{Name: fmt.Sprint("m", m), Place: fmt.Sprint(m % 3),
			Booked:  schedule.Join(booked...),
			Circuit: fmt.Sprint("c", m%3), Prints: 90 / float64(machines) * 24, Locked: r.IntN(30) == 0})
		p.Floors[m%3].Machines = append(p.Floors[m%3].Machines, m)
		for k := range 8 {
			j := roster.Job{Key: fmt.Sprint(m, "/", k), Machine: m, Kind: fmt.Sprint("k", k), Minutes: 15 * (1 + r.IntN(4)),
				Risk: 1 + k%4, Due: at(r.IntN(35)-5, 12), Interval: 90 * 24 * time.Hour, Pause: k == 7}
			switch k {
			case 0:
				j.Unlocks = p.Machines[m].Locked
			case 1:
				j.Skill, j.Limit = "mains", at(20, 0)
			case 2:
				j.Parts = map[string]int{"nozzle": 1}
			case 3:
				j.After, j.Heats = []int{len(p.Jobs) - 1}, 350
			}
			p.Jobs = append(p.Jobs, j)
		}
	}
	return p
}

func BenchmarkPlan(b *testing.B) {
	for _, machines := range []int{24, 100, 300} {
		p := largeShop(machines)
		b.Run(fmt.Sprintf("make/%d", machines), func(b *testing.B) {
			for b.Loop() {
				plan, err := roster.Make(p, roster.Search{Seed: 1, Rounds: 5000})
				if err != nil {
					b.Fatal(err)
				}
				b.ReportMetric(float64(len(plan.Unplaced)), "unplaced")
				b.ReportMetric(float64(plan.Cost)/1000/float64(len(p.Jobs)), "min/job")
			}
			b.ReportMetric(b.Elapsed().Seconds()/float64(b.N)/float64(len(p.Jobs))*1000, "ms/job")
		})
		plan, err := roster.Make(p, roster.Search{Seed: 1, Rounds: 500})
		if err != nil {
			b.Fatal(err)
		}
		pin := plan.Placed[len(plan.Placed)/2]
		for _, x := range plan.Placed { // where another one stands
			if x.Person == pin.Person && x.From.After(pin.To) && x.To.Sub(x.From) == pin.To.Sub(pin.From) {
				pin.From, pin.To = x.From, x.To
				break
			}
		}
		b.Run(fmt.Sprintf("replan/%d", machines), func(b *testing.B) {
			for b.Loop() {
				end := time.Now().Add(2 * time.Second)
				if _, err := roster.Replan(p, plan.Placed, []roster.Placement{pin}, roster.Search{Seed: 1, Rounds: 2000,
					Stop: func() bool { return time.Now().After(end) }}); err != nil {
					b.Fatal(err)
				}
			}
		})
	}
}

// A large shop is planned without breaking a rule, and after a pin almost all of it stays.
func TestALargeShop(t *testing.T) {
	t.Parallel()
	p := largeShop(100)
	plan, err := roster.Make(p, roster.Search{Seed: 1, Rounds: 300})
	if err != nil {
		t.Fatal(err)
	}
	if rule := broken(p, plan.Placed); rule != "" {
		t.Fatal(rule)
	}
	if len(plan.Placed) < len(p.Jobs)*9/10 {
		t.Errorf("%d of %d jobs are placed", len(plan.Placed), len(p.Jobs))
	}
	t.Logf("cost %d, unplaced %d", plan.Cost/1000, len(plan.Unplaced))
	pin := plan.Placed[40]
	pin.From, pin.To = pin.From.AddDate(0, 0, 7), pin.To.AddDate(0, 0, 7)
	got, err := roster.Replan(p, plan.Placed, []roster.Placement{pin}, roster.Search{Seed: 1, Rounds: 300})
	if err != nil {
		t.Fatal(err)
	}
	if rule := broken(p, got.Placed); rule != "" {
		t.Fatal(rule)
	}
	if len(got.Moved) > 3 {
		t.Errorf("%d jobs move for one pin", len(got.Moved))
	}
}
