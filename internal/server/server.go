package server

import (
	"context"
	"errors"
	"log/slog"
	"net/http"
	"time"

	"github.com/alexedwards/scs/postgresstore"
	"github.com/alexedwards/scs/v2"
	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humagin"
	"github.com/gin-gonic/gin"

	"wardifex/internal/store"
)

// Config of a server.
type Config struct {
	Store *store.Store
	// Clock tells the time of everything that is recorded.
	Clock func() time.Time
	// Demo shows the demo accounts on the sign-in page.
	Demo []DemoAccount
	// SecureCookies must be on wherever the server is reached over TLS.
	SecureCookies bool
	// Files is the built front end; nil serves the API alone.
	Files http.FileSystem
	Log   *slog.Logger
}

// DemoAccount is an account that the demo's sign-in page shows.
type DemoAccount struct {
	Name     string `json:"name"`
	Password string `json:"password"`
	Role     string `json:"role"`
}

// Server answers requests.
type Server struct {
	Config
	sessions *scs.SessionManager
	cleaner  *postgresstore.PostgresStore
	handler  http.Handler
	api      huma.API
	judged   judged
	remedied remedied
}

// New puts a server together. Close ends its background work.
func New(c Config) *Server {
	s := &Server{Config: c}
	s.cleaner = postgresstore.New(c.Store.SQL)
	s.sessions = scs.New()
	s.sessions.Store = s.cleaner
	s.sessions.Lifetime = 14 * 24 * time.Hour
	s.sessions.Cookie.Name = "wardifex_session"
	s.sessions.Cookie.HttpOnly = true
	s.sessions.Cookie.SameSite = http.SameSiteLaxMode
	s.sessions.Cookie.Secure = c.SecureCookies
	s.sessions.ErrorFunc = func(w http.ResponseWriter, r *http.Request, err error) {
		s.Log.Error("session", "err", err)
		writeProblem(w, problemOf(err))
	}

	gin.SetMode(gin.ReleaseMode)
	router := gin.New()
	router.Use(gin.CustomRecoveryWithWriter(nil, func(g *gin.Context, err any) {
		s.Log.Error("panic", "err", err, "path", g.Request.URL.Path)
		writeProblem(g.Writer, problemOf(errors.New("panic")))
	}))
	config := huma.DefaultConfig("Wardifex", "1")
	config.DocsPath, config.SchemasPath, config.CreateHooks = "", "", nil
	config.OpenAPIPath = "/api/openapi"
	s.api = humagin.New(router, config)
	s.routes()
	router.GET("/healthz", func(g *gin.Context) {
		if err := c.Store.SQL.PingContext(g.Request.Context()); err != nil {
			writeProblem(g.Writer, problemOf(err))
			return
		}
		g.String(http.StatusOK, "ok\n")
	})
	s.downloads(router)
	if c.Files != nil {
		router.NoRoute(newPages(c.Files).serve)
	}
	s.handler = s.outer(router)
	return s
}

// outer wraps what every request passes: headers, refusal of cross-site
// writes, sessions.
func (s *Server) outer(next http.Handler) http.Handler {
	guard := http.NewCrossOriginProtection()
	guard.SetDenyHandler(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
		writeProblem(w, &problem{Status: http.StatusForbidden, Title: "Forbidden", Detail: "this write came from another site and was refused"})
	}))
	inner := guard.Handler(s.sessions.LoadAndSave(next))
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		h := w.Header()
		h.Set("Content-Security-Policy", "default-src 'none'; frame-ancestors 'none'")
		h.Set("X-Content-Type-Options", "nosniff")
		h.Set("Referrer-Policy", "same-origin")
		h.Set("Cross-Origin-Opener-Policy", "same-origin")
		h.Set("Cross-Origin-Resource-Policy", "same-origin")
		h.Set("Permissions-Policy", "geolocation=(), microphone=(), camera=(self)")
		h.Set("X-Frame-Options", "DENY")
		if s.SecureCookies {
			h.Set("Strict-Transport-Security", "max-age=31536000")
		}
		if len(r.URL.Path) >= 5 && r.URL.Path[:5] == "/api/" {
			h.Set("Cache-Control", "no-store")
		}
		inner.ServeHTTP(w, r)
	})
}

// now is the time by which everything is recorded and due, in the shop's time zone.
func (s *Server) now() time.Time { return s.Clock().In(s.Store.Location()) }

// ServeHTTP answers one request.
func (s *Server) ServeHTTP(w http.ResponseWriter, r *http.Request) { s.handler.ServeHTTP(w, r) }

// Close ends the server's background work.
func (s *Server) Close() { s.cleaner.StopCleanup() }

// OpenAPI is the document that describes the API, as JSON.
func (s *Server) OpenAPI() ([]byte, error) { return s.api.OpenAPI().MarshalJSON() }

// user is the account behind a request.
type user struct {
	ID   int64
	Name string // as shown
	Role string
}

var rank = map[string]int{store.Member: 1, store.Technician: 2, store.Lead: 3}

// anybody marks operations that need no account.
const anybody = ""

// handle registers an operation with the least role that may call it.
func handle[I, O any](s *Server, least, method, path, id, summary string, do func(ctx context.Context, u user, in *I) (*O, error), more ...func(*huma.Operation)) {
	op := huma.Operation{OperationID: id, Method: method, Path: "/api" + path, Summary: summary, Errors: []int{401, 403, 404, 409, 422, 503}}
	for _, m := range more {
		m(&op)
	}
	huma.Register(s.api, op, func(ctx context.Context, in *I) (*O, error) {
		u, err := s.whoever(ctx)
		if err == nil {
			err = s.Store.Refresh(ctx)
		}
		if err != nil {
			return nil, s.fail(id, err)
		}
		if least != anybody {
			if u.ID == 0 {
				return nil, &problem{Status: http.StatusUnauthorized, Title: "Unauthorized", Detail: "sign in first"}
			}
			if rank[u.Role] < rank[least] {
				return nil, &problem{Status: http.StatusForbidden, Title: "Forbidden", Detail: "this needs the role " + least + "; you are signed in as " + u.Role}
			}
		}
		out, err := do(ctx, u, in)
		if err != nil {
			return nil, s.fail(id, err)
		}
		return out, nil
	})
}

func bodyUpTo(bytes int64) func(*huma.Operation) {
	return func(op *huma.Operation) {
		op.MaxBodyBytes, op.BodyReadTimeout = bytes, 2*time.Minute
	}
}

// whoever finds the account of the session; a zero user when there is none.
// The role is read anew at each request, so that a change takes effect at once.
func (s *Server) whoever(ctx context.Context) (user, error) {
	id := s.sessions.GetInt64(ctx, "user")
	if id == 0 {
		return user{}, nil
	}
	u, err := s.Store.User(ctx, id)
	if errors.Is(err, store.ErrNotFound) {
		return user{}, nil
	}
	return user{ID: u.ID, Name: u.DisplayName, Role: u.Role}, err
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
