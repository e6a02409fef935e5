package server

import (
	"context"

	"wardifex/internal/core/shop"
	"wardifex/internal/store"
)

func (s *Server) shop(ctx context.Context, _ user, _ *none) (*answer[store.Shop], error) {
	return answerOf(s.Store.Shop(ctx))
}

type setShop struct {
	Body struct {
		shop.Settings
		TimeZone string `json:"timeZone" maxLength:"60" doc:"As in the tz database: Europe/Oslo, UTC"`
		Version  int    `json:"version"`
	}
}

func (s *Server) setShop(ctx context.Context, u user, in *setShop) (*answer[store.Shop], error) {
	b := in.Body
	return answerOf(s.app.SaveShop(ctx, b.Settings, b.TimeZone, b.Version, u.Name, s.now()))
}
