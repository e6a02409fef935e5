package server

import (
	"bytes"
	"context"
	"fmt"
	"time"

	"github.com/gin-gonic/gin"

	"wardifex/internal/app"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
)

type matrixAsked struct {
	What     string  `query:"what" maxLength:"60" doc:"Kits of one kind of upgrade"`
	Name     string  `query:"name" maxLength:"120" doc:"In the kit's name"`
	Sort     string  `query:"sort" enum:"kind,fits,leans," doc:"Order of the kits"`
	Kits     int     `query:"kits" minimum:"1" maximum:"500" default:"60" doc:"At most so many kits"`
	Machines []int64 `query:"machine,explode" maxItems:"200" doc:"Numbers of machines; all where there are none"`
	AnswerWanted
}

// judgingPatience is how long the matrix on the screen waits for machines that are not on its
// page: they are judged in the background meanwhile.
const judgingPatience = 1500 * time.Millisecond

func (s *Server) matrix(ctx context.Context, _ user, in *matrixAsked) (*answer[app.Matrix], error) {
	q := app.MatrixQuery{What: in.What, Name: in.Name, Sort: in.Sort, Kits: in.Kits, Bay: in.Bay, Text: in.Text,
		Machines: in.Machines, Wanted: in.wanted(), Offset: in.Offset, Limit: in.Limit, Patience: judgingPatience}
	return answerOf(s.app.Matrix(ctx, q))
}

func (s *Server) matrixCSV(g *gin.Context) ([]byte, error) {
	if _, err := onlyParameters(g); err != nil {
		return nil, err
	}
	m, err := s.app.Matrix(g.Request.Context(), app.MatrixQuery{})
	if err != nil {
		return nil, err
	}
	head := []string{"Machine", "Bay"}
	for _, k := range m.Kits {
		head = append(head, k.Name)
	}
	lines := [][]string{head}
	for _, r := range m.Machines {
		line := []string{r.Name, r.Bay}
		for i, a := range r.Answers {
			line = append(line, withLean(a, r.Leans[i])+forHead(r.Heads[i]))
		}
		lines = append(lines, line)
	}
	var b bytes.Buffer
	err = machine.WriteCSV(&b, lines)
	return b.Bytes(), err
}

// forHead names the head that an answer is for, where there are several.
func forHead(head int) string {
	if head == 0 {
		return ""
	}
	return fmt.Sprintf(" (head %d)", head)
}

// withLean is an answer with which way the claims lean, in words.
func withLean(a, lean fit.Answer) string {
	switch lean {
	case "":
		return string(a)
	case fit.NoLean:
		return string(a) + ", no lean"
	}
	return string(a) + ", leans to " + string(lean)
}
