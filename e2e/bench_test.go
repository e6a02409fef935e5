package e2e

import "testing"

// A calculator by keyboard: the sum while one types, what looks like a slip is asked about, and
// a wrong word stands beside its field.
func TestTheBench(t *testing.T) {
	t.Parallel()
	p := reads(t, "technician", 1280, 800)
	p.visit("/bench")
	p.press("Steps/mm from a feed")
	p.types("Steps/mm in force, steps/mm", "415")
	p.sees("Still to be typed: filament that came.")
	p.types("Filament that came, mm", "96")
	p.sees("415 × 100 ÷ 96 = 432.3 steps/mm")
	p.sees("M92 E432.29")
	p.types("Filament that came, mm", "50")
	p.sees("Is it right?")
	p.sees("Off by two")
	p.types("Filament that came, mm", "0")
	p.sees("nothing came, and no number of steps makes up for that")
	p.types("Filament that came, mm", "96")
	p.sees("432.3")
	p.visit("/bench/steps-feed") // what was typed is still there
	p.sees("415 × 100 ÷ 96 = 432.3 steps/mm")
}

// A worn nozzle is swapped by a work order of its own: its own steps alone, a lock that its
// button alone adds, a hand-over, and the sum of a step done in the step.
func TestANozzleIsSwapped(t *testing.T) {
	t.Parallel()
	p := open(t, 1280, 800)
	p.signIn("technician")
	p.visit("/machine/1?fact=nozzle.model")
	p.types("Model that comes in", "hard 0.4")
	p.types("Why it is touched", "worn")
	p.press("Open the work order")
	p.sees("No lock on it")
	p.sees("Take the baseline")
	if p.says("Photograph every connection") {
		t.Error("no wire is touched, and yet they are to be photographed")
	}
	p.types("Noise, idle, dB", "53")
	p.press("Done, next")
	p.sees("No lock on it")
	p.press("Add my lock")
	p.sees("Joren Halm, since")
	p.press("Pause work …")
	p.types("Why", "waits for the nozzle")
	p.types("What is loose, unplugged or unsafe", "nothing")
	p.press("Pause work")
	p.sees("Paused")

	q := open(t, 800, 1280)
	q.signIn("lead")
	q.visit(value[string](p, `location.pathname`))
	q.sees("waits for the nozzle")
	q.press("Resume the work")
	q.press("Add my lock")
	q.sees("Ansa Verrel, since")
	q.sees("Take the filament out")
	q.press("Done, next")
	// The first sees it without asking anew.
	p.sees("Ansa Verrel, since")
	p.sees("Power off and pull the mains plug")
}

// How a list is arranged stands in the address, and a link to the list as it begins is followed.
func TestAListFollowsItsAddress(t *testing.T) {
	t.Parallel()
	p := reads(t, "technician", 1280, 800)
	p.visit("/due")
	p.sees("128 of 224 with a date")
	p.chooses("How far ahead", "Everything")
	p.sees("224 of 224 with a date")
	p.until("the address", `location.search.includes('only.span=')`)
	p.press("Maintenance")
	p.sees("128 of 224 with a date")
	p.until("the address as it began", `location.search === ''`)
}
