package fleetquery_test

import (
	"testing"
	"time"

	"wardifex/internal/core/fleetquery"
	"wardifex/internal/core/maintenance"
)

// The state of a machine says first whether it is safe, then only what is out
// of the ordinary.
func TestCondition(t *testing.T) {
	for _, tt := range []struct {
		name  string
		c     fleetquery.Condition
		field string
		want  string
	}{
		{"nothing out of the ordinary", fleetquery.Condition{Proven: true, Use: maintenance.InUse}, "machine.state",
			"protection proven"},
		{"never tested", fleetquery.Condition{Use: maintenance.InUse}, "machine.state", "protection not proven"},
		{"work open", fleetquery.Condition{Proven: true, Use: maintenance.InUse, Order: 7}, "machine.state",
			"protection proven; locked out, order 7"},
		{"work open, as a column of its own", fleetquery.Condition{Order: 7}, "machine.order", "order 7"},
		{"no work open", fleetquery.Condition{}, "machine.order", ""},
		{"not free to use", fleetquery.Condition{Proven: true, Use: maintenance.OutOfUse}, "machine.state",
			"protection proven; out of use"},
		{"everything at once", fleetquery.Condition{Use: maintenance.Attended, Faults: 1, Conflicts: 2, Invalid: 3},
			"machine.state", "protection not proven; attended only; 1 open fault; 2 values in conflict; 3 calibrations invalid"},
		{"counts can be filtered by", fleetquery.Condition{Invalid: 3}, "machine.void", "3"},
		{"no counts are zero, not unknown", fleetquery.Condition{}, "machine.faults", "0"},
		{"the next task", fleetquery.Condition{Next: &maintenance.Due{Title: "Belts", State: maintenance.Overdue,
			Words: "3 days late"}}, "machine.next", "Belts: 3 days late"},
		{"no task before a danger", fleetquery.Condition{Danger: true, Next: &maintenance.Due{Title: "Belts",
			State: maintenance.Overdue, Words: "3 days late"}}, "machine.next", "Danger reported: inspect first"},
	} {
		if got := tt.c.Fields()[tt.field]; got != tt.want {
			t.Errorf("%s: %q, want %q", tt.name, got, tt.want)
		}
	}
	// Every column that it fills can be asked for.
	for key := range (fleetquery.Condition{Order: 1, Next: &maintenance.Due{}}).Fields() {
		if _, err := fleetquery.ColumnOf(key, voc); err != nil {
			t.Errorf("%s: %v", key, err)
		}
	}
}

func TestInFleet(t *testing.T) {
	day := func(n int) time.Time { return time.Date(2026, 5, n, 12, 0, 0, 0, time.UTC) }
	retired := day(10)
	for _, tt := range []struct {
		name     string
		retired  *time.Time
		from, to time.Time
		want     bool
	}{
		{"before it came", nil, time.Time{}, day(3), false},
		{"on the moment it came", nil, time.Time{}, day(5), true},
		{"while it is there", nil, time.Time{}, day(20), true},
		{"after it was retired", &retired, time.Time{}, day(11), false},
		{"on the moment it was retired", &retired, time.Time{}, day(10), true},
		{"a period that ends before it came", nil, day(1), day(4), false},
		{"a period in which it came", nil, day(1), day(6), true},
		{"a period in which it was retired", &retired, day(9), day(30), true},
		{"a period after it was retired", &retired, day(11), day(30), false},
	} {
		if got := fleetquery.InFleet(day(5), tt.retired, tt.from, tt.to); got != tt.want {
			t.Errorf("%s: %v", tt.name, got)
		}
	}
}

// What a test can be put to is one table: a filter without its value, or asked
// of a field that is not read off a machine, is refused, and no other.
func TestEveryTestIsAsItsKindSays(t *testing.T) {
	for _, k := range fleetquery.Tests() {
		filter := func(of, value string) error {
			_, err := fleetquery.Ask(fleetquery.Question{Where: []fleetquery.Filter{{Of: of, Test: k.Test, Value: value}}},
				nil, voc, now)
			return err
		}
		value := "1"
		if k.Test == fleetquery.Surer || k.Test == fleetquery.Weaker {
			value = "read"
		}
		if err := filter("mainboard.flash", value); err != nil {
			t.Errorf("%s of a trait: %v", k.Test, err)
		}
		if err := filter("mainboard.flash", ""); (err == nil) != k.Bare {
			t.Errorf("%s without a value: %v", k.Test, err)
		}
		if err := filter("machine.faults", value); (err == nil) != k.Fields {
			t.Errorf("%s of a field: %v", k.Test, err)
		}
	}
}

// What a question shows, sorts by, groups by or asks for it is about, and nothing else.
func TestAbout(t *testing.T) {
	q := fleetquery.Question{Columns: []string{"machine.bay"}, Sort: "probe.model", Group: "frame.model",
		Where: []fleetquery.Filter{{Of: "nozzle.bore", Test: "known"}, {Of: "tube.model", Test: "known"}}}
	for column, want := range map[string]bool{"machine.bay": true, "probe.model": true, "frame.model": true,
		"nozzle.bore": true, "tube.model": true, "nozzle.model": false, "": false} {
		if got := q.About(column); got != want {
			t.Errorf("about %q: %t", column, got)
		}
	}
}
