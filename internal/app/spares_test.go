package app_test

import (
	"testing"

	"wardifex/internal/postgres/pgtest"
	"wardifex/internal/store"
)

// A part of the shelf that a swap takes leaves the shelf with it, readings and all; while it is
// meant for an order no other takes it, and where it was moved meanwhile the order says so.
func TestASwapTakesAPartOfTheShelf(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	avocet := add(t, s, "Avocet", map[string]string{"nozzle.model": "brass 0.4"})
	bittern := add(t, s, "Bittern", map[string]string{"nozzle.model": "brass 0.4"})
	shelf := func(kind, model, tag string) int64 {
		t.Helper()
		id, err := does(s).AddPart(ctx, kind, model, store.PartFields{Tag: tag, Shelf: "B2"}, "x", now)
		must(t, err)
		return id
	}
	spare, wrong := shelf("nozzle", "hard 0.6", "N7"), shelf("probe", "Plumb", "P1")
	gone := shelf("nozzle", "brass 0.8", "N8")
	swap := func(on, part int64) (int64, error) {
		return does(s).OpenSwap(ctx, on, "nozzle", "", part, "abrasive filament", "Ansa", now)
	}
	_, err := swap(avocet, wrong)
	refused(t, err, "takes no such part")
	order, err := swap(avocet, spare)
	must(t, err)
	_, err = swap(bittern, spare)
	refused(t, err, "meant for work order")
	until(t, s, order, "")
	_, err = does(s).Finish(ctx, order, 0, "Ansa", now)
	must(t, err)
	p, err := s.Part(ctx, spare)
	must(t, err)
	if at := p.Now(); at == nil || at.MachineID != avocet || at.Slot != "nozzle" {
		t.Errorf("the spare is %+v", p.Places)
	}
	if m := load(t, s, avocet); m.Facts.Model("nozzle") != "hard 0.6" {
		t.Errorf("%q is in", m.Facts.Model("nozzle"))
	}

	second, err := swap(bittern, gone)
	must(t, err)
	until(t, s, second, "")
	must(t, s.LayDown(ctx, gone, "", "bent", "Joren", now))
	_, err = does(s).Finish(ctx, second, 0, "Ansa", now)
	refused(t, err, "was moved meanwhile")
	must(t, does(s).FitOther(ctx, second, "nozzle", "brass 0.4", "Ansa", now))
	until(t, s, second, "")
	_, err = does(s).Finish(ctx, second, 0, "Ansa", now)
	must(t, err)
	if m := load(t, s, bittern); m.Facts.Model("nozzle") != "brass 0.4" || m.OpenOrder != nil {
		t.Errorf("%q is in, %v", m.Facts.Model("nozzle"), m.OpenOrder)
	}
}
