package server_test

import (
	"io"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"wardifex/internal/postgres/pgtest"
	"wardifex/internal/server"
	"wardifex/internal/store"
)

const sliced = "M140 S60\nM104 S210\nG28\nM82\nG1 Z0.2 F1200\nG1 X2 Y20\nG1 X200 Y20 E9\n"

// slow gives a text in pieces, with a pause before each.
type slow struct {
	pieces []string
	pause  time.Duration
}

func (s *slow) Read(p []byte) (int, error) {
	if len(s.pieces) == 0 {
		return 0, io.EOF
	}
	time.Sleep(s.pause)
	n := copy(p, s.pieces[0])
	if s.pieces[0] = s.pieces[0][n:]; s.pieces[0] == "" {
		s.pieces = s.pieces[1:]
	}
	return n, nil
}

// A file may come for longer than the server waits for any other request, as long as it comes.
func TestAFileThatComesSlowly(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	addAccount(t, s, store.Member)
	api := server.New(server.Config{Store: s, Clock: func() time.Time { return now },
		Log: slog.New(slog.NewTextHandler(t.Output(), &slog.HandlerOptions{Level: slog.LevelError}))})
	srv := httptest.NewUnstartedServer(api)
	srv.Config.ReadTimeout, srv.Config.WriteTimeout = time.Second, time.Second
	srv.Start()
	t.Cleanup(func() { srv.Close(); api.Close() })
	c := signedIn(t, srv.URL, "member")
	body := &slow{pieces: strings.SplitAfter(sliced, "\n"), pause: 350 * time.Millisecond}
	req, err := http.NewRequest("POST", srv.URL+"/api/print-files?name=slow.gcode", body)
	if err != nil {
		t.Fatal(err)
	}
	req.Header.Set("Content-Type", "application/octet-stream")
	res, err := c.http.Do(req)
	if err != nil {
		t.Fatal(err)
	}
	defer res.Body.Close()
	if answer, err := io.ReadAll(res.Body); err != nil || res.StatusCode != 200 || !strings.Contains(string(answer),
		"slow.gcode") {
		t.Errorf("%d %s %v", res.StatusCode, answer, err)
	}
}

// Files and their patches are handed out to who is signed in alone, by their names.
func TestFilesAreHandedOut(t *testing.T) {
	t.Parallel()
	url, _ := start(t)
	member, technician := signedIn(t, url, "member"), signedIn(t, url, "technician")
	technician.wants(200, `"id"`, "POST", "/api/machines", body{"name": "Avocet", "bay": "", "maker": "", "serial": "",
		"note": ""})
	for key, value := range map[string]string{"firmware.family": "compiled", "probe.model": "none"} {
		technician.wants(200, "", "POST", "/api/machines/1/readings",
			body{"key": key, "value": value, "grade": "observed", "how": "seen"})
	}
	status, text := member.call("POST", "/api/print-files?name=a%22b.gcode", []byte(strings.Replace(sliced, "G28\n",
		"G28\nG29\n", 1)))
	if status != 200 || !strings.Contains(text, "the machine has no probe") {
		t.Fatalf("%d %s", status, text)
	}
	member.wants(200, "-G29\n+; G29", "GET", "/api/print-files/1/patch/1", nil)
	anonymous(t, url).wants(401, "Sign in", "GET", "/api/print-files/1/patch/1", nil)
	member.wants(404, "", "GET", "/api/print-files/1/patch/99", nil)
	member.wants(422, "numbers", "GET", "/api/print-files/x/patch/1", nil)
	member.wants(422, "no text", "POST", "/api/print-files?name=x", []byte("\x00\x01"))
	member.wants(422, "name", "POST", "/api/print-files", []byte(sliced))
	member.wants(403, "", "GET", "/api/settings-files/1", nil)
	member.wants(204, "", "POST", "/api/print-files/1/forget", nil)
	member.wants(404, "", "GET", "/api/print-files/1", nil)
}
