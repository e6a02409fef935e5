package store_test

import (
	"encoding/json"
	"strings"
	"testing"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/recordfile"
	"wardifex/internal/postgres/pgtest"
	"wardifex/internal/store"
)

// sheetsBefore are the sheets of the machines as the version showed them that kept builds
// as parts and calibrations of machines as a whole: every fact as "value/grade", of each
// calibration its state, value and reason, and how many builds were taken out.
func sheetsBefore(t *testing.T) map[string]struct {
	Facts        map[machine.Key]string
	Calibrations map[calibration.Kind][3]string
	Ran          int
} {
	t.Helper()
	var out map[string]struct {
		Facts        map[machine.Key]string
		Calibrations map[calibration.Kind][3]string
		Ran          int
	}
	must(t, json.Unmarshal(older(t, "../before/sheets.json.gz"), &out))
	return out
}

// What that version wrote comes along: every fact with its grade, every build that ran,
// and every calibration as it stood, for each of its subjects.
func TestBuildsWereParts(t *testing.T) {
	for name, come := range map[string]func(*testing.T) *store.Store{
		"database": func(t *testing.T) *store.Store { return pgtest.Restored(t, older(t, "../before/database.sql.gz")) },
		"record": func(t *testing.T) *store.Store {
			s := pgtest.Store(t)
			f, err := recordfile.Read(older(t, "../before/record.json.gz"))
			must(t, err)
			_, err = does(s).ImportRecord(ctx, store.ImportFile{}, f, "x", now.AddDate(1, 0, 0))
			must(t, err)
			return s
		},
	} {
		t.Run(name, func(t *testing.T) {
			s := come(t)
			fleet := byName(t, s)
			for name, was := range sheetsBefore(t) {
				m := fleet[name]
				for key, want := range was.Facts {
					f := m.Facts.Fact(key)
					got := "in conflict"
					if len(f.Conflict) == 0 {
						got = f.Trait.Show(f.Value)
					}
					slash := strings.LastIndex(want, "/")
					grade, err := machine.ParseGrade(want[slash+1:]) // as earlier versions wrote it
					if f.Stands != nil && f.Stands.AsFitted {        // it was written down as observed, and nobody had looked
						grade = machine.StatedGrade(f.Trait.Name, f.Value.Text)
					}
					if err != nil || got != want[:slash] || f.Grade != grade {
						t.Errorf("%s, %s: %s/%s, was %s", name, key, got, f.Grade, want)
					}
				}
				if list := ranOn(t, s, m.ID); len(list) != 0 && len(list) != was.Ran+1 || was.Ran > 0 && list[0].To != nil {
					t.Errorf("%s: %d runs, %d builds were taken out: %+v", name, len(list), was.Ran, list)
				}
				for kind, want := range was.Calibrations {
					stands(t, m, kind, want)
				}
			}
			qs, err := s.Questions(ctx)
			must(t, err)
			if name == "database" && len(qs) == 0 {
				t.Error("no saved question came along")
			}
		})
	}
}

// stands looks at a calibration as it was: valid ones are for every subject that the
// machine has, void ones invalid for each with the same reason.
func stands(t *testing.T, m store.Machine, kind calibration.Kind, was [3]string) {
	t.Helper()
	word := map[string]calibration.StateWord{"holds": calibration.Valid, "void": calibration.NotValid,
		"failed": calibration.Failed, "never": calibration.NeverMade}[was[0]]
	c, _ := calibration.Of(kind)
	subjects := c.Subjects(m.Facts)
	for _, x := range subjects {
		st := calibration.StateOf(m.Facts, m.Records, c, x)
		if st.Word != word || st.Record != nil && st.Record.Value != was[1] ||
			st.Invalid != nil && st.Invalid.Reason != was[2] {
			t.Errorf("%s: %s of %q is %s %+v, was %v", m.Name, kind, x, st.Word, st.Invalid, was)
		}
	}
	if len(subjects) == 0 && was[0] != "never" && !strings.Contains("nozzle-to-nozzle probe-offset mesh", string(kind)) {
		t.Errorf("%s: %s has no subject any more, was %v", m.Name, kind, was)
	}
}

func ranOn(t *testing.T, s *store.Store, id int64) []store.RunOnRecord {
	t.Helper()
	list, err := s.Runs(ctx, id, 0)
	must(t, err)
	return list
}
