package inspection_test

import (
	"slices"
	"strings"
	"testing"

	"wardifex/internal/core/inspection"
)

// A bay is walked once along what can be seen from outside, machine by machine,
// and then one machine is opened and closed after the other.
func TestRound(t *testing.T) {
	type asked struct {
		machine string
		q       inspection.Question
	}
	var all []asked
	for _, name := range []string{"Avocet", "Bittern", "Curlew"} {
		for _, q := range inspection.Questions(facts(t, map[string]string{"firmware.family": "compiled"}),
			inspection.Needs, probeKit(t),
			never) {
			all = append(all, asked{name, q})
		}
	}
	slices.SortStableFunc(all, func(a, b asked) int { return inspection.Round(a.q, b.q) })
	var outside, opened []string
	for _, a := range all {
		list := &outside
		if a.q.Inspection.Depth > 0 {
			list = &opened
		} else if len(opened) > 0 {
			t.Fatalf("%s of %s is asked after a machine was opened", a.q.Label, a.machine)
		}
		if len(*list) == 0 || (*list)[len(*list)-1] != a.machine {
			*list = append(*list, a.machine)
		}
	}
	for what, got := range map[string][]string{"seen from outside": outside, "opened": opened} {
		if strings.Join(got, ",") != "Avocet,Bittern,Curlew" {
			t.Errorf("%s in the order %v", what, got)
		}
	}
}

// While a marking is typed it says what it means, and what it would contradict
// once decoded. Source of the pin and flash letters: the maker's ordering
// information in the processor family's datasheet.
func TestPeekAtAProcessor(t *testing.T) {
	cells := func(p inspection.Peek) string {
		var out []string
		for _, c := range p.Cells {
			out = append(out, c.Label+" "+c.Value)
		}
		return strings.Join(out, ", ")
	}
	p := inspection.PeekAt("mainboard.processor", "RCT6", facts(t, nil), nil)
	if got := cells(p); !strings.Contains(got, "pins 64") || !strings.Contains(got, "flash 256 KiB") || p.Problem != "" {
		t.Errorf("RCT6: %s, %q", got, p.Problem)
	}
	if p := inspection.PeekAt("mainboard.processor", "RC", facts(t, nil), nil); p.Problem != "" && len(p.Cells) == 0 {
		t.Errorf("half typed it says only what is wrong: %+v", p)
	}
	if p := inspection.PeekAt("mainboard.processor", "V0T6", facts(t, nil), nil); p.Problem == "" ||
		!slices.Contains(p.LookAlikes, "VDT6") {
		t.Errorf("a misread letter: %+v", p)
	}
	// 256 KiB are decoded; a build of 300 KiB cannot be in it.
	s := facts(t, map[string]string{"firmware.size": "300", "firmware.family": "compiled"})
	if p := inspection.PeekAt("mainboard.processor", "RCT6", s, nil); len(p.Contradicts) == 0 {
		t.Error("a chip smaller than the build in it is not doubted")
	}
	if p := inspection.PeekAt("mainboard.processor", "RET6", s, nil); len(p.Contradicts) != 0 {
		t.Errorf("a chip of 512 KiB is doubted: %+v", p.Contradicts)
	}
	// On an old board of 8 bits the letters mean something else.
	if p := inspection.PeekAt("mainboard.processor", "RCT6", facts(t, map[string]string{"mainboard.width": "8-bit"}),
		nil); len(
		p.Cells,
	) != 0 {
		t.Errorf("an 8-bit board: %s", cells(p))
	}
	if p := inspection.PeekAt("mainboard.processor", "  ", facts(t, nil), nil); len(p.Cells)+len(p.LookAlikes) != 0 ||
		p.Problem != "" {
		t.Errorf("nothing typed: %+v", p)
	}
	if p := inspection.PeekAt("ghost.trait", "x", facts(t, nil), nil); len(p.Cells) != 0 {
		t.Errorf("a trait that there is not: %+v", p)
	}
}

// What a driver's marking says of its model comes from the catalogue: the law of
// its current, its finest step, its usual sense resistor.
func TestPeekAtADriver(t *testing.T) {
	found := 0
	for _, m := range voc.Catalogue.Models {
		if m.Kind != "driver" || len(m.Markings) == 0 {
			continue
		}
		found++
		d := voc.DefaultsOf(m.Kind, m.Name)
		p := inspection.PeekAt("driver-x.marking", m.Markings[0], facts(t, nil), nil)
		said := map[string]string{}
		for _, c := range p.Cells {
			said[c.Label] = c.Value
		}
		if said["model"] != m.Name {
			t.Errorf("%s: %+v", m.Markings[0], p)
		}
		if law, ok := d["law"]; ok && (said["law"] != law.Text || said["current"] == "") {
			t.Errorf("%s: law %q, current %q", m.Name, said["law"], said["current"])
		}
	}
	if found == 0 {
		t.Error("no driver of the catalogue has a marking")
	}
	if p := inspection.PeekAt("driver-x.marking", "ZZ9QX", facts(t, nil), nil); !strings.Contains(p.Note,
		"add the model") {
		t.Errorf("a chip that nobody knows: %+v", p)
	}
}
