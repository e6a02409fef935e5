package store

import (
	"context"
	"database/sql"
	"embed"
	"errors"
	"fmt"
	"io/fs"
	"sync/atomic"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/stdlib"
	"github.com/pressly/goose/v3"
	"github.com/pressly/goose/v3/lock"
	"golang.org/x/sync/semaphore"
	"gorm.io/driver/postgres"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"

	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/maintenance"
)

//go:embed migrations/*.sql
var migrations embed.FS

// Store is the record. It may be used by many goroutines.
type Store struct {
	SQL *sql.DB
	db  *gorm.DB
	// published is the newest catalogue known to be committed; reading is held by who reads a newer one.
	published atomic.Pointer[current]
	reading   chan struct{}
	fleets    fleetCache
	writers   *semaphore.Weighted
}

const (
	// mostConnections is how many connections to the database are open at once.
	mostConnections = 20
	// mostWriters is how many of them write at once: however many wait for a lock, what reads is answered.
	mostWriters = 12
	// lockTimeout is how long a writer waits for another, as PostgreSQL writes it.
	lockTimeout = "10s"
)

// Open prepares a store; it connects when first used. Until Migrate or Refresh
// has read the database's, the vocabulary is the shipped one.
func Open(dsn string, options ...func(*pgx.ConnConfig)) (*Store, error) {
	config, err := pgx.ParseConfig(dsn)
	if err != nil {
		return nil, fmt.Errorf("the database's address cannot be read: %w", err)
	}
	for _, set := range options {
		set(config)
	}
	s := &Store{reading: make(chan struct{}, 1), writers: semaphore.NewWeighted(mostWriters)}
	s.fleets.turn = make(chan struct{}, 1)
	s.published.Store(&current{version: -1, voc: catalogue.Vocabulary(), location: time.UTC,
		tasks: maintenance.Shipped()})
	// A connection that broke while it was idle is found out before it is used.
	ping := func(context.Context, stdlib.ShouldPingParams) bool { return true }
	db := stdlib.OpenDB(*config, stdlib.OptionShouldPing(ping), stdlib.OptionAfterConnect(s.keepTime))
	db.SetMaxOpenConns(mostConnections)
	// All stay open while they are in use now and then: each new one costs both sides a
	// password check that takes longer than most questions.
	db.SetMaxIdleConns(mostConnections)
	db.SetConnMaxIdleTime(5 * time.Minute)
	g, err := gorm.Open(postgres.New(postgres.Config{Conn: db}), &gorm.Config{
		Logger:                 logger.Discard, // errors are returned and logged where they end
		DisableAutomaticPing:   true,
		SkipDefaultTransaction: true,
		NowFunc:                func() time.Time { return time.Now().UTC() },
	})
	if err != nil {
		db.Close()
		return nil, err
	}
	s.SQL, s.db = db, g
	return s, nil
}

// Close ends all connections.
func (s *Store) Close() error { return s.SQL.Close() }

// Migrate brings the database to the newest schema. Several instances may
// start at once: one migrates, the others wait.
func (s *Store) Migrate(ctx context.Context) error {
	if err := s.refuseNewer(ctx); err != nil {
		return err
	}
	files, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return err
	}
	locker, err := lock.NewPostgresSessionLocker()
	if err != nil {
		return err
	}
	p, err := goose.NewProvider(goose.DialectPostgres, s.SQL, files, goose.WithSessionLocker(locker))
	if err != nil {
		return err
	}
	if _, err := p.Up(ctx); err != nil {
		return fmt.Errorf("migrating the database: %w", err)
	}
	if err := s.prepareJobs(ctx); err != nil {
		return fmt.Errorf("making the tables of background work: %w", err)
	}
	if err := s.shipCatalogue(ctx); err != nil {
		return err
	}
	if err := s.upgradeDocuments(ctx); err != nil {
		return fmt.Errorf("bringing stored documents along: %w", err)
	}
	if err := s.upgrade(ctx); err != nil {
		return fmt.Errorf("bringing the record of an older version along: %w", err)
	}
	return s.shipKits(ctx)
}

// ErrNotFound is returned when there is no such machine, kit or order.
var ErrNotFound = errors.New("there is nothing by this number or name")

// ErrChanged is a write over something that somebody else changed meanwhile.
var ErrChanged = errors.New("somebody else changed it meanwhile")

// ErrTaken is a name that another has already.
var ErrTaken = errors.New("this name is taken already")

// taken tells apart that the database refused a name because another has it.
func taken(err error) error {
	if isTwice(err) {
		return ErrTaken
	}
	return err
}

func found(err error) error {
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return ErrNotFound
	}
	return err
}
