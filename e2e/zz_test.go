package e2e

import (
	"os"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
)

func TestZZ(t *testing.T) {
	w, h := int64(1280), int64(800)
	p := open(t, w, h)
	p.url = os.Getenv("ZZ_URL")
	p.signIn("technician")
	for i, path := range strings.Split(os.Getenv("ZZ"), ",") {
		p.visit(path)
		time.Sleep(1500 * time.Millisecond)
		var png []byte
		p.do(chromedp.FullScreenshot(&png, 90))
		os.WriteFile("/tmp/zz"+string(rune('a'+i))+".png", png, 0o644)
	}
}
