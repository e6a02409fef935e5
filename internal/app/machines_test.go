package app_test

import (
	"errors"
	"fmt"
	"strings"
	"sync"
	"testing"

	"wardifex/internal/app"
	"wardifex/internal/core/maintenance"
	"wardifex/internal/postgres/pgtest"
	"wardifex/internal/store"
)

func TestTwoPeopleEditOneMachine(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	id := add(t, s, "Avocet", nil)
	add(t, s, "Bittern", nil)
	must(t, does(s).ChangeMachine(ctx, id, 1, store.Fields{Name: "Avocet", Bay: "Loft"}, "Ann", now))
	err := does(s).ChangeMachine(ctx, id, 1, store.Fields{Name: "Avocet", Bay: "Slip"}, "Bo", now)
	var conflict *app.Conflict
	if !errors.As(err, &conflict) || !strings.Contains(conflict.Sentence, "Ann") {
		t.Fatalf("the second editor is not told: %v", err)
	}
	if e := conflict.Current.(app.EditedMachine); e.Version != 2 || e.Fields.Bay != "Loft" {
		t.Errorf("what it is now: %+v", e)
	}
	if m := load(t, s, id); m.Bay != "Loft" {
		t.Errorf("overwritten with %s", m.Bay)
	}
	refused(t, does(s).ChangeMachine(ctx, id, 2, store.Fields{Name: "bittern"}, "Bo", now), "already")
	refused(t, does(s).ChangeMachine(ctx, id, 2, store.Fields{Name: "=1"}, "Bo", now), "formula")
	// Many at once: one wins, nobody is overwritten.
	var wait sync.WaitGroup
	won := make(chan error, 8)
	for i := range 8 {
		wait.Go(func() {
			won <- does(s).ChangeMachine(ctx, id, 2, store.Fields{Name: "Avocet", Bay: fmt.Sprint(i)}, "n", now)
		})
	}
	wait.Wait()
	wins := 0
	for range 8 {
		if <-won == nil {
			wins++
		}
	}
	if wins != 1 || load(t, s, id).Version != 3 {
		t.Errorf("%d of 8 editors won", wins)
	}
}

func TestRetire(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	id := add(t, s, "Avocet", nil)
	must(t, does(s).Retire(ctx, id, "frame bent", "x", now))
	if fleet, err := s.Fleet(ctx); err != nil || len(fleet) != 0 {
		t.Errorf("a retired machine is still in the fleet: %v", err)
	}
	refused(t, does(s).MarkDone(ctx, []int64{id}, maintenance.Completion{Task: "belts", At: now}, "", "x", now), "retired")
	must(t, does(s).Retire(ctx, id, "", "x", now))
	if fleet, _ := s.Fleet(ctx); len(fleet) != 1 {
		t.Error("it cannot be brought back")
	}
}
