package change

import (
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"wardifex/internal/core/bench"
	"wardifex/internal/core/calibration"
	"wardifex/internal/core/firmware"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
	"wardifex/internal/core/quantity"
)

// Data is what a technician has typed into a step, as typed: it is kept while
// half done, and judged by Step.Check when the step is ticked.
type Data struct {
	Version string `json:"version,omitempty"`
	Label   string `json:"label,omitempty"`
	File    string `json:"file,omitempty"`
	Size    string `json:"size,omitempty" doc:"KiB"`
	// Build is the build on record that was flashed; 0 where it is none of them, and then
	// BuildName is the name under which it is recorded, empty where nobody names it.
	Build     int64  `json:"build,omitempty"`
	BuildName string `json:"buildName,omitempty"`

	Room   string   `json:"room,omitempty" doc:"°C"`
	Shown  []string `json:"shown,omitempty" doc:"°C, of each sensor of the step"`
	Nozzle string   `json:"nozzle,omitempty" doc:"°C, in steps of earlier versions"`
	Bed    string   `json:"bed,omitempty" doc:"°C, in steps of earlier versions"`

	TestMethod    string `json:"school,omitempty" doc:"no-heat or heater-lead"`
	Alarm         string `json:"alarm,omitempty" doc:"Seconds until the alarm"`
	AlarmText     string `json:"alarmText,omitempty" doc:"As the machine showed it"`
	NoAlarm       bool   `json:"silent,omitempty" doc:"No alarm came"`
	Configuration string `json:"configuration,omitempty" doc:"In use during the test"`

	BedTemperature string               `json:"bedTemperature,omitempty" doc:"°C"`
	SoakMinutes    string               `json:"soakMinutes,omitempty"`
	StartOffset    string               `json:"startOffset,omitempty" doc:"mm"`
	Rounds         []bench.ZOffsetRound `json:"rounds,omitempty"`
	Gap            string               `json:"gap,omitempty" doc:"mm, being typed"`

	Value    string   `json:"value,omitempty"`
	Numbers  []string `json:"numbers,omitempty" doc:"One for each part of the value"`
	Store    string   `json:"store,omitempty"`
	Licensed string   `json:"licensed,omitempty" doc:"Who did mains work, by which licence or local rule"`
	// Earth is the resistance from the plug's earth pin to what is earthed, Ω, and Instrument what
	// it was measured with: of licensed steps, where it was measured.
	Earth      string `json:"earth,omitempty"`
	Instrument string `json:"instrument,omitempty" maxLength:"120"`
	// Found is what was read off delivered parts, by the keys of their traits.
	Found map[string]string `json:"found,omitempty"`
	// Moved are the wires that are on the new board already, by their keys in the transfer list.
	Moved []string `json:"moved,omitempty" maxItems:"400"`
	// Sure says that a value which such a machine hardly has is right all the same.
	Sure bool `json:"sure,omitempty"`
	// From names the machine whose value was taken as a start; Measured says that what stands
	// now was measured on this one.
	From     string `json:"from,omitempty" maxLength:"120"`
	Measured bool   `json:"measured,omitempty"`
}

// Result is what a finished step adds to the record.
type Result struct {
	Readings map[machine.Key]string // by trait, values as typed
	// Build is the number of the build that was flashed, or BuildName its name where it is
	// to be recorded.
	Build     int64
	BuildName string
	// Calibrations are those recorded, one for each subject; Kind, Subject, Value, Store,
	// Method, Passed and Proof are set.
	Calibrations []calibration.Record
}

// Bounds of a protection test. Source: common practice; the upper end allows
// a build its own window.
const longestAlarm = 300 // s

// Check judges what was typed into a step that is to be ticked on a machine, and gives
// what the step adds to the record. lastFile is the build file last flashed on this
// board, "" when unknown; noted says whether the step carries a note. The error is
// calibration.ErrAsk where a value is to be asked for once more.
func (s Step) Check(d Data, lastFile string, noted bool, on machine.Snapshot) (Result, error) {
	if err := s.checkLicensed(d); err != nil {
		return Result{}, err
	}
	if len(s.Found) > 0 {
		readings, err := s.found(d, on)
		return Result{Readings: readings}, err
	}
	switch s.Form {
	case NoteForm:
		if !noted {
			return Result{}, fmt.Errorf("%s: the note is empty; paste or write what you found, it is the way back", s.Title)
		}
	case BuildForm:
		return d.build(lastFile, on)
	case FileNameForm:
		return d.fileName(lastFile, on)
	case ColdForm:
		return s.cold(d)
	case ProtectionForm:
		return s.protected(d, on)
	case ZOffsetForm:
		return s.zOffset(d, on)
	case CalibrationForm:
		return s.value(d, on)
	case MeasuresForm:
		return Result{}, s.measured(d)
	}
	if s.Calibration != "" {
		return s.recorded(calibration.Record{Value: "checked", Store: calibration.StorePart, Method: s.Do, Passed: true})
	}
	return Result{}, nil
}

// value is one that was found, of one number, of several, or in words.
func (s Step) value(d Data, on machine.Snapshot) (Result, error) {
	c, _ := calibration.Of(s.Calibration)
	value := strings.TrimSpace(d.Value)
	if len(s.Parts) > 0 && len(d.Numbers) > 0 {
		var err error
		if value, err = c.Write(d.Numbers); err != nil {
			return Result{}, err
		}
	}
	if err := machine.PlainText(value); err != nil {
		return Result{}, fmt.Errorf(
			"%s: type the value found (%s): %w",
			s.Title,
			cmpOr(s.Unit, "or the file it is kept in"),
			err,
		)
	}
	value, err := withUnit(value, s.Unit)
	if err != nil {
		return Result{}, fmt.Errorf("%s: %w", s.Title, err)
	}
	if len(s.Parts) > 0 && c.Numbers(s.subject(), value) == nil {
		var names []string
		for _, p := range s.Parts {
			names = append(names, p.Name)
		}
		return Result{}, fmt.Errorf("%s: type each of its numbers: %s", s.Title, strings.Join(names, ", "))
	}
	if err := c.Plausible(on, s.subject(), value); err != nil && !d.Sure {
		return Result{}, err
	}
	method := s.Do
	if d.From != "" {
		if !d.Measured {
			return Result{}, fmt.Errorf("%s: the value of %s is a start alone; measure it on this machine, then say so",
				s.Title, d.From)
		}
		method += " Begun from the value of " + d.From + "."
	}
	return s.recorded(calibration.Record{Value: value, Store: d.Store, Method: method, Passed: true})
}

// Again is what is typed into the step where the value of a record is entered again.
func (s Step) Again(r calibration.Record) Data {
	c, _ := calibration.Of(s.Calibration)
	d := Data{Value: r.Value, Store: r.Store}
	if len(s.Parts) > 0 {
		for _, n := range c.Numbers(s.subject(), r.Value) {
			d.Numbers = append(d.Numbers, quantity.Format(n))
		}
	}
	return d
}

// subject is the one that the step is of, the machine as a whole where it is of none or
// of several.
func (s Step) subject() calibration.Subject {
	if len(s.Subjects) == 1 {
		return s.Subjects[0]
	}
	return calibration.WholeMachine
}

func cmpOr(a, b string) string {
	if a == "" {
		return b
	}
	return "in " + a
}

// withUnit writes a number in a unit: as it was typed, where it is plain and in that unit.
// Words stay as they are. The error is that of a number with two meanings.
func withUnit(value, unit string) (string, error) {
	n, err := quantity.In(value, unit, quantity.Unsaid, 0, 0)
	var two *quantity.TwoMeanings
	switch {
	case errors.As(err, &two):
		return "", err
	case err != nil || unit == "":
		return value, nil
	}
	digits, _ := quantity.Split(value)
	if typed, err := quantity.Recorded(digits); err != nil || typed != n || strings.ContainsAny(digits, ",' ") {
		digits = quantity.Format(n)
	}
	return digits + " " + unit, nil
}

// recorded is the record of each subject of the step.
func (s Step) recorded(r calibration.Record) (Result, error) {
	if !slices.Contains(calibration.Stores(), r.Store) {
		return Result{}, fmt.Errorf(
			"say where the value is kept: %s. A value on a card belongs to the card",
			strings.Join(calibration.Stores(), ", "),
		)
	}
	r.Kind = s.Calibration
	if len(s.Subjects) == 0 {
		return Result{Calibrations: []calibration.Record{r}}, nil
	}
	var out Result
	for _, x := range s.Subjects {
		r.Subject = x
		out.Calibrations = append(out.Calibrations, r)
	}
	return out, nil
}

func (d Data) build(lastFile string, on machine.Snapshot) (Result, error) {
	voc := on.Vocabulary()
	res := Result{Readings: map[machine.Key]string{}, Build: d.Build}
	if name := strings.TrimSpace(d.BuildName); d.Build == 0 && name != "" {
		if err := machine.PlainText(name); err != nil {
			return res, fmt.Errorf("name of the build: %w", err)
		}
		res.BuildName = name
	}
	typed := []struct {
		trait      machine.TraitOf
		value, ask string
		must       bool
	}{
		{parts.FirmwareVersion, d.Version, "type the version that the information screen shows", true},
		{parts.FirmwareLabel, d.Label, "type the machine label that the screen shows", false},
		{parts.FirmwareSize, d.Size, "type the size of the build in KiB", false},
		{parts.FirmwareFile, d.File, "type the name of the file that was flashed", false},
		{parts.FirmwareConfiguration, d.Configuration, "type the configuration in use", false},
	}
	for _, t := range typed {
		if strings.TrimSpace(t.value) == "" {
			if t.must {
				return res, fmt.Errorf("%s: only that proves which build runs", t.ask)
			}
			continue
		}
		trait := voc.Of(voc.First(parts.Firmware), t.trait)
		if trait == nil {
			continue
		}
		v, err := trait.Parse(t.value)
		if err != nil {
			return res, err
		}
		res.Readings[trait.Key()] = v.Text
	}
	if d.File != "" {
		if err := firmware.CheckCardName(lastFile, d.File, fixedName(on)); err != nil {
			return res, err
		}
	}
	return res, nil
}

// fixedName is the file name that the board's bootloader asks for; empty where it asks for none, or
// that is unknown.
func fixedName(on machine.Snapshot) string {
	return on.Of(on.First(parts.Mainboard), parts.MainboardFileName).Value.Text
}

// fileName is the name of the file on the card, judged before the card is written.
func (d Data) fileName(lastFile string, on machine.Snapshot) (Result, error) {
	if err := firmware.CheckCardName(lastFile, d.File, fixedName(on)); err != nil {
		return Result{}, err
	}
	res := Result{Readings: map[machine.Key]string{}}
	if t := on.Vocabulary().Of(on.Vocabulary().First(parts.Firmware), parts.FirmwareFile); t != nil {
		res.Readings[t.Key()] = strings.TrimSpace(d.File)
	}
	return res, nil
}

func (s Step) cold(d Data) (Result, error) {
	room, err := celsius("the room", d.Room)
	if err != nil {
		return Result{}, err
	}
	names, typed := s.Sensors, d.Shown
	if len(names) == 0 {
		names, typed = []string{"the nozzle", "the bed"}, []string{d.Nozzle, d.Bed}
	}
	shown := make([]bench.ColdReading, len(names))
	value := fmt.Sprintf("room %g", room)
	for i, name := range names {
		text := ""
		if i < len(typed) {
			text = typed[i]
		}
		n, err := celsius(name, text)
		if err != nil {
			return Result{}, err
		}
		shown[i] = bench.ColdReading{Name: name, Celsius: n}
		value += fmt.Sprintf(", %s %g", strings.TrimPrefix(name, "the "), n)
	}
	if err := bench.ColdCheck(room, shown); err != nil {
		return Result{}, err
	}
	return s.recorded(
		calibration.Record{Store: calibration.StorePart, Passed: true, Method: "read cold", Value: value + " °C"},
	)
}

func celsius(what, text string) (float64, error) {
	n, err := quantity.In(text, "°C", quantity.Unsaid, -60, 600)
	if err != nil {
		return 0, fmt.Errorf("temperature of %s: type degrees Celsius, such as 21", what)
	}
	return n, nil
}

func (s Step) protected(d Data, on machine.Snapshot) (Result, error) {
	method := map[string]string{"no-heat": "no-heat test over USB", "heater-lead": "heater-lead test"}[d.TestMethod]
	switch {
	case method == "":
		return Result{}, fmt.Errorf("say which test was made: no-heat or heater-lead")
	case s.MainsBed && d.TestMethod == "heater-lead":
		return Result{}, fmt.Errorf(
			"this bed is heated from the mains: its lead carries mains voltage and is not unplugged for a test. Make the " +
				"no-heat test",
		)
	case s.Configured && strings.TrimSpace(d.Configuration) == "":
		return Result{}, fmt.Errorf(
			"type which configuration was in use, by its date, revision or checksum: this firmware reads its limits from " +
				"it, and the proof is good for it alone",
		)
	}
	r := calibration.Record{
		Store:  calibration.StorePart,
		Method: method,
		Proof:  calibration.Proof{Alarm: strings.TrimSpace(d.AlarmText)},
	}
	if s.Configured {
		r.Proof.Configuration = strings.TrimSpace(d.Configuration)
	}
	if d.NoAlarm {
		r.Value = "no alarm, " + method
		return s.recorded(r)
	}
	seconds, err := quantity.In(d.Alarm, "s", quantity.Unsaid, 0, longestAlarm)
	if err != nil || seconds <= 0 {
		return Result{}, fmt.Errorf("type the seconds until the alarm, such as 190, or say that none came")
	}
	if seconds > longestAlarm {
		return Result{}, fmt.Errorf(
			"an alarm after %g s is later than any window (%d s): test again, or record that none came",
			seconds,
			longestAlarm,
		)
	}
	if err := machine.PlainText(r.Proof.Alarm); err != nil {
		return Result{}, fmt.Errorf(
			"text of the alarm: %w. Type what the machine showed, so that it can be told from other alarms",
			err,
		)
	}
	if why := calibration.NotThatAlarm(r.Proof.Alarm); why != "" {
		return Result{}, fmt.Errorf("%s", why)
	}
	r.Value, r.Passed, r.Proof.Seconds = fmt.Sprintf("alarm after %g s, %s", seconds, method), true, seconds
	out, err := s.recorded(r)
	if t := on.Vocabulary().Of(on.First(parts.Firmware), parts.FirmwareConfiguration); t != nil &&
		r.Proof.Configuration != "" {
		out.Readings = map[machine.Key]string{t.Key(): r.Proof.Configuration}
	}
	return out, err
}

// Bed temperatures and waiting times that make sense for a Z offset. Source:
// common practice (bed at working temperature for some minutes).
const (
	coldestBed = 0.0
	hottestBed = 150.0
	leastSoak  = 3.0 // minutes
)

func (s Step) zOffset(d Data, on machine.Snapshot) (Result, error) {
	bed, err := quantity.In(d.BedTemperature, "°C", quantity.Unsaid, coldestBed, hottestBed)
	if err != nil || bed < coldestBed || bed > hottestBed {
		return Result{}, fmt.Errorf("bed temperature: type what the bed is heated to in °C, such as 60")
	}
	soak, err := quantity.In(d.SoakMinutes, "min", quantity.Unsaid, 0, 240)
	if err != nil || soak < leastSoak {
		return Result{}, fmt.Errorf(
			"waiting time: the bed bends while it warms; wait at least %g minutes and type how many",
			leastSoak,
		)
	}
	offset, err := bench.FinishZOffset(d.Rounds)
	if err != nil {
		return Result{}, err
	}
	value := strconv.FormatFloat(offset, 'f', 2, 64) + " mm"
	how := fmt.Sprintf("paper, bed %g °C after %g min, %d rounds", bed, soak, len(d.Rounds))
	if s.Endstop {
		return s.recorded(calibration.Record{Value: value, Store: calibration.StorePart, Passed: true,
			Method: "endstop moved by the value, " + how})
	}
	c, _ := calibration.Of(s.Calibration)
	if err := c.Plausible(on, s.subject(), value); err != nil && !d.Sure {
		return Result{}, err
	}
	return s.recorded(calibration.Record{Value: value, Store: d.Store, Passed: true, Method: how})
}
