package e2e

import (
	"fmt"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"

	"wardifex/internal/core/machine"
)

// tap presses a control as a finger does: where it lies on the screen. It must
// lie within reach of the thumb of the hand that holds the tablet, in the lower
// two thirds, and be large enough for a dirty finger.
func (p *page) tap(name string) {
	p.t.Helper()
	p.until(fmt.Sprintf("the control %q", name), find(name)+` !== undefined`)
	at := value[[]float64](
		p,
		fmt.Sprintf(
			`(() => { const e = %s; e.scrollIntoView({block: 'nearest'}); const r = e.getBoundingClientRect();
				return [r.left, r.top, r.width, r.height]; })()`,
			find(name),
		),
	)
	if at[1] < 1280/3 || at[3] < 56 {
		p.t.Errorf("%q lies at %.0f and is %.0f high: out of the thumb's reach", name, at[1], at[3])
	}
	p.do(chromedp.MouseClickXY(at[0]+at[2]/2, at[1]+at[3]/2))
}

func (p *page) asksFor(label string) {
	p.t.Helper()
	p.until("the question "+label, fmt.Sprintf(`document.querySelector('h1')?.innerText.includes(%q)`, label))
}

// A machine identified with one hand on a tablet held upright: only what
// matters is asked, at the display first; what contradicts the rest is said
// while it is typed; what cannot be read is not asked that way again; a skipped
// question comes back; what no verdict waits for any more is dropped.
func TestIdentifyOneHanded(t *testing.T) {
	t.Parallel()
	p := open(t, 800, 1280)
	p.signIn("technician")
	p.visit("/identify")
	p.sees("Where do you stand?")
	p.chooses("Where do you stand?", "Fulmar, Quay")
	p.chooses("A kit that may fit", "Plumbline contact probe kit (contact pin probe)")
	p.press("Add it")
	p.press("Only what its parts and the kits below depend on")
	p.press("Start")

	p.sees("Look at the display")
	p.asksFor("Hotend: usual working temperature")
	p.sees("Safety: ")
	p.do(chromedp.MouseClickXY(400, 700)) // into nothing: nothing happens
	p.types("Hotend: usual working temperature", "265")
	p.sees("If the claims are right: Hotend needs: A working temperature of at most 240 °C")
	p.types("Hotend: usual working temperature", "215")
	p.until("the warning to go", `!document.body.innerText.includes('If the claims are right: Hotend')`)
	p.tap("Record, next")
	p.sees("Fulmar, Hotend: usual working temperature: 215")

	p.asksFor("Firmware build: size of the build")
	p.tap("Later")
	p.asksFor("Case fan: wiring")
	p.sees("Look from outside")
	p.tap("with the part fan")
	p.tap("Record, next")
	p.until("the next", `!document.querySelector('h1').innerText.includes('Case fan: wiring')`)

	// Through what is asked until the chip is read.
	for range 40 {
		if value[bool](p, `document.querySelector('h1').innerText.includes('processor')`) ||
			value[bool](p, `document.querySelector('h1').innerText.includes('Mainboard: flash')`) {
			break
		}
		before := value[string](p, `document.querySelector('h1').innerText`)
		p.tap("Later")
		p.until("another question", fmt.Sprintf(`document.querySelector('h1').innerText !== %q`, before))
	}
	p.sees("Lift the ribbon aside")
	p.sees("Pull the mains plug first.")
	p.asksFor("Mainboard: flash")
	p.tap("Can't read it")
	p.asksFor("Mainboard: processor maker")
	p.tap("pin-compatible twin")
	p.tap("Record, next")
	p.sees("left for later")

	p.press("Ask the ones skipped")
	// The twin settles the verdict: of what was skipped only safety is left.
	for _, pending := range value[[]string](p, `[...document.querySelectorAll('main p')].map((e) => e.innerText)`) {
		if strings.Contains(pending, "Waits for it") {
			t.Errorf("asked for a verdict that is settled: %s", pending)
		}
	}
	p.asksFor("Case fan: volts")
	m := fulmar(t)
	if f := m.Fact("case-fan.wiring"); f.Value.Text != "with the part fan" || f.Grade != machine.Observed {
		t.Errorf("the case fan on record: %+v", f)
	}
	if f := m.Fact("mainboard.chip-maker"); f.Value.Text != "pin-compatible twin" || len(f.Contradicted()) != 1 {
		t.Errorf("the chip on record, with the claim found false: %+v", f)
	}
	tried, err := roomOf(t).store.Unreadable(t.Context(), 6)
	if err != nil || !tried[6]["mainboard.flash"]["ribbon"] {
		t.Errorf("what could not be read: %v, %v", tried, err)
	}
}

func fulmar(t *testing.T) machine.Snapshot {
	m, err := roomOf(t).store.Machine(t.Context(), 6)
	if err != nil {
		t.Fatal(err)
	}
	return m.Facts
}

// A whole bay: along the displays first, then one machine opened at a time.
func TestIdentifyABay(t *testing.T) {
	t.Parallel()
	p := reads(t, "technician", 800, 1280)
	p.visit("/identify")
	p.chooses("Where do you stand?", "The whole bay Slip")
	p.chooses("A kit that may fit", "Plumbline contact probe kit (contact pin probe)")
	p.press("Add it")
	p.press("Start")
	p.sees("Look at the display")
	var order []string
	for range 40 {
		machineName := value[string](p, `document.querySelector('header p').innerText.split(' ')[0]`)
		power := value[string](p, `document.querySelector('[aria-current=step]').innerText`)
		step := machineName + " " + strings.ToLower(power)
		if len(order) == 0 || order[len(order)-1] != step {
			order = append(order, step)
		}
		if strings.HasSuffix(step, "cover off") {
			break
		}
		before := value[string](p, `document.querySelector('main').innerText`)
		p.press("Later")
		p.until("another question", fmt.Sprintf(`document.querySelector('main').innerText !== %q`, before))
	}
	on, off := 0, 0
	for i, s := range order {
		switch {
		case strings.HasSuffix(s, "power on"):
			on++
			if off > 0 {
				t.Errorf("back at a display at %d: %v", i, order)
			}
		case strings.HasSuffix(s, "power off"):
			off++
		}
	}
	if on < 4 || off != 1 {
		t.Errorf("%d displays, then %d machines opened before the first cover: %v", on, off, order)
	}
}
