package server_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"net/http"
	"os"
	"runtime"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"wardifex/internal/store"
)

// readsOf are how each operation that reads is asked: every GET of the OpenAPI document has
// to be here, and every POST that writes nothing.
func readsOf(machines int) map[string]func(r *rand.Rand) (path string, in any) {
	machine := func(r *rand.Rand) int { return 1 + r.IntN(machines) }
	at := func(form string) func(*rand.Rand) (string, any) {
		return func(r *rand.Rand) (string, any) {
			if strings.Contains(form, "%d") {
				return fmt.Sprintf(form, machine(r)), nil
			}
			return form, nil
		}
	}
	return map[string]func(r *rand.Rand) (string, any){
		"session": at("/api/session"), "decode-marking": at("/api/bench/processor-marking?text=RET6"),
		"fleet": at("/api/machines"), "sheet": at("/api/machines/%d"),
		"structure": at("/api/machines/%d/structure"), "due": at("/api/due"), "kits": at("/api/kits"),
		"verdicts": at("/api/kits/bollard-springs/verdicts"), "verdict": at("/api/kits/bollard-springs/machines/%d"),
		"orders": at("/api/work"), "order": at("/api/work/1"), "imports": at("/api/imports"),
		"read-day":      at("/api/days?text=3+May+2026"),
		"account-names": at("/api/names"), "get-shop": at("/api/shop"), "askable": at("/api/fleet/askable"),
		"as-of": at("/api/machines/%d/as-of?day=2026-04-01"), "timeline": at("/api/machines/%d/timeline"),
		"cost": at("/api/machines/%d/cost"), "compare": at("/api/compare?a=%d&b=1"),
		"identify":  at("/api/identify?machine=%d"),
		"conflicts": at("/api/conflicts"), "peek": at("/api/machines/%d/peek?key=supply.volts&text=24"),
		"contradictions": at("/api/machines/%d/contradictions"), "parts": at("/api/parts"),
		"part":      at("/api/parts/%d"),
		"part-fits": at("/api/parts/%d/fits"), "parts-for": at("/api/machines/%d/positions/supply/parts"),
		"suppliers": at("/api/suppliers"), "builds": at("/api/builds"), "build": at("/api/builds/1"),
		"runs":  at("/api/machines/%d/runs"),
		"wires": at("/api/machines/%d/wires"), "faults": at("/api/faults"),
		"propose-symptoms": at("/api/symptoms?words=it+clicks"),
		"catalogue":        at("/api/catalogue"), "matrix": at("/api/matrix"),
		"machine-kits":  at("/api/machines/%d/kits"),
		"advice":        at("/api/kits/bollard-springs/machines/%d/advice"),
		"look-at-fleet": at("/api/kits/bollard-springs/look"),
		"kit-words":     at("/api/kit-words"), "kit-entry": at("/api/kits/bollard-springs/entry"),
		"lasting-needs": at("/api/kits/bollard-springs/lasting"), "changes": at("/api/changes?machine=%d"),
	}
}

// TestUnderLoad asks a fleet of 1,000 machines by 32 readers and 4 writers for 30 seconds;
// make bench runs it. It fails when an operation is missing from the mix, when an answer is
// an error, and prints what was measured.
func TestUnderLoad(t *testing.T) {
	if os.Getenv("WARDIFEX_LOAD") == "" {
		t.Skip("make bench")
	}
	url, s := start(t)
	const machines = 1000
	fillFleet(t, s, machines)
	lead := signedIn(t, url, "lead")
	lead.http.Transport = &http.Transport{MaxIdleConnsPerHost: 64}
	lead.wants(200, "", "POST", "/api/builds",
		body{"name": "B1", "family": "compiled", "features": body{}, "configuredFor": body{}})
	springs := map[string]string{"springs.model": "soft", "springs.stiff": "no", "springs.corner-room": "30"}
	for key, value := range springs {
		lead.wants(200, "", "POST", "/api/machines/1/readings", body{"key": key, "value": value, "grade": "proven"})
	}
	lead.wants(200, "", "POST", "/api/work", body{"machineId": 1, "kit": "bollard-springs", "reason": "x"})
	// A server prepares itself when it starts; here the fleet came after that.
	lead.wants(200, "", "GET", "/api/matrix", nil)
	reads := readsOf(machines)
	var names []string
	for path, methods := range documentOf(t, lead).Paths {
		for method, op := range methods {
			if reads[op.OperationID] == nil && method == "get" {
				t.Errorf("%s %s is missing from the mix", op.OperationID, path)
			}
		}
	}
	for name := range reads {
		names = append(names, name)
	}
	slices.Sort(names)
	var mu sync.Mutex
	took := map[string][]time.Duration{}
	errors := 0
	ask := func(name, method, path string, in any) {
		at := time.Now()
		var text []byte
		if in != nil {
			text, _ = json.Marshal(in)
		}
		status, answer := lead.send(method, path, nil, bytes.NewReader(text))
		mu.Lock()
		defer mu.Unlock()
		took[name] = append(took[name], time.Since(at))
		if status >= 500 || status == 0 || status >= 400 && method == "GET" {
			if errors++; errors < 10 {
				t.Errorf("%s %s: %d %.200s", name, path, status, answer)
			}
		}
	}
	end := time.Now().Add(30 * time.Second)
	var all sync.WaitGroup
	for w := range 32 {
		all.Go(func() {
			r := rand.New(rand.NewPCG(uint64(w), 1))
			for time.Now().Before(end) {
				name := names[r.IntN(len(names))]
				path, in := reads[name](r)
				ask(name, "GET", path, in)
			}
		})
	}
	for w := range 4 {
		all.Go(func() {
			r := rand.New(rand.NewPCG(uint64(w), 2))
			for time.Now().Before(end) {
				m := 1 + r.IntN(machines)
				switch r.IntN(3) {
				case 0:
					ask("add-reading", "POST", fmt.Sprintf("/api/machines/%d/readings", m),
						body{"key": "supply.watts", "value": fmt.Sprint(200 + r.IntN(200)), "grade": "observed"})
				case 1:
					ask("report-fault", "POST", fmt.Sprintf("/api/machines/%d/faults", m), body{"words": "it clicks"})
				default:
					ask("log-work", "POST", fmt.Sprintf("/api/machines/%d/labour", m), body{"minutes": 5, "what": "cleaned"})
				}
				time.Sleep(50 * time.Millisecond)
			}
		})
	}
	var most uint64 // bytes that the process holds, the askers' too
	for done := false; !done; {
		select {
		case <-time.After(100 * time.Millisecond):
			most = max(most, held())
		case <-time.After(time.Until(end)):
			done = true
		}
	}
	all.Wait()
	var total []time.Duration
	for name, list := range took {
		slices.Sort(list)
		total = append(total, list...)
		if worst := list[len(list)-1]; worst > time.Second {
			t.Logf("%-18s %4d asked, middle %5.0f ms, most %6.0f ms", name, len(list), ms(list[len(list)/2]), ms(worst))
		}
	}
	slices.Sort(total)
	p99 := total[len(total)*99/100]
	t.Logf("%d answers in 30 s, half within %.0f ms, p99 %.0f ms, %d errors, at most %d MiB held", len(total),
		ms(total[len(total)/2]), ms(p99), errors, most>>20)
	if p99 > 3*time.Second || errors > 0 || most > 500<<20 {
		t.Errorf("the bounds are a p99 of 3 s, no error, 500 MiB")
	}
}

// held is how many bytes of memory the process holds.
func held() uint64 {
	var now runtime.MemStats
	runtime.ReadMemStats(&now)
	return now.Sys - now.HeapReleased
}

func ms(d time.Duration) float64 { return float64(d.Microseconds()) / 1000 }

// fillFleet enters machines of 40 positions with 5 readings each.
func fillFleet(t testing.TB, s *store.Store, machines int) {
	t.Helper()
	if _, err := s.SQL.Exec(fleetSQL(machines)); err != nil {
		t.Fatal(err)
	}
}
