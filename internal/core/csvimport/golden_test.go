package csvimport_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"wardifex/internal/core/csvimport"
	"wardifex/internal/core/machine"
	"wardifex/internal/goldentest"
)

// drawTable writes a register with headings as people write them, of traits and of machines, and cells of all sorts.
func drawTable(r *rand.Rand) string {
	separator := []string{",", ";", "\t"}[r.IntN(3)]
	headings := []string{[]string{"Name", "Printer", "machine name", "Machine"}[r.IntN(4)]}
	cells := [][]string{{"Avocet", "Bittern", "Curlew", "avocet", "", "Dunlin 2", "Eider"}}
	for range 1 + r.IntN(6) {
		switch r.IntN(6) {
		case 0:
			other := []string{"Bay", "Serial No.", "Maker", "Note", "Supplier", "Bought", "Price (EUR)", "Hours", "Status"}
			headings = append(headings, other[r.IntN(len(other))])
			cells = append(cells, []string{"Quay", "SN-1", "SN-2", "3/4/2026", "13.4.2026", "2026-04-03", "1.234,50", "219", ""})
		default:
			tr := voc.Traits[r.IntN(len(voc.Traits))]
			h := tr.Label
			switch r.IntN(4) {
			case 0:
				h = strings.ToUpper(h)
			case 1:
				h = strings.Replace(h, ":", " ", 1)
			case 2:
				if tr.Unit != "" {
					h += " (" + tr.Unit + ")"
				}
			}
			headings = append(headings, h)
			cells = append(cells, slices.Concat(tr.Words(), []string{"24", "24 V", "0.4", "0,4", "1.234", "none", "-", "?",
				"yes",
				"2.0.8", "350 " + tr.Unit, "Brace board v4.2", "12/24", "Hush 8", "1,5", "220x220x250"}))
		}
	}
	quote := func(s string) string {
		if strings.ContainsAny(s, separator+"\"") {
			return `"` + strings.ReplaceAll(s, `"`, `""`) + `"`
		}
		return s
	}
	rows := [][]string{headings}
	for range 1 + r.IntN(5) {
		row := []string{}
		for _, list := range cells {
			row = append(row, list[r.IntN(len(list))])
		}
		rows = append(rows, row[:len(row)-r.IntN(5)/4])
	}
	var b strings.Builder
	for _, row := range rows {
		for i, cell := range row {
			row[i] = quote(cell)
		}
		b.WriteString(strings.Join(row, separator) + "\n")
	}
	return b.String()
}

// What drawn registers are taken for: which column is what and how sure, and what each row would write.
func TestGoldenDrawnRegisters(t *testing.T) {
	t.Parallel()
	r := rand.New(rand.NewPCG(5, 6))
	fleet := []csvimport.Existing{existing(1, "Avocet", map[string]string{"supply.volts": "24", "nozzle.bore": "0.4",
		"mainboard.model": "Brace board"}, machine.Marked)}
	texts := []string{}
	for _, reg := range registers {
		texts = append(texts, reg.text)
	}
	for range 400 {
		texts = append(texts, drawTable(r))
	}
	var lines []goldentest.Line
	for i, text := range texts {
		lines = append(lines, goldentest.Line{Of: fmt.Sprintf("%03d", i), Says: understood(t, text, fleet)})
	}
	goldentest.Check(t, "drawn", lines)
}

func understood(t *testing.T, text string, fleet []csvimport.Existing) string {
	t.Helper()
	table, err := csvimport.ReadTable(t.Context(), []byte(text), 100, csvimport.Layout{})
	if err != nil {
		return "refused"
	}
	var b strings.Builder
	var mapping []string
	for _, m := range csvimport.Propose(table, voc, csvimport.Remembered{}) {
		mapping = append(mapping, m.Target)
		fmt.Fprintf(&b, "%s %v; ", m.Target, m.Sure)
	}
	meters := csvimport.ProposeMeters(table, voc)
	fmt.Fprintf(&b, "%d of meters", len(meters))
	d := csvimport.Decisions{Mapping: mapping}
	samples, asks, err := csvimport.Samples(table, d, voc)
	if err != nil {
		return b.String() + "refused"
	}
	for _, s := range samples {
		fmt.Fprintf(&b, "; column %d %s", s.Column, s.Decimal)
		for _, x := range s.Samples {
			fmt.Fprintf(&b, " %s:%v", x.Written, x.Fault)
		}
	}
	for _, a := range asks {
		fmt.Fprintf(&b, "; asks %s of %d", a.About, a.Column)
		if a.About == "dates" {
			d.DateOrder = "day first"
		}
	}
	p, err := csvimport.NewPlan(t.Context(), table, d, fleet, voc, now)
	if err != nil {
		return b.String() + "; refused"
	}
	for _, row := range p.Rows {
		fmt.Fprintf(&b, "; %d %s %s", row.Line, row.Name, row.Action)
		for _, c := range row.Changes {
			fmt.Fprintf(&b, " %s=%s→%s", c.Target, c.Before, c.After)
			if c.Remark != "" {
				b.WriteString("!")
			}
		}
		fmt.Fprintf(&b, " %d faults", len(row.Faults))
	}
	return strings.NewReplacer("\n", "⏎", "\r", "⏎").Replace(b.String())
}
