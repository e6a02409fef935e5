package e2e

import (
	"encoding/json"
	"fmt"
	"os"
	"slices"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"

	"wardifex/internal/demo"
	"wardifex/internal/store"
)

// Source of the rules: axe-core, rules for WCAG 2.2 A and AA. What is the same in every form is looked at once.
const axeRun = `axe.run(document, {runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa'],
	resultTypes: ['violations'], elementRef: false}).then((r) =>
	JSON.stringify(r.violations.filter((v) => ['serious', 'critical'].includes(v.impact)).map((v) => v.id + ': ' +
		v.nodes.slice(0, 3).map((n) => n.target + ' ' + n.html.slice(0, 160)).join(' | '))))`

// axe finds nothing serious on any main view, and each is in order in all its forms.
func TestEveryView(t *testing.T) {
	t.Parallel()
	axe, err := os.ReadFile("../web/node_modules/axe-core/axe.min.js")
	if err != nil {
		t.Fatal(err)
	}
	extra := []struct{ path, wait string }{
		{"/machine/new", "Add the machine"},
		{"/machine/several", "Each on a line of its own"},
		{"/machine/8", "not proven"},
		{"/machine/24", "Not known yet"},
		{"/work/1", "Finished"},
		{"/machine/1/card", "Kept in"},
		{"/tasks", "Change the nozzle"},
		{"/nowhere", "does not exist"},
	}
	p := open(t, 1280, 800)
	p.visit("/")
	p.sees("Netloft")
	p.axeCanFail(string(axe))
	p.check(string(axe), "sign-in")
	p.signIn("technician")
	for _, v := range views {
		if v.wait == "Netloft" || v.dark {
			continue
		}
		p.goes(v.path)
		p.loads(v.wait)
		p.check(string(axe), v.path)
	}
	for _, v := range extra {
		p.goes(v.path)
		p.loads(v.wait)
		p.check(string(axe), v.path)
	}
	p.goes("/machine/9")
	p.press("processor maker")
	p.sees("settle it")
	p.check(string(axe), "a conflict")
	p.visit("/fleet")
	p.sees("Whimbrel")
	p.do(chromedp.KeyEvent("?"))
	p.sees("Keys and marks")
	p.check(string(axe), "keys")

	lead := open(t, 1280, 800)
	lead.signIn("lead")
	for path, wait := range map[string]string{"/people": "signs in as", "/shop": "Opening hours",
		"/record": "newest first"} {
		lead.goes(path)
		lead.loads(wait)
		lead.check(string(axe), path)
	}
	first, err := does(roomOf(t).store).OpenBatch(t.Context(), []int64{1, 7}, "bollard-springs",
		"a feature somebody needs", "Ansa Verrel", demo.Today)
	if err != nil || first.Opened != 2 {
		t.Fatalf("%+v, %v", first, err)
	}
	lead.goes(fmt.Sprintf("/work/batch/%d", first.Batch))
	lead.sees("on 2 machines")
	lead.check(string(axe), "a batch")
	lead.press("Ansa Verrel")
	lead.sees("Single-key shortcuts")
	lead.check(string(axe), "the person's menu")
}

// allForms has every rule of axe in every form and theme: make test-long.
var allForms = os.Getenv("WARDIFEX_LONG") != ""

// check looks at the page as it stands in each form: what axe finds in one of them, the contrast in four, and what is
// too wide, cut off, too small to read or to touch.
func (p *page) check(axe, what string) {
	p.t.Helper()
	p.do(chromedp.Evaluate[chromedp.Void](`if (!window.axe) {` + axe + `}`))
	for i, form := range forms {
		for _, theme := range []string{"light", "dark"} {
			first := i == 0 && theme == "light" // as it was opened
			if theme == "dark" && !form.contrast && !allForms {
				continue
			}
			if !first {
				p.shows(form, theme)
			}
			var found []string
			if theme == "light" {
				found = p.measure(form)
			}
			if form.contrast {
				found = append(found, p.contrast()...)
			}
			if first || allForms {
				found = append(found, p.axe()...)
			}
			for _, f := range found {
				p.t.Errorf("%s, %d × %d %s, %s: %s", what, form.width, form.height, form.density, theme, f)
			}
		}
	}
	p.shows(forms[0], "light")
}

// shows puts the page into a form and waits until it is drawn so: a table takes a frame to see that it is wider than
// its place.
func (p *page) shows(f form, theme string) {
	p.t.Helper()
	p.do(chromedp.EmulateViewport(f.width, f.height), chromedp.Evaluate[chromedp.Void](fmt.Sprintf(`(async () => {
		Object.assign(document.documentElement.dataset, {density: %q, theme: %q});
		for (let i = 0; i < %d; i++) await new Promise(requestAnimationFrame);
	})()`, f.density, theme, map[string]int{"light": 3, "dark": 1}[theme]), chromedp.EvalAwaitPromise))
}

// axeCanFail shows axe a field without a label, and a faint text, and wants them found.
func (p *page) axeCanFail(axe string) {
	p.t.Helper()
	p.do(
		chromedp.Evaluate[chromedp.Void](
			`document.body.append(Object.assign(document.createElement('input'), {id: 'canary'}))`,
		),
	)
	p.do(chromedp.Evaluate[chromedp.Void](axe))
	if found := p.axe(); len(found) != 1 || !strings.Contains(found[0], "label: #canary") {
		p.t.Errorf("axe finds %v on a page with one field without a label", found)
	}
	p.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('#canary').replaceWith(Object.assign(
		document.createElement('p'), {id: 'canary', innerText: 'faint', style: 'color: #777; background: #fff'}))`))
	if found := p.contrast(); len(found) != 1 || found[0] != "4.48 to 1: p faint" { // #777 on white, by hand
		p.t.Errorf("of grey on white it finds %v", found)
	}
	p.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('#canary').remove()`))
}

// axe lists what is serious or critical on the page as it stands.
func (p *page) axe() (found []string) {
	p.t.Helper()
	text, err := chromedp.Run(p.ctx, chromedp.Evaluate[string](axeRun, chromedp.EvalAwaitPromise))
	if err != nil {
		p.fail(err.Error())
	}
	if err := json.Unmarshal([]byte(text), &found); err != nil {
		p.t.Fatal(err)
	}
	return found
}

// The first page's compressed script stays small.
func TestFirstPageIsSmall(t *testing.T) {
	t.Parallel()
	p := open(t, 1280, 800)
	p.signIn("member")
	p.visit("/")
	p.sees("Whimbrel")
	script := value[int](
		p,
		`performance.getEntriesByType('resource').filter((e) => e.name.endsWith('.js')).reduce((n, e) => n +
			e.encodedBodySize, 0)`,
	)
	t.Logf("%d bytes of compressed script", script)
	if script < 10_000 || script > 200_000 {
		t.Errorf("the first page loads %d bytes of compressed script", script)
	}
	if outside := value[string](p,
		`performance.getEntriesByType('resource').map((e) => e.name)
			.filter((n) => !n.startsWith(location.origin)).join()`); outside != "" {
		t.Errorf("loaded from outside: %s", outside)
	}
}

// The second of two editors is told what changed and keeps what was typed.
func TestTwoEditors(t *testing.T) {
	t.Parallel()
	ann, bo := open(t, 1280, 800), open(t, 1280, 800)
	ann.signIn("technician")
	bo.signIn("lead")
	for _, p := range []*page{ann, bo} {
		p.visit("/machine/20")
		p.press("Edit")
	}
	ann.types("Serial number", "ANN-1")
	ann.press("Save")
	ann.sees("serial ANN-1")
	bo.types("Note", "belt squeaks")
	bo.press("Save")
	bo.sees("Joren Halm changed this machine")
	bo.sees("theirs ANN-1")
	if got := value[string](bo, find("Note")+`.value`); got != "belt squeaks" {
		t.Errorf("what was typed is gone: %q", got)
	}
	bo.press("Take theirs")
	bo.press("Save as it stands here")
	bo.sees("Saved")
	m, err := roomOf(t).store.Machine(t.Context(), 20)
	if err != nil || m.Serial != "ANN-1" || m.Note != "belt squeaks" {
		t.Errorf("after both: %+v, %v", m.Fields, err)
	}
}

// The database goes away while a technician types into a step: a clear
// message, nothing lost by a reload, and it is kept by itself when it is back.
func TestNothingTypedIsLost(t *testing.T) {
	p := open(t, 800, 1280)
	p.signIn("technician")
	p.visit("/work/2")
	p.sees("Make the build")
	cluster.Halt()
	p.types("Note", "build made on the bench laptop")
	p.sees("The database did not answer, so nothing was saved")
	p.sees("Not saved yet.")
	if err := cluster.Restart(t.Context()); err != nil {
		t.Fatal(err)
	}
	p.do(chromedp.Reload())
	p.sees("Draft saved.")
	o, err := does(roomOf(t).store).Order(t.Context(), 2)
	at := slices.IndexFunc(o.StepList, func(s store.OrderStep) bool { return s.Key == "make-build" })
	if err != nil || at < 0 || o.StepList[at].Note != "build made on the bench laptop" {
		t.Errorf("on the server: step %d, %v", at, err)
	}
}

// A member reads and is offered no writes.
func TestMemberIsOfferedNoWrites(t *testing.T) {
	t.Parallel()
	p := reads(t, "member", 1280, 800)
	for path, wait := range map[string]string{"/use": "Whimbrel", "/fleet": "Whimbrel", "/machine/1": "Book Avocet",
		"/machine/1?record=1":    "What is in it",
		"/ask/plumbline-probe/2": "With these additional changes", "/due": "Used / limit", "/work/2": "Make the build",
		"/import": "Only technicians"} {
		p.visit(path)
		p.sees(wait)
		for _, control := range []string{"New machine", "Edit", "Read the meter", "Open the work order", "Done …",
			"Done, next", "Finish the work", "Record a reading"} {
			if value[bool](p, find(control)+fmt.Sprintf(`?.innerText.trim() === %q`, control)) {
				t.Errorf("%s offers a member %q", path, control)
			}
		}
	}
}
