package change_test

import (
	"testing"
	"time"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/change"
)

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
		calibration.StoreSettings: {"firmware", "mainboard"},
		calibration.StoreBuild:    {"firmware", "mainboard"}, // the build is on the board
		calibration.StoreCard:     {"firmware", "mainboard", "card"},
		calibration.StoreHost:     {"host"},
	}
	for store, by := range wipes {
		for _, slot := range []string{"firmware", "mainboard", "card", "host", "surface"} {
			record := calibration.Record{Kind: calibration.Retraction, Value: "6", Store: store, Passed: true, At: day(1)}
			lost := false
			for _, v := range exchange(t, facts(map[string]string{slot + ".model": "old"}),
				slot).Invalidated([]calibration.Record{record}) {
				lost = lost || v.Kind == calibration.Retraction && v.Remedy == calibration.EnterAgain
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
