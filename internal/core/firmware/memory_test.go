package firmware_test

import (
	"cmp"
	"slices"
	"strings"
	"testing"

	"wardifex/internal/core/firmware"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/machine/machinetest"
	"wardifex/internal/core/parts"
)

// The smallest set of features to drop. Source: common practice for the probe
// (5 KiB) and the mesh (43 KiB); the other sizes are from memory.
func TestDropFeatures(t *testing.T) {
	names := func(need float64, in ...string) string {
		var out []string
		var there []machine.Feature
		for _, name := range in {
			f, ok := voc.Feature("firmware", name)
			if !ok {
				t.Fatal(name)
			}
			there = append(there, f)
		}
		for _, f := range firmware.DropFeatures(need, there) {
			out = append(out, f.Name)
		}
		return strings.Join(out, "+")
	}
	for _, tt := range []struct {
		need float64
		in   []string
		want string
	}{
		{4, []string{"arc moves", "input shaping", "full mesh levelling"}, "arc moves"},
		{7, []string{"arc moves", "input shaping", "filament change"}, "arc moves+filament change"}, // 7 KiB, just enough,
		{30, []string{"arc moves", "full mesh levelling", "graphic display"}, "full mesh levelling"},
		{60, []string{"arc moves", "full mesh levelling"}, ""},
	} {
		got := names(tt.need, tt.in...)
		a, b := strings.Split(got, "+"), strings.Split(tt.want, "+")
		slices.Sort(a)
		slices.Sort(b)
		if !slices.Equal(a, b) {
			t.Errorf("%g KiB from %v: %q, want %q", tt.need, tt.in, got, tt.want)
		}
	}
}

// A 256 KiB board with an 8 KiB bootloader, of which a mesh takes 43 and a contact probe 5. Source:
// the 256 KiB from the processor's datasheet, the other numbers common practice.
func TestMemory(t *testing.T) {
	s := facts(map[string]string{"mainboard.flash": "256", "mainboard.bootloader": "yes", "mainboard.bootloader-size": "8",
		"probe.model": "Lodestar", "probe.senses": "surface, by touch"})
	b := firmware.Build{Name: "B", Family: "compiled", KiB: 240, Features: map[string]string{"full mesh levelling": "yes",
		"contact probe": "yes", "arc moves": "yes", "input shaping": "no"}}
	m := firmware.FlashUseOf(s, b)
	sum := m.Free
	for _, share := range m.Shares {
		sum += share.KiB
	}
	if !m.Known || m.Free != 8 || sum != 256 || m.Bootloader != 8 {
		t.Errorf("%+v", m)
	}
	for _, tt := range []struct {
		want     string
		free     float64
		smallest string
		loader   bool
	}{
		{"contact probe", 8, "", false},                        // it is in already
		{"arc moves", 8, "", false},                            //
		{"filament change", 5, "", false},                      // 3 KiB, which fit
		{"graphic display", -16, "full mesh levelling", false}, // 24 KiB, of which 16 are short: the mesh frees them
	} {
		w := m.Want(s, b, []string{tt.want})
		if w.Free != tt.free || strings.Join(w.Smallest, "+") != tt.smallest || w.Bootloader != tt.loader {
			t.Errorf("%s: %+v", tt.want, w)
		}
	}
	if m := firmware.FlashUseOf(facts(nil), b); m.Known || len(m.Missing) == 0 {
		t.Errorf("of a board of which nothing is known: %+v", m)
	}
	none := firmware.FlashUseOf(facts(map[string]string{"mainboard.flash": "256", "mainboard.bootloader": "no/proven"}), b)
	if none.Free != 16 || none.WithoutIt != "" {
		t.Errorf("without a bootloader: %+v", none)
	}
}

// What nothing on the machine needs goes first, whatever it takes.
func TestCheapestFirst(t *testing.T) {
	b := firmware.Build{Name: "B", Family: "compiled", KiB: 250, Features: map[string]string{"contact probe": "yes",
		"arc moves": "yes"}}
	s := facts(map[string]string{"mainboard.flash": "256", "mainboard.bootloader": "no/proven", "probe.model": "Lodestar"})
	w := firmware.FlashUseOf(s, b).Want(s, b, []string{"filament change", "input shaping"})
	if len(w.Drop) != 2 || w.Drop[0].Feature != "arc moves" || w.Drop[0].Used != "" || w.Drop[1].Used != "Probe" {
		t.Errorf("%+v", w.Drop)
	}
}

// Of what nothing needs, what suffices alone comes first, the smallest of it at the head; then the rest, the largest
// first.
func TestOrderOfWhatIsDropped(t *testing.T) {
	features := map[string]string{}
	for _, f := range voc.Features(parts.Firmware) {
		features[f.Name] = "yes"
	}
	delete(features, "filament change")
	b := firmware.Build{Name: "B", Family: "compiled", KiB: 253, Features: features}
	s := facts(map[string]string{"mainboard.flash": "256", "mainboard.bootloader": "no/proven", "probe.model": "Lodestar"})
	for _, kib := range []float64{256, 259, 261} {
		b.KiB = kib
		drop := firmware.FlashUseOf(s, b).Want(s, b, []string{"filament change"}).Drop
		rank := func(d firmware.Drop) (used, part int, kib float64) {
			if d.Used != "" {
				used = 1
			}
			if !d.Alone {
				return used, 1, -d.KiB
			}
			return used, 0, d.KiB
		}
		for i := 1; i < len(drop); i++ {
			u, p, k := rank(drop[i-1])
			v, q, l := rank(drop[i])
			if cmp.Or(cmp.Compare(u, v), cmp.Compare(p, q), cmp.Compare(k, l)) > 0 {
				t.Errorf("%g KiB: %+v stands before %+v", kib, drop[i-1], drop[i])
			}
		}
		if all := slices.ContainsFunc(drop, func(d firmware.Drop) bool { return !d.Alone }); !drop[0].Alone || !all {
			t.Errorf("%g KiB: nothing to order in %+v", kib, drop)
		}
	}
}

func facts(known map[string]string) machine.Snapshot { return machinetest.Facts(voc, known) }
