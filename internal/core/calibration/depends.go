package calibration

import (
	"slices"
	"strings"

	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
)

// Dependency is a position on which a calibration depends: on which part is there, on
// single traits of it, or both.
type Dependency struct {
	At   *machine.Position
	Part bool // on which part is there; it may be exchanged for one alike, and counts
	// Traits are those of which another value counts; of an exchanged part, unless both
	// are known and the same.
	Traits []machine.TraitOf
	// Settings says that it depends on what the build is configured to as well, where its
	// family reads a configuration.
	Settings bool
	// Doubt says why it cannot be told whether it depends on it; empty where it does.
	Doubt string
}

// Says is the dependency for people: "Power supply: volts", "Extruder motor".
func (n Dependency) Says() string {
	says := n.At.Label
	if !n.Part {
		var names []string
		for _, t := range n.Traits {
			names = append(names, t.Name)
		}
		says += ": " + strings.Join(names, ", ")
	}
	if n.Doubt != "" {
		says += " (perhaps: " + n.Doubt + ")"
	}
	return says
}

// dependencies gathers on what a subject's calibration depends on one machine.
type dependencies struct {
	s    machine.Snapshot
	x    Subject
	list []Dependency
}

// DependsOn is on what a calibration of a subject depends on a machine. Nothing depends
// on what a machine does not have.
func (c Calibration) DependsOn(s machine.Snapshot, x Subject) []Dependency {
	d := dependencies{s: s, x: x}
	c.depends(&d)
	return d.list
}

func (d *dependencies) add(n Dependency) {
	if n.At == nil {
		return
	}
	for i := range d.list {
		if o := &d.list[i]; o.At == n.At {
			if o.Doubt != "" && n.Doubt == "" {
				o.Doubt = ""
			}
			o.Part, o.Settings = o.Part || n.Part, o.Settings || n.Settings
			for _, t := range n.Traits {
				if !slices.ContainsFunc(o.Traits, func(u machine.TraitOf) bool { return u.Name == t.Name }) {
					o.Traits = append(o.Traits, t)
				}
			}
			return
		}
	}
	d.list = append(d.list, n)
}

// parts adds the parts at positions, and of what they are the traits that count by
// themselves.
func (d *dependencies) parts(at []*machine.Position, traits ...machine.TraitOf) {
	for _, p := range at {
		d.add(Dependency{At: p, Part: true, Traits: traits})
	}
}

// doubtful adds parts of which it cannot be told whether they matter.
func (d *dependencies) doubtful(why string, at []*machine.Position, traits ...machine.TraitOf) {
	for _, p := range at {
		d.add(Dependency{At: p, Part: true, Traits: traits, Doubt: why})
	}
}

// every are the positions for a kind of part.
func (d *dependencies) every(kind string) []*machine.Position { return d.s.Each(kind) }

// at are the positions for a kind at a place, and those that may be anywhere.
func (d *dependencies) at(kind string, place machine.Place) []*machine.Position {
	var out []*machine.Position
	for _, p := range d.s.Each(kind) {
		if p.Serves == place || p.Serves == machine.NoPlace {
			out = append(out, p)
		}
	}
	return out
}

// here are those at the subject's place.
func (d *dependencies) here(kind string) []*machine.Position { return d.at(kind, d.x.Place()) }

// ofHead are those of the subject's head, or of every head where it has none.
func (d *dependencies) ofHead(kind string) []*machine.Position {
	if n := d.x.Head(); n > 0 {
		return d.at(kind, machine.Head(n))
	}
	return d.every(kind)
}

func isBoard(s machine.Snapshot, p *machine.Position) bool {
	voc := s.Vocabulary()
	return voc.Is(p.Kind, parts.Mainboard) || voc.Is(p.Kind, parts.ToolheadBoard)
}

// board adds the board that drives or reads a part, with the build that it runs.
func (d *dependencies) board(p *machine.Position) {
	claimed := false
	for range machine.MostPositions { // a circle ends
		by := d.s.Structure().FedBy(p)
		claimed = claimed || by.Claimed
		if p = by.To; p == nil || isBoard(d.s, p) {
			break
		}
	}
	usual := d.s.First(parts.Mainboard)
	if p == nil {
		p = usual
	}
	if p == nil {
		return
	}
	d.add(Dependency{At: p, Part: true})
	d.builds(p, "", false)
	if claimed && usual != nil && usual != p {
		why := "it is only claimed to be wired to " + p.Label
		d.add(Dependency{At: usual, Part: true, Doubt: why})
		d.builds(usual, why, false)
	}
}

// builds adds what a board runs.
func (d *dependencies) builds(board *machine.Position, doubt string, settings bool) {
	for _, run := range Runs(d.s, board) {
		d.add(
			Dependency{
				At:       run,
				Part:     true,
				Traits:   []machine.TraitOf{parts.FirmwareFamily, parts.FirmwareVersion, parts.FirmwareLabel},
				Settings: settings,
				Doubt:    doubt,
			},
		)
	}
}

// RunsOf are the positions of what a board runs: its own, and those that heads carry for
// it.
func RunsOf(s machine.Snapshot, board *machine.Position) []*machine.Position {
	var out []*machine.Position
	for _, run := range s.Each(parts.Firmware) {
		if on := s.Structure().FedBy(run).To; on == board || on == nil && board == s.First(parts.Mainboard) {
			out = append(out, run)
		}
	}
	return out
}

// Runs are the builds that a board runs now, by their positions: the one that the mounted
// head carries, where it carries one for that board; else the board's own.
func Runs(s machine.Snapshot, board *machine.Position) []*machine.Position {
	mounted, known := s.Number(s.First(parts.Structure), machine.HeadMounted)
	var own []*machine.Position
	for _, run := range RunsOf(s, board) {
		head := run.Serves.Head()
		switch {
		case head == 0 || board != nil && board.Serves.Head() == head:
			own = append(own, run)
		case known && head == int(mounted):
			return []*machine.Position{run}
		}
	}
	return own
}

func protection(d *dependencies) {
	heater := d.x.position(d.s, parts.Heater)
	sensors := d.here(parts.Sensor)
	d.parts([]*machine.Position{heater})
	d.parts(sensors, parts.SensorType)
	// The mainboard watches every heater; a board that reads the sensor does too.
	if main := d.s.First(parts.Mainboard); main != nil {
		d.add(Dependency{At: main, Part: true})
		d.builds(main, "", true)
	}
	for _, p := range sensors {
		d.board(p)
	}
	for i := range d.list {
		if d.s.Vocabulary().Is(d.list[i].At.Kind, parts.Firmware) {
			d.list[i].Settings = true
		}
	}
}

func direction(d *dependencies) {
	if motor := d.x.position(d.s, parts.Motor); motor != nil {
		d.parts([]*machine.Position{motor}, parts.MotorLeads)
		d.board(motor)
	}
}

func current(d *dependencies) {
	motor := d.x.position(d.s, parts.Motor)
	if motor == nil {
		return
	}
	driver := d.s.Structure().FedBy(motor).To
	d.parts([]*machine.Position{motor, driver})
	for _, other := range d.every(parts.Motor) { // on one driver they share its current
		if driver != nil && d.s.Structure().FedBy(other).To == driver {
			d.parts([]*machine.Position{other})
		}
	}
	d.onlyBoard(motor)
}

// onlyBoard adds the board of a part without its build.
func (d *dependencies) onlyBoard(p *machine.Position) {
	with := dependencies{s: d.s, x: d.x}
	with.board(p)
	for _, n := range with.list {
		if isBoard(d.s, n.At) {
			d.add(n)
		}
	}
}

func sensors(d *dependencies) {
	for _, p := range d.every(parts.Sensor) {
		d.parts([]*machine.Position{p}, parts.SensorType)
		d.board(p)
	}
}

func hotendPID(d *dependencies) {
	d.parts(d.here(parts.Heater))
	d.parts(d.here(parts.Sensor), parts.SensorType)
	d.parts(d.here(parts.Hotend))
	d.parts(d.here(parts.FanDuct))
	d.supplyOf(d.here(parts.Heater))
}

func bedPID(d *dependencies) {
	d.parts(d.every(parts.Plate))
	d.parts(d.at(parts.Heater, machine.Bed))
	d.parts(d.at(parts.Sensor, machine.Bed), parts.SensorType)
	if !slices.ContainsFunc(
		d.every(parts.Plate),
		func(p *machine.Position) bool { return d.s.Says(p, parts.PlateMains, "yes") },
	) {
		d.supplyOf(d.at(parts.Heater, machine.Bed))
	}
}

// supplyOf adds the voltage of the supply of heaters.
func (d *dependencies) supplyOf(heaters []*machine.Position) {
	for _, h := range heaters {
		supply := d.s.Structure().FedBy(h).To
		if supply != nil && d.s.Vocabulary().Is(supply.Kind, parts.Supply) {
			d.add(Dependency{At: supply, Traits: []machine.TraitOf{parts.SupplyVolts}})
		}
	}
}

func steps(d *dependencies) {
	for _, e := range d.here(parts.Extruder) {
		d.parts([]*machine.Position{e}, parts.ExtruderRatio, parts.ExtruderGearDiameter)
	}
	for _, motor := range d.here(parts.Motor) {
		d.parts([]*machine.Position{motor}, parts.MotorStepAngle)
		d.add(Dependency{At: d.s.Structure().FedBy(motor).To, Traits: []machine.TraitOf{parts.DriverMicrosteps}})
	}
}

// axisSteps are of what turns steps of the axis into millimetres.
func axisSteps(d *dependencies) {
	for _, motor := range d.here(parts.Motor) {
		d.parts([]*machine.Position{motor}, parts.MotorStepAngle)
		d.add(Dependency{At: d.s.Structure().FedBy(motor).To, Traits: []machine.TraitOf{parts.DriverMicrosteps}})
	}
	if d.x.Place() == machine.Axis("z") {
		d.parts(d.here(parts.ZDrive), parts.ZLead)
		return
	}
	for _, belts := range d.every(parts.Belts) {
		d.add(Dependency{At: belts, Traits: []machine.TraitOf{parts.BeltPitch, parts.BeltTeeth}})
	}
}

var volume = []machine.TraitOf{parts.FrameX, parts.FrameY, parts.FrameZ}

func tramming(d *dependencies) {
	d.parts(d.every(parts.Plate))
	d.parts(d.every(parts.Springs))
	d.parts(d.every(parts.Frame))
	d.parts(d.every(parts.ZDrive), parts.ZMotors)
}

func probeOffset(d *dependencies) {
	d.parts(probesOf(d.s, d.x))
	d.parts(d.bracketsOf(d.x))
	d.parts(d.here(parts.Toolhead))
	d.parts(d.here(parts.Hotend))
}

// bracketsOf are the brackets of the probes that find a head's zero.
func (d *dependencies) bracketsOf(x Subject) []*machine.Position {
	out := d.at(parts.Bracket, x.Place())
	for _, probe := range probesOf(d.s, x) {
		for _, b := range d.at(parts.Bracket, probe.Serves) {
			if !slices.Contains(out, b) {
				out = append(out, b)
			}
		}
	}
	return out
}

// decided reports whether a trait says a value on grounds that may decide: marked at
// least, or as the model of a part says that is.
func decided(s machine.Snapshot, p *machine.Position, name machine.TraitOf, value string) bool {
	f := s.Of(p, name)
	return s.Says(p, name, value) &&
		(f.Grade > machine.Claimed || f.FromModel != "" && s.At(s.Vocabulary().ModelAt(p)).Grade > machine.Claimed)
}

func zOffset(d *dependencies) {
	d.parts(d.bracketsOf(d.x))
	for _, kind := range []string{parts.Hotend, parts.Nozzle} {
		d.parts(d.here(kind))
	}
	d.parts(d.every(parts.Plate))
	d.parts(d.every(parts.Springs))
	probes := probesOf(d.s, d.x)
	probed := slices.ContainsFunc(probes, d.s.Holds)
	d.parts(probes)
	if !probed {
		ends := d.at(parts.Endstop, machine.Axis("z"))
		if perhaps := slices.ContainsFunc(probes, func(p *machine.Position) bool { return there(d.s, p) }); perhaps {
			d.doubtful("it is not known whether a probe is fitted, which would be in its place", ends)
		} else {
			d.parts(ends)
		}
	}
	touches := func(p *machine.Position) bool {
		return there(d.s, p) && decided(d.s, p, parts.ProbeSenses, parts.ByTouch)
	}
	surfaces := d.every(parts.Surface)
	switch {
	case slices.ContainsFunc(probes, touches):
		// It follows the surface.
	case slices.ContainsFunc(probes, func(p *machine.Position) bool {
		return there(d.s, p) && !decided(d.s, p, parts.ProbeSenses, parts.ByMetal)
	}):
		d.doubtful("it is not known whether the probe touches the surface", surfaces, parts.SurfaceThickness)
	default:
		d.parts(surfaces, parts.SurfaceThickness)
	}
}

func mesh(d *dependencies) {
	tramming(d)
	d.parts(d.every(parts.Surface), parts.SurfaceThickness)
	d.parts(d.every(parts.Probe))
	for _, p := range d.every(parts.Plate) {
		d.add(Dependency{At: p, Part: true, Traits: []machine.TraitOf{parts.PlateTemperature}})
	}
	for _, x := range probedHeads(d.s) {
		of := dependencies{s: d.s, x: x}
		probeOffset(&of)
		for _, n := range of.list {
			d.add(n)
		}
	}
}

// resonance is of what moves along the axis. Along Y that is the bed or the head,
// according to how the machine is built.
func resonance(d *dependencies) {
	d.parts(d.every(parts.Belts))
	d.parts(d.every(parts.Frame))
	moves := d.s.Of(d.s.First(parts.Frame), parts.BedMoves)
	along := d.x.Place() == machine.Axis("y")
	slings, known := moves.Value.Text == parts.BedAlongY, moves.Known()
	doubt := ""
	if along && !known {
		doubt = "it is not known whether the bed moves along Y"
	}
	if !along || !known || !slings {
		d.doubtful(doubt, d.ofHead(parts.Toolhead), parts.ToolheadGrams)
		d.doubtful(doubt, d.ofHead(parts.Hotend))
		d.doubtful(doubt, d.ofHead(parts.Probe))
		d.doubtful(doubt, d.every(parts.Carriage))
		d.doubtful(doubt, d.every(parts.ToolPlate))
		for _, e := range d.ofHead(parts.Extruder) {
			switch rides, sure := RidesAlong(d.s, e); {
			case rides:
				d.doubtful(doubt, []*machine.Position{e})
			case !sure:
				d.doubtful("it is not known whether the extruder rides along", []*machine.Position{e})
			}
		}
	}
	if along && (!known || slings) {
		d.doubtful(doubt, d.every(parts.Plate), parts.PlateGrams)
		d.doubtful(doubt, d.every(parts.Surface))
		d.doubtful(doubt, d.at(parts.Heater, machine.Bed))
	}
}

// DirectTube is the length, in mm, under which a tube is a direct drive's. Source: from
// memory; common are 40 to 50 mm against 400 mm and more.
const DirectTube = 100

// RidesAlong reports whether an extruder moves with its head: what it rides on is on
// record, or its tube is as short as a direct drive's. sure is false where neither tells.
func RidesAlong(s machine.Snapshot, extruder *machine.Position) (rides, sure bool) {
	if on := s.Structure().RidesOn(extruder); on.To != nil {
		voc := s.Vocabulary()
		carried := voc.Is(on.To.Kind, parts.Carriage) || voc.Is(on.To.Kind, parts.Toolhead)
		return carried && !on.Claimed, !on.Claimed
	}
	tube := s.Structure().Beside(extruder, parts.Tube)
	if tube != nil && s.ModelAt(tube) == machine.None {
		return true, true
	}
	if mm, ok := s.Number(tube, parts.TubeLength); ok {
		return mm < DirectTube, true
	}
	return false, false
}

func retraction(d *dependencies) {
	for _, kind := range []string{parts.Tube, parts.Extruder, parts.Hotend, parts.Nozzle} {
		d.parts(d.here(kind))
	}
}

func loadLengths(d *dependencies) {
	d.parts(d.here(parts.Extruder))
	d.parts(d.here(parts.Tube), parts.TubeLength)
	d.parts(d.here(parts.Hotend))
}

func printArea(d *dependencies) {
	d.parts(d.ofHead(parts.Toolhead))
	d.parts(d.every(parts.Carriage))
	d.parts(d.every(parts.Frame), volume...)
	d.parts(d.every(parts.ToolPlate))
}

func nozzles(d *dependencies) {
	for _, kind := range []string{parts.Hotend, parts.Nozzle} {
		d.parts(d.here(kind))
		if first := nozzled(d.s); len(first) > 0 {
			d.parts(d.at(kind, first[0].Place()))
		}
	}
}
