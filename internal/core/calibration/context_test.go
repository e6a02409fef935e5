package calibration_test

import (
	"slices"
	"testing"
	"time"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/machine/machinetest"
)

// A calibration names the parts on which it was made; another machine is unlike where one of
// those is another, or nobody knows.
func TestWhatACalibrationWasMadeOn(t *testing.T) {
	here := map[string]string{"nozzle.model": "brass 0.4", "surface.model": "pei", "probe.model": "none"}
	s := machinetest.Facts(voc, here)
	c, _ := calibration.Of(calibration.ZOffset)
	x := c.Subjects(s)[0]
	if got := c.Context(s, x); !slices.Contains(got, "Nozzle: brass 0.4") || !slices.Contains(got, "Build surface: pei") {
		t.Errorf("made on %q", got)
	}
	for name, tt := range map[string]struct {
		nozzle, surface string
		want            []string
	}{
		"the same":       {"Brass 0.4", "pei", nil},
		"another nozzle": {"hard 0.6", "pei", []string{"Nozzle"}},
		"unknown":        {"brass 0.4", "", []string{"Build surface"}},
	} {
		t.Run(name, func(t *testing.T) {
			there := map[string]string{"nozzle.model": tt.nozzle, "probe.model": "none"}
			if tt.surface != "" {
				there["surface.model"] = tt.surface
			}
			var got []string
			for _, label := range c.Unlike(s, machinetest.Facts(voc, there), x) {
				if label == "Nozzle" || label == "Build surface" {
					got = append(got, label)
				}
			}
			if !slices.Equal(got, tt.want) {
				t.Errorf("unlike in %q, want %q", got, tt.want)
			}
		})
	}
	day := time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC)
	records := []calibration.Record{{ID: 1, Kind: c.Kind, Subject: x, At: day.AddDate(0, 1, 0)},
		{ID: 2, Kind: c.Kind, At: day}, {ID: 3, Kind: c.Kind, Subject: "head 9", At: day},
		{ID: 4, Kind: calibration.Mesh, At: day}}
	if got := calibration.HistoryOf(records, c.Kind, x); len(got) != 2 || got[0].ID != 2 || got[1].ID != 1 {
		t.Errorf("the history: %+v", got)
	}
}
