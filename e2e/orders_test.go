package e2e

import (
	"fmt"
	"strings"
	"testing"

	"wardifex/internal/core/machine"
	"wardifex/internal/demo"
)

// typed is what is typed into the fields of steps, by the beginning of their labels. What is
// optional and not listed is left empty.
var typed = map[string]string{
	"Noise, idle, dB": "54", "Noise, printing, dB": "62", "Version the screen shows": "2.1.3",
	"Name of the file flashed": "a-new-name.bin", "Name of the file on the card": "a-new-name.bin",
	"Size of the build, KiB": "231", "Room, °C": "21",
	"Alarm after, seconds": "205", "Text of the alarm": "Heating failed", "Bed, °C": "60", "Waited, minutes": "5",
	"Offset to begin with, mm": "-1.2", "Who did the mains work": "A. Weld, licensed electrician",
	"Earth continuity, Ω": "0.12", "Measured with": "Ohmlet 4", "P": "21.7", "I": "1.6", "D": "74", "X, mm": "-31",
	"Y, mm": "-8",
}

// values are those of calibrations, by the titles of their steps.
var values = map[string]string{
	"Extruder steps per mm": "415", "Motor current": "0.8", "Mesh": "3 × 3, spread 0.18", "Retraction": "6",
	"Tramming": "corners within 0.05", "Filament-change lengths": "550", "Resonance": "52",
}

// walk does every step of the order on the screen and finishes it, as somebody does who reads
// each. It gives the steps' titles with what they say, a line each.
func (p *page) walk() string {
	t := p.t
	t.Helper()
	p.until("the first step", `document.querySelector('#step') !== null`)
	var said []string
	for range 60 {
		if p.says("Every step is done or skipped") {
			break
		}
		title := value[string](p, `document.querySelector('#step').innerText`)
		said = append(said, value[string](p, `document.querySelector('section[aria-labelledby=step]').innerText
			.split('\nNote\n')[0].replaceAll('\n', ' / ')`))
		if p.says("Paper is lightly pinched") {
			p.pinch()
		} else {
			p.fillStep(title)
		}
		p.press("Done, next")
		p.until("the step after "+title, fmt.Sprintf(`document.querySelector('#step')?.innerText !== %q`, title))
	}
	p.press("Finish the work")
	p.sees("Finished 20 Nov 2026")
	return strings.Join(said, "\n")
}

// fillStep fills what a step asks for.
func (p *page) fillStep(title string) {
	p.t.Helper()
	const labels = `[...document.querySelectorAll('section[aria-labelledby=step] fieldset input:not([type=file]),' +
		'section[aria-labelledby=step] fieldset select, section[aria-labelledby=step] fieldset textarea')]
		.filter((e) => e.checkVisibility() && !e.disabled && !e.closest('details') && !e.value || e.type === 'checkbox')
		.map((e) => (e.ariaLabel || [...e.labels].map((l) => l.innerText).join(' ')).replace(/\s+/g, ' '))`
	for _, label := range value[[]string](p, labels) {
		switch {
		case strings.HasPrefix(label, "Moved: "):
			p.press(label)
		case label == "Which test":
			p.chooses(label, "No-heat test over USB")
		case label == "Where the value is kept":
			p.chooses(label, "stored settings")
		case strings.HasSuffix(label, "shows, °C"):
			p.types(label, "21.5")
		case strings.HasPrefix(label, "Value found"):
			p.types(label, prefixed(values, title))
		case label == "Note" && title == "Record the present settings and build":
			p.types(label, "M92 X80 Y80 Z400 E95.4")
		default:
			if text := prefixed(typed, label); text != "" {
				p.types(label, text)
			}
		}
	}
}

// prefixed is the value of the key that a text begins with.
func prefixed(of map[string]string, text string) string {
	for key, v := range of {
		if text == key || len(key) > 1 && strings.HasPrefix(text, key) {
			return v
		}
	}
	return ""
}

// pinch is a Z offset that is right after one round.
func (p *page) pinch() {
	p.t.Helper()
	p.types("Bed, °C", "60")
	p.types("Waited, minutes", "5")
	stored := p.says("Offset to begin with, mm")
	if stored {
		p.types("Offset to begin with, mm", "-1.2")
	}
	p.press("Homed again and gone to Z 0")
	p.types("Gap seen, mm", "0.3")
	if stored {
		p.press("Next offset")
		p.sees("−1.20 − 0.30 = −1.50 mm")
	} else {
		p.press("Next round")
		p.sees("endstop down by 0.30 mm")
	}
	p.press("Homed again and gone to Z 0")
	p.press("Paper is lightly pinched")
	p.sees("paper pinched") // what is sent before the round is there has no end
	if stored {
		p.chooses("Where the value is kept", "stored settings")
	}
}

// order opens a work order of a kit on a machine.
func (p *page) order(kit string, machineID int64) {
	p.t.Helper()
	p.visit(fmt.Sprintf("/ask/%s/%d", kit, machineID))
	p.chooses("Why touch it?", "a feature somebody needs")
	p.press("Open the work order")
}

// inOrder fails where texts do not follow one another.
func inOrder(t *testing.T, all string, texts ...string) {
	t.Helper()
	at := 0
	for _, text := range texts {
		i := strings.Index(all[at:], text)
		if i < 0 {
			t.Errorf("%q is missing, or not where it belongs, in:\n%s", text, all)
			return
		}
		at += i + len(text)
	}
}

// A board from the baseline to its proof: the old one goes out after its wires, what has to be
// cold is proven before mains comes back, and the result stands beside the baseline.
func TestABoardIsSwapped(t *testing.T) {
	t.Parallel()
	p := open(t, 1280, 800)
	p.signIn("technician")
	p.order("brace-5-board", 1)
	said := p.walk()
	inOrder(t, said, "Take the baseline", "pull the mains plug", "Move the wires one at a time", "old board out",
		"Flash, then read", "Restore defaults", "Test thermal-runaway protection, head 1", "Power on: smell and look",
		"All temperatures near", "Motor current", "moves a little, the right way", "Home", "Extruder steps per mm",
		"First layer", "Test print beside the baseline")
	p.sees("Mainboard: Brace board → Brace 5")
	p.visit("/machine/1")
	p.sees("Thermal-runaway protection proven")
}

// An extruder brings its steps and its current, each with its sum in the step.
func TestAnExtruderIsSwapped(t *testing.T) {
	t.Parallel()
	p := open(t, 800, 1280)
	p.signIn("technician")
	p.order("cadge-extruder", 7)
	said := p.walk()
	inOrder(t, said, "Motor current, head 1", "Extruder steps per mm", "Steps/mm from a feed", "Retraction")
	p.sees("Extruder steps per mm: 415")
}

// Another sheet: what finds Z 0 decides what it asks for. Nothing of it needs an open machine.
func TestASurfaceIsSwapped(t *testing.T) {
	t.Parallel()
	for _, of := range []struct {
		what    string
		machine int64
		probe   string // fitted first
		wants   []string
		without string
	}{
		{"no probe", 1, "", []string{"2.6 mm lower before power goes on", "1.2 − 3.8 = −2.6 mm", "Power on",
			"move the endstop", "First layer"}, "a probe that fails"},
		{"a probe that senses metal", 11, "", []string{"Power on", "Z offset", "store the next offset"}, "endstop"},
		{"a probe that touches", 1, "Plumbline contact probe", []string{"Power on", "First layer"}, "Z offset"},
	} {
		t.Run(of.what, func(t *testing.T) {
			p := open(t, 800, 1280)
			if of.probe != "" {
				does := does(roomOf(t).store)
				if err := does.ReplacePart(t.Context(), of.machine, "probe", of.probe, "fitted", "x", demo.Today); err != nil {
					t.Fatal(err)
				}
				reading := machine.Reading{Grade: machine.Observed, TakenAt: demo.Today, By: "x"}
				if _, err := does.AddReading(t.Context(), of.machine, "probe.senses", "surface, by touch", reading,
					demo.Today); err != nil {
					t.Fatal(err)
				}
			}
			p.signIn("technician")
			p.order("slate-sheet", of.machine)
			said := p.walk()
			if strings.Contains(said, "cover off") {
				t.Errorf("a sheet needs no open machine:\n%s", said)
			}
			inOrder(t, said, of.wants...)
			if strings.Contains(said, of.without) {
				t.Errorf("%q is asked for:\n%s", of.without, said)
			}
		})
	}
}

// A bed on mains: who may do it, earth continuity with its instrument, and never the test by
// the heater's lead.
func TestAMainsBedIsFitted(t *testing.T) {
	t.Parallel()
	p := open(t, 1280, 800)
	p.signIn("technician")
	p.order("hearth-230", 7)
	said := p.walk()
	inOrder(t, said, "Who did the mains work", "Earth continuity")
	p.visit("/safety")
	p.sees("Ohmlet 4")
}

// A flash by itself, to the end: what the old build kept is entered again, what it proved is
// proven again.
func TestAFlashByItself(t *testing.T) {
	t.Parallel()
	p := open(t, 1280, 800)
	p.signIn("technician")
	p.visit("/machine/1/builds")
	p.press("Flash another build")
	p.types("Why it is touched", "a feature that is needed")
	p.press("Open the work order")
	said := p.walk()
	inOrder(t, said, "Record the present settings", "Flash, then read", "Restore defaults", "own values again",
		"Test thermal-runaway protection")
	p.goes("/machine/1")
	p.sees("2.1.3")
}
