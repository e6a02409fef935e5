package e2e

import "testing"

// A second heater is added to a machine on its own sheet; from then on it obeys what
// its sibling obeys: changed, it makes the protection proof and the hotend PID
// invalid, and it counts in the power of the supply. A sister machine is then built
// alike, and has it too.
func TestAPositionIsAdded(t *testing.T) {
	p := open(t, 1280, 800)
	p.signIn("technician")
	p.visit("/machine/1")
	p.sees("Thermal-runaway protection proven")
	p.press("Positions and heads")
	p.sees("Positions of Avocet")
	p.chooses("Add a position for", "Heater")
	p.chooses("which serves", "head 2")
	p.press("Add")
	p.sees("Hotend heater 2")

	// One for which there is only one says so, before anything is sent.
	p.chooses("Add a position for", "Mainboard")
	p.sees("a machine has one mainboard")

	p.visit("/machine/1?fact=heater-2.model")
	p.types("New model", "Forge heater 60 W")
	p.types("Why", "a second head")
	p.press("Record the change")
	p.sees("Thermal-runaway protection not proven")
	p.sees("proof void: Hotend heater 2")
	p.visit("/machine/1?calibration=hotend-pid")
	p.sees("Hotend heater 2")

	p.visit("/machine/1?fact=heater-2.watts")
	p.types("Hotend heater 2: watts, W", "60")
	p.press("Record the reading")
	p.sees("60 W")

	p.visit("/machine/new")
	p.types("Name", "Avocet II")
	p.chooses("Built like", "Avocet, Hollin Works Skerry 22")
	p.press("Put it into the register")
	p.sees("Avocet II is in the register")
	p.press("Positions and heads")
	p.sees("Hotend heater 2")
	p.press("Hotend heater 2")
	p.press("Remove the position")
	p.sees("Hotend heater 2 is removed")
}
