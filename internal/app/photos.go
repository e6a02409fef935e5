package app

import (
	"context"
	"runtime"

	"wardifex/internal/picture"
	"wardifex/internal/store"
)

// largePicture is what a picture needs, in bytes, from which on its memory is given back at
// once.
const largePicture = 32 << 20

// DecodePhoto makes a picture fit to keep with a step of an open order, a reading or a
// fault. Whether that is there is asked first: nothing is decoded for nothing.
func (a *App) DecodePhoto(ctx context.Context, of store.PhotoOf, file []byte) (picture.Kept, error) {
	if err := a.store.MayHavePhoto(ctx, of); err != nil {
		return picture.Kept{}, err
	}
	needs, err := picture.Needs(file)
	if err != nil {
		return picture.Kept{}, store.Refused(err)
	}
	if err := a.pictures.Acquire(ctx, needs); err != nil {
		return picture.Kept{}, err
	}
	defer a.pictures.Release(needs)
	k, err := picture.Take(file)
	if err != nil {
		return picture.Kept{}, store.Refused(err)
	}
	if needs > largePicture {
		runtime.GC() // what it took is free before the next one takes as much
	}
	return k, nil
}
