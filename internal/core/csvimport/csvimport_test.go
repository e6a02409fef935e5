package csvimport_test

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"math/rand"
	"strings"
	"testing"
	"time"

	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/csvimport"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/machine/machinetest"
	"wardifex/internal/core/maintenance"
)

var voc = catalogue.Vocabulary()

var now = time.Date(2026, 6, 1, 12, 0, 0, 0, time.UTC)

func TestReadTable(t *testing.T) {
	tests := []struct {
		name, text string
		sep        string
		rows       int
		fault      string
	}{
		{"commas", "name,bay\nA,Quay\nB,Loft\n", ",", 2, ""},
		{"semicolons with commas inside", "name;note\nA;one, two\nB;three, four\n", ";", 2, ""},
		{"tabs", "name\tbay\nA\tQuay\n", "\t", 1, ""},
		{"byte order mark", "\ufeffname,bay\nA,Quay\n", ",", 1, ""},
		{
			"CR LF, quotes, breaks inside a cell",
			"name,note\r\nA,\"one\r\n\"\"two\"\"\"\r\n",
			",",
			1,
			"",
		}, // Source: RFC 4180 §2
		{"blank rows", "name,bay\n\n,\nA,Quay\n", ",", 1, ""},
		{"one column", "name\nA\nB\n", ",", 2, ""},
		{"half a file", "name,note\nA,\"cut off he", "", 0, "cut off"},
		{"quote in a cell", "name,note\nA,so \"called\" x\n", "", 0, "double it"},
		{"empty", " \n ", "", 0, "empty"},
		{"headings only", "name,bay\n", "", 0, "no rows"},
		{"a spreadsheet", "PK\x03\x04....", "", 0, "save it as CSV"},
		{"a PDF", "%PDF-1.7", "", 0, "PDF"},
		{"UTF-16 that is cut off", "\xff\xfen\x00a\x00\n", "", 0, "UTF-16"},
		{"UTF-16", "\xff\xfen\x00a\x00m\x00e\x00,\x00b\x00a\x00y\x00\n\x00A\x00,\x00\xfc\x00\n\x00", ",", 1, ""},
		{"UTF-16 without a mark", "\x00n\x00a\x00m\x00e\x00,\x00b\x00a\x00y\x00\n\x00A\x00,\x00Q\x00\n", ",", 1, ""},
		{"Windows-1252", "name,bay\nA,Q\nB,M\xfcle 4 \xb0C \x80\n", ",", 2, ""},
		{"another alphabet", "name,bay\nA,Q\nB,\xcf\xf0\xe8\xed\xf2\xe5\xf0\n", "", 0, "line 3"},
		{"an encoding of old terminals", "name,bay\nA,M\x81hle\n", "", 0, "cannot be told for certain"},
		{"Czech letters or Western ones", "name,bay\nA,\x9ekola\n", "", 0, "cannot be told for certain"},
		{"returns alone at the ends of lines", "name,bay\rA,Quay\rB,Loft\r", ",", 2, ""},
		{"a line for spreadsheets", "sep=;\r\nname;bay\r\nA,1;Quay\r\n", ";", 1, ""},
		{"bars", "name|bay\nA|Quay\n", "|", 1, ""},
		{
			"short and long rows with many commas",
			"name;bay;note\nA;Quay\nB;Loft;one, two, three, four\nC;Slip;x, y;;\n",
			";",
			3,
			"",
		},
		{"a picture", "\x89PNG\x00\x00", "", 0, "not a text file"},
		{"too many rows", "name\n" + strings.Repeat("A\n", 11), "", 0, "more than 10 rows"},
		{"too many columns", strings.Repeat("a,", 600) + "\n1\n", "", 0, "columns"},
	}
	for _, tt := range tests {
		table, err := csvimport.ReadTable(t.Context(), []byte(tt.text), 10, csvimport.Layout{})
		if (err == nil) != (tt.fault == "") || err != nil && !strings.Contains(err.Error(), tt.fault) {
			t.Errorf("%s: %v, want %q", tt.name, err, tt.fault)
			continue
		}
		if err == nil && (table.Separator != tt.sep || len(table.Rows) != tt.rows) {
			t.Errorf("%s: separator %q, %d rows", tt.name, table.Separator, len(table.Rows))
		}
	}
}

func TestPropose(t *testing.T) {
	for heading, want := range map[string]string{
		"Printer": "name", "machine name": "name", "Bay": "bay", "Location": "bay", "Board": "mainboard.model",
		"Mainboard: model": "mainboard.model",
		"board rev.":       "mainboard.revision", "Flash (KB)": "mainboard.flash", "CPU marking": "mainboard.processor",
		"Firmware": "firmware.model", "Firmware family": "firmware.family",
		"FW version": "firmware.version", "PSU": "supply.model", "Nozzle size mm": "nozzle.bore", "Serial No.": "serial",
		"Favourite colour": "", "": "",
	} {
		if got := csvimport.Propose(csvimport.Table{Headings: []string{heading}}, voc, nil)[0].Target; got != want {
			t.Errorf("%q is matched to %q, want %q", heading, got, want)
		}
	}
	// Each target once, the surest heading first.
	m := csvimport.Propose(csvimport.Table{Headings: []string{"Machine name", "Name"}}, voc, nil)
	if (m[0].Target == "name") == (m[1].Target == "name") {
		t.Errorf("two columns, one name: %+v", m)
	}
	// Every label the register is exported under matches its own target.
	for _, target := range csvimport.Targets(voc) {
		if strings.Contains(target.Label, "("+target.Unit+")") != (target.Unit != "") {
			t.Errorf("%s, in %q, is called %q", target.Key, target.Unit, target.Label)
		}
		if m := csvimport.Propose(csvimport.Table{Headings: []string{target.Label}}, voc, nil)[0]; m.Target != target.Key ||
			!m.Sure {
			t.Errorf("%q is matched to %q, want %q", target.Label, m.Target, target.Key)
		}
	}
}

func table(t *testing.T, text string) csvimport.Table {
	t.Helper()
	tb, err := csvimport.ReadTable(t.Context(), []byte(text), csvimport.MaxRows, csvimport.Layout{})
	if err != nil {
		t.Fatal(err)
	}
	return tb
}

func plan(t *testing.T, text string, fleet []csvimport.Existing, leaveOut ...int) csvimport.Plan {
	t.Helper()
	tb := table(t, text)
	var mapping []string
	for _, m := range csvimport.Propose(tb, voc, nil) {
		mapping = append(mapping, m.Target)
	}
	d := csvimport.Decisions{Mapping: mapping, LeaveOut: leaveOut}
	p, err := csvimport.NewPlan(t.Context(), tb, d, fleet, voc, now)
	if err != nil {
		t.Fatal(err)
	}
	return p
}

func existing(id int64, name string, values map[string]string, grade machine.Grade) csvimport.Existing {
	e := csvimport.Existing{
		ID:     id,
		Fields: map[string]string{"name": name, "bay": "Quay", "maker": "", "serial": "", "note": ""},
		Held:   map[machine.Key][]machine.Value{},
	}
	rs := machinetest.Readings(voc, values)
	for i, r := range rs {
		rs[i].Grade = grade
		e.Held[r.Key] = append(e.Held[r.Key], r.Value)
	}
	e.Facts = machine.NewSnapshot(voc, machine.Record{Readings: rs})
	return e
}

func TestPlan(t *testing.T) {
	fleet := []csvimport.Existing{
		existing(7, "Avocet", map[string]string{"mainboard.flash": "512"}, machine.Observed),
		{ID: 8, Fields: map[string]string{"name": "Gone"}, Retired: true, Facts: machine.NewSnapshot(voc, machine.Record{})},
	}
	p := plan(t, "Name;Bay;Flash;Firmware;Note\n"+
		"Avocet;Quay;512 KB;compiled;\n"+ // a new claim of the family
		"avocet ;Loft;256;;\n"+ // the same name again
		"Curlew;Quay;256;?;-;;\n"+ // empty cells at the end are none
		"Dunlin;Quay;lots;compiled;\n"+
		"Gone;;;;\n"+
		"Eider;Quay;256;compiled;=1+1\n"+
		";Quay;256;compiled;\n"+
		"Fulmar;Quay;256\n", fleet)
	want := []struct {
		action csvimport.Action
		faults string
	}{
		{
			csvimport.Change,
			"",
		}, {csvimport.Faulty, "line 2 has the same name"}, {csvimport.Create, ""}, {csvimport.Faulty, "not a number"},
		{
			csvimport.Faulty,
			"retired",
		}, {csvimport.Faulty, "formula"}, {csvimport.Faulty, "empty"}, {csvimport.Faulty, "3 cells under 5 headings"},
	}
	for i, w := range want {
		var faults []string
		for _, f := range p.Rows[i].Faults {
			faults = append(faults, f.Problem)
			if f.Line != i+2 {
				t.Errorf("row %d: fault in line %d", i, f.Line)
			}
		}
		if p.Rows[i].Action != w.action || !strings.Contains(strings.Join(faults, "\n"), w.faults) {
			t.Errorf("row %d: %s, %v; want %s, %q", i, p.Rows[i].Action, faults, w.action, w.faults)
		}
	}
	if f := p.Rows[3].Faults[0]; f.Heading != "Flash" || f.Value != "lots" || f.Column != 2 {
		t.Errorf("the fault does not say where it stands: %+v", f)
	}
	if c := p.Rows[0].Changes; len(c) != 1 || c[0].Target != "firmware.family" {
		t.Errorf("Avocet: only the family is news: %+v", c)
	}
	if c := p.Rows[2].Changes; len(c) != 2 {
		t.Errorf("Curlew: bay and flash, blanks say nothing: %+v", c)
	}
}

func TestPlanKeepsStrongerReadings(t *testing.T) {
	p := plan(
		t,
		"name,flash\nAvocet,256\n",
		[]csvimport.Existing{existing(1, "Avocet", map[string]string{"mainboard.flash": "512"}, machine.Observed)},
	)
	if w := p.Rows[0].Changes[0]; w.Remark != "kept as a claim; 512 KiB (observed) stands" {
		t.Errorf("remark %q", w.Remark)
	}
	p = plan(
		t,
		"name,flash\nAvocet,256\n",
		[]csvimport.Existing{existing(1, "Avocet", map[string]string{"mainboard.flash": "512"}, machine.Claimed)},
	)
	if w := p.Rows[0].Changes[0]; !strings.Contains(w.Remark, "conflict") {
		t.Errorf("remark %q", w.Remark)
	}
}

func TestPlanWarnsOfAMisreadMarking(t *testing.T) {
	p := plan(t, "name,chip\nAvocet,R0T6\nBittern,RET6\n", nil)
	if w := p.Rows[0].Changes[0]; !strings.Contains(w.Remark, "RDT6") {
		t.Errorf("no look-alike for R0T6: %q", w.Remark)
	}
	if w := p.Rows[1].Changes[0]; w.Remark != "" || p.Faulty != 0 {
		t.Errorf("RET6 is right: %q", w.Remark)
	}
}

func TestMappingFaults(t *testing.T) {
	tb := table(t, "a,b\n1,2\n")
	for name, mapping := range map[string][]string{"no name": {"bay", ""}, "twice": {"name", "name"},
		"unknown": {"name", "wings"}, "too few": {"name"}} {
		if _, err := csvimport.NewPlan(t.Context(), tb, csvimport.Decisions{Mapping: mapping}, nil, voc, now); err == nil {
			t.Errorf("%s was accepted", name)
		}
	}
}

func TestCorrections(t *testing.T) {
	tb := table(t, "name,flash\nA,lots\nB\n")
	if err := tb.Correct([]csvimport.Correction{{Line: 2, Column: 1, Value: "512"},
		{Line: 3, Column: 1, Value: "256"}}); err != nil {
		t.Fatal(err)
	}
	d := csvimport.Decisions{Mapping: []string{"name", "mainboard.flash"}}
	p, err := csvimport.NewPlan(t.Context(), tb, d, nil, voc, now)
	if err != nil || p.Created != 2 || p.Faulty != 0 {
		t.Errorf("after mending: %+v, %v", p, err)
	}
	if tb.Correct([]csvimport.Correction{{Line: 9, Column: 0}}) == nil ||
		tb.Correct([]csvimport.Correction{{Line: 2, Column: 5}}) == nil {
		t.Error("a correction outside the table was accepted")
	}
}

// The register goes out and reads back to the same, whatever is in it.
func TestExportRoundTrip(t *testing.T) {
	fleet := []csvimport.Existing{
		existing(
			1,
			"Avocet",
			map[string]string{"mainboard.flash": "512", "mainboard.model": "Brace, \"new\" board", "nozzle.bore": "0,4"},
			machine.Observed,
		),
		existing(
			2,
			"Dünlin; 2",
			map[string]string{"firmware.family": "hosted", "carriage.bracket-holes": "no"},
			machine.Claimed,
		),
		existing(3, "Empty", nil, machine.Claimed),
	}
	var out bytes.Buffer
	if err := csvimport.Write(&out, fleet, voc); err != nil {
		t.Fatal(err)
	}
	heads := strings.SplitN(out.String(), "\n", 2)[0]
	if n := strings.Count(heads, ",") + 1; n != 7 { // name and bay, and of what no machine has there is no column
		t.Errorf("%d columns of 5 traits: %s", n, heads)
	}
	if p := plan(t, out.String(), fleet); p.Same != 3 || p.Created+p.Changed+p.Faulty != 0 {
		t.Errorf("back into the same register: %+v\n%s", p, out.String())
	}
	p := plan(t, out.String(), nil)
	if p.Created != 3 || p.Faulty != 0 {
		t.Fatalf("into an empty register: %+v", p)
	}
	for i, row := range p.Rows {
		for _, w := range row.Changes {
			if tr, ok := voc.Trait(machine.Key(w.Target)); ok && !tr.Same(fleet[i].Facts.Fact(tr.Key()).Value, w.Value) {
				t.Errorf("%s: %s reads back as %q", row.Name, w.Target, w.After)
			}
		}
	}
}

// Whatever values machines have: written out and read in again, every column is matched
// surely to where it came from and nothing has changed.
func TestExportReadsBack(t *testing.T) {
	random := rand.New(rand.NewSource(9))
	for range 12 {
		var fleet []csvimport.Existing
		for i := range 4 {
			values := map[string]string{}
			for _, tr := range voc.Traits {
				if random.Intn(8) > 0 || tr.Slot == "structure" {
					continue
				}
				switch tr.Kind {
				case machine.Number:
					n := tr.Min + (tr.Max-tr.Min)*random.Float64()
					values[string(tr.Key())] = fmt.Sprintf("%.*f", random.Intn(5), n)
				case machine.Choice, machine.YesNo:
					values[string(tr.Key())] = tr.Words()[random.Intn(len(tr.Words()))]
				default:
					values[string(tr.Key())] = []string{"Brace, \"new\"", "2.0.8", "a; b", "0017", "größer"}[random.Intn(5)]
				}
				if _, err := tr.ParseRecorded(values[string(tr.Key())]); err != nil {
					delete(values, string(tr.Key())) // rounded out of its bounds
				}
			}
			e := existing(int64(i+1), fmt.Sprintf("M %d", i), values, machine.Claimed)
			e.Fields[csvimport.Price], e.Fields[csvimport.Bought], e.Fields[csvimport.Serial] = "1234.5", "2024-03-04",
				fmt.Sprintf(
					"00%d",
					i,
				)
			fleet = append(fleet, e)
		}
		var out bytes.Buffer
		if err := csvimport.Write(&out, fleet, voc); err != nil {
			t.Fatal(err)
		}
		tb := table(t, out.String())
		for _, m := range csvimport.Propose(tb, voc, nil) {
			if !m.Sure {
				t.Errorf("%q is matched to %q, not surely: %s", m.Heading, m.Target, m.Why)
			}
		}
		if p := plan(t, out.String(), fleet); p.Same != len(fleet) {
			t.Fatalf("read back: %+v\n%s", p, out.String())
		}
	}
}

func TestLargeFiles(t *testing.T) {
	var b strings.Builder
	b.WriteString("name,flash\n")
	for i := range 50000 {
		fmt.Fprintf(&b, "M%d,256\n", i)
	}
	if p := plan(t, b.String(), nil); p.Created != 50000 || len(p.Shown(300).Rows) != 300 {
		t.Errorf("50,000 rows: %d machines, %d shown", p.Created, len(p.Shown(300).Rows))
	}
	b.WriteString("one more,256\n")
	if _, err := csvimport.ReadTable(t.Context(), []byte(b.String()), csvimport.MaxRows, csvimport.Layout{}); err == nil ||
		!strings.Contains(err.Error(), "split it") {
		t.Errorf("50,001 rows: %v", err)
	}
}

// 500 columns are read, matched and judged; one more is too many.
func TestWideFiles(t *testing.T) {
	heading, row := "name", "A"
	for i := range csvimport.MaxColumns - 1 {
		heading, row = heading+fmt.Sprintf(";extra %d colour", i), row+";red"
	}
	if p := plan(t, heading+"\n"+row+"\n", nil); p.Created != 1 || len(p.Rows[0].Changes) != 0 {
		t.Errorf("500 columns: %+v", p)
	}
	_, err := csvimport.ReadTable(t.Context(), []byte(heading+";one more\n"+row+";x\n"), 10, csvimport.Layout{})
	if err == nil || !strings.Contains(err.Error(), "501 columns; at most 500") {
		t.Errorf("501 columns: %v", err)
	}
}

// A line of millions of cells is refused at once, whatever stands between its cells; who has gone is not waited for.
func TestWideLinesAndWhoHasGone(t *testing.T) {
	t.Parallel()
	for _, sep := range []string{",", "|"} {
		for _, cell := range []string{"", "a"} {
			began := time.Now()
			_, err := csvimport.ReadTable(t.Context(), []byte(strings.Repeat(cell+sep, 8<<20/(len(cell)+1))), 10,
				csvimport.Layout{})
			if took := time.Since(began); err == nil || took > time.Minute {
				t.Errorf("%q between %q: %v after %s", sep, cell, err, took)
			}
		}
	}
	gone, leave := context.WithCancel(t.Context())
	leave()
	text := "name,note\n" + strings.Repeat("a,b\n", 3000)
	if _, err := csvimport.ReadTable(gone, []byte(text), 9000, csvimport.Layout{}); !errors.Is(err, context.Canceled) {
		t.Errorf("%v", err)
	}
	tb, err := csvimport.ReadTable(t.Context(), []byte(text), 9000, csvimport.Layout{})
	if err != nil {
		t.Fatal(err)
	}
	d := csvimport.Decisions{Mapping: []string{"name", "note"}}
	if _, err := csvimport.NewPlan(gone, tb, d, nil, voc, now); !errors.Is(err, context.Canceled) {
		t.Errorf("%v", err)
	}
}

func FuzzReadTable(f *testing.F) {
	f.Add([]byte("name,flash\nA,256\n"))
	f.Add([]byte("\xef\xbb\xbfname;bay\n\"A\n\";x\n"))
	f.Fuzz(func(t *testing.T, data []byte) {
		tb, err := csvimport.ReadTable(t.Context(), data, 100, csvimport.Layout{})
		if err != nil {
			return
		}
		var mapping []string
		for _, m := range csvimport.Propose(tb, voc, nil) {
			mapping = append(mapping, m.Target)
		}
		p, err := csvimport.NewPlan(t.Context(), tb, csvimport.Decisions{Mapping: mapping}, nil, voc, now)
		if err == nil && p.Created+p.Faulty != len(tb.Rows) {
			t.Errorf("%d rows, %d created, %d faulty", len(tb.Rows), p.Created, p.Faulty)
		}
	})
}

func TestPlanMeters(t *testing.T) {
	now := time.Date(2026, 6, 1, 0, 0, 0, 0, time.UTC)
	fleet := []csvimport.Metered{
		{ID: 1, Name: "Avocet", Meters: []maintenance.Meter{
			maintenance.HoursAt(time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC), 100)}},
	}
	tb := table(
		t,
		"Printer,Date,Hours\nAvocet,2026-01-01,100\nAvocet,2026-02-01,200\nAvocet,1.3.2026,190\n"+
			"Nobody,2026-02-01,5\nAvocet,3/4/2026,300\nAvocet,2026-04-01,-5\nAvocet,2026-04-02,many\n"+
			"avocet,2026-05-01,\"400,5\"\n",
	)
	p, err := csvimport.PlanMeters(t.Context(), tb, csvimport.Decisions{}, fleet, voc, now)
	if err != nil {
		t.Fatal(err)
	}
	if len(p.Rows) != 2 || p.Same != 1 || p.Rows[1].Amount != 400.5 {
		t.Errorf("rows %+v, %d the same", p.Rows, p.Same)
	}
	if len(p.Questions) != 1 || p.Questions[0].Answers[0].Means != "3 Apr 2026" {
		t.Errorf("which day is 3/4/2026: %+v", p.Questions)
	}
	for i, want := range []string{"do not run backwards", "no machine", "starts at 0", "not a number"} {
		if i >= len(p.Faults) || !strings.Contains(p.Faults[i].Problem, want) {
			t.Errorf("fault %d: want %q in %+v", i, want, p.Faults)
		}
	}
	_, err = csvimport.PlanMeters(t.Context(), table(t, "a,b\n1,2\n"), csvimport.Decisions{}, fleet, voc, now)
	if err == nil {
		t.Error("a file without the columns was accepted")
	}
}

// Filament and prints are read beside the hours, or without them; in a register they are no columns.
func TestPlanMetersOfOtherCounters(t *testing.T) {
	now := time.Date(2026, 6, 1, 0, 0, 0, 0, time.UTC)
	fleet := []csvimport.Metered{{ID: 1, Name: "Avocet"}}
	tb := table(t, "Machine,Day,Hours,Filament used (m),Jobs\nAvocet,2026-02-01,200,3000,40\nAvocet,2026-03-01,,2900,\n"+
		"Avocet,2026-04-01,,3500,61\n")
	p, err := csvimport.PlanMeters(t.Context(), tb, csvimport.Decisions{}, fleet, voc, now)
	if err != nil {
		t.Fatal(err)
	}
	var rows []string
	for _, r := range p.Rows {
		rows = append(rows, fmt.Sprintf("%d: %g %s", r.Line, r.Amount, r.Unit))
	}
	if got := strings.Join(rows, ", "); got != "2: 200 h, 2: 3000 m, 2: 40 prints, 4: 3500 m, 4: 61 prints" {
		t.Errorf("rows: %s", got)
	}
	if len(p.Faults) != 1 || !strings.Contains(p.Faults[0].Problem, "stood at 3000 m") {
		t.Errorf("faults: %+v", p.Faults)
	}
	for _, target := range csvimport.Targets(voc) {
		if target.Key == csvimport.Filament || target.Key == csvimport.Prints {
			t.Errorf("%s is offered for a register", target.Key)
		}
	}
}
