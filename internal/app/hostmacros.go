package app

import (
	"context"
	"fmt"
	"sync"

	"wardifex/internal/core/dialect"
	"wardifex/internal/core/drift"
	"wardifex/internal/core/parts"
	"wardifex/internal/core/settings"
	"wardifex/internal/store"
)

// hostMacros remembers the macros of host configurations, and the scripts of G-code, by the files of which they
// are: a settings file that is kept never changes.
type hostMacros struct {
	mu sync.Mutex
	by map[string]*settings.Macros
}

// mostHostMacros is of how many configurations macros are remembered.
const mostHostMacros = 2000

// macros are those of the host configuration of a machine, or the scripts on its card; of every machine where it
// is 0.
func (a *App) macros(ctx context.Context, machineID int64) (map[int64]*settings.Macros, error) {
	files, err := a.store.SettingsFiles(ctx, machineID)
	if err != nil {
		return nil, err
	}
	of := map[int64][]store.SettingsFor{}
	for _, f := range files {
		scripts := f.Family == parts.Scripted &&
			(f.Place == string(drift.StoredSettings) || f.Place == string(drift.CardFile))
		if scripts || f.Place == string(drift.HostConfiguration) {
			of[f.For] = append(of[f.For], f)
		}
	}
	out := map[int64]*settings.Macros{}
	for id, list := range of {
		if out[id], err = a.macrosIn(ctx, list); err != nil {
			return nil, err
		}
	}
	return out, nil
}

func (a *App) macrosIn(ctx context.Context, files []store.SettingsFor) (*settings.Macros, error) {
	key := ""
	for _, f := range files {
		key += fmt.Sprint(f.ID, " ")
	}
	a.hostMacros.mu.Lock()
	m, known := a.hostMacros.by[key]
	a.hostMacros.mu.Unlock()
	if known {
		return m, nil
	}
	texts, err := a.store.SettingsTexts(ctx, files)
	if err != nil {
		return nil, err
	}
	var documents []*dialect.Document
	for _, src := range readTexts(settings.Shipped(), files, texts, map[string]settingsRead{}).sources {
		documents = append(documents, src.Stated.Document)
	}
	m = settings.MacrosOf(documents...)
	a.hostMacros.mu.Lock()
	defer a.hostMacros.mu.Unlock()
	if a.hostMacros.by == nil || len(a.hostMacros.by) >= mostHostMacros {
		a.hostMacros.by = map[string]*settings.Macros{}
	}
	a.hostMacros.by[key] = m
	return m, nil
}
