package server

import (
	"bytes"
	"context"
	"fmt"
	"net/http"
	"strconv"
	"time"

	"github.com/gin-gonic/gin"

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
	id, err := s.app.AddPhoto(ctx, of, file, u.Name)
	return answerOf(Created{id}, err)
}

// photo serves a picture by its hash: what a browser has it asks for no more, and a part
// of it can be asked for.
func (s *Server) photo(g *gin.Context) error {
	id, err := strconv.ParseInt(g.Param("id"), 10, 64)
	if err != nil || id < 1 {
		return newProblem(http.StatusUnprocessableEntity, "A picture has a number, 1 or more.", nil)
	}
	small, err := onlyFlag(g, "small")
	if err != nil {
		return err
	}
	hash, err := s.Store.PhotoHash(g.Request.Context(), id, small)
	if err != nil {
		return err
	}
	h := g.Writer.Header()
	h.Set("ETag", fmt.Sprintf(`"%x"`, hash[:]))
	h.Set("Cache-Control", "private, max-age=86400")
	h.Set("Content-Type", "image/jpeg")
	if g.GetHeader("If-None-Match") == h.Get("ETag") {
		g.Status(http.StatusNotModified)
		return nil
	}
	jpeg, err := s.Store.File(g.Request.Context(), hash)
	if err != nil {
		return err
	}
	http.ServeContent(g.Writer, g.Request, "", time.Time{}, bytes.NewReader(jpeg))
	return nil
}
