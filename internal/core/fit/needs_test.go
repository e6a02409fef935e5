package fit_test

import (
	"fmt"
	"math/rand"
	"strings"
	"testing"

	"wardifex/internal/core/fit"
)

func ref(key string) fit.Requirement {
	return fit.Requirement{Label: "with " + key, Kit: &fit.KitRef{Key: key, Slot: "tool-plate", Model: key}}
}

func all(parts ...fit.Requirement) fit.Requirement {
	return fit.Requirement{
		Label: "all",
		All: append(
			[]fit.Requirement{{Label: "a board", Test: &fit.Test{Slot: "mainboard", Trait: "model", Op: fit.Known}}},
			parts...),
	}
}

func anyOf(parts ...fit.Requirement) fit.Requirement {
	return fit.Requirement{Label: "any", Any: parts}
}

func none(parts ...fit.Requirement) fit.Requirement {
	return fit.Requirement{Label: "none", None: parts}
}

// plate is a kit that fits itself on the tool plate.
func plate(key string, needs fit.Requirement) fit.Kit {
	return fit.Kit{
		Key:     key,
		Name:    strings.ToUpper(key),
		Needs:   needs,
		Effects: []fit.Effect{{Slot: "tool-plate", Model: key}},
	}
}

// Kits in a circle with no other way are named; a way round is a way out.
func TestCircle(t *testing.T) {
	for name, tt := range map[string]struct {
		kits []fit.Kit
		want string
	}{
		"three in a circle, and one that needs them": {[]fit.Kit{plate("d", all(ref("a"))), plate("a", all(ref("b"))),
			plate("b", all(ref("c"))), plate("c", all(ref("a")))}, "a,b,c,a"},
		"itself": {[]fit.Kit{plate("a", ref("a"))}, "a,a"},
		"in a row": {[]fit.Kit{plate("a", all(ref("b"), ref("c"))), plate("b", ref("c")),
			plate("c", all())}, ""},
		"a choice with a way out": {[]fit.Kit{plate("a", anyOf(ref("b"), all())), plate("b", ref("a"))}, ""},
		"a choice whose ways all lead back": {[]fit.Kit{plate("a", anyOf(ref("b"), ref("c"))), plate("b", ref("a")),
			plate("c", ref("a"))}, "a,c,a"},
		"barred is not needed":    {[]fit.Kit{plate("a", all(none(ref("b")))), plate("b", all(ref("a")))}, ""},
		"a kit that is not there": {[]fit.Kit{plate("a", all(ref("gone")))}, ""},
	} {
		if got := strings.Join(fit.Circle(tt.kits), ","); got != tt.want {
			t.Errorf("%s: %q, want %q", name, got, tt.want)
		}
	}
}

// Circles are found just where no order fits all kits, tried by brute force.
func TestCircleAgainstEveryOrder(t *testing.T) {
	random := rand.New(rand.NewSource(9))
	found := 0
	for range 300 {
		keys := []string{"a", "b", "c", "d"}
		need := map[string][][]string{} // all of: any of
		var kits []fit.Kit
		for _, key := range keys {
			var parts []fit.Requirement
			for range random.Intn(3) {
				some := []string{keys[random.Intn(4)], keys[random.Intn(4)]}[:1+random.Intn(2)]
				need[key] = append(need[key], some)
				var refs []fit.Requirement
				for _, k := range some {
					refs = append(refs, ref(k))
				}
				parts = append(parts, anyOf(refs...))
			}
			kits = append(kits, plate(key, all(parts...)))
		}
		fitted := map[string]bool{}
		for range keys {
			for _, key := range keys {
				ready := true
				for _, some := range need[key] {
					one := false
					for _, k := range some {
						one = one || fitted[k]
					}
					ready = ready && one
				}
				if ready {
					fitted[key] = true
				}
			}
		}
		circle := fit.Circle(kits)
		if (circle == nil) != (len(fitted) == 4) {
			t.Fatalf("%v: fitted %v, circle %v", need, fitted, circle)
		}
		if circle != nil {
			found++
		}
	}
	if found < 30 || found > 270 {
		t.Errorf("%d circles of 300 show nothing", found)
	}
}

// Who excludes a kit is excluded by it, as far as one can see what it fits.
func TestExclusionIsMutual(t *testing.T) {
	light, heavy := plate("light", all()), plate("heavy", all(none(ref("light"))))
	unseen := fit.Kit{Key: "unseen", Name: "UNSEEN", Needs: all(none(ref("light")))}
	kits := fit.Mutual([]fit.Kit{light, heavy, unseen})
	if got := len(light.Needs.All); got != 1 || len(kits[0].Needs.All) != 2 || len(kits[1].Needs.All) != 2 {
		t.Fatalf("the light one asks %d, then %d, the heavy one %d", got, len(kits[0].Needs.All), len(kits[1].Needs.All))
	}
	if one := light.Beside([]fit.Kit{heavy, unseen}); len(one.Needs.All) != 2 {
		t.Errorf("beside them it asks %d", len(one.Needs.All))
	}
	j, err := fit.NewJudge(kits[0], voc)
	if err != nil {
		t.Fatal(err)
	}
	for model, want := range map[string]fit.Answer{"heavy": fit.DoesNotFit, "Heavy": fit.DoesNotFit, "another": fit.Fits} {
		v := j.Verdict(facts(t, map[string]string{"mainboard.model": "Brace board", "tool-plate.model": model}))
		if v.Answer != want || want == fit.DoesNotFit && !strings.Contains(v.Headline, "Not together with HEAVY") {
			t.Errorf("on %s: %s, %s", model, v.Answer, v.Headline)
		}
	}
	// A choice may exclude for itself alone.
	choosy := plate("choosy", all(anyOf(none(ref("light")), all())))
	if one := light.Beside([]fit.Kit{choosy}); len(one.Needs.All) != 1 {
		t.Error("what only one way excludes is not excluded")
	}
}

func TestContradiction(t *testing.T) {
	for name, tt := range map[string]struct {
		kits []fit.Kit
		want string
	}{
		"itself": {[]fit.Kit{plate("a", all(ref("b"), none(ref("b")))), plate("b", all())},
			"A does not go with B and yet cannot be without it"},
		"the needed one": {[]fit.Kit{plate("a", all(ref("b"))), plate("b", all(none(ref("a"))))},
			"A cannot be without B, which does not go with it"},
		"two of its needs": {[]fit.Kit{plate("a", all(ref("b"), ref("c"))), plate("b", all()),
			plate("c", all(none(ref("b"))))}, "A needs both C and B, of which one does not go with the other"},
		"by way of another": {[]fit.Kit{plate("a", all(ref("b"), none(ref("c")))), plate("b", all(ref("c"))),
			plate("c", all())}, "A does not go with C and yet cannot be without it"},
		"by choice": {[]fit.Kit{plate("a", all(anyOf(ref("b"), ref("c")), none(ref("c")))), plate("b", all()),
			plate("c", all())}, ""},
		"none": {[]fit.Kit{plate("a", all(ref("b"))), plate("b", all()), plate("c", all(none(ref("a"))))}, ""},
	} {
		if got := fit.Contradiction(tt.kits); got != tt.want {
			t.Errorf("%s: %q", name, got)
		}
	}
	// What can be seen in the kit alone is refused with it.
	for _, needs := range []fit.Requirement{all(ref("b"), none(ref("b"))), all(ref("b"), ref("c"))} {
		if _, err := fit.NewJudge(plate("a", needs), voc); err == nil || !strings.Contains(err.Error(), "cannot both be so") {
			t.Errorf("%v", err)
		}
	}
}

// Thousands of kits that need and exclude each other are looked through at once.
func TestManyNeedsAreBounded(t *testing.T) {
	var kits []fit.Kit
	for i := range 5000 {
		needs := all(ref(fmt.Sprint(i + 1)))
		if i%50 == 0 {
			needs = all(ref(fmt.Sprint(i+1)), none(ref(fmt.Sprint(i+5001))))
		}
		kits = append(kits, plate(fmt.Sprint(i), needs))
	}
	if c := fit.Circle(kits); c != nil {
		t.Errorf("a circle: %v", c[:1])
	}
	if c := fit.Contradiction(kits); c != "" {
		t.Error(c)
	}
	if len(fit.Mutual(kits)) != len(kits) {
		t.Error("some are gone")
	}
	kits[4999].Needs = all(ref("0"))
	if c := fit.Circle(kits); len(c) != 5001 {
		t.Errorf("a circle of %d", len(c))
	}
}

// Contradictions are found just where brute force finds a kit whose needs,
// followed as far as they go, hold two kits of which one excludes the other.
func TestContradictionAgainstBruteForce(t *testing.T) {
	random := rand.New(rand.NewSource(31))
	keys := []string{"a", "b", "c", "d", "e"}
	found := 0
	for range 400 {
		needs, bars := map[string][]string{}, map[string][]string{}
		var kits []fit.Kit
		for i, key := range keys {
			var parts []fit.Requirement
			for _, other := range keys[i+1:] { // in one direction: no circles
				switch random.Intn(4) {
				case 0:
					needs[key] = append(needs[key], other)
					parts = append(parts, ref(other))
				case 1:
					bars[key] = append(bars[key], other)
					parts = append(parts, none(ref(other)))
				}
			}
			kits = append(kits, plate(key, all(parts...)))
		}
		var reach func(key string, seen map[string]bool)
		reach = func(key string, seen map[string]bool) {
			seen[key] = true
			for _, next := range needs[key] {
				reach(next, seen)
			}
		}
		want := false
		for _, key := range keys {
			seen := map[string]bool{}
			reach(key, seen)
			for one := range seen {
				for _, other := range bars[one] {
					want = want || seen[other]
				}
			}
		}
		if got := fit.Contradiction(kits); (got != "") != want {
			t.Fatalf("needs %v, bars %v: %q", needs, bars, got)
		}
		if want {
			found++
		}
	}
	if found < 40 || found > 360 {
		t.Errorf("%d contradictions of 400 show nothing", found)
	}
}
