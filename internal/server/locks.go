package server

import (
	"context"

	"wardifex/internal/app"
	"wardifex/internal/core/change"
	"wardifex/internal/store"
)

// orderAfter is an order as it is after a write.
func (s *Server) orderAfter(ctx context.Context, id int64, err error) (*answer[app.Order], error) {
	if err != nil {
		return nil, err
	}
	return answerOf(s.app.Order(ctx, id))
}

func (s *Server) putLock(ctx context.Context, u user, in *ByID) (*answer[app.Order], error) {
	return s.orderAfter(ctx, in.ID, s.app.PutLock(ctx, in.ID, u.Name, s.now()))
}

type takeLock struct {
	ByID
	Lock int64 `path:"lock"`
	Body struct {
		Contacted bool   `json:"contacted" doc:"Its holder was reached, and nobody is at the machine"`
		Why       string `json:"why,omitempty" maxLength:"300"`
	}
}

func (s *Server) takeLock(ctx context.Context, u user, in *takeLock) (*answer[app.Order], error) {
	b := in.Body
	lead := u.Role == store.Lead
	return s.orderAfter(ctx, in.ID, s.app.TakeLock(ctx, in.ID, in.Lock, lead, b.Contacted, b.Why, u.Name, s.now()))
}

type park struct {
	ByID
	Body change.Parked
}

func (s *Server) park(ctx context.Context, u user, in *park) (*answer[app.Order], error) {
	return s.orderAfter(ctx, in.ID, s.app.Park(ctx, in.ID, in.Body, u.Name, s.now()))
}

func (s *Server) resume(ctx context.Context, u user, in *ByID) (*answer[app.Order], error) {
	return s.orderAfter(ctx, in.ID, s.app.Resume(ctx, in.ID, u.Name, s.now()))
}
