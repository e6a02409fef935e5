package fit_test

import (
	"maps"
	"testing"

	"wardifex/internal/core/fit"
)

// Nothing on record is not nothing there: what a kit touches is asked of parts that nobody has looked at. With the
// one fact that decides, the same kit fits.
func TestNothingOnRecordIsNotNothingThere(t *testing.T) {
	t.Parallel()
	supply := fit.Kit{Key: "shop-supply", Name: "24 V supply", Effects: []fit.Effect{{Slot: "supply", Model: "Shop 24",
		Traits: map[string]string{"volts": "24", "watts": "600"}}}}
	whole := map[string]string{"mainboard.model": "Brace board", "structure.complete": "yes",
		"structure.heads": "together",
		"supply.volts":    "12", "supply.watts": "360", "plate.mains": "no", "heater.watts": "40", "bed-heater.watts": "220",
		"sensor.model": "a", "bed-sensor.model": "b", "case-fan.volts": "24", "fan-duct.volts": "24", "relay.model": "none",
		"probe.model": "none"}
	sheet := fit.Kit{Key: "shop-sheet", Name: "thick sheet", Effects: []fit.Effect{{Slot: "surface", Model: "Thick",
		Traits: map[string]string{"thickness": "4"}}}}
	hosted := fit.Kit{Key: "shop-hosted", Name: "hosted", Effects: []fit.Effect{{Slot: "firmware", Model: "Host build",
		Traits: map[string]string{"family": "hosted"}}}}
	host := map[string]string{"host.model": "Small host"}
	for _, tt := range []struct {
		name  string
		kit   fit.Kit
		known map[string]string
		more  map[string]string // what decides
		want  fit.Answer        // then
	}{
		{"a supply, nothing known of the heaters", supply, whole,
			map[string]string{"heater.volts": "24", "bed-heater.volts": "24"}, fit.Fits},
		{"heaters for 12 V", supply, whole, map[string]string{"heater.volts": "12", "bed-heater.volts": "24"},
			fit.DoesNotFit},
		{"a sheet, nothing known of the probe", sheet, nil, map[string]string{"probe.model": "none"}, fit.Fits},
		{"a probe that reaches less", sheet, nil, map[string]string{"probe.senses": "metal, without touch",
			"probe.reach": "2"}, fit.DoesNotFit},
		{"the hosted family, nothing known of the display", hosted, host, map[string]string{"display.model": "none"},
			fit.Fits},
		{"a closed display", hosted, host, map[string]string{"display.kind": "closed, self-contained"}, fit.DoesNotFit},
	} {
		t.Run(tt.name, func(t *testing.T) {
			t.Parallel()
			j, err := fit.NewJudge(tt.kit, voc)
			if err != nil {
				t.Fatal(err)
			}
			if got := j.Truth(facts(t, tt.known)).Answer(); got != fit.LookFirst {
				t.Errorf("unknown: %s, want to look first", got)
			}
			known := maps.Clone(tt.more)
			maps.Copy(known, tt.known)
			if got := j.Verdict(facts(t, known)); got.Answer != tt.want {
				t.Errorf("known: %s (%s), want %s", got.Answer, got.Headline, tt.want)
			}
		})
	}
}
