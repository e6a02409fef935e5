package app

import (
	"context"
	"errors"
	"fmt"
	"time"

	"wardifex/internal/core/fleetquery"
	"wardifex/internal/core/machine"
	"wardifex/internal/store"
)

// SaveQuestion keeps a question under a name, and gives its number; q.ID 0 is a new one,
// and q.Version that which its editor saw.
func (a *App) SaveQuestion(ctx context.Context, q store.SavedQuestion, by string, now time.Time) (int64, error) {
	if err := machine.PlainText(q.Name); err != nil {
		return 0, refuse("name: %s", err)
	}
	if _, err := fleetquery.Ask(q.Question, nil, a.store.Vocabulary(ctx), now); err != nil {
		return 0, Refused(err)
	}
	var id int64
	err := a.store.InTx(ctx, func(ctx context.Context) error {
		if err := a.store.LockQuestions(ctx); err != nil {
			return err
		}
		if q.ID != 0 {
			if err := a.questionIs(ctx, q); err != nil {
				return err
			}
		}
		q.Version, q.ChangedBy = q.Version+1, by
		var err error
		if id, err = a.store.WriteQuestion(ctx, q, now); errors.Is(err, store.ErrTaken) {
			return refuse("there is a question named %s already; choose another name", q.Name)
		}
		return err
	})
	return id, err
}

// questionIs checks that a question is still of the version that its editor saw.
func (a *App) questionIs(ctx context.Context, q store.SavedQuestion) error {
	all, err := a.store.Questions(ctx)
	if err != nil {
		return err
	}
	for _, here := range all {
		switch {
		case here.ID != q.ID:
		case here.Version != q.Version:
			return &Conflict{Sentence: fmt.Sprintf("%s changed this question meanwhile; nothing was overwritten. Save yours "+
				"under another name", here.ChangedBy)}
		default:
			return nil
		}
	}
	return ErrNotFound
}

// DeleteQuestion forgets a saved question.
func (a *App) DeleteQuestion(ctx context.Context, id int64) error {
	return a.store.RemoveQuestion(ctx, id)
}
