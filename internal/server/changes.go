package server

import (
	"context"
	"net/http"

	"wardifex/internal/app"
	"wardifex/internal/store"
)

type changesOf struct {
	Machine int64  `query:"machine" minimum:"0" doc:"Of one machine"`
	Part    int64  `query:"part" minimum:"0" doc:"Of one part"`
	Thing   string `query:"thing" maxLength:"40" doc:"Of one kind of thing: kit, order, fault, build, account …"`
	Key     string `query:"key" maxLength:"200" doc:"Number or key of that thing"`
	Account string `query:"account" maxLength:"100" doc:"By one account, by the name that it signs in with"`
	Before  int64  `query:"before" minimum:"0" doc:"Those before this one"`
	Limit   int    `query:"limit" minimum:"1" maximum:"200" default:"50"`
}

// changes lists who did what. What was done to one thing is for those who work on it, since it has what was paid and
// where things lie; the whole list is for the lead.
func (s *Server) changes(ctx context.Context, u user, in *changesOf) (*answer[[]app.Change], error) {
	one := in.Machine != 0 || in.Part != 0 || in.Thing != "" && in.Thing != "account" && in.Key != ""
	if one && u.Role == store.Member {
		return nil, needsRole(store.Technician, u)
	}
	if !one && u.Role != store.Lead {
		return nil, newProblem(
			http.StatusForbidden,
			"The list of all that was done is for the lead; of a machine, part, kit or order technicians may see it.",
			nil,
		)
	}
	return answerOf(s.app.Changes(ctx, app.ChangesOf{
		Machine: in.Machine, Part: in.Part, Thing: in.Thing, Key: in.Key, Account: in.Account, Before: in.Before,
		Limit: in.Limit,
	}))
}
