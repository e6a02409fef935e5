package server

import (
	"context"
	"io"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humagin"

	"wardifex/internal/app"
	"wardifex/internal/store"
)

// SentFile names a file that was sent in before.
type SentFile struct {
	SHA256 string `json:"sha256" minLength:"64" maxLength:"64" doc:"Of the file, as its upload answered"`
	Name   string `json:"name,omitempty" maxLength:"200" doc:"Of the file"`
}

// read gives the file to do, and returns the memory that it takes.
func (s *Server) read(
	ctx context.Context,
	u user,
	f SentFile,
	do func(content []byte, src store.ImportFile) error,
) error {
	content, release, err := s.app.Uploaded(ctx, u.ID, f.SHA256)
	if err != nil {
		return err
	}
	defer release()
	return do(content, store.ImportFile{Name: f.Name, Data: content})
}

// uploadBody is a body that is handed on as it comes.
type uploadBody struct {
	Name     string `query:"name" maxLength:"200" doc:"Of the file"`
	Settings bool   `query:"settings" doc:"It is a text of settings: its secrets are masked before it is kept"`
	from     io.Reader
}

// Resolve takes the body as it comes.
func (in *uploadBody) Resolve(c huma.Context) []error {
	in.from = humagin.Unwrap(c).Request.Body
	return nil
}

func (s *Server) upload(ctx context.Context, u user, in *uploadBody) (*answer[app.Upload], error) {
	if in.Settings {
		return answerOf(s.app.UploadSettings(ctx, u.ID, in.Name, in.from))
	}
	return answerOf(s.app.Upload(ctx, u.ID, in.Name, in.from))
}
