package server

import (
	"context"
	"database/sql/driver"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"maps"
	"math"
	"net"
	"net/http"
	"strconv"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/jackc/pgx/v5/pgconn"

	"wardifex/internal/app"
	"wardifex/internal/core/civil"
	"wardifex/internal/core/quantity"
	"wardifex/internal/core/sentence"
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
	Fields   []string `json:"fields,omitempty" doc:"Where in the body it was typed, as JSON pointers (RFC 6901)"`
	// wait is when it is worth while to try again; 0 where that is not known.
	wait time.Duration
}

// GetHeaders says when to try again.
func (p *problem) GetHeaders() http.Header {
	h := http.Header{}
	if p.wait > 0 {
		h.Set("Retry-After", strconv.Itoa(int(math.Ceil(p.wait.Seconds()))))
	}
	return h
}

func (p *problem) Error() string             { return p.Detail }
func (p *problem) GetStatus() int            { return p.Status }
func (p *problem) ContentType(string) string { return "application/problem+json" }

func writeProblem(w http.ResponseWriter, p *problem) {
	maps.Copy(w.Header(), p.GetHeaders())
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
	var refusal *app.Refusal
	var conflict *app.Conflict
	var tries *app.TooManyTries
	var disk *app.DiskFault
	var over *http.MaxBytesError
	switch {
	case errors.As(err, &p):
		return p
	case errors.As(err, &refusal):
		p := newProblem(http.StatusUnprocessableEntity, whole(refusal.Sentence), nil)
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
		return newProblem(http.StatusConflict, whole(conflict.Sentence), conflict.Current)
	case errors.Is(err, store.ErrNotFound):
		return newProblem(http.StatusNotFound, whole(err.Error()), nil)
	case errors.Is(err, app.ErrBadLogin), errors.Is(err, app.ErrDisabled):
		return newProblem(http.StatusUnauthorized, whole(err.Error()), nil)
	case errors.As(err, &tries):
		p := newProblem(http.StatusTooManyRequests, whole(err.Error()), nil)
		p.wait = tries.Wait
		return p
	case errors.Is(err, store.ErrOtherBody):
		return newProblem(http.StatusUnprocessableEntity, whole(err.Error()), nil)
	case errors.As(err, &disk):
		return newProblem(http.StatusInsufficientStorage, whole(err.Error()), nil)
	case errors.As(err, &over):
		p, _ := tooLarge(over.Limit).(*problem)
		return p
	case errors.Is(err, store.ErrUnknownCommit):
		p := newProblem(
			http.StatusServiceUnavailable,
			"The database broke off just when this was being saved, so it is not known whether it was. What you typed is "+
				"still here: look whether it is on record, or send it again, which writes it once.",
			nil,
		)
		p.wait = time.Second
		return p
	case isTooLarge(err):
		return newProblem(http.StatusUnprocessableEntity, "A number in it is larger than any that is kept here; look for a "+
			"slip in it.", nil)
	case isBusy(err):
		p := newProblem(
			http.StatusServiceUnavailable,
			"Somebody else is writing to the same things just now, so nothing was saved. What you typed is still here: "+
				"try again in a moment.",
			nil,
		)
		p.wait = time.Second
		return p
	case errors.Is(err, context.DeadlineExceeded):
		return newProblem(
			http.StatusServiceUnavailable,
			"This took too long and was given up, so nothing was saved. What you typed is still here: try again in a "+
				"moment, or ask for less at once.",
			nil,
		)
	case isNoText(err):
		return newProblem(
			http.StatusUnprocessableEntity,
			"There is a character in it that cannot be kept (NUL, or half of one): take it out.",
			nil,
		)
	case unavailable(err):
		return newProblem(
			http.StatusServiceUnavailable,
			"The database did not answer, so nothing was saved. What you typed is still here: try again in a moment.",
			nil,
		)
	}
	return newProblem(
		http.StatusInternalServerError,
		"Something went wrong here, and nothing was saved. It is in the server's log.",
		nil,
	)
}

func newProblem(status int, detail string, current any) *problem {
	return &problem{
		Status:  status,
		Title:   http.StatusText(status),
		Detail:  shortened(detail, mostDetail),
		Current: current,
	}
}

// Bounds of what a refusal says, in characters.
const (
	mostDetail = 3000
	mostFault  = 300
	mostFaults = 10
)

// shortened is a text cut after so many characters.
func shortened(text string, most int) string {
	runes := []rune(text)
	if len(runes) <= most {
		return text
	}
	return string(runes[:most-1]) + "…"
}

// whole writes a clause as a sentence.
func whole(clause string) string {
	if clause == "" || strings.ContainsAny(clause[len(clause)-1:], ".?!") {
		return sentence.Begin(clause)
	}
	return sentence.Begin(clause) + "."
}

// unavailable reports whether the database could not be reached or broke off:
// a transaction in hand was not committed.
func unavailable(err error) bool {
	var pg *pgconn.PgError
	if errors.As(err, &pg) {
		// Source: PostgreSQL manual, appendix A: 57P0x operator intervention, 57014 a
		// statement that took too long, class 08 connection exception, 53300 too many
		// connections, 53100 its disk is full.
		return strings.HasPrefix(pg.Code, "57P0") || pg.Code == "57014" || strings.HasPrefix(pg.Code, "08") ||
			pg.Code == "53300" ||
			pg.Code == "53100"
	}
	var connect *pgconn.ConnectError
	var network net.Error
	return errors.As(err, &connect) || errors.As(err, &network) || errors.Is(err, driver.ErrBadConn) ||
		errors.Is(err, io.ErrUnexpectedEOF) || errors.Is(err, io.EOF) || strings.Contains(err.Error(), "conn closed")
}

// isTooLarge reports whether a number is beyond what its column holds, which the driver finds out, or PostgreSQL.
// Source: PostgreSQL manual, appendix A: numeric_value_out_of_range. The driver has no type for it.
func isTooLarge(err error) bool {
	var pg *pgconn.PgError
	return errors.As(err, &pg) && pg.Code == "22003" || strings.Contains(err.Error(), "than maximum value for int") ||
		strings.Contains(err.Error(), "than minimum value for int")
}

// isBusy reports whether others held what was to be written for too long. Source:
// PostgreSQL manual, appendix A: lock_not_available, deadlock_detected, serialization_failure.
func isBusy(err error) bool {
	var pg *pgconn.PgError
	return errors.As(err, &pg) && (pg.Code == "55P03" || pg.Code == "40P01" || pg.Code == "40001")
}

// isNoText reports whether a text was no text that the database takes. Source:
// PostgreSQL manual, appendix A: character_not_in_repertoire, untranslatable_character.
func isNoText(err error) bool {
	var pg *pgconn.PgError
	return errors.As(err, &pg) && (pg.Code == "22021" || pg.Code == "22P05")
}

// Faults that the API's frame finds in a request (a missing field, a wrong
// type) are written like all others.
func init() {
	huma.DefaultArrayNullable = false // lists are empty, never null
	huma.NewError = func(status int, message string, errs ...error) huma.StatusError {
		return newProblem(status, whole(faultsFound(message, errs)), nil)
	}
}

// faultsFound names the first few faults by where they are; what was sent is not repeated.
func faultsFound(message string, errs []error) string {
	var found []string
	for _, err := range errs {
		if err == nil {
			continue
		}
		if len(found) == mostFaults {
			found = append(found, fmt.Sprintf("and %d more", len(errs)-mostFaults))
			break
		}
		text := err.Error()
		var detail *huma.ErrorDetail
		if errors.As(err, &detail) {
			text = detail.Message
			if detail.Location != "" && !strings.Contains(text, "unexpected property") {
				text += " (" + detail.Location + ")"
			}
		}
		found = append(found, shortened(strings.TrimSuffix(text, "."), mostFault))
	}
	if len(found) > 0 {
		return strings.Join(found, "; ")
	}
	return message
}
