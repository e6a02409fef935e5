package e2e

import (
	"testing"

	"github.com/chromedp/chromedp"
)

// A kit written in plain words: what can never be is said while it is typed,
// the fleet's verdicts stand beside it, and saved it is judged like the others.
func TestAKitIsWritten(t *testing.T) {
	p := open(t, 1280, 800)
	p.signIn("technician")
	p.visit("/ask")
	p.press("New kit")
	p.types("Name", "Skerry hood")
	p.types("Kind of upgrade", "enclosure")
	p.types("Price", "12,5")
	p.press("Add a fact")
	p.types("The need in plain words", "Enough volts for its fan")
	p.chooses("Fact", "Power supply: volts")
	p.chooses("Comparison", "at least")
	p.types("Value 1", "9000")
	p.sees("is outside 5 to 60 V")
	p.types("Value 1", "24")
	p.until("the verdicts of the fleet", `/fits [1-9]\d*, fits if 0, look first/.test(document.body.innerText)`)
	p.press("Add another kit")
	p.chooses("The other kit", "Slate sheet")
	p.until("the verdicts with the sheet asked for", `/fits 0, fits if 0/.test(document.body.innerText)`)
	p.until("its drop button", `[...document.querySelectorAll('button')].filter((b) => b.innerText === 'Drop this need').length === 2`)
	p.do(chromedp.Evaluate[chromedp.Void](`[...document.querySelectorAll('button')].filter((b) => b.innerText === 'Drop this need')[1].click()`))
	p.press("Add what it takes")
	p.chooses("Takes 1: of what", "Power left, W")
	p.types("Takes 1: how much", "4.5")
	p.types("What it fits", "mod-1 = Skerry hood")
	p.press("Add a step")
	p.types("Step 1: title", "Hang the hood")
	p.types("Step 1: what to do", "Hang it on the four studs.")
	p.press("Save the kit")
	p.sees("Skerry hood is saved")
	p.sees("What decides")
	p.press("What it asks for")
	p.sees("What Skerry hood asks for")
	if got := value[string](p, `document.getElementById('kit-price').value + ' ' + document.getElementById('kit-effects').value`); got != "12.5 mod-1 = Skerry hood" {
		t.Errorf("saved: %s", got)
	}
	k, err := roomOf(t).store.KitEntry(t.Context(), "skerry-hood")
	if err != nil || k.Kit.Steps[0].Title != "Hang the hood" || k.Kit.Uses[0].Amount != 4.5 || k.Version != 1 {
		t.Errorf("on record: %+v, %v", k, err)
	}
}

// From the matrix to the reasons, to what would make it fit, to a plan of three
// kits in the order of least rework, and to the work order.
func TestThreeKitsArePlanned(t *testing.T) {
	p := open(t, 1280, 800)
	p.signIn("technician")
	p.visit("/ask")
	p.sees("Every upgrade (34)")
	p.chooses("Kind of upgrade", "contact pin probe")
	p.until("two columns", `document.querySelectorAll('thead th').length === 3`)
	p.until("the mark of Curlew", `document.querySelector('[title="Curlew: Plumbline contact probe kit, does not fit"]') !== null`)
	p.press("Choose to order")
	p.press("Plumbline contact probe kit for Bittern")
	p.press("Order list: 1")
	p.sees("carriage plate with tapped holes")
	p.sees("Together")

	p.visit("/ask/plumbline-probe/3")
	p.sees("What would make it fit")
	p.press("Judge them together")
	p.sees("In this order the least is done twice")
	p.chooses("Add a kit", "Slate sheet (bed surface)")
	p.press("Add it")
	p.until("three steps", `document.querySelectorAll('main ol > li').length === 3`)
	if first := value[string](p, `document.querySelector('main ol > li h2').innerText`); first != "1. Brace 5 silent board" {
		t.Errorf("planned first: %s", first)
	}
	p.sees("What to buy")
	p.sees("adapter lead for the display")
	p.chooses("Add a kit", "Bollard stiff bed springs (stiffer bed springs)")
	p.press("Add it")
	p.press("Plan without Bollard stiff bed springs")
	p.until("the three again", `document.querySelectorAll('main ol > li').length === 3`)
}

// A verdict that waits is settled by looking where the plan says, its
// consequences are read, and it becomes a work order.
func TestSettledByLooking(t *testing.T) {
	p := open(t, 1280, 800)
	p.signIn("technician")
	p.visit("/ask/plumbline-probe/5")
	p.sees("Begin with:")
	p.sees("Quickest course first")
	p.press("Answer it")
	p.types("Mainboard: taken by the bootloader", "16")
	p.press("Record the reading")
	p.until("a settled verdict", `document.querySelector('[data-verdict^=fits]') !== null`)
	p.sees("What it will do")
	p.sees("What follows")
	p.sees("Z offset")
	p.chooses("Why touch it?", "a feature somebody needs")
	p.press("Open the work order")
	p.until("the work order", `location.pathname.startsWith("/work/")`)
	m, err := roomOf(t).store.Machine(t.Context(), 5)
	if err != nil || m.OpenOrder == nil {
		t.Errorf("no work order: %v", err)
	}
}
