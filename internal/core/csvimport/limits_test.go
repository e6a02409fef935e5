package csvimport_test

import (
	"fmt"
	"strings"
	"testing"

	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/csvimport"
)

// Of a column's cells half must fit for a match at all, and nine tenths for a sure one.
func TestHowManyCellsMustFit(t *testing.T) {
	t.Parallel()
	for _, c := range []struct {
		fit     int // of 20 cells
		matched bool
		sure    bool
	}{{9, false, false}, {10, true, false}, {17, true, false}, {18, true, true}, {20, true, true}} {
		t.Run(fmt.Sprint(c.fit), func(t *testing.T) {
			t.Parallel()
			file := "Printer,Bed heater W\n"
			for i := range 20 {
				cell := "220"
				if i >= c.fit {
					cell = "blue, " + strings.Repeat("very ", i%3) + "much"
					cell = `"` + cell + `"`
				}
				file += fmt.Sprintf("P%02d,%s\n", i, cell)
			}
			table, err := csvimport.ReadTable(t.Context(), []byte(file), csvimport.MaxRows, csvimport.Layout{})
			if err != nil {
				t.Fatal(err)
			}
			m := csvimport.Propose(table, catalogue.Vocabulary(), nil)[1]
			if (m.Target == "bed-heater.watts") != c.matched || m.Target != "" && m.Sure != c.sure {
				t.Errorf("%d of 20 fit: %q, sure %v", c.fit, m.Target, m.Sure)
			}
		})
	}
}
