package ical_test

import (
	"io"
	"net/http"
	"net/http/httptest"
	"net/netip"
	"strings"
	"testing"

	"wardifex/internal/ical"
)

// Nothing within the house is read, by whatever name or redirect it is reached.
func TestOnlyPublicAddressesAreRead(t *testing.T) {
	t.Parallel()
	inside := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		switch r.URL.Path {
		case "/loop":
			http.Redirect(w, r, "/loop", http.StatusFound)
		case "/gone":
			w.WriteHeader(http.StatusGone)
		default:
			_, _ = io.WriteString(w, calendar())
		}
	}))
	defer inside.Close()
	for _, address := range []string{inside.URL, "http://localhost:80/", "http://127.0.0.1/", "http://[::1]/",
		"http://10.0.0.1/",
		"http://192.168.1.1/", "http://169.254.169.254/", "http://[fd00::1]/", "http://[::ffff:127.0.0.1]/",
		"http://100.64.0.1/",
		"http://0.0.0.0/", "http://[64:ff9b::7f00:1]/", "http://8.8.8.8:22/",
		"http://[::7f00:1]/", "http://[::10.0.0.1]/", "http://[100::1]/", "http://[3fff::1]/"} {
		if _, err := ical.NewFetcher(nil).Fetch(t.Context(), address); err == nil || !strings.Contains(err.Error(),
			"not public") {
			t.Errorf("%s: %v", address, err)
		}
	}
	all := ical.NewFetcher(func(netip.AddrPort) bool { return true })
	for path, want := range map[string]string{"/": "", "/loop": "nothing answered", "/gone": "answered 410"} {
		body, err := all.Fetch(t.Context(), inside.URL+path)
		if err == nil {
			body.Close()
		}
		if (err == nil) != (want == "") || err != nil && !strings.Contains(err.Error(), want) {
			t.Errorf("%s: %v; want %q", path, err, want)
		}
	}
	if _, err := all.Fetch(t.Context(), "http://\x7f/"); err == nil {
		t.Error("what is no address is read")
	}
}
