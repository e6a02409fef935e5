package e2e

import (
	"fmt"
	"testing"

	"github.com/chromedp/chromedp"

	"wardifex/internal/app"
	"wardifex/internal/core/machine"
	"wardifex/internal/demo"
)

// A kit written in plain words: what can never be is said while it is typed,
// the fleet's verdicts stand beside it, and saved it is judged like the others,
// until it is deleted.
func TestAKitIsWritten(t *testing.T) {
	t.Parallel()
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
	p.do(
		chromedp.Evaluate[chromedp.Void](
			`[...document.querySelectorAll('button')].filter((b) => b.innerText === 'Remove this need').at(-1).click()`,
		),
	)
	p.until("the volts alone", `/fits [1-9]\d*, fits if 0/.test(document.body.innerText)`)
	p.press("Close Enough volts for its fan")
	p.press("Add a group")
	p.types("The need in plain words", "Somewhere to hang it")
	p.press("Add an additional change")
	p.types("The additional change", "four studs")
	p.types("Its price", "3")
	p.until("the verdicts with the studs", `/fits 0, fits if [1-9]/.test(document.body.innerText)`)
	p.press("Add what it takes")
	p.chooses("Takes 1: of what", "Power left, W")
	p.types("Takes 1: how much", "4.5")
	p.types("Takes 1: what must be left", "10")
	p.press("Add what it fits")
	p.chooses("Fits 1: where", "Mod 1")
	p.types("Fits 1: what", "Skerry hood")
	p.press("Say what it is")
	p.types("Fits 1: value 1", "keeps draughts off")
	p.press("Add what it fits")
	p.chooses("Fits 2: where", "Run-out sensor")
	p.chooses("Fits 2: how", "keeps its part, set otherwise")
	p.sees("its part stays; say what of it is set otherwise")
	p.press("Say what is set")
	p.chooses("Fits 2: value 1", "no")
	p.press("Add a step")
	p.types("Step 1: title", "Hang the hood")
	p.types("Step 1: what to do", "Hang it on the four studs.")
	p.types("What may go wrong", "heat stays in: watch the board's temperature")
	p.types("Start code, one a line", "M141 S40 before G28")
	p.types("Z lost, mm", "20")
	p.press("Save the kit")
	p.sees("Skerry hood is saved")
	p.sees("What decides")
	p.press("What it asks for")
	p.sees("What Skerry hood asks for")
	if got := value[string](p, `document.getElementById('kit-price').value + ' ' +
		document.querySelector('[aria-label="Fits 1: what"]').value`); got != "12.5 Skerry hood" {
		t.Errorf("saved: %s", got)
	}
	k, err := roomOf(t).store.KitEntry(t.Context(), "skerry-hood")
	if err != nil || k.Kit.Steps[0].Title != "Hang the hood" || k.Kit.Uses[0].Amount != 4.5 ||
		k.Kit.Uses[0].Keep != 10 || k.Version != 1 ||
		k.Kit.Effects[0].Traits["what"] != "keeps draughts off" || !k.Kit.Effects[1].Stays() ||
		k.Kit.Effects[1].Traits["in-the-way"] != "no" || k.Kit.AreaLoss[2] != 20 ||
		k.Kit.StartCode[0] != "M141 S40 before G28" ||
		k.Kit.Needs.All[1].Label != "Somewhere to hang it" ||
		k.Kit.Needs.All[1].Any[0].Additional.Title != "four studs" ||
		k.Kit.Needs.All[1].Any[0].Additional.Key != "four-studs" {
		t.Errorf("on record: %+v, %v", k, err)
	}

	// Another rule shows what would change; left alone and deleted, the kit is gone.
	p.press("Change Enough volts for its fan")
	p.types("Value 1", "30")
	p.sees("as it is saved: fits if")
	p.press("As it was")
	p.press("Delete this kit")
	p.sees("Skerry hood is deleted")
	p.sees("Every upgrade (35)")
}

// From the matrix to the reasons, to what would make it fit, to a plan of three
// kits in the order of least rework, and to the work order.
func TestThreeKitsArePlanned(t *testing.T) {
	t.Parallel()
	p := open(t, 1280, 800)
	p.signIn("technician")
	p.visit("/ask")
	p.sees("Every upgrade (35)")
	p.chooses("Kind of upgrade", "contact pin probe")
	p.until("two columns", `document.querySelectorAll('thead th').length === 3`)
	p.until(
		"the mark of Curlew",
		`document.querySelector('[title="Curlew: Plumbline contact probe kit, does not fit"]') !== null`,
	)
	p.press("Pick kits to order")
	p.press("Plumbline contact probe kit for Bittern")
	p.press("Order list: 1")
	p.sees("carriage plate with tapped holes")
	p.sees("Together")

	p.goes("/ask/plumbline-probe/3")
	p.sees("What would make it fit")
	p.press("Judge them together")
	p.sees("In this order the least is done twice")
	p.chooses("Add a kit", "Slate sheet (bed surface)")
	p.press("Add it")
	p.until("three steps", `document.querySelectorAll('main ol > li').length === 3`)
	if first := value[string](p, firstOfPlan); first != "1. Brace 5 silent board" {
		t.Errorf("planned first: %s", first)
	}
	p.sees("What to buy")
	p.sees("adapter lead for the display")
	p.chooses("Add a kit", "Hearth plate, 120 V (bed plate with mains heater)")
	p.press("Add it")
	p.press("Plan without Hearth plate, 120 V")
	p.until("the three again", `document.querySelectorAll('main ol > li').length === 3`)

	p.chooses("Why touch it?", "a feature somebody needs")
	p.press("Open the 3 work orders")
	p.until("the first work order", `location.pathname.startsWith("/work/")`)
	p.sees("Brace 5 silent board on Curlew")
	p.sees("in this order")
	p.do(chromedp.Evaluate[chromedp.Void](`document.querySelector("details").open = true`))
	p.press("Cancel the order")
	p.sees("Next in the plan")
	p.press("Begin Plumbline contact probe kit")
	p.sees("does not fit")
	p.press("Take out of the plan Plumbline contact probe kit")
	p.press("Begin Slate sheet")
	p.sees("Slate sheet on Curlew")
	p.sees("Stick the sheet on")
	m, err := roomOf(t).store.Machine(t.Context(), 3)
	if err != nil || m.OpenOrder == nil || m.OpenOrder.Kit != "Slate sheet" || len(m.Planned) != 0 {
		t.Errorf("open %+v, planned %+v, %v", m.OpenOrder, m.Planned, err)
	}
}

// A plan of which something can be looked at is not begun before that; once it
// is known, the kit that another needs comes first.
func TestAPlanLooksFirst(t *testing.T) {
	t.Parallel()
	p := open(t, 1280, 800)
	p.signIn("technician")
	room := roomOf(t).store
	m, err := room.Machine(t.Context(), 1)
	if err != nil {
		t.Fatal(err)
	}
	second := machine.Position{Kind: "toolhead", Serves: machine.Head(2)}
	if _, err := does(room).AddPosition(t.Context(), 1, second,
		app.ChangedStructure{Version: m.Structure, By: "Joren Halm", At: demo.Today}); err != nil {
		t.Fatal(err)
	}
	// With a second head, a kit for any of them says for which it is judged.
	p.visit("/ask/cadge-extruder/1")
	p.sees("It can be fitted to any one head; this is for head 1")
	p.press("Head 2")
	p.sees("For head 2.")
	p.sees("Cadge extruder with its motor, head 2 on Avocet")

	p.goes("/plan?machine=1&kit=quayside-second&kit=quayside-5")
	p.sees("Look first: Toolhead 2: ")
	p.sees("What to buy once that is settled")
	if p.says("Why touch it?") {
		t.Error("the plan can be begun before anybody has looked")
	}
	p.press("Inspect")
	p.until("the page where things are found out", `location.pathname === "/identify"`)
	r := machine.Reading{Grade: machine.Observed, TakenAt: demo.Today, By: "Joren Halm", How: "looked"}
	if _, err := does(room).AddReading(t.Context(), 1, "toolhead-2.model", machine.None, r, demo.Today); err != nil {
		t.Fatal(err)
	}
	p.visit("/plan?machine=1&kit=quayside-second&kit=quayside-5")
	p.sees("Why touch it?")
	if first := value[string](p, firstOfPlan); first != "1. Quayside change plate, 5 mm" {
		t.Errorf("planned first: %s", first)
	}
}

// A verdict that waits is settled by looking where the plan says, its
// consequences are read, and it becomes a work order.
func TestSettledByLooking(t *testing.T) {
	t.Parallel()
	p := open(t, 1280, 800)
	p.signIn("technician")
	p.visit("/ask/plumbline-probe/5")
	p.sees("Begin with:")
	p.sees("Quickest course first")
	p.press("Record a reading")
	p.types("Probe: model", "none")
	p.press("Record the reading")
	p.until("the cover alone", `!document.body.innerText.includes("Probe: model")`)
	p.press("Record a reading")
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

// Two people change one kit: the second is told, over a reload of the page too,
// and decides; nothing is overwritten unasked and nothing typed is lost.
func TestTwoPeopleChangeAKit(t *testing.T) {
	t.Parallel()
	ann, bo := open(t, 1280, 800), open(t, 1280, 800)
	ann.signIn("technician")
	bo.signIn("lead")
	for _, p := range []*page{ann, bo} {
		p.visit("/kit/bollard-short")
		p.sees("What Bollard short stiff springs asks for")
	}
	ann.types("Price", "9")
	ann.press("Save the kit")
	ann.sees("is saved")
	bo.types("Skill", "anybody")
	bo.press("Save the kit")
	bo.sees("Somebody changed Bollard short stiff springs while you were editing")
	bo.sees("It was changed since you began")
	bo.visit("/kit/bollard-short")
	bo.sees("It was changed since you began")
	if got := value[string](bo, `document.getElementById('kit-skill').value`); got != "anybody" {
		t.Errorf("what was typed is gone: %q", got)
	}
	if !value[bool](bo, `[...document.querySelectorAll('button')].find((b) => b.innerText === 'Save the kit').disabled`) {
		t.Error("it can be saved over the other's unasked")
	}
	bo.press("Take what is there now")
	bo.until("Ann's price", `document.getElementById('kit-price').value === '9'`)
	bo.types("Skill", "anybody with a spanner")
	bo.press("Save the kit")
	bo.sees("is saved")
	k, err := roomOf(t).store.KitEntry(t.Context(), "bollard-short")
	if err != nil || k.Kit.Price != 9 || k.Kit.Skill != "anybody with a spanner" {
		t.Errorf("after both: price %g, skill %q, %v", k.Kit.Price, k.Kit.Skill, err)
	}
}

// The same in the catalogue, where the second keeps what is his.
func TestTwoPeopleChangeTheCatalogue(t *testing.T) {
	t.Parallel()
	ann, bo := open(t, 1280, 800), open(t, 1280, 800)
	ann.signIn("technician")
	bo.signIn("lead")
	for _, p := range []*page{ann, bo} {
		p.visit("/catalogue")
		p.sees("Brace board")
		p.press("Brace board")
		p.sees("Maker")
	}
	ann.types("Note", "seen with two chips")
	ann.press("Save")
	ann.sees("The catalogue is saved")
	bo.types("Note", "sold as 4.2 too")
	bo.press("Save")
	bo.sees("It was changed since you began")
	bo.press("Mine, over what is there now")
	bo.press("Save")
	bo.sees("The catalogue is saved")
	if err := roomOf(t).store.Refresh(t.Context()); err != nil {
		t.Fatal(err)
	}
	m, ok := roomOf(t).store.Vocabulary(t.Context()).Model("mainboard", "Brace board")
	if !ok || m.Note != "sold as 4.2 too" {
		t.Errorf("on record: %+v", m)
	}
}

// How many fit is asked for a kit to be ordered several times: the machines to
// open come in order, a number that is none is named, and members may ask too
// but not write.
func TestOrderingSeveral(t *testing.T) {
	t.Parallel()
	p := reads(t, "member", 1280, 800)
	p.visit("/ask/plumbline-probe")
	p.types("How many are to be ordered", "3")
	p.sees("That is enough: order them")
	p.types("How many are to be ordered", "9")
	p.sees("To find")
	p.until("the machines to open", `document.querySelectorAll('#fleet-look ~ ol > li').length > 0`)
	for _, bad := range []string{"0", "2,5", "5000", "some"} {
		p.types("How many are to be ordered", bad)
		p.sees("Say a whole number from 1 to 1000.")
	}
	p.types("How many are to be ordered", "1000")
	p.sees("and no others can fit")
	for _, writes := range []string{"What it asks for", "New kit"} {
		if p.says(writes) {
			t.Errorf("a member is offered %q", writes)
		}
	}
}

// A number that is still being read while the next field is typed into: neither
// is lost, whenever the answer comes.
func TestANumberIsReadWhileTheNextFieldIsTyped(t *testing.T) {
	t.Parallel()
	p := open(t, 1280, 800)
	p.slows("/api/numbers")
	p.signIn("technician")
	p.visit("/ask")
	p.press("New kit")
	for i := range 6 {
		price, about := fmt.Sprintf("12.%d", i+1), fmt.Sprintf("keeps draughts off, written %d times", i)
		p.types("Price", price)
		p.types("About", about)
		p.until(price+" and "+about+" in the draft", fmt.Sprintf(`(({ price, about }) => price === %s && about === %q)(
			JSON.parse(sessionStorage.getItem('wardifex-draft:kit-new')).value)`, price, about))
	}
}
