package e2e

import (
	"testing"
	"time"

	"wardifex/internal/app"
	"wardifex/internal/core/machine"
	"wardifex/internal/demo"
)

// A value that two places say differently is a finding wherever it is shown, with what
// would settle it; measured again, it is settled.
func TestADisagreementIsSettled(t *testing.T) {
	t.Parallel()
	p := open(t, 1280, 800)
	p.signIn("technician")
	p.visit("/machine/10?fact=extruder.steps")
	p.sees("The steps per mm do not agree")
	p.goes("/machine/10?calibration=steps-per-mm")
	p.sees("95.4 steps/mm")
	p.sees("415 steps/mm")
	p.sees("To settle it: Ask for 100 mm of filament")
	p.types("Value found, steps/mm", "4,15")
	p.chooses("Where the value is kept", "host configuration")
	p.press("Record")
	p.sees("is that right?")
	p.types("Value found, steps/mm", "414.6")
	p.press("Record")
	p.sees("Extruder steps per mm recorded")
	p.until("nothing disagrees", `!document.body.innerText.includes('disagrees')`)
}

// The board on the head is flashed: its extruder's direction is to be seen again, and
// those of the axes are not; the head's protection, and not the bed's.
func TestTheToolheadBoardIsFlashed(t *testing.T) {
	t.Parallel()
	p := open(t, 1280, 800)
	s := roomOf(t).store
	kittiwake := int64(11)
	m, err := s.Machine(t.Context(), kittiwake)
	if err != nil {
		t.Fatal(err)
	}
	reading := machine.Reading{Grade: machine.Observed, TakenAt: demo.Today, By: "x"}
	if _, err := does(s).AddReading(t.Context(), kittiwake, "toolhead-board.model", "Lance board", reading,
		demo.Today); err != nil {
		t.Fatal(err)
	}
	for _, key := range []string{"driver-e", "sensor"} {
		at := *m.Facts.Vocabulary().At(key)
		at.FedBy = &machine.Link{To: "toolhead-board", Grade: machine.Observed}
		m, err = s.Machine(t.Context(), kittiwake)
		if err != nil {
			t.Fatal(err)
		}
		if err := does(s).ChangePosition(t.Context(), kittiwake, at,
			app.ChangedStructure{Version: m.Structure, By: "x", At: demo.Today}); err != nil {
			t.Fatal(err)
		}
	}
	p.signIn("technician")
	p.visit("/machine/11/builds")
	p.sees("What its parts ask of the build")
	p.press("A board runs another build")
	p.chooses("On", "Toolhead board: Lance board")
	p.types("How it is known", "flashed over the bus")
	p.press("Save")
	p.sees("Recorded: the board runs another build")
	p.goes("/machine/11")
	p.sees("Motor direction, head 1")
	p.sees("measure again: Build of Toolhead board")
	p.until(
		"the axes' directions are valid",
		`[...document.querySelectorAll('li')].some(x => /Motor direction, axis/.test(x.innerText) &&
			/valid/.test(x.innerText) && !/invalid/.test(x.innerText))`,
	)
}

// Two heads that are changed by hand have offsets of their own: mounting the other asks
// for its own to be entered again, and neither is lost.
func TestHeadsSwappedByHand(t *testing.T) {
	t.Parallel()
	p := open(t, 1280, 800)
	s := roomOf(t).store
	fulmar := int64(6)
	for key, value := range map[machine.Key]string{"hotend-2.model": "Forge all-metal", "nozzle-2.model": "wide",
		"structure.heads": "by hand", "structure.mounted": "2"} {
		if _, err := does(s).AddReading(t.Context(), fulmar, key, value,
			machine.Reading{Grade: machine.Observed, TakenAt: demo.Today.Add(-48 * time.Hour), By: "x"},
			demo.Today); err != nil {
			t.Fatal(err)
		}
	}
	p.signIn("technician")
	p.visit("/machine/6")
	p.sees("Z offset, head 2")
	p.press("Z offset, head 2")
	p.types("Bed, °C", "60")
	p.types("Waited, minutes", "5")
	p.types("Offset to begin with", "-1.1")
	p.press("Homed")
	p.types("Gap seen", "0")
	p.press("Paper is lightly pinched")
	p.chooses("Where the value is kept", "stored settings")
	p.press("Record")
	p.sees("Z offset, head 2 recorded")
	p.goes("/machine/6?fact=structure.mounted")
	p.types("Structure: head that is mounted", "1")
	p.chooses("On record is 2", "It was changed since")
	p.press("Record the reading")
	p.sees("Structure: head that is mounted recorded")
	p.goes("/machine/6")
	p.sees("enter again: the stored settings hold the value of head 2 since")
	p.sees("-1.10 mm")
}
