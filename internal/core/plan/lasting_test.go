package plan_test

import (
	"slices"
	"strings"
	"testing"

	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/machine/machinetest"
	"wardifex/internal/core/plan"
)

// lodestarOn is a hosted machine that carries a Lodestar probe, of 1.5 mm reach.
var lodestarOn = []string{
	"firmware.family",
	"hosted",
	"host.model",
	"Quayhost 4",
	"host.power",
	"a supply of its own",
	"probe.model",
	"Lodestar 5 V",
	"probe.senses",
	"metal, without touch",
	"bracket.model",
	"Lodestar bracket",
}

func with(base []string, pairs ...string) machine.Snapshot {
	return room(append(slices.Clone(base), pairs...)...)
}

// What parts need as long as they are fitted binds a plan to its end, and at every stage
// that is run on the way. Source: common practice; the sums follow from the numbers given.
func TestPlansKeepWhatPartsNeed(t *testing.T) {
	hosted := []string{"firmware.family", "hosted", "host.model", "Quayhost 4", "host.power", "a supply of its own"}
	for _, tt := range []struct {
		name     string
		kits     []string
		on       machine.Snapshot
		answer   fit.Answer
		lean     fit.Answer
		conflict string
		why      string
	}{
		{"a thick sheet after the probe", []string{"lodestar-5", "loadstone-sheet"}, with(hosted),
			fit.DoesNotFit, "", "Lodestar 5 V inductive probe,Loadstone magnet and steel sheet", "1.5 mm"},
		{"the probe after a thick sheet", []string{"loadstone-sheet", "lodestar-5"}, with(hosted),
			fit.DoesNotFit, "", "Loadstone magnet and steel sheet,Lodestar 5 V inductive probe", "1.5 mm"},
		{"a thick sheet where the probe is there already", []string{"loadstone-sheet", "bollard-springs"}, with(lodestarOn),
			fit.DoesNotFit, "", "Loadstone magnet and steel sheet", "1.5 mm"},
		{"where the probe's model is only claimed", []string{"loadstone-sheet", "bollard-springs"},
			with(lodestarOn, "probe.model", "Lodestar 5 V/claimed", "probe.reach", "1.5/claimed"), fit.LookFirst,
			fit.DoesNotFit, "", ""},
		{"springs where a thick sheet lies already", []string{"bollard-springs"},
			with(lodestarOn, "surface.thickness", "2.4"),
			fit.Fits, "", "", ""},
		{"a thin sheet that mends", []string{"slate-sheet"},
			with(lodestarOn, "surface.thickness", "2.4", "plate.temperature", "60"),
			fit.Fits, "", "", ""},
		{"a thick sheet and then a thin one", []string{"slate-sheet", "loadstone-sheet"}, with(lodestarOn),
			fit.DoesNotFit, "", "Loadstone magnet and steel sheet", "1.5 mm"},
		{"a bare plate", []string{"lodestar-5"}, with(hosted, "surface.model", "none", "surface.thickness", ""),
			fit.Fits, "", "", ""},
		{"two changes of family", []string{"to-hosted", "to-scripted"},
			room("host.power", "a supply of its own", "mainboard.flash", "1024", "firmware.listed-chip", "yes",
				"firmware.objects", "yes"),
			fit.DoesNotFit, "", "Change to the hosted family,Change to the scripted family", ""},
		{"a probe with a build, and a family that has none", []string{"plumbline-probe", "to-scripted"},
			room("mainboard.flash", "1024"),
			fit.DoesNotFit, "", "Plumbline contact probe kit,Change to the scripted family", "family with a build"},
		{"a display, and a family that has none for it", []string{"amber-display", "to-hosted"},
			room("host.power", "a supply of its own"),
			fit.DoesNotFit, "", "Amber display,Change to the hosted family", "Amber display"},
	} {
		for _, order := range [][]string{tt.kits, reversed(tt.kits)} {
			p, err := plan.Judge(t.Context(), judges(t, order...), tt.on, nil)
			if err != nil {
				t.Fatal(err)
			}
			wanted, got := strings.Split(tt.conflict, ","), p.Conflict
			slices.Sort(wanted)
			slices.Sort(got)
			explained := tt.why == "" ||
				slices.ContainsFunc(strings.Split(tt.why, "|"), func(w string) bool { return strings.Contains(p.Why, w) })
			if p.Answer != tt.answer || p.Lean != tt.lean || strings.Join(got, ",") != strings.Join(wanted, ",") || !explained {
				t.Errorf("%s %v: %s, leans %q, conflict %v: %s", tt.name, order, p.Answer, p.Lean, p.Conflict, p.Why)
			}
		}
	}
}

func reversed(keys []string) []string {
	out := slices.Clone(keys)
	slices.Reverse(out)
	return out
}

// paired is a shop whose bracket and probe need each other as long as they are fitted, and
// a kit for each.
func paired(t *testing.T) (*machine.Vocabulary, []*fit.Judge) {
	t.Helper()
	shop := catalogue.Shipped()
	is := func(label, kind, model string) machine.Need {
		return machine.Need{
			Key: "other",
			That: machine.Requirement{Label: label, Why: "They are one mechanism.", Otherwise: "Fitting both would change that.",
				Test: &machine.Test{
					Of:     &machine.Selector{Kind: kind},
					Trait:  machine.ModelTrait,
					Op:     fit.Equal,
					Values: []string{model},
					Least:  machine.Marked,
				}},
		}
	}
	shop.Models = append(
		shop.Models,
		machine.Model{
			Kind:  "probe",
			Name:  "Twain probe",
			Needs: []machine.Need{is("Its own bracket", "bracket", "Twain bracket")},
		},
		machine.Model{
			Kind:  "bracket",
			Name:  "Twain bracket",
			Needs: []machine.Need{is("Its own probe", "probe", "Twain probe")},
		},
	)
	voc, err := shop.Vocabulary()
	if err != nil {
		t.Fatal(err)
	}
	var out []*fit.Judge
	for _, k := range []fit.Kit{
		{Key: "twain-probe", Name: "Twain probe", What: "probe", Price: 30,
			Effects: []fit.Effect{{Slot: "probe", Model: "Twain probe",
				Traits: map[string]string{"senses": "surface, by touch"}}}},
		{Key: "twain-bracket", Name: "Twain bracket", What: "bracket", Price: 9,
			Effects: []fit.Effect{{Slot: "bracket", Model: "Twain bracket"}}},
	} {
		j, err := fit.NewJudge(k, voc)
		if err != nil {
			t.Fatal(err)
		}
		out = append(out, j)
	}
	return voc, out
}

// A bracket and a probe that need each other: each alone breaks what it brings, together
// they are made with nothing run in between.
func TestPartsThatNeedEachOther(t *testing.T) {
	voc, kits := paired(t)
	facts := map[string]string{}
	for key, v := range knownOf(room("probe.model", "none", "bracket.model", "none")) {
		facts[key] = v
	}
	s := machinetest.Facts(voc, facts)
	for i, j := range kits {
		p, err := plan.Judge(t.Context(), []*fit.Judge{j}, s, nil)
		if err != nil || p.Answer != fit.DoesNotFit || !strings.Contains(p.Why, "Its own") {
			t.Errorf("%s alone: %s (%s), %v", j.Kit.Name, p.Answer, p.Why, err)
		}
		both, err := plan.Judge(t.Context(), []*fit.Judge{j, kits[1-i]}, s, nil)
		if err != nil || both.Answer != fit.Fits || len(both.Steps) != 2 || both.Steps[0].Waits == "" ||
			both.Steps[0].Together ||
			!both.Steps[1].Together {
			t.Errorf("both: %+v, %v", both, err)
		}
		// The cheapest way to make the one fit is to fit the other with it.
		r, err := plan.FindRemedies(t.Context(), j, kits, s, nil)
		if err != nil || r.Sure == nil || len(r.Sure.Kits) != 1 || r.Sure.Kits[0].Kit != kits[1-i].Kit.Key {
			t.Errorf("%s: remedies %+v, %v", j.Kit.Name, r, err)
		}
	}
}

// Whatever plan is said to fit ends, and stays, with nothing broken that was not before;
// and what no order can end so is refused. Against every order, made one after another.
func TestPlansAgainstEveryOrder(t *testing.T) {
	shapes := []machine.Snapshot{
		with(lodestarOn), with(lodestarOn, "surface.thickness", "2.4"), room("mainboard.flash", "1024"),
		room(
			"probe.model",
			"Plumbline contact probe",
			"probe.senses",
			"surface, by touch",
			"bracket.model",
			"Plumbline bracket, 3 mm",
		),
		room("display.model", "Amber display", "host.power", "a supply of its own"),
		room("plate.temperature", "60"), with(lodestarOn, "plate.temperature", "60"),
	}
	if testing.Short() {
		shapes = shapes[2:5]
	}
	keys := []string{
		"lodestar-5",
		"sounder-8",
		"plumbline-probe",
		"loadstone-sheet",
		"slate-sheet",
		"to-hosted",
		"to-scripted",
		"amber-display",
		"hearth-230",
		"bollard-springs",
	}
	refused, taken := 0, 0
	for _, s := range shapes {
		before := broken(s)
		for i, a := range keys {
			for _, b := range keys[i+1:] {
				pair := judges(t, a, b)
				p, err := plan.Judge(t.Context(), pair, s, nil)
				if err != nil {
					t.Fatal(err)
				}
				some := false // order of the two in which nothing breaks and both results are so
				for _, order := range [][]*fit.Judge{{pair[0], pair[1]}, {pair[1], pair[0]}} {
					some = some || made(t, order, s, before)
				}
				if clash(pair) {
					some = false
				}
				switch fits := p.Answer == fit.Fits || p.Answer == fit.FitsIf; {
				case fits && !some:
					t.Errorf("%s and %s: %s in the order %s, and each order breaks something", a, b, p.Answer, order(p))
				case p.Answer == fit.DoesNotFit && some:
					t.Errorf("%s and %s: refused (%s), and an order breaks nothing", a, b, p.Why)
				case fits:
					taken++
					for what := range broken(p.After()) {
						if !before[what] {
							t.Errorf("%s and %s end in a machine where this is broken: %s", a, b, what)
						}
					}
				case p.Answer == fit.DoesNotFit:
					refused++
				}
			}
		}
	}
	if taken < 2*len(shapes) || refused < 2*len(shapes) {
		t.Errorf("%d plans taken, %d refused: that shows little", taken, refused)
	}
}

// made makes kits one after the other, and reports whether each fits in its turn and
// nothing is broken on the way.
func made(t *testing.T, kits []*fit.Judge, s machine.Snapshot, before map[string]bool) bool {
	for _, j := range kits {
		v := j.Verdict(s)
		if v.Answer == fit.DoesNotFit {
			return false
		}
		after, err := j.After(s, v.Additional)
		if err != nil {
			t.Fatal(err)
		}
		s = after
		for what := range broken(s) {
			if !before[what] {
				return false
			}
		}
	}
	for _, j := range kits {
		if j.Result(s).Hi() == fit.No {
			return false
		}
	}
	return true
}

func broken(s machine.Snapshot) map[string]bool {
	out := map[string]bool{}
	for _, o := range fit.Stand(s).Broken {
		out[o.At+": "+o.Label] = true
	}
	return out
}
