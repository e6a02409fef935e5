package app

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/fleetquery"
	"wardifex/internal/core/machine"
	"wardifex/internal/store"
)

// PlanCatalogue judges a catalogue file against the catalogue as it is now.
func (a *App) PlanCatalogue(ctx context.Context, file catalogue.File) (catalogue.MergePlan, error) {
	return a.planMerge(ctx, file.Catalogue, file.Kits)
}

func (a *App) planMerge(ctx context.Context, file machine.Catalogue, kits []fit.Kit) (catalogue.MergePlan, error) {
	now, err := a.store.CatalogueNow(ctx)
	if err != nil {
		return catalogue.MergePlan{}, err
	}
	use, err := a.store.Usage(ctx)
	if err != nil {
		return catalogue.MergePlan{}, err
	}
	shop, here, err := a.mentions(ctx)
	if err != nil {
		return catalogue.MergePlan{}, err
	}
	p := catalogue.NewMergePlan(now, file, use, shop...)
	if len(kits) > mostKits {
		p.Faults = append(p.Faults, fmt.Sprintf("a file has at most %d kits", mostKits))
		kits = nil
	}
	p.MergeKits(here, kits)
	err = a.stillAsked(ctx, &p)
	p.Faults = catalogue.FirstFaults(p.Faults)
	return p, err
}

// mostKits is how many kits a file has.
const mostKits = 5000

// mentions are what of the shop may name models of the catalogue, and the kits among it.
func (a *App) mentions(ctx context.Context) (shop []catalogue.Mention, kits []fit.Kit, err error) {
	if kits, err = a.store.Kits(ctx); err != nil {
		return nil, nil, err
	}
	for _, k := range kits {
		shop = append(shop, catalogue.Mention{What: "the kit “" + k.Name + "”", Of: k})
	}
	open, err := a.store.OpenKits(ctx)
	if err != nil {
		return nil, nil, err
	}
	for _, o := range open {
		shop = append(shop, catalogue.Mention{What: fmt.Sprintf("work order %d on %s", o.ID, o.Machine), Of: o.Kit})
	}
	builds, err := a.store.Builds(ctx)
	if err != nil {
		return nil, nil, err
	}
	for _, b := range builds {
		shop = append(shop, catalogue.Mention{What: "the build “" + b.Name + "”", Of: b.Build})
	}
	questions, err := a.store.Questions(ctx)
	if err != nil {
		return nil, nil, err
	}
	for _, q := range questions {
		shop = append(shop, catalogue.Mention{What: "the question “" + q.Name + "”", Of: q.Question})
	}
	for _, t := range a.store.Tasks(ctx) {
		shop = append(shop, catalogue.Mention{What: "the task “" + t.Title + "”", Of: t})
	}
	return shop, kits, nil
}

// stillAsked adds to a plan the saved questions that can be asked now and could not be asked after it.
func (a *App) stillAsked(ctx context.Context, p *catalogue.MergePlan) error {
	after, err := p.Vocabulary()
	if err != nil {
		return nil // what is wrong with it is among its faults
	}
	questions, err := a.store.Questions(ctx)
	if err != nil {
		return err
	}
	for _, q := range questions {
		_, now := fleetquery.Ask(q.Question, nil, a.store.Vocabulary(ctx), time.Time{})
		if _, then := fleetquery.Ask(q.Question, nil, after, time.Time{}); now == nil && then != nil {
			p.Faults = append(p.Faults, fmt.Sprintf("the question “%s” could not be asked any more: %s", q.Name, then))
		}
	}
	return nil
}

// write writes a plan, all or nothing.
func (a *App) write(ctx context.Context, p catalogue.MergePlan, by string, now time.Time) error {
	if len(p.Faults) > 0 {
		return refuse("nothing was changed. %s", strings.Join(p.Faults, "; "))
	}
	return a.store.WriteCatalogue(ctx, p, by, now)
}

// merge writes entries over those of their keys.
func (a *App) merge(ctx context.Context, entries machine.Catalogue, by string, now time.Time) error {
	p, err := a.planMerge(ctx, entries, nil)
	if err != nil {
		return err
	}
	return a.write(ctx, p, by, now)
}

// ImportCatalogue merges a catalogue file in, all or nothing.
func (a *App) ImportCatalogue(ctx context.Context, src store.ImportFile, file catalogue.File, by string,
	now time.Time) (catalogue.MergePlan, error) {
	var p catalogue.MergePlan
	err := a.store.InTx(ctx, func(ctx context.Context) error {
		if err := a.store.LockCatalogue(ctx); err != nil {
			return err
		}
		var err error
		if p, err = a.PlanCatalogue(ctx, file); err != nil {
			return err
		}
		if err := a.write(ctx, p, by, now); err != nil {
			return err
		}
		counts := map[string]int{"added": len(p.Added), "changed": len(p.Changed), "the same": p.Same}
		return a.store.NoteImport(ctx, "catalogue", src, counts, by, now)
	})
	return p, err
}

// SaveEntry adds an entry (version 0) or writes it over the version that its editor saw;
// one carries exactly one kind, slot, inspection or model.
func (a *App) SaveEntry(ctx context.Context, version int, one machine.Catalogue, by string, now time.Time) error {
	entries := catalogue.Entries(one)
	if len(entries) != 1 {
		return refuse("one entry is saved at a time: a kind, a usual position, an inspection or a model")
	}
	for _, m := range one.Models {
		if err := m.CheckTyped(a.store.Vocabulary(ctx)); err != nil {
			return Refused(err)
		}
	}
	return a.store.InTx(ctx, func(ctx context.Context) error {
		if err := a.store.LockCatalogue(ctx); err != nil {
			return err
		}
		if err := a.entryIs(ctx, entries[0].Section, entries[0].Key, version); err != nil {
			return err
		}
		return a.merge(ctx, one, by, now)
	})
}

// RenameModel writes a model under another name over the version that its editor saw. The
// old name stays one of its names, so that everything on record means it still.
func (a *App) RenameModel(ctx context.Context, version int, was string, m machine.Model, by string,
	now time.Time) error {
	before := catalogue.ModelKey(machine.Model{Kind: m.Kind, Name: was})
	return a.store.InTx(ctx, func(ctx context.Context) error {
		if err := a.store.LockCatalogue(ctx); err != nil {
			return err
		}
		if err := a.entryIs(ctx, "model", before, max(version, 1)); err != nil {
			return err
		}
		if err := a.entryIs(ctx, "model", catalogue.ModelKey(m), 0); err != nil {
			return err
		}
		if err := a.store.RemoveEntry(ctx, "model", before); err != nil {
			return err
		}
		if !slices.Contains(m.Aliases, was) {
			m.Aliases = append(slices.Clone(m.Aliases), was)
		}
		return a.merge(ctx, machine.Catalogue{Models: []machine.Model{m}}, by, now)
	})
}

// entryIs checks that an entry is still of the version that its editor saw; 0 is one that
// is not there yet.
func (a *App) entryIs(ctx context.Context, section, key string, version int) error {
	here, err := a.store.Entry(ctx, section, key)
	switch {
	case errors.Is(err, ErrNotFound) && version == 0:
		return nil
	case err != nil:
		return err
	case version == 0:
		return refuse("there is a %s %s already; open it to change it", section, key)
	case here.Version != version:
		return &Conflict{
			Sentence: fmt.Sprintf("%s changed this entry while you were editing; nothing was overwritten. Open it again",
				here.ChangedBy),
			Current: here.Definition,
		}
	}
	return nil
}

// DeleteEntry takes an entry that nothing uses out of the catalogue.
func (a *App) DeleteEntry(ctx context.Context, section, key string, version int) error {
	return a.store.InTx(ctx, func(ctx context.Context) error {
		if err := a.store.LockCatalogue(ctx); err != nil {
			return err
		}
		if err := a.entryIs(ctx, section, key, max(version, 1)); err != nil {
			return err
		}
		before, err := a.store.CatalogueNow(ctx)
		if err != nil {
			return err
		}
		if err := a.store.RemoveEntry(ctx, section, key); err != nil {
			return err
		}
		after, err := a.store.CatalogueNow(ctx)
		if err != nil {
			return err
		}
		use, err := a.store.Usage(ctx)
		if err != nil {
			return err
		}
		shop, kits, err := a.mentions(ctx)
		if err != nil {
			return err
		}
		p := catalogue.Deletion(before, after, use, kits, shop)
		if err := a.stillAsked(ctx, &p); err != nil {
			return err
		}
		return a.write(ctx, p, "", time.Time{})
	})
}
