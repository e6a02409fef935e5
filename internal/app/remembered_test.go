package app_test

import (
	"fmt"
	"math/rand"
	"reflect"
	"testing"

	"wardifex/internal/core/machine"
	"wardifex/internal/postgres/pgtest"
	"wardifex/internal/store"
)

// Whatever is done to machines, the fleet from memory is the fleet as the
// database has it: after readings, readings taken back, settled conflicts, parts
// exchanged and moved, work, retired machines, and a changed catalogue.
func TestTheFleetIsRememberedRight(t *testing.T) {
	t.Parallel()
	dsn := pgtest.Database(t)
	open := func() *store.Store {
		s, err := store.Open(dsn)
		must(t, err)
		t.Cleanup(func() { s.Close() })
		must(t, s.Migrate(ctx))
		return s
	}
	s := open()
	random := rand.New(rand.NewSource(3))
	var ids []int64
	for i := range 4 {
		ids = append(ids, add(t, s, fmt.Sprintf("M%d", i), fitting))
	}
	same := func(after string) {
		t.Helper()
		got, err := s.Fleet(ctx)
		must(t, err)
		for _, m := range got {
			fresh := load(t, s, m.ID)
			if !reflect.DeepEqual(m.Readings, fresh.Readings) ||
				!reflect.DeepEqual(m.Facts.Fact("nozzle.bore"), fresh.Facts.Fact("nozzle.bore")) ||
				m.Facts.Model("nozzle") != fresh.Facts.Model("nozzle") {
				t.Fatalf(
					"after %s: %s from memory has %d readings and a bore of %v, the database %d and %v",
					after,
					m.Name,
					len(m.Readings),
					m.Facts.Fact("nozzle.bore").Value,
					len(fresh.Readings),
					fresh.Facts.Fact("nozzle.bore").Value,
				)
			}
		}
	}
	same("nothing")
	for range 60 {
		id := ids[random.Intn(len(ids))]
		switch random.Intn(5) {
		case 0, 1:
			must(
				t,
				reads(
					s,
					id,
					"nozzle.bore",
					fmt.Sprintf("0.%d", 2+random.Intn(7)),
					machine.Reading{Grade: machine.Observed, TakenAt: now, By: "x"},
					now,
				),
			)
			same("a reading")
		case 2:
			m := load(t, s, id)
			for _, r := range m.Readings {
				if r.Superseded == "" && r.Key == "nozzle.bore" {
					must(t, does(s).Retract(ctx, r.ID, "mistyped", "x", now))
					break
				}
			}
			same("a reading taken back")
		case 3:
			if c := load(t, s, id).Facts.Fact("nozzle.bore").Conflict; len(c) > 0 {
				must(t, does(s).Settle(ctx, id, "nozzle.bore", c[0].ID, "measured again", "x", now))
				same("a settled conflict")
			}
		case 4:
			must(t, does(s).ReplacePart(ctx, id, "nozzle", "a new nozzle", "worn", "x", now))
			same("an exchange")
		}
	}
	must(t, does(s).Retire(ctx, ids[0], "sold", "x", now))
	same("a machine retired")
	must(
		t,
		reads(open(), ids[1], "nozzle.bore", "0.25", machine.Reading{Grade: machine.Proven, TakenAt: now, By: "y"}, now),
	)
	same("a reading by another instance")
}
