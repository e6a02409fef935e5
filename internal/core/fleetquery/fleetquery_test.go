package fleetquery_test

import (
	"bytes"
	"encoding/csv"
	"fmt"
	"slices"
	"strings"
	"testing"
	"testing/quick"
	"time"

	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/fleetquery"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/machine/machinetest"
)

var (
	voc = catalogue.Vocabulary()
	now = machinetest.Day.AddDate(0, 6, 0) // 1 July 2026
)

func subject(id int64, name, bay string, values map[string]string) fleetquery.Subject {
	return fleetquery.Subject{
		ID:     id,
		Name:   name,
		Fields: map[string]string{"machine.bay": bay, "machine.conflicts": "0"},
		Facts:  machinetest.Facts(voc, values),
	}
}

var fleet = []fleetquery.Subject{
	subject(
		1,
		"Pier 10",
		"Quay",
		map[string]string{
			"mainboard.model":      "Brace board",
			"mainboard.flash":      "512/claimed",
			"mainboard.chip-maker": "first source/marked",
			"probe.model":          "none",
		},
	),
	subject(
		2,
		"Pier 2",
		"Quay",
		map[string]string{
			"mainboard.model":      "brace board",
			"mainboard.flash":      "256",
			"mainboard.chip-maker": "first source|pin-compatible twin",
			"probe.model":          "Sounder",
		},
	),
	subject(3, "Jetty", "Loft", map[string]string{"firmware.family": "hosted", "mainboard.flash": "1024/proven"}),
	subject(4, "Mole", "", nil),
}

func ask(t *testing.T, q fleetquery.Question) fleetquery.Answer {
	t.Helper()
	a, err := fleetquery.Ask(q, fleet, voc, now)
	if err != nil {
		t.Fatal(err)
	}
	return a
}

func names(a fleetquery.Answer) string {
	var out []string
	for _, r := range a.Rows {
		out = append(out, r.Name)
	}
	return strings.Join(out, ",")
}

func TestFilters(t *testing.T) {
	for _, tt := range []struct {
		of    string
		test  fleetquery.Test
		value string
		want  string
	}{
		{"mainboard", fleetquery.Is, "Brace Board", "Pier 2,Pier 10"},
		{"mainboard", fleetquery.Unknown, "", "Mole"},                 // of Jetty the flash is known, and shown
		{"mainboard.flash", fleetquery.Is, "0.25 MB", "Pier 2"},       // 256 KiB, in another unit
		{"mainboard.flash", fleetquery.IsNot, "256", "Jetty,Pier 10"}, // of Mole nothing can be said
		{"mainboard.flash", fleetquery.AtLeast, "512", "Jetty,Pier 10"},
		{"mainboard.flash", fleetquery.AtMost, "512", "Pier 2,Pier 10"},
		{"mainboard.flash", fleetquery.Surer, "read", "Jetty,Pier 2"},
		{"mainboard.flash", fleetquery.Weaker, "read", "Mole,Pier 10"},
		{"mainboard.flash", fleetquery.OlderThan, "100", "Jetty,Pier 2,Pier 10"},
		{"mainboard.flash", fleetquery.OlderThan, "200", ""},
		{"mainboard.flash", fleetquery.Known, "", "Jetty,Pier 2,Pier 10"},
		{"mainboard.chip-maker", fleetquery.Conflict, "", "Pier 2"},
		{"mainboard.chip-maker", fleetquery.Is, "first source", "Pier 10"}, // in conflict is neither
		{"probe", fleetquery.Empty, "", "Pier 10"},
		{"probe", fleetquery.Filled, "", "Pier 2"},
		{"firmware", fleetquery.Contains, "HOST", "Jetty"},
		{"machine.bay", fleetquery.Is, "quay", "Pier 2,Pier 10"},
		{"machine.bay", fleetquery.Unknown, "", "Mole"},
		{"machine.conflicts", fleetquery.AtLeast, "1", ""},
	} {
		a := ask(t, fleetquery.Question{Where: []fleetquery.Filter{{Of: tt.of, Test: tt.test, Value: tt.value}}})
		if got := names(a); got != tt.want {
			t.Errorf("%s %s %s: %s; want %s", tt.of, tt.test, tt.value, got, tt.want)
		}
	}
	both := []fleetquery.Filter{
		{Of: "machine.bay", Test: fleetquery.Is, Value: "Quay"},
		{Of: "mainboard.flash", Test: fleetquery.AtLeast, Value: "512"},
	}
	if got := names(ask(t, fleetquery.Question{Where: both})); got != "Pier 10" {
		t.Errorf("all: %s", got)
	}
	if got := names(ask(t, fleetquery.Question{Where: both, Match: "any"})); got != "Jetty,Pier 2,Pier 10" {
		t.Errorf("any: %s", got)
	}
}

func TestSortAndGroup(t *testing.T) {
	for _, tt := range []struct {
		q    fleetquery.Question
		want string
	}{
		{fleetquery.Question{}, "Jetty,Mole,Pier 2,Pier 10"}, // 2 before 10
		{fleetquery.Question{Down: true}, "Pier 10,Pier 2,Mole,Jetty"},
		{fleetquery.Question{Sort: "mainboard.flash"}, "Pier 2,Pier 10,Jetty,Mole"}, // by number, unknown last
		{fleetquery.Question{Group: "machine.bay"}, "Jetty,Pier 2,Pier 10,Mole"},
	} {
		if got := names(ask(t, tt.q)); got != tt.want {
			t.Errorf("%+v: %s; want %s", tt.q, got, tt.want)
		}
	}
	danger := slices.Clone(fleet)
	for i := range danger {
		danger[i].Danger = danger[i].Name == "Pier 10"
	}
	for _, tt := range []struct {
		q    fleetquery.Question
		want string
	}{
		{fleetquery.Question{}, "Pier 10,Jetty,Mole,Pier 2"},
		{fleetquery.Question{Down: true}, "Pier 10,Pier 2,Mole,Jetty"},
		{fleetquery.Question{Group: "machine.bay"}, "Jetty,Pier 10,Pier 2,Mole"}, // within its group
	} {
		if a, err := fleetquery.Ask(tt.q, danger, voc, now); err != nil || names(a) != tt.want {
			t.Errorf("with a danger, %+v: %s, %v; want %s", tt.q, names(a), err, tt.want)
		}
	}
	if a := ask(t, fleetquery.Question{Group: "machine.bay"}); a.Rows[3].Group != "unknown" || a.Of != 4 {
		t.Errorf("groups: %+v", a.Rows)
	}
}

func TestBadQuestions(t *testing.T) {
	for part, q := range map[string]fleetquery.Question{
		"there is no column": {Columns: []string{"mainboard.ram"}},
		"is no test":         {Where: []fleetquery.Filter{{Of: "probe", Test: "resembles"}}},
		"a value is missing": {Where: []fleetquery.Filter{{Of: "probe", Test: fleetquery.Is, Value: " "}}},
		"not a number": {Where: []fleetquery.Filter{{Of: "mainboard.flash", Test: fleetquery.AtLeast,
			Value: "lots"}}},
		"is no number":    {Where: []fleetquery.Filter{{Of: "probe.senses", Test: fleetquery.AtLeast, Value: "1"}}},
		"not a grade":     {Where: []fleetquery.Filter{{Of: "probe", Test: fleetquery.Surer, Value: "sure"}}},
		"is not read off": {Where: []fleetquery.Filter{{Of: "machine.bay", Test: fleetquery.Conflict}}},
		"is not one of": {Where: []fleetquery.Filter{{Of: "firmware.family", Test: fleetquery.Is,
			Value: "wooden"}}},
		"is not a date":            {At: "last week"},
		"still to come":            {At: "2027-01-01"},
		"ends before":              {From: "2026-03-01", To: "2026-02-01"},
		"needs its first day":      {To: "2026-02-01"},
		"one day or for a period":  {At: "2026-01-01", From: "2026-01-01"},
		"there is no column \"x\"": {Sort: "x"},
	} {
		if _, err := fleetquery.Ask(q, nil, voc, now); err == nil || !strings.Contains(err.Error(), part) {
			t.Errorf("want %q, got %v", part, err)
		}
	}
}

// "Which machines had this build in March": those of which it stood at any time
// then, though it does no more.
func TestAnyTimeOfAPeriod(t *testing.T) {
	day := func(m time.Month, d int) time.Time { return time.Date(2026, m, d, 9, 0, 0, 0, time.UTC) }
	build := func(id int64, version string, at time.Time) machine.Reading {
		return machine.Reading{
			ID:      id,
			Key:     "firmware.version",
			Value:   machine.Value{Text: version},
			Grade:   machine.Observed,
			TakenAt: at,
		}
	}
	h := machine.NewHistory(voc, []machine.Tenure{
		{Slot: "firmware", Part: 1, From: day(1, 1), To: day(3, 20), Readings: []machine.Reading{build(1, "2.0", day(1,
			2))}},
		{
			Slot:     "firmware",
			Part:     2,
			From:     day(3, 20),
			To:       day(5, 1),
			Readings: []machine.Reading{build(2, "2.1", day(3, 20))},
		},
		{Slot: "firmware", Part: 3, From: day(5, 1), Readings: []machine.Reading{build(3, "2.2", day(5, 1))}},
	})
	s := fleetquery.Subject{ID: 1, Name: "Jetty", Fields: map[string]string{}, Facts: h.At(now), History: &h}
	had := func(version, from, to string) string {
		q := fleetquery.Question{
			Columns: []string{"firmware.version"},
			From:    from,
			To:      to,
			Where:   []fleetquery.Filter{{Of: "firmware.version", Test: fleetquery.Is, Value: version}},
		}
		a, err := fleetquery.Ask(q, []fleetquery.Subject{s}, voc, now)
		if err != nil {
			t.Fatal(err)
		}
		if len(a.Rows) == 0 {
			return ""
		}
		return a.Rows[0].Cells[0].Text
	}
	for _, tt := range []struct{ version, from, to, want string }{
		{"2.0", "2026-03-01", "2026-03-31", "2.0 → 2.1"},
		{"2.1", "2026-03-01", "2026-03-31", "2.0 → 2.1"},
		{"2.2", "2026-03-01", "2026-03-31", ""},
		{"2.1", "2026-04-01", "2026-04-30", "2.1"},
		{"2.0", "2026-04-01", "", ""},
		{"2.2", "2026-04-01", "", "2.1 → 2.2"},
	} {
		if got := had(tt.version, tt.from, tt.to); got != tt.want {
			t.Errorf("%s from %s to %s: %q, want %q", tt.version, tt.from, tt.to, got, tt.want)
		}
	}
}

// Source: RFC 4180; and no cell that a spreadsheet would run.
func TestCSV(t *testing.T) {
	a, err := fleetquery.Ask(
		fleetquery.Question{Columns: []string{"mainboard", "machine.bay"}},
		append(fleet, subject(9, "=cmd", `a "b", c`, nil)),
		voc,
		now,
	)
	if err != nil {
		t.Fatal(err)
	}
	var b bytes.Buffer
	if err := fleetquery.WriteCSV(&b, a); err != nil {
		t.Fatal(err)
	}
	if !strings.Contains(b.String(), "\r\n") {
		t.Error("lines end in CRLF")
	}
	rows, err := csv.NewReader(&b).ReadAll()
	if err != nil || len(rows) != 6 || strings.Join(rows[0], "|") != "Machine|Mainboard|Mainboard, evidence|Bay" {
		t.Fatalf("%v, %v", rows, err)
	}
	if rows[1][0] != "'=cmd" || rows[1][3] != `a "b", c` {
		t.Errorf("got %q", rows[1])
	}
}

// A filter and its opposite never keep the same machine, and keep together what
// is known; the order of filters does not matter.
func TestFilterProperties(t *testing.T) {
	check := func(value uint8, flip bool) bool {
		v := fmt.Sprint(8 + int(value))
		keeps := func(fs ...fleetquery.Filter) map[string]bool {
			out := map[string]bool{}
			for _, r := range ask(t, fleetquery.Question{Where: fs}).Rows {
				out[r.Name] = true
			}
			return out
		}
		is, not := fleetquery.Filter{
			Of:    "mainboard.flash",
			Test:  fleetquery.Is,
			Value: v,
		}, fleetquery.Filter{
			Of:    "mainboard.flash",
			Test:  fleetquery.IsNot,
			Value: v,
		}
		a, b, known := keeps(is), keeps(not), keeps(fleetquery.Filter{Of: "mainboard.flash", Test: fleetquery.Known})
		for name := range known {
			if a[name] == b[name] {
				return false
			}
		}
		bay := fleetquery.Filter{Of: "machine.bay", Test: fleetquery.Is, Value: "Quay"}
		return len(a)+len(b) == len(known) && fmt.Sprint(keeps(not, bay)) == fmt.Sprint(keeps(bay, not))
	}
	if err := quick.Check(check, nil); err != nil {
		t.Error(err)
	}
}

// Pages of an answer are together the whole, count what is on all of them, and are narrowed
// by what is shown.
func TestPages(t *testing.T) {
	t.Parallel()
	all, err := fleetquery.Ask(fleetquery.Question{Columns: []string{"machine.bay"}, Group: "machine.bay"}, fleet,
		voc, now)
	if err != nil || len(all.Rows) < 3 {
		t.Fatalf("%d rows, %v", len(all.Rows), err)
	}
	var names []string
	for offset := 0; offset <= len(all.Rows); offset += 2 {
		p := all.Page(fleetquery.Page{Offset: offset, Limit: 2})
		if p.Found != len(all.Rows) || len(p.Rows) > 2 || fmt.Sprint(p.Groups) != fmt.Sprint(all.Groups) {
			t.Errorf("from %d: %d rows of %d in %v", offset, len(p.Rows), p.Found, p.Groups)
		}
		for _, r := range p.Rows {
			names = append(names, r.Name)
		}
	}
	for i, r := range all.Rows {
		if i >= len(names) || names[i] != r.Name {
			t.Fatalf("the pages have %q", names)
		}
	}
	if p := all.Page(fleetquery.Page{Text: "pier 10"}); p.Found != 1 || p.Rows[0].Name != "Pier 10" || p.Of != all.Of {
		t.Errorf("of Pier 10: %+v", p)
	}
	if p := all.Page(fleetquery.Page{Text: "QUAY"}); p.Found == 0 || p.Groups[0] != (fleetquery.Group{"Quay",
		p.Found}) {
		t.Errorf("of the Quay: %+v", p)
	}
	if p := all.Page(fleetquery.Page{Offset: 1000}); len(p.Rows) != 0 || p.Found != len(all.Rows) {
		t.Errorf("behind the end: %+v", p)
	}
}

// A machine of which what is asked is not known is neither so nor not so: it is counted.
func TestUntold(t *testing.T) {
	flash := func(test fleetquery.Test, value string) fleetquery.Filter {
		return fleetquery.Filter{Of: "mainboard.flash", Test: test, Value: value}
	}
	family := fleetquery.Filter{Of: "firmware.family", Test: fleetquery.Is, Value: "hosted"}
	chip := fleetquery.Filter{Of: "mainboard.chip-maker", Test: fleetquery.Is, Value: "first source"}
	bay := fleetquery.Filter{Of: "machine.bay", Test: fleetquery.Is, Value: "Loft"}
	for name, c := range map[string]struct {
		match  string
		where  []fleetquery.Filter
		found  string
		untold int
	}{
		"nothing asked":             {"", nil, "Jetty,Mole,Pier 2,Pier 10", 0},
		"one of four is unknown":    {"", []fleetquery.Filter{flash(fleetquery.AtLeast, "512")}, "Jetty,Pier 10", 1},
		"a conflict cannot be told": {"", []fleetquery.Filter{chip}, "Pier 10", 3},
		"what fails fails all":      {"all", []fleetquery.Filter{bay, family}, "Jetty", 0},
		"what passes passes any":    {"any", []fleetquery.Filter{bay, family}, "Jetty", 3},
		"unknown is no answer to itself": {"", []fleetquery.Filter{{Of: "mainboard.flash", Test: fleetquery.Unknown}},
			"Mole", 0},
	} {
		t.Run(name, func(t *testing.T) {
			a := ask(t, fleetquery.Question{Match: c.match, Where: c.where})
			if names(a) != c.found || a.Untold != c.untold {
				t.Errorf("%s, %d cannot be told; want %s and %d", names(a), a.Untold, c.found, c.untold)
			}
		})
	}
}
