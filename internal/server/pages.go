package server

import (
	"bytes"
	"compress/gzip"
	"crypto/rand"
	"encoding/base64"
	"io"
	"mime"
	"net/http"
	"path"
	"slices"
	"strings"
	"sync"

	"github.com/gin-gonic/gin"
)

// pages serves the built front end, compressed once and kept.
type pages struct {
	files http.FileSystem
	mu    sync.Mutex
	kept  map[string]page
}

type page struct {
	plain, zipped []byte
	kind          string
}

// noncePlace is where index.html takes the nonce of each answer.
const noncePlace = "__NONCE__"

// workerPath is the script that stands between the pages and the network where there is no
// connection. It asks by a policy of its own.
const workerPath = "/offline.js"

// pagePaths are the addresses of the front end's pages; a part that begins with a colon
// is any.
var pagePaths = []string{
	"/", "/machine/new", "/machine/several", "/machine/:id", "/ask", "/ask/:kit", "/ask/:kit/:id", "/plan", "/kit/:key",
	"/work", "/work/:id", "/work/:id/tag", "/work/batch/:id", "/due", "/machine/:id/card", "/machine/:id/positions",
	"/machine/:id/history", "/machine/:id/wires", "/machine/:id/builds", "/builds", "/build/:id",
	"/machine/:id/firmware", "/machine/:id/settings", "/settings-file/:id", "/drift", "/words", "/carry-over", "/files",
	"/file/:id",
	"/compare", "/identify", "/parts", "/part/:id", "/labels", "/faults", "/catalogue", "/import", "/export", "/record",
	"/tasks", "/tokens",
	"/purchases", "/purchase/:id", "/lot", "/bench", "/bench/:name", "/calibrations", "/safety",
	"/today", "/use", "/fleet", "/account", "/people", "/shop",
	"/calendar", "/bookings", "/weeks", "/planning", "/reliability", "/spares",
}

// isPage reports whether there is a page at a clean path.
func isPage(name string) bool {
	if name == "/index.html" {
		return true
	}
	parts := strings.Split(name, "/")
	return slices.ContainsFunc(pagePaths, func(path string) bool {
		of := strings.Split(path, "/")
		if len(of) != len(parts) {
			return false
		}
		for i := range of {
			if of[i] != parts[i] && (!strings.HasPrefix(of[i], ":") || parts[i] == "") {
				return false
			}
		}
		return true
	})
}

func newPages(files http.FileSystem) *pages { return &pages{files: files, kept: map[string]page{}} }

func (p *pages) serve(g *gin.Context) {
	name := path.Clean("/" + g.Request.URL.Path)
	if strings.HasPrefix(name, "/api/") || g.Request.Method != http.MethodGet && g.Request.Method != http.MethodHead {
		writeProblem(g.Writer, newProblem(http.StatusNotFound, "There is nothing at this address.", nil))
		return
	}
	pg, ok := p.load(name)
	if !ok || name == "/" || name == "/index.html" {
		if strings.HasPrefix(name, "/assets/") {
			writeProblem(g.Writer, newProblem(http.StatusNotFound, "There is no such file.", nil))
			return
		}
		status := http.StatusOK
		if !isPage(name) {
			status = http.StatusNotFound // the page says so
		}
		p.index(g, status)
		return
	}
	h := g.Writer.Header()
	h.Set("Content-Type", pg.kind)
	h.Set("Vary", "Accept-Encoding")
	if strings.HasPrefix(name, "/assets/") {
		h.Set("Cache-Control", "public, max-age=31536000, immutable")
	}
	if name == workerPath {
		h.Set("Content-Security-Policy", "default-src 'none'; connect-src 'self'; frame-ancestors 'none'")
		h.Set("Cache-Control", "no-cache")
	}
	body := pg.plain
	if pg.zipped != nil && strings.Contains(g.GetHeader("Accept-Encoding"), "gzip") {
		h.Set("Content-Encoding", "gzip")
		body = pg.zipped
	}
	g.Writer.WriteHeader(http.StatusOK)
	_, _ = g.Writer.Write(body)
}

// index serves the page with a policy that allows our own files and nothing
// else; the nonce is for the style elements that dialogs add. The bench, which works
// in the page where there is no connection, is a WebAssembly module.
func (p *pages) index(g *gin.Context, status int) {
	pg, ok := p.load("/index.html")
	if !ok {
		g.String(http.StatusServiceUnavailable, "The front end is not built: run make build.\n")
		return
	}
	raw := make([]byte, 16)
	_, _ = rand.Read(raw)
	nonce := base64.RawURLEncoding.EncodeToString(raw)
	h := g.Writer.Header()
	h.Set(
		"Content-Security-Policy",
		"default-src 'none'; script-src 'self' 'wasm-unsafe-eval'; style-src 'self' 'nonce-"+nonce+"'; "+
			"img-src 'self' data: blob:; font-src 'self'; connect-src 'self'; worker-src 'self'; manifest-src 'self'; "+
			"base-uri 'none'; form-action 'self'; frame-ancestors 'none'",
	)
	h.Set("Content-Type", "text/html; charset=utf-8")
	h.Set("Cache-Control", "no-store")
	g.Writer.WriteHeader(status)
	_, _ = g.Writer.Write(bytes.ReplaceAll(pg.plain, []byte(noncePlace), []byte(nonce)))
}

func (p *pages) load(name string) (page, bool) {
	p.mu.Lock()
	defer p.mu.Unlock()
	if pg, ok := p.kept[name]; ok {
		return pg, true
	}
	f, err := p.files.Open(name)
	if err != nil {
		return page{}, false
	}
	defer f.Close()
	if info, err := f.Stat(); err != nil || info.IsDir() {
		return page{}, false
	}
	body, err := io.ReadAll(f)
	if err != nil {
		return page{}, false
	}
	pg := page{plain: body, kind: mime.TypeByExtension(path.Ext(name))}
	if pg.kind == "" {
		pg.kind = "application/octet-stream"
	}
	if !strings.HasPrefix(pg.kind, "font/") && !strings.HasPrefix(pg.kind, "image/png") {
		var b bytes.Buffer
		z, _ := gzip.NewWriterLevel(&b, gzip.BestCompression)
		_, _ = z.Write(body)
		_ = z.Close()
		pg.zipped = b.Bytes()
	}
	p.kept[name] = pg
	return pg, true
}
