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

// AddPhoto keeps a picture with a step of an open order, a reading or a fault. Whether
// that is there is asked first: nothing is decoded for nothing.
func (a *App) AddPhoto(ctx context.Context, of store.PhotoOf, file []byte, by string) (int64, error) {
	if err := a.store.MayHavePhoto(ctx, of); err != nil {
		return 0, err
	}
	needs, err := picture.Needs(file)
	if err != nil {
		return 0, store.Refused(err)
	}
	if err := a.pictures.Acquire(ctx, needs); err != nil {
		return 0, err
	}
	k, err := picture.Take(file)
	if needs > largePicture {
		runtime.GC() // what it took is free before the next one takes as much
	}
	a.pictures.Release(needs)
	if err != nil {
		return 0, store.Refused(err)
	}
	return a.store.AddPhoto(ctx, of, k, by, a.now())
}
