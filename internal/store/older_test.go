package store_test

import (
	"compress/gzip"
	"io"
	"os"
	"slices"
	"strings"
	"testing"

	"wardifex/internal/app"
	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/change"
	"wardifex/internal/core/csvimport"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/recordfile"
	"wardifex/internal/postgres/pgtest"
	"wardifex/internal/store"
)

// older reads a file that the version before positions were a machine's own
// wrote: the demo room with slots and kinds of the shop's own, and orders in
// every phase, with a skipped step and a Z-offset loop half done.
func older(t *testing.T, name string) []byte {
	t.Helper()
	f, err := os.Open("testdata/older/" + name)
	must(t, err)
	defer f.Close()
	z, err := gzip.NewReader(f)
	must(t, err)
	text, err := io.ReadAll(z)
	must(t, err)
	return text
}

func byName(t *testing.T, s *store.Store) map[string]store.Machine {
	t.Helper()
	fleet, err := s.Fleet(ctx)
	must(t, err)
	out := map[string]store.Machine{}
	for _, m := range fleet {
		out[m.Name] = m
	}
	return out
}

// A database of the older version is migrated with all that is in it.
func TestOlderDatabase(t *testing.T) {
	s := pgtest.Restored(t, older(t, "database.sql.gz"))
	fleet := byName(t, s)
	if len(fleet) != 24 {
		t.Fatalf("%d machines", len(fleet))
	}
	for _, tt := range []struct {
		machine string
		key     machine.Key
		want    string
	}{
		{"Plover", "heater-3.watts", "60"},
		{"Plover", "hotend-2.model", "Forge all-metal"},
		{"Osprey", "chamber-heater.watts", "100"},
		{"Osprey", "led-bar.watts", "12"},
		{"Whimbrel", "driver-z4.model", "Hush 9"},
		{"Whimbrel", "parts-bin.model", "bin of spare screws"},
	} {
		if got := fleet[tt.machine].Facts.Fact(tt.key).Value.Text; got != tt.want {
			t.Errorf("%s of %s is %q, was %q", tt.key, tt.machine, got, tt.want)
		}
	}
	checkOlderOrders(t, s)
	checkOlderPositions(t, s)
	// What was not placed is placed, and keeps its key.
	osprey := fleet["Osprey"].ID
	stove := *s.Vocabulary(ctx).At("chamber-heater")
	stove.Serves = machine.Enclosure
	must(
		t,
		does(s).ChangePosition(
			ctx,
			osprey,
			stove,
			app.ChangedStructure{Version: load(t, s, osprey).Structure, By: "x", At: now.AddDate(1, 0, 0)},
		),
	)
	after := load(t, s, osprey).Facts
	if p := s.Vocabulary(ctx).At("chamber-heater"); p.Serves != machine.Enclosure ||
		slices.Contains(after.Structure().NotPlaced(), p) ||
		after.Fact("chamber-heater.watts").Value.Text != "100" {
		t.Errorf("placed at the enclosure: %+v", p)
	}
	qs, err := s.Questions(ctx)
	must(t, err)
	if len(qs) != 4 {
		t.Errorf("%d saved questions, 4 were there", len(qs))
	}
}

// checkOlderOrders looks at every work order of the fixture: what was typed and
// skipped is there, and each can be opened.
func checkOlderOrders(t *testing.T, s *store.Store) {
	t.Helper()
	heads, err := s.Orders(ctx, store.Cut{})
	must(t, err)
	states, skipped, rounds := map[string]int{}, 0, 0
	for _, h := range heads.Rows {
		states[h.State]++
		o, err := does(s).Order(ctx, h.ID)
		must(t, err)
		for _, st := range o.StepList {
			if st.SkippedWhy != "" {
				skipped++
			}
			if o.State == "open" && st.Form == change.ZOffsetForm {
				rounds += len(st.Data.Rounds)
			}
		}
	}
	if states["open"] != 8 || states["planned"] != 1 || states["finished"] != 3 || states["abandoned"] != 1 {
		t.Errorf("orders by state: %v", states)
	}
	if skipped != 6 || rounds != 1 {
		t.Errorf("%d steps skipped, 6 were; %d rounds of the open Z-offset loop, 1 was", skipped, rounds)
	}
}

// A record file of the older version comes in whole.
func TestOlderRecord(t *testing.T) {
	s := pgtest.Store(t)
	f, err := recordfile.Read(older(t, "record.json.gz"))
	must(t, err)
	_, err = does(s).ImportRecord(ctx, store.ImportFile{}, f, "x", now.AddDate(1, 0, 0))
	must(t, err)
	fleet := byName(t, s)
	if len(fleet) != 24 {
		t.Fatalf("%d machines", len(fleet))
	}
	if got := fleet["Plover"].Facts.Fact("heater-3.watts").Value.Text; got != "60" {
		t.Errorf("the third heater of Plover has %q W, had 60", got)
	}
	checkOlderOrders(t, s)
	checkOlderPositions(t, s)
}

// checkOlderPositions looks at what became of the slots that the shop had made: those
// that the older rules could have known are at their places, the others are listed as
// not placed.
func checkOlderPositions(t *testing.T, s *store.Store) {
	t.Helper()
	fleet := byName(t, s)
	for _, tt := range []struct {
		machine, key, kind string
		serves             machine.Place
		ordinal            int
	}{
		{"Plover", "heater-3", "heater", machine.Head(3), 1},
		{"Plover", "hotend-3", "hotend", machine.Head(3), 1},
		{"Plover", "hotend-2", "hotend", machine.Head(2), 1},
		{"Whimbrel", "driver-z4", "driver", machine.Axis("z"), 4},
		{"Whimbrel", "parts-bin", "mod", machine.NoPlace, 1},
		{"Osprey", "chamber-heater", "enclosure-heater", machine.NoPlace, 1},
		{"Osprey", "led-bar", "led-bar", machine.NoPlace, 1},
	} {
		st := fleet[tt.machine].Facts.Structure()
		p := s.Vocabulary(ctx).At(tt.key)
		if p == nil || !st.Has(p) || p.Kind != tt.kind || p.Serves != tt.serves || p.Ordinal() != tt.ordinal {
			t.Errorf("%s of %s: %+v", tt.key, tt.machine, p)
			continue
		}
		if listed := slices.Contains(st.NotPlaced(), p); listed != (tt.serves == machine.NoPlace) {
			t.Errorf("%s of %s among those not placed: %t", tt.key, tt.machine, listed)
		}
	}
	sheets, err := s.WireSheets(ctx, fleet["Osprey"].ID)
	must(t, err)
	var heads []string
	for _, w := range sheets {
		heads = append(heads, w.Head)
	}
	if strings.Join(heads, "; ") != "head 2; the left one" {
		t.Errorf("wire sheets of %q", heads)
	}
}

// The change plate that an order of the older version fitted took its part of the print
// area; taken out, the old width and height are back.
func TestOlderTakingsEnd(t *testing.T) {
	s := pgtest.Restored(t, older(t, "database.sql.gz"))
	area := func(want string) {
		t.Helper()
		facts := byName(t, s)["Nightjar"].Facts
		if got := facts.Fact("frame.x").Value.Text + " × " + facts.Fact("frame.z").Value.Text; got != want {
			t.Errorf("print width × height of Nightjar: %s, want %s", got, want)
		}
	}
	area("215 × 245") // 255 − 40 and 250 − 5 mm
	id := byName(t, s)["Nightjar"].ID
	parts, err := s.FittedParts(ctx, id)
	must(t, err)
	must(
		t,
		does(s).MovePart(
			ctx,
			parts["tool-plate"],
			change.Move{From: change.Origin{MachineID: id, Slot: "tool-plate"}, To: "shelf", Shelf: "A", Why: "not needed"},
			"x",
			now.AddDate(1, 0, 0),
		),
	)
	area("255 × 250")
}

// The register that the older version wrote comes in.
func TestOlderRegister(t *testing.T) {
	s := pgtest.Store(t)
	f, err := catalogue.ReadFile(older(t, "catalogue.json.gz"))
	must(t, err)
	_, err = does(s).ImportCatalogue(ctx, store.ImportFile{}, f, "x", now)
	must(t, err)
	text, err := os.ReadFile("testdata/older/register.csv")
	must(t, err)
	tb, err := csvimport.ReadTable(t.Context(), text, csvimport.MaxRows, csvimport.Layout{})
	must(t, err)
	var mapping []string
	for _, m := range csvimport.Propose(tb, s.Vocabulary(ctx), nil) {
		if m.Target == "" {
			t.Errorf("the heading %q is not known any more", m.Heading)
		}
		mapping = append(mapping, m.Target)
	}
	p, err := does(s).PlanRegister(ctx, tb, csvimport.Decisions{Mapping: mapping}, now)
	must(t, err)
	_, err = does(s).ImportRegister(ctx, store.ImportFile{}, tb, csvimport.Decisions{Mapping: mapping}, p.Fingerprint,
		"x", now)
	must(t, err)
	fleet := byName(t, s)
	if got := fleet["Plover"].Facts.Fact("heater-3.watts").Value.Text; len(fleet) != 24 || got != "60" {
		t.Errorf("%d machines came in; the third heater of Plover has %q W", len(fleet), got)
	}
}

// A catalogue file of the older version comes in, with the shop's own kinds.
func TestOlderCatalogue(t *testing.T) {
	s := pgtest.Store(t)
	f, err := catalogue.ReadFile(older(t, "catalogue.json.gz"))
	must(t, err)
	_, err = does(s).ImportCatalogue(ctx, store.ImportFile{}, f, "x", now)
	must(t, err)
	if _, ok := s.Vocabulary(ctx).Trait("heater-3.watts"); !ok {
		t.Error("the shop's third heater did not come in")
	}
	if _, err := does(s).Judge(ctx, "netloft-led"); err != nil {
		t.Errorf("the shop's own kit: %v", err)
	}
}
