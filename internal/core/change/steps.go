package change

import (
	"fmt"
	"slices"
	"strings"

	"wardifex/internal/core/bench"
	"wardifex/internal/core/calibration"
	"wardifex/internal/core/firmware"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
)

// Form is what a step asks for besides its tick.
type Form string

const (
	TickForm        Form = "tick"
	NoteForm        Form = "note"
	BuildForm       Form = "build"
	ColdForm        Form = "cold"
	ProtectionForm  Form = "protection"
	ZOffsetForm     Form = "z-offset"
	CalibrationForm Form = "calibration"
)

// Step is one step of a work order.
type Step struct {
	Key      string   `json:"key"`
	Phase    string   `json:"phase" enum:"Prepare,Fit,Wire,Firmware,Prove,Calibrate,Verify"`
	Title    string   `json:"title"`
	Do       string   `json:"do"`
	Cautions []string `json:"cautions"`
	Lines    []string `json:"lines,omitempty" doc:"Settings and commands, to be typed as they stand"`
	Form     Form     `json:"form" enum:"tick,note,build,cold,protection,z-offset,calibration"`
	// Calibration is the kind that the step records, and Subjects those it records it of;
	// none: of the machine as a whole, as in orders of earlier versions.
	Calibration calibration.Kind        `json:"calibration,omitempty"`
	Subjects    []calibration.Subject   `json:"subjects,omitempty"`
	Unit        string                  `json:"unit,omitempty"`
	Parts       []calibration.Component `json:"parts,omitempty" doc:"The numbers of which the value is made"`
	Sensors     []string                `json:"sensors,omitempty" doc:"Those that are read cold"`
	// Configured says that the firmware family reads a configuration, which a proof names.
	Configured bool `json:"configured,omitempty"`
	// MainsBed says that the heater is a bed's that hangs on the mains.
	MainsBed bool     `json:"mainsBed,omitempty"`
	Stores   []string `json:"stores,omitempty" doc:"Where the value can be kept, for forms that ask"`
	// Touches says that the machine is no longer as it was once this is done.
	Touches bool `json:"touches"`
}

const (
	mains = "Mains voltage: pull the plug, do not only switch off. Bed mains wiring is for a licensed electrician " +
		"or as local rules require."
	static  = "Static: touch bare metal before you touch a board."
	burn    = "Hot nozzle and block: let them cool before you reach in."
	sharp   = "Sheet edges are sharp: fingers and wires."
	unproof = "Fire: protection is not proven on this build. Stay with the machine; smoke alarm working, nothing " +
		"flammable by it."
	pinch  = "Moving axes: keep fingers out."
	locals = "Local codes and licensed practice come first where they say otherwise."
)

// WorkOrder writes the steps of a change in the order of the trade: prepare
// (what needs power before the plug is pulled), fit, wire, firmware, prove,
// calibrate, verify. Source: common practice.
func (c Change) WorkOrder(records []calibration.Record) []Step {
	var w writer
	c.prepare(&w)
	c.fitAndWire(&w)
	if c.Flashes() {
		c.flash(&w, records)
	}
	c.files(&w)
	c.prove(&w, records)
	c.calibrate(&w, records)
	c.verify(&w)
	return w.steps
}

type writer struct {
	steps []Step
	phase string
}

func (w *writer) add(s Step) {
	s.Phase = w.phase
	if s.Form == "" {
		s.Form = TickForm
	}
	w.steps = append(w.steps, s.complete())
}

// complete fills in what every step has.
func (s Step) complete() Step {
	if s.Cautions == nil {
		s.Cautions = []string{}
	}
	if s.Form == CalibrationForm || s.Form == ZOffsetForm {
		s.Stores = calibration.Stores()
	}
	return s
}

func (c Change) prepare(w *writer) {
	w.phase = "Prepare"
	parts := append(append([]string(nil), c.Kit.Parts...), furtherTitles(c.Additional)...)
	w.add(
		Step{
			Key:   "check-kit",
			Title: "Check the kit against its list",
			Do:    "Screws in the bag differ from the sheet; directions may be for another model. Clear the bench.",
			Lines: parts,
		},
	)
	w.add(Step{Key: "record-settings", Title: "Record the present settings and build", Form: NoteForm,
		Do: "This is the way back. Send M503 (or copy the configuration file) and paste the reply into the note; keep " +
			"the file of the present build."})
	w.add(
		Step{
			Key:   "baseline",
			Title: "Take the baseline",
			Do: "Print the shop's test file with the usual spool, in the usual place: the same is printed at the end. " +
				"One change at a time.",
		},
	)
	w.add(
		Step{
			Key:      "filament-out",
			Title:    "Take the filament out and let it cool",
			Do:       "Heat, retract, switch the heater off, wait until the hotend is cold.",
			Cautions: []string{burn},
		},
	)
	w.add(
		Step{
			Key:   "plug-out",
			Title: "Power off and pull the mains plug",
			Do: "Then cover off. A fan hangs on the cover by its wire. One cover screw may be longer and goes into " +
				"aluminium: do not overtighten it later.",
			Cautions: []string{mains, sharp, static, locals},
		},
	)
	w.add(
		Step{
			Key:   "photograph",
			Title: "Photograph every connection, label both ends",
			Do:    "Axis, top or bottom, left or right. Pull on connectors, not on wires; hot glue is peeled, not yanked.",
		},
	)
}

func furtherTitles(further []fit.AdditionalChange) []string {
	var out []string
	for _, f := range further {
		out = append(out, f.Title)
	}
	return out
}

func (c Change) fitAndWire(w *writer) {
	var steps []fit.FittingStep
	for _, f := range c.Additional {
		steps = append(steps, f.Steps...)
	}
	steps = append(steps, c.Kit.Steps...)
	for _, phase := range []string{"Fit", "Wire"} {
		w.phase = phase
		n := 0
		for _, s := range steps {
			if strings.EqualFold(s.Phase, "wire") != (phase == "Wire") {
				continue
			}
			n++
			w.add(
				Step{
					Key:      fmt.Sprintf("%s-%d", strings.ToLower(phase), n),
					Title:    s.Title,
					Do:       s.Do,
					Cautions: s.Cautions,
					Touches:  true,
				},
			)
		}
	}
}

func (c Change) flash(w *writer, records []calibration.Record) {
	w.phase = "Firmware"
	family := familyOf(c.After)
	w.add(
		Step{
			Key:   "make-build",
			Title: "Make the build",
			Do: "It must have: " + c.buildMust() + ". Source tree and example configuration of the same version; every " +
				"setting of this machine carried over; stamp it with the machine's name and the date. After an update, clean " +
				"before you build. What the parts of this machine ask of it, as far as it is known:",
			Lines: asked(c.After),
		},
	)
	do := "Flash it the way this board takes it. "
	switch c.After.Of(c.After.First(parts.Mainboard), parts.MainboardUpload).Value.Text {
	case parts.MemoryCard:
		do += "Card: FAT32 with 4096-byte clusters, nothing else on it; power off, card in, power on, wait 12 s. The " +
			"file name must differ from the last one flashed, or the board ignores it in silence."
	case parts.Programmer:
		do += "Programmer: take its power jumper off and power the board from its own supply, or current flows back " +
			"into the computer. Writing this way erases a bootloader."
	case parts.USB:
		do += "USB: the upload takes seconds and the bootloader survives."
	default:
		do += "How is not on record: USB where there is a bootloader, else memory card (a new file name each time), " +
			"else the six-pin programmer."
	}
	if family == parts.Hosted {
		do = "Back up the configuration; edit it; restart the host's firmware; re-flash the mainboard only where the " +
			"host reports a version mismatch."
	}
	w.add(
		Step{
			Key:        "flash",
			Title:      "Flash, then read the version off the machine",
			Do:         do + " The information screen proves what runs: type what it shows.",
			Form:       BuildForm,
			Configured: family == parts.Hosted || family == parts.Scripted,
			Touches:    true,
			Cautions:   []string{unproof},
		},
	)
	if family != parts.Hosted {
		w.add(
			Step{
				Key:     "defaults",
				Title:   "Restore defaults and store them",
				Do:      "Old stored values of another layout are garbage.",
				Lines:   []string{"M502", "M500"},
				Touches: true,
			},
		)
		w.add(
			Step{
				Key:     Reenter,
				Title:   "Enter this machine's own values again",
				Do:      "Nothing kept in the stored settings is valid until it is entered again.",
				Lines:   c.reenter(records, family),
				Touches: true,
			},
		)
	}
}

// asked is what the parts of a machine ask of its build, in lines.
func asked(s machine.Snapshot) []string {
	var out []string
	for _, a := range firmware.Asks(s) {
		says := a.Label + ": " + a.Value
		if a.Grade <= machine.Claimed {
			says += " (only claimed: look first)"
		}
		out = append(out, says)
	}
	return out
}

// files is the step at which the start code is changed and old files go stale.
func (c Change) files(w *writer) {
	if lines := c.StaleFiles(); len(lines) > 0 {
		w.phase = "Firmware"
		w.add(
			Step{
				Key:   "start-code",
				Title: "Change the start code and clear out old files",
				Do:    "In the slicer's profile of this machine. Old files stay as they are: refuse them or slice them again.",
				Lines: lines,
			},
		)
	}
}

// reenter lists the values whose store is lost but whose parts are untouched.
func (c Change) reenter(records []calibration.Record, family string) []string {
	var out []string
	disagree := calibration.Disagreements(c.Before, records, nil)
	for _, v := range c.Invalidated(records) {
		if v.Remedy != calibration.EnterAgain {
			continue
		}
		line := v.Title + ": " + v.Value
		for _, d := range disagree {
			if d.Kind == v.Kind && d.Subject == v.Subject {
				line += "  ▲ " + d.Says + " " + d.Settle
			}
		}
		if v.Kind == calibration.ZOffset {
			if offset, err := bench.ParseOffset(v.Value); err == nil {
				line += "  (" + strings.Join(bench.StoreZOffset(family, offset), ", ") + ")"
			}
		}
		out = append(out, line)
	}
	if len(out) == 0 {
		out = append(out, "no value is on record for this machine: take them from the settings recorded above")
	}
	return append(out, "M500")
}

func (c Change) prove(w *writer, records []calibration.Record) {
	w.phase = "Prove"
	needed := map[calibration.Kind][]calibration.Subject{}
	for _, due := range c.Needed(records) {
		needed[due.Calibration.Kind] = append(needed[due.Calibration.Kind], due.Subject)
	}
	w.add(
		Step{
			Key:      "first-power",
			Title:    "Power on: smell and look",
			Do:       "Hand at the switch. Smoke, smell, a hot board or a fan that stands still: off again.",
			Cautions: []string{mains, unproof},
		},
	)
	if len(needed[calibration.Sensors]) > 0 || c.Flashes() {
		w.add(coldStep(c.After))
		w.add(
			Step{
				Key:      "heaters",
				Title:    "Each heater rises where it should",
				Do:       "Nozzle to 50 °C: the nozzle's reading rises, the bed's does not. Then the bed. Then both off.",
				Cautions: []string{unproof, "Hot nozzle and bed: burns."},
			},
		)
	}
	if c.exchanges(parts.Probe) || c.exchanges(parts.Endstop) || c.Flashes() {
		do := "Press each endstop and read its state (M119)."
		if holds(c.After, parts.Probe) {
			do += " Deploy the probe clear of the bed, touch its pin, see it switch. A probe too close to the bed at " +
				"power-up fails its self-test and blinks: lift Z and cycle power."
		}
		w.add(
			Step{
				Key:      "switches",
				Title:    "Each endstop and the probe reads open and closed by hand",
				Do:       do,
				Cautions: []string{"Moving axes: keep fingers out from under the nozzle."},
			},
		)
	}
	if of := needed[calibration.Direction]; len(of) > 0 {
		w.add(directionStep(of))
	}
	w.add(
		Step{
			Key:   "home",
			Title: "Home",
			Do: "Hand at the switch. X and Y first, then Z over the bed's centre: at the corner a probe would miss " +
				"the bed and crash the nozzle.",
			Cautions: []string{pinch},
		},
	)
	w.add(
		Step{Key: "fans", Title: "Fans", Do: "Hotend fan runs when hot, part fan at half and full, case fan as it should."},
	)
	for _, x := range needed[calibration.Protection] {
		w.add(stepOn(c.After, calibration.Protection, x))
	}
}

func (c Change) calibrate(w *writer, records []calibration.Record) {
	w.phase = "Calibrate"
	for _, due := range c.Needed(records) {
		switch due.Calibration.Kind {
		case calibration.Protection, calibration.Direction, calibration.Sensors: // proven above
			continue
		}
		w.add(stepOn(c.After, due.Calibration.Kind, due.Subject))
	}
}

func (c Change) verify(w *writer) {
	w.phase = "Verify"
	w.add(
		Step{
			Key:      "first-layer",
			Title:    "First layer",
			Do:       "One layer over the whole bed. Watch it: a probe that fails during probing may be ignored by the build.",
			Cautions: []string{"Hot nozzle and bed: burns."},
		},
	)
	w.add(
		Step{
			Key:   "test-print",
			Title: "Test print beside the baseline",
			Do:    "Same file, same spool, same place. Write down what is better and what is not.",
		},
	)
	w.add(
		Step{
			Key:      "close-up",
			Title:    "Cover on, cables clear, bench tidy",
			Do:       "Power off and plug out for the cover. No wire in the gap; slack at the far end of every axis.",
			Cautions: []string{mains, sharp},
		},
	)
}

// StepFor is the step that records a calibration or proof of a subject, by itself. The
// error says which subjects the machine has.
func StepFor(s machine.Snapshot, k calibration.Kind, x calibration.Subject) (Step, error) {
	c, ok := calibration.Of(k)
	if !ok {
		return Step{}, fmt.Errorf("there is no calibration %q", k)
	}
	list := c.Subjects(s)
	switch {
	case len(list) == 0:
		return Step{}, fmt.Errorf("%s does not apply to this machine: it has nothing that it could belong to", c.Title)
	case x == calibration.WholeMachine && len(list) == 1:
		x = list[0]
	case x == calibration.WholeMachine && k == calibration.Direction:
		return directionStep(list).complete(), nil
	case !slices.Contains(list, x):
		var names []string
		for _, y := range list {
			names = append(names, y.String())
		}
		if x == calibration.WholeMachine {
			return Step{}, fmt.Errorf(
				"say of which: %s has %s of its own for %s",
				c.Title,
				"a value or proof",
				strings.Join(names, ", "),
			)
		}
		return Step{}, fmt.Errorf("%s: this machine has no %s now; it has %s", c.Title, x, strings.Join(names, ", "))
	}
	if k == calibration.Sensors {
		return coldStep(s).complete(), nil
	}
	return stepOn(s, k, x).complete(), nil
}

// stepOn is the step of one subject, which the machine has.
func stepOn(s machine.Snapshot, k calibration.Kind, x calibration.Subject) Step {
	c, _ := calibration.Of(k)
	out := Step{
		Key:         string(k),
		Title:       c.On(s, x),
		Do:          c.How,
		Form:        CalibrationForm,
		Calibration: k,
		Subjects:    []calibration.Subject{x},
		Unit:        c.Unit,
		Parts:       c.Parts,
		Cautions:    c.Cautions,
	}
	if len(c.Subjects(s)) > 1 {
		out.Key += "-" + strings.NewReplacer(" ", "-", "#", "").Replace(string(x))
	}
	switch k {
	case calibration.Protection:
		out.protection(s, x)
	case calibration.ZOffset:
		out.Form = ZOffsetForm
		out.Do = "Heat the bed to the temperature you print at and wait. Home, Z to 0, look at the gap, type it; store " +
			"the next offset, home again, Z to 0; until paper is lightly pinched."
	case calibration.Direction:
		out.Form = TickForm
	}
	return out
}

// protection makes it the test of one heater.
func (s *Step) protection(on machine.Snapshot, x calibration.Subject) {
	s.Form, s.Title = ProtectionForm, "Test "+strings.ToLower(s.Title[:1])+s.Title[1:]
	heater := map[bool]string{true: "nozzle set to 200 °C",
		false: "this heater set to its usual temperature"}[x.Place().Head() > 0]
	s.Do = "Each heater is watched by itself, so each is tested. No-heat test (take this one): mains plug out, " +
		"board powered by USB from a phone charger, " + heater + ". A protected build alarms within three to four " +
		"minutes; silence means unprotected. It proves the watch for \"does not heat\"."
	family := familyOf(on)
	s.Configured = family == parts.Hosted || family == parts.Scripted
	if x.Place() == machine.Bed {
		s.MainsBed = slices.ContainsFunc(
			on.Each(parts.Plate),
			func(p *machine.Position) bool { return on.Says(p, parts.PlateMains, "yes") },
		)
	}
	if s.MainsBed {
		s.Do += " The heater-lead test is never made on a bed that is heated from the mains."
	} else {
		s.Do += " Heater-lead test: power off, heater lead unplugged, power on, preheat; a protected build halts after " +
			"5 to 10 s or its own window. Only by somebody who may open the machine."
	}
	s.Cautions = []string{
		"Never pull a sensor out of a hot block and walk away.",
		mains,
		"Not to be left running unattended until every heater's protection is proven.",
		locals,
	}
}

// coldStep is the step at which all sensors of a cold machine are read.
func coldStep(s machine.Snapshot) Step {
	return Step{
		Key:         "cold",
		Title:       "All temperatures near the room",
		Form:        ColdForm,
		Calibration: calibration.Sensors,
		Sensors:     sensorsOf(s),
		Do: "Machine cold. Type the room's temperature and what the machine shows. That the sensors agree " +
			"with the room does not tell which type they are: the two commonest thermistors differ by 0.3 °C in a room, " +
			"and by more than 20 °C at 200 °C. The type is told by two temperatures or by the marking.",
	}
}

// sensorsOf names the sensors of a machine.
func sensorsOf(s machine.Snapshot) []string {
	var out []string
	for _, p := range s.Each(parts.Sensor) {
		if s.ModelAt(p) != machine.None {
			out = append(out, p.Label)
		}
	}
	return out
}

func directionStep(of []calibration.Subject) Step {
	return Step{
		Key:         "direction",
		Title:       "Each axis moves a little, the right way",
		Calibration: calibration.Direction,
		Subjects:    of,
		Do: "One millimetre each way: " + listed(
			of,
		) + ". Wrong way: swap the two leads of one coil with power off, or invert in the build. It buzzes and does " +
			"not turn: the coils are split over the pairs.",
		Cautions: []string{"Never plug or unplug a motor with power on: it kills drivers.", pinch},
	}
}

func listed(of []calibration.Subject) string {
	var out []string
	for _, x := range of {
		out = append(out, x.String())
	}
	return strings.Join(out, ", ")
}
