package server

import "wardifex/internal/store"

// Rows says which rows of a list are wanted.
type Rows struct {
	Offset int `query:"offset" minimum:"0" maximum:"1000000" doc:"Rows that are passed over"`
	Limit  int `query:"limit"  minimum:"1" maximum:"1000" default:"200" doc:"Rows at most"`
}

func (r *Rows) cut() store.Cut { return store.Cut{Offset: r.Offset, Limit: r.Limit} }
