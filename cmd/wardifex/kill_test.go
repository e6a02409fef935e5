package main

import (
	"bytes"
	"database/sql"
	"encoding/json"
	"fmt"
	"image"
	"image/jpeg"
	"io"
	"math/rand/v2"
	"net/http"
	"net/http/cookiejar"
	"os"
	"os/exec"
	"path/filepath"
	"sync"
	"syscall"
	"testing"
	"time"

	"wardifex/internal/app"
	"wardifex/internal/postgres/pgtest"
	"wardifex/internal/store"
)

// asker asks a server as an account that is signed in.
type asker struct {
	http http.Client
	url  string
}

func (a *asker) post(path, kind string, body []byte) (int, []byte) {
	res, err := a.http.Post(a.url+path, kind, bytes.NewReader(body))
	if err != nil {
		return 0, nil
	}
	defer res.Body.Close()
	text, _ := io.ReadAll(res.Body)
	return res.StatusCode, text
}

func (a *asker) asks(path string, in any) (int, []byte) {
	text, _ := json.Marshal(in)
	return a.post(path, "application/json", text)
}

// sends a file in and gives its hash; empty when the server is gone.
func (a *asker) sends(file []byte) string {
	var sent struct{ SHA256 string }
	_, text := a.post("/api/uploads", "application/octet-stream", file)
	_ = json.Unmarshal(text, &sent)
	return sent.SHA256
}

// The server is killed while registers, records and pictures are written and orders are
// opened: each is there whole or not at all.
func TestKilledWhileWriting(t *testing.T) {
	trials := 6
	if os.Getenv("WARDIFEX_LONG") != "" {
		trials = 20 // make test-long
	}
	binary := filepath.Join(t.TempDir(), "wardifex")
	if out, err := exec.Command("go", "build", "-o", binary, ".").CombinedOutput(); err != nil {
		t.Fatalf("%v: %s", err, out)
	}
	dsn := pgtest.Database(t)
	st, err := openStore(t.Context(), dsn, filepath.Join(t.TempDir(), "none"))
	if err != nil {
		t.Fatal(err)
	}
	defer st.Close()
	account := app.Account{Name: "ann", Role: store.Technician, Password: "kettle moth arrow"}
	if err := app.New(st, time.Now).AddAccount(t.Context(), account, time.Now()); err != nil {
		t.Fatal(err)
	}
	var picture bytes.Buffer
	if err := jpeg.Encode(&picture, image.NewGray(image.Rect(0, 0, 900, 700)), nil); err != nil {
		t.Fatal(err)
	}
	r := rand.New(rand.NewPCG(1, 2))
	for trial := range trials {
		a, kill := serveIn(t, binary, dsn)
		status, _ := a.asks("/api/session", map[string]string{"name": "ann", "password": "kettle moth arrow"})
		if status != 200 {
			t.Fatalf("sign in: %d", status)
		}
		writeUntilKilled(a, trial, picture.Bytes(), func() {
			time.Sleep(time.Duration(r.IntN(600)) * time.Millisecond)
			kill()
		})
		wholeOrNotAtAll(t, st.SQL)
	}
}

// serveIn starts the application as a process of its own, which kill ends at once.
func serveIn(t *testing.T, binary, dsn string) (a *asker, kill func()) {
	t.Helper()
	port := freePort(t)
	serve := exec.Command(binary, "serve")
	serve.Env = append(os.Environ(), "WARDIFEX_DATABASE_URL="+dsn, fmt.Sprint("PORT=", port), "WARDIFEX_PHOTOS="+
		t.TempDir())
	serve.SysProcAttr = &syscall.SysProcAttr{Pdeathsig: syscall.SIGKILL}
	if err := serve.Start(); err != nil {
		t.Fatal(err)
	}
	jar, _ := cookiejar.New(nil)
	a = &asker{http: http.Client{Jar: jar}, url: fmt.Sprint("http://127.0.0.1:", port)}
	deadline := time.Now().Add(30 * time.Second)
	for {
		if res, err := a.http.Get(a.url + "/healthz"); err == nil {
			res.Body.Close()
			break
		}
		if time.Now().After(deadline) {
			t.Fatal("the server does not answer")
		}
		time.Sleep(20 * time.Millisecond)
	}
	return a, func() { _ = serve.Process.Kill(); _ = serve.Wait() }
}

const rowsOfARegister = 120

func writeUntilKilled(a *asker, trial int, picture []byte, kill func()) {
	var all sync.WaitGroup
	gone := make(chan struct{})
	again := func(do func(n int)) {
		all.Go(func() {
			for n := 0; ; n++ {
				select {
				case <-gone:
					return
				default:
					do(n)
				}
			}
		})
	}
	again(func(n int) {
		register := "Printer,Bay,Flash\n"
		for i := range rowsOfARegister {
			register += fmt.Sprintf("R%d-%d-%d,reg-%d-%d,512\n", trial, n, i, trial, n)
		}
		sha := a.sends([]byte(register))
		_, text := a.asks("/api/register/preview",
			map[string]any{"sha256": sha, "mapping": []string{"name", "bay", "mainboard.flash"}})
		var plan struct{ Fingerprint string }
		_ = json.Unmarshal(text, &plan)
		a.asks("/api/register/import",
			map[string]any{"sha256": sha, "mapping": []string{"name", "bay", "mainboard.flash"},
				"fingerprint": plan.Fingerprint})
	})
	again(func(n int) {
		name := fmt.Sprintf("P%d-%d", trial, n)
		_, text := a.asks("/api/machines", map[string]any{"name": name, "bay": "", "maker": "", "serial": "", "note": ""})
		var made struct{ ID int64 }
		_ = json.Unmarshal(text, &made)
		a.asks(fmt.Sprintf("/api/machines/%d/faults", made.ID), map[string]any{"words": "it clicks"})
		a.post(fmt.Sprintf("/api/faults/%d/photos", n+1), "image/jpeg", picture)
		a.asks("/api/work", map[string]any{"machineId": made.ID, "kit": "bollard-springs", "reason": "a trial"})
	})
	again(func(n int) {
		res, err := a.http.Get(a.url + "/api/record.json?machine=1")
		if err != nil {
			return
		}
		whole, _ := io.ReadAll(res.Body)
		res.Body.Close()
		sha := a.sends(bytes.Replace(whole, []byte(`"name": "`), fmt.Appendf(nil, `"name": "C%d-%d-`, trial, n), 1))
		a.asks("/api/record/import", map[string]any{"sha256": sha})
	})
	kill()
	close(gone)
	all.Wait()
}

// wholeOrNotAtAll looks for what only half a write leaves behind.
func wholeOrNotAtAll(t *testing.T, db *sql.DB) {
	t.Helper()
	for what, query := range map[string]string{
		"registers of which some rows are there": fmt.Sprintf("select count(*) from (select bay from machines where "+
			"bay like 'reg-%%' group by bay having count(*) <> %d) x", rowsOfARegister),
		"machines without positions": "select count(*) from machines m where not exists (select from " +
			"positions p where p.machine_id = m.id)",
		"orders without steps": "select count(*) from work_orders w where not exists (select from " +
			"work_steps s where s.work_order_id = w.id)",
		"pictures without a file": "select count(*) from photos p where sha256 is null or not exists " +
			"(select from files f where f.sha256 = p.sha256)",
		"files that are not whole": "select count(*) from files f where size <> (select " +
			"coalesce(sum(octet_length(content)), 0) from file_chunks c where c.sha256 = f.sha256)",
		"files of nothing": "select count(*) from files f where not exists (select from photos " +
			"where sha256 = f.sha256 or small_sha256 = f.sha256) " +
			"and not exists (select from uploads u where u.sha256 = f.sha256)",
		"parts that are nowhere and of no record": "select count(*) from readings r where part_id is null and " +
			"fitting_id is null",
		"machines that nobody is noted to have added": `select count(*) from machines m
			where not exists (select from events e
				where e.machine_id = m.id and e.relation = 'machines' and e.done = 'insert')`,
	} {
		var n int
		if err := db.QueryRow(query).Scan(&n); err != nil {
			t.Fatal(err)
		}
		if n > 0 {
			t.Errorf("%d %s", n, what)
		}
	}
}
