package e2e

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
)

// A part from the shelf is judged where it could go, from the part and from the position,
// before anybody opens the machine.
func TestAShelfPartIsJudgedInPlace(t *testing.T) {
	t.Parallel()
	p := open(t, 1280, 800)
	p.signIn("technician")
	p.visit("/parts")
	p.press("Add a part to the shelf")
	p.chooses("Kind of part", "Heater")
	p.types("Model", "Hearthstone 12 V")
	p.press("Add it to the shelf")
	p.sees("Hearthstone 12 V")
	p.visit("/machine/1/positions")
	p.press("Hotend heater")
	p.sees("From the shelf")
	p.sees("If its part comes out")
	p.until(
		"the spare judged",
		`[...document.querySelectorAll('li')].some((e) => e.innerText.includes('Hearthstone 12 V') &&
			e.innerText.includes('look first'))`,
	)
	p.press("Hearthstone 12 V")
	p.sees("Where it fits")
	p.sees("Unknown or too weakly known: Hotend heater: volts")
	// Read off on the shelf, it is judged at once: a supply of 24 V is too much for it.
	p.chooses("Measure it or read it off", "volts")
	p.types("Heater: volts, V", "12")
	p.press("Record the reading")
	p.sees("A supply of no more than its voltage")
}

// A plan is refused because the later kit breaks what the earlier one needs as long as it
// is fitted; each of the two goes by itself.
func TestAPlanIsRefusedForALaterKit(t *testing.T) {
	t.Parallel()
	p := reads(t, "technician", 1280, 800)
	p.visit("/plan?machine=1&kit=plumbline-probe&kit=to-scripted")
	p.sees("These cannot go together")
	p.sees("A firmware family with a build for it, which Plumbline contact probe needs")
	if p.says("Why touch it?") {
		t.Error("a plan that ends in a broken machine can be begun")
	}
	p.press("Plan without Change to the scripted family")
	p.sees("Why touch it?")
	p.sees("Plumbline contact probe kit")
}

// A fleet of which a seller's sheet is all that is known is read by its lean, and settled
// by the looks that are advised.
func TestClaimsAreReadByTheirLean(t *testing.T) {
	t.Parallel()
	p := open(t, 1280, 800)
	p.signIn("technician")
	p.visit("/import")
	p.sees("Choose or drop the CSV")
	file := filepath.Join(t.TempDir(), "slip.csv")
	rows := []string{"Printer;Where;Bed springs: model;Bed springs: room at the cable corner;Bed springs: stiff",
		"Slip 1;Slip;factory springs;18;no", "Slip 2;Slip;factory springs;18;no", "Slip 3;Slip;factory springs;15;no",
		"Slip 4;Slip;hard springs;18;yes"}
	if err := os.WriteFile(file, []byte(strings.Join(rows, "\r\n")+"\r\n"), 0o600); err != nil {
		t.Fatal(err)
	}
	p.do(chromedp.SetUploadFiles(`input[type=file]`, []string{file}))
	p.sees("4 rows, 5 columns")
	p.press("Preview the import")
	p.sees("4 new")
	p.press("Import 4 machines")
	p.sees("4 machines new")

	p.goes("/ask")
	p.sees("Every upgrade (35)")
	p.chooses("Kind of upgrade", "stiffer bed springs")
	p.chooses("Bay", "Slip")
	p.chooses("Verdict", "look first, leans to fits")
	p.until(
		"those that lean to it, the one with less room by the short springs",
		`document.querySelectorAll("tbody tr").length === 3`,
	)
	p.until(
		"the mark with its lean",
		`document.querySelector('[title="Slip 1: Bollard stiff bed springs, look first, leans to fits"]') !== null`,
	)
	p.do(
		chromedp.Evaluate[chromedp.Void](
			`document.querySelector('[title="Slip 1: Bollard stiff bed springs, look first, leans to fits"]').click()`,
		),
	)
	p.until("the verdict with its lean", `document.querySelector('[data-verdict="look first"]')?.dataset.lean === 'fits'`)
	p.sees("Begin with:")
	for label, value := range map[string]string{"Bed springs: room at the cable corner": "18",
		"Bed springs: stiffer springs": "no"} {
		p.until(
			"the look "+label,
			`[...document.querySelectorAll('main li')].some((e) => e.innerText.includes(`+quoted(label)+`))`,
		)
		p.do(
			chromedp.Evaluate[chromedp.Void](
				`[...document.querySelectorAll('main li')].filter((e) => e.innerText.includes(` + quoted(
					label,
				) + `) && e.querySelector('button')).at(-1).querySelector('button').click()`,
			),
		)
		p.fills(label, value)
		p.press("Record the reading")
		p.until(
			label+" settled",
			`![...document.querySelectorAll('main li')].some((e) => e.innerText.includes(`+quoted(
				label,
			)+`) && e.querySelector('button'))`,
		)
	}
	p.until("a verdict that fits", `document.querySelector('[data-verdict="fits"]') !== null`)
	p.sees("Every need is met.")
}

func quoted(text string) string { return `"` + text + `"` }

// fills answers a field, whether it is typed or chosen.
func (p *page) fills(label, value string) {
	p.t.Helper()
	if value == "no" || value == "yes" {
		p.chooses(label, value)
		return
	}
	p.types(label, value)
}
