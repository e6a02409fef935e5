package server

import (
	"context"
	"log/slog"
	"net/http"
	"net/netip"
	"strings"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humagin"
	"github.com/gin-gonic/gin"
	"golang.org/x/sync/semaphore"

	"wardifex/internal/app"
	"wardifex/internal/core/recovered"
	"wardifex/internal/ical"
	"wardifex/internal/store"
)

func init() { gin.SetMode(gin.ReleaseMode) } // for all servers of the process

// Config of a server.
type Config struct {
	Store *store.Store
	// Clock tells the time of everything that is recorded.
	Clock func() time.Time
	// Demo shows the demo accounts on the sign-in page.
	Demo []DemoAccount
	// SecureCookies must be on wherever the server is reached over TLS.
	SecureCookies bool
	// Proxies are the addresses and networks of proxies, whose word for where a request comes from is taken.
	Proxies []netip.Prefix
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
	app      *app.App
	sessions *scs.SessionManager
	cleaner  *cleaner
	jobs     *jobs
	fetcher  *ical.Fetcher
	handler  http.Handler
	api      huma.API
	heavy    *semaphore.Weighted
	exports  *semaphore.Weighted
}

// heavyAtOnce is how many answers that reckon over the whole fleet are worked out at once:
// enough that none waits long for its turn, few enough for their memory.
const heavyAtOnce = 6

// New puts a server together. Close ends its background work.
func New(c Config) *Server {
	s := &Server{Config: c, heavy: semaphore.NewWeighted(heavyAtOnce),
		exports: semaphore.NewWeighted(exportsAtOnce)}
	s.app = app.New(c.Store, s.now)
	s.fetcher = ical.NewFetcher(nil)
	s.cleaner = startCleaner(c.Store, c.Log, func(ctx context.Context) error {
		return s.app.KeepSafetyFile(ctx, "the application", s.now())
	})
	s.sessions = scs.New()
	s.sessions.Store = c.Store.Sessions()
	s.sessions.Lifetime = 14 * 24 * time.Hour
	s.sessions.Cookie.Name = "wardifex_session"
	s.sessions.Cookie.HttpOnly = true
	s.sessions.Cookie.SameSite = http.SameSiteLaxMode
	s.sessions.Cookie.Secure = c.SecureCookies
	s.sessions.ErrorFunc = func(w http.ResponseWriter, r *http.Request, err error) {
		s.Log.Error("session", "err", err)
		writeProblem(w, problemOf(err))
	}

	router := gin.New()
	trusted := make([]string, len(c.Proxies))
	for i, p := range c.Proxies {
		trusted[i] = p.String()
	}
	if err := router.SetTrustedProxies(trusted); err != nil {
		panic("server: " + err.Error()) // each is a network already
	}
	router.Use(gin.CustomRecoveryWithWriter(nil, func(g *gin.Context, value any) {
		err := recovered.Of(value)
		s.Log.Error("panic", "err", err, "path", g.Request.URL.Path)
		writeProblem(g.Writer, problemOf(err))
	}))
	config := huma.DefaultConfig("Wardifex", "1")
	config.DocsPath, config.SchemasPath, config.CreateHooks = "", "", nil
	config.OpenAPIPath = "/api/openapi"
	config.RejectUnknownQueryParameters = true
	s.api = humagin.New(router, config)
	s.routes()
	AddChoices(s.api.OpenAPI().Components.Schemas)
	router.GET("/healthz", func(g *gin.Context) {
		if err := c.Store.SQL.PingContext(g.Request.Context()); err != nil {
			writeProblem(g.Writer, problemOf(err))
			return
		}
		g.String(http.StatusOK, "ok\n")
	})
	s.downloads(router)
	s.calendarFiles(router)
	s.handedOut(router)
	if c.Files != nil {
		router.NoRoute(newPages(c.Files).serve)
	}
	s.handler = s.outer(router)
	return s
}

// Prepare loads and judges the fleet before anybody asks for it.
func (s *Server) Prepare(ctx context.Context) error { return s.app.Prepare(ctx) }

// outer wraps what every request passes: headers, refusal of cross-site
// writes, sessions.
func (s *Server) outer(next http.Handler) http.Handler {
	guard := http.NewCrossOriginProtection()
	guard.SetDenyHandler(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
		writeProblem(
			w,
			&problem{
				Status: http.StatusForbidden,
				Title:  "Forbidden",
				Detail: "this write came from another site and was refused",
			},
		)
	}))
	inner := guard.Handler(s.sessions.LoadAndSave(withBearer(next)))
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		// What nobody waits for any more is not worked on, and a database that stands still
		// is given up: every wait and every search ends with the context.
		ctx, cancel := context.WithTimeout(r.Context(), patience(r))
		defer cancel()
		r = r.WithContext(ctx)
		if r.Body == nil || r.Body == http.NoBody {
			endReading(http.NewResponseController(w))
		}
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
		if strings.HasPrefix(r.URL.Path, "/api/") {
			h.Set("Cache-Control", "no-store")
		}
		inner.ServeHTTP(w, r)
	})
}

// patience is how long a request may take: files of a whole fleet take longer.
func patience(r *http.Request) time.Duration {
	switch r.URL.Path {
	case "/api/record/preview", "/api/record/import", "/api/record.json", "/api/uploads",
		"/api/register/preview", "/api/register/import", "/api/meters/import", "/api/catalogue/import":
		return 150 * time.Second
	case "/api/print-files":
		if r.Method == http.MethodPost {
			return longest // it ends when nothing comes for a minute
		}
	}
	return 25 * time.Second
}

// now is the time by which everything is recorded and due, in the shop's time zone.
func (s *Server) now() time.Time { return s.Clock().In(s.Store.Location()) }

// ServeHTTP answers one request.
func (s *Server) ServeHTTP(w http.ResponseWriter, r *http.Request) { s.handler.ServeHTTP(w, r) }

// Close ends the server's background work.
func (s *Server) Close() {
	s.cleaner.stop()
	if s.jobs != nil {
		s.jobs.stop()
	}
}

// StartJobs does background work of the database in this process too, until Close.
func (s *Server) StartJobs() (err error) {
	s.jobs, err = startJobs(s.Store, s.app, s.fetcher.Fetch, s.now, s.Log)
	return err
}

// OpenAPI is the document that describes the API, as JSON.
func (s *Server) OpenAPI() ([]byte, error) { return s.api.OpenAPI().MarshalJSON() }
