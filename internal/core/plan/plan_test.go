package plan_test

import (
	"fmt"
	"math"
	"math/rand"
	"slices"
	"strings"
	"testing"

	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/machine/machinetest"
	"wardifex/internal/core/plan"
)

var voc = catalogue.Vocabulary()

func judge(t testing.TB, key string) *fit.Judge {
	t.Helper()
	for _, k := range fit.Mutual(catalogue.Kits()) {
		if k.Key == key {
			j, err := fit.NewJudge(k, voc)
			if err != nil {
				t.Fatal(err)
			}
			return j
		}
	}
	t.Fatalf("no kit %s", key)
	return nil
}

func judges(t testing.TB, keys ...string) []*fit.Judge {
	out := make([]*fit.Judge, len(keys))
	for i, k := range keys {
		out[i] = judge(t, k)
	}
	return out
}

func whole(t testing.TB) []*fit.Judge {
	var out []*fit.Judge
	for _, k := range catalogue.Kits() {
		out = append(out, judge(t, k.Key))
	}
	return out
}

// room is a machine of which much is known; changes replace or, empty, forget.
func room(pairs ...string) machine.Snapshot {
	facts := map[string]string{
		"mainboard.model": "Brace board", "mainboard.width": "32-bit", "mainboard.chip-maker": "first source",
		"mainboard.flash": "512", "mainboard.bootloader-size": "28", "mainboard.probe-port": "yes",
		"mainboard.display-port": "yes", "mainboard.driver-outputs": "5",
		"firmware.family": "compiled", "firmware.version": "2.1.2", "firmware.size": "186", "probe.model": "none",
		"carriage.bracket-holes": "yes", "carriage.hole-spacing": "18", "z-endstop.model": "lever",
		"plate.model": "235 plate", "plate.metal": "yes", "plate.mains": "no",
		"surface.thickness": "1.2", "springs.model": "soft", "springs.stiff": "no", "springs.corner-room": "18",
		"z-drive.motors": "one", "frame.z-room": "yes", "frame.hole-square": "101.5", "supply.volts": "24",
		"supply.watts": "500", "heater.watts": "40", "bed-heater.watts": "200", "belts.pitch": "2",
		"heater.volts": "24", "bed-heater.volts": "24", "tool-plate.model": "none", "toolhead.model": "head",
		"display.kind": "driven by the board", "display.plug": "yes", "motor-z.current": "0.8",
		"z-drive.output-amperes": "2", "runout.model": "none", "firmware.max-extrude": "700", "tube.length": "450",
		"mainboard.slack": "60",
	}
	for i := 0; i < len(pairs); i += 2 {
		if facts[pairs[i]] = pairs[i+1]; pairs[i+1] == "" {
			delete(facts, pairs[i])
		}
	}
	return machinetest.Facts(voc, facts)
}

func order(p plan.PlanVerdict) string {
	var out []string
	for _, s := range p.Steps {
		out = append(out, s.Kit)
	}
	return strings.Join(out, ",")
}

// plateFacts is what a machine needs for a change plate or a new head.
var plateFacts = []string{
	"carriage.boss",
	"2.5",
	"carriage.screws-from",
	"front",
	"toolhead-board.ways",
	"12",
	"toolhead.wires",
	"8",
	"toolhead.polarity",
	"yes",
	"heater.volts",
	"24",
	"heater.watts",
	"40",
	"heater.wire",
	"0.5",
	"frame.x",
	"235",
	"toolhead-2.model",
	"none",
}

func TestPlans(t *testing.T) {
	for _, tt := range []struct {
		name     string
		kits     []string
		on       machine.Snapshot
		answer   fit.Answer
		order    string // "" when any
		conflict string
	}{
		{"the board first, since the old one has no probe header", []string{"plumbline-probe", "brace-5-board"},
			room("mainboard.probe-port", "no", "mainboard.display-port", "no"), fit.Fits, "brace-5-board,plumbline-probe", ""},
		{"the board first: the old one carries the twin", []string{"plumbline-probe", "brace-5-board"},
			room("mainboard.chip-maker", "pin-compatible twin"), fit.Fits, "brace-5-board,plumbline-probe", ""},
		// one would take the other out again
		{"two probes on one carriage", []string{"plumbline-probe", "bollard-springs", "sounder-8"}, room(),
			fit.DoesNotFit, "", "Plumbline contact probe kit,Sounder 8 inductive probe"},
		{"two on one header", []string{"plumbline-probe", "lodestar-5"}, room("firmware.family", "hosted"),
			fit.DoesNotFit, "", "Plumbline contact probe kit,Lodestar 5 V inductive probe"},
		// By way of the display's header, which the display wants too.
		{"a display and an adapter on one header", []string{"plumbline-probe", "amber-display"},
			room("mainboard.probe-port", "no"), fit.DoesNotFit, "", "Plumbline contact probe kit,Amber display"},
		{"a display, and a probe on its own header", []string{"plumbline-probe", "amber-display"}, room(), fit.Fits, "", ""},
		{"springs of two kinds", []string{"bollard-springs", "slate-sheet", "bollard-short"},
			room("springs.corner-room", "18"), fit.DoesNotFit, "", "Bollard stiff bed springs,Bollard short stiff springs"},
		{"a tall frame after the second motor", []string{"longshore-tall", "twinlift"}, room(), fit.Fits,
			"twinlift,longshore-tall", ""},
		{"one that does not fit at all", []string{"bollard-springs", "twinlift"}, room("frame.z-room", "no"),
			fit.DoesNotFit, "", "Twinlift second Z motor, split lead"},
		// 512 − 28 − 430 = 54 KiB: mesh (43) with the probe that it needs (5), or the display (9), not all.
		{"flash for two of three", []string{"plumbline-probe", "close-mesh-board", "amber-display"},
			room("firmware.size", "430"), fit.DoesNotFit, "", "Print-area mesh for boards,Amber display"},
		{"flash for all three", []string{"amber-display", "close-mesh-board", "plumbline-probe"},
			room("firmware.size", "420"), fit.Fits, "", ""},
		// 500 − 40 − 40 − 200 = 220 W; the frame takes 150 and the head 20, which its heater is.
		{"power for both", []string{"longshore-500", "gull-head"},
			room("carriage.screws-from", "front", "toolhead-board.ways", "12", "probe.model", "Plumbline", "probe.senses",
				"surface, by touch"), fit.Fits, "", ""},
		{"power for one of them", []string{"longshore-500", "gull-head"},
			room("carriage.screws-from", "front", "toolhead-board.ways", "12", "probe.model", "Plumbline", "probe.senses",
				"surface, by touch", "supply.watts", "440"), fit.DoesNotFit, "", "Longshore 500 frame,Gull toolhead"},
		{"the plate before its second head", []string{"quayside-second", "quayside-5"}, room(plateFacts...), fit.Fits,
			"quayside-5,quayside-second", ""},
		{"a second head without its plate", []string{"quayside-second", "bollard-springs"}, room(plateFacts...),
			fit.DoesNotFit, "", "Quayside second head"},
		// whichever comes first
		{"kits that exclude each other", []string{"gull-head", "quayside-5"}, room(plateFacts...), fit.DoesNotFit, "",
			"Gull toolhead,Quayside change plate, 5 mm"},
		{"something unknown", []string{"bollard-springs", "twinlift"}, room("motor-z.current", ""), fit.LookFirst, "", ""},
	} {
		p, err := plan.Judge(t.Context(), judges(t, tt.kits...), tt.on, nil)
		if err != nil {
			t.Fatal(err)
		}
		if p.Answer != tt.answer || tt.order != "" && order(p) != tt.order || strings.Join(p.Conflict, ",") != tt.conflict {
			t.Errorf("%s: %s in the order %s, conflict %v (%s)", tt.name, p.Answer, order(p), p.Conflict, p.Why)
		}
		if p.Answer == fit.DoesNotFit && p.Why == "" {
			t.Errorf("%s: no reason", tt.name)
		}
		// Of each conflict, what is left when one kit is left out: the same as that plan alone.
		for _, r := range p.Without {
			others := slices.DeleteFunc(slices.Clone(tt.kits), func(k string) bool { return k == r.Kit })
			alone, err := plan.Judge(t.Context(), judges(t, others...), tt.on, nil)
			if err != nil || alone.Answer != r.Answer || alone.Answer != fit.DoesNotFit && alone.Price != r.Price ||
				len(r.Order) != len(others) {
				t.Errorf(
					"%s: without %s %s for %g; alone %s for %g, %v",
					tt.name,
					r.Kit,
					r.Answer,
					r.Price,
					alone.Answer,
					alone.Price,
					err,
				)
			}
		}
		if len(p.Conflict) != len(p.Without) {
			t.Errorf("%s: conflict %v, to be left out %+v", tt.name, p.Conflict, p.Without)
		}
		if len(p.Steps) != len(tt.kits) {
			t.Errorf("%s: %d steps", tt.name, len(p.Steps))
		}
	}
	for part, keys := range map[string][]string{"empty": {},
		"at most 6": {"plumbline-probe", "bollard-springs", "slate-sheet", "twinlift", "amber-display", "watcher-runout",
			"brace-5-board"}, "twice": {"slate-sheet", "slate-sheet"}} {
		if _, err := plan.Judge(t.Context(), judges(t, keys...), room(), nil); err == nil ||
			!strings.Contains(err.Error(), part) {
			t.Errorf("want %q, got %v", part, err)
		}
	}
}

// Taking any one kit out of the smallest conflict leaves a set that goes
// together; and the order proposed repeats no more than any other.
func TestPlanProperties(t *testing.T) {
	random := rand.New(rand.NewSource(5))
	all := whole(t)
	for range 40 {
		var some []*fit.Judge
		for _, i := range random.Perm(len(all))[:3] {
			some = append(some, all[i])
		}
		s := room(
			"springs.corner-room",
			"18",
			"toolhead-board.ways",
			"8",
			"carriage.screws-from",
			[]string{"front", "rear"}[random.Intn(2)],
			"firmware.size",
			fmt.Sprint(380+random.Intn(100)),
		)
		p, err := plan.Judge(t.Context(), some, s, nil)
		if err != nil {
			t.Fatal(err)
		}
		if p.Answer == fit.DoesNotFit {
			for leave := range p.Conflict {
				var rest []*fit.Judge
				for i, name := range p.Conflict {
					if i != leave {
						rest = append(rest, some[slices.IndexFunc(some, func(j *fit.Judge) bool { return j.Kit.Name == name })])
					}
				}
				if len(rest) > 0 && !together(t, rest, some, s) {
					t.Fatalf("conflict %v is not the smallest", p.Conflict)
				}
			}
			continue
		}
		for _, perm := range [][3]int{{0, 1, 2}, {0, 2, 1}, {1, 0, 2}, {1, 2, 0}, {2, 0, 1}, {2, 1, 0}} {
			st, ok, worst := s, true, 0
			var steps []string
			for _, i := range perm {
				v := some[i].Verdict(st)
				ok = ok && v.Answer != fit.DoesNotFit
				worst = max(worst, map[fit.Answer]int{fit.Fits: 0, fit.FitsIf: 1, fit.LookFirst: 2, fit.DoesNotFit: 3}[v.Answer])
				if st, err = some[i].After(st, v.Additional); err != nil {
					t.Fatal(err)
				}
				steps = append(steps, some[i].Kit.Key)
			}
			if ok && !clash(some) && worst < map[fit.Answer]int{fit.Fits: 0, fit.FitsIf: 1, fit.LookFirst: 2}[p.Answer] {
				t.Fatalf("%v is better than the plan's %s", steps, order(p))
			}
		}
	}
}

// clash reports whether two kits put different parts into one slot.
func clash(kits []*fit.Judge) bool {
	placed := map[string]string{}
	for _, j := range kits {
		for _, e := range j.Kit.Effects {
			if m, ok := placed[e.Slot]; ok && m != e.Model && e.Slot != "firmware" && e.Model != machine.None &&
				m != machine.None {
				return true
			}
			placed[e.Slot] = e.Model
		}
	}
	return false
}

// together reports whether some kits fit, with any others of a plan to help.
func together(t *testing.T, some, of []*fit.Judge, s machine.Snapshot) bool {
	for mask := range 1 << len(of) {
		with := slices.Clone(some)
		for i, j := range of {
			if mask>>i&1 == 1 && !slices.Contains(with, j) {
				with = append(with, j)
			}
		}
		if p, err := plan.Judge(t.Context(), with, s, nil); err != nil {
			t.Fatal(err)
		} else if p.Answer != fit.DoesNotFit {
			return true
		}
	}
	return false
}

// The cheapest further kits, against trying every course of up to three of the
// catalogue.
func TestRemediesAgainstBruteForce(t *testing.T) {
	all := whole(t)
	for _, tt := range []struct {
		kit  string
		on   machine.Snapshot
		want string // keys in order; "" when none does
	}{
		{"plumbline-probe", room("mainboard.chip-maker", "pin-compatible twin"), "brace-5-board"},
		{"longshore-tall", room(), "twinlift"},
		{"close-mesh-board", room(), "slate"}, // some probe; which one is the cheapest is left to the brute force
		{"bollard-springs", room("springs.model", "none"), ""},
		{"plumbline-probe", room(), "fits already"},
		// One output does not carry two motors: the motor with an output of its own.
		{"longshore-tall", room("z-drive.output-amperes", "1"), "twinlift-own"},
		// The host's version is known only once the family is changed.
		{"close-mesh", room("host.power", "a supply of its own", "firmware.listed-chip", "yes", "firmware.objects",
			"yes"), "perhaps"},
	} {
		kit := judge(t, tt.kit)
		found, err := plan.FindRemedies(t.Context(), kit, all, tt.on, nil)
		if err != nil || !found.Whole {
			t.Fatal(found, err)
		}
		r := found.Sure
		var got []string
		weight := math.Inf(1)
		if r != nil {
			weight = fit.Weight(r.Price, r.Minutes)
			for _, s := range r.Kits {
				got = append(got, s.Kit)
			}
		}
		switch tt.want {
		case "", "fits already":
			if r != nil {
				t.Errorf("%s: %v would make it fit", tt.kit, got)
			}
		case "perhaps":
			if r != nil || found.Perhaps == nil || found.Perhaps.Then != fit.LookFirst {
				t.Errorf("%s: %+v", tt.kit, found)
			}
		case "slate":
			if r == nil {
				t.Errorf("%s: nothing makes it fit", tt.kit)
			}
		default:
			if strings.Join(got, ",") != tt.want {
				t.Errorf("%s: %v, want %s", tt.kit, got, tt.want)
			}
		}
		if kit.Truth(tt.on).Answer() != fit.DoesNotFit {
			continue
		}
		if cheapest := brute(t, kit, all, tt.on, 3); math.Abs(cheapest-weight) > 1e-9 &&
			!(math.IsInf(cheapest, 1) && r == nil) {
			t.Errorf("%s: %v costs %.2f, brute force finds %.2f", tt.kit, got, weight, cheapest)
		}
	}
}

// brute is what the cheapest sure course of so many kits at most costs.
func brute(t *testing.T, kit *fit.Judge, all []*fit.Judge, s machine.Snapshot, most int) float64 {
	best := math.Inf(1)
	var try func(st machine.Snapshot, weight float64, used []*fit.Judge)
	places := func(j *fit.Judge) map[string]string {
		out := map[string]string{}
		for _, e := range j.Kit.Effects {
			if e.Model != machine.None && e.Slot != "firmware" {
				out[e.Slot] = e.Model
			}
		}
		return out
	}
	against := func(a, b *fit.Judge) bool { // one would take the other's part out again
		for slot, model := range places(a) {
			if other, both := places(b)[slot]; both && other != model {
				return true
			}
		}
		return false
	}
	try = func(st machine.Snapshot, weight float64, used []*fit.Judge) {
		if a := kit.Truth(st).Answer(); a == fit.Fits || a == fit.FitsIf {
			best = min(best, weight)
		}
		if len(used) == most {
			return
		}
		for _, j := range all {
			if slices.Contains(used, j) || j.Kit.Key == kit.Kit.Key || weight+fit.Weight(j.Kit.Cost(nil)) >= best ||
				slices.ContainsFunc(append(used, kit), func(o *fit.Judge) bool { return against(o, j) }) {
				continue
			}
			if a := j.Truth(st).Answer(); a != fit.Fits && a != fit.FitsIf {
				continue
			}
			v := j.Verdict(st)
			after, err := j.After(st, v.Additional)
			if err != nil {
				t.Fatal(err)
			}
			try(after, weight+fit.Weight(j.Kit.Cost(v.Additional)), append(slices.Clone(used), j))
		}
	}
	try(s, 0, nil)
	return best
}

// Two facts that must both hold: first the one with the fewest minutes per
// chance of settling it (a no settles). Source: from memory, the rule for
// sequential tests of a conjunction.
func lookFirst(t *testing.T, j *fit.Judge, s machine.Snapshot, prior plan.Prior) plan.InspectionPlan {
	t.Helper()
	out, err := plan.LookFirst(t.Context(), j, s, prior)
	if err != nil {
		t.Fatal(err)
	}
	return out
}

func TestLookFirst(t *testing.T) {
	kit := judge(t, "twinlift") // display none; room and motors outside, current printed, output amperes under the cover
	s := room("z-drive.output-amperes", "", "frame.z-room", "")
	amperes := 6 // readings of them
	prior := func(room float64) plan.Prior {
		return func(tr *machine.Trait) plan.Expected {
			switch tr.Key() {
			case "frame.z-room":
				return plan.Expected{Readings: 5, Values: []plan.Weighted{
					{Value: machine.Value{Text: "yes"}, Weight: room},
					{Value: machine.Value{Text: "no"}, Weight: 1 - room},
				}}
			case "z-drive.output-amperes":
				return plan.Expected{Readings: amperes, Values: []plan.Weighted{
					{Value: machine.Value{Text: "2", Number: 2}, Weight: 0.5},
					{Value: machine.Value{Text: "1", Number: 1}, Weight: 0.5},
				}}
			}
			return plan.Expected{}
		}
	}
	l := lookFirst(t, kit, s, prior(0.5))
	// Outside 2 min, then the cover 10 min in half the cases: 2 + 0.5 × 10 = 7; the other way 10 + 0.5 × 2 = 11.
	if l.First != "outside" || math.Abs(l.Minutes-7) > 1e-9 || l.Chance == nil ||
		math.Abs(*l.Chance-0.25) > 1e-9 || l.Readings != 5 || !l.Exact ||
		len(l.Sequence) == 0 {
		t.Errorf("half and half: %+v", l)
	}
	// Room is nearly sure: looking for it settles little, but it is cheap. 10 + 0.5 × 2 = 11 against 2 + 0.99 × 10 = 11.9.
	if l := lookFirst(t, kit, s, prior(0.99)); l.First != "cover" || math.Abs(l.Minutes-11) > 1e-9 {
		t.Errorf("room nearly sure: %+v", l)
	}
	if l := lookFirst(t, kit, room(), prior(0.5)); l.First != "" || l.Minutes != 0 || *l.Chance != 1 {
		t.Errorf("nothing is open: %+v", l)
	}
	// No chance is told of fewer than five readings of one of the two.
	for amperes = range 5 {
		if l := lookFirst(t, kit, s, prior(0.5)); l.First != "outside" || l.Chance != nil || l.Readings != amperes {
			t.Errorf("%d readings: %+v", amperes, l)
		}
	}
	batch := []machine.Snapshot{room("frame.z-room", "yes"), room("frame.z-room", "yes"), room("frame.z-room", "no")}
	expected := plan.FleetPrior(batch)(trait(t, "frame.z-room"))
	if expected.Readings != 3 {
		t.Errorf("%d readings of 3", expected.Readings)
	}
	for _, w := range expected.Values {
		if want := map[string]float64{"yes": 2.5, "no": 1.5}[w.Value.Text]; w.Weight != want {
			t.Errorf("of two yes and one no in the batch, %s weighs %g", w.Value.Text, w.Weight)
		}
	}
}

func trait(t *testing.T, key machine.Key) *machine.Trait {
	tr, ok := voc.Trait(key)
	if !ok {
		t.Fatal(key)
	}
	return tr
}

// The policy for a fleet against the best of all adaptive ones, tried out.
func TestLookAtFleetIsOptimal(t *testing.T) {
	random := rand.New(rand.NewSource(11))
	for range 300 {
		fleet := make([]plan.Candidate, 1+random.Intn(6))
		for i := range fleet {
			fleet[i] = plan.Candidate{
				ID:      int64(i + 1),
				Chance:  0.05 + 0.9*random.Float64(),
				Minutes: 1 + float64(random.Intn(30)),
			}
		}
		n := 1 + random.Intn(len(fleet))
		got := plan.LookAtFleet(fleet, n)
		if best := optimal(fleet, n); math.Abs(best-got.Minutes) > 1e-6 {
			t.Fatalf("%d of %+v: %.4f minutes, the best is %.4f", n, fleet, got.Minutes, best)
		}
	}
	sure := []plan.Candidate{{ID: 1, Chance: 1}, {ID: 2, Chance: 0, Minutes: 0}, {ID: 3, Chance: 0.5, Minutes: 10}}
	if l := plan.LookAtFleet(sure, 1); l.Sure != 1 || l.Needed != 0 || l.Minutes != 0 || len(l.Order) != 0 {
		t.Errorf("one is known to fit: %+v", l)
	}
	if l := plan.LookAtFleet(sure, 2); l.Needed != 1 || len(l.Order) != 1 || l.Order[0] != 3 || l.Minutes != 10 ||
		*l.Chance != 0.5 {
		t.Errorf("a second is needed: %+v", l)
	}
	// Two of three are needed, each as likely as not: both of the first two answer it half the time, one way or the
	// other, and of eight courses four have enough.
	even := []plan.Candidate{{ID: 1, Minutes: 10, Chance: 0.5}, {ID: 2, Minutes: 10, Chance: 0.5},
		{ID: 3, Minutes: 10, Chance: 0.5}}
	if l := plan.LookAtFleet(even, 2); math.Abs(*l.Chance-0.5) > 1e-9 || math.Abs(l.Minutes-25) > 1e-9 {
		t.Errorf("two of three: %+v", l)
	}
	// What takes no time but may not fit is neither sure nor worth a look; nor is what cannot fit.
	odd := []plan.Candidate{{ID: 1, Chance: 0.5}, {ID: 2, Minutes: 10}, {ID: 3, Minutes: 10, Chance: 0.5}}
	if l := plan.LookAtFleet(odd, 1); l.Sure != 0 || !slices.Equal(l.Order, []int64{3}) {
		t.Errorf("one that can be told and two that cannot: %+v", l)
	}
	if l := plan.LookAtFleet(sure, 3); *l.Chance != 0 || len(l.Order) != 0 {
		t.Errorf("three cannot be: %+v", l)
	}
	sure[2].Guess = true
	if l := plan.LookAtFleet(sure, 2); l.Chance != nil || len(l.Order) != 1 {
		t.Errorf("a chance is told that is a guess: %+v", l)
	}
	// A large fleet in bounded time, in a fixed order.
	many := make([]plan.Candidate, 200)
	for i := range many {
		many[i] = plan.Candidate{ID: int64(i), Chance: 0.5, Minutes: 10}
	}
	if l := plan.LookAtFleet(many, 20); math.Abs(l.Minutes-400) > 1 || *l.Chance < 0.999 {
		t.Errorf("20 of 200 at one half each take %.1f minutes", l.Minutes) // 20 ÷ 0.5 × 10
	}
}

func optimal(open []plan.Candidate, need int) float64 {
	if need <= 0 || need > len(open) {
		return 0
	}
	best := math.Inf(1)
	for i, c := range open {
		rest := append(slices.Clone(open[:i]), open[i+1:]...)
		best = min(best, c.Minutes+c.Chance*optimal(rest, need-1)+(1-c.Chance)*optimal(rest, need))
	}
	return best
}

// What a plan leaves open is to be looked at before it begins, unless it is of a
// part that the plan itself puts in.
func TestWhatAPlanLooksAtFirst(t *testing.T) {
	unread, err := fit.NewJudge(
		fit.Kit{
			Key:     "board",
			Name:    "A board of which little is stated",
			Effects: []fit.Effect{{Slot: "mainboard", Model: "Blank"}},
			Needs: fit.Requirement{
				Label: "a machine",
				Test:  &fit.Test{Slot: "supply", Trait: "volts", Op: fit.Known, Least: machine.Observed},
			},
		},
		voc,
	)
	if err != nil {
		t.Fatal(err)
	}
	for _, tt := range []struct {
		name   string
		kits   []*fit.Judge
		on     machine.Snapshot
		answer fit.Answer
		want   string
	}{
		{"nothing open", judges(t, "bollard-springs", "twinlift"), room(), fit.Fits, ""},
		{"the second kit's fact", judges(t, "bollard-springs", "twinlift"), room("motor-z.current", ""), fit.LookFirst,
			"Motor Z: rated current"},
		{"of the board that is there, since the display comes first", append(judges(t, "slate-display"), unread),
			room("mainboard.width", ""), fit.LookFirst, "Mainboard: processor width"},
		{"only what the new board will show", append(judges(t, "amber-display"), unread),
			room("mainboard.display-port", "no"), fit.LookFirst, ""},
	} {
		p, err := plan.Judge(t.Context(), tt.kits, tt.on, nil)
		if err != nil {
			t.Fatal(err)
		}
		if got := strings.Join(p.LookNow, ", "); p.Answer != tt.answer || got != tt.want {
			t.Errorf("%s: %s, in the order %s, look at %q", tt.name, p.Answer, order(p), got)
		}
	}
}
