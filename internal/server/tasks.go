package server

import (
	"context"

	"wardifex/internal/app"
	"wardifex/internal/core/maintenance"
)

// TaskBook is the maintenance that a shop does, with what a task can be made of.
type TaskBook struct {
	Tasks  []app.ShopTask      `json:"tasks"`
	Risks  []maintenance.Risk  `json:"risks"  enum:"shock or fire,hurts people,breaks machines,spoils prints"`
	Events []maintenance.Event `json:"events" enum:"upgrade,fault,build"`
}

func (s *Server) tasks(ctx context.Context, _ user, _ *none) (*answer[TaskBook], error) {
	list, err := s.app.Tasks(ctx)
	return answerOf(TaskBook{Tasks: list, Risks: maintenance.Risks(), Events: maintenance.Events()}, err)
}

type saveTask struct {
	Key  string `path:"key" maxLength:"40"`
	Body struct {
		Task    maintenance.Task `json:"task"`
		Version int              `json:"version" minimum:"0"`
	}
}

func (s *Server) saveTask(ctx context.Context, _ user, in *saveTask) (*answer[TaskBook], error) {
	in.Body.Task.Key = in.Key
	if err := s.app.SaveTask(ctx, in.Body.Task, in.Body.Version); err != nil {
		return nil, err
	}
	return s.tasks(ctx, user{}, nil)
}

type resetTask struct {
	Key     string `path:"key" maxLength:"40"`
	Version int    `query:"version" minimum:"1"`
}

func (s *Server) resetTask(ctx context.Context, _ user, in *resetTask) (*answer[TaskBook], error) {
	if err := s.app.ResetTask(ctx, in.Key, in.Version); err != nil {
		return nil, err
	}
	return s.tasks(ctx, user{}, nil)
}
