package server

import (
	"context"

	"wardifex/internal/app"
)

type safetyAsked struct {
	Day string `query:"day" maxLength:"60" doc:"ISO 8601; today, as it is known now, when empty"`
}

func (s *Server) safetyFile(ctx context.Context, u user, in *safetyAsked) (*answer[app.SafetySheet], error) {
	return answerOf(s.app.SafetyFile(ctx, in.Day, u.Name, s.now()))
}

func (s *Server) keepSafetyFile(ctx context.Context, u user, _ *none) (*noContent, error) {
	return emptyAnswer(s.app.KeepSafetyFile(ctx, u.Name, s.now()))
}
