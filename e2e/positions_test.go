package e2e

import "testing"

// A second and a third heater are added to a machine on its own sheet; from then on
// they obey what their sibling obeys: changed, the third makes the protection proof and
// the hotend PID invalid. The second is placed at the enclosure. A sister machine is
// then built alike, and has both too; its list is kept for machines to come.
func TestAPositionIsAdded(t *testing.T) {
	t.Parallel()
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
	p.chooses("Add a position for", "Heater")
	p.chooses("which serves", "head 3")
	p.press("Add")
	p.sees("Heater, head 3")

	// One for which there is only one says so, before anything is sent.
	p.chooses("Add a position for", "Mainboard")
	p.sees("a machine has one mainboard")

	p.goes("/machine/1?fact=heater-3.model")
	p.types("New model", "Forge heater 60 W")
	p.types("Why", "a third head")
	p.press("Record the change")
	p.sees("Thermal-runaway protection not proven")
	p.sees("head 3: never tested on this machine")
	p.goes("/machine/1?calibration=hotend-pid")
	p.sees("Hotend PID, head 3")

	p.goes("/machine/1?fact=heater-3.watts")
	p.types("Heater, head 3: watts, W", "60")
	p.press("Record the reading")
	p.sees("Heater, head 3: watts recorded")

	p.goes("/machine/1/positions")
	p.press("Hotend heater 2")
	p.chooses("Serves", "the enclosure")
	p.press("Save")
	p.sees("Heater, enclosure")

	p.goes("/machine/new")
	p.types("Name", "Avocet II")
	p.chooses("Built like", "Avocet, Hollin Works Skerry 22")
	p.press("Add the machine")
	p.sees("Avocet II is in the register")
	p.press("Positions and heads")
	p.sees("Heater, head 3")
	p.press("Heater, enclosure")
	p.press("Remove the position")
	p.sees("Heater, enclosure is removed")
	p.types("Save this list for new machines, as", "Skerry with three heads")
	p.press("Save the list")
	p.sees("New machines can be built like Skerry with three heads")
}
