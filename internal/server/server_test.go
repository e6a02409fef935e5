package server_test

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"image"
	"image/jpeg"
	"io"
	"log/slog"
	"maps"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"net/netip"
	"os"
	"regexp"
	"slices"
	"strings"
	"testing"
	"testing/fstest"
	"time"

	"wardifex/internal/app"
	"wardifex/internal/postgres/pgtest"
	"wardifex/internal/server"
	"wardifex/internal/store"
)

func TestMain(m *testing.M) { pgtest.Main(m) }

var now = time.Date(2026, 5, 1, 12, 0, 0, 0, time.UTC)

type client struct {
	t    *testing.T
	http *http.Client
	url  string
}

const password = "a good password"

func start(t *testing.T) (string, *store.Store) {
	t.Helper()
	s := pgtest.Store(t)
	for _, role := range []string{store.Member, store.Technician, store.Lead} {
		addAccount(t, s, role)
	}
	return instance(t, s), s
}

var appFiles = fstest.MapFS{
	"index.html":  {Data: []byte(`<meta nonce="__NONCE__">`)},
	"assets/a.js": {Data: []byte("let a = 1")},
}

// quiet is a log of errors alone.
func quiet(t *testing.T) *slog.Logger {
	return slog.New(slog.NewTextHandler(t.Output(), &slog.HandlerOptions{Level: slog.LevelError}))
}

// instance starts a server over a record.
func instance(t *testing.T, s *store.Store) string {
	t.Helper()
	api := server.New(server.Config{Store: s, Clock: func() time.Time { return now }, Files: http.FS(appFiles),
		Log: quiet(t)})
	srv := httptest.NewServer(api)
	t.Cleanup(func() { srv.Close(); api.Close() })
	return srv.URL
}

// Behind a proxy that is trusted the tries of one stranger are that stranger's; nobody else's word is taken.
func TestWhereARequestComesFrom(t *testing.T) {
	t.Parallel()
	_, s := start(t)
	here := []netip.Prefix{netip.MustParsePrefix("127.0.0.0/8"), netip.MustParsePrefix("::1/128")}
	for name, c := range map[string]struct {
		proxies []netip.Prefix
		counted string
	}{
		"trusted":     {here, "203.0.113.7"},
		"not trusted": {nil, "127.0.0.1"},
	} {
		api := server.New(server.Config{Store: s, Clock: func() time.Time { return now }, Proxies: c.proxies,
			Log: slog.New(slog.DiscardHandler)})
		defer api.Close()
		r := httptest.NewRequest("POST", "/api/session", strings.NewReader(`{"name":"nobody","password":"x"}`))
		r.RemoteAddr = "127.0.0.1:4711"
		r.Header.Set("Content-Type", "application/json")
		r.Header.Set("X-Forwarded-For", "198.51.100.1, 203.0.113.7") // the first is of the stranger's own writing
		api.ServeHTTP(httptest.NewRecorder(), r)
		var n int
		err := s.SQL.QueryRow("select count(*) from sign_in_tries where bucket = $1", "address "+c.counted).Scan(&n)
		if err != nil || n != 1 {
			t.Errorf("%s: %d tries from %s, %v", name, n, c.counted, err)
		}
	}
}

// addAccount makes an account that is named as its role.
func addAccount(t testing.TB, s *store.Store, role string) {
	t.Helper()
	account := app.Account{Name: role, Display: "The " + role, Role: role, Password: password}
	if err := app.New(s, time.Now).AddAccount(context.Background(), account, now); err != nil {
		t.Fatal(err)
	}
}

func anonymous(t *testing.T, url string) *client {
	jar, _ := cookiejar.New(nil)
	return &client{t, &http.Client{Jar: jar}, url}
}

func signedIn(t *testing.T, url, name string) *client {
	t.Helper()
	return signedInBy(t, url, name, password)
}

func signedInBy(t *testing.T, url, name, password string) *client {
	t.Helper()
	c := anonymous(t, url)
	if status, body := c.call("POST", "/api/session",
		map[string]string{"name": name, "password": password}); status != 200 {
		t.Fatalf("sign in as %s: %d %s", name, status, body)
	}
	return c
}

func (c *client) call(method, path string, body any) (int, string) {
	c.t.Helper()
	var r io.Reader
	kind := "application/json"
	switch b := body.(type) {
	case nil:
	case []byte:
		r, kind = bytes.NewReader(b), "image/jpeg"
	default:
		text, err := json.Marshal(b)
		if err != nil {
			c.t.Fatal(err)
		}
		r = bytes.NewReader(text)
	}
	req, err := http.NewRequest(method, c.url+path, r)
	if err != nil {
		c.t.Fatal(err)
	}
	if r != nil {
		req.Header.Set("Content-Type", kind)
	}
	res, err := c.http.Do(req)
	if err != nil {
		c.t.Fatal(err)
	}
	defer res.Body.Close()
	text, err := io.ReadAll(res.Body)
	if err != nil {
		c.t.Fatal(err)
	}
	return res.StatusCode, string(text)
}

// sends uploads a file and gives how what follows names it.
func (c *client) sends(file []byte) map[string]any {
	c.t.Helper()
	var sent struct{ SHA256 string }
	text := c.wants(200, "sha256", "POST", "/api/uploads?name=a+file", file)
	if err := json.Unmarshal([]byte(text), &sent); err != nil {
		c.t.Fatal(err)
	}
	return map[string]any{"sha256": sent.SHA256, "name": "a file"}
}

func (c *client) wants(status int, part, method, path string, body any) string {
	c.t.Helper()
	got, text := c.call(method, path, body)
	if got != status || !strings.Contains(text, part) {
		c.t.Errorf("%s %s: %d %s; want %d with %q", method, path, got, text, status, part)
	}
	return text
}

// Every operation of the API is asked by everybody: nobody gets more than the
// role allows, whatever the screen shows.
func TestRolesAreEnforcedByTheAPI(t *testing.T) {
	url, _ := start(t)
	c := anonymous(t, url)
	_, text := c.call("GET", "/api/openapi.json", nil)
	var doc struct {
		Paths map[string]map[string]struct {
			OperationID string `json:"operationId"`
		}
	}
	if err := json.Unmarshal([]byte(text), &doc); err != nil {
		t.Fatal(err)
	}
	open := map[string]bool{"session": true, "sign-in": true, "sign-out": true}
	memberMay := map[string]bool{
		"z-offset":        true,
		"read-number":     true,
		"ask-fleet":       true,
		"identify-sensor": true,
		"check-wires":     true,
		"do-sum":          true,
		"report-fault":    true,
		"add-fault-photo": true,
		"judge-plan":      true,
		"order-for":       true,
		"order-list-csv":  true,

		"end-own-sessions":    true,
		"change-own-password": true,
		"book":                true,
		"cancel-booking":      true,
		"move-booking":        true,
		"answer-offer":        true,
		"make-calendar-link":  true,
		"end-calendar-link":   true,
		"read-notices":        true,
		"judge-file":          true,
		"forget-file":         true,
		"keep-file":           true,
	}
	leadOnly := map[string]bool{"retire": true, "set-shop": true, "changes": true, "people": true, "add-person": true,
		"change-person": true, "reset-password": true, "end-sessions": true, "unlock-person": true, "tokens": true,
		"make-token": true, "revoke-token": true, "close-shop": true, "open-shop": true, "save-shifts": true,
		"add-feed": true,
		"end-feed": true, "ask-for-plan": true, "stop-run": true, "take-run": true, "save-planning": true,
		"take-leave": true, "drop-leave": true} // of others
	staffOnly := map[string]bool{"roster": true, "planning": true, "today": true, "spares": true, "fault-ahead": true,
		"dangers":     true,
		"reliability": true, "settings-file": true, "drift": true, "setting-words": true, "flash-checks": true,
		"change-of-family": true, "build-machines": true, "imports": true, "cost": true, "suppliers": true,
		"purchases": true, "purchase": true}
	member, technician := signedIn(t, url, "member"), signedIn(t, url, "technician")
	operations := 0
	number := regexp.MustCompile(`\{[a-z]+\}`)
	for path, methods := range doc.Paths {
		for method, op := range methods {
			operations++
			if open[op.OperationID] {
				continue
			}
			method, at := strings.ToUpper(method), number.ReplaceAllString(path, "1")
			body := bodyFor(op.OperationID)
			if status, _ := c.call(method, at, body); status != 401 {
				t.Errorf("%s without an account: %d", op.OperationID, status)
			}
			reads := (method == "GET" || memberMay[op.OperationID]) && !leadOnly[op.OperationID] && !staffOnly[op.OperationID]
			if status, text := member.call(method, at, body); (status == 403) == reads {
				t.Errorf("%s as member: %d %s", op.OperationID, status, text)
			}
			if status, text := technician.call(method, at, body); (status == 403) != leadOnly[op.OperationID] {
				t.Errorf("%s as technician: %d %s", op.OperationID, status, text)
			}
		}
	}
	if operations < 70 {
		t.Errorf("asked %d operations only", operations)
	}
	for _, file := range []string{"register.csv", "catalogue.json", "record.json", "answer.csv", "answer.json",
		"matrix.csv"} {
		c.wants(401, "Sign in", "GET", "/api/"+file, nil)
	}
	for _, file := range []string{"record.json", "record.json?machine=1", "reliability.csv",
		"register.csv", "changes?machine=1"} { // as their JSON is
		member.wants(403, "technician", "GET", "/api/"+file, nil)
	}
}

// bodyFor is a body that each write's frame accepts, so that the role decides.
func bodyFor(operation string) any {
	fields := map[string]any{"name": "X", "bay": "", "maker": "", "serial": "", "note": ""}
	kit := map[string]any{
		"key":     "x",
		"name":    "X",
		"what":    "x",
		"about":   "",
		"price":   1,
		"minutes": 1,
		"skill":   "",
		"parts":   []string{},
		"tools":   []string{},
		"effects": []any{},
		"steps":   []any{},
		"needs": map[string]any{
			"label": "x",
			"test":  map[string]any{"slot": "probe", "trait": "model", "op": "present", "least": "claimed"},
		},
	}
	part := map[string]any{"tag": "", "serial": "", "supplier": "", "note": "", "shelf": ""}
	file := map[string]any{"file": []byte("name\nX\n"), "mapping": []string{"name"}}
	switch operation {
	case "read-number":
		return map[string]any{"text": "12"}
	case "save-setting-word":
		return map[string]any{"family": "compiled", "form": "G-code", "word": "M92", "letter": "E", "of": "head 1"}
	case "want-features":
		return map[string]any{"features": []string{}}
	case "open-host-update":
		return map[string]any{"reason": "x"}
	case "host-message":
		return map[string]any{"text": "x"}
	case "decide-flash":
		return map[string]any{"answer": "wanted", "reason": "x"}
	case "add-way-back":
		return map[string]any{"kind": "backup", "name": "x", "place": "x", "madeOn": "2026-01-01"}
	case "carry-over":
		return map[string]any{"own": 1, "example": map[string]any{"sha256": strings.Repeat("0", 64)}, "from": "1", "to": "2"}
	case "decide-carry-over":
		return map[string]any{"family": "compiled", "from": "1", "to": "2",
			"decision": map[string]any{"word": "X", "action": "own value"}}
	case "make-token":
		return map[string]any{"name": "x", "role": "member", "days": 1}
	case "read-meters":
		return map[string]any{"readings": []any{map[string]any{"machine": "X", "hours": "5"}}}
	case "save-task":
		return map[string]any{"version": 0, "task": map[string]any{"key": "x", "title": "X", "how": "", "kind": "nozzle",
			"when": []any{}, "after": []any{}, "tools": []any{}, "cautions": []any{}, "risk": "spoils prints"}}
	case "set-shop":
		return map[string]any{"timeZone": "UTC", "version": 0}
	case "book":
		return map[string]any{"machine": 1, "from": "2026-05-02T12:00:00Z", "to": "2026-05-02T13:00:00Z", "attended": true,
			"what": "x"}
	case "cancel-booking":
		return map[string]any{"version": 1}
	case "move-booking", "offer-move":
		return map[string]any{"version": 1, "machine": 1, "at": "2026-05-02T12:00:00Z", "from": "2026-05-02T12:00:00Z",
			"to": "2026-05-02T13:00:00Z"}
	case "answer-offer":
		return map[string]any{"version": 1, "yes": true}
	case "close-shop", "take-leave":
		return map[string]any{"from": "2026-05-02", "to": "2026-05-02", "why": "x"}
	case "save-shifts":
		return map[string]any{"shifts": []any{}, "version": 1}
	case "import-calendar":
		return map[string]any{"machine": 1, "attended": true, "text": "x"}
	case "add-feed":
		return map[string]any{"url": "http://127.0.0.1/", "machine": 1, "name": "x", "attended": true}
	case "read-notices":
		return map[string]any{"upTo": 1}
	case "ask-for-plan":
		return map[string]any{"keep": true}
	case "pin-work":
		return map[string]any{"key": "task/1/belts", "account": 1, "from": "2026-05-02T12:00:00Z"}
	case "set-spare-level":
		return map[string]any{"model": "x", "least": 1}
	case "let-go":
		return map[string]any{"key": "task/1/belts"}
	case "save-planning":
		return map[string]any{"days": 7, "weights": map[string]any{"late": 1, "waste": 1, "down": 1, "setUp": 1, "walk": 1},
			"floors": []any{}, "circuits": []any{}, "version": 0}
	case "add-machine":
		return fields
	case "add-build":
		return map[string]any{
			"name":          "X",
			"family":        "",
			"features":      map[string]string{},
			"configuredFor": map[string]string{},
		}
	case "save-build":
		return map[string]any{
			"version": 1,
			"build": map[string]any{
				"name":          "X",
				"family":        "",
				"features":      map[string]string{},
				"configuredFor": map[string]string{},
			},
		}
	case "start-run":
		return map[string]any{"board": "mainboard", "grade": "observed", "how": "x", "madeFor": false}
	case "correct-run":
		return map[string]any{"grade": "observed", "from": "2026-01-01"}
	case "move-lasting":
		return map[string]any{"version": 1, "at": []int{0}}
	case "add-position":
		return map[string]any{"version": 0, "kind": "heater", "serves": "head 2"}
	case "change-position":
		return map[string]any{"version": 0, "serves": "head 2", "label": "X"}
	case "remove-position":
		return map[string]any{"version": 0}
	case "change-machine":
		return map[string]any{"version": 1, "fields": fields}
	case "retire", "take-back":
		return map[string]any{"why": "x"}
	case "add-reading":
		return map[string]any{"key": "supply.volts", "value": "24", "grade": "observed"}
	case "settle":
		return map[string]any{"key": "supply.volts", "chosen": 1, "why": "x"}
	case "exchange":
		return map[string]any{"slot": "probe", "model": "x"}
	case "calibrate":
		return map[string]any{"kind": "mesh", "data": map[string]any{}}
	case "read-meter":
		return map[string]any{"hours": "5"}
	case "mark-done", "undo-done":
		return map[string]any{"task": "belts"}
	case "open-plan":
		return map[string]any{"machineId": 1, "kits": []string{"x"}, "reason": "x"}
	case "open-work":
		return map[string]any{"machineId": 1, "kit": "x", "reason": "x"}
	case "save-step":
		return map[string]any{"version": 1, "data": map[string]any{}, "note": "", "do": "save"}
	case "add-photo", "add-reading-photo", "add-fault-photo":
		return []byte("no picture")
	case "judge-plan":
		return map[string]any{"machineId": 1, "kits": []string{"bollard-springs"}}
	case "order-for":
		return map[string]any{"picks": []any{}}
	case "try-kit":
		return kit
	case "save-kit":
		return map[string]any{"version": 0, "kit": kit}
	case "delete-kit":
		return map[string]any{"version": 1}
	case "log-work":
		return map[string]any{"minutes": 5, "what": "x"}
	case "unreadable", "readable":
		return map[string]any{"key": "supply.volts", "inspection": "label"}
	case "identify-sensor":
		return map[string]any{"ohms": []string{"1", "2"}, "celsius": []string{"1", "2"}}
	case "check-wires":
		return map[string]any{"wires": []any{}, "motors": []any{}}
	case "save-wires":
		return map[string]any{"head": "", "version": 0, "sheet": map[string]any{"wires": []any{}, "motors": []any{}}}
	case "add-part-reading":
		return map[string]any{"trait": "thickness", "value": "1", "grade": "observed"}
	case "move-part":
		return map[string]any{"to": "shelf", "why": "x"}
	case "set-use":
		return map[string]any{"use": "in use", "why": "x"}
	case "ask-fleet":
		return map[string]any{"columns": []any{}, "where": []any{}}
	case "save-question":
		return map[string]any{"name": "x", "question": map[string]any{"columns": []any{}, "where": []any{}}}
	case "change-part":
		return map[string]any{"version": 1, "fields": part}
	case "add-part":
		return map[string]any{"kind": "probe", "model": "x", "tag": "", "serial": "", "supplier": "", "note": "", "shelf": ""}
	case "save-entry":
		return map[string]any{"version": 0}
	case "delete-entry":
		return map[string]any{"section": "slot", "key": "x", "version": 1}
	case "close-fault":
		return map[string]any{"version": 1, "answer": "x"}
	case "report-fault":
		return map[string]any{"words": "x"}
	case "finish":
		return map[string]any{}
	case "import-catalogue", "preview-catalogue", "import-record", "preview-record":
		return []byte(`{"format": "none"}`)
	case "open-register", "preview-register", "import-register", "understand-register":
		return file
	case "preview-meters", "import-meters":
		return map[string]any{"file": []byte("machine,date,hours\nX,2026-01-01,5\n")}
	case "z-offset":
		return map[string]any{"offset": "0", "gap": "1", "pinched": false}
	}
	return nil
}

func TestCrossSiteWritesAreRefused(t *testing.T) {
	url, _ := start(t)
	c := signedIn(t, url, "technician")
	for header, value := range map[string]string{"Sec-Fetch-Site": "cross-site", "Origin": "http://elsewhere.example"} {
		req, _ := http.NewRequest(
			"POST",
			url+"/api/machines",
			strings.NewReader(`{"name":"X","bay":"","maker":"","serial":"","note":""}`),
		)
		req.Header.Set("Content-Type", "application/json")
		req.Header.Set(header, value)
		res, err := c.http.Do(req)
		if err != nil {
			t.Fatal(err)
		}
		res.Body.Close()
		if res.StatusCode != 403 {
			t.Errorf("%s: %s: %d", header, value, res.StatusCode)
		}
	}
}

func TestHeadersAndCookies(t *testing.T) {
	url, _ := start(t)
	res, err := http.Get(url + "/some/page")
	if err != nil {
		t.Fatal(err)
	}
	body, _ := io.ReadAll(res.Body)
	res.Body.Close()
	policy := res.Header.Get("Content-Security-Policy")
	for _, want := range []string{"default-src 'none'", "script-src 'self' 'wasm-unsafe-eval';", "frame-ancestors 'none'",
		"base-uri 'none'"} {
		if !strings.Contains(policy, want) {
			t.Errorf("policy lacks %q: %s", want, policy)
		}
	}
	// Of what is not a file of ours only the bench's compiled module may run; no text becomes script.
	if strings.Count(policy, "unsafe") != 1 || strings.Contains(policy, "http") || strings.Contains(policy, "*") {
		t.Errorf("policy allows too much: %s", policy)
	}
	if nonce := regexp.MustCompile(`'nonce-([^']+)'`).FindStringSubmatch(policy); nonce == nil ||
		!strings.Contains(string(body), nonce[1]) {
		t.Errorf("the page does not carry the policy's nonce: %s", body)
	}
	for header, want := range map[string]string{"X-Content-Type-Options": "nosniff", "X-Frame-Options": "DENY",
		"Referrer-Policy": "same-origin"} {
		if got := res.Header.Get(header); got != want {
			t.Errorf("%s: %q", header, got)
		}
	}
	res, err = http.Post(
		url+"/api/session",
		"application/json",
		strings.NewReader(`{"name":"lead","password":"`+password+`"}`),
	)
	if err != nil {
		t.Fatal(err)
	}
	res.Body.Close()
	cookies := res.Cookies()
	if len(cookies) != 2 { // of the session, and of the device
		t.Errorf("cookies %+v", cookies)
	}
	for _, c := range cookies {
		if !c.HttpOnly || c.SameSite != http.SameSiteLaxMode && c.SameSite != http.SameSiteStrictMode {
			t.Errorf("cookie %+v", c)
		}
	}
	c := anonymous(t, url)
	c.wants(404, "no such file", "GET", "/assets/gone.js", nil)
	c.wants(404, "nothing at this address", "GET", "/api/gone", nil)
	c.wants(200, "let a", "GET", "/assets/a.js", nil)
}

// The server knows every page of the front end, and no other.
func TestPagesAreThoseOfTheFrontEnd(t *testing.T) {
	t.Parallel()
	source, err := os.ReadFile("../../web/src/main.tsx")
	if err != nil {
		t.Fatal(err)
	}
	paths := regexp.MustCompile(`path: "(/[^"]*)"`).FindAllStringSubmatch(string(source), -1)
	if len(paths) < 20 {
		t.Fatalf("%d paths found", len(paths))
	}
	url, _ := start(t)
	c := anonymous(t, url)
	for _, p := range paths {
		c.wants(200, "nonce", "GET", regexp.MustCompile(`:[a-z]+`).ReplaceAllString(p[1], "7"), nil)
	}
	for _, gone := range []string{"/nowhere", "/machine", "/machine/1/2/3", "/machine/1/nothing", "/record/1"} {
		c.wants(404, "nonce", "GET", gone, nil)
	}
}

func TestANewInstallationHasNoAccount(t *testing.T) {
	api := server.New(
		server.Config{
			Store: pgtest.Store(t),
			Clock: func() time.Time { return now },
			Log:   slog.New(slog.NewTextHandler(t.Output(), &slog.HandlerOptions{Level: slog.LevelError})),
		},
	)
	srv := httptest.NewServer(api)
	defer func() { srv.Close(); api.Close() }()
	c := anonymous(t, srv.URL)
	c.wants(200, `"noAccounts":true`, "GET", "/api/session", nil)
	for _, name := range []string{"lead", "admin", "wardifex"} {
		c.wants(401, "wrong", "POST", "/api/session", map[string]string{"name": name, "password": name})
	}
}

func TestSessions(t *testing.T) {
	url, _ := start(t)
	c := signedIn(t, url, "lead")
	c.wants(200, `"role":"lead"`, "GET", "/api/session", nil)
	c.call("DELETE", "/api/session", nil)
	c.wants(200, `"signedIn":false`, "GET", "/api/session", nil)
	c.wants(401, "wrong", "POST", "/api/session", map[string]string{"name": "lead", "password": "x"})
	c.wants(401, "wrong", "POST", "/api/session", map[string]string{"name": "nobody", "password": "x"})
	for range 4 {
		c.call("POST", "/api/session", map[string]string{"name": "lead", "password": "x"})
	}
	c.wants(429, "wait", "POST", "/api/session", map[string]string{"name": "lead", "password": password})
}

func TestMachineOverHTTP(t *testing.T) {
	url, _ := start(t)
	c := signedIn(t, url, "technician")
	fields := map[string]any{"name": "Avocet", "bay": "Quay", "maker": "", "serial": "", "note": ""}
	c.wants(200, `"id":1`, "POST", "/api/machines", fields)
	c.wants(422, "names tell machines apart", "POST", "/api/machines", fields)
	c.wants(
		422,
		"formula",
		"POST",
		"/api/machines",
		map[string]any{"name": "=A1", "bay": "", "maker": "", "serial": "", "note": ""},
	)
	c.wants(422, "name", "POST", "/api/machines", map[string]any{"bay": ""}) // the frame's own fault is a sentence too
	c.wants(
		200,
		`"value":"24 V"`,
		"POST",
		"/api/machines/1/readings",
		map[string]any{"key": "supply.volts", "value": "24,0 V", "grade": "marked"},
	)
	c.wants(
		422,
		"misread",
		"POST",
		"/api/machines/1/readings",
		map[string]any{"key": "mainboard.processor", "value": "R0T6", "grade": "observed"},
	)
	c.wants(
		422,
		"2026-03-01",
		"POST",
		"/api/machines/1/readings",
		map[string]any{"key": "supply.watts", "value": "350", "grade": "observed", "day": "3/1/2026"},
	)
	c.wants(
		422,
		"still to come",
		"POST",
		"/api/machines/1/readings",
		map[string]any{"key": "supply.watts", "value": "350", "grade": "observed", "day": "2027-01-01"},
	)
	c.wants(
		200,
		`"bay":"Loft"`,
		"PUT",
		"/api/machines/1",
		map[string]any{
			"version": 1,
			"fields":  map[string]any{"name": "Avocet", "bay": "Loft", "maker": "", "serial": "", "note": ""},
		},
	)
	c.wants(409, `"current":{"version":2`, "PUT", "/api/machines/1", map[string]any{"version": 1, "fields": fields})
	c.wants(404, "nothing by this number", "GET", "/api/machines/99", nil)
	c.wants(422, "", "GET", "/api/machines/abc", nil)
	c.wants(200, `"lookAlikes":["R`, "GET", "/api/bench/processor-marking?text=R0", nil)
	c.wants(
		200,
		`"next":-2.7`,
		"POST",
		"/api/bench/z-offset",
		map[string]any{"offset": "−2,00", "gap": "0,7", "pinched": false, "family": "compiled"},
	)
	c.wants(
		422,
		"more than this loop",
		"POST",
		"/api/bench/z-offset",
		map[string]any{"offset": "0", "gap": "40", "pinched": false},
	)
	c.wants(422, "not a number", "POST", "/api/machines/1/meter", map[string]any{"hours": "many"})
	c.wants(422, "starts at 0", "POST", "/api/machines/1/meter", map[string]any{"hours": "-3"})
	c.wants(200, "never tested", "GET", "/api/due", nil)
	c.wants(200, "Avocet", "GET", "/api/register.csv", nil)
}

func TestPhotos(t *testing.T) {
	url, s := start(t)
	c := signedIn(t, url, "technician")
	c.wants(
		200,
		"",
		"POST",
		"/api/machines",
		map[string]any{"name": "Avocet", "bay": "", "maker": "", "serial": "", "note": ""},
	)
	for key, value := range map[string]string{"springs.model": "soft", "springs.stiff": "no",
		"springs.corner-room": "18"} {
		c.wants(200, "", "POST", "/api/machines/1/readings", map[string]any{"key": key, "value": value, "grade": "observed"})
	}
	c.wants(200, `"id":1`, "POST", "/api/work", map[string]any{"machineId": 1, "kit": "bollard-springs", "reason": "wear"})
	at := "/api/work/1/steps/first-layer/photos"
	c.wants(422, "not a picture", "POST", at, []byte("<script>alert(1)</script>"))
	var picture bytes.Buffer
	if err := jpeg.Encode(&picture, image.NewRGBA(image.Rect(0, 0, 40, 30)), nil); err != nil {
		t.Fatal(err)
	}
	// A comment segment, as a camera hides its place in. Source: ITU-T T.81, B.2.4.5 (COM, 0xFFFE).
	secret := append([]byte{0xff, 0xd8, 0xff, 0xfe, 0x00, 0x0d}, "HIDDENPLACE"...)
	marked := append(secret, picture.Bytes()[2:]...)
	c.wants(200, `"id":1`, "POST", at, marked)
	_, stored := c.call("GET", "/api/photos/1", nil)
	if strings.Contains(stored, "HIDDENPLACE") {
		t.Error("what the camera hid in the picture is still in it")
	}
	if size, err := jpeg.DecodeConfig(strings.NewReader(stored)); err != nil || size.Width != 40 {
		t.Errorf("the picture comes back as %+v, %v", size, err)
	}
	// A browser that has it asks for no more, and for a part of it where it wants one.
	get := func(header, value string) *http.Response {
		req, err := http.NewRequest("GET", url+"/api/photos/1", nil)
		if err != nil {
			t.Fatal(err)
		}
		req.Header.Set(header, value)
		res, err := c.http.Do(req)
		if err != nil {
			t.Fatal(err)
		}
		res.Body.Close()
		return res
	}
	tag := get("Accept", "*/*").Header.Get("ETag")
	if res := get("If-None-Match", tag); res.StatusCode != 304 || tag == "" {
		t.Errorf("asked again with %s: %d", tag, res.StatusCode)
	}
	if res := get("Range", "bytes=0-9"); res.StatusCode != 206 || res.Header.Get("Content-Length") != "10" {
		t.Errorf("ten bytes of it: %d, %s", res.StatusCode, res.Header.Get("Content-Length"))
	}
	c.wants(422, "damaged", "POST", at, picture.Bytes()[:len(picture.Bytes())-20])
	c.wants(404, "", "POST", "/api/work/1/steps/none/photos", picture.Bytes())
	o, err := does(s).Order(context.Background(), 1)
	if at := slices.IndexFunc(o.StepList, func(s store.OrderStep) bool { return s.Key == "first-layer" }); err != nil ||
		at < 0 || len(o.StepList[at].Photos) != 1 {
		t.Errorf("the photo is not with its step: %v", err)
	}
}

// The database goes away during a save: a clear message, nothing written, and
// the same save works when it is back.
func TestDatabaseRestartedDuringASave(t *testing.T) {
	url, _ := start(t)
	c := signedIn(t, url, "technician")
	fields := map[string]any{"name": "Avocet", "bay": "", "maker": "", "serial": "", "note": ""}
	pgtest.Cluster().Halt()
	status, text := c.call("POST", "/api/machines", fields)
	if err := pgtest.Cluster().Restart(context.Background()); err != nil {
		t.Fatal(err)
	}
	if status != 503 || !strings.Contains(text, "nothing was saved") {
		t.Errorf("while the database is away: %d %s", status, text)
	}
	c.wants(200, `"id":1`, "POST", "/api/machines", fields)
	// Connections that broke while idle are not the user's trouble either.
	if err := pgtest.Cluster().Restart(context.Background()); err != nil {
		t.Fatal(err)
	}
	c.wants(200, "Avocet", "GET", "/api/machines", nil)
}

func TestRegisterOverHTTP(t *testing.T) {
	url, _ := start(t)
	c := signedIn(t, url, "technician")
	with := func(file string, more map[string]any) map[string]any {
		in := c.sends([]byte(file))
		maps.Copy(in, more)
		return in
	}
	const file = "Printer;Flash\nA;256\nB;lots\n"
	c.wants(200, `"target":"mainboard.flash"`, "POST", "/api/register/open", with(file, nil))
	c.wants(422, "save it as CSV", "POST", "/api/register/open", with("PK\x03\x04", nil))
	mapping := []string{"name", "mainboard.flash"}
	c.wants(200, `"faulty":1`, "POST", "/api/register/preview", with(file, map[string]any{"mapping": mapping}))
	mend := []map[string]any{{"line": 3, "column": 1, "value": "512"}}
	in := with(file, map[string]any{"mapping": mapping, "corrections": mend})
	text := c.wants(200, `"faulty":0`, "POST", "/api/register/preview", in)
	var plan struct{ Fingerprint string }
	if err := json.Unmarshal([]byte(text), &plan); err != nil {
		t.Fatal(err)
	}
	in["fingerprint"] = plan.Fingerprint
	c.wants(200, `"created":2`, "POST", "/api/register/import", in)
	c.wants(409, "changed since the preview", "POST", "/api/register/import", in)
	// A file that another account sent in is not there for this one.
	signedIn(t, url, "lead").wants(422, "Choose it again", "POST", "/api/register/preview", in)
}

// BenchmarkFleet states the fleet table's answer, with columns, a filter and an
// order, and the matrix of all kits, for 1,000 machines of 40 slots of 5 readings
// as multiples of reading the same rows from the database plainly: at first, and
// each time after one more reading.
func BenchmarkFleet(b *testing.B) {
	s := pgtest.Store(b)

	addAccount(b, s, store.Member)
	fillFleet(b, s, 1000)
	api := server.New(
		server.Config{Store: s, Clock: func() time.Time { return now }, Log: slog.New(slog.NewTextHandler(io.Discard, nil))},
	)
	defer api.Close()
	srv := httptest.NewServer(api)
	defer srv.Close()
	jar, _ := cookiejar.New(nil)
	c := &http.Client{Jar: jar}
	res, err := c.Post(
		srv.URL+"/api/session",
		"application/json",
		strings.NewReader(`{"name":"member","password":"`+password+`"}`),
	)
	if err != nil {
		b.Fatal(err)
	}
	res.Body.Close()
	plain := func() {
		for _, q := range []string{"select * from machines where retired_at is null order by lower(name), id",
			"select r.id, f.machine_id, f.slot, r.trait, r.value, r.grade, r.taken_at, r.taken_by, r.how, r.note, " +
				"r.set_aside_why, r.set_aside_at from readings r join fittings f on f.part_id = r.part_id and f.removed_at is null",
			"select * from calibrations", "select * from meters", "select * from upkeep_done",
			"select * from work_orders where state = 'open'", "select id from machines where retired_at is not null"} {
			rows, err := s.SQL.Query(q)
			if err != nil {
				b.Fatal(err)
			}
			for rows.Next() {
			}
			rows.Close()
		}
	}
	took := func(what func() (*http.Response, error)) time.Duration {
		at := time.Now()
		res, err := what()
		if err != nil {
			b.Fatal(err)
		}
		n, _ := io.Copy(io.Discard, res.Body)
		res.Body.Close()
		if n < 100_000 {
			b.Fatalf("answer of %d bytes", n)
		}
		return time.Since(at)
	}
	table := func() (*http.Response, error) {
		return c.Post(
			srv.URL+"/api/fleet/ask",
			"application/json",
			strings.NewReader(
				`{"columns":["machine.state","mainboard","firmware","probe","extruder","machine.next"],
"where":[{"of":"mainboard","test":"known at least as","value":"claimed"}],"sort":"mainboard"}`,
			),
		)
	}
	read := func(part int) {
		if _, err := s.SQL.Exec("insert into readings (part_id, trait, value, grade, taken_at, taken_by) values ($1, "+
			"'model', 'Q', 2, $2, 'x')", part, now); err != nil {
			b.Fatal(err)
		}
	}
	matrix := func() (*http.Response, error) { return c.Get(srv.URL + "/api/matrix") }
	plain()
	at := time.Now()
	plain()
	rows := time.Since(at)
	first := float64(took(table)) / float64(rows)
	took(matrix)
	var sql, table2, matrix2 time.Duration
	n := 0
	for b.Loop() {
		n++
		read(n)
		table2 += took(table)
		read(n + 500)
		matrix2 += took(matrix)
		at := time.Now()
		plain()
		sql += time.Since(at)
	}
	b.ReportMetric(first, "×sql-at-first")
	b.ReportMetric(float64(table2)/float64(sql), "×sql-after-a-reading")
	b.ReportMetric(float64(matrix2)/float64(sql), "×sql-matrix-after-a-reading")
	b.ReportMetric(matrix2.Seconds()*1000/float64(b.N), "ms/matrix-after-a-reading")
}

// fleetSQL enters machines of 40 positions with 5 readings each.
func fleetSQL(machines int) string {
	return fmt.Sprintf(`
		insert into machines (name, since, changed_by, changed_at) select 'M' || i, '%[1]s', 'x', '%[1]s' from
			generate_series(1, %[2]d) i;
		insert into parts (kind, changed_by, changed_at, note) select c.definition->>'kind', 'x', '%[1]s', m.id || ' ' ||
			c.key
		from machines m, (select * from catalogue_entries where section = 'slot' order by position limit 40) c;
		insert into fittings (machine_id, slot, fitted_at, part_id) select split_part(note, ' ', 1)::bigint,
			split_part(note, ' ', 2), '%[1]s', id from parts;
		insert into readings (part_id, trait, value, grade, taken_at, taken_by)
		select p.id, 'model', 'P' || n, 1, timestamptz '%[1]s' - n * interval '1 day', 'x' from parts p,
			generate_series(1, 5) n;
		analyze`, now.Format(time.RFC3339), machines)
}

// does is what people can do, on a record.
func does(s *store.Store) *app.App { return app.New(s, func() time.Time { return now }) }
