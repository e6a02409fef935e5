package recordfile_test

import (
	"encoding/json"
	"reflect"
	"runtime"
	"slices"
	"strings"
	"testing"
	"time"

	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/maintenance"
	"wardifex/internal/core/recordfile"
	"wardifex/internal/core/wiring"
)

var (
	voc = catalogue.Vocabulary()
	now = time.Date(2026, 5, 1, 12, 0, 0, 0, time.UTC)
)

type file = recordfile.File

func day(n int) time.Time { return time.Date(2026, 1, n, 9, 0, 0, 0, time.UTC) }

func at(n int) *time.Time { d := day(n); return &d }

// good is a record of two machines between which a probe moved.
func good() recordfile.File {
	changed := recordfile.Changed{Version: 1, By: "Ann", At: day(1)}
	return recordfile.File{Format: recordfile.Format, Version: recordfile.Version, Catalogue: catalogue.Shipped(),
		Parts: []recordfile.Part{
			{
				No:      1,
				Kind:    "probe",
				Tag:     "T1",
				Changed: changed,
				Readings: []recordfile.Reading{
					{Trait: "model", Value: "Sounder", Grade: machine.Claimed, At: day(1), By: "Ann"},
					{
						Trait:       "senses",
						Value:       "metal, without touch",
						Grade:       machine.Observed,
						At:          day(2),
						By:          "Ann",
						SetAsideWhy: "taken back: x",
						SetAsideBy:  "Ann",
						SetAsideAt:  at(3),
					},
				},
			},
			{No: 2, Kind: "supply", BoughtOn: "2026-01-01", Changed: changed}},
		Machines: []recordfile.Machine{
			{
				Name:    "A",
				Since:   day(1),
				Changed: changed,
				Fittings: []recordfile.Fitting{
					{Slot: "probe", Part: 1, From: day(1), To: at(5)},
					{Slot: "supply", Part: 2, From: day(1)},
				},
				Orders: []recordfile.Order{
					{
						KitKey:   "k",
						Kit:      json.RawMessage(`{}`),
						Further:  json.RawMessage(`[]`),
						Verdict:  json.RawMessage(`{}`),
						State:    "open",
						OpenedAt: day(4),
						Steps: []recordfile.Step{{Key: "s", Step: json.RawMessage(`{}`), Data: json.RawMessage(`{}`),
							Version: 1}},
					},
				},
				Calibrations: []recordfile.Calibration{
					{Kind: "mesh", Store: "build", Passed: true, At: day(4), Order: 1},
				},
				Meters: []recordfile.Meter{{At: day(3), Hours: 10}},
				Labour: []recordfile.Labour{
					{At: day(4), Minutes: 30, What: "x"},
				},
				Uses: []recordfile.UseState{{Use: "in use", Why: "x", At: day(2)}},
				WireSheets: []recordfile.WireSheet{{Head: "", Sheet: wiring.Loom{Wires: []wiring.Wire{{Connector: "x",
					Way: 1}}}}},
			},
			{Name: "B", Since: day(1), Changed: changed, Fittings: []recordfile.Fitting{{Slot: "probe", Part: 1,
				From: day(5)}}}}}
}

func TestFaults(t *testing.T) {
	if f := good().Faults(voc, now); len(f) > 0 {
		t.Fatalf("a good record: %v", f)
	}
	planned := good()
	planned.Machines[0].Orders[0].State = "planned" // it has not ended yet
	if f := planned.Faults(voc, now); len(f) > 0 {
		t.Errorf("a record with planned work: %v", f)
	}
	ended, when := good(), day(3)
	ended.Machines[0].Orders[0].State, ended.Machines[0].Orders[0].ClosedAt = "finished", &when
	if f := ended.Faults(voc, now); len(f) > 0 {
		t.Errorf("a record with finished work: %v", f)
	}
	for part, spoil := range map[string]func(f *recordfile.File){
		"part 1 is fitted in two places at once: A, probe and B, probe": func(
			f *recordfile.File) {
			f.Machines[0].Fittings[0].To = at(6)
		},
		"A, supply holds two parts at once": func(f *file) {
			f.Parts = append(f.Parts, recordfile.Part{No: 3, Kind: "supply"})
			f.Machines[0].Fittings = append(f.Machines[0].Fittings, recordfile.Fitting{Slot: "supply", Part: 3,
				From: day(2)})
		},
		"reading 1: the reading is dated 4 Feb 2027":     func(f *file) { f.Parts[0].Readings[0].At = day(400) },
		"no trait \"ram\"":                               func(f *file) { f.Parts[0].Readings[0].Trait = "ram" },
		"is not one of":                                  func(f *file) { f.Parts[0].Readings[1].Value = "wood" },
		"how good the evidence is":                       func(f *file) { f.Parts[0].Readings[0].Grade = 0 },
		"set aside without a reason":                     func(f *file) { f.Parts[0].Readings[1].SetAsideWhy = "" },
		"no kind of part \"ghost\"":                      func(f *file) { f.Parts[1].Kind = "ghost" },
		"each is there once":                             func(f *file) { f.Parts[1].No = 1 },
		"is not a date":                                  func(f *file) { f.Parts[1].BoughtOn = "new year" },
		"there is no part 9 in the file":                 func(f *file) { f.Machines[1].Fittings[0].Part = 9 },
		"there is no position \"ghost\"":                 func(f *file) { f.Machines[1].Fittings[0].Slot = "ghost" },
		"part 1 is a probe, and the slot holds a supply": func(f *file) { f.Machines[1].Fittings[0].Slot = "supply" },
		"taken out before it is fitted":                  func(f *file) { f.Machines[0].Fittings[0].From = day(9) },
		"machine \"a\" is in the file twice":             func(f *file) { f.Machines[1].Name = "a" },
		"there is no order 2 in it":                      func(f *file) { f.Machines[0].Calibrations[0].Order = 2 },
		"there is no kind \"ghost\"": func(
			f *recordfile.File) {
			f.Machines[0].Calibrations[0].Kind = "ghost"
		},
		"2 open orders": func(f *file) {
			f.Machines[0].Orders = append(f.Machines[0].Orders,
				f.Machines[0].Orders[0])
		},
		"step \"s\" is there twice": func(f *file) {
			f.Machines[0].Orders[0].Steps = append(f.Machines[0].Orders[0].Steps, f.Machines[0].Orders[0].Steps[0])
		},
		"without the time at which it was": func(f *file) { f.Machines[0].Orders[0].State = "finished" },
		"the meter is read twice": func(f *file) {
			f.Machines[0].Meters = append(f.Machines[0].Meters,
				f.Machines[0].Meters[0])
		},
		"cannot be left out": func(f *file) {
			task, _ := maintenance.Find(maintenance.Shipped(), maintenance.ProtectionTask)
			task.Off = true
			f.Tasks = append(f.Tasks, task)
		},
		"\"belts\" is in the file twice": func(f *file) {
			task, _ := maintenance.Find(maintenance.Shipped(), "belts")
			f.Tasks = append(f.Tasks, task, task)
		},
		"none of what machines count": func(f *file) { f.Machines[0].Meters[0].Counter = "moods" },
		"-5 h":                        func(f *file) { f.Machines[0].Meters[0].Hours = -5 },
		"0 minutes of work":           func(f *file) { f.Machines[0].Labour[0].Minutes = 0 },
		"\"idle\" is no use":          func(f *file) { f.Machines[0].Uses[0].Use = "idle" },
		"two wire sheets": func(f *file) {
			f.Machines[0].WireSheets = append(f.Machines[0].WireSheets, f.Machines[0].WireSheets[0])
		},
		"a connector's name":            func(f *file) { f.Machines[0].WireSheets[0].Sheet.Wires[0].Connector = "" },
		"spreadsheet runs as a formula": func(f *file) { f.Machines[0].Name = "=A1" },
	} {
		f := good()
		spoil(&f)
		if got := strings.Join(f.Faults(voc, now), "\n"); !strings.Contains(got, part) {
			t.Errorf("want %q, got %q", part, got)
		}
	}
	// One fault hides none that follow it, and each names its machine and its place in the list.
	all := good()
	place := func(key, kind string, serves machine.Place) recordfile.Listed {
		return recordfile.Listed{Position: machine.Position{Key: key, Label: key, Kind: kind, Serves: serves}}
	}
	all.Machines[1].Runs = []recordfile.Run{
		{Slot: "ghost", From: day(1)},
		{Slot: "supply", From: day(1)},
		{Slot: "firmware", Build: "plain 9", From: day(1)},
	}
	gone := place("heater-3", "heater", machine.Head(3))
	gone.To = at(4)
	all.Machines[1].Positions = []recordfile.Listed{gone, place("heater-3", "heater", machine.Head(3)),
		place("fan-3", "fan-duct", machine.Head(3)), place("fan-3", "fan-duct", machine.Head(3))}
	got := all.Faults(voc, now)
	for _, want := range []string{"run 1: there is no position \"ghost\"", "run 2: Power supply holds parts",
		"run 3: there is no build \"plain 9\"", "has the position \"fan-3\" twice"} {
		if !slices.ContainsFunc(got, func(f string) bool {
			return strings.Contains(f, "machine B") && strings.Contains(f, want)
		}) {
			t.Errorf("want %q among %q", want, got)
		}
	}
	if len(got) != 4 {
		t.Errorf("%d faults: %q", len(got), got)
	}
	many := good()
	for range 200 {
		many.Parts = append(many.Parts, recordfile.Part{Kind: "ghost"})
	}
	if f := many.Faults(voc, now); len(f) > 60 || !strings.Contains(f[len(f)-1], "faults more") {
		t.Errorf("%d faults listed, last %q", len(f), f[len(f)-1])
	}
}

func TestReadAndRoundTrip(t *testing.T) {
	text, err := json.Marshal(good())
	if err != nil {
		t.Fatal(err)
	}
	f, err := recordfile.Read(text)
	if err != nil || !reflect.DeepEqual(normal(t, f), normal(t, good())) {
		t.Errorf("a record comes back changed: %v", err)
	}
	for part, text := range map[string]string{
		"version 4 of its format": `{"format": "wardifex-record", "version": 4}`,
		"no file of the format":   `{"format": "wardifex-catalogue", "version": 1}`,
		"unknown field":           `{"format": "wardifex-record", "version": 1, "people": []}`,
		"no valid JSON":           `{"format": "wardifex-record"`,
	} {
		if _, err := recordfile.Read([]byte(text)); err == nil || !strings.Contains(err.Error(), part) {
			t.Errorf("want %q, got %v", part, err)
		}
	}
}

// A file of many entries that are hardly written is refused before anything is made of them, and the faults of one
// that is not are told in few lines.
func TestManyEmptyEntries(t *testing.T) { // by itself: what it takes is measured
	const head = `{"format":"wardifex-record","version":3,"catalogue":{},"parts":[],"machines":[`
	many := []byte(head + strings.Repeat("{},", 700_000) + "{}]}")
	var before, after runtime.MemStats
	runtime.ReadMemStats(&before)
	if _, err := recordfile.Read(many); err == nil || !strings.Contains(err.Error(), "empty") {
		t.Errorf("%v", err)
	}
	runtime.ReadMemStats(&after)
	if took := after.TotalAlloc - before.TotalAlloc; took > 20<<20 {
		t.Errorf("%d MiB were taken for it", took>>20)
	}
	some, err := recordfile.Read([]byte(head + strings.Repeat("{},", 5000) + "{}]}"))
	if err != nil {
		t.Fatal(err)
	}
	if faults := some.Faults(voc, now); len(faults) != catalogue.MostFaults+1 ||
		!strings.Contains(faults[catalogue.MostFaults], "more") {
		t.Errorf("%d faults", len(faults))
	}
}

func normal(t *testing.T, f recordfile.File) any {
	text, err := json.Marshal(f)
	if err != nil {
		t.Fatal(err)
	}
	var v any
	_ = json.Unmarshal(text, &v)
	return v
}

// Whatever is in a file: it is read or refused, and judged without a panic.
func FuzzRecord(f *testing.F) {
	text, _ := json.Marshal(good())
	f.Add(text)
	f.Add(
		[]byte(
			`{"format": "wardifex-record", "version": 1, "parts": [{"no": -1}], "machines": [{"fittings": [{"order": -2}]}]}`,
		),
	)
	f.Fuzz(func(t *testing.T, text []byte) {
		file, err := recordfile.Read(text)
		if err != nil {
			return
		}
		for _, fault := range file.Faults(voc, now) {
			if fault == "" {
				t.Error("a fault without words")
			}
		}
	})
}
