package app

import (
	"context"
	"time"

	"wardifex/internal/core/change"
	"wardifex/internal/store"
)

// PutLock puts somebody's own lock on the machine of an open order.
func (a *App) PutLock(ctx context.Context, order int64, by string, now time.Time) error {
	return a.store.InTx(ctx, func(ctx context.Context) error {
		if err := a.lockOpen(ctx, order); err != nil {
			return err
		}
		return a.store.PutLock(ctx, order, person(ctx, by), now)
	})
}

// TakeLock takes a lock off the machine of an order: one's own, or as a lead another's, with a
// reason and after reaching its holder.
func (a *App) TakeLock(ctx context.Context, order, lock int64, lead, contacted bool, why, by string,
	now time.Time) error {
	return a.store.InTx(ctx, func(ctx context.Context) error {
		if err := a.lockOpen(ctx, order); err != nil {
			return err
		}
		locks, err := a.store.Locks(ctx, order)
		if err != nil {
			return err
		}
		for _, l := range locks {
			if l.ID != lock {
				continue
			}
			if err := l.MayTakeOff(person(ctx, by), lead, contacted, why); err != nil {
				return Refused(err)
			}
			return a.store.TakeLockOff(ctx, lock, by, why, now)
		}
		return ErrNotFound
	})
}

// Park leaves the work of an open order for a while: whoever leaves takes their own lock off,
// and the machine stays locked out.
func (a *App) Park(ctx context.Context, order int64, p change.Parked, by string, now time.Time) error {
	if err := p.Check(); err != nil {
		return Refused(err)
	}
	return a.store.InTx(ctx, func(ctx context.Context) error {
		if err := a.lockOpen(ctx, order); err != nil {
			return err
		}
		if err := a.takeOwnLockOff(ctx, order, by, now); err != nil {
			return err
		}
		return a.store.Park(ctx, order, &p, by, now)
	})
}

// Resume goes on with parked work.
func (a *App) Resume(ctx context.Context, order int64, by string, now time.Time) error {
	return a.store.InTx(ctx, func(ctx context.Context) error {
		if err := a.lockOpen(ctx, order); err != nil {
			return err
		}
		return a.store.Park(ctx, order, nil, by, now)
	})
}

// notParked refuses work on an order that is parked. It adds no lock: a lock is a person's act at the machine, which
// PutLock alone records.
func notParked(o order) error {
	if o.Parked == nil {
		return nil
	}
	return refuse("this work is parked since %s by %s: resume it first, and read what is loose",
		o.Parked.At.Format("2 Jan 2006"), o.Parked.By)
}

// unlock takes the lock of whoever closes an order off; nobody closes it over another's.
func (a *App) unlock(ctx context.Context, o order, by string, now time.Time) error {
	if err := change.MayUnlock(o.Locks, person(ctx, by)); err != nil {
		return Refused(err)
	}
	return a.takeOwnLockOff(ctx, o.ID, by, now)
}

// takeOwnLockOff takes the lock of whoever does it off an order's machine, if it is on.
func (a *App) takeOwnLockOff(ctx context.Context, order int64, by string, now time.Time) error {
	locks, err := a.store.Locks(ctx, order)
	if err != nil {
		return err
	}
	for _, l := range locks {
		if l.On() && l.HeldBy(person(ctx, by)) {
			return a.store.TakeLockOff(ctx, l.ID, by, "", now)
		}
	}
	return nil
}

// person is who does it: the account of the context, as shown.
func person(ctx context.Context, name string) change.Person {
	return change.Person{Account: store.AccountOf(ctx), Name: name}
}
