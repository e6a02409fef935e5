package maintenance_test

import (
	"slices"
	"testing"

	"wardifex/internal/core/maintenance"
)

// What closes a machine at once. Source: common practice.
func TestIsDanger(t *testing.T) {
	t.Parallel()
	for words, want := range map[string]bool{
		"There is SMOKE from the back!": true, "It sparks at the plug": true, "burning smell": true, "caught fire": true,
		"I got a shock from the frame": true, "tingles when I touch the bed": true, "the bed won't stop heating": true,
		"heater does not stop": true, "nozzle keeps heating after I switch it off": true, "cracked lead at the bed": true,
		"the wire to the heater is frayed": true, "insulation of the bed cable has cracked": true, "overheated": true,
		"it smells of hot plastic": true, "a connector has melted": true, "it was glowing": true,
		"the bed heater stays on": true, "heater doesn't turn off": true,

		"the nozzle stays cold": false, "it is too hot in here": false, "a smooth wall": false, "": false,
		"shifted layers": false, "the print cracked": false, "it leads to stringing": false, "firmware update fails": false,
		"does not stick": false, "print stopped": false, "stops heating at 150": false, "arc moves are wrong": false,
		"hot end fan is loud": false,
	} {
		if got := maintenance.IsDanger("", words); got != want {
			t.Errorf("%q: danger %v, want %v", words, got, want)
		}
	}
	for _, c := range []struct {
		symptom, words string
		want           bool
	}{
		{"too-hot", "see photo", true}, {"sparks", "", true}, {"shock", "", true}, {"heater-stays-on", "", true},
		{"cracked-lead", "", true},
		{"ringing", "burnt-in ghosts", false}, {"clogged", "the nozzle is clogged", false},
		{"extruder-clicks", "it clicks and there is smoke", true}, {"not-sticking", "and the bed sparks", true},
		{"ringing", "there was a burning smell", true}, {"no such symptom", "smoke", true},
	} {
		if got := maintenance.IsDanger(c.symptom, c.words); got != c.want {
			t.Errorf("%s, %q: danger %v, want %v", c.symptom, c.words, got, c.want)
		}
	}
}

// Dangers are shown first, and what people meet every day is there.
func TestSymptomsAreInTheirOrder(t *testing.T) {
	t.Parallel()
	all := maintenance.Symptoms()
	if i := slices.IndexFunc(all, func(s maintenance.Symptom) bool { return !s.Danger }); i != 5 ||
		slices.ContainsFunc(all[i:], func(s maintenance.Symptom) bool { return s.Danger }) {
		t.Errorf("%d dangers stand first of %d", i, len(all))
	}
	for words, want := range map[string]string{
		"print does not stick to the bed": "not-sticking", "clogged nozzle, nothing comes": "clogged",
		"layers are shifted": "shifted", "it ran out of filament": "ran-out", "there are sparks": "sparks",
		"I felt a tingle": "shock", "cracked cable": "cracked-lead",
	} {
		if got := maintenance.Propose(words); len(got) == 0 || got[0].Key != want {
			t.Errorf("%q: %v, want %s first", words, got, want)
		}
	}
}
