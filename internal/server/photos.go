package server

import (
	"context"

	"wardifex/internal/picture"
	"wardifex/internal/store"
)

type addPhoto struct {
	ByID
	Step    string `path:"step"`
	RawBody []byte `contentType:"image/*"`
}

type addPhotoTo struct {
	ByID
	RawBody []byte `contentType:"image/*"`
}

func (s *Server) addPhoto(ctx context.Context, u user, in *addPhoto) (*answer[Created], error) {
	return s.keepPhoto(ctx, u, store.PhotoOf{Order: in.ID, Step: in.Step}, in.RawBody)
}

func (s *Server) addReadingPhoto(ctx context.Context, u user, in *addPhotoTo) (*answer[Created], error) {
	return s.keepPhoto(ctx, u, store.PhotoOf{Reading: in.ID}, in.RawBody)
}

func (s *Server) addFaultPhoto(ctx context.Context, u user, in *addPhotoTo) (*answer[Created], error) {
	return s.keepPhoto(ctx, u, store.PhotoOf{Fault: in.ID}, in.RawBody)
}

func (s *Server) keepPhoto(ctx context.Context, u user, of store.PhotoOf, file []byte) (*answer[Created], error) {
	k, err := picture.Take(file)
	if err != nil {
		return nil, store.Refused(err)
	}
	id, err := s.Store.AddPhoto(ctx, of, k, u.Name, s.now())
	return answerOf(Created{id}, err)
}

type onePhoto struct {
	ByID
	Small bool `query:"small" doc:"The small copy"`
}

type photoFile struct {
	ContentType  string `header:"Content-Type"`
	CacheControl string `header:"Cache-Control"`
	Body         []byte
}

func (s *Server) photo(ctx context.Context, _ user, in *onePhoto) (*photoFile, error) {
	jpeg, err := s.Store.Photo(ctx, in.ID, in.Small)
	return &photoFile{ContentType: "image/jpeg", CacheControl: "private, max-age=86400", Body: jpeg}, err
}
