package plan_test

import (
	"fmt"
	"maps"
	"math/rand"
	"slices"
	"testing"
	"time"

	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/machine/machinetest"
	"wardifex/internal/core/plan"
)

// crowd is a catalogue of many kits that all touch the same few slots.
func crowd(t testing.TB, n int) []*fit.Judge {
	base := whole(t)
	out := make([]*fit.Judge, n)
	for i := range out {
		k := base[i%len(base)].Kit
		k.Key = fmt.Sprintf("%s-%d", k.Key, i)
		k.Price += float64(i)
		j, err := fit.NewJudge(k, voc)
		if err != nil {
			t.Fatal(err)
		}
		out[i] = j
	}
	return out
}

// A catalogue of 5,000 kits is judged, searched for circles and for what would
// make a kit fit in bounded time, and the cheapest fix is still found in it.
func TestFiveThousandKits(t *testing.T) {
	if testing.Short() {
		t.Skip("long: make test-long")
	}
	const bound = 60 * time.Second // with the race detector on a loaded machine; 5 s on a quiet one without
	began := time.Now()
	all := crowd(t, 5000)
	s := room("mainboard.chip-maker", "pin-compatible twin")
	kits := make([]fit.Kit, len(all))
	for i, j := range all {
		kits[i] = j.Kit
	}
	if c := fit.Circle(kits); c != nil {
		t.Errorf("a circle: %v", c)
	}
	row := fit.NewMatrix(all).Judge(s, nil)
	if len(row.Truths) != len(all) {
		t.Errorf("judged %d", len(row.Truths))
	}
	r, err := plan.FindRemedies(t.Context(), judge(t, "plumbline-probe"), all, s, nil)
	if err != nil || r.Sure == nil || len(r.Sure.Kits) != 1 || r.Sure.Kits[0].Name != judge(t, "brace-5-board").Kit.Name ||
		r.Whole {
		t.Errorf("remedies %+v, %v", r, err)
	}
	// Where none does, the search ends too, and says that it did not try all.
	if r, err = plan.FindRemedies(t.Context(), judge(t, "longshore-tall"), all,
		room("z-drive.motors", "one", "frame.z-room", "no"), nil); err != nil ||
		r.Sure != nil ||
		r.Whole {
		t.Errorf("remedies %+v, %v", r, err)
	}
	if took := time.Since(began); took > bound {
		t.Errorf("took %v", took)
	}
}

// mixed is a fleet of which little is known, and of no two machines the same.
func mixed(n int) []machine.Snapshot {
	kept := knownOf(room())
	names := slices.Sorted(maps.Keys(kept))
	random := rand.New(rand.NewSource(4))
	fleet := make([]machine.Snapshot, n)
	for i := range fleet {
		known := map[string]string{}
		for _, key := range names {
			switch random.Intn(4) {
			case 0:
				known[key] = kept[key]
			case 1:
				known[key] = kept[key] + "/claimed"
			}
		}
		fleet[i] = machinetest.Facts(voc, known)
	}
	return fleet
}

// BenchmarkLookFirst plans the look at a fleet of 1,000 machines of which little
// is known, and of no two the same, as a multiple of judging them once.
func BenchmarkLookFirst(b *testing.B) {
	kit := judge(b, "plumbline-probe")
	fleet := mixed(1000)
	var judged, looked time.Duration
	for b.Loop() {
		began := time.Now()
		for i := range fleet {
			kit.Verdict(fleet[i])
		}
		judged += time.Since(began)
		began = time.Now()
		candidates := make([]plan.Candidate, len(fleet))
		looker := plan.NewFleetInspectionPlanner(b.Context(), kit, len(fleet)).
			In("all", func() plan.Prior { return plan.FleetPrior(fleet) })
		exact := 0
		for i := range fleet {
			l, err := looker.First(fleet[i])
			if err != nil {
				b.Fatal(err)
			}
			if l.Exact {
				exact++
			}
			candidates[i] = l.Candidate(int64(i))
		}
		plan.LookAtFleet(candidates, 20)
		looked += time.Since(began)
		b.ReportMetric(float64(exact), "exact-of-1000")
	}
	b.ReportMetric(float64(looked)/float64(judged), "×verdicts")
	b.ReportMetric(looked.Seconds()*1000/float64(b.N), "ms/1000-machines")
	if looked > 10*judged {
		b.Errorf("%.1f times as long as judging them once", float64(looked)/float64(judged))
	}
}
