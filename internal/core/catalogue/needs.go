package catalogue

import (
	"fmt"

	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
)

// seen selects parts as they are seen from the one that needs something.
func seen(kind string, relation machine.RelationKind) machine.Selector {
	return machine.Selector{Kind: kind, Relation: relation}
}

// each selects every such part; where there is none, what is asked of it holds.
func each(kind string, relation machine.RelationKind) machine.Selector {
	return machine.Selector{Kind: kind, Relation: relation, Every: true}
}

// asks is a test of selected parts, which marked or better evidence decides.
func asks(label string, of machine.Selector, trait string, op fit.Op, values ...string) fit.Requirement {
	return fit.Requirement{Label: label, Test: &fit.Test{Of: &of, Trait: trait, Op: op, Values: values, Least: machine.Marked}}
}

// asksOwn compares a trait of selected parts with one of the part itself.
func asksOwn(label string, of machine.Selector, trait string, op fit.Op, own string) fit.Requirement {
	return fit.Requirement{Label: label, Test: &fit.Test{Of: &of, Trait: trait, Op: op, Own: own, Least: machine.Marked}}
}

// reckons is a formula asked of selected parts.
func reckons(label string, of machine.Selector, text string) fit.Requirement {
	return fit.Requirement{Label: label, Formula: &fit.Formula{Text: text, Of: &of, Least: machine.Marked}}
}

func need(key string, that fit.Requirement) machine.Need { return machine.Need{Key: key, That: that} }

// where is a need that there is only where something is so.
func where(n machine.Need, when ...fit.Requirement) machine.Need {
	r := when[0]
	if len(when) > 1 {
		r = fit.Requirement{Label: "It is needed here", All: when}
	}
	n.When = &r
	return n
}

func not(label string, r fit.Requirement) fit.Requirement {
	return fit.Requirement{Label: label, None: []fit.Requirement{r}}
}

var (
	itself  = machine.Itself
	builds  = seen(parts.Firmware, machine.Anywhere)
	onHosts = asks("The hosted family", builds, "family", fit.Equal, parts.Hosted)

	offMains = []fit.Requirement{
		asks("It is made for the machine's own voltage", seen(parts.Heater, itself), "volts", fit.AtMost, "60"),
		not("The plate beside it is not heated from the mains", asks("The plate beside it is heated from the mains", seen(parts.Plate, machine.SamePlace), "mains", fit.Equal, "yes"))}
	fromMains = asks("It is heated from the mains", seen(parts.Plate, itself), "mains", fit.Equal, "yes")
	byMetal   = asks("It senses metal", seen(parts.Probe, itself), "senses", fit.Equal, parts.ByMetal)
)

// linerBears is the temperature that a PTFE liner bears, in °C. Source: from memory;
// the trade changes liners early above it.
const linerBears = 240

// needsOfKinds is what parts need by being what they are. Source: common practice, except
// where marked.
var needsOfKinds = map[string][]machine.Need{
	parts.Heater: {
		where(need("no-more-volts", dangerous(because(asksOwn("A supply of no more than its voltage", each(parts.Supply, machine.FeedsIt), "volts", fit.AtMost, "volts"),
			"A heater on more than its voltage takes the square of that more power.", "Do not switch it on until one of the two is read again; a heater for the supply's voltage would change that."), "A heater on twice its voltage takes four times its power: fire.")), offMains...),
		where(need("no-fewer-volts", because(asksOwn("A supply of no less than its voltage", each(parts.Supply, machine.FeedsIt), "volts", fit.AtLeast, "volts"),
			"On half its voltage it gives a quarter of its power and does not reach temperature.", "A heater for the supply's voltage would change that.")), offMains...),
		need("sensor", dangerous(because(asks("A temperature sensor beside it", seen(parts.Sensor, machine.SamePlace), machine.ModelTrait, fit.Present),
			"Without one nothing tells how hot it is.", "A sensor at its place would change that."), "A heater without a sensor of its own heats without end: fire.")),
	},
	parts.Motor: {
		need("driver", because(asks("A driver that feeds it", seen(parts.Driver, machine.FeedsIt), machine.ModelTrait, fit.Present), "A motor without a driver does not turn.", "A driver for it, or a split lead from another, would change that.")),
	},
	parts.Driver: {
		need("microsteps", because(asksOwn("Steps no finer than its chip goes", each(parts.Driver, itself), "microsteps", fit.AtMost, "max-microsteps"), "A chip does what it can, not what is set.", "Coarser steps, or another chip, would change that.")),
	},
	parts.Probe: {
		where(need("metal", dangerous(because(asks("Metal under the surface", each(parts.Plate, machine.Anywhere), "metal", fit.Equal, "yes"),
			"It senses the metal, not the surface.", "A steel sheet under the surface, or a probe that touches it, would change that."), "Without metal it never triggers, and the nozzle runs into the bed; a dip in the metal under flat glass is corrected though the glass has none.")), byMetal),
		where(need("reach", dangerous(because(asksOwn("A surface no thicker than it reaches", each(parts.Surface, machine.Anywhere), "thickness", fit.AtMost, "reach"),
			"Further away it does not sense.", "A thinner surface, or a probe that touches it, would change that."), "It does not trigger, and the nozzle runs into the bed.")), byMetal),
	},
	parts.Hotend: {
		where(need("liner", dangerous(because(asks(fmt.Sprintf("A working temperature of at most %d °C", linerBears), each(parts.Hotend, itself), "working-temperature", fit.AtMost, fmt.Sprint(linerBears)),
			"A PTFE liner above its rating decomposes (from memory: it is changed early above 240 °C).", "An all-metal hotend, or a cooler filament, would change that."), "A liner above its rating gives off toxic fumes: stay at or below it, ventilate.")),
			asks("Its liner reaches the melt zone", seen(parts.Hotend, itself), "liner", fit.Equal, "yes")),
	},
	parts.Display: {
		where(need("family", because(not("A family other than the hosted one", onHosts), "A closed display stays dead under the hosted family.", "Doing without it, or a board-driven one, would change that.")),
			asks("It is closed", seen(parts.Display, itself), "kind", fit.Equal, parts.ClosedDisplay)),
	},
	parts.Firmware: {
		where(need("host", because(asks("A host computer", seen(parts.Host, machine.Anywhere), machine.ModelTrait, fit.Present), "The hosted family runs on one.", "A host computer with a supply of its own would change that.")),
			asks("It is of the hosted family", seen(parts.Firmware, itself), "family", fit.Equal, parts.Hosted)),
		where(need("wide-board", because(asks("A 32-bit board", each(parts.Mainboard, machine.Anywhere), "width", fit.Equal, "32-bit"), "The scripted family does not run on 8-bit boards.", "A 32-bit board would change that.")), scripted),
		where(need("large-flash", because(asks("Flash of at least 512 KiB", each(parts.Mainboard, machine.Anywhere), "flash", fit.AtLeast, "512"), "Smaller boards do not hold the scripted family.", "A board with more flash would change that.")), scripted),
	},
	parts.Plate: {
		where(need("relay", dangerous(because(asks("A solid-state relay of at least 10 A", seen(parts.Relay, machine.Anywhere), "amperes", fit.AtLeast, "10"), "The board cannot switch mains.", "A larger relay would change that; mains work is for a licensed electrician, or as local rules require."),
			"A relay under its load fails closed, and the bed heats without end.")), fromMains),
		where(need("earth", dangerous(because(asks("Protective earth proven at the socket", seen(parts.Circuit, machine.Anywhere), "earth", fit.Equal, "yes"), "Plate and frame are earthed there; a licensed electrician, or as local rules require, proves it.", "An earthed socket would change that."),
			"A fault puts mains voltage on the plate.")), fromMains),
	},
	parts.ZDrive: {
		where(need("split-lead", dangerous(because(reckons("The Z output carries both motors", each(parts.Motor, machine.SamePlace), "2 * part.current <= own.output-amperes"), "Two motors in parallel share one driver's current.", "A motor with an output of its own would change that."),
			"An overloaded driver overheats and loses steps: the gantry goes out of level.")),
			asks("Two motors hang on one driver", seen(parts.ZDrive, itself), "motors", fit.Equal, parts.SplitLead)),
	},
}

var scripted = asks("It is of the scripted family", seen(parts.Firmware, itself), "family", fit.Equal, parts.Scripted)

// features of builds with their sizes in KiB and what they need. Source: common practice
// for the probe and the full mesh; the other sizes are from memory.
var features = []machine.Feature{
	{Name: "full mesh levelling", KiB: 43, Needs: []machine.Need{need("probe", because(asks("A probe", seen(parts.Probe, machine.Anywhere), machine.ModelTrait, fit.Present), "A mesh is probed.", "A probe, or a build without it, would change that."))}},
	{Name: "contact probe", KiB: 5, Needs: []machine.Need{need("probe", because(asks("A probe that touches the surface", seen(parts.Probe, machine.Anywhere), "senses", fit.Equal, parts.ByTouch), "The build drives its pin.", "A contact probe, or a build for what is fitted, would change that."))}},
	{Name: "graphic display", KiB: 24}, {Name: "character display", KiB: 9},
	{Name: "filament change", KiB: 3, Needs: []machine.Need{need("extrusion", because(reckons("One extrusion may be as long as the unload", each(parts.Tube, machine.Anywhere), "own.max-extrude >= part.length + 50 mm"), "Unloading is one move.", "Raising the largest single extrusion would change that."))}},
	{Name: "arc moves", KiB: 4}, {Name: "linear advance", KiB: 2}, {Name: "input shaping", KiB: 6}, {Name: "card menus", KiB: 11},
	{Name: "second language", KiB: 8}, {Name: "power-loss recovery", KiB: 5}, {Name: "boot picture", KiB: 2},
}

// supplied are the voltages that supplies are made for: a measured one within a tenth is
// that supply. Source: from memory.
var supplied = &machine.Nominal{Values: []float64{5, 12, 24, 36, 48}, Within: 0.1}

// mainsVolts are those of mains. Source: IEC 60038 (230 V, within a tenth); 120 V is
// common practice.
var mainsVolts = &machine.Nominal{Values: []float64{120, 230}, Within: 0.1}

// heated are those that heaters are made for.
var heated = &machine.Nominal{Values: []float64{5, 12, 24, 36, 48, 120, 230}, Within: 0.1}

// lastingFamily says that a part needs a build of one of some families.
func lastingFamily(families ...string) machine.Need {
	return need("family", because(asks("A firmware family with a build for it", each(parts.Firmware, machine.Anywhere), "family", fit.OneOf, families...), "Its builds exist for these families only.", "A change of the firmware family would change that."))
}

func lastingBracket(model string) machine.Need {
	return need("bracket", because(asks("The "+model, seen(parts.Bracket, machine.SameHead), machine.ModelTrait, fit.Equal, model), "It hangs there, at its height over the nozzle.", "Its own bracket would change that."))
}

func lastingHoles(label, lo, hi string) []machine.Need {
	return []machine.Need{
		need("holes", because(asks("Two tapped holes in the carriage", each(parts.Carriage, machine.CarriesIt), "bracket-holes", fit.Equal, "yes"), "It is screwed there; early carriages lack them.", "A carriage with holes, or drill and tap, would change that.")),
		need("hole-spacing", because(asks(label, each(parts.Carriage, machine.CarriesIt), "hole-spacing", fit.Between, lo, hi), "It has its holes there.", "Another bracket, or drill and tap, would change that.")),
	}
}

func lastingSquare(label, lo, hi string) machine.Need {
	return need("hole-square", because(asks(label, each(parts.Frame, machine.Anywhere), "hole-square", fit.Between, lo, hi), "The board is screwed to the frame there.", "An adapter plate would change that."))
}

// sheet is a shipped build surface with its adhesive.
func sheet(name, thick string) machine.Model {
	cool := asks("A bed no hotter than 110 °C", each(parts.Plate, machine.Anywhere), "temperature", fit.AtMost, "110")
	cool.Harmless, cool.Test.Least = true, machine.Claimed
	return machine.Model{Kind: parts.Surface, Name: name, Maker: "Slate & Co", Defaults: map[string]string{"thickness": thick},
		Needs: []machine.Need{need("adhesive", because(cool, "Its adhesive stands no more.", "A sheet with another adhesive would change that."))}}
}

// changePlate is a shipped tool-changing plate.
func changePlate(name, thick, contacts, amperes string) machine.Model {
	heads := each(parts.Heater, machine.SameHead)
	return machine.Model{Kind: parts.ToolPlate, Name: name, Maker: "Ardal", Defaults: map[string]string{"contacts": contacts, "contact-amperes": amperes},
		Needs: []machine.Need{
			need("bosses", because(asks("Bosses on the carriage of at most "+thick+" mm", each(parts.Carriage, machine.Anywhere), "boss", fit.AtMost, thick), "A plate over taller bosses rocks; print it thicker.", "The thicker plate would change that.")),
			need("contact-current", dangerous(because(reckons("The heater's current within its contact", heads, "part.watts / part.volts <= "+amperes+" A"), "I = P ÷ V: a heater wants the heavy contacts.", "Contacts of a higher rating, or a heater for a higher voltage, would change that."), "A contact over its rating burns.")),
			need("wire-current", dangerous(because(reckons("The heater's current within its wires", heads, fmt.Sprintf("part.watts / part.volts <= %g A * part.wire / 1 mm²", parts.LoomDensity)), "About 6 A for each mm² in a loom (from memory). American wire gauge 18 is 0.82, 20 is 0.52, 22 is 0.33 mm² (ASTM B258).", "Thicker wires to the heater would change that."), "A wire too thin for its current gets hot.")),
			need("contacts", because(asks("Contacts for every wire of the head", each(parts.Toolhead, machine.Anywhere), "wires", fit.AtMost, contacts), "Each wire needs one.", "The plate with more contacts, or a board on the head, would change that.")),
		}}
}

// mainsPlate is a shipped bed plate with a mains heater.
func mainsPlate(name, volts string) machine.Model {
	return machine.Model{Kind: parts.Plate, Name: name, Maker: "Hearth", Defaults: map[string]string{"metal": "yes", "mains": "yes"},
		Needs: []machine.Need{
			need("volts", dangerous(because(asks("Mains of "+volts+" V, within a tenth", seen(parts.Circuit, machine.Anywhere), "volts", fit.Equal, volts), "The mat is made for it.", "The plate of the other voltage would change that."), "A mat for another voltage overheats or trips the line.")),
			need("circuit", dangerous(because(asks("Mains circuit is known", seen(parts.Circuit, machine.Anywhere), "amperes", fit.AtLeast, "6"), "The bed loads it.", "Another circuit would change that."), "An overloaded circuit trips, or its wires run hot.")),
			need("sensor", because(asks("A bed sensor that the firmware knows", seen(parts.Sensor, machine.SamePlace), "type", fit.OneOf, "100k thermistor", "Pt1000"), "The mat carries one of these.", "A build that knows it would change that.")),
		}}
}

// toolhead is a shipped head for carriages whose screws enter from one side.
func toolhead(name, from string) machine.Model {
	return machine.Model{Kind: parts.Toolhead, Name: name, Maker: "Seabird", Defaults: map[string]string{"grams": "420"},
		Needs: []machine.Need{need("screws", because(asks("Carriage whose screws enter from the "+from, each(parts.Carriage, machine.CarriesIt), "screws-from", fit.Equal, from), "The generations differ.", "The toolhead for the other generation would fit."))}}
}

var flatShaft = need("flat", because(asks("A flat on the motor's shaft", each(parts.Motor, machine.SameHead), "flat", fit.Equal, "yes"), "The pinion's grub screw sits on the flat.", "A motor with a flat would change that."))

// needy are shipped models that need something as long as they are fitted. Makers and
// names are invented.
var needy = []machine.Model{
	{Kind: parts.Probe, Name: "Plumbline contact probe", Maker: "Plumbline", Defaults: map[string]string{"senses": parts.ByTouch},
		Needs: []machine.Need{lastingFamily(parts.Compiled, parts.Hosted), lastingBracket("Plumbline bracket, 3 mm"),
			need("board", because(anyOf("A build for this board and this probe", "", "", onHosts, asks("Processor of the first source", each(parts.Mainboard, machine.Anywhere), "chip-maker", fit.Equal, "first source")),
				"Its compiled builds support one maker's chip and not its pin-compatible twin.", "Another mainboard, or the hosted family, would change that."))}},
	{Kind: parts.Probe, Name: "Kedge contact probe", Maker: "Kedge", Defaults: map[string]string{"senses": parts.ByTouch},
		Needs: []machine.Need{lastingFamily(parts.Compiled, parts.Hosted), lastingBracket("Kedge bracket, 4 mm"),
			need("toolhead-board", because(asks("A toolhead board", seen(parts.ToolheadBoard, machine.SameHead), machine.ModelTrait, fit.Present), "The probe plugs in there.", "The Plumbline kit goes to the mainboard instead."))}},
	{Kind: parts.Probe, Name: "Sounder inductive", Maker: "Sounder", Defaults: map[string]string{"senses": parts.ByMetal, "reach": "4"},
		Needs: []machine.Need{
			need("reach", dangerous(because(asks("Surface at most 4 mm thick", each(parts.Surface, machine.Anywhere), "thickness", fit.AtMost, "4"), "Further away it does not sense.", "A thinner surface, or a probe that touches it, would change that."), "It does not trigger, and the nozzle runs into the bed.")),
			need("volts", dangerous(because(asks("A supply between 10 and 30 V", each(parts.Supply, machine.Anywhere), "volts", fit.Between, "10", "30"), "It runs from the supply.", "A step-down converter would change that."), "A signal at supply voltage kills a board's input: a divider or a diode is needed."))}},
	{Kind: parts.Probe, Name: "Lodestar 5 V", Maker: "Lodestar", Defaults: map[string]string{"senses": parts.ByMetal, "reach": "1.5"},
		Uses: []machine.Use{{Capacity: "probe-header", Amount: 1}, {Capacity: "head-mass", Amount: 14}},
		Needs: []machine.Need{lastingFamily(parts.Hosted),
			need("reach", dangerous(because(asks("Surface at most 1.5 mm thick", each(parts.Surface, machine.Anywhere), "thickness", fit.AtMost, "1.5"), "It senses from 2 mm.", "A thinner sheet, or a probe that touches the surface, would change that."), "It does not trigger, and the nozzle runs into the bed."))}},
	{Kind: parts.Bracket, Name: "Plumbline bracket, 3 mm", Maker: "Plumbline", Defaults: map[string]string{"thickness": "3"}, Needs: lastingHoles("Holes 18 mm apart, within half a millimetre", "17.5", "18.5")},
	{Kind: parts.Bracket, Name: "Kedge bracket, 4 mm", Maker: "Kedge", Defaults: map[string]string{"thickness": "4"}, Needs: lastingHoles("Holes 24 mm apart, within half a millimetre", "23.5", "24.5")},
	{Kind: parts.Mainboard, Name: "Brace 5 board", Maker: "Hollin Works", BasedOn: "Brace board",
		Needs: []machine.Need{lastingSquare("Mounting holes in a square of 101.5 mm, within half a millimetre", "101", "102"),
			need("volts", because(asks("A supply of 12 to 24 V", each(parts.Supply, machine.Anywhere), "volts", fit.Between, "12", "24"), "Its regulators stand no more.", "Another supply would change that.")),
			need("display", because(asks("A display driven by the board, or none", each(parts.Display, machine.Anywhere), "kind", fit.Equal, "driven by the board"), "A closed display does not speak with it.", "A board-driven display would change that."))}},
	{Kind: parts.Mainboard, Name: "Sill R3", Maker: "Ardal", BasedOn: "Sill R2",
		Needs: []machine.Need{lastingSquare("Mounting holes in a square of 95 mm, within half a millimetre", "94.5", "95.5"),
			need("family", because(onHosts, "The board only drives pins; a host thinks.", "A change to the hosted family would change that.")),
			need("host-power", because(asks("A host on a supply of its own", each(parts.Host, machine.Anywhere), "power", fit.Equal, "a supply of its own"), "A laptop's port drops out under load.", "A supply for the host would change that."))}},
	{Kind: parts.Display, Name: "Amber display", Maker: "Amber", Defaults: map[string]string{"kind": "driven by the board"}, Needs: []machine.Need{lastingFamily(parts.Compiled)}},
	{Kind: parts.Display, Name: "Slate touch display", Maker: "Slate & Co", Defaults: map[string]string{"kind": "driven by the board"},
		Needs: []machine.Need{lastingFamily(parts.Compiled, parts.Scripted),
			need("board", because(asks("32-bit board", each(parts.Mainboard, machine.Anywhere), "width", fit.Equal, "32-bit"), "Its code does not fit an 8-bit board.", "A 32-bit board would change that.")),
			need("version", because(asks("Firmware from version 2.0.5 on", each(parts.Firmware, machine.Anywhere), "version", fit.Version, "2.0.5"), "Older builds do not speak with it.", "An update of the build would change that."))}},
	{Kind: parts.Extruder, Name: "Pawl Mini 3.5:1", Maker: "Pawl & Rack", Defaults: map[string]string{"ratio": "3.5"}, Needs: []machine.Need{flatShaft}},
	{Kind: parts.Frame, Name: "Longshore 500 frame", Maker: "Longshore",
		Needs: []machine.Need{
			need("build", because(anyOf("A build for the new volume on this processor", "", "", onHosts, asks("Processor of the first source", each(parts.Mainboard, machine.Anywhere), "chip-maker", fit.Equal, "first source")), "The volume is compiled in.", "Another board, or the hosted family, would change that.")),
			need("belts", because(asks("Belts of 2 mm pitch", each(parts.Belts, machine.Anywhere), "pitch", fit.Equal, "2"), "Its pulleys are of that pitch.", "Other pulleys would change that."))}},
	toolhead("Gull toolhead", "front"), toolhead("Petrel toolhead", "rear"),
	{Kind: parts.Toolhead, Name: "Quayside head 2", Maker: "Ardal",
		Needs: []machine.Need{need("plate", because(asks("The Quayside change plate of 5 mm", seen(parts.ToolPlate, machine.Anywhere), machine.ModelTrait, fit.Equal, heavyPlate), "Its half of the plate goes with that one.", "Fitting that plate would change that."))}},
	changePlate(heavyPlate, "5", "14", "10"), changePlate(lightPlate, "3", "8", "3"),
	mainsPlate("Hearth plate, 230 V", "230"), mainsPlate("Hearth plate, 120 V", "120"),
	sheet("Slate sheet", "1.2"), sheet("Loadstone magnet and steel sheet", "2.4"),
}
