package server

import (
	"net/http"

	"github.com/gin-gonic/gin"
)

// download registers a file that members may take, and so no JSON operation.
func (s *Server) download(router *gin.Engine, path, name, kind string, make func(g *gin.Context) ([]byte, error)) {
	router.GET(path, func(g *gin.Context) {
		u, err := s.whoever(g.Request.Context())
		if err == nil && u.ID == 0 {
			writeProblem(g.Writer, newProblem(http.StatusUnauthorized, "Sign in first.", nil))
			return
		}
		var text []byte
		if err == nil {
			err = s.Store.Refresh(g.Request.Context())
		}
		if err == nil {
			text, err = make(g)
		}
		if err != nil {
			writeProblem(g.Writer, problemOf(s.fail(name, err)))
			return
		}
		stem, ext := name[:len(name)-len(extension(name))], extension(name)
		g.Header("Content-Disposition", `attachment; filename="`+stem+"-"+s.now().Format("2006-01-02")+ext+`"`)
		g.Data(http.StatusOK, kind, text)
	})
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
	s.download(router, "/api/register.csv", "register.csv", csvKind, func(g *gin.Context) ([]byte, error) { return s.Store.RegisterCSV(g.Request.Context()) })
	s.download(router, "/api/catalogue.json", "catalogue.json", jsonKind, s.catalogueFile)
	s.download(router, "/api/record.json", "record.json", jsonKind, s.recordFile)
	s.download(router, "/api/answer.csv", "answer.csv", csvKind, s.answerCSV)
	s.download(router, "/api/matrix.csv", "matrix.csv", csvKind, s.matrixCSV)
	s.download(router, "/api/answer.json", "answer.json", jsonKind, s.answerJSON)
}
