package change

import (
	"fmt"
	"slices"
	"strings"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/firmware"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
	"wardifex/internal/core/sentence"
	"wardifex/internal/core/settings"
)

// Form is what a step asks for besides its tick.
type Form string

const (
	TickForm        Form = "tick"
	NoteForm        Form = "note"
	BuildForm       Form = "build"
	FileNameForm    Form = "file-name" // of a build on a card, before the card is written
	ColdForm        Form = "cold"
	ProtectionForm  Form = "protection"
	ZOffsetForm     Form = "z-offset"
	CalibrationForm Form = "calibration"
	MeasuresForm    Form = "measures" // what is measured before and after, each where there are the means
)

// Step is one step of a work order.
type Step struct {
	Key      string   `json:"key"`
	Phase    string   `json:"phase" enum:"Prepare,Fit,Wire,Firmware,Prove,Calibrate,Verify"`
	Title    string   `json:"title"`
	Do       string   `json:"do"`
	Cautions []string `json:"cautions"`
	Lines    []string `json:"lines,omitempty" doc:"Settings and commands, to be typed as they stand"`
	Form     Form     `json:"form" enum:"tick,note,build,file-name,cold,protection,z-offset,calibration,measures"`
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
	MainsBed bool `json:"mainsBed,omitempty"`
	// Endstop says that no probe finds Z 0: what is moved is the endstop, and no offset is stored.
	Endstop bool     `json:"endstop,omitempty"`
	Stores  []string `json:"stores,omitempty" doc:"Where the value can be kept, for forms that ask"`
	// Sum is the key of the calculator that helps with the step, and Given what is known of
	// what it asks for.
	Sum   string            `json:"sum,omitempty"`
	Given map[string]string `json:"given,omitempty"`
	// Takes are the keys of the calculator's figures that are the value that the step asks
	// for, or each of its parts; empty where none of them is.
	Takes []string `json:"takes,omitempty"`
	// Seconds is how long something takes that is waited for, 0 where nothing is.
	Seconds int `json:"seconds,omitempty"`
	// Licensed says that it is for licensed practice: who did it goes on record.
	Licensed bool `json:"licensed,omitempty"`
	// Touches says that the machine is no longer as it was once this is done.
	Touches bool `json:"touches"`
	// Found are facts of delivered parts, to be held against what is stated of them.
	Found []FoundField `json:"found,omitempty"`
	// Settings says that settings are pasted into the note, which are read.
	Settings bool `json:"settings,omitempty"`
	// Transfers says that wires go from an old board to a new one at this step: each is ticked.
	Transfers bool `json:"transfers,omitempty"`
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
	x := c.extent(records)
	c.prepare(&w, x)
	c.fitAndWire(&w, x)
	if c.Flashes() {
		c.flash(&w, records)
	}
	c.mounted(&w, records)
	c.files(&w)
	c.prove(&w, x, records)
	c.calibrate(&w, x)
	c.verify(&w, x)
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
	if s.Form == CalibrationForm || s.Form == ZOffsetForm && !s.Endstop {
		s.Stores = calibration.Stores()
	}
	return s
}

// fittingSteps are those of the kit and of the additional changes.
func (c Change) fittingSteps() []fit.FittingStep {
	var steps []fit.FittingStep
	for _, f := range c.Additional {
		steps = append(steps, f.Steps...)
	}
	return append(steps, c.Kit.Steps...)
}

func isWiring(s fit.FittingStep) bool { return strings.EqualFold(s.Phase, "wire") }

func (c Change) fitAndWire(w *writer, x extent) {
	steps := c.fittingSteps()
	if len(steps) == 0 {
		steps = c.exchangeSteps(x)
	}
	onMains := c.TouchesMains()
	for _, phase := range []string{"Fit", "Wire"} {
		w.phase = phase
		n := 0
		for _, s := range steps {
			if isWiring(s) != (phase == "Wire") {
				continue
			}
			n++
			step := Step{
				Key:      fmt.Sprintf("%s-%d", strings.ToLower(phase), n),
				Title:    s.Title,
				Do:       s.Do,
				Cautions: s.Cautions,
				Lines:    s.Lines,
				Touches:  true,
			}
			if phase == "Wire" && n == 1 && c.NewBoard() != nil {
				step.Transfers = true
			}
			if onMains && (phase == "Wire" || !slices.ContainsFunc(steps, isWiring)) {
				step = step.licensed()
			}
			w.add(step)
		}
	}
}

// NewBoard is the position of a board that the change exchanges for another; nil where it
// exchanges none, or leaves it out.
func (c Change) NewBoard() *machine.Position {
	voc := c.Before.Vocabulary()
	for _, x := range c.PartChanges {
		if !x.Stays && x.Before != machine.None && x.After != machine.None && RunsBuilds(voc, x.at) {
			return x.at
		}
	}
	return nil
}

// exchangeSteps are those of one part for another where no kit brings any: wires are moved
// one at a time, and the old part goes out after them. Source: common practice.
func (c Change) exchangeSteps(x extent) []fit.FittingStep {
	var out []fit.FittingStep
	for _, p := range c.PartChanges {
		if p.build || p.Stays {
			continue
		}
		name := sentence.Within(p.Label)
		gone, comes := p.Before != machine.None, p.After != machine.None
		if comes {
			out = append(out, fit.FittingStep{Title: "Fit the new " + name + ": " + p.After,
				Do: "Where the old one was, or beside it until its wires are moved. Screws tight, not too tight, in aluminium."})
		}
		if x.wired && gone && comes {
			out = append(out, fit.FittingStep{Phase: "wire",
				Title: "Move the wires one at a time from the old " + name + " to the new",
				Do:    "Each plug from its old place to the same place on the new one; no frayed strands at a terminal."})
		}
		if x.wired && comes && !gone {
			out = append(out, fit.FittingStep{Phase: "wire", Title: "Connect the " + name,
				Do: "By its pin list and the board's: polarity matters for fans, probes and LEDs. Enough slack at the far end " +
					"of every axis."})
		}
		if gone {
			take := fit.FittingStep{Title: "Take the old " + name + " out",
				Do: "Label it with the machine's name and why it came out."}
			if x.wired && comes {
				take.Phase = "wire"
			}
			out = append(out, take)
		}
	}
	return out
}

func (c Change) flash(w *writer, records []calibration.Record) {
	w.phase = "Firmware"
	family := familyOf(c.After)
	for _, f := range c.flashing().Steps() {
		s := Step{Key: f.Key, Title: f.Title, Do: f.Do, Lines: f.Lines, Cautions: f.Cautions, Seconds: f.Seconds}
		switch {
		case f.Flashes:
			s.Form, s.Touches = BuildForm, true
			s.Configured = family == parts.Hosted || family == parts.Scripted
			s.Cautions = append(s.Cautions, unproof)
		case f.Name:
			s.Form, s.Given = FileNameForm, map[string]string{"last": f.Last, "fixed": f.Fixed}
		}
		w.add(s)
	}
	if family == parts.Hosted {
		return
	}
	enter := Step{
		Key:     Reenter,
		Title:   "Enter this machine's own values again",
		Do:      "Nothing kept in the stored settings is valid until it is entered again.",
		Lines:   c.reenter(records, family),
		Touches: true,
	}
	if family == parts.Scripted {
		enter.Title = "See that the start scripts hold this machine's own values"
		enter.Do = "They live in the scripts that run at start, not in the build: compare them line by line."
	} else {
		w.add(
			Step{
				Key:     "defaults",
				Title:   "Restore defaults and store them",
				Do:      "Old stored values of another layout are garbage.",
				Lines:   []string{"M502", "M500"},
				Touches: true,
			},
		)
	}
	w.add(enter)
}

// flashing is what is flashed where.
func (c Change) flashing() firmware.Flashing {
	out := firmware.Flashing{Machine: c.After, Must: c.buildMust()}
	if c.NewBoard() == nil {
		out.Last = c.Before.Of(c.Before.First(parts.Firmware), parts.FirmwareFile).Value.Text
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

// reenter lists the values whose store is lost but whose parts are untouched, each named in a
// remark of the family's, with the lines that enter it where they follow from the value.
func (c Change) reenter(records []calibration.Record, family string) []string {
	var out []string
	remark := "; " // so that the whole can be copied
	if family == parts.Hosted {
		remark = "# "
	}
	disagree := calibration.Disagreements(c.Before, records, nil)
	for _, v := range c.Invalidated(records) {
		if v.Remedy != calibration.EnterAgain {
			continue
		}
		line := remark + v.Title + ": " + v.Value
		for _, d := range disagree {
			if d.Kind == v.Kind && d.Subject == v.Subject {
				line += "  ▲ " + d.Says + " " + d.Settle
			}
		}
		out = append(out, line)
		if v.Kind != calibration.ZOffset || !without(c.After, parts.Probe) {
			out = append(out, settings.WriteOn(c.After, family, v.Kind, v.Subject, v.Value)...)
		}
	}
	if len(out) == 0 {
		out = append(out, remark+"no value is on record for this machine: take them from the settings recorded above")
	}
	if family == parts.Scripted {
		return out
	}
	return append(out, "M500")
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
		// Heads that are changed on an endstop have an offset each, which is stored.
		if out.Endstop = without(s, parts.Probe) && len(c.Subjects(s)) == 1; out.Endstop {
			out.Do = "Heat the bed to the temperature you print at and wait. Home, Z to 0, look at the gap, type it; move the " +
				"endstop by it, home again, Z to 0; until paper is lightly pinched, at the corners too."
		}
	case calibration.Direction:
		out.Form = TickForm
	}
	out.Sum, out.Given = sumFor(s, k, x)
	out.NameFigures()
	return out
}

// protection makes it the test of one heater.
func (s *Step) protection(on machine.Snapshot, x calibration.Subject) {
	s.Form, s.Title = ProtectionForm, "Test "+sentence.Within(s.Title)
	heater := map[bool]string{true: "nozzle set to 200 °C",
		false: "this heater set to its usual temperature"}[x.Place().Head() > 0]
	s.Do = "Each heater is watched by itself, so each is tested. No-heat test (take this one): mains plug out, " +
		"board powered by USB from a phone charger, " + heater + ". A protected build alarms within three to four " +
		"minutes; silence means unprotected. It proves the watch for \"does not heat\"."
	family := familyOf(on)
	s.Configured = family == parts.Hosted || family == parts.Scripted
	if x.Place() == machine.Bed {
		s.MainsBed = mainsBed(on)
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
