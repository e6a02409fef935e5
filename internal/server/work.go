package server

import (
	"bytes"
	"context"
	"image"
	"image/jpeg"
	_ "image/png" // decodes PNG uploads

	"wardifex/internal/store"
)

func (s *Server) orders(ctx context.Context, _ user, _ *none) (*answer[[]store.OrderHead], error) {
	return answerOf(s.Store.Orders(ctx))
}

type openWork struct {
	Body struct {
		MachineID int64  `json:"machineId"`
		Kit       string `json:"kit"`
		Reason    string `json:"reason"`
	}
}

func (s *Server) openWork(ctx context.Context, u user, in *openWork) (*answer[Created], error) {
	id, err := s.Store.OpenWork(ctx, in.Body.MachineID, in.Body.Kit, in.Body.Reason, u.Name, s.Clock())
	return answerOf(Created{id}, err)
}

func (s *Server) order(ctx context.Context, _ user, in *ByID) (*answer[store.Order], error) {
	return answerOf(s.Store.Order(ctx, in.ID))
}

type saveStep struct {
	ByID
	Step string `path:"step"`
	Body store.StepChange
}

func (s *Server) saveStep(ctx context.Context, u user, in *saveStep) (*answer[store.Order], error) {
	if err := s.Store.SaveStep(ctx, in.ID, in.Step, in.Body, u.Name, s.Clock()); err != nil {
		return nil, err
	}
	return answerOf(s.Store.Order(ctx, in.ID))
}

func (s *Server) finish(ctx context.Context, u user, in *ByID) (*answer[store.Order], error) {
	if _, err := s.Store.Finish(ctx, in.ID, u.Name, s.Clock()); err != nil {
		return nil, err
	}
	return answerOf(s.Store.Order(ctx, in.ID))
}

func (s *Server) abandon(ctx context.Context, u user, in *ByID) (*answer[store.Order], error) {
	if err := s.Store.Abandon(ctx, in.ID, u.Name, s.Clock()); err != nil {
		return nil, err
	}
	return answerOf(s.Store.Order(ctx, in.ID))
}

// Bounds of a photo.
const (
	maxPhotoBytes  = 12 << 20
	maxPhotoPixels = 40 << 20
)

type addPhoto struct {
	ByID
	Step    string `path:"step"`
	RawBody []byte `contentType:"image/jpeg"`
}

// addPhoto keeps a photo with a step. It is encoded anew, so that nothing but
// the picture is kept: no place, no camera, nothing hidden.
func (s *Server) addPhoto(ctx context.Context, u user, in *addPhoto) (*answer[Created], error) {
	size, _, err := image.DecodeConfig(bytes.NewReader(in.RawBody))
	if err != nil {
		return nil, &store.Refusal{Sentence: "this is not a picture that can be read; take a JPEG or PNG"}
	}
	if size.Width*size.Height > maxPhotoPixels {
		return nil, &store.Refusal{Sentence: "the picture has more than 40 million points; take a smaller one"}
	}
	picture, _, err := image.Decode(bytes.NewReader(in.RawBody))
	if err != nil {
		return nil, &store.Refusal{Sentence: "the picture is cut off or damaged; take it again"}
	}
	var out bytes.Buffer
	if err := jpeg.Encode(&out, picture, &jpeg.Options{Quality: 85}); err != nil {
		return nil, err
	}
	id, err := s.Store.AddPhoto(ctx, store.Photo{WorkOrderID: in.ID, StepKey: in.Step, Jpeg: out.Bytes(), Width: size.Width, Height: size.Height, TakenBy: u.Name, TakenAt: s.Clock()})
	return answerOf(Created{id}, err)
}

type picture struct {
	ContentType  string `header:"Content-Type"`
	CacheControl string `header:"Cache-Control"`
	Body         []byte
}

func (s *Server) photo(ctx context.Context, _ user, in *ByID) (*picture, error) {
	p, err := s.Store.Photo(ctx, in.ID)
	return &picture{ContentType: "image/jpeg", CacheControl: "private, max-age=86400", Body: p.Jpeg}, err
}
