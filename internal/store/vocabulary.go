package store

import (
	"context"
	"errors"
	"fmt"
	"sync/atomic"
	"time"

	"gorm.io/gorm"

	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/civil"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/maintenance"
	"wardifex/internal/core/parts"
)

// current is what is read with one version of the catalogue: the vocabulary, the tasks, the shop's time.
type current struct {
	version  int64
	voc      *machine.Vocabulary
	off      []string // rules that the catalogue switches off, and why
	location *time.Location
	tasks    []maintenance.Task
}

// ErrOutdated reports that the catalogue changed while something was worked out from an earlier version of it.
// Doing the same again from the start succeeds.
var ErrOutdated = errors.New("the catalogue changed meanwhile")

type pinKey struct{}

// pin is the version of the catalogue that one request works with from beginning to end.
type pin struct {
	store *Store
	is    atomic.Pointer[current]
}

// Pin returns a context in which the vocabulary and the tasks are those of the catalogue as it is committed now,
// whatever others save meanwhile. Only a transaction begun with the context moves it: to what it committed.
func (s *Store) Pin(ctx context.Context) (context.Context, error) {
	now, err := s.newest(ctx)
	if err != nil {
		return ctx, err
	}
	p := &pin{store: s}
	p.is.Store(now)
	return context.WithValue(ctx, pinKey{}, p), nil
}

// mostPins is how often something is begun anew because the catalogue changed while it was worked out.
const mostPins = 8

// Pinned does something that reads from one version of the catalogue, whatever others save meanwhile. What turns
// out to have begun from an outdated one is done again from the start, so do begins anew at each call.
func (s *Store) Pinned(ctx context.Context, do func(ctx context.Context) error) error {
	for try := 1; ; try++ {
		pinned, err := s.Pin(ctx)
		if err != nil {
			return err
		}
		if err = do(pinned); try == mostPins || !errors.Is(err, ErrOutdated) {
			return err
		}
	}
}

// Refresh publishes the catalogue as it is committed now. It costs one small query when nothing changed.
func (s *Store) Refresh(ctx context.Context) error {
	_, err := s.newest(ctx)
	return err
}

// CheckPin returns ErrOutdated when the catalogue is no longer of the version that the context works with.
func (s *Store) CheckPin(ctx context.Context) error {
	is := s.current(ctx).version
	if is < 0 {
		return nil // the shipped one, before the database was read
	}
	version, err := catalogueVersion(s.from(ctx))
	if err == nil && version != is {
		err = ErrOutdated
	}
	return err
}

// current is what the context works with: its transaction's own catalogue, the pinned one, or the published one.
func (s *Store) current(ctx context.Context) *current {
	if t, ok := ctx.Value(txKey{}).(transaction); ok && t.store == s {
		if own := t.own.Load(); own != nil {
			return own
		}
	}
	if p, ok := ctx.Value(pinKey{}).(*pin); ok && p.store == s {
		return p.is.Load()
	}
	return s.published.Load()
}

// Vocabulary is what the record is written in, as the context works with it. It never changes in the caller's
// hands: an edited catalogue makes another.
func (s *Store) Vocabulary(ctx context.Context) *machine.Vocabulary { return s.current(ctx).voc }

// vocabularyOf is the vocabulary of the context that a database session is used with.
func (s *Store) vocabularyOf(tx *gorm.DB) *machine.Vocabulary {
	return s.Vocabulary(tx.Statement.Context)
}

// RulesOff lists the rules that the catalogue switches off, with the reason of each.
func (s *Store) RulesOff(ctx context.Context) []string { return s.current(ctx).off }

// Tasks are the maintenance tasks of the shop as the context works with them. Callers must not change them.
func (s *Store) Tasks(ctx context.Context) []maintenance.Task { return s.current(ctx).tasks }

// Location is the shop's time, each moment in the time zone that was in force then.
func (s *Store) Location() *time.Location { return s.published.Load().location }

func catalogueVersion(tx *gorm.DB) (v int64, err error) {
	err = tx.Raw("select version from catalogue_state").Scan(&v).Error
	return v, err
}

// newest reads the committed catalogue where it is of another version than the published one, and publishes it.
func (s *Store) newest(ctx context.Context) (*current, error) {
	db := s.db.WithContext(ctx) // never a transaction: what is not committed is not published
	for {
		before := s.published.Load()
		version, err := catalogueVersion(db)
		if err != nil || version == before.version {
			return before, err
		}
		select {
		case s.reading <- struct{}{}: // one reads it for all who wait
		case <-ctx.Done():
			return nil, ctx.Err()
		}
		if s.published.Load() != before {
			<-s.reading
			continue
		}
		read, err := readCurrent(db)
		if err == nil {
			s.published.CompareAndSwap(before, read)
		}
		<-s.reading
		return read, err
	}
}

// mostReads bounds how often a catalogue that others keep writing is read anew.
const mostReads = 20

// readCurrent reads the catalogue with all that goes with it, all of one version.
func readCurrent(tx *gorm.DB) (*current, error) {
	for range mostReads {
		version, err := catalogueVersion(tx)
		if err != nil {
			return nil, err
		}
		read, err := readOnce(tx)
		if err != nil {
			return nil, err
		}
		after, err := catalogueVersion(tx)
		if err != nil {
			return nil, err
		}
		if after == version {
			read.version = version
			return read, nil
		}
	}
	return nil, ErrOutdated
}

func readOnce(tx *gorm.DB) (*current, error) {
	c, _, err := loadCatalogue(tx)
	if err != nil {
		return nil, err
	}
	besides, err := everyPosition(tx)
	if err != nil {
		return nil, err
	}
	voc, err := c.Vocabulary(besides...)
	if err != nil {
		return nil, fmt.Errorf("the catalogue in the database: %w", err)
	}
	_, _, off := parts.Restore(c, catalogue.Shipped())
	for _, fault := range fit.CheckNeeds(voc) {
		off = append(off, fault+"; this need is not judged")
	}
	zones, err := loadZones(tx)
	if err != nil {
		return nil, err
	}
	location, err := civil.Location(zones)
	if err != nil {
		return nil, fmt.Errorf("the shop's time zone: %w", err)
	}
	tasks, err := loadTasks(tx)
	if err != nil {
		return nil, fmt.Errorf("the maintenance tasks in the database: %w", err)
	}
	return &current{voc: voc, off: off, location: location, tasks: tasks}, nil
}

// reload makes the vocabulary of a transaction anew from the catalogue as the transaction has it. Others see it
// once that is committed.
func (s *Store) reload(tx *gorm.DB) error {
	ctx := tx.Statement.Context
	t, ok := ctx.Value(txKey{}).(transaction)
	if !ok || t.store != s {
		return s.Refresh(ctx) // each statement was committed by itself
	}
	read, err := readCurrent(tx)
	if err == nil {
		t.own.Store(read)
	}
	return err
}

// publish makes what a transaction has committed the vocabulary of all who begin from now on, and of the rest of
// the request that wrote it.
func (s *Store) publish(ctx context.Context, own *current) {
	if own == nil {
		return
	}
	for {
		is := s.published.Load()
		if is.version >= own.version || s.published.CompareAndSwap(is, own) {
			break
		}
	}
	if p, ok := ctx.Value(pinKey{}).(*pin); ok && p.store == s {
		p.is.Store(own)
	}
}
