package app

import (
	"context"
	"errors"
	"slices"

	"wardifex/internal/core/maintenance"
	"wardifex/internal/store"
)

// ShopTask is a maintenance task as the shop has it.
type ShopTask struct {
	maintenance.Task
	Version int  `json:"version" doc:"Of the shop's own; 0 where it is as it ships"`
	Ships   bool `json:"ships" doc:"There is one of this key to go back to"`
}

// Tasks lists the maintenance tasks of the shop, those that it does not do too.
func (a *App) Tasks(ctx context.Context) ([]ShopTask, error) {
	own, err := a.store.OwnTasks(ctx)
	if err != nil {
		return nil, err
	}
	var list []maintenance.Task
	for _, t := range own {
		list = append(list, t.Task)
	}
	var out []ShopTask
	for _, t := range maintenance.In(list) {
		is := ShopTask{Task: t}
		_, is.Ships = maintenance.Find(maintenance.Shipped(), t.Key)
		if i := slices.IndexFunc(own, func(o store.OwnTask) bool { return o.Key == t.Key }); i >= 0 {
			is.Version = own[i].Version
		}
		out = append(out, is)
	}
	return out, nil
}

// SaveTask writes a task as the shop's own; version is that of the one that the editor began
// from, 0 where the shop had none of its own.
func (a *App) SaveTask(ctx context.Context, t maintenance.Task, version int) error {
	return a.store.InTx(ctx, func(ctx context.Context) error {
		if err := t.Check(a.store.Tasks(ctx), a.store.Vocabulary(ctx)); err != nil {
			return Refused(err)
		}
		return a.taskConflict(ctx, t.Key, a.store.SaveTask(ctx, t, version))
	})
}

// keepInTask puts a step into a task as the shop's own.
func (a *App) keepInTask(ctx context.Context, key string, step maintenance.TaskStep) error {
	tasks, err := a.Tasks(ctx)
	if err != nil {
		return err
	}
	i := slices.IndexFunc(tasks, func(t ShopTask) bool { return t.Key == key })
	if i < 0 {
		return refuse("the task of this order is no longer among those of the shop: add the step to the order alone")
	}
	t := tasks[i].Task
	t.Steps = append(slices.Clone(t.Steps), step)
	return a.SaveTask(ctx, t, tasks[i].Version)
}

// ResetTask takes the shop's own task away: a shipped one is in its place again. One that does
// not ship and was ever done stays, switched off, so that what was done keeps its name.
func (a *App) ResetTask(ctx context.Context, key string, version int) error {
	return a.store.InTx(ctx, func(ctx context.Context) error {
		if _, ships := maintenance.Find(maintenance.Shipped(), key); !ships {
			used, err := a.store.TaskUsed(ctx, key)
			if err != nil {
				return err
			}
			if used {
				return refuse("this task was done on machines, whose history names it: switch it off instead")
			}
		}
		return a.taskConflict(ctx, key, a.store.RemoveTask(ctx, key, version))
	})
}

// taskConflict makes a change by somebody else a conflict that shows what is there.
func (a *App) taskConflict(ctx context.Context, key string, err error) error {
	if !errors.Is(err, store.ErrChanged) {
		return err
	}
	tasks, listErr := a.Tasks(ctx)
	if listErr != nil {
		return listErr
	}
	c := &Conflict{Sentence: "somebody else changed this task meanwhile; nothing was saved"}
	if i := slices.IndexFunc(tasks, func(t ShopTask) bool { return t.Key == key }); i >= 0 {
		c.Current = tasks[i]
	}
	return c
}
