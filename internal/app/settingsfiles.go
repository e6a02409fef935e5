package app

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/dialect"
	"wardifex/internal/core/drift"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
	"wardifex/internal/core/settings"
	"wardifex/internal/store"
)

// words are those of the program with those of the shop.
func (a *App) words(ctx context.Context) (*settings.Words, error) {
	shop, err := a.store.ShopWords(ctx)
	if err != nil || len(shop) == 0 {
		return settings.Shipped(), err
	}
	own := make([]settings.Word, len(shop))
	for i, w := range shop {
		own[i] = w.Word
	}
	return settings.NewWords(settings.Shipped().List(), own), nil
}

// NewSettings is a text of settings that comes on record.
type NewSettings struct {
	Place drift.Where
	Name  string
	MachineID,
	BuildID int64 // one of the two
	Card     bool // it belongs to the card that is in the machine
	Original string
	TakenAt  time.Time
	Text     []byte
}

// AddSettings masks the secrets of a text of settings, reads it, and keeps it; one of the same name
// and place ends. Nothing is kept of a text that cannot be read.
func (a *App) AddSettings(ctx context.Context, n NewSettings, by string, now time.Time) (int64, error) {
	if err := checkTexts([]named{{"name of the file", n.Name}}); err != nil {
		return 0, err
	}
	if !slices.Contains(drift.Places, n.Place) {
		var places []string
		for _, p := range drift.Places {
			places = append(places, string(p))
		}
		return 0, refuse("settings live in one of: %s", strings.Join(places, ", "))
	}
	if !utf8.Valid(n.Text) {
		return 0, refuse("%s is not UTF-8 text: choose the file of settings, not the built firmware", n.Name)
	}
	text, secrets := settings.Mask(string(n.Text))
	if secrets > 0 && strings.TrimSpace(n.Original) == "" {
		return 0, refuse("%s holds %s, which would be masked: say where the file is kept that holds them, as the way "+
			"back needs it",
			n.Name, plural(secrets, "secret"))
	}
	var id int64
	err := a.store.InTx(ctx, func(ctx context.Context) error {
		f := store.SettingsFile{Place: string(n.Place), Name: n.Name, Secrets: secrets,
			Original: strings.TrimSpace(n.Original),
			TakenAt:  n.TakenAt, AddedBy: by, AddedAt: now}
		if n.TakenAt.IsZero() {
			f.TakenAt = now
		}
		if err := a.ownerOf(ctx, n, &f); err != nil {
			return err
		}
		words, err := a.words(ctx)
		if err != nil {
			return err
		}
		if _, err := words.Read(f.Family, text); err != nil {
			return refuse("%s: %v", n.Name, err)
		}
		id, err = a.store.AddSettingsFile(ctx, f, text)
		return err
	})
	return id, err
}

// ownerOf says whose settings they are, and of which family.
func (a *App) ownerOf(ctx context.Context, n NewSettings, f *store.SettingsFile) error {
	if n.BuildID != 0 {
		b, err := a.store.LockBuild(ctx, n.BuildID)
		f.Build, f.Family = &n.BuildID, b.Family
		return err
	}
	m, err := a.store.LockedMachine(ctx, n.MachineID)
	if err != nil {
		return err
	}
	f.Family = m.Family()
	if !n.Card {
		f.Machine = &n.MachineID
		return nil
	}
	fitted, err := a.store.FittedParts(ctx, n.MachineID)
	if err != nil {
		return err
	}
	for _, p := range m.Facts.Each(parts.Card) {
		if part := fitted[p.Key]; part != 0 {
			f.Part = &part
			return nil
		}
	}
	return refuse("no card is on record in %s: record on its sheet which card is in, then its settings belong to the card",
		m.Name)
}

func plural(n int, word string) string {
	if n == 1 {
		return "1 " + word
	}
	return fmt.Sprintf("%d %ss", n, word)
}

// SettingsOnRecord is a settings file with what it states.
type SettingsOnRecord struct {
	store.SettingsFile
	Form   dialect.Form        `json:"form" enum:"C header,sections of keys,G-code,"`
	Values int                 `json:"values" doc:"How many values of it are known"`
	Faults []dialect.LineFault `json:"faults" doc:"What could not be read or decided"`
	Twice  []string            `json:"twice" doc:"Values that it sets twice, and not to the same"`
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
}

// read reads a settings file that is kept.
func (a *App) readSettings(ctx context.Context, w *settings.Words, f store.SettingsFile) (*settings.Stated, error) {
	text, err := a.store.SettingsText(ctx, f)
	if err != nil {
		return nil, err
	}
	stated, err := w.Read(f.Family, text)
	if err != nil {
		return nil, Refused(err)
	}
	return stated, nil
}

func sourceOf(f store.SettingsFile, stated *settings.Stated) drift.Source {
	return drift.Source{File: f.ID, Name: f.Name, Where: drift.Where(f.Place), At: f.TakenAt, By: f.AddedBy,
		Stated: stated}
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
	var sources []drift.Source
	for _, f := range files {
		on := SettingsOnRecord{SettingsFile: f.SettingsFile, Faults: []dialect.LineFault{}, Twice: []string{},
			Card: []store.CardPlace{}}
		stated, err := a.readSettings(ctx, words, f.SettingsFile)
		if err != nil {
			on.Fault = err.Error()
		} else {
			on.Form, on.Values = stated.Document.Form, len(stated.Calibrations)+len(stated.Traits)
			on.Faults = append(on.Faults, stated.Document.Faults...)
			on.Twice = append(on.Twice, stated.SetTwice()...)
			sources = append(sources, sourceOf(f.SettingsFile, stated))
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
	out.Values = drift.Of(m.Facts, m.Records, since, sources)
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
	return drift.Found(m.Facts, a.sourcesOf(ctx, words, files)), nil
}

// driftOf is where the settings of a machine disagree, as far as files are among them.
func (a *App) driftOf(ctx context.Context, m *store.Machine, words *settings.Words) ([]drift.DriftedValue, error) {
	out := []drift.DriftedValue{}
	files, err := a.store.SettingsFiles(ctx, m.ID)
	if err != nil || len(files) == 0 {
		return out, err
	}
	since, err := a.store.SinceOf(ctx, m.ID)
	if err != nil {
		return out, err
	}
	for _, v := range drift.Of(m.Facts, m.Records, since, a.sourcesOf(ctx, words, files)) {
		if v.InForce != "" {
			out = append(out, v)
		}
	}
	drift.Sort(out)
	return out, nil
}

// sourcesOf are settings files as they are read; those that cannot be are left out.
func (a *App) sourcesOf(ctx context.Context, words *settings.Words, files []store.SettingsFor) []drift.Source {
	var out []drift.Source
	for _, f := range files {
		if stated, err := a.readSettings(ctx, words, f.SettingsFile); err == nil {
			out = append(out, sourceOf(f.SettingsFile, stated))
		}
	}
	return out
}

// SettingsText is a settings file with its text and what it states.
type SettingsText struct {
	store.SettingsFile
	Text   string                    `json:"text" doc:"Its secrets are masked"`
	Form   dialect.Form              `json:"form" enum:"C header,sections of keys,G-code,"`
	States []settings.ValueStatement `json:"states"`
	Traits []settings.TraitStatement `json:"traits"`
	Faults []dialect.LineFault       `json:"faults"`
}

// SettingsFile gives a settings file.
func (a *App) SettingsFile(ctx context.Context, id int64) (SettingsText, error) {
	f, err := a.store.SettingsFile(ctx, id)
	if err != nil {
		return SettingsText{}, err
	}
	out := SettingsText{SettingsFile: f, States: []settings.ValueStatement{}, Traits: []settings.TraitStatement{},
		Faults: []dialect.LineFault{}}
	if out.Text, err = a.store.SettingsText(ctx, f); err != nil {
		return out, err
	}
	words, err := a.words(ctx)
	if err != nil {
		return out, err
	}
	stated, err := words.Read(f.Family, out.Text)
	if err != nil {
		out.Faults = append(out.Faults, dialect.LineFault{Line: 1, Says: err.Error()})
		return out, nil
	}
	out.Form = stated.Document.Form
	out.States = append(out.States, stated.Calibrations...)
	out.Traits = append(out.Traits, stated.Traits...)
	out.Faults = append(out.Faults, stated.Document.Faults...)
	return out, nil
}

// FleetDrift is where the settings of the fleet disagree.
type FleetDrift struct {
	Machines []MachineDrift `json:"machines" doc:"Those with something to settle, what prints wrong first"`
	Read     int            `json:"read"     doc:"Machines of which settings are on record"`
	None     int            `json:"none"     doc:"Machines of which none are"`
}

// MachineDrift is a machine whose settings disagree.
type MachineDrift struct {
	ID     int64                `json:"id"`
	Name   string               `json:"name"`
	Values []drift.DriftedValue `json:"values"`
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
	read := map[int64]*settings.Stated{}
	of := map[int64][]drift.Source{}
	for _, f := range files {
		stated, known := read[f.ID]
		if !known {
			if stated, err = a.readSettings(ctx, words, f.SettingsFile); err != nil {
				stated = nil
			}
			read[f.ID] = stated
		}
		if stated != nil {
			of[f.For] = append(of[f.For], sourceOf(f.SettingsFile, stated))
		}
	}
	for i := range fleet {
		m := &fleet[i]
		if len(of[m.ID]) == 0 {
			out.None++
			continue
		}
		out.Read++
		since, err := a.store.SinceOf(ctx, m.ID)
		if err != nil {
			return out, err
		}
		var values []drift.DriftedValue
		for _, v := range drift.Of(m.Facts, m.Records, since, of[m.ID]) {
			if v.InForce != "" {
				values = append(values, v)
			}
		}
		if len(values) > 0 {
			drift.Sort(values)
			out.Machines = append(out.Machines, MachineDrift{m.ID, m.Name, values})
		}
	}
	return out, nil
}

// EndSettings says that a settings file counts no more.
func (a *App) EndSettings(ctx context.Context, id int64, now time.Time) error {
	return a.store.InTx(ctx, func(ctx context.Context) error { return a.store.EndSettingsFile(ctx, id, now) })
}

// SaveWord writes a word of the shop.
func (a *App) SaveWord(ctx context.Context, w settings.Word, by string, now time.Time) error {
	if err := w.Check(a.store.Vocabulary()); err != nil {
		return Refused(err)
	}
	return a.store.InTx(ctx, func(ctx context.Context) error { return a.store.SaveShopWord(ctx, w, by, now) })
}

// DropWord takes a word of the shop away: that of the program, where there is one, counts again.
func (a *App) DropWord(ctx context.Context, id int64) error {
	return a.store.InTx(ctx, func(ctx context.Context) error { return a.store.DropShopWord(ctx, id) })
}

// ShopWords lists the words of the shop.
func (a *App) ShopWords(ctx context.Context) ([]store.ShopWord, error) { return a.store.ShopWords(ctx) }
