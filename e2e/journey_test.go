package e2e

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// sheet30 is a technician's own register: 30 machines, three rows with faults.
func sheet30() string {
	var b strings.Builder
	b.WriteString("Printer;Where;Board;Flash (KB);Firmware;FW version;Nozzle size;Colour of the lid\r\n")
	for i := 1; i <= 30; i++ {
		flash, nozzle, name := "256", "0,4", fmt.Sprintf("Pier %02d", i)
		switch i {
		case 7:
			flash = "lots"
		case 15:
			nozzle = "=0.4"
		case 22:
			name = "Pier 21"
		}
		fmt.Fprintf(&b, "%s;Pier;Trestle 5;%s;compiled;1.1.%d;%s;green\r\n", name, flash, i, nozzle)
	}
	return b.String()
}

// The main job, by keyboard: bring a register in, ask, look, do, prove, and
// see what is next.
func TestJourney(t *testing.T) {
	t.Parallel()
	p := open(t, 1280, 800)
	p.signInByForm("technician")
	p.bringIn30()
	p.settleEider()
	p.workOnEider()
	p.sheetOfEider()
	p.maintain()
}

func (p *page) bringIn30() {
	t := p.t
	t.Helper()
	p.do(chromedp.KeyEvent("b"))
	p.chooseRegister()
	if got := value[string](p, chosenTargets); got != "name bay mainboard.model mainboard.flash "+
		"firmware.family firmware.version nozzle.bore " {
		t.Errorf("columns proposed: %q", got)
	}
	p.press("Preview the import")
	p.sees("27 new, 0 changed, 0 the same, 3 faulty, 0 left out")
	p.sees("line 22 has the same name")
	p.sees("a spreadsheet runs as a formula")
	if !value[bool](p, find("Import 27 machines")+` === undefined`) {
		t.Error("faulty rows can be brought in")
	}
	p.types("Flash (KB) in line 8", "512")
	p.do(chromedp.KeyEvent(kb.Enter))
	p.sees("28 new, 0 changed, 0 the same, 2 faulty")
	// A reload loses nothing.
	p.do(chromedp.Reload())
	p.sees("28 new, 0 changed, 0 the same, 2 faulty")
	p.press("Leave all 2 out")
	p.sees("28 new, 0 changed, 0 the same, 0 faulty, 2 left out")
	p.press("Import 28 machines")
	p.sees("28 machines new, 0 changed")
	p.do(chromedp.Evaluate[chromedp.Void](`document.activeElement.blur()`))
	p.do(chromedp.KeyEvent("f"))
	p.sees("52 of 52 machines")
}

func (p *page) chooseRegister() {
	p.t.Helper()
	p.sees("Choose or drop the CSV")
	file := filepath.Join(p.t.TempDir(), "register.csv")
	if err := os.WriteFile(file, []byte(sheet30()), 0o600); err != nil {
		p.t.Fatal(err)
	}
	p.do(chromedp.SetUploadFiles(`input[type=file]`, []string{file}))
	p.sees("30 rows, 8 columns, separated by semicolons")
}

// settleEider answers the one fact that decides, and sees the verdict turn.
func (p *page) settleEider() {
	p.t.Helper()
	p.do(chromedp.KeyEvent("/"))
	p.types("Go to", "plumbline")
	p.sees("Plumbline contact probe kit") // the kits have been read
	p.do(chromedp.KeyEvent(kb.Enter))
	p.sees("What decides")
	p.press("Eider")
	p.until("the verdict look first", `document.querySelector('[data-verdict]')?.dataset.verdict === 'look first'`)
	p.sees("Take the cover off")
	p.sees("256 flash − 28? taken by the bootloader − 225 size of the build")
	p.press("Record a reading")
	p.types("Probe: model", "none")
	p.press("Record the reading")
	p.until("the cover alone", `!document.body.innerText.includes("Probe: model")`)
	p.press("Record a reading")
	p.types("Mainboard: taken by the bootloader", "8")
	p.press("Record the reading")
	p.until("the verdict fits", `document.querySelector('[data-verdict]')?.dataset.verdict === 'fits'`)
	p.sees("Every need is met.")
}

func (p *page) workOnEider() {
	t := p.t
	t.Helper()
	p.sees("Thermal-runaway protection → Motor direction")
	p.chooses("Why touch it?", "a feature somebody needs")
	p.press("Open the work order")
	p.sees("Check what came against its list")
	total := value[int](p, `Number(document.body.innerText.match(/step 1 of (\d+)/)[1])`)
	for n := 1; n <= total; n++ {
		p.sees(fmt.Sprintf("step %d of %d", n, total))
		switch title := value[string](p, `document.querySelector('#step').innerText`); title {
		case "Record the present settings and build":
			p.press("Done, next")
			p.sees("the note is empty")
			p.types("Note", "M92 X80 Y80 Z400 E95.4")
			p.leaveAndComeBack(n, total)
		case "Power off and pull the mains plug":
			p.sees("Mains voltage")
		case "Name the file before it goes on the card":
			p.types("Name of the file on the card", "eider-2026-11.bin")
		case "Flash, then read the version off the machine":
			p.types("Version the screen shows", "2.1.3")
			p.types("Name of the file flashed", "eider-2026-11.bin")
			p.types("Size of the build", "231")
		case "Enter this machine's own values again":
			p.sees("Extruder steps per mm: 95.4 steps/mm")
		case "All temperatures near the room":
			p.types("Room", "20")
			p.types("Hotend sensor shows", "70")
			p.types("Bed sensor shows", "21")
			p.press("Done, next")
			p.sees("do not heat")
			p.types("Hotend sensor shows", "20,5")
		case "Test thermal-runaway protection, head 1", "Test thermal-runaway protection, bed":
			p.chooses("Which test", "No-heat test over USB")
			p.types("Alarm after", "205")
			p.types("Text of the alarm", "MINTEMP triggered")
			p.press("Done, next")
			p.sees("which is another watch")
			p.types("Text of the alarm", "Heating failed")
		case "Probe offset in X and Y":
			p.types("X, mm", "-31")
			p.types("Y, mm", "-8")
			p.chooses("Where the value is kept", "stored settings")
		case "Z offset":
			p.loop()
		case "Mesh":
			p.types("Value found", "3 × 3, spread 0.18")
			p.chooses("Where the value is kept", "stored settings")
		}
		p.press("Done, next")
	}
	p.sees("Every step is done or skipped")
	p.press("Finish the work")
	p.sees("Finished 20 Nov 2026 by Joren Halm")
	p.sees("Probe: none → Plumbline contact probe")
	p.sees("Z offset: -2.70 mm (stored settings)")
}

// leaveAndComeBack leaves half-way; another device finds what was typed.
func (p *page) leaveAndComeBack(n, total int) {
	p.t.Helper()
	p.sees("Draft saved.")
	other := open(p.t, 800, 1280)
	other.signIn("lead")
	other.visit(value[string](p, `location.pathname`))
	other.sees(fmt.Sprintf("step %d of %d", n, total))
	if got := value[string](other, `document.querySelector('textarea').value`); got != "M92 X80 Y80 Z400 E95.4" {
		p.t.Errorf("the other device shows %q", got)
	}
}

// loop is the Z offset: 2 mm seen, then 0.7, then paper.
func (p *page) loop() {
	p.t.Helper()
	p.types("Bed, °C", "60")
	p.types("Waited, minutes", "5")
	p.press("Homed again and gone to Z 0")
	p.types("Gap seen, mm", "40")
	p.press("Next offset")
	p.sees("more than this loop is for")
	p.types("Gap seen, mm", "2")
	p.press("Next offset")
	p.sees("next = offset − gap = 0.00 − 2.00 = −2.00 mm")
	p.press("Homed again and gone to Z 0")
	p.types("Gap seen, mm", "0,7")
	p.press("Next offset")
	p.sees("next = offset − gap = −2.00 − 0.70 = −2.70 mm")
	p.press("Homed again and gone to Z 0")
	p.press("Paper is lightly pinched")
	p.sees("Z offset −2.70 mm")
	p.chooses("Where the value is kept", "stored settings")
}

func (p *page) sheetOfEider() {
	p.t.Helper()
	p.press("the machine's sheet")
	p.sees("Proofs and calibrations")
	for _, want := range []string{"Plumbline contact probe", "surface, by touch", "-2.70 mm", "2.1.3",
		"Thermal-runaway protection proven", "alarm after 205 s", "lever switch", "Probe: passes its self-test: unknown"} {
		p.sees(want)
	}
	if p.says("Locked out") {
		p.t.Error("the machine is still locked out")
	}
	p.do(chromedp.KeyEvent("w"))
	p.sees("finished")
	p.press("4")
	p.sees("Z offset (−1.77 mm): ")
}

// maintain marks a task done and sees its counter start again.
func (p *page) maintain() {
	p.t.Helper()
	p.do(chromedp.KeyEvent("x"))
	p.sees("Used / limit")
	if first := value[string](p, `document.querySelector('main details summary').innerText`); !strings.Contains(
		first,
		"Thermal-runaway protection is not proven on",
	) {
		p.t.Errorf("first on the list: %q", first)
	}
	p.chooses("Task", "Change the nozzle")
	p.chooses("How far ahead", "Everything")
	name := value[string](p, `document.querySelector('tbody tr th a').innerText`)
	row := fmt.Sprintf(`[...document.querySelectorAll('tbody tr')].find((r) => r.innerText.includes(%q))`, name)
	if before := value[string](p, row+`.innerText`); strings.Contains(before, "\n0 / ") {
		p.t.Errorf("the counter stands at nothing before the task is done: %s", before)
	}
	p.do(chromedp.Evaluate[chromedp.Void](row+`.querySelector('button').focus()`), chromedp.KeyEvent(kb.Enter))
	p.sees("Record as done")
	p.press("The same part, looked over") // another part would stay: only this can be undone
	p.press("Record as done")
	p.sees("done, the counter starts again")
	p.until("the counter to start again", fmt.Sprintf(`/\b0 \/ \d+ h/.test(%s?.innerText)`, row))
	p.press("Undo")
	p.until("the mark to be taken back", fmt.Sprintf(`!/\b0 \/ \d+ h/.test(%s?.innerText)`, row))
}
