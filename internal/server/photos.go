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

func (s *Server) addPhoto(ctx context.Context, _ user, in *addPhoto) (*answer[Created], error) {
	return s.keepPhoto(ctx, store.PhotoOf{Order: in.ID, Step: in.Step}, in.RawBody)
}

func (s *Server) addReadingPhoto(ctx context.Context, _ user, in *addPhotoTo) (*answer[Created], error) {
	return s.keepPhoto(ctx, store.PhotoOf{Reading: in.ID}, in.RawBody)
}

func (s *Server) addFaultPhoto(ctx context.Context, _ user, in *addPhotoTo) (*answer[Created], error) {
	return s.keepPhoto(ctx, store.PhotoOf{Fault: in.ID}, in.RawBody)
}

func (s *Server) addArrivalPhoto(ctx context.Context, _ user, in *addPhotoTo) (*answer[Created], error) {
	return s.keepPhoto(ctx, store.PhotoOf{Arrival: in.ID}, in.RawBody)
}

// keepPhoto decodes before it writes: whoever waits for memory holds no connection to the
// database meanwhile.
func (s *Server) keepPhoto(ctx context.Context, of store.PhotoOf, file []byte) (*answer[Created], error) {
	k, err := s.app.DecodePhoto(ctx, of, file)
	if err != nil {
		return nil, err
	}
	do := func(ctx context.Context, u user, of *store.PhotoOf) (*answer[Created], error) {
		id, err := s.app.AddPhoto(ctx, *of, k, u.Name, s.now())
		return answerOf(Created{id}, err)
	}
	return write(ctx, s, requestOf(ctx), &of, do)
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
	u, err := s.currentUser(g.Request.Context())
	if err != nil {
		return err
	}
	hash, err := s.Store.PhotoHash(g.Request.Context(), id, small, u.isStaff())
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
