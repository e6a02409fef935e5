package maintenance_test

import (
	"strings"
	"testing"

	"wardifex/internal/core/maintenance"
)

func TestAvailable(t *testing.T) {
	for name, c := range map[string]struct {
		stands maintenance.Standing
		want   maintenance.Availability
		why    string
	}{
		"proven": {maintenance.Standing{Use: maintenance.InUse, Proven: true}, maintenance.Free, ""},
		"with a fault": {
			maintenance.Standing{Use: maintenance.InUse, Proven: true, Faults: 2}, maintenance.Free, "",
		},
		"not proven": {maintenance.Standing{Use: maintenance.InUse}, maintenance.AttendedOnly, "not proven"},
		"said so": {
			maintenance.Standing{Use: maintenance.Attended, Why: "new nozzle", Proven: true},
			maintenance.AttendedOnly, "new nozzle",
		},
		"open work": {
			maintenance.Standing{Use: maintenance.Attended, Work: "a board", Proven: true}, maintenance.LockedOut, "a board",
		},
		"out of use with open work": {
			maintenance.Standing{Use: maintenance.OutOfUse, Why: "smoke", Work: "a board"}, maintenance.TakenOut, "smoke",
		},
	} {
		t.Run(name, func(t *testing.T) {
			got, why := c.stands.Available()
			if got != c.want || !strings.Contains(why, c.why) || c.want != maintenance.Free && why == "" {
				t.Errorf("%s, because %q; want %s", got, why, c.want)
			}
		})
	}
}

func TestIsDanger(t *testing.T) {
	for words, want := range map[string]bool{
		"There is SMOKE from the back!": true, "It sparks at the plug": true, "burning smell": true, "caught fire": true,
		"the nozzle stays cold": false, "it is too hot in here": false, "a smooth wall": false, "": false,
	} {
		if got := maintenance.IsDanger("", words); got != want {
			t.Errorf("%q: %v", words, got)
		}
	}
	if !maintenance.IsDanger("too-hot", "see photo") {
		t.Error("the symptom of danger is none")
	}
	if maintenance.IsDanger("ringing", "burnt-in ghosts") {
		t.Error("a symptom that was chosen gives way to a word")
	}
}
