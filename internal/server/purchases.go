package server

import (
	"context"

	"wardifex/internal/app"
	"wardifex/internal/core/purchase"
	"wardifex/internal/store"
)

type purchasesAsked struct {
	All bool `query:"all" doc:"Those too of which nothing is waited for any more"`
}

func (s *Server) purchases(ctx context.Context, _ user, in *purchasesAsked) (*answer[app.Orders], error) {
	return answerOf(s.app.PurchaseBook(ctx, in.All, s.now()))
}

type placeOrders struct {
	Body struct {
		Orders []app.NewPurchase `json:"orders" minItems:"1" maxItems:"50"`
	}
}

// PlacedOrders are the numbers of orders that were put on record.
type PlacedOrders struct {
	IDs []int64 `json:"ids"`
}

func (s *Server) placeOrders(ctx context.Context, u user, in *placeOrders) (*answer[PlacedOrders], error) {
	ids, err := s.app.PlaceOrders(ctx, in.Body.Orders, u.Name, s.now())
	return answerOf(PlacedOrders{ids}, err)
}

func (s *Server) purchase(ctx context.Context, _ user, in *ByID) (*answer[app.PurchaseSheet], error) {
	return answerOf(s.app.PurchaseSheet(ctx, in.ID, s.now()))
}

type changeOrder struct {
	ByID
	Body struct {
		store.PurchaseFields
		Version   int    `json:"version"`
		ClosedWhy string `json:"closedWhy" maxLength:"120" doc:"Why the rest is waited for no more; empty while it is"`
	}
}

func (s *Server) changeOrder(ctx context.Context, u user, in *changeOrder) (*noContent, error) {
	b := in.Body
	return emptyAnswer(s.app.ChangeOrder(ctx, in.ID, b.Version, b.PurchaseFields, b.ClosedWhy, u.Name, s.now()))
}

type receive struct {
	ByID
	Body app.Received
}

func (s *Server) receive(ctx context.Context, u user, in *receive) (*answer[app.Arrived], error) {
	return answerOf(s.app.Receive(ctx, in.ID, in.Body, u.Name, s.now()))
}

type changeClaim struct {
	ByID
	Body struct {
		Version  int            `json:"version"`
		Claim    purchase.Claim `json:"claim" enum:"open,sent back,refunded,given up"`
		Note     string         `json:"note,omitempty" maxLength:"120"`
		ReturnBy string         `json:"returnBy,omitempty" doc:"As it is when empty"`
	}
}

func (s *Server) changeClaim(ctx context.Context, u user, in *changeClaim) (*noContent, error) {
	b := in.Body
	return emptyAnswer(s.app.ChangeClaim(ctx, in.ID, b.Version, b.Claim, b.Note, b.ReturnBy, u.Name, s.now()))
}
