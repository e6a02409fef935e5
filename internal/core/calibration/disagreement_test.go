package calibration_test

import (
	"strings"
	"testing"
	"time"

	"wardifex/internal/core/calibration"
)

// Steps per mm as calibrated, as read, and as the parts give them: 3 × 200 × 16 ÷ (π ×
// 7.36 mm) = 415. Source of the numbers: common practice.
func TestStepsDisagree(t *testing.T) {
	parts := map[string]string{
		"motor-e.step-angle":     "1.8",
		"driver-e.microsteps":    "16",
		"extruder.ratio":         "3",
		"extruder.gear-diameter": "7.36",
	}
	changed := on(-20) // the extruder was
	for name, tt := range map[string]struct {
		known      map[string]string
		calibrated string // "" never
		day        int
		found      bool
		stands     string
		why        string
	}{
		"all agree":          {add(parts, "extruder.steps", "415"), "414", -9, false, "", ""},
		"within a twentieth": {parts, "400", -9, false, "", ""},
		"calibrated before the extruder came": {add(parts, "extruder.steps", "415"), "95.4", -30, true, "415",
			"follows from parts|measured after"},
		"calibrated since, against the parts": {parts, "95.4", -9, true, "95.4", "measured after the last change"},
		"read since, against it": {add(parts, "extruder.steps", "830"), "95.4", -9, true, "415",
			"follows from parts"},
		"only claimed parts against a reading": {map[string]string{"extruder.steps": "95",
			"motor-e.step-angle": "1.8/claimed", "driver-e.microsteps": "16/claimed", "extruder.ratio": "3/claimed",
			"extruder.gear-diameter": "7.36/claimed"}, "", 0, true, "95 steps/mm", "measured after|stronger"},
		"two measured, and no parts known": {map[string]string{"extruder.steps": "415"}, "95.4", -9, true, "",
			"measure"},
		"a proven reading against a calibration": {map[string]string{"extruder.steps": "415/proven"}, "95.4", -9, true,
			"415 steps/mm", "stronger"},
		"nothing to hold it against": {nil, "95.4", -9, false, "", ""},
	} {
		var records []calibration.Record
		if tt.calibrated != "" {
			records = []calibration.Record{
				{
					ID:     1,
					Kind:   calibration.Steps,
					Value:  tt.calibrated + " steps/mm",
					Store:  calibration.StoreSettings,
					Passed: true,
					At:     on(tt.day),
					By:     "x",
				},
			}
		}
		list := calibration.Disagreements(with(tt.known), records, func(slot string) time.Time {
			if slot == "extruder" && tt.day < 0 && tt.day < -20 {
				return changed
			}
			return time.Time{}
		})
		if (len(list) == 1) != tt.found || len(list) > 1 {
			t.Errorf("%s: %+v", name, list)
			continue
		}
		if !tt.found {
			continue
		}
		f := list[0]
		grounds := false
		for _, why := range strings.Split(tt.why, "|") {
			grounds = grounds || strings.Contains(f.Why, why)
		}
		if !strings.HasPrefix(f.Stands, tt.stands) || (f.Stands == "") != (tt.stands == "") || !grounds || f.Settle == "" ||
			len(f.Statements) < 2 {
			t.Errorf("%s: %q stands, %q, %q (%+v)", name, f.Stands, f.Why, f.Settle, f.Statements)
		}
	}
}

func add(known map[string]string, key, value string) map[string]string {
	out := map[string]string{key: value}
	for k, v := range known {
		out[k] = v
	}
	return out
}

// The other values that are in two places.
func TestOtherDisagreements(t *testing.T) {
	for name, tt := range map[string]struct {
		known map[string]string
		kind  calibration.Kind
		value string
		want  string // what is said; "" nothing
	}{
		"a peak for an effective current": {map[string]string{"motor-x.current": "1"}, calibration.Current,
			"1.41 A", "√2 times"},
		"a current below the rating": {map[string]string{"motor-x.current": "1"}, calibration.Current, "0.9 A", ""},
		"two motors on one driver": {map[string]string{"motor-z.current": "0.8", "motor-z2.model": "m",
			"z-drive.motors": "two on one driver"}, calibration.Current, "1.6 A", ""},
		"a print area that is another": {map[string]string{"frame.x": "235", "frame.y": "235"},
			calibration.PrintArea, "195 × 235", "195 mm in X, and 235"},
		"a millimetre less, the limit": {map[string]string{"frame.x": "235", "frame.y": "235"},
			calibration.PrintArea, "234 × 236", ""},
		"over a millimetre less": {map[string]string{"frame.x": "235", "frame.y": "235"},
			calibration.PrintArea, "235 × 233.9", "233.9 mm in Y, and 235"},
		"the print area on record": {map[string]string{"frame.x": "235", "frame.y": "235"},
			calibration.PrintArea, "235 × 235", ""},
		"longer than one extrusion": {map[string]string{"firmware.max-extrude": "600", "tube.length": "600"},
			calibration.LoadLength, "slow 25 fast 650 purge 50 mm", "650 mm long, and the build allows 600 mm"},
		"a long tube's retraction on a direct": {map[string]string{"tube.length": "45"}, calibration.Retraction,
			"6.5 mm", "does not go with a tube of 45 mm"},
	} {
		s := with(tt.known)
		x := calibration.WholeMachine
		if tt.kind == calibration.Current {
			x = "axis x"
			if _, ok := tt.known["motor-z.current"]; ok {
				x = "axis z"
			}
		}
		records := []calibration.Record{
			{ID: 1, Kind: tt.kind, Subject: x, Value: tt.value, Passed: true, Store: calibration.StoreSettings, At: on(-1)},
		}
		said := ""
		for _, f := range calibration.Disagreements(s, records, nil) {
			said += f.Says + " " + f.Settle
		}
		if tt.want == "" && said != "" || !strings.Contains(said, tt.want) {
			t.Errorf("%s: %q, want %q", name, said, tt.want)
		}
	}
}
