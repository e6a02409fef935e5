package e2e

import (
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"os"
	"os/exec"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/cdproto/log"
	"github.com/chromedp/cdproto/network"
	cdppage "github.com/chromedp/cdproto/page"
	"github.com/chromedp/cdproto/runtime"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"wardifex/internal/app"
	"wardifex/internal/demo"
	"wardifex/internal/postgres"
	"wardifex/internal/server"
	"wardifex/internal/store"
	"wardifex/web"
)

// What all tests share: the database server, the browser, and a database
// filled with the demo room that each test's own is copied from.
var (
	cluster *postgres.Cluster
	browser context.Context
)

// What pages show, as JavaScript.
const (
	chosenTargets = `[...document.querySelectorAll('section table select')].map((s) => s.value).join(' ')`
	firstOfPlan   = `document.querySelector('main ol > li h2').innerText`
)

// The databases that those of tests are copied from.
const (
	netloft = "netloft"
	bare    = "bare" // accounts, and nothing else
)

// accounts are those of the demo room, each named for its role.
var accounts = []string{"technician", "lead", "member"}

// room is the application with the demo room, for one test.
type room struct {
	store *store.Store
	app   *server.Server
	url   string
	from  string      // the database that it is a copy of
	away  atomic.Bool // no answer comes
}

// rooms are those of the tests.
var rooms = struct {
	sync.Mutex
	of   map[*testing.T]*room
	made int
}{of: map[*testing.T]*room{}}

// roomOf is the test's own room, made when first asked for.
func roomOf(t *testing.T) *room {
	t.Helper()
	rooms.Lock()
	r := rooms.of[t]
	rooms.Unlock()
	if r != nil {
		return r
	}
	return makeRoom(t, netloft)
}

// makeRoom makes the test's own room from a database.
func makeRoom(t *testing.T, from string) *room {
	t.Helper()
	rooms.Lock()
	defer rooms.Unlock() // one database is copied at a time
	r, shut, err := newRoom(t.Context(), from, func(fault string) { t.Errorf("%s", fault) })
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(shut)
	rooms.of[t] = r
	return r
}

// newRoom copies a database and serves it; what breaks the API's description is told.
func newRoom(ctx context.Context, from string, tell func(fault string)) (*room, func(), error) {
	rooms.made++
	name := fmt.Sprintf("room%d", rooms.made)
	if err := cluster.CreateDatabase(ctx, name, from); err != nil {
		return nil, nil, err
	}
	st, err := store.Open(cluster.DSN(name))
	if err != nil {
		return nil, nil, err
	}
	offered := []server.DemoAccount{}
	for _, name := range accounts {
		offered = append(offered, server.DemoAccount{Name: name, Password: demo.Password, Role: name})
	}
	app := server.New(
		server.Config{
			Store: st,
			Clock: func() time.Time { return demo.Today },
			Demo:  offered,
			Files: web.Files(),
			Log:   slog.New(slog.NewTextHandler(io.Discard, nil)),
		},
	)
	openAPI, err := app.OpenAPI()
	if err != nil {
		return nil, nil, err
	}
	answers, err := checked(openAPI, app, tell)
	if err != nil {
		return nil, nil, err
	}
	r := &room{store: st, app: app, from: from}
	srv := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, req *http.Request) {
		if r.away.Load() {
			panic(http.ErrAbortHandler)
		}
		answers.ServeHTTP(w, req)
	}))
	r.url = srv.URL
	return r, func() { srv.Close(); app.Close(); st.Close() }, nil
}

func TestMain(m *testing.M) {
	code, err := runIn(m)
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		code = 1
	}
	os.Exit(code)
}

func runIn(m *testing.M) (int, error) {
	ctx := context.Background()
	if f, err := web.Files().Open("/index.html"); err != nil {
		return 1, errors.New("the front end is not built: run make build")
	} else {
		f.Close()
	}
	var err error
	if cluster, err = postgres.Start(ctx, postgres.Options{}); err != nil {
		return 1, err
	}
	defer cluster.Stop()
	if err := errors.Join(fill(ctx, netloft, demo.Seed), fill(ctx, bare, demo.Accounts)); err != nil {
		return 1, err
	}
	for _, name := range []string{netloft, bare} {
		if err := signAllIn(ctx, name); err != nil {
			return 1, err
		}
	}
	var quit func()
	if browser, quit, err = startBrowser(ctx); err != nil {
		return 1, err
	}
	defer quit()
	code := m.Run()
	if reading.shut != nil {
		reading.shut()
	}
	if len(reading.faults) > 0 {
		return 1, errors.New("in the room that tests only read: " + strings.Join(reading.faults, "; "))
	}
	return code, nil
}

// fill makes a database that rooms are copied from.
func fill(ctx context.Context, name string, write func(context.Context, *store.Store) error) error {
	if err := cluster.CreateDatabase(ctx, name, ""); err != nil {
		return err
	}
	st, err := store.Open(cluster.DSN(name))
	if err != nil {
		return err
	}
	defer st.Close()
	if err := st.Migrate(ctx); err != nil {
		return err
	}
	return write(ctx, st)
}

// signed are the session cookies of each account, by database: rooms are copies, and their sessions too.
var signed = map[string]map[string]string{}

// signAllIn signs the demo's accounts in, once for all rooms that are copied from a database.
func signAllIn(ctx context.Context, name string) error {
	st, err := store.Open(cluster.DSN(name))
	if err != nil {
		return err
	}
	defer st.Close()
	api := server.New(server.Config{Store: st, Clock: func() time.Time { return demo.Today }, Files: web.Files(),
		Log: slog.New(slog.NewTextHandler(io.Discard, nil))})
	defer api.Close()
	signed[name] = map[string]string{}
	for _, account := range accounts {
		body := fmt.Sprintf(`{"name": %q, "password": %q}`, account, demo.Password)
		req := httptest.NewRequestWithContext(ctx, http.MethodPost, "/api/session", strings.NewReader(body))
		req.Header.Set("Content-Type", "application/json")
		answer := httptest.NewRecorder()
		api.ServeHTTP(answer, req)
		for _, c := range answer.Result().Cookies() {
			signed[name][account] = c.Value
		}
		if answer.Code != http.StatusOK || signed[name][account] == "" {
			return fmt.Errorf("sign in as %s: %d %s", account, answer.Code, answer.Body)
		}
	}
	return nil
}

func startBrowser(ctx context.Context) (context.Context, func(), error) {
	// The headless shell draws the same pages for a good deal less.
	path, err := exec.LookPath("chromium-headless-shell")
	if err != nil {
		if path, err = exec.LookPath("chromium"); err != nil {
			return nil, nil, errors.New("no Chromium: install Debian's package with: apt-get install chromium-headless-shell")
		}
	}
	options := append(
		chromedp.DefaultExecAllocatorOptions[:],
		chromedp.ExecPath(path),
		chromedp.DisableGPU,
		chromedp.Flag(
			"disable-quic",
			true,
		),
		chromedp.Flag("disable-component-update", true),
		chromedp.Flag("lang", "en-GB"),
		chromedp.WindowSize(1280, 800),
	)
	if os.Geteuid() == 0 {
		options = append(options, chromedp.NoSandbox)
	}
	alloc, cancel := chromedp.NewExecAllocator(ctx, options...)
	browser, quit := chromedp.NewContext(alloc)
	return browser, func() { quit(); cancel() }, chromedp.Do(browser)
}

// page is a browser page with its own cookies.
type page struct {
	t     *testing.T
	ctx   context.Context
	url   string
	blank bool // signed in, and nothing visited yet
}

// patience bounds every wait for a condition.
const patience = 40 * time.Second

// open opens a page of the test's room, of the size given, with a fresh profile.
func open(t *testing.T, width, height int64) *page {
	t.Helper()
	ctx, cancel := chromedp.NewContext(browser, chromedp.WithNewBrowserContext())
	t.Cleanup(cancel)
	p := &page{t: t, ctx: ctx, url: roomOf(t).url}
	p.prepare()
	p.sizes(width, height)
	return p
}

// prepare makes a new page fail its test by what goes wrong in it, and look the same everywhere.
func (p *page) prepare() {
	p.t.Helper()
	err := chromedp.Listen(p.ctx, func(ev any) {
		switch e := ev.(type) {
		case *runtime.EventExceptionThrown:
			p.t.Errorf("the page threw: %s %s", e.ExceptionDetails.Text, describe(e.ExceptionDetails))
		case *log.EventEntryAdded:
			if strings.Contains(e.Entry.Text, "Content Security Policy") {
				p.t.Errorf("refused by the page's policy: %s", e.Entry.Text)
			}
		}
	})
	if err != nil {
		p.t.Fatal(err)
	}
	p.run(chromedp.Func(func(ctx context.Context, target *chromedp.Target) error {
		if _, err := cdp.Call(ctx, target, log.Enable, cdp.Empty{}); err != nil {
			return err
		}
		_, err := cdp.Call(
			ctx,
			target,
			emulation.SetEmulatedMedia,
			emulation.SetEmulatedMediaParams{Features: []*emulation.MediaFeature{
				{Name: "prefers-color-scheme", Value: "light"}, {Name: "prefers-reduced-motion", Value: "reduce"}}},
		)
		return err
	}))
}

// sizes gives a page its size: a tablet or a phone is touched.
func (p *page) sizes(width, height int64) {
	p.t.Helper()
	p.run(chromedp.EmulateViewport(width, height), chromedp.Func(func(ctx context.Context, target *chromedp.Target) error {
		// The viewport resets it.
		touch := emulation.SetTouchEmulationEnabledParams{Enabled: width <= 800}
		_, err := cdp.Call(ctx, target, emulation.SetTouchEmulationEnabled, touch)
		return err
	}))
}

// reading is what tests that only read share: one room, and two tabs of it that are handed from test to test.
var reading struct {
	once sync.Once
	room *room
	shut func()
	tabs chan *page
	err  error

	sync.Mutex
	faults []string // of its answers
}

// reads gives a test that writes nothing a tab of the shared room, signed in.
func reads(t *testing.T, account string, width, height int64) *page {
	t.Helper()
	reading.once.Do(func() {
		reading.tabs = make(chan *page, 2)
		rooms.Lock()
		defer rooms.Unlock()
		reading.room, reading.shut, reading.err = newRoom(context.WithoutCancel(t.Context()), netloft,
			func(fault string) {
				reading.Lock()
				defer reading.Unlock()
				reading.faults = append(reading.faults, fault)
			})
		for range cap(reading.tabs) {
			ctx, _ := chromedp.NewContext(browser, chromedp.WithNewBrowserContext())
			reading.tabs <- &page{ctx: ctx}
		}
	})
	if reading.err != nil {
		t.Fatal(reading.err)
	}
	p := <-reading.tabs
	fresh := p.t == nil
	p.t, p.url = t, reading.room.url
	t.Cleanup(func() { reading.tabs <- p })
	rooms.Lock()
	rooms.of[t] = reading.room
	rooms.Unlock()
	if fresh {
		p.prepare()
	} else {
		p.run(chromedp.Evaluate[chromedp.Void](`localStorage.clear(); sessionStorage.clear()`))
	}
	p.sizes(width, height)
	p.signIn(account)
	return p
}

func describe(d *runtime.ExceptionDetails) string {
	if d.Exception != nil {
		return d.Exception.Description
	}
	return ""
}

func (p *page) do(steps ...chromedp.Action[chromedp.Void]) {
	p.t.Helper()
	p.begin()
	p.run(steps...)
}

// begin visits the first page, where a test that has signed in visits none itself.
func (p *page) begin() {
	p.t.Helper()
	if p.blank {
		p.visit("/")
		p.until("who is signed in", signedInNow)
	}
}

const signedInNow = `document.querySelector('header [title^="signed in as"]') !== null`

func (p *page) run(steps ...chromedp.Action[chromedp.Void]) {
	p.t.Helper()
	ctx, cancel := context.WithTimeout(p.ctx, patience)
	defer cancel()
	if err := chromedp.Do(ctx, steps...); err != nil {
		p.fail(err.Error())
	}
}

// value evaluates JavaScript in the page.
func value[T any](p *page, js string) T {
	p.t.Helper()
	p.begin()
	v, err := chromedp.Run(p.ctx, chromedp.Evaluate[T](js))
	if err != nil {
		p.fail(fmt.Sprintf("%s: %v", js, err))
	}
	return v
}

// until waits for a condition in JavaScript, over page loads too.
func (p *page) until(what, js string) {
	p.t.Helper()
	p.begin()
	ctx, cancel := context.WithTimeout(p.ctx, patience)
	defer cancel()
	// What comes soon is seen soon; what takes longer is not held up by being asked for all the time.
	for wait := 15 * time.Millisecond; ; wait = min(2*wait, 120*time.Millisecond) {
		if ok, err := chromedp.Run(ctx, chromedp.Evaluate[bool](js, chromedp.EvalAwaitPromise)); err == nil && ok {
			return
		}
		select {
		case <-ctx.Done():
			p.fail("waited in vain for " + what)
		case <-time.After(wait):
		}
	}
}

func (p *page) fail(why string) {
	p.t.Helper()
	text, _ := chromedp.Run(
		p.ctx,
		chromedp.Evaluate[string](
			`[...document.querySelectorAll('h1, h2, h3, main p, main button, label, dt, td:not(:has(select)),' +
				'[role=alert], [role=status]')].filter((e) => e.getClientRects().length)
				.map((e) => e.innerText.trim()).join('\n').slice(0, 3000)`,
		),
	)
	if dir := os.Getenv("WARDIFEX_SCREENSHOTS"); dir != "" {
		if png, err := chromedp.Run(p.ctx, chromedp.CaptureScreenshot()); err == nil {
			_ = os.WriteFile(dir+"/failed.png", png, 0o644)
		}
	}
	p.t.Fatalf("%s\n--- the page says:\n%s", why, text)
}

func (p *page) visit(path string) {
	p.t.Helper()
	p.blank = false
	p.run(chromedp.Navigate(p.url + path))
}

// slows lets answers of a path come some time late, and out of turn.
func (p *page) slows(path string) {
	p.t.Helper()
	source := fmt.Sprintf(`(() => {
		const send = window.fetch;
		let wait = 0;
		window.fetch = async (request) => {
			if (request.url.includes(%q)) await new Promise((done) => setTimeout(done, (wait += 67) %% 300));
			return send(request);
		};
	})()`, path)
	p.do(chromedp.Func(func(ctx context.Context, target *chromedp.Target) error {
		_, err := cdp.Call(ctx, target, cdppage.AddScriptToEvaluateOnNewDocument,
			cdppage.AddScriptToEvaluateOnNewDocumentParams{Source: source})
		return err
	}))
}

// goes shows another view without loading the page anew, as a link does: by way of an address that has none, so that
// what is seen next is not left over from before.
func (p *page) goes(path string) {
	p.t.Helper()
	for _, to := range []string{"/nowhere", path} {
		p.do(chromedp.Evaluate[chromedp.Void](fmt.Sprintf(
			`(() => {
				const state = {key: Math.random().toString(36).slice(2)}; // each place has its own, as the router gives it
				history.pushState(state, '', %q);
				dispatchEvent(new PopStateEvent('popstate', {state}));
			})()`, to)))
		if to != path {
			p.sees("This page does not exist")
		}
	}
}

// sees waits until the page shows a text.
func (p *page) sees(text string) {
	p.t.Helper()
	p.until(fmt.Sprintf("the text %q", text), fmt.Sprintf(`((text) => document.body.textContent.includes(text) &&
		document.body.innerText.includes(text))(%q)`, text)) // what is not there at all is told without a layout
}

// loads waits until a view shows a text of its own, and nothing on it is still loading: a heading is there before.
func (p *page) loads(text string) {
	p.t.Helper()
	p.sees(text)
	p.until("everything loaded", `![...document.querySelectorAll('main [role=status]')].some((e) =>
		e.innerText.trim().endsWith('…'))`)
}

// says reports whether the page shows a text now.
func (p *page) says(text string) bool {
	p.t.Helper()
	return value[bool](p, fmt.Sprintf(`document.body.innerText.includes(%q)`, text))
}

// find gives the JavaScript that finds a control by its role's elements and
// its visible text or accessible label.
func find(name string) string {
	return fmt.Sprintf(`(() => {
		const want = %q;
		const seen = (e) => e.getClientRects().length > 0 && !e.disabled;
		const said = (e) => (e.getAttribute('aria-label') ?? '') || [...(e.labels ?? [])].map((l) =>
			l.innerText).join(' ') || e.innerText || e.value || '';
		const label = (e) => said(e).replace(/\s+/g, ' ').trim();
		const scope = document.querySelector('[role=dialog]') ?? document;
		const all = [...scope.querySelectorAll('a, button, summary, input, select, textarea')].filter(seen);
		return all.find((e) => label(e) === want) ?? all.find((e) => label(e).startsWith(want));
	})()`, name)
}

// focus moves the keyboard's focus to a control, as tabbing to it would, and
// sees it rest there: a dialog that has just opened takes the focus once itself.
func (p *page) focus(name string) {
	p.t.Helper()
	p.until(
		fmt.Sprintf("the control %q", name),
		fmt.Sprintf(
			`(() => { const e = %s; const rests = e !== undefined && document.activeElement === e; e?.focus(); return rests;
				})()`,
			find(name),
		),
	)
}

// press presses a control by keyboard: Enter for links and buttons, Space for
// boxes.
func (p *page) press(name string) {
	p.t.Helper()
	p.focus(name)
	if value[bool](p, `['checkbox', 'radio'].includes(document.activeElement.type)`) {
		p.do(chromedp.KeyEvent(" "))
		return
	}
	p.do(chromedp.KeyEvent(kb.Enter))
}

// types writes into a field in place of what is there.
func (p *page) types(name, text string) {
	p.t.Helper()
	p.focus(name)
	p.do(
		chromedp.Evaluate[chromedp.Void](`document.activeElement.select?.()`),
		chromedp.KeyEvent(kb.Delete),
		chromedp.KeyEvent(text),
	)
}

// chooses picks an option of a list by typing its first letters.
func (p *page) chooses(name, option string) {
	p.t.Helper()
	p.until(fmt.Sprintf("the option %q of %q", option, name), fmt.Sprintf(
		`[...(%s?.options ?? [])].some((o) => o.text.replace(/\s+/g, ' ').trim().startsWith(%q))`, find(name), option))
	got := ""
	for range 5 { // letters that come more than a second apart begin anew, and so a slow machine chooses another
		p.focus(name)
		p.do(chromedp.KeyEvent(option))
		if got = value[string](p, `document.activeElement.selectedOptions[0].text`); got == option {
			return
		}
		time.Sleep(time.Second) // after which the browser has forgotten the letters
	}
	p.fail(fmt.Sprintf("%s: typing %q chose %q", name, option, got))
}

// signIn signs an account in by the cookie of a session that all rooms have, so that the next page is its own. Whoever
// signs out ends it.
func (p *page) signIn(account string) {
	p.t.Helper()
	r := roomOf(p.t)
	if signed[r.from][account] == "" {
		p.signInByForm(account)
		return
	}
	p.run(chromedp.Func(func(ctx context.Context, target *chromedp.Target) error {
		cookie := network.SetCookieParams{Name: "wardifex_session", Value: signed[r.from][account], URL: r.url,
			HTTPOnly: new(true), SameSite: network.CookieSameSiteLax}
		_, err := cdp.Call(ctx, target, network.SetCookie, cookie)
		return err
	}))
	p.blank = true
}

// signInByForm signs an account in as people do.
func (p *page) signInByForm(account string) {
	p.t.Helper()
	p.visit("/")
	p.sees("Sign in")
	p.types("Name", account)
	p.types("Password", demo.Password)
	p.do(chromedp.KeyEvent(kb.Enter))
	p.until("who is signed in", signedInNow)
}

// does is what people can do, on a record.
func does(s *store.Store) *app.App { return app.New(s, func() time.Time { return demo.Today }) }
