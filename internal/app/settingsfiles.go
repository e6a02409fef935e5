package app

import (
	"context"
	"fmt"
	"reflect"
	"slices"
	"strings"
	"sync"
	"time"
	"unicode/utf8"

	"wardifex/internal/core/dialect"
	"wardifex/internal/core/drift"
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
	a.shopWords.mu.Lock()
	defer a.shopWords.mu.Unlock()
	if a.shopWords.all == nil || !reflect.DeepEqual(own, a.shopWords.own) {
		a.shopWords.own, a.shopWords.all = own, settings.NewWords(settings.Shipped().List(), own)
	}
	return a.shopWords.all, nil
}

// shopWords are the words of settings with the shop's own as they were last: the same as long as nobody changes one.
type shopWords struct {
	mu  sync.Mutex
	own []settings.Word
	all *settings.Words
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
		return 0, refuse("the file %s is not UTF-8 text: choose the file of settings, not the built firmware", n.Name)
	}
	text, secrets := settings.Mask(string(n.Text))
	if secrets > 0 && strings.TrimSpace(n.Original) == "" {
		return 0, refuse("the file %s holds %s, which would be masked: say where the file is kept that holds them, as the "+
			"way back needs it", n.Name, plural(secrets, "secret"))
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
			return refuse("the file %s: %v", n.Name, err)
		}
		if err := a.readBeside(ctx, words, f, text); err != nil {
			return err
		}
		id, err = a.store.AddSettingsFile(ctx, f, text)
		return err
	})
	return id, err
}

// readBeside reads a text with the others of its place, as one configuration.
func (a *App) readBeside(ctx context.Context, words *settings.Words, f store.SettingsFile, text string) error {
	files, err := a.store.SettingsBeside(ctx, f)
	if err != nil {
		return err
	}
	files = slices.DeleteFunc(files, func(x store.SettingsFor) bool { return strings.EqualFold(x.Name, f.Name) })
	texts, err := a.store.SettingsTexts(ctx, files)
	if err != nil {
		return err
	}
	kept := []drift.KeptFile{{SourceFile: drift.SourceFile{Name: f.Name}, Text: text}}
	for _, x := range files {
		kept = append(kept, keptFile(x.SettingsFile, texts[x.ID]))
	}
	if _, faults := drift.Read(words, f.Family, drift.Where(f.Place), kept); len(faults) > 0 {
		return refuse("with the other files of its place: %v", faults[0].Err)
	}
	return nil
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
	files, err := a.store.SettingsBeside(ctx, f)
	if err != nil {
		return out, err
	}
	read, err := a.readFiles(ctx, words, files)
	if err != nil {
		return out, err
	}
	of := read.of(id)
	if of.fault != nil {
		out.Faults = append(out.Faults, dialect.LineFault{Line: 1, Says: of.fault.Error()})
		return out, nil
	}
	out.Form = of.form
	out.States = append(out.States, of.values...)
	out.Traits = append(out.Traits, of.traits...)
	out.Faults = append(out.Faults, of.faults...)
	return out, nil
}

// KeepSettings undoes EndSettings.
func (a *App) KeepSettings(ctx context.Context, id int64) error {
	return a.store.InTx(ctx, func(ctx context.Context) error { return a.store.KeepSettingsFile(ctx, id) })
}

// EndSettings says that a settings file counts no more.
func (a *App) EndSettings(ctx context.Context, id int64, now time.Time) error {
	return a.store.InTx(ctx, func(ctx context.Context) error { return a.store.EndSettingsFile(ctx, id, now) })
}

// SaveWord writes a word of the shop.
func (a *App) SaveWord(ctx context.Context, w settings.Word, by string, now time.Time) error {
	if err := w.Check(a.store.Vocabulary(ctx)); err != nil {
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
