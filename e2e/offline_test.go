package e2e

import (
	"fmt"
	"path/filepath"
	"testing"

	"github.com/chromedp/chromedp"

	"wardifex/internal/store"
)

// Without an answer from the server every form keeps what was typed and says what to do; slow
// answers leave it too. With an answer again the same is sent, once.
func TestFormsWithoutAnAnswer(t *testing.T) {
	t.Parallel()
	const gone = `window.real = window.real ?? window.fetch; window.fetch = (r, o) => (r.method ?? 'GET') === 'GET' ?
		window.real(r, o) : Promise.reject(new TypeError('offline'))`
	const failing = `window.real = window.real ?? window.fetch; window.fetch = (r, o) => (r.method ?? 'GET') === 'GET' ?
		window.real(r, o) : Promise.resolve(new Response('{"detail":"The database is away; try again in a moment."}',
			{status: 503, headers: {'Content-Type': 'application/problem+json'}}))`
	type field struct{ name, text string }
	for _, form := range []struct {
		what, as, path string
		open           string // pressed first
		fields         []field
		send           string
	}{
		{"a new order", "technician", "/purchases", "New order", []field{{"Supplier", "Windlass"},
			{"Model, or what it is", "paste"}}, "Save the order"},
		{"receiving", "technician", "/purchase/2", "Receive one", []field{{"Lot", "L9"}}, "Take it in"},
		{"a part", "technician", "/part/1", "Edit", []field{{"Shelf", "drawer 9"}}, "Save"},
		{"a reading", "technician", "/machine/1?fact=extruder.steps", "", []field{{"Extruder: measured steps per mm", "415"}},
			"Record the reading"},
		{"a swap", "technician", "/machine/1?fact=nozzle.model", "", []field{{"Model that comes in", "hard"},
			{"Why it is touched", "worn"}}, "Open the work order"},
		{"a flash", "technician", "/machine/1/builds", "Flash another build", []field{{"Why it is touched", "a feature"}},
			"Open the work order"},
		{"a fault", "member", "/faults?report=1", "", []field{{"Or in your own words: what is wrong?", "it squeaks"}},
			"Report it"},
		{"a machine", "technician", "/machine/new", "", []field{{"Name", "Wigeon"}}, "Add the machine"},
		{"a person", "lead", "/people", "Add a person", []field{{"Signs in as", "tove"}, {"Name as shown", "Tove"},
			{"First password", "nine wet herring gulls"}}, "Add the person"},
		{"the shop", "lead", "/shop", "", []field{{"Name", "Net loft"}}, "Save"},
	} {
		t.Run(form.what, func(t *testing.T) {
			p := reads(t, form.as, 1280, 800)
			p.visit(form.path)
			if form.open != "" {
				p.press(form.open)
			}
			if form.what == "a fault" {
				p.chooses("Machine", "Gannet, Quay")
			}
			for _, f := range form.fields {
				p.types(f.name, f.text)
			}
			for how, says := range map[string]string{gone: "No answer from the server. What you typed is still here",
				failing: "The database is away; try again in a moment."} {
				p.do(chromedp.Evaluate[chromedp.Void](how))
				p.press(form.send)
				p.sees(says)
				for _, f := range form.fields {
					if got := value[string](p, fmt.Sprintf(`%s.value`, find(f.name))); got != f.text {
						t.Errorf("%s is %q after it was not sent", f.name, got)
					}
				}
			}
		})
	}
}

// Steps that are ticked without a connection wait on the device, over a reload too, and are
// stored once each, in their order; the last of them can be undone before it is sent.
func TestTicksWithoutAConnection(t *testing.T) {
	t.Parallel()
	p := open(t, 800, 1280)
	p.signIn("technician")
	p.visit("/machine/1?fact=springs.model")
	p.types("Model that comes in", "Bollard short")
	p.types("Why it is touched", "a trial")
	p.press("Open the work order")
	p.sees("let the bed cool")
	const gone = `window.fetch = () => Promise.reject(new TypeError('offline'))`
	p.do(chromedp.Evaluate[chromedp.Void](gone))
	title := `document.querySelector('#step')?.innerText`
	const many = 5
	for n := range many {
		was := value[string](p, title)
		p.press("Done, next")
		p.until("the step after it", title+` !== `+quoted(was))
		p.sees(map[bool]string{true: "1 step waits", false: fmt.Sprintf("%d steps wait", n+1)}[n == 0])
	}
	p.sees(fmt.Sprintf("%d of ", many))
	orders, err := roomOf(t).store.Orders(t.Context(), store.Cut{})
	if err != nil || orders.Rows[0].Done != 0 {
		t.Fatalf("%d steps are stored without a connection, %v", orders.Rows[0].Done, err)
	}
	// With a connection again, in somebody else's session: it is not theirs to send.
	path := value[string](p, `location.pathname`)
	const signOut = `(() => { const x = new XMLHttpRequest(); x.open('DELETE', '/api/session', false); x.send() })()`
	p.do(chromedp.Evaluate[chromedp.Void](signOut))
	p.signIn("lead")
	p.visit(path)
	p.sees("What Joren Halm did without a connection waits on this device")
	if o, err := does(roomOf(t).store).Order(t.Context(), orders.Rows[0].ID); err != nil || o.Done != 0 {
		t.Fatalf("%d steps are sent in another's session, %v", o.Done, err)
	}
	p.do(chromedp.Evaluate[chromedp.Void](signOut))
	p.signInByForm("technician")
	p.visit(path)
	p.until("all of them sent", `/steps done/.test(document.body.innerText) &&
		!/on this device for a connection/.test(document.body.innerText)`)
	o, err := does(roomOf(t).store).Order(t.Context(), orders.Rows[0].ID)
	if err != nil || o.Done != many {
		t.Fatalf("%d steps are stored, %v", o.Done, err)
	}
	for i, s := range o.StepList[:many] {
		if s.DoneAt == nil || s.Version != 2 || s.DoneBy != "Joren Halm" {
			t.Errorf("step %d: done %v, version %d", i+1, s.DoneAt, s.Version)
		}
	}

	// What the server refuses is a draft again, with its sentence.
	p.do(chromedp.Evaluate[chromedp.Void](gone))
	p.press("Done, next")
	p.sees("1 step waits")
	_, err = roomOf(t).store.SQL.Exec(`update work_steps set step = jsonb_set(step, '{form}', '"note"') where key = $1`,
		o.StepList[many].Key)
	if err != nil {
		t.Fatal(err)
	}
	p.do(chromedp.Reload())
	p.sees("was not taken")
	p.sees("What you typed in it and after it is still there.")
}

// An order goes on while nothing answers, over a reload too: rounds of the Z offset with their
// sums, and a photo, which is there once afterwards.
func TestAnOrderGoesOnWithoutTheServer(t *testing.T) {
	t.Parallel()
	p := open(t, 800, 1280)
	p.signIn("technician")
	p.visit("/machine/11?fact=nozzle.model")
	p.types("Why it is touched", "worn")
	p.press("Open the work order")
	p.until("the order", `document.querySelector('#step') !== null`)
	for range 30 {
		if p.says("Gap seen, mm") {
			break
		}
		title := value[string](p, `document.querySelector('#step').innerText`)
		p.press("Skip …")
		p.types("Why is it skipped?", "a trial")
		p.press("Skip")
		p.until("the next step", `document.querySelector('#step')?.innerText !== `+quoted(title))
	}
	p.until("all that is needed is on this device", `(async () => (await (await caches.open('wardifex-answers')).keys())
		.some((r) => r.url.endsWith('/api/bench')) && (await (await caches.open('wardifex-files')).match('/')) !==
		undefined && navigator.serviceWorker.controller !== null)()`)
	roomOf(t).away.Store(true)
	round := func(gap, next string) {
		p.press("Homed again and gone to Z 0 since the offset was set")
		p.types("Gap seen, mm", gap)
		p.press("Next offset")
		p.sees(next)
	}
	round("0.7", "next = offset − gap = 0.00 − 0.70 = −0.70 mm")
	p.sees("No connection.")
	p.do(chromedp.Reload())
	p.sees("−0.70 mm")
	round("0.15", "−0.70 − 0.15 = −0.85 mm")
	round("0.1", "−0.85 − 0.10 = −0.95 mm")
	file, err := filepath.Abs(filepath.Join("..", "docs", "screenshots", "use.png"))
	if err != nil {
		t.Fatal(err)
	}
	p.do(chromedp.SetUploadFiles(`main input[type=file]`, []string{file}))
	p.sees("waits for a connection")
	p.do(chromedp.Reload())
	p.sees("waits for a connection")
	p.types("Bed, °C", "60")
	p.types("Waited, minutes", "5")
	p.press("Homed again and gone to Z 0 since the offset was set")
	p.press("Paper is lightly pinched")
	p.sees("Z offset −0.95 mm")
	p.chooses("Where the value is kept", "host configuration")
	p.press("Done, next")
	p.sees("1 step waits")

	roomOf(t).away.Store(false)
	p.until("all of it sent", `!/on this device for a connection|waits for a connection/.test(document.body.innerText)`)
	p.until("the connection is seen", `!document.body.innerText.includes('No connection.')`)
	p.until("the rounds and the photo are there once", `fetch('/api' + location.pathname).then((r) => r.json()).then((o) =>
		o.stepList.some((s) => s.doneAt && s.photos.length === 1 && s.data.rounds?.length === 4))`)
	// Who signs out leaves nothing behind of what they saw.
	p.do(chromedp.Evaluate[chromedp.Void](`fetch('/api/session', {method: 'DELETE'})`))
	p.until("what was kept is gone", `caches.has('wardifex-answers').then((is) => !is)`)
}
