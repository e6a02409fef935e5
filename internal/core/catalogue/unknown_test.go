package catalogue_test

import (
	"maps"
	"math/rand"
	"slices"
	"strings"
	"testing"

	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/machine/machinetest"
	"wardifex/internal/core/quantity"
)

// about are machines of which more and less is known, at random.
func about(random *rand.Rand, keys []string) map[string]string {
	facts := map[string]string{}
	for _, key := range keys {
		switch random.Intn(8) {
		case 0:
		case 1, 2:
			facts[key] = known[key] + "/claimed"
		default:
			facts[key] = known[key]
		}
	}
	for _, c := range []map[string]string{lodestar, plumbline, {"mainboard.probe-port": "no"},
		{"mainboard.chip-maker": "pin-compatible twin"}, {"surface.thickness": "2.4"}, {"supply.watts": "250"},
		{"firmware.version": "2.0.4"}} {
		if random.Intn(5) == 0 {
			maps.Copy(facts, c)
		}
	}
	return facts
}

// another is a value of a trait that is not the one given.
func another(t *machine.Trait, value string) string {
	switch t.Kind {
	case machine.Number:
		v, err := t.Parse(value)
		if err != nil {
			return ""
		}
		if n := v.Number * 2; t.Max <= t.Min || n <= t.Max {
			return quantity.Format(n + 1)
		}
		return quantity.Format(v.Number / 2)
	case machine.YesNo:
		return map[string]string{"yes": "no", "no": "yes"}[value]
	case machine.Choice:
		for _, c := range t.Choices {
			if c != value {
				return c
			}
		}
	}
	return "another " + value
}

// Whatever is known less of leaves every verdict where it was, or opens it: its interval
// never shrinks and never moves. Of a model nobody knows, nothing is asked, and of a
// position nobody knows anything of; they are named in the inspection.
func TestUnknownNeverDecides(t *testing.T) {
	rounds := 900
	if testing.Short() {
		rounds = 200
	}
	voc := catalogue.Vocabulary()
	kits := ready(t, voc)
	keys := slices.Sorted(maps.Keys(known))
	random := rand.New(rand.NewSource(12))
	widened, opened := 0, 0
	for range rounds {
		facts := about(random, keys)
		s := machinetest.Facts(voc, facts)
		key := keys[random.Intn(len(keys))]
		value, grade, _ := strings.Cut(facts[key], "/")
		trait, _ := voc.Trait(machine.Key(key))
		if value == "" || strings.Contains(value, "|") {
			continue
		}
		wider := map[string]string{"lower": value + "/claimed", "conflict": value + "|" + another(trait, value)}
		if trait.Name != machine.ModelTrait && facts[trait.Slot+".model"] != "" {
			wider["gone"] = ""
		}
		if grade == "claimed" {
			delete(wider, "lower")
			delete(wider, "conflict") // a reading outranks a claim: it is no wider
		}
		for how, text := range wider {
			less := maps.Clone(facts)
			if less[key] = text; text == "" {
				delete(less, key)
			}
			w := machinetest.Facts(voc, less)
			for _, j := range kits {
				was, is := j.Truth(s), j.Truth(w)
				widened++
				if is != was {
					opened++
				}
				if is.Lo() > was.Lo() || is.Hi() < was.Hi() {
					t.Fatalf(
						"%s, %s %s (%s): %v–%v becomes %v–%v of %v",
						j.Kit.Key,
						key,
						how,
						facts[key],
						was.Lo(),
						was.Hi(),
						is.Lo(),
						is.Hi(),
						facts,
					)
				}
			}
		}
	}
	if opened < rounds/2 {
		t.Errorf("%d of %d verdicts opened: that shows little", opened, widened)
	}
}

// Evidence that agrees with what stands never changes a decided verdict, and the lean lies
// within what may be.
func TestEvidenceThatAgreesChangesNoVerdict(t *testing.T) {
	voc := catalogue.Vocabulary()
	kits := ready(t, voc)
	keys := slices.Sorted(maps.Keys(known))
	random := rand.New(rand.NewSource(13))
	decided := 0
	for range 250 {
		facts := about(random, keys)
		readings := machinetest.Readings(voc, facts)
		s := machine.NewSnapshot(voc, machine.Record{Readings: readings})
		more := slices.Clone(readings)
		for range 3 {
			r := readings[random.Intn(len(readings))]
			r.Grade = []machine.Grade{machine.Claimed, machine.Marked, machine.Observed, machine.Proven}[random.Intn(4)]
			r.TakenAt = r.TakenAt.AddDate(0, 0, 1)
			more = append(more, r)
		}
		after := machine.NewSnapshot(voc, machine.Record{Readings: more})
		for _, j := range kits {
			was, is := j.Truth(s), j.Truth(after)
			if was.LeanLo() < was.Lo() || was.LeanHi() > was.Hi() || was.LeanLo() > was.LeanHi() {
				t.Fatalf("%s leans %v–%v within %v–%v of %v", j.Kit.Key, was.LeanLo(), was.LeanHi(), was.Lo(), was.Hi(), facts)
			}
			if was.Decided() {
				if decided++; is.Lo() != was.Lo() || is.Hi() != was.Hi() {
					t.Fatalf("%s: %v–%v becomes %v–%v by %v", j.Kit.Key, was.Lo(), was.Hi(), is.Lo(), is.Hi(), more[len(readings):])
				}
			}
		}
	}
	if decided < 3000 {
		t.Errorf("only %d verdicts were decided", decided)
	}
}

func ready(t *testing.T, voc *machine.Vocabulary) []*fit.Judge {
	t.Helper()
	var out []*fit.Judge
	for _, k := range catalogue.Kits() {
		j, err := fit.NewJudge(k, voc)
		if err != nil {
			t.Fatal(err)
		}
		out = append(out, j)
	}
	return out
}
