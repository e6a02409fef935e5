// Package app is what a person can do with Wardifex: each use case loads what it needs,
// asks the core, and saves what follows in one transaction. Its errors are sentences for
// the person.
package app

import (
	"log/slog"
	"time"

	"golang.org/x/sync/semaphore"

	"wardifex/internal/picture"
	"wardifex/internal/store"
)

// App does what people ask for. It may be used by many goroutines.
type App struct {
	store *store.Store
	// now tells the time of everything that is recorded.
	now func() time.Time
	// passwords bounds how many passwords are hashed at once: each takes 64 MiB.
	passwords *semaphore.Weighted
	// memory bounds what large requests and files take while they are read; pictures, what
	// pictures take while they are decoded. Whoever has the first may wait for the second.
	memory, pictures *semaphore.Weighted
	// scans bounds how many sliced files are read at once: each takes some 12 MiB while it comes.
	scans    *semaphore.Weighted
	reading  readers
	kits     readyKits
	fleet    judgedFleet
	remedies remedies
	// consistency is of machines as they were judged last.
	consistency consistency

	hostMacros hostMacros
	known      knownFiles
	shopWords  shopWords
}

const (
	mostMemory  = 256 << 20
	scansAtOnce = 4
)

// New puts the application together over its record.
func New(s *store.Store, now func() time.Time) *App {
	return &App{store: s, now: now, passwords: semaphore.NewWeighted(2),
		memory: semaphore.NewWeighted(mostMemory), pictures: semaphore.NewWeighted(picture.MaxNeeds),
		scans: semaphore.NewWeighted(scansAtOnce),
		fleet: judgedFleet{turn: make(chan struct{}, 1), log: slog.Default(),
			judgeOne: judgeAnew}}
}
