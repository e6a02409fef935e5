package inspection

import (
	"slices"

	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
)

// Aim is what an inspection is for. Safety is always part of it.
type Aim string

const (
	// Needs are what fitted parts and the kits in question depend on.
	Needs Aim = ""
	// Identity is, besides, what tells this machine apart from others of its name.
	Identity Aim = "identity"
	// SafetyOnly is what can hurt somebody while it is not known.
	SafetyOnly Aim = "safety"
)

// apart are the traits by which machines sold under one name differ: what the build shows,
// the display, the board, its revision and marking, the drivers, probe, hotend, extruder and
// nozzle. Source: common practice.
var apart = []machine.TraitOf{
	parts.FirmwareFamily, parts.FirmwareVersion, parts.FirmwareLabel, parts.DisplayKind,
	model(parts.Mainboard), {Kind: parts.Mainboard, Name: "revision", Value: machine.Text}, parts.MainboardProcessor,
	model(parts.Driver), parts.DriverMarking, model(parts.Probe), model(parts.Hotend), model(parts.Extruder),
	parts.NozzleBore, parts.NozzleMaterial,
}

func model(kind string) machine.TraitOf {
	return machine.TraitOf{Kind: kind, Name: machine.ModelTrait, Value: machine.Text}
}

// TellsApart reports whether machines, or parts, of one name differ in a trait.
func TellsApart(t *machine.Trait) bool { return t.Superseded == "" && slices.ContainsFunc(apart, t.Is) }
