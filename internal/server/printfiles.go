package server

import (
	"context"
	"io"
	"mime"
	"net/http"
	"strconv"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humagin"
	"github.com/gin-gonic/gin"

	"wardifex/internal/app"
	"wardifex/internal/store"
)

const (
	// mostPrintFile is how large a sliced file may be as it is sent.
	mostPrintFile = 8 << 30
	// longest is how long a file may come at all.
	longest = 6 * time.Hour
)

func (s *Server) printFileRoutes() {
	handle(s, store.Member, "POST", "/print-files", "judge-file", "Judge a sliced file on every machine", s.judgeFile,
		fileUpTo(mostPrintFile), streaming)
	handle(s, store.Member, "GET", "/print-files", "print-files", "Sliced files that were judged, as they stand now",
		func(ctx context.Context, _ user, in *knownFiles) (*answer[store.Listed[app.KnownFile]], error) {
			return answerOf(s.app.KnownFiles(ctx, in.Machine, in.cut(), s.now()))
		}, fleetWide)
	handle(s, store.Member, "GET", "/print-files/{id}", "print-file", "A sliced file judged on every machine as it is now",
		func(ctx context.Context, _ user, in *ByID) (*answer[app.JudgedFile], error) {
			return answerOf(s.app.JudgedFile(ctx, in.ID, s.now()))
		}, fleetWide)
	handle(s, store.Member, "POST", "/print-files/{id}/forget", "forget-file", "Take a sliced file off the list",
		func(ctx context.Context, u user, in *ByID) (*noContent, error) {
			return emptyAnswer(s.app.ForgetFile(ctx, in.ID, u.ID, u.isStaff(), s.now()))
		})
	handle(s, store.Member, "POST", "/print-files/{id}/keep", "keep-file", "Put a sliced file back on the list",
		func(ctx context.Context, u user, in *ByID) (*noContent, error) {
			return emptyAnswer(s.app.KeepFile(ctx, in.ID, u.ID, u.isStaff()))
		})
}

// handedOut are files that are handed out as they are.
func (s *Server) handedOut(router *gin.Engine) {
	s.fetch(router, store.Member, "/api/print-files/:id/patch/:machine", "file-patch", s.filePatch)
	s.fetch(router, store.Member, "/api/builds/:id/files/:file", "build-file", s.buildFile)
}

type knownFiles struct {
	Rows
	Machine int64 `query:"machine" minimum:"0" doc:"One that each file is judged on by itself"`
}

// printFileBody is a large file, read as it comes, for as long as that takes.
type printFileBody struct {
	Name string `query:"name" required:"true" minLength:"1" maxLength:"200" doc:"Of the file"`
	from io.Reader
}

// Resolve takes the body as it comes: for as long as it comes.
func (in *printFileBody) Resolve(c huma.Context) []error {
	g := humagin.Unwrap(c)
	in.from = g.Request.Body
	return nil
}

func (s *Server) judgeFile(ctx context.Context, u user, in *printFileBody) (*answer[app.JudgedFile], error) {
	return answerOf(s.app.JudgeFile(ctx, u.ID, in.Name, u.Name, in.from, s.now()))
}

// filePatch hands out what repairs a file for one machine, for patch programs.
func (s *Server) filePatch(g *gin.Context) error {
	var at [2]int64
	for i, name := range []string{"id", "machine"} {
		n, err := strconv.ParseInt(g.Param(name), 10, 64)
		if err != nil || n < 1 {
			return newProblem(http.StatusUnprocessableEntity, "A file and a machine have numbers, 1 or more.", nil)
		}
		at[i] = n
	}
	name, patch, err := s.app.FilePatch(g.Request.Context(), at[0], at[1], s.now())
	if err != nil {
		return err
	}
	g.Header("Content-Disposition", contentDisposition(name+".patch"))
	g.Data(http.StatusOK, "text/x-diff; charset=utf-8", []byte(patch))
	return nil
}

// contentDisposition names a file that is handed out, whatever its characters.
func contentDisposition(name string) string {
	return mime.FormatMediaType("attachment", map[string]string{"filename": name})
}
