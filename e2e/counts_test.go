package e2e

import "testing"

// steps counts what a person has to do: each press, each choice and each field.
type steps struct {
	*page
	n int
}

func (s *steps) press(name string)           { s.t.Helper(); s.n++; s.page.press(name) }
func (s *steps) types(name, text string)     { s.t.Helper(); s.n++; s.page.types(name, text) }
func (s *steps) chooses(name, option string) { s.t.Helper(); s.n++; s.page.chooses(name, option) }
func (s *steps) presses(names ...string) {
	s.t.Helper()
	for _, n := range names {
		s.press(n)
	}
}

// What people do most days takes few presses and fields: each job from the page on which its
// person starts, with the count that it must not exceed.
func TestHowMuchAJobTakes(t *testing.T) {
	t.Parallel()
	for _, job := range []struct {
		what, as string
		most     int
		do       func(s *steps)
	}{
		{"which machine can I use", "member", 0, func(s *steps) { s.sees("Which machine can I use now?") }},
		{"smoke is reported, the machine out of use", "member", 2, func(s *steps) {
			s.sees("Report a fault")
			s.presses("Report a fault of Avocet", "Smoke or a burning smell")
			s.sees("Avocet is out of use now.")
		}},
		{"eight machines out of use", "lead", 8, func(s *steps) {
			s.sees("24 of 24 machines")
			s.presses("Filter", "Add a filter")
			s.chooses("Filter 1: what", "Bay")
			s.types("Filter 1: value", "Loft")
			s.sees("8 of 24 machines")
			s.presses("Select all machines shown", "Set availability")
			s.types("Why", "the roof leaks")
			s.press("Save")
			s.sees("8 machines are out of use")
		}},
		{"does this kit fit this machine", "technician", 2, func(s *steps) {
			s.presses("Compatibility", "Gannet: Plumbline contact probe kit")
			s.sees("Plumbline contact probe kit on Gannet")
		}},
		{"a marking is recorded", "technician", 5, func(s *steps) {
			s.presses("Fleet", "Avocet", "processor marking")
			s.types("Mainboard: processor marking", "QX32H103RET7")
			s.press("Record the reading")
			s.sees("512 KiB")
		}},
		{"a question with two filters", "technician", 7, func(s *steps) {
			s.presses("Fleet", "Filter", "Add a filter")
			s.chooses("Filter 1: what", "Bay")
			s.types("Filter 1: value", "Slip")
			s.press("Add a filter")
			s.chooses("Filter 2: what", "Mainboard: flash")
			s.sees("of 24 machines")
		}},
		{"three machines inspected in one pass", "technician", 5, func(s *steps) {
			s.presses("Fleet", "Select Avocet", "Select Bittern", "Select Curlew", "Inspect them")
			s.sees("to ask, about")
		}},
		{"a person is added", "lead", 7, func(s *steps) {
			s.presses("Ansa Verrel", "People", "Add a person")
			s.types("Signs in as", "tove")
			s.types("Name as shown", "Tove Lind")
			s.types("First password", "nine wet herring gulls")
			s.press("Add the person")
			s.sees("Tove Lind can sign in as tove")
		}},
		{"a worn nozzle is swapped, with its steps", "technician", 5, func(s *steps) {
			s.presses("Fleet", "Avocet", "model plain nozzle")
			s.types("Why it is touched", "worn")
			s.press("Open the work order")
			s.sees("Nozzle")
		}},
	} {
		t.Run(job.what, func(t *testing.T) {
			p := open(t, 1280, 800)
			p.signIn(job.as)
			s := &steps{page: p}
			job.do(s)
			t.Logf("%d presses, choices and fields", s.n)
			if s.n > job.most {
				t.Errorf("%d presses, choices and fields; at most %d", s.n, job.most)
			}
		})
	}
}

// A new, empty shop: twelve machines of three models, typed, and the first verdict, in
// under forty presses and fields.
func TestANewShop(t *testing.T) {
	t.Parallel()
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
