package server

import (
	"context"

	"wardifex/internal/app"
)

type openRepair struct {
	Body struct {
		Fault int64 `json:"fault"`
	}
}

func (s *Server) openRepair(ctx context.Context, u user, in *openRepair) (*answer[Created], error) {
	id, err := s.app.OpenRepair(ctx, in.Body.Fault, u.Name, s.now())
	return answerOf(Created{id}, err)
}

type openTask struct {
	Body struct {
		MachineID int64  `json:"machineId"`
		Task      string `json:"task"            maxLength:"60"`
		Model     string `json:"model,omitempty" maxLength:"120" doc:"Of parts that go in, where it is not on record"`
	}
}

func (s *Server) openTask(ctx context.Context, u user, in *openTask) (*answer[Created], error) {
	id, err := s.app.OpenTask(ctx, in.Body.MachineID, in.Body.Task, in.Body.Model, u.Name, s.now())
	return answerOf(Created{id}, err)
}

type openMount struct {
	Body struct {
		MachineID int64  `json:"machineId"`
		Head      int    `json:"head"   minimum:"1" maximum:"64"`
		Reason    string `json:"reason" maxLength:"300"`
	}
}

func (s *Server) openMount(ctx context.Context, u user, in *openMount) (*answer[Created], error) {
	id, err := s.app.OpenMount(ctx, in.Body.MachineID, in.Body.Head, in.Body.Reason, u.Name, s.now())
	return answerOf(Created{id}, err)
}

type openBatch struct {
	Body struct {
		Machines []int64 `json:"machines" minItems:"1" maxItems:"50"`
		Kit      string  `json:"kit"                                 maxLength:"120"`
		Reason   string  `json:"reason"                              maxLength:"300"`
	}
}

func (s *Server) openBatch(ctx context.Context, u user, in *openBatch) (*answer[app.OpenedBatch], error) {
	return answerOf(s.app.OpenBatch(ctx, in.Body.Machines, in.Body.Kit, in.Body.Reason, u.Name, s.now()))
}

func (s *Server) batch(ctx context.Context, _ user, in *ByID) (*answer[app.Batch], error) {
	return answerOf(s.app.Batch(ctx, in.ID))
}

type fitOther struct {
	ByID
	Body struct {
		Position string `json:"position" maxLength:"60"`
		Model    string `json:"model"    maxLength:"120" doc:"That is there now; none where it is empty"`
	}
}

func (s *Server) fitOther(ctx context.Context, u user, in *fitOther) (*answer[app.Order], error) {
	return s.orderAfter(ctx, in.ID, s.app.FitOther(ctx, in.ID, in.Body.Position, in.Body.Model, u.Name, s.now()))
}

type rollBack struct {
	ByID
	Body struct {
		Why string `json:"why" maxLength:"300"`
	}
}

func (s *Server) rollBack(ctx context.Context, u user, in *rollBack) (*answer[app.Order], error) {
	return s.orderAfter(ctx, in.ID, s.app.RollBack(ctx, in.ID, in.Body.Why, u.Name, s.now()))
}

type recordPasted struct {
	ByID
	Body struct {
		Values []app.StatedValue `json:"values" minItems:"1" maxItems:"100"`
	}
}

func (s *Server) recordPasted(ctx context.Context, u user, in *recordPasted) (*answer[app.Order], error) {
	return s.orderAfter(ctx, in.ID, s.app.RecordPasted(ctx, in.ID, in.Body.Values, u.Name, s.now()))
}
