package app

import (
	"context"
	"fmt"
	"time"

	"wardifex/internal/core/wiring"
	"wardifex/internal/store"
)

// SaveWireSheet writes a sheet over the version that its editor saw; version 0 is a new
// one.
func (a *App) SaveWireSheet(ctx context.Context, machineID int64, head string, version int, sheet wiring.Loom,
	by string, now time.Time) error {
	if err := checkTexts([]named{{"head", head}}); err != nil {
		return err
	}
	if _, err := wiring.Check(sheet); err != nil {
		return Refused(err)
	}
	return a.store.InTx(ctx, func(ctx context.Context) error {
		if err := a.store.LockMachine(ctx, machineID); err != nil {
			return err
		}
		sheets, err := a.store.WireSheets(ctx, machineID)
		if err != nil {
			return err
		}
		var here store.WireSheet
		for _, s := range sheets {
			if s.Head == head {
				here = s
			}
		}
		if here.Version != version {
			return &Conflict{
				Sentence: fmt.Sprintf("%s changed this wire sheet meanwhile; what you typed is kept here, open the sheet "+
					"beside it and compare", here.ChangedBy),
				Current: here.Sheet,
			}
		}
		return a.store.WriteWireSheet(ctx, machineID, store.WireSheet{Head: head, Sheet: sheet, Version: version + 1,
			ChangedBy: by, ChangedAt: now})
	})
}
