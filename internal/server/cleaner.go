package server

import (
	"context"
	"log/slog"
	"time"

	"wardifex/internal/core/recovered"
	"wardifex/internal/store"
)

// cleaner throws away, now and then, what has had its time, and keeps the safety file of each
// day.
type cleaner struct {
	cancel context.CancelFunc
	done   chan struct{}
}

func startCleaner(st *store.Store, log *slog.Logger, keep func(context.Context) error) *cleaner {
	ctx, cancel := context.WithCancel(context.Background())
	c := &cleaner{cancel: cancel, done: make(chan struct{})}
	go func() {
		defer close(c.done)
		every := time.NewTicker(30 * time.Minute)
		defer every.Stop()
		for {
			select {
			case <-ctx.Done():
				return
			case <-every.C:
				clean := func() error { return st.CleanUp(ctx, time.Now()) }
				if err := recovered.From(clean); err != nil && ctx.Err() == nil {
					log.Error("cleaning up", "err", err)
				}
				if err := recovered.From(func() error { return keep(ctx) }); err != nil && ctx.Err() == nil {
					log.Error("keeping the safety file of the day", "err", err)
				}
			}
		}
	}()
	return c
}

func (c *cleaner) stop() {
	c.cancel()
	<-c.done
}
