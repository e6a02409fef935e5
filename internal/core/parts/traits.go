package parts

// Rules, as a refused edit of the catalogue names them.
const (
	sums           = "the sums of what a machine offers and its parts use"
	contradictions = "the contradictions that are looked for on every machine"
	calibrations   = "what makes calibrations and proofs invalid"
	buildStates    = "what a build is configured for"
	files          = "what becomes of start code and sliced files"
	drive          = "the arithmetic of steps per mm"
	markings       = "the decoding of markings"
	upkeep         = "the maintenance intervals"
	lists          = "which positions and heads a machine has"
	flashing       = "the steps of flashing a build"
	heads          = "what a change of tool heads brings"
)

// Traits that rules read, by kind.
var (
	MainboardWidth          = choice(Mainboard, "width", contradictions, "8-bit")
	MainboardProcessor      = text(Mainboard, "processor", markings)
	MainboardPins           = number(Mainboard, "pins", "", contradictions)
	MainboardFlash          = number(Mainboard, "flash", "KiB", sums)
	MainboardPackage        = text(Mainboard, "package", markings)
	MainboardTemperature    = text(Mainboard, "temperature", markings)
	MainboardProbePort      = yesNo(Mainboard, "probe-port", sums)
	MainboardDisplayPort    = yesNo(Mainboard, "display-port", sums)
	MainboardDriverOutputs  = number(Mainboard, "driver-outputs", "", sums)
	MainboardHeaterOutputs  = number(Mainboard, "heater-outputs", "", sums)
	MainboardSensorInputs   = number(Mainboard, "sensor-inputs", "", sums)
	MainboardFanOutputs     = number(Mainboard, "fan-outputs", "", sums)
	MainboardBootloader     = yesNo(Mainboard, "bootloader", contradictions)
	MainboardBootloaderSize = number(Mainboard, "bootloader-size", "KiB", sums)
	MainboardUpload         = choice(Mainboard, "upload", flashing, USB, MemoryCard, Programmer, BootJumper)
	MainboardOffset         = number(Mainboard, "start-offset", "KiB", flashing)
	MainboardFileName       = text(Mainboard, "upload-name", flashing)

	DriverMarking       = text(Driver, "marking", markings)
	DriverLaw           = choice(Driver, "law", markings)
	DriverSense         = number(Driver, "rs", "Ω", markings)
	DriverMaxMicrosteps = number(Driver, "max-microsteps", "", contradictions)
	DriverSilent        = yesNo(Driver, "silent", markings)
	DriverMicrosteps    = number(Driver, "microsteps", "", drive)

	ToolheadBoardWays = number(ToolheadBoard, "ways", "", sums)
	DisplayColumns    = number(Display, "columns", "", flashing)
	DisplayKind       = choice(Display, "kind", contradictions, ClosedDisplay)
	SupplyVolts       = number(Supply, "volts", "V", contradictions)
	SupplyWatts       = number(Supply, "watts", "W", sums)
	CircuitAmperes    = number(Circuit, "amperes", "A", sums)
	CircuitOthers     = number(Circuit, "others", "A", sums)

	FirmwareFamily     = choice(Firmware, "family", buildStates, Compiled, Hosted, Scripted)
	FirmwareVersion    = text(Firmware, "version", flashing)
	FirmwareLabel      = text(Firmware, "label", flashing)
	FirmwareSize       = number(Firmware, "size", "KiB", sums)
	FirmwareFeatures   = text(Firmware, "features", sums)
	FirmwareListedChip = yesNo(Firmware, "listed-chip", buildStates)
	FirmwareFile       = text(Firmware, "file", flashing)
	FirmwareObjects    = yesNo(Firmware, "objects", files)
	FirmwareMaxExtrude = number(Firmware, "max-extrude", "mm", calibrations)
	// FirmwareConfiguration is what a hosted or scripted build is configured by.
	FirmwareConfiguration = text(Firmware, "configuration", calibrations)

	CarriageBears   = number(Carriage, "bears", "g", sums)
	ToolheadGrams   = number(Toolhead, "grams", "g", sums)
	ToolheadCarries = choice(Toolhead, "carries", heads, OwnBuild, OwnValues)
	ToolheadWires   = number(Toolhead, "wires", "", sums)
	ToolContacts    = number(ToolPlate, "contacts", "", sums)

	ProbeSenses   = choice(Probe, "senses", calibrations, ByTouch, ByMetal)
	ProbeReach    = number(Probe, "reach", "mm", contradictions)
	ProbeSelfTest = yesNo(Probe, "self-test", calibrations)

	HotendLiner              = yesNo(Hotend, "liner", contradictions)
	HotendWorkingTemperature = number(Hotend, "working-temperature", "°C", contradictions)
	HotendRating             = number(Hotend, "rating", "°C", files)
	HeaterVolts              = number(Heater, "volts", "V", contradictions)
	HeaterWatts              = number(Heater, "watts", "W", sums)
	SensorType               = choice(Sensor, "type", buildStates)
	SensorRating             = number(Sensor, "rating", "°C", files)

	NozzleBore     = number(Nozzle, "bore", "mm", files)
	NozzleMaterial = choice(Nozzle, "material", upkeep, "hardened")
	NozzleAbrasive = yesNo(Nozzle, "abrasive", upkeep)

	ExtruderRatio        = number(Extruder, "ratio", "", drive)
	ExtruderGearDiameter = number(Extruder, "gear-diameter", "mm", drive)
	ExtruderSteps        = number(Extruder, "steps", "steps/mm", drive)
	MotorStepAngle       = number(Motor, "step-angle", "°", drive)
	MotorCurrent         = number(Motor, "current", "A", calibrations)
	MotorLeads           = text(Motor, "leads", calibrations)
	TubeLength           = number(Tube, "length", "mm", files)

	FrameX     = number(Frame, "x", "mm", sums)
	FrameY     = number(Frame, "y", "mm", sums)
	FrameZ     = number(Frame, "z", "mm", sums)
	FrameBears = number(Frame, "bears", "g", sums)
	BedMoves   = choice(Frame, "bed-moves", calibrations, BedAlongY, BedUpAndDown, BedFixed)

	BeltPitch        = number(Belts, "pitch", "mm", drive)
	BeltTeeth        = number(Belts, "pulley-teeth", "", drive)
	ZLead            = number(ZDrive, "lead", "mm", drive)
	ZMotors          = choice(ZDrive, "motors", sums, OneMotor, SplitLead, TwoDrivers)
	PlateGrams       = number(Plate, "grams", "g", sums)
	PlateMains       = yesNo(Plate, "mains", sums)
	PlateCutOff      = yesNo(Plate, "cut-off", sums)
	PlateMetal       = yesNo(Plate, "metal", contradictions)
	PlateRating      = number(Plate, "rating", "°C", files)
	PlateTemperature = number(Plate, "temperature", "°C", calibrations)
	SurfaceThickness = number(Surface, "thickness", "mm", calibrations)
)

// Choices that rules ask for.
const (
	Compiled = "compiled"
	Hosted   = "hosted"
	Scripted = "scripted"

	USB        = "USB"
	MemoryCard = "memory card"
	Programmer = "in-circuit programmer"
	BootJumper = "USB with a boot jumper"

	ClosedDisplay = "closed, self-contained"
	ByTouch       = "surface, by touch"
	ByMetal       = "metal, without touch"
	OwnBuild      = "its own build"
	OwnValues     = "its own values"

	BedAlongY    = "along Y"
	BedUpAndDown = "up and down only"
	BedFixed     = "not at all"

	OneMotor   = "one"
	SplitLead  = "two on one driver"
	TwoDrivers = "two on two drivers"
)

// Models that rules look at: what is fitted, or whether anything is.
var models = map[string][]string{
	Mainboard: {sums, buildStates}, Driver: {sums, buildStates}, Motor: {sums, calibrations}, Display: {buildStates},
	Host: {
		contradictions,
		upkeep,
	}, Supply: {sums, calibrations}, Circuit: {sums}, CaseFan: {upkeep}, Firmware: {buildStates},
	Card: {calibrations}, Carriage: {sums, calibrations}, Toolhead: {sums, calibrations}, ToolheadBoard: {sums},
	Bracket: {calibrations}, Probe: {sums, calibrations}, Hotend: {calibrations}, Heater: {sums, calibrations},
	Sensor: {sums, calibrations}, Nozzle: {calibrations}, FanDuct: {calibrations}, Extruder: {calibrations, drive},
	Tube: {calibrations}, Runout: {calibrations, buildStates}, Frame: {sums, calibrations}, Belts: {calibrations, upkeep},
	ZDrive: {
		calibrations,
		upkeep,
	}, Endstop: {calibrations, buildStates}, ToolPlate: {sums, heads}, Plate: {sums, calibrations},
	Springs: {calibrations}, Surface: {calibrations, upkeep}, Structure: {lists},
}
