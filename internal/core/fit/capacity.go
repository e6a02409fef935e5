package fit

import (
	"slices"

	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
)

// Capacity is something that a part of a machine offers and others use up. Each
// holder has its own: a board its outputs, a supply its watts.
type Capacity struct {
	Key    string
	Title  string
	Unit   string
	Holder string          // kind of part that has it
	Offers machine.TraitOf // how much the holder has: a number, or yes for one
	Draws  []Draw
	Fixed  float64 // taken by what is on no machine's list
	For    string  // what Fixed is taken for
	// Observed is the trait by which somebody sees what is left, or what is taken;
	// it is carried on by what is fitted and taken out since. Without it the capacity
	// is a sum over parts.
	Observed machine.TraitOf
	Taken    bool // Observed says what is taken, not what is left
	// Limit says that the shop sets Offers: it is no fact of the machine. While it is
	// not set, nothing is judged.
	Limit bool
	// ByParts says that parts draw by being fitted, also those that a kit fits where
	// it writes nothing of the capacity.
	ByParts   bool
	Unless    func(machine.Snapshot, machine.Grade) tri // where so, the capacity does not matter
	UnlessOf  machine.TraitOf                           // the trait that Unless looks at
	Least     machine.Grade
	Why       string
	Otherwise string
}

// Draw is what parts of a kind take of a capacity.
type Draw struct {
	Kind string
	// Of is the trait that says how much; without it every part takes one.
	Of machine.TraitOf
	// Only says of which parts; nil for all. What it looks at besides Of is OnlyOf.
	Only   func(machine.Snapshot, *machine.Position, machine.Grade) tri
	OnlyOf []machine.TraitOf
	// Stated says that a part whose kit states where it hangs is not counted here by
	// being what it is.
	Stated bool
	// Shared gives parts that take one together the same name: two motors on one
	// driver. nil where each takes its own.
	Shared func(machine.Snapshot, *machine.Position) *machine.Position
	// More is taken besides by a part, by what it is said to be.
	More func(machine.Snapshot, *machine.Position, machine.Grade) tri
}

// says is how far evidence of a grade tells that a trait has one of some values.
func says(s machine.Snapshot, p *machine.Position, name machine.TraitOf, least machine.Grade, values ...string) tri {
	f := s.Of(p, name)
	if f.Grade < least || f.Grade == machine.Unknown {
		return maybe
	}
	any, all := false, true
	for _, v := range f.Candidates() {
		if slices.Contains(values, v.Text) {
			any = true
		} else {
			all = false
		}
	}
	return tri{any && all, any}
}

// Capacities of a machine. Source: common practice, except where marked.
var capacities = []Capacity{
	{
		Key: "flash", Title: "Flash left", Unit: "KiB",
		Holder: parts.Mainboard, Offers: parts.MainboardFlash,
		Draws: []Draw{
			{
				Kind:   parts.Mainboard,
				Of:     parts.MainboardBootloaderSize,
				Only:   hasBootloader,
				OnlyOf: []machine.TraitOf{parts.MainboardBootloader},
			},
			{Kind: parts.Firmware, Of: parts.FirmwareSize},
		},
		Observed: parts.FirmwareSize, Taken: true,
		Unless: hostedFamily, UnlessOf: parts.FirmwareFamily, Least: machine.Marked,
		Why: "A build that does not fit cannot be flashed.", Otherwise: "Dropping features from the build, or a board " +
			"with more flash, would change that.",
	},
	{
		Key: "probe-header", Title: "Probe header free",
		Holder: parts.Mainboard, Offers: parts.MainboardProbePort,
		Draws: []Draw{
			{Kind: parts.Probe, Only: byTouch, OnlyOf: []machine.TraitOf{parts.ProbeSenses}, Stated: true},
		}, Least: machine.Observed,
		Why: "Two parts cannot share the header.", Otherwise: "A board with another header, or taking out what is on " +
			"it, would change that.",
	},
	{
		Key: "display-header", Title: "10-pin display header free",
		Holder: parts.Mainboard, Offers: parts.MainboardDisplayPort, Observed: parts.MainboardDisplayPort,
		Least: machine.Observed,
		Why:   "A display and an adapter cannot share the header.", Otherwise: "A board with another header would " +
			"change that.",
	},
	{
		Key: "driver-outputs", Title: "Driver outputs free",
		Holder: parts.Mainboard, Offers: parts.MainboardDriverOutputs,
		Draws: []Draw{
			{Kind: parts.Motor, Shared: driverOf},
			{Kind: parts.ZDrive, Only: notItself, More: secondZDriver, OnlyOf: []machine.TraitOf{parts.ZMotors}},
		},
		ByParts: true, Least: machine.Marked,
		Why: "Each motor of its own needs an output.", Otherwise: "A board with more outputs would change that.",
	},
	{
		Key: "heater-outputs", Title: "Heater outputs for hotends free",
		Holder: parts.Mainboard, Offers: parts.MainboardHeaterOutputs,
		Draws:   []Draw{{Kind: parts.Heater, Only: notOfTheBed}},
		ByParts: true, Least: machine.Observed,
		Why: "Each heater of its own needs an output.", Otherwise: "A board with more outputs would change that.",
	},
	{
		Key: "sensor-inputs", Title: "Inputs for temperature sensors free",
		Holder: parts.Mainboard, Offers: parts.MainboardSensorInputs,
		Draws: []Draw{{Kind: parts.Sensor}}, ByParts: true, Least: machine.Observed,
		Why: "Each sensor of its own needs an input.", Otherwise: "A board with more inputs would change that.",
	},
	{
		Key: "fan-outputs", Title: "Fan outputs free",
		Holder: parts.Mainboard, Offers: parts.MainboardFanOutputs, Observed: parts.MainboardFanOutputs,
		Least: machine.Observed,
		Why:   "A fan that the firmware switches needs an output of its own.", Otherwise: "A board with more outputs " +
			"would change that.",
	},
	{
		Key: "supply-watts", Title: "Power left", Unit: "W",
		Holder: parts.Supply, Offers: parts.SupplyWatts, Fixed: 40, For: "motors, fans, electronics (from memory)",
		Draws: []Draw{
			{
				Kind:   parts.Heater,
				Of:     parts.HeaterWatts,
				Only:   onTheSupply,
				OnlyOf: []machine.TraitOf{parts.HeaterVolts, parts.PlateMains},
			},
		},
		ByParts: true, Least: machine.Marked,
		Why: "An overloaded supply runs hot and drops out.", Otherwise: "A larger supply, or heating the bed from the " +
			"mains, would change that.",
	},
	{
		Key: "tool-contacts", Title: "Contacts free",
		Holder: parts.ToolPlate, Offers: parts.ToolContacts,
		Draws: []Draw{{Kind: parts.Toolhead, Of: parts.ToolheadWires, Stated: true}}, Least: machine.Observed,
		Why: "Each wire of a head needs a contact.", Otherwise: "A plate with more contacts would change that.",
	},
	{
		Key: "toolhead-ways", Title: "Pins free on the toolhead board",
		Holder: parts.ToolheadBoard, Offers: parts.ToolheadBoardWays, Observed: parts.ToolheadBoardWays,
		Least: machine.Observed,
		Why:   "Each wire of a probe or fan needs a pin.", Otherwise: "Another toolhead board would change that.",
	},
	{
		Key: "mains-amperes", Title: "Mains circuit left", Unit: "A",
		Holder: parts.Circuit, Offers: parts.CircuitAmperes, Draws: []Draw{{Kind: parts.Circuit, Of: parts.CircuitOthers}},
		Observed: parts.CircuitOthers, Taken: true, Least: machine.Marked,
		Why: "A bed at full power can trip the breaker.", Otherwise: "Capping the bed's power, or another circuit, " +
			"would change that.",
	},
	area("print-width", "Print width left", parts.FrameX),
	area("print-depth", "Print depth left", parts.FrameY),
	area("print-height", "Print height left", parts.FrameZ),
	{
		Key: "head-mass", Title: "Mass that the carriage may still carry", Unit: "g",
		Holder: parts.Carriage, Offers: parts.CarriageBears, Limit: true, Draws: []Draw{{Kind: parts.Toolhead,
			Of: parts.ToolheadGrams}},
		Observed: parts.ToolheadGrams, Taken: true, ByParts: true, Least: machine.Observed,
		Why: "A heavier head rings lower and has to be driven slower.", Otherwise: "A lighter head, or a stiffer " +
			"carriage, would change that.",
	},
	{
		Key: "bed-mass", Title: "Mass that the bed's axis may still carry", Unit: "g",
		Holder: parts.Frame, Offers: parts.FrameBears, Limit: true, Draws: []Draw{{Kind: parts.Plate, Of: parts.PlateGrams}},
		Observed: parts.PlateGrams, Taken: true, ByParts: true, Least: machine.Observed,
		Why: "A heavier bed rings lower and has to be driven slower.", Otherwise: "A lighter plate, or a stronger " +
			"axis, would change that.",
	},
}

func area(key, title string, width machine.TraitOf) Capacity {
	return Capacity{
		Key: key, Title: title, Unit: "mm", Holder: parts.Frame, Offers: width, Observed: width, Least: machine.Observed,
		Why:       "A head, or the dock for it, takes a part of the way.",
		Otherwise: "A longer frame, or a smaller head, would change that.",
	}
}

// Capacities lists every capacity.
func Capacities() []Capacity { return capacities }

func capacityOf(key string) (*Capacity, bool) {
	i := slices.IndexFunc(capacities, func(c Capacity) bool { return c.Key == key })
	if i < 0 {
		return nil, false
	}
	return &capacities[i], true
}

// byClaims are the capacities as claims have them.
var byClaims = func() map[string]*Capacity {
	out := map[string]*Capacity{}
	for _, c := range capacities {
		c.Least = machine.Claimed
		out[c.Key] = &c
	}
	return out
}()

// looksAt are the traits of the holder and of what draws on it, by kind.
func (c *Capacity) looksAt() []machine.TraitOf {
	out := []machine.TraitOf{c.Offers}
	if c.UnlessOf.Name != "" {
		out = append(out, c.UnlessOf)
	}
	for _, d := range c.Draws {
		out = append(out, machine.TraitOf{Kind: d.Kind, Name: machine.ModelTrait, Value: machine.Text})
		if d.Of.Name != "" {
			out = append(out, d.Of)
		}
		out = append(out, d.OnlyOf...)
	}
	return out
}

func notItself(machine.Snapshot, *machine.Position, machine.Grade) tri { return surelyNo }

func hostedFamily(s machine.Snapshot, least machine.Grade) tri {
	return says(s, s.First(parts.Firmware), parts.FirmwareFamily, least, parts.Hosted)
}

// hasBootloader: where it is proven that there is none, none takes any flash.
func hasBootloader(s machine.Snapshot, board *machine.Position, _ machine.Grade) tri {
	if f := s.Of(board, parts.MainboardBootloader); f.Grade == machine.Proven && f.Value.Text == "no" {
		return surelyNo
	}
	return surely
}

// byTouch: a probe that touches the surface has the header of the mainboard, unless
// another board feeds it.
func byTouch(s machine.Snapshot, probe *machine.Position, least machine.Grade) tri {
	touch := says(s, probe, parts.ProbeSenses, least, parts.ByTouch)
	switch by := s.Structure().FedBy(probe); {
	case by.To == nil || s.Vocabulary().Is(by.To.Kind, parts.Mainboard):
		return touch
	case by.Claimed && least > machine.Claimed:
		return tri{false, touch.possible}
	}
	return surelyNo
}

func notOfTheBed(_ machine.Snapshot, p *machine.Position, _ machine.Grade) tri {
	if p.Serves == machine.NoPlace {
		return maybe
	}
	return tri{p.Serves != machine.Bed, p.Serves != machine.Bed}
}

// mainsVolts is the least voltage of a heater that no supply of a machine feeds.
// Source: from memory; supplies of printers give 12 to 48 V.
const mainsVolts = 61

// onTheSupply: a heater for the mains takes nothing of the supply, nor does one that
// something else feeds.
func onTheSupply(s machine.Snapshot, heater *machine.Position, least machine.Grade) tri {
	on := surely
	if heater.Serves == machine.Bed || heater.Serves == machine.NoPlace {
		on = says(s, s.First(parts.Plate), parts.PlateMains, least, "yes").not()
	}
	if f := s.Of(heater, parts.HeaterVolts); f.Known() && f.Grade >= least && on.possible {
		on = surely
		if f.Value.Number >= mainsVolts {
			return surelyNo
		}
	}
	switch by := s.Structure().FedBy(heater); {
	case by.To == nil || s.Vocabulary().Is(by.To.Kind, parts.Supply):
		return on
	case by.Claimed && least > machine.Claimed:
		return tri{false, on.possible}
	}
	return surelyNo
}

// driverOf is the driver that feeds a motor, which two motors on a split lead share.
func driverOf(s machine.Snapshot, motor *machine.Position) *machine.Position {
	return s.Structure().FedBy(motor).To
}

// secondZDriver: two motors on two drivers take one output more than one, where the
// second driver is not on the list of positions itself.
func secondZDriver(s machine.Snapshot, drive *machine.Position, least machine.Grade) tri {
	if len(s.Structure().At(parts.Driver, drive.Serves)) > 1 {
		return surelyNo
	}
	return says(s, drive, parts.ZMotors, least, parts.TwoDrivers)
}
