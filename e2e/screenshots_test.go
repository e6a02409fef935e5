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
	{file: "sign-in", path: "/", wait: "Netloft"},
	{file: "fleet", path: "/", wait: "Whimbrel"},
	{file: "fleet-dark", path: "/", wait: "Whimbrel", dark: true},
	{file: "machine", path: "/machine/1", wait: "What is in it"},
	{file: "question", path: "/ask/plumbline-probe", wait: "What decides"},
	{file: "verdict", path: "/ask/plumbline-probe/6", wait: "Cheapest first"},
	{file: "verdict-fits", path: "/ask/plumbline-probe/2", wait: "Why touch it?"},
	{file: "work", path: "/work", wait: "steps"},
	{file: "work-order", path: "/work/2", wait: "step "},
	{file: "work-order-tablet", path: "/work/2", wait: "step ", width: 800, height: 1280},
	{file: "due", path: "/due", wait: "The sum"},
	{file: "bring-in", path: "/bring-in", wait: "Choose or drop", arrange: func(p *page) {
		p.chooseRegister()
		p.press("Show what it would do")
		p.sees("3 faulty")
		p.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('#preview').scrollIntoView()`))
	}},
	{file: "z-offset", path: "/machine/19", wait: "What is in it", arrange: func(p *page) {
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
		if v.width == 0 {
			v.width, v.height = 1280, 800
		}
		p := open(t, v.width, v.height)
		if v.file != "sign-in" {
			p.signIn("technician")
		}
		p.visit(v.path)
		p.sees(v.wait)
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
