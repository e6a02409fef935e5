package app

import (
	"context"
	"errors"
	"slices"
	"strings"
	"time"

	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/recordfile"
	"wardifex/internal/store"
)

// PlanRecord judges a record file against what is on record now.
func (a *App) PlanRecord(ctx context.Context, f recordfile.File, now time.Time) (recordfile.ImportPlan, error) {
	p, _, err := a.planRecord(ctx, f, now)
	return p, err
}

func (a *App) planRecord(ctx context.Context, f recordfile.File, now time.Time) (recordfile.ImportPlan,
	catalogue.MergePlan,
	error) {
	merged, err := a.planMerge(ctx, f.Catalogue, f.Kits)
	if err != nil {
		return recordfile.ImportPlan{}, merged, err
	}
	on, err := a.store.OnRecord(ctx, f.Builds)
	if err != nil {
		return recordfile.ImportPlan{}, merged, err
	}
	p, err := recordfile.NewImportPlan(f, on, merged, now)
	return p, merged, err
}

// ImportRecord writes a record file, all or nothing. Names in it are kept as written and
// make no accounts; who imported it is on record apart.
func (a *App) ImportRecord(ctx context.Context, src store.ImportFile, f recordfile.File, by string, now time.Time) (
	recordfile.ImportPlan, error) {
	var p recordfile.ImportPlan
	err := a.store.InTx(ctx, func(ctx context.Context) error {
		if err := a.store.LockRecord(ctx); err != nil {
			return err
		}
		if err := a.store.LockCatalogue(ctx); err != nil {
			return err
		}
		if err := a.disown(ctx, &f, by); err != nil {
			return err
		}
		var merged catalogue.MergePlan
		var err error
		if p, merged, err = a.planRecord(ctx, f, now); err != nil {
			return err
		}
		if len(p.Faults) > 0 {
			return refuse("nothing was imported. %s", strings.Join(p.Faults, "; "))
		}
		for _, b := range f.Builds {
			if err := b.Check(a.store.Vocabulary(ctx)); err != nil {
				return Refused(err)
			}
		}
		if len(merged.Added)+len(merged.Changed) > 0 {
			if err := a.write(ctx, merged, by, now); err != nil {
				return err
			}
		}
		if err := a.store.WriteRecord(ctx, f); err != nil {
			return badPicture(err)
		}
		counts := map[string]int{"machines": len(p.Machines), "parts": p.Parts, "readings": p.Readings}
		return a.store.NoteImport(ctx, "record", src, counts, by, now)
	})
	return p, err
}

func badPicture(err error) error {
	var bad *store.BadPicture
	if errors.As(err, &bad) {
		return Refused(bad)
	}
	return err
}

// disown marks names in a file that are shown for accounts here: what a file says that
// somebody did is not what that person's account did. The importer's own stay.
func (a *App) disown(ctx context.Context, f *recordfile.File, by string) error {
	accounts, err := a.store.AccountNames(ctx)
	if err != nil {
		return err
	}
	f.RenamePeople(func(name string) string {
		if name != by && slices.Contains(accounts, name) {
			return name + " (as written in the file)"
		}
		return name
	})
	return nil
}
