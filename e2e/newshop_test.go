package e2e

import "testing"

// steps counts what a person has to do: each press and each field.
type steps struct {
	*page
	n int
}

func (s *steps) press(name string)       { s.t.Helper(); s.n++; s.page.press(name) }
func (s *steps) types(name, text string) { s.t.Helper(); s.n++; s.page.types(name, text) }

// A new, empty shop: twelve machines of three models, typed, and the first verdict, in
// under forty presses and fields.
func TestANewShop(t *testing.T) {
	makeRoom(t, bare)
	p := open(t, 1280, 800)
	p.signIn("technician")
	s := &steps{page: p}
	s.press("Fleet")
	p.sees("No machine is in the register yet.")
	for i, batch := range []struct{ names, maker string }{
		{"Ant\nBee\nCrab\nDace", "Skerry 22"},
		{"Eel\nFrog\nGull\nHen", "Drift 350"},
		{"Ibex\nJay\nKite\nLark", "Halyard 5"},
	} {
		if i == 0 {
			s.press("Add a few alike machines")
		} else {
			s.press("New machine")
			s.press("Several alike at once")
		}
		s.types("Names", batch.names)
		s.types("Bay", "Quay")
		s.types("Maker and model of the machines", batch.maker)
		s.press("Add 4 machines")
		p.sees("4 machines are in the register")
	}
	p.sees("12 of 12 machines")
	s.press("Compatibility")
	p.sees("Pick kits to order")
	s.press("Slate sheet")
	p.until("a kit's verdicts", `location.pathname.startsWith('/ask/') && /look first/.test(document.body.innerText)`)
	t.Logf("%d presses and fields", s.n)
	if s.n >= 40 {
		t.Errorf("%d presses and fields to the first verdict; at most 39", s.n)
	}
}
