package server

import (
	"bufio"
	"io"
	"net/http"
	"net/url"
	"os"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"wardifex/internal/store"
)

// fetch registers what may be fetched and is no JSON operation, with the least role that may.
func (s *Server) fetch(router *gin.Engine, role, path, name string, do func(g *gin.Context) error) {
	router.GET(path, func(g *gin.Context) {
		ctx := g.Request.Context()
		u, err := s.currentUser(ctx)
		switch {
		case err != nil:
		case u.ID == 0:
			err = newProblem(http.StatusUnauthorized, "Sign in first.", nil)
		case rank[u.Role] < rank[role]:
			err = needsRole(role, u)
		}
		if err == nil {
			ctx, err = s.Store.Pin(ctx)
		}
		if err == nil {
			g.Request = g.Request.WithContext(ctx)
			err = do(g)
		}
		if err != nil {
			for _, h := range []string{"ETag", "Cache-Control", "Content-Disposition"} {
				g.Writer.Header().Del(h)
			}
			writeProblem(g.Writer, problemOf(s.fail(name, err)))
		}
	})
}

// download registers a file that may be taken, with the role of the operation that answers the same as JSON.
func (s *Server) download(router *gin.Engine, role, path, name, kind string,
	make func(g *gin.Context) ([]byte, error)) {
	s.fetch(router, role, path, name, func(g *gin.Context) error {
		text, err := make(g)
		if err != nil {
			return err
		}
		g.Header("Content-Disposition", s.attachment(name))
		g.Data(http.StatusOK, kind, text)
		return nil
	})
}

// attachment names a file for the day.
func (s *Server) attachment(name string) string {
	stem, ext := name[:len(name)-len(extension(name))], extension(name)
	return `attachment; filename="` + stem + "-" + s.now().Format("2006-01-02") + ext + `"`
}

const (
	// exportsAtOnce is how many large files are made at once.
	exportsAtOnce = 2
	// pieceTime is how long a piece of a large file may take to be taken.
	pieceTime = time.Minute
)

// largeDownload registers a file that is too large for memory. It is written to the disk first, while few others are,
// and then sent for as long as it is taken: whoever takes it slowly holds nothing but the file, and what goes wrong is
// told before anything was sent.
func (s *Server) largeDownload(router *gin.Engine, role, path, name, kind string,
	write func(g *gin.Context, to io.Writer) error) {
	s.fetch(router, role, path, name, func(g *gin.Context) error {
		file, err := os.CreateTemp("", "wardifex-download-")
		if err != nil {
			return err
		}
		defer file.Close()
		if err := os.Remove(file.Name()); err != nil { // it goes with whoever takes it
			return err
		}
		if err := s.spool(g, file, write); err != nil {
			return err
		}
		size, err := file.Seek(0, io.SeekCurrent)
		if err == nil {
			_, err = file.Seek(0, io.SeekStart)
		}
		if err != nil {
			return err
		}
		g.Header("Content-Disposition", s.attachment(name))
		g.Header("Content-Type", kind)
		g.Header("Content-Length", strconv.FormatInt(size, 10))
		g.Status(http.StatusOK)
		control := http.NewResponseController(g.Writer)
		for {
			_ = control.SetWriteDeadline(time.Now().Add(pieceTime)) // a test's writer has none
			if _, err := io.CopyN(g.Writer, file, 1<<20); err != nil {
				return nil // it is all sent, or nobody takes it any more
			}
		}
	})
}

// spool writes a large file to the disk, while few others are written.
func (s *Server) spool(g *gin.Context, to io.Writer, write func(g *gin.Context, to io.Writer) error) error {
	if err := s.exports.Acquire(g.Request.Context(), 1); err != nil {
		return err
	}
	defer s.exports.Release(1)
	lines := bufio.NewWriterSize(to, 1<<18)
	if err := write(g, lines); err != nil {
		return err
	}
	return lines.Flush()
}

// onlyParameters refuses a download that is asked for with what it does not know: left
// out of account it would widen what comes.
func onlyParameters(g *gin.Context, known ...string) (url.Values, error) {
	q, err := url.ParseQuery(g.Request.URL.RawQuery)
	if err != nil {
		return nil, newProblem(
			http.StatusUnprocessableEntity,
			"The question in the address cannot be read: some of its characters are not encoded.",
			nil,
		)
	}
	for name := range q {
		if !slices.Contains(known, name) {
			said := "nothing"
			if len(known) > 0 {
				said = strings.Join(known, ", ")
			}
			return nil, newProblem(
				http.StatusUnprocessableEntity,
				"There is something in the address that is not known here. What may be asked with is: "+said+".",
				nil,
			)
		}
	}
	return q, nil
}

// onlyFlag reads the one parameter that there may be, yes or no.
func onlyFlag(g *gin.Context, name string) (bool, error) {
	q, err := onlyParameters(g, name)
	if err != nil {
		return false, err
	}
	switch text := q.Get(name); text {
	case "", "false":
		return false, nil
	case "true":
		return true, nil
	}
	return false, newProblem(http.StatusUnprocessableEntity, name+" is true or false.", nil)
}

func extension(name string) string {
	for i := len(name) - 1; i >= 0; i-- {
		if name[i] == '.' {
			return name[i:]
		}
	}
	return ""
}

const (
	csvKind  = "text/csv; charset=utf-8"
	jsonKind = "application/json"
)

func (s *Server) downloads(router *gin.Engine) {
	s.fetch(router, store.Member, "/api/photos/:id", "photo", s.photo)
	s.download(router, store.Technician, "/api/register.csv", "register.csv", csvKind, s.registerFile)
	s.download(router, store.Member, "/api/catalogue.json", "catalogue.json", jsonKind, s.catalogueFile)
	s.largeDownload(router, store.Technician, "/api/record.json", "record.json", jsonKind, s.recordFile)
	s.download(router, store.Member, "/api/answer.csv", "answer.csv", csvKind, s.answerCSV)
	s.download(router, store.Member, "/api/matrix.csv", "matrix.csv", csvKind, s.matrixCSV)
	s.download(router, store.Member, "/api/answer.json", "answer.json", jsonKind, s.answerJSON)
}

func (s *Server) registerFile(g *gin.Context) ([]byte, error) {
	if _, err := onlyParameters(g); err != nil {
		return nil, err
	}
	return s.app.RegisterCSV(g.Request.Context())
}
