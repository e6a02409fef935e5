package store_test

import (
	"context"
	"errors"
	"fmt"
	"testing"

	"wardifex/internal/core/machine"
	"wardifex/internal/postgres/pgtest"
	"wardifex/internal/store"
)

// A catalogue is seen by others once it is committed: not before, and never when it is rolled back.
func TestTheCatalogueIsPublishedWhenItIsCommitted(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	must(t, s.Refresh(t.Context()))
	id, err := s.AddMachine(t.Context(), store.Fields{Name: "Avocet"}, "x", now)
	must(t, err)
	reader, err := s.Pin(t.Context())
	must(t, err)
	knows := func(ctx context.Context, key string) bool { return s.Vocabulary(ctx).At(key) != nil }
	add := func(key string, end error) error {
		return s.InTx(t.Context(), func(ctx context.Context) error {
			p := machine.Position{Key: key, Kind: "sensor", Label: key, Serves: "enclosure"}
			if err := s.AddPositions(ctx, id, []machine.Position{p}, "x", now); err != nil {
				return err
			}
			if !knows(ctx, key) {
				return fmt.Errorf("the transaction does not see its own %s", key)
			}
			if err := s.Refresh(t.Context()); err != nil { // another request, meanwhile
				return err
			}
			if !knows(ctx, key) {
				return fmt.Errorf("the transaction lost its own %s to a refresh in between", key)
			}
			if knows(t.Context(), key) {
				return fmt.Errorf("others see %s before it is committed", key)
			}
			return end
		})
	}
	gone := errors.New("rolled back")
	if err := add("sensor-gone", gone); !errors.Is(err, gone) {
		t.Fatal(err)
	}
	if knows(t.Context(), "sensor-gone") {
		t.Error("others see a position that was rolled back")
	}
	must(t, add("sensor-kept", nil))
	if !knows(t.Context(), "sensor-kept") {
		t.Error("others do not see a position that was committed")
	}
	if knows(reader, "sensor-kept") {
		t.Error("a request that had begun works with another catalogue than it began with")
	}
	if _, err := s.Machine(reader, id); !errors.Is(err, store.ErrOutdated) {
		t.Errorf("a machine with a position that the request does not know: %v, want to be begun anew", err)
	}
}
