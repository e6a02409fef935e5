package server

import (
	"context"
	"database/sql/driver"
	"encoding/json"
	"errors"
	"io"
	"net"
	"net/http"
	"strings"

	"github.com/danielgtaylor/huma/v2"
	"github.com/jackc/pgx/v5/pgconn"

	"wardifex/internal/core/civil"
	"wardifex/internal/core/quantity"
	"wardifex/internal/store"
)

// problem is an error as RFC 9457 writes it.
type problem struct {
	Status  int    `json:"status"`
	Title   string `json:"title"`
	Detail  string `json:"detail" doc:"What is wrong and what would be right"`
	Current any    `json:"current,omitempty" doc:"At a conflict: what it is now"`
	Ask     bool   `json:"ask,omitempty" doc:"It is a question: the same is taken when it is sent as sure"`
	// Written and Meanings are of something typed that means one thing or another.
	Written  string   `json:"written,omitempty" doc:"What was typed and has several meanings"`
	Meanings []string `json:"meanings,omitempty" doc:"Each of them, written so that it has only that one"`
}

func (p *problem) Error() string             { return p.Detail }
func (p *problem) GetStatus() int            { return p.Status }
func (p *problem) ContentType(string) string { return "application/problem+json" }

func writeProblem(w http.ResponseWriter, p *problem) {
	w.Header().Set("Content-Type", "application/problem+json")
	w.WriteHeader(p.Status)
	_ = json.NewEncoder(w).Encode(p)
}

// fail turns an error into a problem and logs those that are ours.
func (s *Server) fail(operation string, err error) error {
	p := problemOf(err)
	if p.Status >= 500 {
		s.Log.Error(operation, "err", err)
	}
	return p
}

func problemOf(err error) *problem {
	var p *problem
	var refusal *store.Refusal
	var conflict *store.Conflict
	switch {
	case errors.As(err, &p):
		return p
	case errors.As(err, &refusal):
		p := newProblem(http.StatusUnprocessableEntity, sentence(refusal.Sentence), nil)
		p.Ask = refusal.Ask
		var number *quantity.TwoMeanings
		if errors.As(err, &number) {
			either := number.Either()
			p.Written, p.Meanings = number.Written, either[:]
		}
		var day *civil.TwoDays
		if errors.As(err, &day) {
			either := day.Either()
			p.Written, p.Meanings = day.Written, either[:]
		}
		return p
	case errors.As(err, &conflict):
		return newProblem(http.StatusConflict, sentence(conflict.Sentence), conflict.Current)
	case errors.Is(err, store.ErrNotFound):
		return newProblem(http.StatusNotFound, sentence(err.Error()), nil)
	case errors.Is(err, store.ErrBadLogin):
		return newProblem(http.StatusUnauthorized, sentence(err.Error()), nil)
	case errors.Is(err, store.ErrTooManyTries):
		return newProblem(http.StatusTooManyRequests, sentence(err.Error()), nil)
	case unavailable(err):
		return newProblem(http.StatusServiceUnavailable, "The database did not answer, so nothing was saved. What you typed is still here: try again in a moment.", nil)
	}
	return newProblem(http.StatusInternalServerError, "Something went wrong here, and nothing was saved. It is in the server's log.", nil)
}

func newProblem(status int, detail string, current any) *problem {
	return &problem{Status: status, Title: http.StatusText(status), Detail: detail, Current: current}
}

func sentence(s string) string {
	if s == "" {
		return s
	}
	s = strings.ToUpper(s[:1]) + s[1:]
	if !strings.ContainsAny(s[len(s)-1:], ".?!") {
		s += "."
	}
	return s
}

// unavailable reports whether the database could not be reached or broke off:
// a transaction in hand was not committed.
func unavailable(err error) bool {
	var pg *pgconn.PgError
	if errors.As(err, &pg) {
		// Source: PostgreSQL manual, appendix A: 57P0x operator intervention,
		// class 08 connection exception, 53300 too many connections.
		return strings.HasPrefix(pg.Code, "57P0") || strings.HasPrefix(pg.Code, "08") || pg.Code == "53300"
	}
	var connect *pgconn.ConnectError
	var network net.Error
	return errors.As(err, &connect) || errors.As(err, &network) || errors.Is(err, driver.ErrBadConn) ||
		errors.Is(err, io.ErrUnexpectedEOF) || errors.Is(err, io.EOF) || errors.Is(err, context.DeadlineExceeded) || strings.Contains(err.Error(), "conn closed")
}

// Faults that the API's frame finds in a request (a missing field, a wrong
// type) are written like all others.
func init() {
	huma.DefaultArrayNullable = false // lists are empty, never null
	huma.NewError = func(status int, message string, errs ...error) huma.StatusError {
		var found []string
		for _, err := range errs {
			if err != nil {
				found = append(found, strings.TrimSuffix(err.Error(), "."))
			}
		}
		if len(found) > 0 {
			message = strings.Join(found, "; ")
		}
		return newProblem(status, sentence(message), nil)
	}
}
