package server

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"reflect"
	"strings"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humagin"
	"github.com/gin-gonic/gin"

	"wardifex/internal/core/jsonbounds"
	"wardifex/internal/store"
)

// user is the account behind a request.
type user struct {
	ID    int64
	Name  string // as shown
	Role  string
	token bool // a program, with a token
}

var rank = map[string]int{store.Member: 1, store.Technician: 2, store.Lead: 3}

// isStaff reports whether the user is a technician or a lead.
func (u user) isStaff() bool { return rank[u.Role] >= rank[store.Technician] }

// public marks operations that need no account.
const public = ""

// Sizes of request bodies in bytes. Files are sent by themselves, as they are.
const (
	memberBody = 64 << 10
	staffBody  = 1 << 20
)

// bodyBounds are those of what is typed and sent as JSON.
var bodyBounds = jsonbounds.Bounds{Depth: 48, Values: 100_000, Text: 20_000, Number: 1e12, Years: true}

// operation is how one operation is called, beside what it does.
type operation struct {
	huma.Operation
	minRole string
	// reads says that nothing is written, whatever the method.
	reads bool
	// own says that it begins its transactions itself: what counts also when it fails, or
	// takes long before anything is written.
	own bool
	// keyed says that it is written once however often it is sent under one key.
	keyed bool
	// streamed says that the body is handed on as it comes.
	streamed bool
	// heavy says that it reckons over the whole fleet: a few at a time do, so that what is
	// quick stays quick.
	heavy bool
	// file says that the body is a file, taken as it is.
	file bool
	// personal says that it is about who may come in: a program with a token never may, so that a token that leaked
	// ends with itself.
	personal bool
}

// request is what an operation knows of the request that calls it.
type request struct {
	user        user
	key         string
	fingerprint []byte
	body        []byte // as it was typed; of a file nothing
	address     string
	device      string
	agent       string // what the browser calls itself
	release     func()
}

type requestKey struct{}

func requestOf(ctx context.Context) *request {
	if r, ok := ctx.Value(requestKey{}).(*request); ok {
		return r
	}
	return &request{}
}

// handle registers an operation with the least role that may call it.
func handle[I, O any](
	s *Server, minRole, method, path, id, summary string,
	do func(ctx context.Context, u user, in *I) (*O, error), more ...func(*operation),
) {
	op := &operation{
		Operation: huma.Operation{
			OperationID: id, Method: method, Path: "/api" + path, Summary: summary,
			Errors: []int{401, 403, 404, 409, 413, 422, 503}, MaxBodyBytes: staffBody,
			BodyReadTimeout: -1, // admit takes the body in, and bounds how long that takes
		},
		minRole: minRole,
		reads:   method == http.MethodGet,
		keyed:   method != http.MethodGet,
	}
	if rank[minRole] <= rank[store.Member] {
		op.MaxBodyBytes = memberBody
	}
	for _, m := range more {
		m(op)
	}
	if op.keyed {
		op.Parameters = append(op.Parameters, idempotencyKey)
	}
	op.Middlewares = huma.Middlewares{s.admit(op)}
	huma.Register(s.api, op.Operation, func(ctx context.Context, in *I) (*O, error) {
		r := requestOf(ctx)
		if op.heavy {
			if err := s.heavy.Acquire(ctx, 1); err != nil {
				return nil, s.fail(id, err)
			}
			defer s.heavy.Release(1)
		}
		ctx = store.WithActor(ctx, store.Actor{Account: r.user.ID, Name: r.user.Name, Action: id, At: s.now()})
		var out *O
		var err error
		if op.reads {
			err = s.Store.Pinned(ctx, func(ctx context.Context) (err error) {
				mine := *in // what is typed may be changed while it is worked on
				out, err = do(ctx, r.user, &mine)
				return err
			})
		} else if ctx, err = s.Store.Pin(ctx); err == nil {
			if op.own {
				out, err = do(ctx, r.user, in)
			} else {
				out, err = write(ctx, s, r, in, do)
			}
		}
		if err != nil {
			err = s.fail(id, err)
			if p, ok := errors.AsType[*problem](err); ok && p.Written != "" {
				p.Fields = fieldsWith(r.body, p.Written)
			}
			return nil, err
		}
		if !r.user.isStaff() {
			out = forMembers(out)
		}
		return out, nil
	})
}

// idempotencyKey is the header that every write takes.
var idempotencyKey = &huma.Param{
	Name: "Idempotency-Key", In: "header", Schema: &huma.Schema{Type: huma.TypeString},
	Description: "Of the sender's making, new for each write. The same write sent again under its key within 14 days is " +
		"answered as it was, and written once; another write under the same key is refused.",
}

// reading marks a POST that asks something and writes nothing.
func reading(op *operation) { op.reads, op.keyed = true, false }

// fleetWide marks what reckons over the whole fleet.
func fleetWide(op *operation) { op.heavy = true }

// ownTransactions marks what begins its transactions itself.
func ownTransactions(op *operation) { op.own, op.keyed = true, false }

// personal marks what a person does who is signed in, and no program with a token.
func personal(op *operation) { op.personal = true }

// preparing marks a write that has much to do before it begins its transaction, by write.
func preparing(op *operation) { op.own = true }

// streaming marks an upload.
func streaming(op *operation) { op.own, op.keyed, op.streamed = true, false, true }

// fileUpTo marks an operation whose body is a file of at most so many bytes.
func fileUpTo(bytes int64) func(*operation) {
	return func(op *operation) {
		op.file, op.MaxBodyBytes = true, bytes
	}
}

// admit looks who asks before anything of the body is read, and then takes the body in
// within its bounds.
func (s *Server) admit(op *operation) func(huma.Context, func(huma.Context)) {
	return func(c huma.Context, next func(huma.Context)) {
		g := humagin.Unwrap(c)
		r := &request{address: g.ClientIP(), key: g.GetHeader("Idempotency-Key"),
			agent: agentOf(g.GetHeader("User-Agent")), release: func() {}}
		err := s.mayCall(c.Context(), op, r)
		if err == nil {
			err = s.takeBody(g, op, r)
		}
		defer r.release() // also where the body broke off
		if err != nil {
			writeProblem(g.Writer, problemOf(s.fail(op.OperationID, err)))
			return
		}
		if cookie, err := g.Request.Cookie(deviceCookie); err == nil {
			r.device = cookie.Value
		}
		next(huma.WithValue(c, requestKey{}, r))
	}
}

func (s *Server) mayCall(ctx context.Context, op *operation, r *request) error {
	u, err := s.currentUser(ctx)
	if err != nil {
		return err
	}
	r.user = u
	switch {
	case op.minRole == public && !(u.token && op.personal):
	case u.ID == 0:
		return newProblem(http.StatusUnauthorized, "Sign in first.", nil)
	case u.token && op.personal:
		return newProblem(http.StatusForbidden, "A token may not do this: sign in yourself.", nil)
	case rank[u.Role] < rank[op.minRole]:
		return needsRole(op.minRole, u)
	}
	if len(r.key) > 200 {
		return newProblem(
			http.StatusUnprocessableEntity,
			"The Idempotency-Key is longer than 200 characters; send a shorter one.",
			nil,
		)
	}
	return nil
}

func needsRole(role string, u user) error {
	return newProblem(http.StatusForbidden, "This needs the role "+role+"; you are signed in as "+u.Role+".", nil)
}

func tooLarge(most int64) error {
	return newProblem(
		http.StatusRequestEntityTooLarge,
		fmt.Sprintf("What was sent is larger than %s, the most that is taken here.", sizeOf(most)),
		nil,
	)
}

func sizeOf(bytes int64) string {
	if bytes >= 1<<20 {
		return fmt.Sprintf("%d MiB", bytes>>20)
	}
	return fmt.Sprintf("%d KiB", bytes>>10)
}

// takeBody reads the body, but for an upload that is streamed on, and checks it.
func (s *Server) takeBody(g *gin.Context, op *operation, r *request) error {
	q := g.Request
	if q.Body == nil || q.Method == http.MethodGet {
		return nil
	}
	if q.ContentLength > op.MaxBodyBytes {
		return tooLarge(op.MaxBodyBytes)
	}
	at := typedPace
	if op.streamed {
		at = streamPace
	} else if op.file {
		at = filePace
	}
	coming := newComing(http.MaxBytesReader(nil, q.Body, op.MaxBodyBytes), g.Writer, at)
	q.Body = coming
	if op.streamed {
		return nil
	}
	if op.file {
		// In memory it is once here and once where it is decoded.
		size := op.MaxBodyBytes
		if q.ContentLength >= 0 {
			size = q.ContentLength
		}
		release, err := s.app.TakeMemory(q.Context(), 2*size)
		if err != nil {
			return err
		}
		r.release = release
	}
	body, err := io.ReadAll(coming)
	coming.over()
	var over *http.MaxBytesError
	switch {
	case errors.As(err, &over):
		return tooLarge(op.MaxBodyBytes)
	case errors.Is(err, errTooSlow):
		return err
	case err != nil:
		return newProblem(
			http.StatusBadRequest,
			"The request broke off before all of it was here, so nothing was saved. Send it again.",
			nil,
		)
	}
	if !op.file {
		if err := jsonbounds.Check(body, bodyBounds); err != nil {
			return newProblem(http.StatusUnprocessableEntity, whole(err.Error()), nil)
		}
		r.body = body
	}
	sum := sha256.New()
	fmt.Fprintf(sum, "%s %s\n", q.Method, q.URL.RequestURI())
	sum.Write(body)
	r.fingerprint = sum.Sum(nil)
	q.Body = io.NopCloser(bytes.NewReader(body))
	return nil
}

// write does a write in one transaction with the answer that it gets, so that the same
// sent again is answered again and written once.
func write[I, O any](
	ctx context.Context,
	s *Server,
	r *request,
	in *I,
	do func(context.Context, user, *I) (*O, error),
) (*O, error) {
	var out *O
	attempt := func(ctx context.Context) error {
		out = nil
		if r.key != "" {
			answer, before, err := s.Store.ClaimKey(ctx, r.user.ID, r.key, r.fingerprint)
			if err != nil {
				return err
			}
			if before {
				out, err = answered[O](answer)
				return err
			}
		}
		// What is typed may be changed while it is worked on; a second try begins from what came.
		mine := *in
		var err error
		if out, err = do(ctx, r.user, &mine); err != nil || r.key == "" {
			return err
		}
		answer, err := json.Marshal(out)
		if err != nil {
			return err
		}
		return s.Store.KeepAnswer(ctx, r.user.ID, r.key, answer)
	}
	err := s.Store.InTx(ctx, attempt)
	if errors.Is(err, store.ErrUnknownCommit) && r.key != "" {
		// The key tells, once the database answers again: it was written with the rest.
		if again := s.Store.InTx(ctx, attempt); again == nil {
			err = nil
		}
	}
	return out, err
}

// answered makes of what was kept what was answered.
func answered[O any](kept []byte) (*O, error) {
	out := new(O)
	if reflect.TypeFor[O]().NumField() == 0 {
		return out, nil
	}
	return out, json.Unmarshal(kept, out)
}

// currentUser finds the account of the token or the session; a zero user when there is neither.
// The role is read anew at each request, so that a change takes effect at once.
func (s *Server) currentUser(ctx context.Context) (user, error) {
	if u, is, err := s.tokenUser(ctx); is {
		return u, err
	}
	id := s.sessions.GetInt64(ctx, "user")
	if id == 0 {
		return user{}, nil
	}
	u, err := s.Store.User(ctx, id)
	if errors.Is(err, store.ErrNotFound) || u.DisabledAt != nil {
		return user{}, nil
	}
	return user{ID: u.ID, Name: u.DisplayName, Role: u.Role}, err
}

// agentOf bounds what a browser calls itself, which may be anything.
func agentOf(header string) string {
	plain := strings.Map(func(r rune) rune {
		if r < ' ' || r > '~' {
			return -1
		}
		return r
	}, header)
	return plain[:min(len(plain), 300)]
}

// none is an answer or request without content.
type none struct{}

// ByID is the path of one thing by its number.
type ByID struct {
	ID int64 `path:"id"`
}

type answer[T any] struct{ Body T }

func answerOf[T any](v T, err error) (*answer[T], error) {
	if err != nil {
		return nil, err
	}
	return &answer[T]{Body: v}, nil
}
