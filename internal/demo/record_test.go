package demo_test

import (
	"bytes"
	"encoding/json"
	"errors"
	"io"
	"slices"
	"strings"
	"testing"

	"wardifex/internal/app"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/recordfile"
	"wardifex/internal/demo"
	"wardifex/internal/postgres/pgtest"
	"wardifex/internal/store"
)

// The whole demo room goes out, into an empty database, and out again the same,
// byte for byte; brought in twice it is refused; cut short, nothing is written.
func TestTheRecordGoesOutAndBackIn(t *testing.T) {
	t.Parallel()
	ctx := t.Context()
	from, into := pgtest.Filled(t, demo.Seed), pgtest.Store(t)
	kind := machine.PartKind{
		Key:    "chamber",
		Label:  "Chamber",
		Traits: []machine.TraitDef{{Name: "model", Short: "model", Kind: machine.Text}},
	}
	must(t, does(from).SaveEntry(ctx, 0, machine.Catalogue{Kinds: []machine.PartKind{kind}}, "Ann", demo.Today))
	position := machine.Position{Key: "chamber", Label: "Chamber", Group: "Mods", Kind: "chamber"}
	must(t, does(from).SaveEntry(ctx, 0, machine.Catalogue{Slots: []machine.Position{position}}, "Ann", demo.Today))
	fleet, err := from.Fleet(ctx)
	must(t, err)
	read := machine.Reading{Grade: machine.Observed, TakenAt: demo.Today, By: "x"}
	_, err = does(from).AddReading(ctx, fleet[2].ID, "chamber.model", "Hood", read, demo.Today)
	must(t, err)
	must(t, does(from).MarkUnreadable(ctx, fleet[3].ID, "mainboard.processor", "ribbon", "worn off", "x", demo.Today))
	must(t, does(from).Retire(ctx, fleet[22].ID, "bent", "x", demo.Today))

	out := func(s *store.Store, ids ...int64) []byte {
		t.Helper()
		var text bytes.Buffer
		must(t, s.WriteRecordTo(ctx, &text, ids...))
		return text.Bytes()
	}
	text := out(from)
	f, err := recordfile.Read(text)
	must(t, err)
	// Piece by piece it is written as it would be at once.
	if whole, err := json.MarshalIndent(f, "", " "); err != nil || string(whole)+"\n" != string(text) {
		t.Errorf("the file is laid out otherwise: %v", err)
	}
	if len(f.Machines) != 24 || len(f.Questions) == 0 || !strings.Contains(string(text), `"jpeg": "/9j/`) {
		t.Fatalf("%d machines, %d questions", len(f.Machines), len(f.Questions))
	}
	p, err := does(into).PlanRecord(ctx, f, demo.Today)
	must(t, err)
	if len(p.Faults) != 0 || len(p.Machines) != 24 || len(p.Catalogue) != 2 || p.Photos == 0 {
		t.Fatalf("the plan: %d machines, %v, %d photos, faults %v", len(p.Machines), p.Catalogue, p.Photos, p.Faults)
	}
	_, err = does(into).ImportRecord(ctx, store.ImportFile{}, f, "Ann", demo.Today)
	must(t, err)
	if again := out(into); string(again) != string(text) {
		a, b := strings.Split(string(text), "\n"), strings.Split(string(again), "\n")
		for i := range a {
			if i >= len(b) || a[i] != b[i] {
				t.Fatalf("line %d: %q became %q (of %d and %d)", i, a[i], b[min(i, len(b)-1)], len(a), len(b))
			}
		}
		t.Fatal("the second file is longer")
	}
	fleet, err = from.Fleet(ctx)
	must(t, err)
	there, err := into.Fleet(ctx)
	must(t, err)
	if len(there) != len(fleet) {
		t.Fatalf("%d machines arrived of %d", len(there), len(fleet))
	}
	for i := range fleet {
		k := slices.IndexFunc(there, func(m store.Machine) bool { return m.Name == fleet[i].Name })
		if k < 0 {
			t.Errorf("%s did not arrive", fleet[i].Name)
		} else if differ := machine.Diff(fleet[i].Facts, there[k].Facts); len(differ) > 0 {
			t.Errorf("%s is another machine now: %v", fleet[i].Name, differ)
		}
	}
	_, err = does(into).ImportRecord(ctx, store.ImportFile{}, f, "Ann", demo.Today)
	refused(t, err, "there is a machine named Avocet already")

	// One machine alone, and a file that breaks off half-way in.
	one, err := recordfile.Read(out(from, fleet[1].ID))
	must(t, err)
	if len(one.Machines) != 1 || len(one.Questions) != 0 || len(one.Parts) >= len(f.Parts) {
		t.Errorf("one machine's record has %d machines and %d parts", len(one.Machines), len(one.Parts))
	}
	empty := pgtest.Store(t)
	one.Parts[0].Readings[0].Photos = []recordfile.Photo{{JPEG: []byte("no picture"), At: demo.Today, By: "x"}}
	_, err = does(empty).ImportRecord(ctx, store.ImportFile{}, one, "Ann", demo.Today)
	refused(t, err, "not a picture")
	if ms, _ := empty.Names(ctx); len(ms) != 0 {
		t.Error("half a record was written")
	}
	if _, ok := empty.Vocabulary(t.Context()).Position("chamber"); ok {
		t.Error("the catalogue of a refused record is in force")
	}
	if err := from.WriteRecordTo(ctx, io.Discard, 9999); err != store.ErrNotFound {
		t.Errorf("the record of no machine: %v", err)
	}
}

// must ends the test on an error.
func must(t *testing.T, err error) {
	t.Helper()
	if err != nil {
		t.Fatal(err)
	}
}

func refused(t *testing.T, err error, part string) {
	t.Helper()
	if r, ok := errors.AsType[*app.Refusal](err); !ok || !strings.Contains(r.Sentence, part) {
		t.Errorf("got %v; want a refusal with %q", err, part)
	}
}
