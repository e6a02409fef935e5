package server

import (
	"net/http"
	"net/url"
	"slices"
	"strings"

	"github.com/gin-gonic/gin"
)

// members registers what members may fetch and what is no JSON operation.
func (s *Server) members(router *gin.Engine, path, name string, do func(g *gin.Context) error) {
	router.GET(path, func(g *gin.Context) {
		ctx := g.Request.Context()
		u, err := s.currentUser(ctx)
		if err == nil && u.ID == 0 {
			err = newProblem(http.StatusUnauthorized, "Sign in first.", nil)
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

// download registers a file that members may take.
func (s *Server) download(router *gin.Engine, path, name, kind string, make func(g *gin.Context) ([]byte, error)) {
	s.members(router, path, name, func(g *gin.Context) error {
		text, err := make(g)
		if err != nil {
			return err
		}
		stem, ext := name[:len(name)-len(extension(name))], extension(name)
		g.Header("Content-Disposition", `attachment; filename="`+stem+"-"+s.now().Format("2006-01-02")+ext+`"`)
		g.Data(http.StatusOK, kind, text)
		return nil
	})
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
	s.members(router, "/api/photos/:id", "photo", s.photo)
	s.download(router, "/api/register.csv", "register.csv", csvKind, s.registerFile)
	s.download(router, "/api/catalogue.json", "catalogue.json", jsonKind, s.catalogueFile)
	s.download(router, "/api/record.json", "record.json", jsonKind, s.recordFile)
	s.download(router, "/api/answer.csv", "answer.csv", csvKind, s.answerCSV)
	s.download(router, "/api/matrix.csv", "matrix.csv", csvKind, s.matrixCSV)
	s.download(router, "/api/answer.json", "answer.json", jsonKind, s.answerJSON)
}

func (s *Server) registerFile(g *gin.Context) ([]byte, error) {
	if _, err := onlyParameters(g); err != nil {
		return nil, err
	}
	return s.app.RegisterCSV(g.Request.Context())
}
