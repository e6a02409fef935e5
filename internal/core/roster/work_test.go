package roster_test

import (
	"testing"
	"time"

	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/civil"
	"wardifex/internal/core/machine/machinetest"
	"wardifex/internal/core/maintenance"
	"wardifex/internal/core/roster"
)

// What puts hands on mains wiring is given only to those who may, whatever else is said of it; words of a kit
// count where somebody here has them as a skill.
func TestWhoDoesAnOrder(t *testing.T) {
	t.Parallel()
	skills := []string{"firmware", maintenance.MainsWiring}
	for name, c := range map[string]struct {
		order roster.WorkOrder
		skill string
	}{
		"mains":                         {roster.WorkOrder{Mains: true}, maintenance.MainsWiring},
		"mains, with words of its own":  {roster.WorkOrder{Mains: true, Experience: "firmware"}, maintenance.MainsWiring},
		"mains, already open":           {roster.WorkOrder{Mains: true, Open: true}, maintenance.MainsWiring},
		"a skill that somebody has":     {roster.WorkOrder{Experience: "firmware"}, "firmware"},
		"words that are nobody's skill": {roster.WorkOrder{Experience: "has flashed before"}, ""},
		"neither":                       {roster.WorkOrder{}, ""},
	} {
		if got := roster.OrderJob(c.order, skills).Skill; got != c.skill {
			t.Errorf("%s: %q; want %q", name, got, c.skill)
		}
	}
	left := roster.OrderJob(roster.WorkOrder{Minutes: 120, Done: 15, Steps: 20, Models: []string{"a", "none", "", "a"}},
		nil)
	if left.Minutes != 30 || left.Parts["a"] != 2 || len(left.Parts) != 1 || left.Unlocks {
		t.Errorf("a quarter of two hours is left: %+v", left)
	}
	if open := roster.OrderJob(roster.WorkOrder{Open: true, Since: monday}, nil); !open.Unlocks ||
		!open.Due.Equal(monday.AddDate(0, 0, 1)) {
		t.Errorf("%+v", open)
	}
	for name, c := range map[string]struct {
		symptom     string
		danger, out bool
		risk        int
		skill       string
		stage       roster.Stage
	}{
		"a click":           {"extruder-clicks", false, false, 2, "", roster.OrdinaryRepair},
		"of one out of use": {"extruder-clicks", false, true, 4, "", roster.OrdinaryRepair},
		"of danger":         {"too-hot", true, true, 4, maintenance.MainsWiring, roster.DangerRepair},
	} {
		job := roster.RepairJob(1, c.symptom, c.danger, c.out, monday)
		if job.Risk != c.risk || job.Skill != c.skill || job.Stage != c.stage {
			t.Errorf("%s: %+v", name, job)
		}
	}
	for name, c := range map[string]struct {
		order roster.WorkOrder
		stage roster.Stage
	}{
		"a kit": {roster.WorkOrder{}, roster.AnyTime}, "a repair": {roster.WorkOrder{Repairs: true}, roster.OrdinaryRepair},
		"of a danger":             {roster.WorkOrder{Repairs: true, Danger: true, Open: true}, roster.DangerRepair},
		"maintenance":             {roster.WorkOrder{Task: "belts"}, roster.Maintenance},
		"maintenance, begun":      {roster.WorkOrder{Task: "belts", Open: true}, roster.AnyTime},
		"a repair that was begun": {roster.WorkOrder{Repairs: true, Open: true}, roster.OrdinaryRepair},
	} {
		if got := roster.OrderJob(c.order, nil).Stage; got != c.stage {
			t.Errorf("%s: stage %d, want %d", name, got, c.stage)
		}
	}
}

// A task has its date as a limit only where safety depends on it and the date is ahead.
func TestWhenATaskIsDone(t *testing.T) {
	t.Parallel()
	facts := machinetest.Facts(catalogue.Vocabulary(), map[string]string{"heater.watts": "40", "nozzle.model": "plain"})
	if w := roster.Heats(facts); w != 40 {
		t.Errorf("it draws %g W", w)
	}
	if w := roster.Heats(machinetest.Facts(catalogue.Vocabulary(), nil)); w != 300 {
		t.Errorf("unknown heaters draw %g W", w)
	}
	today := civil.Of(monday)
	for name, c := range map[string]struct {
		risk  maintenance.Risk
		on    civil.Day
		limit bool
	}{
		"mains, tomorrow":   {maintenance.ShockAndFire, today + 1, true},
		"fumes, tomorrow":   {maintenance.HurtsPeople, today + 1, true},
		"belts, tomorrow":   {maintenance.BreaksMachines, today + 1, false},
		"mains, today":      {maintenance.ShockAndFire, today, true},
		"mains, long since": {maintenance.ShockAndFire, today - 9, false},
	} {
		job := roster.TaskJob(1, facts, maintenance.Task{Key: "x", Risk: c.risk}, maintenance.Due{On: &c.on}, monday,
			time.UTC)
		if job.Limit.IsZero() == c.limit || !job.Due.Equal(c.on.End(time.UTC)) || job.Minutes != 15 {
			t.Errorf("%s: %+v", name, job)
		}
	}
	nozzle := maintenance.Task{Key: "nozzle", Risk: maintenance.SpoilsPrints, Renews: "nozzle", Always: true, Minutes: 20}
	last := today - 30
	job := roster.TaskJob(1, facts, nozzle, maintenance.Due{On: &today, LastDone: &last}, monday, time.UTC)
	if job.Parts["plain"] != 1 || job.Minutes != 20 || job.Interval != 30*24*time.Hour {
		t.Errorf("%+v", job)
	}
	if job := roster.TaskJob(1, facts, nozzle, maintenance.Due{}, monday, time.UTC); !job.Due.Equal(monday) {
		t.Errorf("due without a date: %v", job.Due)
	}
}
