package change

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"wardifex/internal/core/bench"
	"wardifex/internal/core/firmware"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
)

// Data is what a technician has typed into a step, as typed: it is kept while
// half done, and judged by Step.Check when the step is ticked.
type Data struct {
	Version string `json:"version,omitempty"`
	Label   string `json:"label,omitempty"`
	File    string `json:"file,omitempty"`
	Size    string `json:"size,omitempty" doc:"KiB"`

	Room   string `json:"room,omitempty" doc:"°C"`
	Nozzle string `json:"nozzle,omitempty" doc:"°C"`
	Bed    string `json:"bed,omitempty" doc:"°C"`

	School string `json:"school,omitempty" doc:"no-heat or heater-lead"`
	Alarm  string `json:"alarm,omitempty" doc:"Seconds until the alarm"`
	Silent bool   `json:"silent,omitempty" doc:"No alarm came"`

	BedTemperature string               `json:"bedTemperature,omitempty" doc:"°C"`
	SoakMinutes    string               `json:"soakMinutes,omitempty"`
	StartOffset    string               `json:"startOffset,omitempty" doc:"mm"`
	Rounds         []bench.ZOffsetRound `json:"rounds,omitempty"`
	Gap            string               `json:"gap,omitempty" doc:"mm, being typed"`

	Value string `json:"value,omitempty"`
	Store string `json:"store,omitempty"`
}

// Result is what a finished step adds to the record.
type Result struct {
	Readings    map[machine.Key]string // by trait, values as typed
	Calibration *Record                // Kind, Value, Store, Method and Passed are set
}

// Bounds of a protection test. Source: common practice; the upper end allows
// a build its own window.
const longestAlarm = 300 // s

// Check judges what was typed into a step that is to be ticked, and gives what
// the step adds to the record. lastFile is the build file last flashed on this
// board, "" when unknown; noted says whether the step carries a note.
func (s Step) Check(d Data, lastFile string, noted bool, voc *machine.Vocabulary) (Result, error) {
	switch s.Form {
	case NoteForm:
		if !noted {
			return Result{}, fmt.Errorf("%s: the note is empty; paste or write what you found, it is the way back", s.Title)
		}
	case BuildForm:
		return d.build(lastFile, voc)
	case ColdForm:
		return d.cold()
	case ProtectionForm:
		return d.protection()
	case ZOffsetForm:
		return d.zOffset()
	case CalibrationForm:
		value := strings.TrimSpace(d.Value)
		if err := machine.PlainText(value); err != nil {
			return Result{}, fmt.Errorf("%s: type the value found (%s): %w", s.Title, cmpOr(s.Unit, "or the file it is kept in"), err)
		}
		return recorded(Record{Kind: s.Calibration, Value: withUnit(value, s.Unit), Store: d.Store, Method: s.Do, Passed: true})
	}
	if s.Calibration != "" {
		return recorded(Record{Kind: s.Calibration, Value: "checked", Store: StorePart, Method: s.Do, Passed: true})
	}
	return Result{}, nil
}

func cmpOr(a, b string) string {
	if a == "" {
		return b
	}
	return "in " + a
}

func withUnit(value, unit string) string {
	if _, err := machine.ParseNumber(value); err == nil && unit != "" {
		return value + " " + unit
	}
	return value
}

func recorded(r Record) (Result, error) {
	if !slices.Contains(Stores(), r.Store) {
		return Result{}, fmt.Errorf("say where the value is kept: %s. A value on a card belongs to the card", strings.Join(Stores(), ", "))
	}
	return Result{Calibration: &r}, nil
}

func (d Data) build(lastFile string, voc *machine.Vocabulary) (Result, error) {
	res := Result{Readings: map[machine.Key]string{}}
	typed := []struct {
		trait      machine.TraitOf
		value, ask string
		must       bool
	}{
		{parts.FirmwareVersion, d.Version, "type the version that the information screen shows", true},
		{parts.FirmwareLabel, d.Label, "type the machine label that the screen shows", false},
		{parts.FirmwareSize, d.Size, "type the size of the build in KiB", false},
		{parts.FirmwareFile, d.File, "type the name of the file that was flashed", false},
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
		if err := firmware.CheckCardName(lastFile, d.File); err != nil {
			return res, err
		}
	}
	return res, nil
}

func (d Data) cold() (Result, error) {
	room, err := celsius("the room", d.Room)
	if err != nil {
		return Result{}, err
	}
	nozzle, err := celsius("the nozzle", d.Nozzle)
	if err != nil {
		return Result{}, err
	}
	bed, err := celsius("the bed", d.Bed)
	if err != nil {
		return Result{}, err
	}
	if err := bench.ColdCheck(room, []bench.ColdReading{{Name: "the nozzle", Celsius: nozzle}, {Name: "the bed", Celsius: bed}}); err != nil {
		return Result{}, err
	}
	return recorded(Record{Kind: Cold, Store: StorePart, Passed: true, Method: "read cold",
		Value: fmt.Sprintf("room %g, nozzle %g, bed %g °C", room, nozzle, bed)})
}

func celsius(what, text string) (float64, error) {
	n, err := machine.ParseNumber(strings.TrimSuffix(strings.TrimSpace(text), "°C"))
	if err != nil {
		return 0, fmt.Errorf("temperature of %s: type degrees Celsius, such as 21", what)
	}
	return n, nil
}

func (d Data) protection() (Result, error) {
	method := map[string]string{"no-heat": "no-heat test over USB", "heater-lead": "heater-lead test"}[d.School]
	if method == "" {
		return Result{}, fmt.Errorf("say which test was made: no-heat or heater-lead")
	}
	r := Record{Kind: Protection, Store: StorePart, Method: method}
	if d.Silent {
		r.Value = "no alarm, " + method
		return recorded(r)
	}
	seconds, err := machine.ParseNumber(d.Alarm)
	if err != nil || seconds <= 0 {
		return Result{}, fmt.Errorf("type the seconds until the alarm, such as 190, or say that none came")
	}
	if seconds > longestAlarm {
		return Result{}, fmt.Errorf("an alarm after %g s is later than any window (%d s): test again, or record that none came", seconds, longestAlarm)
	}
	r.Value, r.Passed = fmt.Sprintf("alarm after %g s, %s", seconds, method), true
	return recorded(r)
}

// Bed temperatures and waiting times that make sense for a Z offset. Source:
// common practice (bed at working temperature for some minutes).
const (
	coldestBed = 0.0
	hottestBed = 150.0
	leastSoak  = 3.0 // minutes
)

func (d Data) zOffset() (Result, error) {
	bed, err := machine.ParseNumber(d.BedTemperature)
	if err != nil || bed < coldestBed || bed > hottestBed {
		return Result{}, fmt.Errorf("bed temperature: type what the bed is heated to in °C, such as 60")
	}
	soak, err := machine.ParseNumber(d.SoakMinutes)
	if err != nil || soak < leastSoak {
		return Result{}, fmt.Errorf("waiting time: the bed bends while it warms; wait at least %g minutes and type how many", leastSoak)
	}
	offset, err := bench.FinishZOffset(d.Rounds)
	if err != nil {
		return Result{}, err
	}
	return recorded(Record{Kind: ZOffset, Value: strconv.FormatFloat(offset, 'f', 2, 64) + " mm", Store: d.Store, Passed: true,
		Method: fmt.Sprintf("paper, bed %g °C after %g min, %d rounds", bed, soak, len(d.Rounds))})
}
