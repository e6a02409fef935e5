package change_test

import (
	"strings"
	"testing"

	"wardifex/internal/core/change"
)

// Before and after, side by side. Source: common practice: 53 dB idle and 77 dB peak before,
// 54 and 62 after silent drivers.
func TestBeforeAndAfter(t *testing.T) {
	var before, after change.Step
	for _, s := range exchange(t, facts(compiled), "mainboard").WorkOrder(nil) {
		switch s.Key {
		case "baseline":
			before = s
		case "test-print":
			after = s
		}
	}
	work := func(first, then []string) []change.Worked {
		return []change.Worked{{Step: change.Step{Key: "cover"}}, {Step: before, Data: change.Data{Numbers: first}},
			{Step: change.Step{Key: "fit"}}, {Step: after, Data: change.Data{Numbers: then}}}
	}
	got, err := change.Compare(work([]string{"53", "77 dB", "", "38"}, []string{"54", "62", "0,2"}))
	if err != nil || len(got) != 4 {
		t.Fatalf("%+v, %v", got, err)
	}
	for i, want := range []string{"no difference that is heard", "quieter", "only once", "only once"} {
		if !strings.Contains(got[i].Says, want) {
			t.Errorf("%s: %q, want %q", got[i].Name, got[i].Says, want)
		}
	}
	if *got[1].Change != -15 || got[2].Before != nil || *got[2].After != 0.2 {
		t.Errorf("%+v", got)
	}
	if got, err := change.Compare(work(nil, nil)); err != nil || len(got) != 0 {
		t.Errorf("nothing measured: %+v, %v", got, err)
	}
	for text, ok := range map[string]bool{"0": true, "150": true, "150.1": false, "loud": false, "": true, "3 mm": false} {
		_, err := before.Check(change.Data{Numbers: []string{text}}, "", false, facts(compiled))
		if (err == nil) != ok {
			t.Errorf("%q: %v", text, err)
		}
	}
	// One part alone can be told by the comparison; several at once cannot.
	for _, tt := range []struct {
		slots []string
		warns bool
	}{{[]string{"nozzle"}, false}, {[]string{"nozzle", "hotend"}, true}} {
		for _, s := range exchange(t, facts(compiled), tt.slots...).WorkOrder(nil) {
			if s.Key == "baseline" && strings.Contains(s.Do, "at once") != tt.warns {
				t.Errorf("%v: %s", tt.slots, s.Do)
			}
		}
	}
}
