package app

import (
	"context"
	"runtime"
	"time"

	"wardifex/internal/picture"
	"wardifex/internal/store"
)

// largePicture is what a picture needs, in bytes, from which on its memory is given back at
// once.
const largePicture = 32 << 20

// DecodePhoto makes a picture fit to keep with a step of an open order, a reading, a
// fault or something that came. Whether that is there is asked first: nothing is decoded for nothing.
func (a *App) DecodePhoto(ctx context.Context, of store.PhotoOf, file []byte) (picture.Kept, error) {
	if err := a.mayHavePhoto(ctx, of); err != nil {
		return picture.Kept{}, err
	}
	needs, err := picture.Needs(file)
	if err != nil {
		return picture.Kept{}, Refused(err)
	}
	if err := a.pictures.Acquire(ctx, needs); err != nil {
		return picture.Kept{}, err
	}
	defer a.pictures.Release(needs)
	k, err := picture.Take(file)
	if err != nil {
		return picture.Kept{}, Refused(err)
	}
	if needs > largePicture {
		runtime.GC() // what it took is free before the next one takes as much
	}
	return k, nil
}

// mayHavePhoto reports whether there is what a picture would belong to: a step of an open
// order, a reading, a fault, something that came. In a transaction it holds that until its end.
func (a *App) mayHavePhoto(ctx context.Context, of store.PhotoOf) error {
	var is bool
	var err error
	switch {
	case of.Reading != 0:
		is, err = a.store.HasReading(ctx, of.Reading)
	case of.Fault != 0:
		is, err = a.store.HasFault(ctx, of.Fault)
	case of.Arrival != 0:
		is, err = a.store.HasArrival(ctx, of.Arrival)
	default:
		if err := a.lockOpen(ctx, of.Order); err != nil {
			return err
		}
		is, err = a.store.HasStep(ctx, of.Order, of.Step)
	}
	if err == nil && !is {
		err = ErrNotFound
	}
	return err
}

// AddPhoto keeps a picture with what it belongs to, and gives its number.
func (a *App) AddPhoto(ctx context.Context, of store.PhotoOf, k picture.Kept, by string, now time.Time) (int64, error) {
	var id int64
	err := a.store.InTx(ctx, func(ctx context.Context) error {
		if err := a.mayHavePhoto(ctx, of); err != nil {
			return err
		}
		var err error
		id, err = a.store.AddPhoto(ctx, of, k, by, now)
		return err
	})
	return id, err
}
