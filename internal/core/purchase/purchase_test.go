package purchase_test

import (
	"strings"
	"testing"

	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/civil"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/purchase"
)

// What was found against what is advertised: each row says what comes of the thing.
func TestCompare(t *testing.T) {
	list := func(of ...purchase.TraitFound) []purchase.TraitFound { return of }
	of := func(trait, advertised, found string, grade machine.Grade) purchase.TraitFound {
		return purchase.TraitFound{Trait: trait, Advertised: advertised, Found: found, Grade: grade}
	}
	for name, tt := range map[string]struct {
		kind string
		of   []purchase.TraitFound
		want purchase.Outcome
		err  string
	}{
		"nobody looked":             {kind: "mainboard", want: purchase.AsAdvertised},
		"advertised and not looked": {kind: "mainboard", of: list(of("flash", "512", "", 0)), want: purchase.AsAdvertised},
		"half the flash": {kind: "mainboard", of: list(of("flash", "512", "256 KiB", machine.Observed)),
			want: purchase.Wrong},
		"the flash": {kind: "mainboard", of: list(of("flash", "512 KiB", "512", machine.Observed)),
			want: purchase.AsAdvertised},
		"found, not advertised": {kind: "mainboard", of: list(of("flash", "", "256", machine.Observed)),
			want: purchase.AsAdvertised},
		"a 24 V supply measures 24.1": {kind: "supply", of: list(of("volts", "24", "24.1", machine.Observed)),
			want: purchase.AsAdvertised},
		"a 24 V supply measures 12": {kind: "supply", of: list(of("volts", "24", "12", machine.Observed)),
			want: purchase.Wrong},
		"the model in capitals": {kind: "probe", of: list(of("model", "Sounder", "SOUNDER", machine.Marked)),
			want: purchase.AsAdvertised},
		"another model": {kind: "probe", of: list(of("model", "Sounder", "Sounder 2", machine.Marked)),
			want: purchase.Wrong},
		"only claimed": {kind: "mainboard", of: list(of("flash", "512", "256", machine.Claimed)),
			err: "marked, observed or proven"},
		"no grade":      {kind: "mainboard", of: list(of("flash", "512", "256", 0)), err: "say how"},
		"no such trait": {kind: "mainboard", of: list(of("taste", "", "", 0)), err: "no trait"},
		"no such kind":  {kind: "ghost", of: list(of("model", "", "", 0)), err: "no trait"},
		"no number":     {kind: "mainboard", of: list(of("flash", "a lot", "", 0)), err: "number"},
		"twice": {kind: "mainboard", of: list(of("flash", "", "", 0), of("flash", "", "", 0)),
			err: "twice"},
	} {
		t.Run(name, func(t *testing.T) {
			_, got, err := purchase.Compare(catalogue.Vocabulary(), tt.kind, tt.of)
			if tt.err != "" {
				if err == nil || !strings.Contains(err.Error(), tt.err) {
					t.Fatalf("%v", err)
				}
				return
			}
			if err != nil || got != tt.want {
				t.Errorf("%q, %v; want %q", got, err, tt.want)
			}
		})
	}
}

func TestConclude(t *testing.T) {
	for name, tt := range map[string]struct {
		said, found purchase.Outcome
		note        string
		want        purchase.Outcome
		err         string
	}{
		"nothing said":                   {found: purchase.Wrong, want: purchase.Wrong},
		"as advertised though it is not": {said: purchase.AsAdvertised, found: purchase.Wrong, err: "no stock"},
		"damaged, and what":              {purchase.Damaged, purchase.AsAdvertised, "corner bent", purchase.Damaged, ""},
		"damaged, without a word":        {said: purchase.Damaged, found: purchase.AsAdvertised, err: "what is damaged"},
		"missing, without a word":        {said: purchase.Missing, found: purchase.AsAdvertised, err: "what is missing"},
		"wrong, the findings say what":   {said: purchase.Wrong, found: purchase.Wrong, want: purchase.Wrong},
		"damaged as well as wrong":       {said: purchase.Damaged, found: purchase.Wrong, want: purchase.Damaged},
	} {
		got, err := purchase.Conclude(tt.said, tt.found, tt.note)
		if got != tt.want || (err != nil) != (tt.err != "") || err != nil && !strings.Contains(err.Error(), tt.err) {
			t.Errorf("%s: %q, %v", name, got, err)
		}
	}
}

// Two boards and their adapters: one board good, one wrong and claimed; what is outstanding
// follows the claim.
func TestTally(t *testing.T) {
	l := purchase.Line{What: "board set", Count: 2, Kept: []purchase.KeptPart{{Kind: "mainboard", Model: "Hush 8"},
		{Kind: "adapter"}}}
	came := func(claim purchase.Claim) []purchase.Came {
		return []purchase.Came{
			{Line: 7, Outcome: purchase.AsAdvertised},
			{Line: 7, Outcome: purchase.Wrong, Claim: claim},
			{Line: 7, Kept: 1, Outcome: purchase.AsAdvertised},
			{Line: 8, Outcome: purchase.AsAdvertised}, // of another line
		}
	}
	for claim, want := range map[purchase.Claim][2]int{ // outstanding, claimed
		purchase.Open: {1, 1}, purchase.SentBack: {1, 1}, purchase.Replaced: {1, 0}, purchase.Refunded: {0, 0},
		purchase.GivenUp: {0, 0},
	} {
		p := purchase.Tally(7, l, came(claim))
		if len(p) != 2 || p[0].ToCome != want[0] || p[0].Claimed != want[1] || p[1].ToCome != 1 {
			t.Errorf("%s: %+v", claim, p)
		}
	}
	if p := purchase.Tally(7, purchase.Line{Count: 3}, []purchase.Came{{Line: 7,
		Outcome: purchase.AsAdvertised}}); len(p) != 1 ||
		p[0].ToCome != 2 {
		t.Errorf("a line without parts on record: %+v", p)
	}
}

func TestReturnBy(t *testing.T) {
	today, err := civil.ParseDay("2026-11-20", civil.Unsaid)
	if err != nil {
		t.Fatal(err)
	}
	for days, want := range map[int]string{-1: "1 day ago", 0: "today", 1: "1 day left", 14: "14 days left"} {
		by := today + civil.Day(days)
		if got := purchase.ReturnBy(&by, purchase.Open, today); !strings.Contains(got, want) {
			t.Errorf("%d: %q", days, got)
		}
		if got := purchase.ReturnBy(&by, purchase.SentBack, today); got != "" {
			t.Errorf("it has gone back: %q", got)
		}
	}
	if got := purchase.ReturnBy(nil, purchase.Open, today); got != "" {
		t.Errorf("no day: %q", got)
	}
}

func TestMayBecome(t *testing.T) {
	states := []purchase.Claim{purchase.NoClaim, purchase.Open, purchase.SentBack, purchase.Replaced, purchase.Refunded,
		purchase.GivenUp}
	may := map[purchase.Claim]bool{purchase.Open: true, purchase.SentBack: true, purchase.Refunded: true,
		purchase.GivenUp: true}
	for _, is := range states {
		for _, to := range states {
			if got, want := is.MayBecome(to) == nil, is.Waits() && may[to]; got != want {
				t.Errorf("%q to %q: %v", is, to, got)
			}
		}
	}
}

// What a kit's line holds: each part that it fits, and what else is in the box.
func TestOfKit(t *testing.T) {
	k := fit.Kit{Key: "k", Name: "set", Parts: []string{"probe"}, Screws: []string{"2 × M3 × 8"},
		Effects: []machine.Effect{
			{Slot: "probe", Model: "Sounder"}, {Slot: "z-endstop", Model: machine.None}, {Slot: "firmware", Model: "build"},
			{Slot: "probe", From: "probe", Traits: map[string]string{"x-offset": "3"}},
		}}
	l := purchase.OfKit(k, func(slot string) string {
		return map[string]string{"probe": "probe",
			"z-endstop": "endstop"}[slot]
	})
	if len(l.Kept) != 1 || l.Kept[0] != (purchase.KeptPart{Kind: "probe",
		Model: "Sounder"}) || len(l.Box) != 2 || l.Kit != "k" {
		t.Errorf("%+v", l)
	}
}

func TestCheckLine(t *testing.T) {
	price := func(p float64) *float64 { return &p }
	for name, tt := range map[string]struct {
		line purchase.Line
		ok   bool
	}{
		"one":           {purchase.Line{What: "plate", Count: 1}, true},
		"none":          {purchase.Line{What: "plate"}, false},
		"a thousand":    {purchase.Line{What: "plate", Count: 1000}, true},
		"too many":      {purchase.Line{What: "plate", Count: 1001}, false},
		"nothing named": {purchase.Line{Count: 1}, false},
		"free":          {purchase.Line{What: "plate", Count: 1, Price: price(0)}, true},
		"paid to take":  {purchase.Line{What: "plate", Count: 1, Price: price(-1)}, false},
		"dearest":       {purchase.Line{What: "plate", Count: 1, Price: price(1e7)}, true},
		"too dear":      {purchase.Line{What: "plate", Count: 1, Price: price(1e7 + 1)}, false},
	} {
		if err := tt.line.Check(); (err == nil) != tt.ok {
			t.Errorf("%s: %v", name, err)
		}
	}
}
