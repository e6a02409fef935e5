package machine_test

import (
	"testing"
	"testing/quick"
	"time"

	"wardifex/internal/core/machine"
)

func boardReading(id int64, trait, text string, g machine.Grade, d int) machine.Reading {
	v := machine.Value{Text: text}
	if trait == "flash" {
		v, _ = (&machine.Trait{TraitDef: flashDef}).Parse(text)
	}
	return machine.Reading{ID: id, Key: machine.KeyOf("board", trait), Value: v, Grade: g, TakenAt: day(d), By: "x"}
}

// A board was claimed to be one thing on day 2, read as another on day 5, that
// reading taken back on day 8; on day 10 another board came in.
func fixture(t *testing.T) machine.History {
	t.Helper()
	mistaken := boardReading(2, "flash", "512", machine.Observed, 5)
	mistaken.Superseded, mistaken.SupersededAt = "taken back", day(8)
	return machine.NewHistory(vocabulary(t, small()), []machine.Tenure{
		{
			Slot:     "board",
			Part:     2,
			From:     day(10),
			Readings: []machine.Reading{boardReading(4, "model", "Brace 4", machine.Observed, 10)},
		},
		{
			Slot: "board",
			Part: 1,
			From: day(1),
			To:   day(10),
			Readings: []machine.Reading{
				boardReading(1, "flash", "256", machine.Claimed, 2),
				mistaken,
				boardReading(3, "model", "Sill", machine.Marked, 6),
			},
		},
	})
}

func TestHistoryAt(t *testing.T) {
	h := fixture(t)
	for _, tt := range []struct {
		day   int
		flash string
		grade machine.Grade
		model string
	}{
		{1, "", machine.Unknown, ""},
		{3, "256", machine.Claimed, ""},
		{5, "512", machine.Observed, ""},
		{7, "512", machine.Observed, "Sill"}, // taken back later: then it still counted
		{9, "256", machine.Claimed, "Sill"},
		{10, "256", machine.Claimed, "Brace 4"}, // the model's default
	} {
		s := h.At(day(tt.day))
		if f := s.Fact("board.flash"); f.Value.Text != tt.flash || f.Grade != tt.grade || s.Model("board") != tt.model {
			t.Errorf(
				"day %d: flash %q %s in %q, want %q %s in %q",
				tt.day,
				f.Value.Text,
				f.Grade,
				s.Model("board"),
				tt.flash,
				tt.grade,
				tt.model,
			)
		}
	}
}

func TestDuring(t *testing.T) {
	h := fixture(t)
	var got []string
	for _, held := range h.During("board.flash", day(4), day(9)) {
		got = append(got, held.Fact.Value.Text+" from "+held.From.Format("2"))
	}
	want := []string{"256 from 4", "512 from 5", "256 from 8"}
	if len(got) != 3 || got[0] != want[0] || got[1] != want[1] || got[2] != want[2] {
		t.Errorf("got %v, want %v", got, want)
	}
	if h.During("board.ghost", day(1), day(2)) != nil {
		t.Error("a trait that there is not has stood at something")
	}
}

func TestDiff(t *testing.T) {
	h := fixture(t)
	ds := machine.Diff(h.At(day(3)), h.At(day(10)))
	if len(ds) != 1 || ds[0].Trait.Key() != "board.model" || ds[0].Value {
		t.Errorf("day 3 to 10: %+v", ds) // flash 256 claimed on both, from elsewhere
	}
	ds = machine.Diff(h.At(day(7)), h.At(day(9)))
	if len(ds) != 1 || !ds[0].Value || ds[0].A.Value.Text != "512" || ds[0].B.Value.Text != "256" {
		t.Errorf("day 7 to 9: %+v", ds)
	}
	// What nobody knows on one side is no other value; two readings against each other are, though both sides have them.
	voc := vocabulary(t, small())
	at := func(readings ...machine.Reading) machine.Snapshot {
		return machine.NewSnapshot(voc, machine.Record{Readings: readings})
	}
	small := boardReading(1, "flash", "256", machine.Observed, 1)
	large := boardReading(2, "flash", "512", machine.Observed, 1)
	for _, tt := range []struct {
		what  string
		a, b  machine.Snapshot
		value bool
	}{
		{"one side unknown", at(), at(small), false},
		{"one side in conflict", at(small), at(small, large), true},
		{"the other side in conflict", at(small, large), at(small), true},
	} {
		if ds := machine.Diff(tt.a, tt.b); len(ds) != 1 || ds[0].Value != tt.value {
			t.Errorf("%s: %+v", tt.what, ds)
		}
	}
}

// Whatever the history: a moment is the same as taking the readings and parts
// of that moment plainly; what comes later changes nothing before; and a value
// found by During is the one that At finds.
func TestAsOfProperties(t *testing.T) {
	voc := vocabulary(t, small())
	check := func(events []uint16, at uint8) bool {
		when := day(1 + int(at%28))
		var tenures, past []machine.Tenure
		add := func(ts *[]machine.Tenure, tn machine.Tenure) { *ts = append(*ts, tn) }
		from := 1
		for i := 0; i < len(events); i += 3 {
			to := from + 1 + int(events[i]%9)
			tn := machine.Tenure{Slot: "board", Part: int64(i + 1), From: day(from), To: day(to)}
			for k := i; k < min(i+3, len(events)); k++ {
				r := boardReading(
					int64(k+1),
					"flash",
					[]string{"64", "128", "256"}[events[k]%3],
					machine.Grade(1+events[k]/3%4),
					from+int(events[k]/16%12),
				)
				if events[k]%7 == 0 {
					r.Superseded, r.SupersededAt = "taken back", r.TakenAt.AddDate(0, 0, int(events[k]/64%6))
				}
				tn.Readings = append(tn.Readings, r)
			}
			add(&tenures, tn)
			if !tn.From.After(when) {
				old := tn
				old.Readings = nil
				for _, r := range tn.Readings {
					if !r.TakenAt.After(when) {
						old.Readings = append(old.Readings, r)
					}
				}
				add(&past, old)
			}
			from = to
		}
		a := machine.NewHistory(voc, tenures)
		if len(machine.Diff(a.At(when), machine.NewHistory(voc, past).At(when))) != 0 {
			return false
		}
		end := when.Add(96 * time.Hour)
		for _, held := range a.During("board.flash", when, end) {
			f := a.At(held.From).Fact("board.flash")
			if f.Value != held.Fact.Value || f.Grade != held.Fact.Grade {
				return false
			}
		}
		return true
	}
	if err := quick.Check(check, &quick.Config{MaxCount: 400}); err != nil {
		t.Error(err)
	}
}
