package change_test

import (
	"testing"
	"time"

	"wardifex/internal/core/change"
)

func TestStepsOnRecord(t *testing.T) {
	record := func(value string, n int, void bool) change.Record {
		r := change.Record{Kind: change.Steps, Value: value, Passed: true, At: day(n)}
		if void {
			r.Void = &change.Voided{Kind: change.Steps}
		}
		return r
	}
	for name, tt := range map[string]struct {
		records []change.Record
		want    float64
	}{
		"none":                             {nil, 0},
		"with its unit":                    {[]change.Record{record("415.2 steps/mm", 1, false)}, 415.2},
		"with a decimal comma":             {[]change.Record{record("95,4", 1, false)}, 95.4},
		"the newest":                       {[]change.Record{record("93", 1, false), record("98", 3, false), record("95", 2, false)}, 98},
		"void":                             {[]change.Record{record("93", 1, true)}, 0},
		"void, and an older one that held": {[]change.Record{record("93", 1, false), record("98", 2, true)}, 0},
		"words":                            {[]change.Record{record("as before", 1, false)}, 0},
		"another calibration is no steps":  {[]change.Record{{Kind: change.Mesh, Value: "93", At: day(1)}}, 0},
	} {
		if got := change.StepsOnRecord(tt.records); got != tt.want {
			t.Errorf("%s: %g, want %g", name, got, tt.want)
		}
	}
}

// Of each calibration the newest counts: one void long ago and made again since
// is not void.
func TestCountVoid(t *testing.T) {
	void := &change.Voided{}
	records := []change.Record{
		{Kind: change.Mesh, At: day(1), Void: void}, {Kind: change.Mesh, At: day(2)},
		{Kind: change.Steps, At: day(1)}, {Kind: change.Steps, At: day(2), Void: void},
		{Kind: change.ZOffset, At: day(1), Void: void},
	}
	if n := change.CountVoid(records); n != 2 {
		t.Errorf("%d are void, want 2: the steps and the Z offset", n)
	}
	if n := change.CountVoid(nil); n != 0 {
		t.Errorf("%d of none are void", n)
	}
}

func TestSpareServes(t *testing.T) {
	s := change.Spare{Slot: "probe", Model: "Sounder inductive"}
	for name, tt := range map[string]struct {
		values map[string]string
		want   bool
	}{
		"the same, in other letters": {map[string]string{"probe.model": "SOUNDER inductive"}, true},
		"another":                    {map[string]string{"probe.model": "Plumbline"}, false},
		"an empty slot":              {map[string]string{"probe.model": "none"}, false},
		"nothing known":              {nil, false},
		"the same model elsewhere":   {map[string]string{"bracket.model": "Sounder inductive"}, false},
	} {
		if got := s.Serves(facts(tt.values)); got != tt.want {
			t.Errorf("%s: %v", name, got)
		}
	}
}

// Where a value is kept decides what wipes it: exhaustive over the stores and
// the slots that keep them.
func TestWhatWipesASetting(t *testing.T) {
	wipes := map[string][]string{
		change.StoreSettings: {"firmware", "mainboard"},
		change.StoreBuild:    {"firmware", "mainboard"}, // the build is on the board
		change.StoreCard:     {"card"},
		change.StoreHost:     {"host"},
	}
	for store, by := range wipes {
		for _, slot := range []string{"firmware", "mainboard", "card", "host", "surface"} {
			record := change.Record{Kind: change.Retraction, Value: "6", Store: store, Passed: true, At: day(1)}
			lost := false
			for _, v := range exchange(t, facts(map[string]string{slot + ".model": "old"}), slot).Void([]change.Record{record}) {
				lost = lost || v.Kind == change.Retraction && v.Remedy == change.EnterAgain
			}
			want := false
			for _, s := range by {
				want = want || s == slot
			}
			if lost != want {
				t.Errorf("kept in %s, %s exchanged: to be entered again %v, want %v", store, slot, lost, want)
			}
		}
	}
}

func day(n int) time.Time { return now.AddDate(0, 0, n-60) }
