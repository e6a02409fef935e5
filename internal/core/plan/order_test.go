package plan_test

import (
	"fmt"
	"maps"
	"slices"
	"strings"
	"testing"
	"time"

	"wardifex/internal/core/fit"
	"wardifex/internal/core/plan"
)

func lines(o plan.OrderList) string {
	var out []string
	for _, l := range o.Lines {
		out = append(out, fmt.Sprintf("%d %s %s %g", l.Count, l.Kind, l.What, l.Price))
		for _, b := range l.Box {
			out = append(out, fmt.Sprintf("  %d %s", b.Count, b.What))
		}
	}
	return strings.Join(out, "\n")
}

// One list for several machines: the same thing is one line, the additional change
// that only one of them needs is on it once, and what is not settled is not
// bought but named.
func TestOrderList(t *testing.T) {
	probe := judge(t, "plumbline-probe")
	o := plan.NewOrderList()
	o.AddFor(probe, plan.For{ID: 1, Name: "Avocet"}, room())
	o.AddFor(probe, plan.For{ID: 1, Name: "Bittern"}, room("carriage.bracket-holes", "no", "carriage.hole-spacing", ""))
	o.AddFor(probe, plan.For{ID: 1, Name: "Curlew"}, room("mainboard.chip-maker", "pin-compatible twin"))
	o.AddFor(probe, plan.For{ID: 1, Name: "Dunlin"}, room("firmware.size", ""))
	got := lines(o)
	for _, want := range []string{
		fmt.Sprintf("2 kit %s %g", probe.Kit.Name, 2*probe.Kit.Price),
		"1 additional change carriage plate with tapped holes 18",
		"  2 " + probe.Kit.Parts[0],
	} {
		if !slices.Contains(strings.Split(got, "\n"), want) {
			t.Errorf("%q is not on the list:\n%s", want, got)
		}
	}
	if want := 2*probe.Kit.Price + 18; o.Price != want {
		t.Errorf("together %g, want %g", o.Price, want)
	}
	if want := 2*probe.Kit.Minutes + 45; o.Minutes != want {
		t.Errorf("%d minutes, want %d", o.Minutes, want)
	}
	o.AddFor(probe, plan.For{ID: 1, Name: "Eider"}, room("mainboard.chip-maker", "first source/claimed"))
	o.AddFor(probe, plan.For{ID: 1, Name: "Fulmar"}, room("firmware.size", "186/claimed"))
	o.AddFor(probe, plan.For{ID: 1, Name: "Gannet"}, room("mainboard.chip-maker", "pin-compatible twin/claimed"))
	if len(o.Refused) != 1 || !strings.Contains(o.Refused[0], "on Curlew: does not fit") {
		t.Errorf("refused: %q", o.Refused)
	}
	// "look first, leans to fits: 2", and so on.
	waiting := map[fit.Answer]int{}
	for _, w := range o.Waiting {
		if waiting[w.Lean] = w.Count; len(w.Machines) != w.Count {
			t.Errorf("waiting: %+v", w)
		}
	}
	if want := map[fit.Answer]int{fit.Fits: 2, fit.NoLean: 1, fit.DoesNotFit: 1}; !maps.Equal(waiting, want) {
		t.Errorf("waiting by lean: %v, want %v", waiting, want)
	}
}

// What comes in the boxes stands under its kit and is counted there; the file has a line
// for each.
func TestOrderListCounts(t *testing.T) {
	o := plan.NewOrderList()
	a := fit.Kit{Key: "a", Effects: []fit.Effect{{Slot: "plate", Model: "Flat 1"}}, Name: "plate", Price: 10,
		Minutes: 5, Parts: []string{"plate"}, Screws: []string{"4 × M3 × 8"}}
	b := fit.Kit{
		Name:    "head",
		Price:   20,
		Minutes: 7,
		Parts:   []string{"plate"},
		Screws:  []string{"4 × M3 × 8", "2 × M3 × 12"},
	}
	o.Add(a, nil, plan.For{ID: 1, Name: "Avocet"})
	o.Add(a, nil, plan.For{ID: 1, Name: "Bittern"})
	o.Add(b, []fit.AdditionalChange{{Title: "lead", Price: 3, Minutes: 2}}, plan.For{ID: 1, Name: "Avocet"})
	want := "2 kit plate 20\n  2 plate\n  2 4 × M3 × 8\n1 kit head 20\n  1 plate\n  1 4 × M3 × 8\n  1 2 × M3 × 12\n" +
		"1 additional change lead 3"
	if got := lines(o); got != want || o.Price != 43 || o.Minutes != 19 {
		t.Errorf("%s\nprice %g, %d min", got, o.Price, o.Minutes)
	}
	o.Stock([]fit.Kit{a, b}, func(slot, model string) int { return len(slot) + len(model) })
	o.Suppliers(map[string]string{o.Lines[0].Kit: "Dockside"})
	var file strings.Builder
	if err := o.WriteCSV(&file, "EUR"); err != nil {
		t.Fatal(err)
	}
	wantFile := "Count,What,Kind,\"Price, EUR\",For,On the shelf,Supplier\r\n" +
		"2,plate,kit,20.00,\"Avocet, Bittern\",11,Dockside\r\n" +
		"2,plate,in the box of plate,,,,\r\n"
	if !strings.HasPrefix(file.String(), wantFile) {
		t.Errorf("%s", file.String())
	}
}

func TestSameBatch(t *testing.T) {
	day := func(n int) time.Time { return time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC).AddDate(0, 0, n) }
	a := plan.Bought{Maker: "Skerry", Supplier: "Dockside", On: day(100)}
	for name, tt := range map[string]struct {
		b    plan.Bought
		want bool
	}{
		"itself":              {a, true},
		"59 days later":       {plan.Bought{Maker: "Skerry", Supplier: "Dockside", On: day(159)}, true},
		"59 days earlier":     {plan.Bought{Maker: "Skerry", Supplier: "Dockside", On: day(41)}, true},
		"60 days later":       {plan.Bought{Maker: "Skerry", Supplier: "Dockside", On: day(160)}, false},
		"of another supplier": {plan.Bought{Maker: "Skerry", Supplier: "Kelp", On: day(100)}, false},
		"of another name":     {plan.Bought{Maker: "Tern", Supplier: "Dockside", On: day(100)}, false},
	} {
		if a.SameBatch(tt.b) != tt.want || tt.b.SameBatch(a) != tt.want {
			t.Errorf("%s: want %v either way round", name, tt.want)
		}
	}
}

// What has to leave the build so that a probe's code fits: 256 − 28 − 225 − 5
// lacks 2 KiB.
func TestMemory(t *testing.T) {
	probe := judge(t, "plumbline-probe")
	short := []string{"mainboard.flash", "256", "firmware.size", "225"}
	for name, tt := range map[string]struct {
		features string
		want     string
	}{
		"the smallest that is enough":      {"graphic display; arc moves; second language", "arc moves"},
		"written with commas, in any case": {"Graphic Display, BOOT PICTURE", "boot picture"},
		"nothing on record":                {"", ""},
		"nothing of which a size is known": {"tea kettle", ""},
	} {
		pairs := append(slices.Clone(short), "firmware.features", tt.features)
		if got := plan.MemoryFor(probe, room(pairs...)); got == nil || strings.Join(got.Drop, "+") != tt.want ||
			got.Short != 2 {
			t.Errorf("%s: %+v, want %q", name, got, tt.want)
		}
	}
	if got := plan.MemoryFor(probe, room("firmware.features", "arc moves")); got != nil {
		t.Errorf("flash is not short, but: %+v", got)
	}
	// The bootloader's 28 KiB would do for 2, the 8 of a smaller one not for 12;
	// one that is known to be absent frees nothing.
	for _, tt := range []struct {
		on     []string
		frees  float64
		enough bool
	}{
		{short, 28, true},
		{append(slices.Clone(short), "mainboard.bootloader", "no"), 0, false},
		{[]string{"mainboard.flash", "256", "mainboard.bootloader-size", "8", "firmware.size", "255"}, 8, false},
	} {
		if got := plan.MemoryFor(probe, room(tt.on...)); got.Bootloader != tt.frees || got.Enough != tt.enough {
			t.Errorf("%v: %+v", tt.on, got)
		}
	}
}
