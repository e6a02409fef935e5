package e2e

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/chromedp/chromedp"
)

// views are the main views with the demo data, in the README's order.
var views = []struct {
	file, path, wait string
	dark             bool
	width, height    int64
	arrange          func(p *page) // for the picture alone
}{
	{path: "/", wait: "Netloft"}, // signed out: not in the pictures
	{file: "today", path: "/today", wait: "Planned for you"},
	{file: "calendar", path: "/calendar?days=1&from=2026-11-24", wait: "Beginners"},
	{path: "/calendar", wait: "cannot take place as booked"},
	{path: "/calendar?side=people", wait: "Eske Brandt"},
	{file: "weeks", path: "/weeks?by=task", wait: "Cannot be planned"},
	{path: "/reliability", wait: "between failures"},
	{path: "/spares", wait: "plain nozzle"},
	{path: "/bookings", wait: "In your own calendar"},
	{path: "/planning", wait: "What counts how much"},
	{path: "/faults?machine=8", wait: "fits before"},
	{file: "fleet", path: "/fleet", wait: "Whimbrel"},
	{path: "/fleet", wait: "Whimbrel", dark: true},
	{file: "use", path: "/use", wait: "Whimbrel", width: 390, height: 844},
	{path: "/faults?report=1", wait: "Smoke, sparks"},
	{path: "/purchase/1", wait: "8-bit found"},
	{path: "/purchases", wait: "Claimed of suppliers"},
	{path: "/lot?lot=BB-41", wait: "parts on record"},
	{path: "/bench", wait: "Bed warm-up"},
	{file: "bench", path: "/bench/mesh", wait: "as the console prints it", arrange: func(p *page) {
		p.types("The mesh, as the console prints it", "0.12 0.08 0.05 0.02\n0.10 0.02 -0.01 0.00\n0.14 0.30 0.02 "+
			"0.05\n0.22 0.16 0.12 0.11")
		p.sees("Lowest to highest")
	}},
	{path: "/account", wait: "Where you are signed in"},
	{path: "/export", wait: "Record as JSON"},
	{file: "machine", path: "/machine/1", wait: "What is in it"},
	{file: "matrix", path: "/ask", wait: "Avocet"},
	{path: "/ask/plumbline-probe", wait: "What decides"},
	{file: "verdict", path: "/ask/plumbline-probe/6", wait: "to an answer"},
	{file: "plan", path: "/plan?machine=3&kit=plumbline-probe&kit=brace-5-board&kit=slate-sheet", wait: "What to buy"},
	{path: "/plan?machine=6&kit=plumbline-probe&kit=quayside-5", wait: "Inspect"},
	{path: "/kit/plumbline-probe", wait: "Every need is met."},
	{path: "/ask/plumbline-probe/2", wait: "Why touch it?"},
	{path: "/work", wait: "steps"},
	{file: "work-order", path: "/work/2", wait: "step "},
	{file: "calibrations", path: "/calibrations", wait: "Valid while all that each rests on"},
	{path: "/safety", wait: "Bed heated from the mains"},
	{path: "/work/2/tag", wait: "DO NOT SWITCH ON"},
	{path: "/work/3", wait: "It waits its turn"},
	{
		file:   "identify",
		path:   "/identify?machine=6&kit=plumbline-probe",
		wait:   "Look at the display",
		width:  800,
		height: 1280,
	},
	{path: "/machine/8/history", wait: "What happened"},
	{path: "/compare?a=1&b=3", wait: "values differ"},
	{path: "/machine/1/builds", wait: "What its parts ask of the build"},
	{file: "files", path: "/file/3", wait: "sets Extruder steps per mm"},
	{path: "/files", wait: "fairlead-3-pieces.gcode"},
	{file: "settings", path: "/machine/1/settings", wait: "prints with this"},
	{path: "/settings-file/1", wait: "What it states"},
	{path: "/machine/1/firmware", wait: "Touch it, or leave it alone?"},
	{path: "/machine/11/firmware", wait: "What does this message mean?"},
	{path: "/drift", wait: "Settings are on record of"},
	{path: "/words", wait: "rotation_distance"},
	{path: "/carry-over?machine=11", wait: "Its configuration"},
	{path: "/builds", wait: "Not identified"},
	{path: "/build/2", wait: "Where it runs and ran"},
	{path: "/machine/10?calibration=steps-per-mm", wait: "To settle it"},
	{path: "/machine/11?calibration=protection", wait: "Text of the alarm"},
	{path: "/parts", wait: "Supplier reliability", arrange: func(p *page) {
		p.sees("plain nozzle")
		p.sees("Share that is false")
		p.do(chromedp.Evaluate[chromedp.Void](`scrollTo(0, document.body.scrollHeight)`))
	}},
	{path: "/part/1", wait: "Where it has been"},
	{file: "wires", path: "/machine/15/wires?head=head%202", wait: "Extruder motor", arrange: func(p *page) {
		p.do(
			chromedp.Evaluate[chromedp.Void](
				`document.querySelector('#motors').scrollIntoView({block: 'end'}); scrollBy(0, 320)`,
			),
		)
	}},
	{path: "/machine/15/positions", wait: "What is there"},
	{path: "/labels", wait: "Avocet"},
	{file: "faults", path: "/faults", wait: "In their words"},
	{path: "/catalogue", wait: "Brace board"},
	{file: "due", path: "/due", wait: "Used / limit"},
	{path: "/import", wait: "Choose or drop", arrange: func(p *page) {
		p.chooseRegister()
		p.press("Preview the import")
		p.sees("3 faulty")
		p.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('#preview').scrollIntoView()`))
	}},
	{file: "z-offset", path: "/machine/13", wait: "What is in it", arrange: func(p *page) {
		p.press("Z offset")
		p.types("Bed, °C", "60")
		p.types("Waited, minutes", "5")
		for _, gap := range []string{"2", "0,7"} {
			p.press("Homed again and gone to Z 0")
			p.types("Gap seen, mm", gap)
			p.press("Next offset")
			p.sees("− " + map[string]string{"2": "2.00", "0,7": "0.70"}[gap])
		}
	}},
}

// TestScreenshots writes the pictures of the README; it runs only when
// WARDIFEX_SCREENSHOTS names the folder for them.
func TestScreenshots(t *testing.T) {
	dir := os.Getenv("WARDIFEX_SCREENSHOTS")
	if dir == "" {
		t.Skip("no folder named in WARDIFEX_SCREENSHOTS")
	}
	for _, v := range views {
		if v.file == "" {
			continue
		}
		if v.width == 0 {
			v.width, v.height = 1280, 800
		}
		p := open(t, v.width, v.height)
		p.signIn("technician")
		p.visit(v.path)
		p.loads(v.wait)
		if v.dark {
			p.do(chromedp.KeyEvent("t"))
		}
		if v.arrange != nil {
			v.arrange(p)
		}
		p.do(chromedp.Evaluate[chromedp.Void](`document.activeElement?.blur()`))
		png, err := chromedp.Run(p.ctx, chromedp.CaptureScreenshot())
		if err != nil {
			t.Fatal(err)
		}
		if err := os.WriteFile(filepath.Join(dir, v.file+".png"), png, 0o644); err != nil {
			t.Fatal(err)
		}
	}
}
