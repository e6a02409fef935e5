package fit_test

import (
	"fmt"
	"math/rand"
	"strings"
	"testing"

	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/machine/machinetest"
)

var voc = catalogue.Vocabulary()

// plain is the shipped catalogue without what parts need by themselves: for tests of sums
// and effects alone.
var plain = func() *machine.Vocabulary {
	c := catalogue.Shipped()
	for i := range c.Kinds {
		c.Kinds[i].Needs, c.Kinds[i].Features = nil, nil
	}
	for i := range c.Models {
		c.Models[i].Needs, c.Models[i].Uses = nil, nil
	}
	v, err := c.Vocabulary()
	if err != nil {
		panic(err)
	}
	return v
}()

// plainly is a machine of the plain catalogue.
func plainly(_ testing.TB, values map[string]string) machine.Snapshot {
	return machinetest.Facts(plain, values)
}

// facts is the machine of which these readings are known; see machinetest.
func facts(_ testing.TB, values map[string]string) machine.Snapshot {
	return machinetest.Facts(voc, values)
}

// Source: Kleene, Introduction to Metamathematics, 1952, §64, the strong
// three-valued tables, with U as the interval No…Yes.
func TestKleene(t *testing.T) {
	no, open, yes := fit.TruthOf(
		fit.No,
		fit.No,
		fit.No,
		fit.No,
	), fit.TruthOf(
		fit.No,
		fit.Yes,
		fit.No,
		fit.Yes,
	), fit.TruthOf(
		fit.Yes,
		fit.Yes,
		fit.Yes,
		fit.Yes,
	)
	all := []fit.Truth{no, open, yes}
	and := [3][3]fit.Truth{{no, no, no}, {no, open, open}, {no, open, yes}}
	or := [3][3]fit.Truth{{no, open, yes}, {open, open, yes}, {yes, yes, yes}}
	not := [3]fit.Truth{yes, open, no}
	for i, a := range all {
		if a.Not() != not[i] {
			t.Errorf("not %v = %v", a, a.Not())
		}
		for j, b := range all {
			if a.And(b) != and[i][j] {
				t.Errorf("%v and %v = %v", a, b, a.And(b))
			}
			if a.Or(b) != or[i][j] {
				t.Errorf("%v or %v = %v", a, b, a.Or(b))
			}
		}
	}
}

// Every pair of intervals with their leans, combined in a byte, against the same by
// the levels: the less, the greater, and the opposite, end by end.
func TestTruthsInAByte(t *testing.T) {
	levels := []fit.Level{fit.No, fit.If, fit.Yes}
	type four [4]fit.Level
	var all []four
	for _, lo := range levels {
		for _, hi := range levels {
			for _, leanLo := range levels {
				for _, leanHi := range levels {
					if lo <= leanLo && leanLo <= leanHi && leanHi <= hi {
						all = append(all, four{lo, hi, leanLo, leanHi})
					}
				}
			}
		}
	}
	of := func(x four) fit.Truth { return fit.TruthOf(x[0], x[1], x[2], x[3]) }
	for _, a := range all {
		if got := of(a); got.Lo() != a[0] || got.Hi() != a[1] || got.LeanLo() != a[2] || got.LeanHi() != a[3] {
			t.Fatalf("%v reads back as %v", a, got)
		}
		if want := (four{fit.Yes - a[1], fit.Yes - a[0], fit.Yes - a[3], fit.Yes - a[2]}); of(a).Not() != of(want) {
			t.Errorf("not %v", a)
		}
		for _, b := range all {
			var least, most four
			for i := range a {
				least[i], most[i] = min(a[i], b[i]), max(a[i], b[i])
			}
			if of(a).And(of(b)) != of(least) || of(a).Or(of(b)) != of(most) {
				t.Errorf("%v with %v", a, b)
			}
		}
	}
}

func TestAnswersAndLeans(t *testing.T) {
	for _, tt := range []struct {
		lo, hi, leanLo, leanHi fit.Level
		answer, lean           fit.Answer
	}{
		{fit.Yes, fit.Yes, fit.Yes, fit.Yes, fit.Fits, ""}, {fit.If, fit.If, fit.If, fit.If, fit.FitsIf, ""}, {fit.No,
			fit.No, fit.No, fit.No, fit.DoesNotFit, ""},
		{fit.No, fit.Yes, fit.No, fit.Yes, fit.LookFirst, fit.NoLean}, {fit.No, fit.Yes, fit.Yes, fit.Yes, fit.LookFirst,
			fit.Fits},
		{fit.No, fit.Yes, fit.No, fit.No, fit.LookFirst, fit.DoesNotFit}, {fit.No, fit.Yes, fit.If, fit.If,
			fit.LookFirst, fit.FitsIf},
		{fit.If, fit.Yes, fit.If, fit.Yes, fit.LookFirst, fit.FitsIf}, // it fits either way
		{fit.No, fit.If, fit.No, fit.If, fit.LookFirst, fit.NoLean}, {fit.If, fit.Yes, fit.Yes, fit.Yes, fit.LookFirst,
			fit.Fits},
	} {
		truth := fit.TruthOf(tt.lo, tt.hi, tt.leanLo, tt.leanHi)
		if truth.Answer() != tt.answer || truth.Lean() != tt.lean {
			t.Errorf("%+v: %s, leans %q", tt, truth.Answer(), truth.Lean())
		}
	}
}

// sure is a machine that the contact probe fits in every respect.
var sure = map[string]string{
	"probe.model": "none", "mainboard.probe-port": "yes", "carriage.bracket-holes": "yes",
	"carriage.hole-spacing": "18", "firmware.family": "compiled",
	"mainboard.chip-maker": "first source", "mainboard.flash": "512", "mainboard.bootloader-size": "28",
	"firmware.size": "186",
}

func but(changes map[string]string) map[string]string {
	out := map[string]string{}
	for k, v := range sure {
		out[k] = v
	}
	for k, v := range changes {
		if v == "" {
			delete(out, k)
		} else {
			out[k] = v
		}
	}
	return out
}

// The expected answers are common practice of fitting contact probes.
func TestContactProbe(t *testing.T) {
	j, err := fit.NewJudge(catalogue.MustKit("plumbline-probe"), voc)
	if err != nil {
		t.Fatal(err)
	}
	tests := []struct {
		name    string
		facts   map[string]string
		want    fit.Answer
		changes string   // keys of the additional changes
		look    []string // inspections in order; nil when not asked
	}{
		{"everything read and right", sure, fit.Fits, "", []string{}},
		{
			"only the seller says there is a header",
			but(map[string]string{"mainboard.probe-port": "yes/claimed"}),
			fit.LookFirst,
			"",
			[]string{"cover"},
		},
		{
			"the header is marked on a sticker only",
			but(map[string]string{"mainboard.probe-port": "yes/marked"}),
			fit.LookFirst,
			"",
			[]string{"cover"},
		},
		{
			"a claim against it decides nothing either",
			but(map[string]string{"mainboard.chip-maker": "pin-compatible twin/claimed"}),
			fit.LookFirst,
			"",
			[]string{"ribbon"},
		},
		{
			"no header, display header free",
			but(map[string]string{"mainboard.probe-port": "no", "mainboard.display-port": "yes"}),
			fit.FitsIf,
			"port-adapter",
			[]string{},
		},
		{
			"no header, display header taken",
			but(map[string]string{"mainboard.probe-port": "no", "mainboard.display-port": "no"}),
			fit.DoesNotFit,
			"",
			[]string{},
		},
		{
			"no header, display header unknown",
			but(map[string]string{"mainboard.probe-port": "no"}),
			fit.LookFirst,
			"",
			[]string{"cover"},
		},
		{
			"early carriage without holes",
			but(map[string]string{"carriage.bracket-holes": "no", "carriage.hole-spacing": ""}),
			fit.FitsIf,
			"carriage-plate",
			[]string{},
		},
		{
			"carriage unseen: fits either way, looking may save the plate",
			but(map[string]string{"carriage.bracket-holes": "", "carriage.hole-spacing": ""}),
			fit.LookFirst,
			"",
			[]string{"carriage"},
		},
		{
			"holes of another pattern",
			but(map[string]string{"carriage.hole-spacing": "24"}),
			fit.FitsIf,
			"carriage-plate",
			[]string{},
		},
		{
			"pin-compatible twin of the processor",
			but(map[string]string{"mainboard.chip-maker": "pin-compatible twin"}),
			fit.DoesNotFit,
			"",
			[]string{},
		},
		{
			"two people read the chip differently",
			but(map[string]string{"mainboard.chip-maker": "first source|pin-compatible twin"}),
			fit.LookFirst,
			"",
			[]string{"ribbon"},
		},
		{
			"a conflict that does not matter: hosted",
			but(map[string]string{"mainboard.chip-maker": "first source|pin-compatible twin", "firmware.family": "hosted"}),
			fit.Fits,
			"",
			[]string{},
		},
		{
			"a conflict between two sizes that both have room",
			but(map[string]string{"mainboard.flash": "512|256"}),
			fit.Fits,
			"",
			[]string{},
		},
		{
			"a conflict between sizes of which one has no room",
			but(map[string]string{"mainboard.flash": "512|192"}),
			fit.LookFirst,
			"",
			[]string{"ribbon"},
		},
		{
			"scripted family: no build in the kit",
			but(map[string]string{"firmware.family": "scripted"}),
			fit.DoesNotFit,
			"",
			[]string{},
		},
		// 256 KB with 8 KB taken by a bootloader, common practice: 256 − 8 − 244 = 4 KiB.
		{
			"flash one KiB short",
			but(map[string]string{"mainboard.flash": "256", "mainboard.bootloader-size": "8", "firmware.size": "244"}),
			fit.DoesNotFit,
			"",
			[]string{},
		},
		{
			"flash just enough",
			but(map[string]string{"mainboard.flash": "256", "mainboard.bootloader-size": "8", "firmware.size": "243"}),
			fit.Fits,
			"",
			[]string{},
		},
		{
			"bootloader unknown and without weight",
			but(map[string]string{"mainboard.bootloader-size": ""}),
			fit.Fits,
			"",
			[]string{},
		},
		{
			"bootloader unknown and decisive",
			but(map[string]string{"mainboard.bootloader-size": "", "mainboard.flash": "256", "firmware.size": "225"}),
			fit.LookFirst,
			"",
			[]string{"cover"},
		},
		{
			"flash full whatever the bootloader takes",
			but(map[string]string{"mainboard.bootloader-size": "", "mainboard.flash": "128", "firmware.size": "126"}),
			fit.DoesNotFit,
			"",
			[]string{},
		},
		{
			"contact probe fitted already",
			but(map[string]string{"probe.model": "Plumbline", "probe.senses": "surface, by touch"}),
			fit.DoesNotFit,
			"",
			[]string{},
		},
		{
			"probe that senses metal: is replaced",
			but(map[string]string{"probe.model": "Sounder", "probe.senses": "metal, without touch"}),
			fit.Fits,
			"",
			[]string{},
		},
		{"nothing known of the probe", but(map[string]string{"probe.model": ""}), fit.LookFirst, "", []string{"outside"}},
		{
			"a no that decides outweighs what is unknown",
			but(map[string]string{"firmware.family": "scripted", "mainboard.probe-port": "", "mainboard.flash": ""}),
			fit.DoesNotFit,
			"",
			[]string{},
		},
		{
			"nothing known at all",
			map[string]string{},
			fit.LookFirst,
			"",
			[]string{"display", "outside", "carriage", "cover", "ribbon"},
		},
	}
	for _, tt := range tests {
		v := j.Verdict(facts(t, tt.facts))
		var changes, look []string
		for _, f := range v.Additional {
			changes = append(changes, f.Key)
		}
		for _, l := range v.Look {
			look = append(look, l.Inspection.Key)
		}
		if v.Answer != tt.want || v.Answer == fit.FitsIf && strings.Join(changes, " ") != tt.changes {
			t.Errorf("%s: %s with %v (%s), want %s with %q", tt.name, v.Answer, changes, v.Headline, tt.want, tt.changes)
		}
		if tt.look != nil && fmt.Sprint(look) != fmt.Sprint(tt.look) {
			t.Errorf("%s: look %v, want %v", tt.name, look, tt.look)
		}
		if v.Headline == "" {
			t.Errorf("%s: no headline", tt.name)
		}
	}
}

// The sum is shown with its numbers.
func TestArithmetic(t *testing.T) {
	j, err := fit.NewJudge(catalogue.MustKit("plumbline-probe"), voc)
	if err != nil {
		t.Fatal(err)
	}
	v := j.Verdict(
		facts(t, but(map[string]string{"mainboard.flash": "256", "mainboard.bootloader-size": "8",
			"firmware.size": "190"})),
	)
	if want := "256 flash − 8 taken by the bootloader − " +
		"190 size of the build − 5 probe's code = 53 KiB left"; !anyArithmetic(
		v.Reasons,
		want,
	) {
		t.Errorf("no outcome shows %q", want)
	}
}

func anyArithmetic(o fit.Outcome, want string) bool {
	if o.Arithmetic == want {
		return true
	}
	for _, p := range o.Parts {
		if anyArithmetic(p, want) {
			return true
		}
	}
	return false
}

// Whatever is known: the quick judgement and the explained one agree; and
// answering an open question by a sufficient reading never widens the verdict.
func TestJudgementProperties(t *testing.T) {
	rounds := 300
	if testing.Short() {
		rounds = 40
	}
	random := rand.New(rand.NewSource(1))
	pick := func(tr *machine.Trait) string {
		switch tr.Kind {
		case machine.Number:
			return []string{"2", "8", "18", "24", "64", "128", "256", "512"}[random.Intn(8)]
		case machine.YesNo:
			return []string{"yes", "no"}[random.Intn(2)]
		case machine.Choice:
			return tr.Choices[random.Intn(len(tr.Choices))]
		}
		return []string{"none", "Plumbline"}[random.Intn(2)]
	}
	for _, kit := range catalogue.Kits() {
		j, err := fit.NewJudge(kit, voc)
		if err != nil {
			t.Fatal(err)
		}
		keys := []string{"probe.model", "probe.senses", "springs.model", "relay.model", "toolhead-board.model"}
		for _, open := range j.Open(facts(t, nil)) {
			keys = append(keys, string(open.Trait.Key()))
		}
		for range rounds {
			known := map[string]string{}
			for _, k := range keys {
				tr, _ := voc.Trait(machine.Key(k))
				v := pick(tr)
				if _, err := tr.Parse(v); err != nil || random.Intn(3) == 0 {
					continue
				}
				known[k] = v + "/" + machine.Grades()[random.Intn(4)].String()
			}
			s := facts(t, known)
			truth, v := j.Truth(s), j.Verdict(s)
			if truth.Answer() != v.Answer {
				t.Fatalf("%s on %v: quick %s, explained %s", kit.Key, known, truth.Answer(), v.Answer)
			}
			if (v.Answer == fit.LookFirst) != (truth.Lo() != truth.Hi()) ||
				v.Saves != (truth.Lo() == fit.If && truth.Hi() == fit.Yes) ||
				v.Answer == fit.LookFirst && len(v.Look)+len(v.Decide) == 0 {
				t.Fatalf("%s on %v: look first without anything to look at", kit.Key, known)
			}
			if len(v.Look) == 0 {
				continue
			}
			k := v.Look[0].Keys[0]
			tr, _ := voc.Trait(k)
			answer := pick(tr)
			if _, err := tr.Parse(answer); err != nil {
				continue
			}
			known[string(k)] = answer + "/proven"
			after := j.Truth(facts(t, known))
			// Naming a part opens questions about it, and so does finding out something of one
			// that is said not to be there.
			slotAppears := s.Sign(voc.At(k.Slot())) == machine.Unknown || strings.HasSuffix(string(k), ".model") ||
				s.Model(k.Slot()) == machine.None ||
				!s.Has(voc.At(k.Slot())) ||
				s.At(tr).Grade >= machine.Marked // a stronger reading may contradict one that decided something
			if !slotAppears && (after.Lo() < truth.Lo() || after.Hi() > truth.Hi()) {
				t.Fatalf("%s: answering %s = %s widened %v to %v on %v", kit.Key, k, answer, truth, after, known)
			}
		}
	}
}

func TestJudgeRefusesBadKits(t *testing.T) {
	test := func(slot, trait string, op fit.Op, values ...string) fit.Requirement {
		return fit.Requirement{
			Label: "x",
			Test:  &fit.Test{Slot: slot, Trait: trait, Op: op, Values: values, Least: machine.Observed},
		}
	}
	deep := test("probe", "model", fit.Present)
	for range 40 {
		deep = fit.Requirement{Label: "x", All: []fit.Requirement{deep}}
	}
	for name, r := range map[string]fit.Requirement{
		"unknown trait":          test("mainboard", "colour", fit.Equal, "red"),
		"wrong unit":             test("mainboard", "flash", fit.AtLeast, "5 V"),
		"operator of another":    test("mainboard", "model", fit.AtLeast, "5"),
		"unknown operator":       test("mainboard", "model", "like", "5"),
		"between that never can": test("mainboard", "flash", fit.Between, "256", "128"),
		"too few values":         test("mainboard", "flash", fit.Between, "256"),
		"present of a trait":     test("mainboard", "flash", fit.Present),
		"empty group":            {Label: "x", All: []fit.Requirement{}},
		"nothing":                {Label: "x"},
		"two kinds at once":      {Label: "x", All: []fit.Requirement{deep}, Additional: &fit.AdditionalChange{}},
		"too deep":               deep,
		"additional change in none": {Label: "x", None: []fit.Requirement{{Label: "y",
			Additional: &fit.AdditionalChange{}}}},
		"effect on unknown trait": {Label: "x",
			Additional: &fit.AdditionalChange{Effects: []fit.Effect{{Slot: "probe",
				Traits: map[string]string{"colour": "red"}}}}},
	} {
		if _, err := fit.NewJudge(fit.Kit{Key: "k", Needs: r}, voc); err == nil {
			t.Errorf("%s was accepted", name)
		}
	}
}

func TestOperators(t *testing.T) {
	s := facts(
		t,
		map[string]string{
			"firmware.version": "2.0.10",
			"mainboard.flash":  "256",
			"mainboard.model":  "Brace 4.2",
			"probe.model":      "none",
		},
	)
	for _, tt := range []struct {
		slot, trait string
		op          fit.Op
		values      []string
		want        fit.Answer
	}{
		{"firmware", "version", fit.Version, []string{"2.0.9"}, fit.Fits},
		{"firmware", "version", fit.Version, []string{"2.1"}, fit.DoesNotFit},
		{"mainboard", "flash", fit.AtMost, []string{"256"}, fit.Fits},
		{"mainboard", "flash", fit.AtLeast, []string{"257"}, fit.DoesNotFit},
		{"mainboard", "flash", fit.Between, []string{"128 KB", "1 MB"}, fit.Fits},
		{"mainboard", "model", fit.Contains, []string{"BRACE"}, fit.Fits},
		{"mainboard", "model", fit.OneOf, []string{"Sill", "brace  4.2"}, fit.Fits},
		{"probe", "model", fit.Absent, nil, fit.Fits},
		{"probe", "model", fit.Present, nil, fit.DoesNotFit},
		{"host", "model", fit.Absent, nil, fit.LookFirst},
		{"probe", "senses", fit.Equal, []string{"metal, without touch"}, fit.DoesNotFit},
		// an empty slot has no such part
	} {
		j, err := fit.NewJudge(
			fit.Kit{
				Key: "k",
				Needs: fit.Requirement{
					Label: "x",
					Test:  &fit.Test{Slot: tt.slot, Trait: tt.trait, Op: tt.op, Values: tt.values, Least: machine.Observed},
				},
			},
			voc,
		)
		if err != nil {
			t.Fatal(err)
		}
		if got := j.Truth(s).Answer(); got != tt.want {
			t.Errorf("%s.%s %s %v: %s, want %s", tt.slot, tt.trait, tt.op, tt.values, got, tt.want)
		}
	}
}

// Source: Semantic Versioning 2.0.0, item 11: the order of its examples, and build
// metadata without rank (item 10).
func TestCompareVersions(t *testing.T) {
	ascending := []string{
		"any", // what says nothing of a version comes first, among themselves by their letters
		"unknown",
		"0.9",
		"1.0.0-alpha",
		"1.0.0-alpha.1",
		"1.0.0-alpha.beta",
		"1.0.0-beta",
		"1.0.0-beta.2",
		"1.0.0-beta.11",
		"1.0.0-rc.1",
		"1.0.0",
		"1.0.1",
		"v1.2",
		"1.10",
		"2",
		"2.0.0.1",
	}
	for i, a := range ascending {
		for j, b := range ascending {
			want := 0
			if i < j {
				want = -1
			} else if i > j {
				want = 1
			}
			if got := fit.CompareVersions(a, b); got != want {
				t.Errorf("%s against %s: %d, want %d", a, b, got, want)
			}
		}
	}
	for _, same := range [][2]string{{"1.0", "1.0.0"}, {"01.2", "1.2"}, {"2.1-beta", "2.1 beta"},
		{"1.0.0-rc1", "1.0.0-rc.1"}, {"1.0.0+20130313144700", "1.0.0+exp.sha.5114f85"}} {
		if fit.CompareVersions(same[0], same[1]) != 0 {
			t.Errorf("%s and %s are the same", same[0], same[1])
		}
	}
}

// What a text says of a version is a range: at least and of the line of the version asked
// for, surely (+), surely not (−) or not told (?). Source: Semantic Versioning 2.0.0, items
// 4, 8 and 11; how texts are read is common practice.
func TestWhatAVersionTextTells(t *testing.T) {
	sign := map[fit.Answer]string{fit.Fits: "+", fit.DoesNotFit: "−", fit.LookFirst: "?"}
	for _, tt := range []struct{ has, asked, atLeast, compatible string }{
		{"2.0.5", "2.0.5", "+", "+"}, {"2.1", "2.0.5", "+", "+"}, {"2.0.10", "2.0.5", "+", "+"}, {"2.0.4", "2.0.5", "−",
			"−"}, {"3.0", "2.0.5", "+", "−"}, {"1.9", "2.0", "−", "−"},
		{"0.12.3", "0.12.0", "+", "+"}, {"0.13.0", "0.12.0", "+", "−"}, {"0.11.9", "0.12.0", "−", "−"}, {"1.0", "0.12",
			"+", "−"}, {"v2.3", "2", "+", "+"}, {"0.5", "0", "+", "+"},
		// 2.0.5 up to before 2.0.6.
		{"2.0.5 (Nov 20)", "2.0.5", "+", "+"}, {"2.0.5 (Nov 20)", "2.0.5.1", "?", "?"}, {"2.0.5 (Nov 20)", "2.0.6", "−",
			"−"}, {"2.0.5 custom", "2.0.4", "+", "+"},
		// From the pre-releases of 2.1 to before 2.2.
		{"2.1.x", "2.1", "?", "?"}, {"2.1.x", "2.1-beta", "?", "?"}, {"2.1.x", "2.0.9", "+", "+"}, {"2.1.x", "2.2", "−",
			"−"}, {"bugfix-2.1.x", "2.0", "+", "+"}, {"1.x", "2.0", "−", "−"}, {"2.x", "1.9", "+", "−"},
		{"2.1-beta", "2.1", "−", "−"}, {"2.1 beta 2", "2.1-beta.1", "+", "+"}, {"2.1-rc1", "2.0", "+", "+"},
		// So many changes after a release, or a pre-release: nobody can tell by the text.
		{"v0.12.0-123-gabcdef0", "0.12.0", "?", "?"}, {"v0.12.0-123-gabcdef0", "0.11.0", "+",
			"−"}, {"v0.12.0-123-gabcdef0", "0.12.1", "−", "−"},
		{"2.0.5+build7", "2.0.5", "+", "+"}, {"2.0.5+9.9", "2.0.6", "−", "−"},
		{"latest", "2.0", "?", "?"}, {"Nov 2020", "2.0", "?", "?"}, {"2.0.5 or 2.0.6", "2.0", "?", "?"}, {"build 7", "2",
			"?", "?"}, {"7", "2", "+", "−"}, {"firmware 2.0.5", "2.0.5", "+", "+"},
	} {
		for op, want := range map[fit.Op]string{fit.Version: tt.atLeast, fit.Compatible: tt.compatible} {
			j, err := fit.NewJudge(
				fit.Kit{
					Key: "k",
					Needs: fit.Requirement{
						Label: "x",
						Test: &fit.Test{Slot: "firmware", Trait: "version", Op: op, Values: []string{tt.asked},
							Least: machine.Observed},
					},
				},
				voc,
			)
			if err != nil {
				t.Fatal(err)
			}
			v := j.Verdict(facts(t, map[string]string{"firmware.version": tt.has}))
			if got := sign[v.Answer]; got != want {
				t.Errorf("%q for %q, %s: %s, want %s", tt.has, tt.asked, op, got, want)
			}
			if v.Answer == fit.LookFirst && !strings.Contains(v.Headline, "which release is it exactly?") {
				t.Errorf("%q: %s", tt.has, v.Headline)
			}
		}
	}
}

// A seller's list is a claim: it is told, and decides nothing.
func TestClaim(t *testing.T) {
	k := fit.Kit{SoldFor: []string{"Hollin Works Skerry 22", "Mossby Drift 350"}}
	for soldAs, want := range map[string]string{"hollin works SKERRY 22": "seller lists the hollin",
		"Ardal Tern 3": "not the Ardal Tern 3", "": ""} {
		if got := k.Claim(soldAs); (want == "") != (got == "") || !strings.Contains(got, want) {
			t.Errorf("%q: %q", soldAs, got)
		}
	}
	if got := (fit.Kit{}).Claim("Ardal Tern 3"); got != "" {
		t.Errorf("without a list: %q", got)
	}
}
