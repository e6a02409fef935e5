package maintenance_test

import (
	"strings"
	"testing"
	"time"

	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/maintenance"
)

// The tasks that ship can be kept as they are.
func TestShippedTasksAreWhole(t *testing.T) {
	t.Parallel()
	tasks := maintenance.Shipped()
	for _, task := range tasks {
		if err := task.Check(tasks, catalogue.Vocabulary()); err != nil {
			t.Errorf("%s: %v", task.Key, err)
		}
		if task.Minutes == 0 {
			t.Errorf("%s: nobody knows how long it takes", task.Key)
		}
	}
	if _, ok := maintenance.Find(tasks, maintenance.ProtectionTask); !ok {
		t.Error("no test of protection")
	}
}

// A shop's own task takes the place of the shipped one, or stands behind them.
func TestTasksOfAShop(t *testing.T) {
	t.Parallel()
	own := []maintenance.Task{{Key: "belts", Title: "Belts", Kind: "belts", Off: true}, {Key: "filter", Title: "Filter"}}
	tasks := maintenance.In(own)
	if n := len(tasks); n != len(maintenance.Shipped())+1 || tasks[n-1].Key != "filter" {
		t.Errorf("%d tasks, the last %s", n, tasks[n-1].Key)
	}
	s := maintenance.Subject{Since: on(0), Facts: facts(nil), Tasks: tasks}
	for _, d := range maintenance.DueList(s, on(10)) {
		if d.Task == "belts" {
			t.Error("a task that the shop does not do is due")
		}
	}
	if shipped, _ := maintenance.Find(maintenance.Shipped(), "belts"); shipped.Off {
		t.Error("what ships was changed")
	}
}

type (
	task = maintenance.Task
	cond = maintenance.Condition
)

func TestCheckTask(t *testing.T) {
	t.Parallel()
	over := 240.0
	good := func() maintenance.Task {
		return maintenance.Task{Key: "filter", Title: "Air filter", Kind: "frame", Limits: maintenance.Limits{Days: 30},
			Risk: maintenance.SpoilsPrints}
	}
	protection := func() maintenance.Task {
		p, _ := maintenance.Find(maintenance.Shipped(), maintenance.ProtectionTask)
		return p
	}
	for name, tt := range map[string]struct {
		task  maintenance.Task
		with  func(*task)
		fault string
	}{
		"as it is":                    {good(), func(*task) {}, ""},
		"after an event alone":        {good(), func(x *task) { x.Days, x.After = 0, []maintenance.Event{"build"} }, ""},
		"never due":                   {good(), func(x *task) { x.Days = 0 }, "is due"},
		"another's title":             {good(), func(x *task) { x.Title = "bed SURFACE" }, "already"},
		"no title":                    {good(), func(x *task) { x.Title = " " }, "name the task"},
		"no such kind":                {good(), func(x *task) { x.Kind = "ghost" }, "no kind of part"},
		"a key with a blank":          {good(), func(x *task) { x.Key = "a b" }, "small letters"},
		"ten years":                   {good(), func(x *task) { x.Days = 3660 }, ""},
		"more than ten years":         {good(), func(x *task) { x.Days = 3661 }, "ten years"},
		"a day of work":               {good(), func(x *task) { x.Minutes = 1440 }, ""},
		"more than a day":             {good(), func(x *task) { x.Minutes = 1441 }, "up to a day"},
		"less than nothing":           {good(), func(x *task) { x.Hours = -1 }, "cannot be"},
		"no event of that name":       {good(), func(x *task) { x.After = []maintenance.Event{"x"} }, "none of the ev"},
		"no such risk":                {good(), func(x *task) { x.Risk = "boredom" }, "comes of it"},
		"always, and nothing goes in": {good(), func(x *task) { x.Always = true }, "which kind of part"},
		"protection more often":       {protection(), func(x *task) { x.Days = 91 }, ""},
		"protection as long as it is": {protection(), func(x *task) { x.Days = 183 }, ""},
		"protection longer":           {protection(), func(x *task) { x.Days = 184 }, "proves nothing"},
		"protection left out":         {protection(), func(x *task) { x.Off = true }, "cannot be left out"},
		"protection by hours":         {protection(), func(x *task) { x.Hours = 9 }, "only its days"},
		"a condition":                 {good(), when(cond{Trait: "nozzle.abrasive", Is: "yes", Times: 0.5, Words: "w"}), ""},
		"a condition above": {good(), when(cond{Trait: "hotend.working-temperature", Over: &over, Never: true, Words: "w"}),
			""},
		"a condition of no trait": {good(), when(cond{Trait: "nozzle.mood", Is: "yes", Times: 2, Words: "w"}),
			"has the trait"},
		"a condition that says no way": {good(), when(cond{Trait: "nozzle.abrasive", Is: "yes", Words: "w"}), "otherwise"},
		"a condition without a word":   {good(), when(cond{Trait: "nozzle.abrasive", Times: 2, Words: "w"}), "at which word"},
		"a condition without a reason": {good(), when(cond{Trait: "nozzle.abrasive", Is: "yes", Times: 2}), "say why"},
	} {
		t.Run(name, func(t *testing.T) {
			tt.with(&tt.task)
			err := tt.task.Check(maintenance.Shipped(), catalogue.Vocabulary())
			if (err == nil) != (tt.fault == "") || err != nil && !strings.Contains(err.Error(), tt.fault) {
				t.Errorf("%v, want %q", err, tt.fault)
			}
		})
	}
}

func when(c cond) func(*task) {
	return func(t *task) { t.When = append(t.When, c) }
}

// Filament and prints wear as hours do: what comes first counts, and each counter tells its own rate.
func TestDueByOtherCounters(t *testing.T) {
	t.Parallel()
	task := maintenance.Task{Key: "gear", Title: "Gear", Kind: "extruder", Limits: maintenance.Limits{Hours: 1000,
		Filament: 3000, Prints: 500}}
	read := func(c maintenance.Counter, perDay float64) []maintenance.Meter {
		var out []maintenance.Meter
		for day := 0; day <= 90; day += 30 {
			out = append(out, maintenance.Meter{Counter: c, At: on(day), Amount: perDay * float64(day)})
		}
		return out
	}
	for name, tt := range map[string]struct {
		meters []maintenance.Meter
		by     string
		used   string
	}{
		"hours first": {append(read(maintenance.Hours, 9), read(maintenance.Filament, 2)...),
			"hours", "810 / 1000 h"},
		"filament first": {append(read(maintenance.Hours, 2), read(maintenance.Filament, 30)...),
			"filament", "2700 / 3000 m"},
		"prints first": {append(read(maintenance.Hours, 2), read(maintenance.Prints, 5)...),
			"prints", "450 / 500 prints"},
		"only filament known": {read(maintenance.Filament, 30), "filament", "2700 / 3000 m"},
	} {
		t.Run(name, func(t *testing.T) {
			s := maintenance.Subject{Since: on(0), Facts: facts(map[string]string{"extruder.model": "x"}),
				Tasks: []maintenance.Task{task}, Meters: tt.meters, Done: []maintenance.Done{{Task: "gear", At: on(0)}}}
			got := find(t, maintenance.DueList(s, on(90)), "gear")
			if got.By != tt.by || got.Used != tt.used || got.On == nil {
				t.Errorf("%+v", got)
			}
		})
	}
}

// An event makes a task due on its day, until it is done.
func TestDueAfterAnEvent(t *testing.T) {
	t.Parallel()
	task := maintenance.Task{Key: "look", Title: "Look it over", Kind: "frame",
		After: []maintenance.Event{maintenance.AfterUpgrade}}
	happened := []maintenance.Happened{{Event: maintenance.AfterFault, At: on(5), Says: "fault 1"},
		{Event: maintenance.AfterUpgrade, At: on(10), Says: "work order 7"}}
	s := maintenance.Subject{Since: on(0), Facts: facts(nil), Tasks: []maintenance.Task{task}, Happened: happened}
	if got := find(t, maintenance.DueList(s, on(12)), "look"); got.State != maintenance.Overdue ||
		got.Words != "2 days late" || !strings.Contains(got.Used, "work order 7") {
		t.Errorf("after the upgrade: %+v", got)
	}
	s.Done = []maintenance.Done{{Task: "look", At: on(11)}}
	if got := find(t, maintenance.DueList(s, on(12)), "look"); got.On != nil || got.Words != "after the next upgrade" {
		t.Errorf("done since: %+v", got)
	}
}

// What a meter can show: each counter has its own most in an hour, and what was typed as a mass
// is metres.
func TestOtherMeters(t *testing.T) {
	t.Parallel()
	have := []maintenance.Meter{{Counter: maintenance.Filament, At: on(0), Amount: 100}, maintenance.HoursAt(on(0), 5000)}
	noon := on(1).Add(12 * time.Hour)
	for _, tt := range []struct {
		m     maintenance.Meter
		fault string
	}{
		{maintenance.Meter{Counter: maintenance.Filament, At: noon, Amount: 100 + 37*150}, ""},
		{maintenance.Meter{Counter: maintenance.Filament, At: noon, Amount: 101 + 37*150}, "only 36 hours"},
		{maintenance.Meter{Counter: maintenance.Filament, At: on(1), Amount: 99}, "do not run backwards"},
		{maintenance.Meter{Counter: maintenance.Prints, At: on(1), Amount: 5}, ""},
		{maintenance.Meter{Counter: maintenance.Prints, At: on(1), Amount: 2_000_001}, "in a life"},
		{maintenance.Meter{Counter: "moods", At: on(1), Amount: 5}, "none of what machines count"},
	} {
		err := maintenance.CheckMeter(have, tt.m, on(2))
		if (err == nil) != (tt.fault == "") || err != nil && !strings.Contains(err.Error(), tt.fault) {
			t.Errorf("%+v: %v, want %q", tt.m, err, tt.fault)
		}
	}
	// 1.75 mm of 1.24 g/cm³: 2.98 g a metre, so a spool of a kilogram has about 335 m (common practice).
	if m, err := maintenance.ReadAmount(maintenance.Filament, "1 kg"); err != nil || m < 330 || m > 340 {
		t.Errorf("a kilogram is %g m, %v", m, err)
	}
	if _, err := maintenance.ReadAmount(maintenance.Prints, "5.5"); err == nil {
		t.Error("half a print is counted")
	}
	if m, err := maintenance.ReadAmount(maintenance.Filament, "500 m"); err != nil || m != 500 {
		t.Errorf("500 metres are %g m, %v", m, err)
	}
}
