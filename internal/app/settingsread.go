package app

import (
	"context"
	"fmt"
	"slices"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/dialect"
	"wardifex/internal/core/drift"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
	"wardifex/internal/core/settings"
	"wardifex/internal/store"
)

// SettingsOnRecord is a settings file with what it states.
type SettingsOnRecord struct {
	store.SettingsFile
	Form   dialect.Form        `json:"form" enum:"C header,sections of keys,G-code,"`
	Values int                 `json:"values" doc:"How many values of it are known"`
	Faults []dialect.LineFault `json:"faults" doc:"What could not be read or decided"`
	Twice  []string            `json:"twice" doc:"Values that it sets twice, and not to the same"`
	Called bool                `json:"called" doc:"A script that runs when it is called: its values hold that long"`
	Card   []store.CardPlace   `json:"card" doc:"Of a card: the machines that it was in, newest first"`
	Fault  string              `json:"fault,omitempty" doc:"Why it is not read now"`
}

// MachineSettings are the settings of a machine in all their places, and where they disagree.
type MachineSettings struct {
	Machine string               `json:"machine"`
	Family  string               `json:"family"`
	Card    string               `json:"card,omitempty" doc:"The card that is in it"`
	Files   []SettingsOnRecord   `json:"files"`
	Values  []drift.DriftedValue `json:"values" doc:"Those that two places set to different numbers"`
	// What takes a protection away outranks all else.
	Cautions []settings.Caution `json:"cautions" doc:"What in them takes a protection away"`
}

// settingsRead are settings files as they were read, those of one place together.
type settingsRead struct {
	sources []drift.Source
	faults  []drift.ReadFault
}

func keptFile(f store.SettingsFile, text string) drift.KeptFile {
	return drift.KeptFile{SourceFile: drift.SourceFile{ID: f.ID, Name: f.Name, At: f.TakenAt, By: f.AddedBy}, Text: text}
}

// settingsPlace tells the places apart in which the files of one machine are: its own, those of the card that
// is in, those of the build that runs.
func settingsPlace(f store.SettingsFile) string {
	n := func(id *int64) int64 {
		if id == nil {
			return 0
		}
		return *id
	}
	return fmt.Sprint(f.Place, n(f.Machine), n(f.Part), n(f.Build))
}

// readFiles reads the settings files of one machine.
func (a *App) readFiles(ctx context.Context, words *settings.Words, files []store.SettingsFor) (settingsRead, error) {
	texts, err := a.store.SettingsTexts(ctx, files)
	if err != nil {
		return settingsRead{}, err
	}
	return readTexts(words, files, texts, map[string]settingsRead{}), nil
}

// readTexts reads the settings files of one machine; known are places that were read for another.
func readTexts(words *settings.Words, files []store.SettingsFor, texts map[int64]string,
	known map[string]settingsRead) settingsRead {
	var out settingsRead
	var places []string
	of := map[string][]store.SettingsFor{}
	for _, f := range files {
		at := settingsPlace(f.SettingsFile)
		if of[at] == nil {
			places = append(places, at)
		}
		of[at] = append(of[at], f)
	}
	for _, at := range places {
		read, is := known[at]
		if !is {
			var kept []drift.KeptFile
			for _, f := range of[at] {
				kept = append(kept, keptFile(f.SettingsFile, texts[f.ID]))
			}
			first := of[at][0]
			read.sources, read.faults = drift.Read(words, first.Family, drift.Where(first.Place), kept)
			if first.Machine == nil { // a build runs on several machines
				known[at] = read
			}
		}
		out.sources = append(out.sources, read.sources...)
		out.faults = append(out.faults, read.faults...)
	}
	return out
}

// fileRead is one file, as it was read with those beside it.
type fileRead struct {
	form   dialect.Form
	values []settings.ValueStatement
	traits []settings.TraitStatement
	faults []dialect.LineFault
	twice  []string
	called bool // all that it states is of a script that is called
	fault  error
}

// cautions are what takes a protection away, with the name of the file; never nil.
func (r settingsRead) cautions() []settings.Caution {
	out := []settings.Caution{}
	for _, src := range r.sources {
		for _, c := range src.Stated.Cautions() {
			if c.File == "" {
				c.File = src.Files[0].Name
			}
			out = append(out, c)
		}
	}
	return out
}

// of is what was read of one file.
func (r settingsRead) of(id int64) fileRead {
	var out fileRead
	stands := false
	for _, f := range r.faults {
		if slices.ContainsFunc(f.Files, func(x drift.SourceFile) bool { return x.ID == id }) {
			out.fault = f.Err
		}
	}
	for _, src := range r.sources {
		at := slices.IndexFunc(src.Files, func(x drift.SourceFile) bool { return x.ID == id })
		if at < 0 {
			continue
		}
		d := src.Stated.Document
		out.form = d.Form
		before := len(out.values) + len(out.traits)
		for _, st := range src.Stated.Calibrations {
			if st.File == at {
				out.values = append(out.values, st)
			}
		}
		for _, st := range src.Stated.Traits {
			if st.File == at {
				out.traits = append(out.traits, st)
			}
		}
		if len(out.values)+len(out.traits) > before {
			out.called, stands = out.called || src.Called, stands || !src.Called
		}
		for _, f := range d.Faults {
			if f.File == "" && len(src.Files) == 1 || f.File == src.Files[at].Name {
				f.File = ""
				out.faults = append(out.faults, f)
			}
		}
		if at == 0 && !src.Called {
			out.twice = append(out.twice, src.Stated.SetTwice()...)
		}
	}
	out.called = out.called && !stands
	return out
}

// MachineSettings gives the settings of a machine, and where they disagree.
func (a *App) MachineSettings(ctx context.Context, machineID int64) (MachineSettings, error) {
	m, err := a.store.Machine(ctx, machineID)
	if err != nil {
		return MachineSettings{}, err
	}
	out := MachineSettings{Machine: m.Name, Family: m.Family(), Files: []SettingsOnRecord{}}
	for _, p := range m.Facts.Each(parts.Card) {
		if model := m.Facts.ModelAt(p); model != machine.None {
			out.Card = model
		}
	}
	words, err := a.words(ctx)
	if err != nil {
		return out, err
	}
	files, err := a.store.SettingsFiles(ctx, machineID)
	if err != nil {
		return out, err
	}
	read, err := a.readFiles(ctx, words, files)
	if err != nil {
		return out, err
	}
	out.Cautions = read.cautions()
	for _, f := range files {
		of := read.of(f.ID)
		on := SettingsOnRecord{SettingsFile: f.SettingsFile, Form: of.form, Values: len(of.values) + len(of.traits),
			Faults: append([]dialect.LineFault{}, of.faults...), Twice: append([]string{}, of.twice...),
			Called: of.called, Card: []store.CardPlace{}}
		if of.fault != nil {
			on.Fault = of.fault.Error()
		}
		if f.Part != nil {
			if on.Card, err = a.store.CardPlaces(ctx, *f.Part); err != nil {
				return out, err
			}
		}
		out.Files = append(out.Files, on)
	}
	since, err := a.store.SinceOf(ctx, machineID)
	if err != nil {
		return out, err
	}
	out.Values = drift.Of(m.Facts, m.Records, since, read.sources)
	drift.Sort(out.Values)
	return out, nil
}

// Found are what the settings files of a machine state, for what is shown beside a calibration.
func (a *App) Found(ctx context.Context, m *store.Machine) ([]calibration.Found, error) {
	files, err := a.store.SettingsFiles(ctx, m.ID)
	if err != nil || len(files) == 0 {
		return nil, err
	}
	words, err := a.words(ctx)
	if err != nil {
		return nil, err
	}
	read, err := a.readFiles(ctx, words, files)
	return drift.Found(m.Facts, read.sources), err
}

// driftOf is where the settings of a machine disagree, as far as files are among them.
func (a *App) driftOf(ctx context.Context, m *store.Machine, words *settings.Words) ([]drift.DriftedValue, error) {
	files, err := a.store.SettingsFiles(ctx, m.ID)
	if err != nil || len(files) == 0 {
		return []drift.DriftedValue{}, err
	}
	since, err := a.store.SinceOf(ctx, m.ID)
	if err != nil {
		return nil, err
	}
	read, err := a.readFiles(ctx, words, files)
	return driftIn(m, since, read), err
}

// driftIn is where the settings of a machine disagree that state something; never nil.
func driftIn(m *store.Machine, since calibration.Since, read settingsRead) []drift.DriftedValue {
	out := []drift.DriftedValue{}
	for _, v := range drift.Of(m.Facts, m.Records, since, read.sources) {
		if v.InForce != "" {
			out = append(out, v)
		}
	}
	drift.Sort(out)
	return out
}

// FleetDrift is where the settings of the fleet disagree.
type FleetDrift struct {
	Machines []MachineDrift `json:"machines" doc:"Those with something to settle, what prints wrong first"`
	Read     int            `json:"read"     doc:"Machines of which settings are on record"`
	None     int            `json:"none"     doc:"Machines of which none are"`
}

// MachineDrift is a machine whose settings disagree.
type MachineDrift struct {
	ID       int64                `json:"id"`
	Name     string               `json:"name"`
	Values   []drift.DriftedValue `json:"values"`
	Cautions []settings.Caution   `json:"cautions" doc:"What in its settings takes a protection away"`
}

// FleetDrift gives where the settings of the fleet disagree.
func (a *App) FleetDrift(ctx context.Context) (FleetDrift, error) {
	out := FleetDrift{Machines: []MachineDrift{}}
	fleet, err := a.store.Fleet(ctx)
	if err != nil {
		return out, err
	}
	files, err := a.store.SettingsFiles(ctx, 0)
	if err != nil {
		return out, err
	}
	words, err := a.words(ctx)
	if err != nil {
		return out, err
	}
	since, err := a.store.SinceEach(ctx)
	if err != nil {
		return out, err
	}
	of := map[int64][]store.SettingsFor{}
	for _, f := range files {
		of[f.For] = append(of[f.For], f)
	}
	known := map[string]settingsRead{}
	for some := range slices.Chunk(fleet, machinesAtOnce) {
		var theirs []store.SettingsFor
		for i := range some {
			theirs = append(theirs, of[some[i].ID]...)
		}
		texts, err := a.store.SettingsTexts(ctx, theirs)
		if err != nil {
			return out, err
		}
		for i := range some {
			m := &some[i]
			if len(of[m.ID]) == 0 {
				out.None++
				continue
			}
			out.Read++
			read := readTexts(words, of[m.ID], texts, known)
			values, cautions := driftIn(m, since(m.ID), read), read.cautions()
			if len(values)+len(cautions) > 0 {
				out.Machines = append(out.Machines, MachineDrift{m.ID, m.Name, values, cautions})
			}
		}
	}
	slices.SortStableFunc(out.Machines, func(a, b MachineDrift) int { return len(b.Cautions) - len(a.Cautions) })
	return out, nil
}

// machinesAtOnce is of how many machines the settings are in memory at once.
const machinesAtOnce = 100
