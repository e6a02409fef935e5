package app_test

import (
	"errors"
	"strings"
	"testing"
	"time"

	"wardifex/internal/app"
	"wardifex/internal/core/machine"
	"wardifex/internal/postgres/pgtest"
)

func TestReadings(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	id := add(t, s, "Avocet", nil)
	read := func(key, value string, g machine.Grade) error {
		return reads(s, id, machine.Key(key), value, machine.Reading{Grade: g, TakenAt: now, By: "x", How: "looked"}, now)
	}
	must(t, read("mainboard.flash", "256 KB", machine.Claimed))
	must(t, read("mainboard.processor", "xx RET6", machine.Observed))
	if f := load(t, s, id).Facts.Fact("mainboard.flash"); f.Value.Text != "512" || f.Grade != machine.Observed ||
		len(f.Contradicted()) != 1 ||
		!strings.Contains(f.Stands.How, "decoded") {
		t.Errorf("a marking brings its flash with it, above the claim: %+v", f)
	}
	refused(t, read("mainboard.processor", "R0T6", machine.Observed), "RDT6")
	refused(t, read("mainboard.processor", "RE", machine.Observed), "too short")
	old := add(t, s, "Old", map[string]string{"mainboard.width": "8-bit"})
	must(
		t,
		reads(s, old, "mainboard.processor", "EIGHT 16AU", machine.Reading{Grade: machine.Observed, TakenAt: now, By: "x"},
			now),
	)
	if f := load(t, s, old).Facts.Fact("mainboard.processor"); f.Value.Text != "EIGHT 16AU" {
		t.Errorf("an 8-bit processor's marking is kept as it stands: %+v", f)
	}
	refused(t, read("mainboard.wings", "2", machine.Observed), "no trait")
	refused(t, read("supply.volts", "24 W", machine.Observed), "recorded in V")
	refused(
		t,
		reads(s, id, "supply.volts", "24", machine.Reading{Grade: machine.Observed, TakenAt: now.Add(time.Hour), By: "x"},
			now),
		"still to come",
	)
	must(t, read("mainboard.chip-maker", "first source", machine.Observed))
	must(t, read("mainboard.chip-maker", "pin-compatible twin", machine.Observed))
	f := load(t, s, id).Facts.Fact("mainboard.chip-maker")
	if len(f.Conflict) != 2 {
		t.Fatalf("equal readings that differ are a conflict: %+v", f)
	}
	refused(t, does(s).Settle(ctx, id, "mainboard.chip-maker", f.Conflict[0].ID, "", "x", now), "reason")
	must(t, does(s).Settle(ctx, id, "mainboard.chip-maker", f.Conflict[1].ID, "looked again with a lens", "x", now))
	var conflict *app.Conflict
	if err := does(s).Settle(ctx, id, "mainboard.chip-maker", f.Conflict[0].ID, "no, the other", "y", now); !errors.As(
		err,
		&conflict,
	) {
		t.Errorf("settled twice: %v", err)
	}
	m := load(t, s, id)
	if f = m.Facts.Fact("mainboard.chip-maker"); f.Value.Text != "first source" {
		t.Errorf("after settling: %+v", f)
	}
	must(t, does(s).Retract(ctx, f.Stands.ID, "was the wrong machine", "x", now))
	if err := does(s).Retract(ctx, f.Stands.ID, "again", "x", now); !errors.As(err, &conflict) {
		t.Errorf("taken back twice: %v", err)
	}
	after := load(t, s, id)
	if after.Facts.Fact("mainboard.chip-maker").Known() || len(after.Readings) != len(m.Readings) {
		t.Error("a reading taken back does not count and stays on record")
	}
}
