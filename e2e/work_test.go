package e2e

import (
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
)

// A fault becomes an order: the cause is looked for, the part that it was is said, what that
// part makes necessary joins, and finishing closes the fault with the words of the technician.
func TestARepairClosesItsFault(t *testing.T) {
	t.Parallel()
	p := open(t, 1280, 800)
	p.signIn("technician")
	p.visit("/faults?machine=11")
	p.sees("Clicks when it loads")
	p.press("Open a work order")
	p.sees("Repair: Clicks when it loads, about every second on Kittiwake")
	p.press("Done, next")
	p.sees("Most likely first")
	p.press("Done, next")
	p.until("the step", `document.querySelector('#step')?.innerText === 'Mend it'`)
	p.press("Another part was fitted …")
	p.chooses("Where", "Extruder")
	p.types("Which model is there now", "Twinpawl 3:1")
	p.press("Save")
	p.sees("The order follows what was fitted")
	p.sees("Extruder steps per mm")
	p.press("Done, next")
	p.until("the step after it", `document.querySelector('#step').innerText !== 'Mend it'`)
	for range 20 {
		if p.says("Say what it was and what was done") && p.says("the next who meets it reads them") {
			break
		}
		p.press("Skip …")
		p.types("Why is it skipped?", "a trial")
		title := value[string](p, `document.querySelector('#step').innerText`)
		p.press("Skip")
		p.until("the next step", `document.querySelector('#step')?.innerText !== `+quoted(title))
	}
	p.types("Note", "The gear had lost two teeth; a geared one is in.")
	p.press("Done, next")
	p.until("the last step", `document.body.innerText.includes('See that it works') ||
		document.body.innerText.includes('Will be recorded as fitted')`)
	for p.says("Done, next") {
		p.press("Done, next")
		p.until("the end", `document.body.innerText.includes('Will be recorded as fitted')`)
	}
	p.sees("Twinpawl 3:1")
	p.press("Finish the work")
	p.sees("Kittiwake is back in service")
	p.goes("/faults?machine=11")
	p.press("Closed")
	p.sees("The gear had lost two teeth; a geared one is in. (work order")
}

// Work that does not work out is rolled back step by step, and the order ends cancelled.
func TestWorkIsRolledBack(t *testing.T) {
	t.Parallel()
	p := open(t, 800, 1280)
	p.signIn("technician")
	p.visit("/machine/1?fact=springs.model")
	p.types("Model that comes in", "Bollard short")
	p.types("Why it is touched", "a trial")
	p.press("Open the work order")
	p.sees("let the bed cool")
	p.press("Done, next")
	p.until("the step", `document.querySelector('#step')?.innerText.startsWith('Fit the new')`)
	p.press("Done, next")
	p.press("It does not work out: roll it back")
	p.types("Why it is rolled back", "the cable corner is too low")
	p.press("Roll it back")
	p.sees("Rolled back since")
	p.sees("back to")
	for range 20 {
		if p.says("The machine is back as it was") {
			break
		}
		title := value[string](p, `document.querySelector('#step').innerText`)
		p.press("Skip …")
		p.types("Why is it skipped?", "a trial")
		p.press("Skip")
		p.until("the next step", `document.querySelector('#step')?.innerText !== `+quoted(title))
	}
	p.press("Finish the work")
	p.sees("with the machine put back as it was")
}

// One kit on several machines: their steps stand side by side, and each is ticked by itself.
func TestABatchOfMachines(t *testing.T) {
	t.Parallel()
	p := open(t, 1280, 800)
	p.signIn("technician")
	p.visit("/ask/bollard-springs")
	p.press("Open work on several …")
	p.press("Avocet, Quay: fits")
	p.press("Gannet")
	p.chooses("Why touch them?", "a feature somebody needs")
	p.press("Open 2 work orders")
	p.sees("Bollard stiff bed springs on 2 machines")
	p.press("Done: Check what came against its list, Gannet")
	p.until("Gannet's own tick", `[...document.querySelectorAll('thead th')].map((e) => e.innerText.trim()).join()
		.includes('Gannet')&& /Gannet\s*1 of/.test(document.querySelector('thead').innerText)`)
	if !strings.Contains(value[string](p, `document.querySelector('thead').innerText`), "0 of") {
		t.Error("the other machine is ticked with it")
	}
	p.press("Avocet")
	p.sees("done together with others")
}

// A calibration shows how it came about, and another machine's value is at most a start.
func TestAStartFromAnotherMachine(t *testing.T) {
	t.Parallel()
	p := reads(t, "technician", 1280, 800)
	p.visit("/machine/11?calibration=z-offset")
	p.sees("So far on this machine")
	p.until("the values drawn", `document.querySelectorAll('[role=dialog] circle').length > 1`)
	p.press("What other machines have")
	p.press("Start from it")
	p.until("the start", find("Offset to begin with, mm")+`.value.startsWith('-')`)
}

// A settings report that is pasted is read beside the record, and its password is not kept.
func TestASettingsReportIsPasted(t *testing.T) {
	t.Parallel()
	p := open(t, 1280, 800)
	p.signIn("technician")
	p.visit("/machine/1/builds")
	p.press("Flash another build")
	p.types("Why it is touched", "a feature that is needed")
	p.press("Open the work order")
	p.sees("Record the present settings and build")
	p.focus("Note")
	p.do(chromedp.KeyEvent("M92 E95.40 M92 X80\rM304 P70 I1.5 D600\rwifi_password: hunter2"))
	p.sees("Read in it")
	p.sees("not on record")
	p.until("the password is masked", find("Note")+`.value.includes('•••')`)
	p.press("Record 2 values")
	p.sees("2 values are on record")
}

// A shop changes how often a task is done: the list of what is due goes by it.
func TestATaskIsChanged(t *testing.T) {
	t.Parallel()
	p := open(t, 1280, 800)
	p.signIn("technician")
	p.visit("/due")
	p.sees("Change the nozzle")
	p.press("Tasks of this shop")
	p.press("Change: Change the nozzle")
	p.types("Print hours, h", "40")
	p.press("Save")
	p.sees("changed by this shop")
	p.press("What is due")
	p.sees("/ 40 h")
	p.press("Tasks of this shop")
	p.press("New task")
	p.types("Task", "Air filter")
	p.chooses("What it is about", "Frame and gantry")
	p.types("Days", "30")
	p.press("Save")
	p.sees("Air filter")
	p.sees("of this shop")
	p.press("Change: Air filter")
	p.press("Remove this task")
	p.until("it is gone", `!/Air filter/.test(document.querySelector('main').innerText)`)
}

// The meters of a machine: hours, filament typed as a mass, and prints, in one go.
func TestMetersAreRead(t *testing.T) {
	t.Parallel()
	p := open(t, 390, 844)
	p.signIn("technician")
	p.visit("/machine/7?meter=1")
	p.types("Filament, m", "1 kg")
	p.types("Prints begun", "120")
	p.press("Record")
	p.sees("Meter recorded")
	p.sees("336 m of filament")
	p.sees("120 prints")
}

// A nozzle is changed on two machines in one round: on both it is another part from then on.
func TestDoneOnSeveral(t *testing.T) {
	t.Parallel()
	p := open(t, 1280, 800)
	p.signIn("technician")
	p.visit("/due")
	p.sees("Used / limit")
	p.chooses("Task", "Change the nozzle")
	p.chooses("How far ahead", "Everything")
	p.until("the rows", `document.querySelectorAll('tbody tr').length > 5 && [...document.querySelectorAll('tbody tr')]
		.every((r) => /Change the nozzle/.test(r.innerText))`)
	names := value[[]string](p, `[...document.querySelectorAll('tbody a')].map((a) => a.innerText)`)
	p.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('tbody button').click()`))
	p.sees("Another part went in")
	p.sees("Nozzle: which one went in")
	p.press("Done on others in the same round?")
	p.press(names[1])
	p.press("Record as done")
	p.sees("and 1 more: done, the counter starts again")
	var worn int
	if err := roomOf(t).store.SQL.QueryRow(`select count(*) from parts where scrapped_why = 'Change the nozzle'`).
		Scan(&worn); err != nil || worn != 2 {
		t.Errorf("%d worn nozzles are scrapped, %v", worn, err)
	}
}
