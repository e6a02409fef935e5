package e2e

import (
	"fmt"
	"testing"

	"github.com/chromedp/chromedp"
)

// Without an answer from the server every form keeps what was typed and says what to do; slow
// answers leave it too. With an answer again the same is sent, once.
func TestFormsWithoutAnAnswer(t *testing.T) {
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
			p := open(t, 1280, 800)
			p.signIn(form.as)
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
