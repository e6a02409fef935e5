package catalogue

import "wardifex/internal/core/machine"

const (
	pullPlug = "Pull the mains plug first."
	shocking = "Mains voltage kills. Inside the supply, the relay and the mains bed only a licensed electrician works, or as local rules require."
)

// inspections with their minutes. Source: minutes for the display, the cover
// and the heat sink are from memory; the rest are common practice.
var inspections = []machine.Inspection{
	{Key: "display", Title: "Look at the display", Minutes: 1,
		How: "Switch on and open the information screen, or send M115 and read the reply."},
	{Key: "outside", Title: "Look from outside", Minutes: 2, Depth: 1,
		How: "Machine switched off and cool, a torch, and a look at the part from all sides."},
	{Key: "carriage", Title: "Look behind the hotend", Minutes: 5, Depth: 1,
		How:      "Move the carriage to the middle, switch off, let the hotend cool, and look for the two tapped holes beside it. A ruler gives their distance.",
		Cautions: []string{"Hot nozzle and block: let them cool before you reach in."}},
	{Key: "label", Title: "Read the supply's label", Minutes: 10, Depth: 1,
		How:      "Pull the mains plug, tip the machine and read maker, volts and watts on the supply itself.",
		Cautions: []string{"Pull the mains plug first. Do not open the supply: its parts stay charged.", "A big machine is tipped by two people."}},
	{Key: "bed-label", Title: "Look under the bed", Minutes: 8, Depth: 1,
		How:      "Pull the mains plug, let the bed cool, raise the gantry and read what is printed on the heater mat and on the relay beside it.",
		Cautions: []string{pullPlug, shocking, "Hot bed: let it cool."}},
	{Key: "cover", Title: "Take the cover off", Minutes: 10, Depth: 2,
		How:      "Power off, mains plug out, cover screws out. A fan hangs on the cover by its wire. Read the revision printed on the board and look at its connectors.",
		Cautions: []string{pullPlug, "Sheet edges are sharp: fingers and wires.", "Touch bare metal before the board: static."}},
	{Key: "meter", Title: "Measure with a multimeter", Minutes: 10, Depth: 2, Within: "cover",
		How:      "Power off, plug out, part unplugged; measure its resistance cold.",
		Cautions: []string{pullPlug}},
	{Key: "two-temperatures", Title: "Measure its resistance at two temperatures", Minutes: 20, Depth: 2, Within: "cover",
		How:      "Power off, plug out, part unplugged. Measure its resistance in the room, then warmed to 60 °C or more with a thermometer beside it. One temperature alone does not tell the commonest thermistors apart: in a room they differ by 0.3 °C.",
		Cautions: []string{pullPlug, "Warm parts and water near electronics: burns, shock. Warm the part away from the machine."}},
	{Key: "ribbon", Title: "Lift the ribbon aside and read the chip", Minutes: 12, Depth: 3, Within: "cover",
		How:      "Cover off as above, then move the ribbon cable aside and read the second line of the processor's marking with a lens. Photograph it: markings are tiny and remembered wrong.",
		Cautions: []string{pullPlug, "Pull on connectors, not on wires."}},
	{Key: "heat-sink", Title: "Lift one heat sink", Minutes: 25, Depth: 4, Within: "cover", Risk: "a heat sink may take the chip's legs with it",
		How:      "Cover off, lift the heat sink with a twist, clean the paste off, read the chip, put it back with thermal paste.",
		Cautions: []string{pullPlug, "Twist, never pry: a driver lifted off its pads is lost."}},
	{Key: "self-test", Title: "Touch the probe by hand", Minutes: 3, Depth: 5,
		How:      "Power on with the probe clear of the bed; deploy it, touch the pin, and see its state change on the display or in the reply to M119.",
		Cautions: []string{"The machine is powered: keep clear of moving axes."}},
	{Key: "steps", Title: "Measure what the extruder delivers", Minutes: 10, Depth: 5,
		How:      "Hotend at printing temperature. Mark the filament 120 mm above the inlet, ask for 100 mm at 2 mm/s, measure what is left. Steps per mm = the set value × 100 ÷ delivered.",
		Cautions: []string{"Hot nozzle: burns."}},
	{Key: "upload", Title: "Upload a build over USB", Minutes: 15, Depth: 5, Risk: "an upload that stops half-way leaves the board without firmware",
		How: "Upload the present build again from its file. Only an upload that works proves a bootloader."},
}
