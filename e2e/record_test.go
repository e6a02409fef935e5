package e2e

import (
	"bytes"
	"image"
	"image/color"
	"image/png"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// A machine entered by hand: a marking misread and mended by a look-alike, a
// reading taken back, a part changed, the machine retired and brought back.
func TestAMachineByHand(t *testing.T) {
	t.Parallel()
	p := open(t, 1280, 800)
	p.signIn("lead")
	p.do(chromedp.Evaluate[chromedp.Void](`document.activeElement.blur()`), chromedp.KeyEvent("n"))
	p.types("Name", "=Skua")
	p.press("Add the machine")
	p.sees("a spreadsheet runs as a formula")
	p.types("Name", "Skua")
	p.types("Bay", "Quay")
	p.press("Add the machine")
	p.sees("Nothing is known yet")
	p.sees("never tested on this machine")

	p.press("Show unknowns")
	p.press("processor marking")
	p.types("Mainboard: processor marking", "V0T6")
	p.sees("stands for no flash size")
	p.press("Record the reading")
	p.sees("look again")
	p.press("VDT6")
	p.until("the decoded flash", `document.querySelector('[role=dialog]').innerText.includes('384 KiB')`)
	p.press("Record the reading")
	p.sees("Mainboard: processor marking recorded")
	p.do(chromedp.KeyEvent(kb.Escape))
	p.press("flash")
	p.sees("decoded from the marking VDT6")
	p.press("Take back")
	p.types("Why is it taken back?", "read on the wrong board")
	p.do(chromedp.KeyEvent(kb.Enter))
	p.sees("taken back: read on the wrong board")
	p.do(chromedp.KeyEvent(kb.Escape))

	p.press("Retire")
	p.types("Why", "frame bent in the move")
	p.press("Retire it")
	p.sees("Retired: frame bent in the move")
	p.visit("/fleet")
	p.sees("Retired: 1")
	p.press("Retired: 1")
	p.press("Skua")
	p.press("Bring back")
	p.press("Bring it back")
	p.sees("is back in the fleet")
}

// Two equal readings differ; one is chosen with a reason, and the verdict that
// hung on it turns.
func TestAConflictIsSettled(t *testing.T) {
	t.Parallel()
	p := open(t, 1280, 800)
	p.signIn("technician")
	p.visit("/ask/plumbline-probe/9")
	p.sees("readings differ: pin-compatible twin / first source")
	p.press("Settle it on the sheet")
	p.sees("Equally good readings differ")
	p.do(
		chromedp.Evaluate[chromedp.Void](
			`[...document.querySelectorAll('[type=radio]')].find((r) =>
				r.closest('label').innerText.includes('first source')).focus()`,
		),
		chromedp.KeyEvent(" "),
	)
	p.types("Why", "photograph under the lens")
	p.press("Settle")
	p.sees("conflict settled: photograph under the lens")
	p.do(chromedp.KeyEvent(kb.Escape))
	p.goes("/ask/plumbline-probe/9")
	p.until("the verdict fits", `document.querySelector('[data-verdict]')?.dataset.verdict === 'fits'`)
}

// A reason opens down to the reading that decided it.
func TestAVerdictOpensToItsReading(t *testing.T) {
	t.Parallel()
	p := reads(t, "member", 1280, 800)
	p.visit("/ask/plumbline-probe/3")
	p.sees("does not fit")
	p.sees("one maker's chip and not its pin-compatible twin")
	p.press("Mainboard: processor maker: pin-compatible twin")
	p.until("the reading's panel", `document.querySelector('[role=dialog]')?.innerText.includes('pin-compatible twin')`)
	p.sees("Joren Halm, looked")
	if strings.Contains(value[string](p, `document.querySelector('[role=dialog]').innerText`), "Take a reading") {
		t.Error("a member is offered to take a reading")
	}
}

// A protection test that stays silent is recorded as unprotected.
func TestASilentTestIsUnprotected(t *testing.T) {
	t.Parallel()
	p := open(t, 1280, 800)
	p.signIn("technician")
	p.visit("/due")
	p.sees("Thermal-runaway protection is not proven on")
	p.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('main details').open = true`))
	p.press("Test it")
	p.sees("Never pull a sensor out of a hot block")
	p.chooses("Which test", "No-heat test over USB")
	p.press("Record")
	p.sees("the seconds until the alarm")
	p.press("No alarm came: unprotected")
	p.press("Record")
	p.sees("Thermal-runaway protection, head 1 recorded")
	p.sees("no alarm, unprotected")
}

// Meter readings from a file: faults with their place, then all at once.
func TestMetersFromAFile(t *testing.T) {
	t.Parallel()
	p := open(t, 1280, 800)
	p.signIn("technician")
	p.visit("/import")
	p.press("Print-hour meters")
	p.sees("A column with the machine")
	file := filepath.Join(t.TempDir(), "meters.csv")
	bring := func(text string) {
		t.Helper()
		if err := os.WriteFile(file, []byte(text), 0o600); err != nil {
			t.Fatal(err)
		}
		p.do(chromedp.SetUploadFiles(`input[type=file]`, []string{file}))
	}
	bring("machine,date,hours\nAvocet,2026-11-19,5\nNobody,2026-11-19,5\n")
	p.sees("0 readings new, 0 known already, 2 faulty")
	p.sees("meters do not run backwards")
	p.sees("no machine in the register has this name")
	bring("machine,date,hours\nPhalarope,2026-11-10,10\nPhalarope,2026-11-19,\"40,5\"\n")
	p.sees("2 readings new, 0 known already, 0 faulty")
	p.press("Import 2 readings")
	p.sees("2 meter readings imported")
	p.goes("/machine/23")
	p.sees("meter read 19 Nov 2026 at 40.5 h")
}

// A register with a title, headings of two lines and decimal commas, in an older encoding:
// what it is understood as is shown, the one thing that is open is asked once, and what is
// corrected by hand is known the next time.
func TestARegisterAsItWasKept(t *testing.T) {
	t.Parallel()
	p := open(t, 1280, 800)
	p.signIn("technician")
	p.visit("/import")
	p.sees("Choose or drop the CSV")
	file := filepath.Join(t.TempDir(), "netloft.csv")
	choose := func(text string) {
		t.Helper()
		if err := os.WriteFile(file, []byte(text), 0o600); err != nil {
			t.Fatal(err)
		}
		p.do(chromedp.SetUploadFiles(`input[type=file]`, []string{file}))
	}
	choose(
		"Netloft, H\xe4fen 2026;;;;;;\r\n;;;;;;\r\nPrinter;Nozzle;Power supply;;Extruder;Bought;Frame " +
			"colour\r\n;(mm);V;W;Steps/mm;;\r\n" +
			"Mole 1;0,4;24;350;1,200;3/4/2024;red\r\nMole 2;0,6;24;350;1,400;5/6/2024;blue\r\n",
	)
	p.sees("2 rows, 7 columns, separated by semicolons, Windows-1252, headings in lines 3 and 4")
	p.sees("Above the headings: Netloft, Häfen 2026")
	p.sees("First, please say")
	p.sees("Left out: 1")
	p.press("3 Apr 2024")
	p.until("the dates to be settled", `!document.body.innerText.includes('Which day is')`)
	p.press("1200 steps/mm: the point stands before decimals")
	p.until("nothing to be asked", `!document.body.innerText.includes('First, please say')`)
	p.sees("0.4 mm")
	p.sees("1200 steps/mm")
	p.chooses("Column Frame colour goes into", "Note")
	p.press("Preview the import")
	p.sees("2 new, 0 changed, 0 the same, 0 faulty")
	p.press("Import 2 machines")
	p.sees("2 machines new")
	p.press("Another file")
	p.sees("Imported before")
	p.sees("netloft.csv")
	choose("printer,colour of frame\nMole 3,green\n")
	p.sees("1 row, 2 columns")
	if got := value[string](p, chosenTargets); got != "name note" {
		t.Errorf("columns proposed the second time: %q", got)
	}
	p.sees("matched so by hand before")
}

// A meter that nobody has read for long gives no date: it is read, and the dates are there.
func TestReadTheMeterFirst(t *testing.T) {
	t.Parallel()
	p := open(t, 1280, 800)
	p.signIn("technician")
	p.visit("/due")
	p.sees("Read the meter first: 1 machine")
	p.sees("meter read 200 days ago: too long to tell a date")
	p.sees("Start unknown: never recorded")
	p.press("Read the meter")
	p.sees("Meters of Redshank")
	p.types("Hours, as the meter shows", "5 600")
	p.types("Day", "yesterday")
	p.sees("= 19 Nov 2026")
	p.press("Record")
	p.sees("Meter recorded")
	p.visit("/due")
	p.sees("Used / limit")
	if p.says("Read the meter first") {
		t.Error("the meter is still to be read")
	}
	p.goes("/due?only.bay=Loft&only.span=30")
	row := `[...document.querySelectorAll('tbody tr')].some((r) => r.innerText.includes('Redshank'))`
	p.until("Redshank's tasks with their dates", row)
}

// A number with two meanings is asked about where it is typed, with both.
func TestANumberWithTwoMeanings(t *testing.T) {
	t.Parallel()
	p := open(t, 1280, 800)
	p.signIn("technician")
	p.visit("/machine/1?fact=extruder.steps")
	p.types("Extruder: measured steps per mm", "1,200")
	p.press("Record the reading")
	p.sees("\"1,200\" can be 1.2 or 1200")
	p.press("It is 1200")
	p.sees("1200 steps/mm")
}

// At a step of work, where no form is around, it is asked about just so.
func TestANumberWithTwoMeaningsAtAStep(t *testing.T) {
	t.Parallel()
	p := open(t, 1280, 800)
	p.signIn("technician")
	p.visit("/work/2")
	p.sees("Make the build")
	p.press("Done, next")
	p.sees("An upload that does not begin means no bootloader")
	p.press("Done, next")
	p.types("Version the screen shows", "2.1.3")
	p.types("Name of the file flashed", "new-1.bin")
	p.types("Size of the build", "1,231")
	p.press("Done, next")
	p.press("It is 1231")
	p.until(
		"the number to be typed, and nothing asked any more",
		`[...document.querySelectorAll('main input')].some((e) => e.value === '1231') &&
			!document.querySelector('main [role=alert]')`,
	)
	p.press("Done, next")
	p.until("the step to be done", `!document.body.innerText.includes('Version the screen shows')`)
}

// A photo at a step; a file that is none is refused in words.
func TestAPhotoAtAStep(t *testing.T) {
	t.Parallel()
	p := open(t, 800, 1280)
	p.signIn("technician")
	p.visit("/work/2")
	p.sees("Make the build")
	dir := t.TempDir()
	var picture bytes.Buffer
	if err := png.Encode(&picture, labelled(60, 40)); err != nil {
		t.Fatal(err)
	}
	for name, data := range map[string][]byte{"script.jpg": []byte("<script>alert(1)</script>"),
		"board.png": picture.Bytes()} {
		if err := os.WriteFile(filepath.Join(dir, name), data, 0o600); err != nil {
			t.Fatal(err)
		}
	}
	p.do(chromedp.SetUploadFiles(`input[type=file]`, []string{filepath.Join(dir, "script.jpg")}))
	p.sees("This is not a picture that can be read")
	p.do(chromedp.SetUploadFiles(`input[type=file]`, []string{filepath.Join(dir, "board.png")}))
	p.until("the photo", `document.querySelector('main img')?.naturalWidth === 60`)
}

// labelled is a picture with a mark in it.
func labelled(width, height int) image.Image {
	img := image.NewRGBA(image.Rect(0, 0, width, height))
	img.Set(3, 3, color.White)
	return img
}

// Keys alone: the palette, the rows of a table, the list of keys, the theme.
func TestKeys(t *testing.T) {
	t.Parallel()
	p := reads(t, "technician", 1280, 800)
	p.visit("/fleet")
	p.sees("Whimbrel")
	p.do(chromedp.Evaluate[chromedp.Void](`document.activeElement.blur()`), chromedp.KeyEvent("t"))
	p.until("the other theme", `document.documentElement.dataset.theme === 'dark'`)
	p.do(chromedp.Reload())
	p.until("the theme kept", `document.documentElement.dataset.theme === 'dark'`)
	p.sees("Whimbrel")
	p.focus("Avocet")
	p.do(chromedp.KeyEvent(kb.ArrowDown), chromedp.KeyEvent(kb.ArrowDown), chromedp.KeyEvent(kb.Enter))
	p.sees("What is in it")
	if got := value[string](p, `document.querySelector('h1').innerText`); got != "Curlew" {
		t.Errorf("two rows below Avocet is %s", got)
	}
	p.do(chromedp.Evaluate[chromedp.Void](`document.activeElement.blur()`), chromedp.KeyEvent("?"))
	p.sees("Keys and marks")
	p.do(chromedp.KeyEvent(kb.Escape))
	p.until("the list to close", `!document.querySelector('[role=dialog]')`)
	for key, heading := range map[string]string{"f": "Fleet", "i": "Compatibility", "w": "Work", "x": "Maintenance",
		"u": "Faults", "p": "Parts", "d": "Today", "g": "Firmware builds", "c": "Catalogue", "m": "Compare two",
		"a": "Inspect", "b": "Import"} {
		p.do(chromedp.KeyEvent(key))
		p.until(heading, `document.querySelector('h1')?.innerText === `+"`"+heading+"`")
	}
}
