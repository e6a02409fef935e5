package demo

import (
	"embed"
	"fmt"
	"time"

	"wardifex/internal/app"
	"wardifex/internal/core/calibration"
	"wardifex/internal/core/change"
	"wardifex/internal/core/firmware"
	"wardifex/internal/core/fleetquery"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/maintenance"
	"wardifex/internal/core/wiring"
	"wardifex/internal/picture"
	"wardifex/internal/store"
)

// flashes are builds that machines ran for a while: a newer one was tried in the late
// winter and taken back in April.
var flashes = map[string][]struct{ day, build string }{
	"Avocet":  {{"2026-02-20", "Skerry with mesh 2.1.0"}, {"2026-04-09", "Skerry plain 2.0.8"}},
	"Bittern": {{"2026-02-24", "Skerry with mesh 2.1.0"}, {"2026-04-09", "Skerry plain 2.0.8"}},
	"Gannet":  {{"2026-03-12", "Skerry with mesh 2.1.0"}, {"2026-03-28", "Skerry plain 2.0.8"}},
	"Jackdaw": {{"2025-12-02", "Tern mainboard 0.12.6"}},
}

// builds are those that the room made itself.
var builds = []firmware.Build{
	{
		Name:     "Skerry with mesh 2.1.0",
		Family:   "compiled",
		Version:  "2.1.0",
		Label:    "SKERRY MESH",
		File:     "skerry-0219.bin",
		KiB:      203,
		Features: map[string]string{"full mesh levelling": "yes", "contact probe": "no", "arc moves": "no"},
	},
	{Name: "Skerry plain 2.0.8", Family: "compiled", Version: "2.0.8", Label: "SKERRY", File: "skerry-0408.bin", KiB: 186,
		Features: map[string]string{
			"full mesh levelling": "no",
			"contact probe":       "no",
		}, Note: "Taken back to in April: the mesh build lost its offsets."},
	{
		Name:        "Tern mainboard 0.12.6",
		Family:      "hosted",
		Version:     "0.12.6",
		HostVersion: "0.12.6",
		Features:    map[string]string{},
	},
	{
		Name:    "Skerry with filament change 2.1.3",
		Family:  "compiled",
		Version: "2.1.3",
		// Mixed: the example was taken from the version before.
		ConfigVersion: "2.1.0",
		Label:         "SKERRY 1104",
		File:          "skerry-1104.bin",
		KiB:           214,
		Features:      map[string]string{"filament change": "yes"},
		Note:          "Made, not tried yet.",
	},
}

// makeBuilds records the room's own builds.
func (w *writer) makeBuilds() {
	for _, b := range builds {
		if w.err != nil {
			return
		}
		id, err := w.a.AddBuild(w.ctx, b, technician, day("2025-12-01"))
		w.do(err)
		w.buildIDs[b.Name] = id
	}
}

// flash flashes what a machine ran, in its order. What the flash made invalid is entered
// or proven again on the same day.
func (w *writer) flash(id int64, u unit) {
	for _, f := range flashes[u.name] {
		if w.err != nil {
			return
		}
		at := day(f.day)
		w.do(
			w.a.StartRun(
				w.ctx,
				id,
				app.NewRun{
					Board:   "mainboard",
					BuildID: w.buildIDs[f.build],
					From:    at,
					Grade:   machine.Observed,
					How:     "information screen after flashing",
					MadeFor: true,
				},
				technician,
				at,
			),
		)
		if w.err != nil {
			return
		}
		m, err := w.s.Machine(w.ctx, id)
		w.do(err)
		for _, st := range calibration.States(m.Facts, m.Records) {
			switch {
			case st.Invalid == nil || w.err != nil:
			case st.Invalid.Remedy == calibration.EnterAgain:
				w.one(
					id,
					st.Calibration.Kind,
					st.Subject,
					change.Data{Value: st.Record.Value, Store: st.Record.Store, Sure: true},
					at.Add(time.Hour),
				)
			case st.Calibration.Kind == calibration.Direction:
				w.one(id, st.Calibration.Kind, st.Subject, change.Data{}, at.Add(time.Hour))
			}
		}
	}
}

// parts are bought, moved, found to be something else, and scrapped.
func (w *writer) parts() {
	probe := w.part(
		"probe",
		"Sounder inductive",
		store.PartFields{
			Tag:      "NL-0031",
			Supplier: "Dockside Supply",
			Price:    price(32),
			BoughtOn: "2025-11-03",
			Shelf:    "drawer 4",
		},
		"2025-11-05",
	)
	w.move(
		probe,
		change.Move{
			To:        "machine",
			MachineID: w.ids["Lapwing"],
			Slot:      "probe",
			Why:       "the old one's cable broke",
			Replaces:  true,
		},
		"2025-11-20",
	)
	w.move(
		probe,
		change.Move{
			To:        "machine",
			MachineID: w.ids["Osprey"],
			Slot:      "probe",
			Why:       "swapped over to see whether the fault goes with it",
			Replaces:  true,
		},
		"2026-05-18",
	)

	board := w.part(
		"mainboard",
		"Brace board",
		store.PartFields{
			Tag:      "NL-0044",
			Serial:   "BB-20931",
			Supplier: "Quick Parcel Parts",
			Price:    price(39),
			BoughtOn: "2026-01-12",
			Shelf:    "drawer 1",
		},
		"2026-01-15",
	)
	spare := w.part(
		"mainboard",
		"Brace board",
		store.PartFields{
			Tag:      "NL-0045",
			Serial:   "BB-20977",
			Supplier: "Quick Parcel Parts",
			Price:    price(39),
			BoughtOn: "2026-01-12",
			Shelf:    "drawer 1",
		},
		"2026-01-15",
	)
	w.move(
		board,
		change.Move{
			To:        "machine",
			MachineID: w.ids["Heron"],
			Slot:      "mainboard",
			Why:       "the old board lost its USB",
			Replaces:  true,
		},
		"2026-01-22",
	)
	w.readings(
		w.ids["Heron"],
		map[string]string{"mainboard.flash": "512 KB", "mainboard.chip-maker": "first source", "mainboard.bootloader": "yes"},
		machine.Claimed,
		"seller's page",
		technician,
		day("2026-01-22"),
	)
	w.readings(
		w.ids["Heron"],
		map[string]string{
			"mainboard.processor":  "RCT6",
			"mainboard.chip-maker": "pin-compatible twin",
			"mainboard.probe-port": "no",
		},
		machine.Observed,
		"lens, ribbon aside",
		technician,
		day("2026-01-23"),
	)
	w.readings(
		w.ids["Heron"],
		map[string]string{"mainboard.bootloader": "no"},
		machine.Proven,
		"upload failed, board silent",
		technician,
		day("2026-01-24"),
	)
	w.move(spare, change.Move{To: "shelf", Shelf: "drawer 1, not trusted", Why: "same seller as NL-0044"}, "2026-01-25")

	motor := w.part(
		"motor",
		"Bollard 42",
		store.PartFields{Tag: "NL-0052", Supplier: "Dockside Supply", Price: price(14.5), BoughtOn: "2026-02-02"},
		"2026-02-04",
	)
	w.move(
		motor,
		change.Move{To: "machine", MachineID: w.ids["Redshank"], Slot: "motor-e", Why: "the old one ran hot", Replaces: true},
		"2026-02-09",
	)
	fan := w.part(
		"fan-duct",
		"Breeze 50",
		store.PartFields{Tag: "NL-0060", Supplier: "Kelp & Sons", Price: price(6.2), BoughtOn: "2026-03-01"},
		"2026-03-02",
	)
	w.move(
		fan,
		change.Move{To: "machine", MachineID: w.ids["Curlew"], Slot: "fan-duct", Why: "bearing noise", Replaces: true},
		"2026-03-04",
	)
	w.move(fan, change.Move{To: "scrap", Why: "blade broken"}, "2026-08-11")
	w.part(
		"nozzle",
		"plain nozzle",
		store.PartFields{Supplier: "Kelp & Sons", Price: price(3), BoughtOn: "2026-09-01", Shelf: "tin by the door"},
		"2026-09-02",
	)
}

func price(p float64) *float64 { return &p }

func (w *writer) part(kind, model string, f store.PartFields, on string) int64 {
	if w.err != nil {
		return 0
	}
	id, err := w.a.AddPart(w.ctx, kind, model, f, technician, day(on))
	w.do(err)
	return id
}

func (w *writer) move(id int64, m change.Move, on string) {
	if w.err == nil {
		p, err := w.s.Part(w.ctx, id)
		w.do(err)
		if at := p.Now(); at != nil {
			m.From = change.Origin{MachineID: at.MachineID, Slot: at.Slot}
		}
		w.do(w.a.MovePart(w.ctx, id, m, technician, day(on)))
	}
}

// drive is what pushes the filament on three machines: one whose parts and
// number agree, one whose do not, and one read with chip and all.
func (w *writer) drive() {
	at := day("2026-06-03")
	w.readings(
		w.ids["Jackdaw"],
		map[string]string{
			"motor-e.step-angle":     "1.8",
			"driver-e.microsteps":    "16",
			"extruder.gear-diameter": "7.35",
			"extruder.steps":         "415",
		},
		machine.Observed,
		"measured",
		technician,
		at,
	)
	w.readings(
		w.ids["Redshank"],
		map[string]string{"motor-e.step-angle": "1.8", "driver-e.microsteps": "16", "extruder.gear-diameter": "7.35"},
		machine.Observed,
		"looked",
		technician,
		at,
	)
	w.readings(
		w.ids["Redshank"],
		map[string]string{"extruder.steps": "828"},
		machine.Proven,
		"asked 100 mm, measured",
		technician,
		at,
	)
	w.readings(
		w.ids["Avocet"],
		map[string]string{"driver-x.marking": "SH90 LA", "driver-x.microsteps": "16"},
		machine.Observed,
		"heat sink off",
		technician,
		at,
	)
	w.readings(
		w.ids["Avocet"],
		map[string]string{"mainboard.shield-letter": "C"},
		machine.Marked,
		"pen on the shield",
		technician,
		at,
	)
}

//go:embed pictures
var pictures embed.FS

// photographs lie beside the readings that are doubted most.
func (w *writer) photographs() {
	for name, file := range map[string]string{"Ibis": "ibis-processor", "Heron": "heron-processor"} {
		if w.err != nil {
			return
		}
		jpeg, err := pictures.ReadFile("pictures/" + file + ".jpg")
		w.do(err)
		m, err := w.s.Machine(w.ctx, w.ids[name])
		w.do(err)
		for _, r := range m.Readings {
			if r.Key == "mainboard.processor" && r.Grade == machine.Observed {
				k, err := picture.Take(jpeg)
				w.do(err)
				_, err = w.a.AddPhoto(w.ctx, store.PhotoOf{Reading: r.ID}, k, technician, r.TakenAt)
				w.do(err)
			}
		}
	}
}

// wires is the wire sheet of a tool-changing machine and of its second head.
func (w *writer) wires() {
	head := func(volts, watts float64, far string) wiring.Loom {
		return wiring.Loom{Wires: []wiring.Wire{
			{
				Connector:   "heavy contacts",
				Way:         1,
				Carries:     "heater",
				ColourBoard: "red",
				ColourFar:   far,
				Label:       "H+",
				ContactAmps: 10,
				AWG:         18,
				Volts:       volts,
				Watts:       watts,
				Metres:      1.1,
			},
			{
				Connector:   "heavy contacts",
				Way:         2,
				Carries:     "heater",
				ColourBoard: "red",
				ColourFar:   far,
				Label:       "H−",
				ContactAmps: 10,
				AWG:         18,
			},
			{
				Connector:   "light contacts",
				Way:         1,
				Carries:     "part fan",
				ColourBoard: "yellow",
				ColourFar:   "yellow",
				Label:       "F+",
				Polarity:    "+",
				ContactAmps: 3,
				AWG:         26,
				Volts:       volts,
				Watts:       4,
			},
			{
				Connector:   "light contacts",
				Way:         2,
				Carries:     "part fan",
				ColourBoard: "black",
				ColourFar:   "blue",
				Label:       "F−",
				Polarity:    "−",
				ContactAmps: 3,
				AWG:         26,
			},
			{
				Connector:   "light contacts",
				Way:         3,
				Carries:     "thermistor",
				ColourBoard: "white",
				ColourFar:   "white",
				ContactAmps: 3,
				AWG:         28,
			},
			{
				Connector:   "light contacts",
				Way:         4,
				Carries:     "thermistor",
				ColourBoard: "white",
				ColourFar:   "white",
				ContactAmps: 3,
				AWG:         28,
			},
		}, Motors: []wiring.Motor{{Name: "Extruder motor", Leads: "1A 2A 1B 2B", Header: "1A 1B 2A 2B"}}}
	}
	id := w.ids["Plover"]
	own := wiring.Loom{Wires: []wiring.Wire{
		{
			Connector:   "bed",
			Way:         1,
			Carries:     "bed heater",
			ColourBoard: "red",
			ColourFar:   "red",
			ContactAmps: 10,
			AWG:         16,
			Volts:       24,
			Watts:       250,
			Metres:      0.9,
		},
		{Connector: "bed", Way: 2, Carries: "bed heater", ColourBoard: "black", ColourFar: "black", ContactAmps: 10, AWG: 16},
		{
			Connector:   "lights",
			Way:         1,
			Carries:     "LED strip",
			ColourBoard: "red",
			ColourFar:   "red",
			Polarity:    "+",
			ContactAmps: 3,
			AWG:         24,
			Volts:       24,
			Watts:       10,
		},
	}, Motors: []wiring.Motor{
		{Name: "Motor X", Leads: "1A 1B 2A 2B", Header: "1A 1B 2A 2B"},
		{Name: "Motor Z2", Leads: "1A 1B 2A 2B", Header: "1A 1B 2A 2B", Reverse: true}}}
	for head, loom := range map[string]wiring.Loom{"": own, "head 1": head(24, 40, "red"),
		"head 2": head(24, 60, "grey")} {
		if w.err == nil {
			w.do(w.a.SaveWireSheet(w.ctx, id, head, 0, loom, technician, day("2026-07-30")))
		}
	}
}

// faults are what people report, and what a technician says a machine may be
// used for meanwhile.
func (w *writer) faults() {
	for _, f := range []struct{ machine, symptom, words, by, on, answer string }{
		{"Turnstone", "ringing", "Ghosts beside every edge since the head was changed, worst on the long axis.", member,
			"2026-11-17", ""},
		{"Heron", "wont-update", "Card in, power on, nothing happens; the screen shows the old version.", technician,
			"2026-11-12", ""},
		{"Kittiwake", "extruder-clicks", "Clicks when it loads, about every second.", member, "2026-11-18", ""},
		{"Curlew", "first-layer-high", "First layer does not stick since the new plate.", member, "2026-06-29",
			"Thinner surface: 1.2 mm instead of 3.8. Offset adjusted."},
		{"Osprey", "probe-blinks", "The probe blinks red after switching on.", member, "2026-05-12",
			"Stood too low at power-up; Z lifted, power cycled."},
		{"Quail", "levels-drift", "Has to be levelled every other day.", member, "2026-02-10",
			"Weak springs at two corners; ordered."},
	} {
		if w.err != nil {
			return
		}
		id, _, err := w.a.ReportFault(w.ctx, w.ids[f.machine], f.symptom, f.words, f.by, day(f.on))
		w.do(err)
		if f.answer != "" && w.err == nil {
			w.do(w.a.CloseFault(w.ctx, id, 1, f.answer, technician, day(f.on).Add(26*time.Hour)))
		}
	}
	for _, u := range []struct {
		machine string
		use     maintenance.Use
		why, on string
	}{
		{"Heron", maintenance.OutOfUse, "no alarm in the protection test, twin board without bootloader", "2026-02-09"},
		{"Redshank", maintenance.Attended, "extruder number does not follow from its parts", "2026-06-03"},
		{"Curlew", maintenance.OutOfUse, "part fan broken", "2026-08-11"},
		{"Curlew", maintenance.InUse, "new fan fitted", "2026-08-13"},
	} {
		if w.err == nil {
			w.do(w.a.SetUse(w.ctx, []int64{w.ids[u.machine]}, u.use, u.why, technician, day(u.on)))
		}
	}
	for i, l := range []struct {
		machine, what string
		minutes       int
	}{{"Heron", "board exchanged", 95}, {"Redshank", "extruder motor exchanged, measured", 70}, {"Plover",
		"wire sheets written", 120}, {"Curlew", "fan exchanged", 25}, {"Turnstone", "belts tensioned", 30}} {
		if w.err == nil {
			w.do(w.a.LogWork(w.ctx, w.ids[l.machine], l.minutes, l.what, technician, day(fmt.Sprintf("2026-07-%02d", 2+3*i))))
		}
	}
}

// questions that Netloft asks again and again.
func (w *writer) questions() {
	for _, q := range []store.SavedQuestion{
		{Name: "Builds in March 2026",
			Question: fleetquery.Question{Columns: []string{"machine.bay", "firmware.version", "firmware.family"},
				From: "2026-03-01", To: "2026-03-31", Where: []fleetquery.Filter{{Of: "firmware.version", Test: fleetquery.Is,
					Value: "2.1.0"}}}},
		{Name: "Chip only claimed", Question: fleetquery.Question{Columns: []string{"mainboard", "mainboard.chip-maker",
			"mainboard.processor", "mainboard.flash"}, Group: "machine.bay",
			Where: []fleetquery.Filter{{Of: "mainboard.chip-maker", Test: fleetquery.Weaker, Value: "observed"}}}},
		{Name: "Claims found false", Question: fleetquery.Question{Columns: []string{"mainboard.flash",
			"mainboard.chip-maker", "supply.watts", "mainboard.bootloader"}, Match: "any", Where: []fleetquery.Filter{
			{Of: "mainboard.flash", Test: fleetquery.Wrong}, {Of: "mainboard.chip-maker",
				Test: fleetquery.Wrong}, {Of: "supply.watts", Test: fleetquery.Wrong},
			{Of: "mainboard.bootloader", Test: fleetquery.Wrong}}}},
	} {
		if w.err == nil {
			_, err := w.a.SaveQuestion(w.ctx, q, lead, Today.AddDate(0, -1, 0))
			w.do(err)
		}
	}
}
