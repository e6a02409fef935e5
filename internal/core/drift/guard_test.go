package drift_test

import (
	"testing"

	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/drift"
	"wardifex/internal/core/firmware"
	"wardifex/internal/core/machine/machinetest"
)

// Another value of what safety hangs on stops a flash; another value of anything else is asked about.
func TestGuardsOfAConfiguration(t *testing.T) {
	s := machinetest.Facts(catalogue.Vocabulary(), map[string]string{"firmware.family": "compiled", "frame.x": "220",
		"sensor.type": "100k thermistor"})
	for name, tt := range map[string]struct {
		text string
		want []firmware.GuardLevel
	}{
		"the sensor": {"#define TEMP_SENSOR_0 5\n", []firmware.GuardLevel{firmware.GuardStops}},
		"the width":  {"#define X_BED_SIZE 235\n", []firmware.GuardLevel{firmware.GuardAsks}},
		"as it is":   {"#define TEMP_SENSOR_0 1\n#define X_BED_SIZE 220\n", nil},
	} {
		src := source(t, 1, "compiled", drift.BuildConfiguration, tt.text)
		got := drift.Guards(firmware.Build{}, s, nil, nil, src)
		if len(got) != len(tt.want) || len(got) > 0 && got[0].Level != tt.want[0] {
			t.Errorf("%s: %+v, want %v", name, got, tt.want)
		}
	}
}
