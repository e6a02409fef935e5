package store_test

import (
	"context"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"gorm.io/driver/postgres"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"

	"wardifex/internal/app"
	"wardifex/internal/core/bench"
	"wardifex/internal/core/calibration"
	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/change"
	"wardifex/internal/core/change/changetest"
	"wardifex/internal/core/csvimport"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/maintenance"
	"wardifex/internal/postgres/pgtest"
	"wardifex/internal/store"
)

func TestMain(m *testing.M) { pgtest.Main(m) }

var (
	ctx = context.Background()
	now = time.Date(2026, 5, 1, 12, 0, 0, 0, time.UTC)
)

func must(t *testing.T, err error) {
	t.Helper()
	if err != nil {
		t.Fatal(err)
	}
}

// refused checks that a write was refused with a sentence that has the part.
func refused(t *testing.T, err error, part string) {
	t.Helper()
	var r *store.Refusal
	if !errors.As(err, &r) || !strings.Contains(r.Sentence, part) {
		t.Errorf("got %v; want a refusal with %q", err, part)
	}
}

func add(t *testing.T, s *store.Store, name string, read map[string]string) int64 {
	t.Helper()
	id, err := s.AddMachine(ctx, store.Fields{Name: name, Bay: "Quay"}, store.Like{}, "x", now)
	must(t, err)
	for k, v := range read {
		must(t, reads(s, id, machine.Key(k), v, machine.Reading{Grade: machine.Read, TakenAt: now, By: "x"}, now))
	}
	return id
}

func reads(s *store.Store, id int64, key machine.Key, text string, r machine.Reading, now time.Time) error {
	_, err := s.AddReading(ctx, id, key, text, r, now)
	return err
}

func load(t *testing.T, s *store.Store, id int64) store.Machine {
	t.Helper()
	m, err := s.Machine(ctx, id)
	must(t, err)
	return m
}

func TestMigrateFromSeveralInstancesAtOnce(t *testing.T) {
	dsn := pgtest.Database(t)
	var wait sync.WaitGroup
	errs := make(chan error, 4)
	for range 4 {
		wait.Go(func() {
			s, err := store.Open(dsn)
			if err == nil {
				defer s.Close()
				err = s.Migrate(ctx)
			}
			errs <- err
		})
	}
	wait.Wait()
	for range 4 {
		must(t, <-errs)
	}
}

func TestReadings(t *testing.T) {
	s := pgtest.Store(t)
	id := add(t, s, "Avocet", nil)
	read := func(key, value string, g machine.Grade) error {
		return reads(s, id, machine.Key(key), value, machine.Reading{Grade: g, TakenAt: now, By: "x", How: "looked"}, now)
	}
	must(t, read("mainboard.flash", "256 KB", machine.Claimed))
	must(t, read("mainboard.processor", "xx RET6", machine.Read))
	if f := load(t, s, id).Facts.Fact("mainboard.flash"); f.Value.Text != "512" || f.Grade != machine.Read ||
		len(f.Contradicted()) != 1 ||
		!strings.Contains(f.Stands.How, "decoded") {
		t.Errorf("a marking brings its flash with it, above the claim: %+v", f)
	}
	refused(t, read("mainboard.processor", "R0T6", machine.Read), "RDT6")
	refused(t, read("mainboard.processor", "RE", machine.Read), "too short")
	old := add(t, s, "Old", map[string]string{"mainboard.width": "8-bit"})
	must(
		t,
		reads(s, old, "mainboard.processor", "EIGHT 16AU", machine.Reading{Grade: machine.Read, TakenAt: now, By: "x"}, now),
	)
	if f := load(t, s, old).Facts.Fact("mainboard.processor"); f.Value.Text != "EIGHT 16AU" {
		t.Errorf("an 8-bit processor's marking is kept as it stands: %+v", f)
	}
	refused(t, read("mainboard.wings", "2", machine.Read), "no trait")
	refused(t, read("supply.volts", "24 W", machine.Read), "recorded in V")
	refused(
		t,
		reads(s, id, "supply.volts", "24", machine.Reading{Grade: machine.Read, TakenAt: now.Add(time.Hour), By: "x"}, now),
		"still to come",
	)
	must(t, read("mainboard.chip-maker", "first source", machine.Read))
	must(t, read("mainboard.chip-maker", "pin-compatible twin", machine.Read))
	f := load(t, s, id).Facts.Fact("mainboard.chip-maker")
	if len(f.Conflict) != 2 {
		t.Fatalf("equal readings that differ are a conflict: %+v", f)
	}
	refused(t, does(s).Settle(ctx, id, "mainboard.chip-maker", f.Conflict[0].ID, "", "x", now), "reason")
	must(t, does(s).Settle(ctx, id, "mainboard.chip-maker", f.Conflict[1].ID, "looked again with a lens", "x", now))
	var conflict *store.Conflict
	if err := does(s).Settle(ctx, id, "mainboard.chip-maker", f.Conflict[0].ID, "no, the other", "y", now); !errors.As(
		err,
		&conflict,
	) {
		t.Errorf("settled twice: %v", err)
	}
	m := load(t, s, id)
	if f = m.Facts.Fact("mainboard.chip-maker"); f.Value.Text != "first source" {
		t.Errorf("after settling: %+v", f)
	}
	must(t, s.TakeBack(ctx, f.Stands.ID, "was the wrong machine", "x", now))
	if err := s.TakeBack(ctx, f.Stands.ID, "again", "x", now); !errors.As(err, &conflict) {
		t.Errorf("taken back twice: %v", err)
	}
	after := load(t, s, id)
	if after.Facts.Fact("mainboard.chip-maker").Known() || len(after.Readings) != len(m.Readings) {
		t.Error("a reading taken back does not count and stays on record")
	}
}

func TestTwoPeopleEditOneMachine(t *testing.T) {
	s := pgtest.Store(t)
	id := add(t, s, "Avocet", nil)
	add(t, s, "Bittern", nil)
	must(t, s.ChangeMachine(ctx, id, 1, store.Fields{Name: "Avocet", Bay: "Loft"}, "Ann", now))
	err := s.ChangeMachine(ctx, id, 1, store.Fields{Name: "Avocet", Bay: "Slip"}, "Bo", now)
	var conflict *store.Conflict
	if !errors.As(err, &conflict) || !strings.Contains(conflict.Sentence, "Ann") {
		t.Fatalf("the second editor is not told: %v", err)
	}
	if e := conflict.Current.(store.Edited); e.Version != 2 || e.Fields.Bay != "Loft" {
		t.Errorf("what it is now: %+v", e)
	}
	if m := load(t, s, id); m.Bay != "Loft" {
		t.Errorf("overwritten with %s", m.Bay)
	}
	refused(t, s.ChangeMachine(ctx, id, 2, store.Fields{Name: "bittern"}, "Bo", now), "already")
	refused(t, s.ChangeMachine(ctx, id, 2, store.Fields{Name: "=1"}, "Bo", now), "formula")
	// Many at once: one wins, nobody is overwritten.
	var wait sync.WaitGroup
	won := make(chan error, 8)
	for i := range 8 {
		wait.Go(func() {
			won <- s.ChangeMachine(ctx, id, 2, store.Fields{Name: "Avocet", Bay: fmt.Sprint(i)}, "n", now)
		})
	}
	wait.Wait()
	wins := 0
	for range 8 {
		if <-won == nil {
			wins++
		}
	}
	if wins != 1 || load(t, s, id).Version != 3 {
		t.Errorf("%d of 8 editors won", wins)
	}
}

func TestRetire(t *testing.T) {
	s := pgtest.Store(t)
	id := add(t, s, "Avocet", nil)
	must(t, s.Retire(ctx, id, "frame bent", "x", now))
	if fleet, err := s.Fleet(ctx); err != nil || len(fleet) != 0 {
		t.Errorf("a retired machine is still in the fleet: %v", err)
	}
	refused(t, does(s).MarkDone(ctx, id, maintenance.Completion{Task: "belts", At: now}, "", "x", now), "retired")
	must(t, s.Retire(ctx, id, "", "x", now))
	if fleet, _ := s.Fleet(ctx); len(fleet) != 1 {
		t.Error("it cannot be brought back")
	}
}

func table(t *testing.T, text string) (csvimport.Table, []string) {
	t.Helper()
	tb, err := csvimport.ReadTable([]byte(text), csvimport.MaxRows, csvimport.Layout{})
	must(t, err)
	var mapping []string
	for _, m := range csvimport.Propose(tb, catalogue.Vocabulary(), nil) {
		mapping = append(mapping, m.Target)
	}
	return tb, mapping
}

func TestBringIn(t *testing.T) {
	s := pgtest.Store(t)
	add(t, s, "Avocet", map[string]string{"mainboard.flash": "512"})
	tb, mapping := table(t, "name,bay,flash,board\nAvocet,Loft,256,Brace\nCurlew,Slip,512,Sill\nDunlin,Slip,,\n")
	p, err := s.PlanRegister(ctx, tb, csvimport.Decisions{Mapping: mapping}, now)
	must(t, err)
	if fleet, _ := s.Fleet(ctx); len(fleet) != 1 || p.Created != 2 || p.Changed != 1 {
		t.Fatalf("the preview wrote, or is wrong: %+v", p)
	}
	var conflict *store.Conflict
	if _, err := s.ImportRegister(ctx, store.ImportFile{}, tb, csvimport.Decisions{Mapping: mapping}, "another", "x",
		now); !errors.As(
		err,
		&conflict,
	) {
		t.Errorf("brought in what was not previewed: %v", err)
	}
	_, err = s.ImportRegister(ctx, store.ImportFile{}, tb, csvimport.Decisions{Mapping: mapping}, p.Fingerprint, "x", now)
	must(t, err)
	fleet, err := s.Fleet(ctx)
	must(t, err)
	if len(fleet) != 3 || fleet[0].Bay != "Loft" {
		t.Fatalf("fleet %+v", fleet)
	}
	if f := fleet[0].Facts.Fact("mainboard.flash"); f.Value.Text != "512" || len(f.Contradicted()) != 1 {
		t.Errorf("the claim stands above what was read: %+v", f)
	}
	if f := fleet[1].Facts.Fact("mainboard.flash"); f.Value.Text != "512" || f.Grade != machine.Claimed {
		t.Errorf("brought in as %+v, want claimed", f)
	}
	// The same file twice changes nothing.
	again, err := s.PlanRegister(ctx, tb, csvimport.Decisions{Mapping: mapping}, now)
	must(t, err)
	if again.Same != 3 {
		t.Errorf("the same file again: %+v", again)
	}
	// Out and in again changes nothing either.
	out, err := s.RegisterCSV(ctx)
	must(t, err)
	tb, mapping = table(t, string(out))
	if again, err = s.PlanRegister(ctx, tb, csvimport.Decisions{Mapping: mapping}, now); err != nil || again.Same != 3 {
		t.Errorf("the register's own export: %+v, %v\n%s", again, err, out)
	}
}

// What a register says of machines that are there changes just that, over the version
// that was previewed.
func TestImportChangesMachines(t *testing.T) {
	s := pgtest.Store(t)
	id := add(t, s, "Avocet", nil)
	must(t, s.ChangeMachine(ctx, id, 1, store.Fields{Name: "Avocet", Bay: "Quay", Note: "lid cracked"}, "x", now))
	tb, mapping := table(
		t,
		"printer;bought on;price;print hours;heater 3 watts;supplier\nAvocet;3 Feb 2025;€ 249,50;120;60;Harbour\n",
	)
	mapping[4] = "" // there is no third heater yet
	d := csvimport.Decisions{Mapping: mapping}
	p, err := s.PlanRegister(ctx, tb, d, now)
	must(t, err)
	_, err = s.ImportRegister(ctx, store.ImportFile{}, tb, d, p.Fingerprint, "Ann", now)
	must(t, err)
	m := load(t, s, id)
	if m.BoughtOn != "2025-02-03" || m.Price == nil || *m.Price != 249.5 || m.Supplier != "Harbour" || m.Bay != "Quay" ||
		m.Note != "lid cracked" ||
		m.Version != 3 ||
		m.ChangedBy != "Ann" {
		t.Errorf("changed to %+v, version %d", m.Fields, m.Version)
	}
	if len(m.Meters) != 1 || m.Meters[0].Hours != 120 || !m.Meters[0].At.Equal(now) {
		t.Errorf("meter %+v", m.Meters)
	}
	if again, err := s.PlanRegister(ctx, tb, d, now); err != nil || again.Same != 1 {
		t.Errorf("the same file again: %+v, %v", again, err)
	}
}

func TestBringInRefusesFaults(t *testing.T) {
	s := pgtest.Store(t)
	tb, mapping := table(t, "name,flash\nA,256\nB,lots\n")
	p, err := s.PlanRegister(ctx, tb, csvimport.Decisions{Mapping: mapping}, now)
	must(t, err)
	_, err = s.ImportRegister(ctx, store.ImportFile{}, tb, csvimport.Decisions{Mapping: mapping}, p.Fingerprint, "x", now)
	refused(t, err, "1 rows have faults")
	if fleet, _ := s.Fleet(ctx); len(fleet) != 0 {
		t.Error("something was written all the same")
	}
	p, err = s.PlanRegister(ctx, tb, csvimport.Decisions{Mapping: mapping, LeaveOut: []int{3}}, now)
	must(t, err)
	_, err = s.ImportRegister(
		ctx,
		store.ImportFile{},
		tb,
		csvimport.Decisions{Mapping: mapping, LeaveOut: []int{3}},
		p.Fingerprint,
		"x",
		now,
	)
	must(t, err)
	if fleet, _ := s.Fleet(ctx); len(fleet) != 1 {
		t.Errorf("left one row out, %d machines came in", len(fleet))
	}
}

// The server is killed during an import: all or nothing. The database breaks
// the connection off in the middle of the transaction, as it does when the
// client dies.
func TestImportCutOff(t *testing.T) {
	s := pgtest.Store(t)
	var b strings.Builder
	b.WriteString("name,flash,board,nozzle size,bay\n")
	for i := range 3000 {
		fmt.Fprintf(&b, "M%04d,256,Brace,0.4,Quay\n", i)
	}
	tb, mapping := table(t, b.String())
	p, err := s.PlanRegister(ctx, tb, csvimport.Decisions{Mapping: mapping}, now)
	must(t, err)
	done := make(chan error, 1)
	go func() {
		_, err := s.ImportRegister(
			ctx,
			store.ImportFile{},
			tb,
			csvimport.Decisions{Mapping: mapping},
			p.Fingerprint,
			"x",
			now,
		)
		done <- err
	}()
	cut := false
	for !cut {
		select {
		case err := <-done:
			t.Fatalf("the import ended before it was cut off: %v", err)
		default:
		}
		// Once readings are being written, the import is well under way.
		err := s.SQL.QueryRow(`select count(*) > 0 from (select pg_terminate_backend(pid) from pg_stat_activity
			where datname = current_database() and pid <> pg_backend_pid()
			and query ilike 'insert into readings%') x`).Scan(&cut)
		must(t, err)
	}
	if err := <-done; err == nil {
		t.Fatal("the import says it succeeded")
	}
	if fleet, err := s.Fleet(ctx); err != nil || len(fleet) != 0 {
		t.Errorf("%d machines are left behind, %v", len(fleet), err)
	}
	_, err = s.ImportRegister(ctx, store.ImportFile{}, tb, csvimport.Decisions{Mapping: mapping}, p.Fingerprint, "x", now)
	must(t, err)
	if fleet, _ := s.Fleet(ctx); len(fleet) != 3000 {
		t.Errorf("the second try brought %d in", len(fleet))
	}
}

// 5,000 machines of 30 columns: previewed in under 3 s, imported within 3 times of what
// plain inserts of the same rows take, while others go on writing.
func TestImportIsFast(t *testing.T) {
	if testing.Short() {
		t.Skip("takes a while")
	}
	s := pgtest.Store(t)
	other := add(t, s, "Heron", map[string]string{"mainboard.flash": "512"})
	columns := []string{
		"name",
		"bay",
		"maker",
		"serial",
		"note",
		"supplier",
		"bought",
		"mainboard.model",
		"mainboard.revision",
		"mainboard.processor",
		"mainboard.flash",
		"mainboard.bootloader",
		"driver-x.model",
		"driver-y.model",
		"driver-z.model",
		"driver-e.model",
		"display.model",
		"supply.volts",
		"supply.watts",
		"firmware.family",
		"firmware.version",
		"hotend.model",
		"heater.watts",
		"nozzle.bore",
		"nozzle.material",
		"extruder.model",
		"extruder.steps",
		"bed-heater.watts",
		"surface.model",
		"surface.thickness",
	}
	var b strings.Builder
	for i, c := range columns {
		b.WriteString(c + map[bool]string{true: "\n", false: ";"}[i == len(columns)-1])
	}
	for i := range 5000 {
		fmt.Fprintf(
			&b,
			"M%04d;Quay;Skerry Tern;%06d;;Harbour;2024-03-01;Brace board;4.2;RET6;512;yes;Hush 8;Hush 8;Hush 8;Hush "+
				"9;Four-line;24;350;compiled;2.0.8;Grouse;40;0,4;brass;Cleat;95,%d;220;Dune;0,9\n",
			i,
			i,
			i%10,
		)
	}
	text := []byte(b.String())
	began := time.Now()
	tb, err := csvimport.ReadTable(text, csvimport.MaxRows, csvimport.Layout{})
	must(t, err)
	d := csvimport.Decisions{Mapping: columns}
	for i, m := range csvimport.Propose(tb, s.Vocabulary(), nil) {
		if m.Target != columns[i] {
			t.Errorf("%q is matched to %q", m.Heading, m.Target)
		}
	}
	p, err := s.PlanRegister(ctx, tb, d, now)
	must(t, err)
	preview := time.Since(began)
	if p.Created != 5000 || p.Faulty > 0 || len(p.Questions) > 0 {
		t.Fatalf("%d new, %d faulty, %+v", p.Created, p.Faulty, p.Questions)
	}
	longest := make(chan time.Duration, 1)
	stop := make(chan struct{})
	go func() {
		var most time.Duration
		for n := 0; ; n++ {
			select {
			case <-stop:
				longest <- most
				return
			case <-time.After(50 * time.Millisecond): // as often as a busy shop writes, and more
			}
			at := time.Now()
			if _, err := s.AddReading(ctx, other, "supply.volts", fmt.Sprint(12+n%12),
				machine.Reading{Grade: machine.Claimed, TakenAt: now, By: "x", How: "x"}, now); err != nil {
				t.Errorf("another writer: %v", err)
			}
			if _, err := s.AddMachine(ctx, store.Fields{Name: fmt.Sprint("Other ", n)}, store.Like{}, "x", now); err != nil {
				t.Errorf("another writer: %v", err)
			}
			most = max(most, time.Since(at))
		}
	}()
	began = time.Now()
	_, err = s.ImportRegister(ctx, store.ImportFile{Name: "fleet.csv", Data: text}, tb, d, p.Fingerprint, "x", now)
	imported := time.Since(began)
	close(stop)
	held := <-longest
	must(t, err)
	plain := plainly(t, s)
	t.Logf(
		"preview %v; import %v, %.1f times plain inserts (%v); another writer waited %v at most",
		preview,
		imported,
		imported.Seconds()/plain.Seconds(),
		plain,
		held,
	)
	if preview > 3*time.Second || imported > 3*plain || held > time.Second {
		t.Error("too slow")
	}
	if list, err := s.Imports(ctx); err != nil || len(list) != 1 || list[0].By != "x" || list[0].File != "fleet.csv" ||
		list[0].Result["new"] != 5000 {
		t.Errorf("who imported: %+v, %v", list, err)
	}
}

// plainly inserts what is on record once more into tables without more ado, a thousand
// rows at a time as the mapper does it.
func plainly(t *testing.T, s *store.Store) time.Duration {
	t.Helper()
	db, err := gorm.Open(postgres.New(postgres.Config{Conn: s.SQL}), &gorm.Config{Logger: logger.Discard})
	must(t, err)
	var took time.Duration
	for _, table := range []string{"machines", "parts", "readings", "fittings", "positions"} {
		var rows []map[string]any
		must(t, db.Table(table).Find(&rows).Error)
		must(t, db.Exec("create table plain_"+table+" (like "+table+" including all)").Error)
		for _, r := range rows {
			delete(r, "id")
		}
		began := time.Now()
		must(t, db.Table("plain_"+table).CreateInBatches(rows, 1000).Error)
		took += time.Since(began)
	}
	return took
}

var fitting = map[string]string{
	"probe.model": "none", "z-endstop.model": "lever", "mainboard.probe-port": "yes", "carriage.bracket-holes": "yes",
	"carriage.hole-spacing": "18", "firmware.family": "compiled", "firmware.version": "1.0",
	"mainboard.chip-maker": "first source", "mainboard.processor": "RET6", "firmware.size": "186",
	"firmware.file": "old.bin",
}

// calibrate records a calibration of each of its subjects.
func calibrate(t *testing.T, s *store.Store, id int64, k calibration.Kind, d change.Data) {
	t.Helper()
	c, _ := calibration.Of(k)
	for _, x := range c.Subjects(load(t, s, id).Facts) {
		must(t, s.Calibrate(ctx, id, k, x, d, "x", now.AddDate(0, -1, 0)))
	}
}

// tested is a protection test that alarmed.
var tested = change.Data{TestMethod: "no-heat", Alarm: "190", AlarmText: "Heating failed"}

// current is the record that counts for a subject.
func current(m store.Machine, k calibration.Kind, x calibration.Subject) calibration.State {
	c, _ := calibration.Of(k)
	return calibration.StateOf(m.Facts, m.Records, c, x)
}

func TestWorkFromVerdictToRecord(t *testing.T) {
	s := pgtest.Store(t)
	id := add(t, s, "Avocet", fitting)
	calibrate(t, s, id, calibration.Steps, change.Data{Value: "95", Store: calibration.StoreSettings})
	calibrate(
		t,
		s,
		id,
		calibration.ZOffset,
		change.Data{
			BedTemperature: "60",
			SoakMinutes:    "5",
			Store:          calibration.StoreSettings,
			Rounds:         []bench.ZOffsetRound{bench.NextZOffset(-1.2, 0, true)},
		},
	)
	calibrate(t, s, id, calibration.Protection, tested)
	if m := load(t, s, id); !m.Protection(now).Proven {
		t.Fatal("a test that alarmed proves protection")
	}

	_, err := s.AddReading(
		ctx,
		id,
		"toolhead.grams",
		"350",
		machine.Reading{Grade: machine.Read, TakenAt: now, By: "x"},
		now,
	)
	must(t, err)

	_, err = s.OpenWork(ctx, id, "plumbline-probe", "", "x", now)
	refused(t, err, "left alone")
	order, err := s.OpenWork(ctx, id, "plumbline-probe", "a feature somebody needs", "x", now)
	must(t, err)
	_, err = s.OpenWork(ctx, id, "bollard-springs", "wear", "x", now)
	refused(t, err, "locked out")
	refused(t, s.Exchange(ctx, id, "nozzle", "another", "", "x", now), "work order")
	refused(t, s.Retire(ctx, id, "old", "x", now), "work is open")
	refused(
		t,
		s.Calibrate(ctx, id, calibration.Tramming, "bed", change.Data{Value: "1", Store: calibration.StoreBuild}, "x", now),
		"work order",
	)

	o, err := s.Order(ctx, order)
	must(t, err)
	last := o.StepList[len(o.StepList)-1]
	refused(t, s.SaveStep(ctx, order, last.Key, store.StepChange{Version: 1, Do: "tick"}, "x", now), "comes first")
	_, err = s.Finish(ctx, order, 0, "x", now)
	refused(t, err, "still open")

	for _, st := range o.StepList {
		data, note := changetest.Fill(st.Step)
		// Half-typed, then left; another device goes on.
		must(t, s.SaveStep(ctx, order, st.Key, store.StepChange{Version: 1, Data: data, Note: note, Do: "save"}, "x", now))
		var conflict *store.Conflict
		if err := s.SaveStep(ctx, order, st.Key, store.StepChange{Version: 1, Note: "stale", Do: "save"}, "y",
			now); !errors.As(
			err,
			&conflict,
		) {
			t.Fatalf("%s: a stale save was taken: %v", st.Key, err)
		}
		must(t, s.SaveStep(ctx, order, st.Key, store.StepChange{Version: 2, Data: data, Note: note, Do: "tick"}, "x", now))
		if st.Touches {
			refused(t, s.Abandon(ctx, order, "x", now), "no longer as it was")
		}
	}
	first := o.StepList[0].Key
	refused(t, s.SaveStep(ctx, order, first, store.StepChange{Version: 3, Do: "undo"}, "x", now), "later steps")
	closing, err := s.Finish(ctx, order, 0, "x", now)
	must(t, err)

	m := load(t, s, id)
	for key, want := range map[machine.Key]string{"probe.model": "Plumbline contact probe",
		"probe.senses": "surface, by touch", "z-endstop.model": "none", "firmware.version": "2.1",
		"firmware.family": "compiled", "firmware.file": "new.bin"} {
		if f := m.Facts.Fact(key); f.Value.Text != want || f.Grade != machine.Read {
			t.Errorf("as fitted: %s is %q (%s), want %q, read", key, f.Value.Text, f.Grade, want)
		}
	}
	if f := m.Facts.Fact("toolhead.grams"); f.Value.Text != "366" || f.Grade != machine.Read ||
		!strings.Contains(f.HowCarried(), "350 observed, + 16 Plumbline contact probe kit = 366 g") ||
		!slices.Contains(closing.Recorded, "Toolhead: mass: 350 + 16 = 366 g") {
		t.Errorf("the head is 16 g heavier: %+v, recorded %v", f, closing.Recorded)
	}
	if st := current(m, calibration.ZOffset, "head 1"); st.Word != calibration.Valid || st.Record.Value != "-2.70 mm" {
		t.Errorf("Z offset on record: %+v", st)
	}
	if st := current(m, calibration.Protection, "bed"); st.Record.Proof.Alarm != "Heating failed" ||
		st.Record.Proof.Seconds != 190 ||
		!strings.Contains(st.Record.Proof.Build, "build of") {
		t.Errorf("what proves the bed's protection: %+v", st.Record)
	}
	if st := current(m, calibration.Steps, "head 1"); st.Word != calibration.Valid || st.Record.Value != "95 steps/mm" ||
		!strings.Contains(st.Record.Method, "entered again") {
		t.Errorf("the steps were entered again: %+v", st)
	}
	if !m.Protection(now).Proven || m.OpenOrder != nil {
		t.Errorf("after finishing: %+v, order %v", m.Protection(now), m.OpenOrder)
	}
	var invalid []string
	for _, v := range closing.Invalid {
		invalid = append(invalid, string(v.Kind))
	}
	if got := strings.Join(invalid, " "); got != "protection protection steps-per-mm z-offset" {
		t.Errorf("invalid: %s", got)
	}
	if missing := strings.Join(closing.Missing, "\n"); !strings.Contains(missing, "self-test") {
		t.Errorf("the new probe's self-test is not asked for:\n%s", missing)
	}
	history, err := s.History(ctx, id)
	must(t, err)
	if len(history) != 3 { // endstop, firmware, and the empty probe slot
		t.Errorf("taken out: %+v", history)
	}
	refused(t, s.SaveStep(ctx, order, first, store.StepChange{Version: 3, Do: "undo"}, "x", now), "finished")
	v, err := s.Judge(ctx, "plumbline-probe")
	must(t, err)
	if got := v.Verdict(m.Facts).Answer; got != fit.DoesNotFit {
		t.Errorf("a second probe %s", got)
	}
}

func TestSkippedProofLeavesTheMachineUnproven(t *testing.T) {
	s := pgtest.Store(t)
	id := add(t, s, "Avocet", fitting)
	calibrate(t, s, id, calibration.Protection, tested)
	order, err := s.OpenWork(ctx, id, "plumbline-probe", "wear", "x", now)
	must(t, err)
	o, err := s.Order(ctx, order)
	must(t, err)
	for _, st := range o.StepList {
		data, note := changetest.Fill(st.Step)
		do := "tick"
		if st.Calibration != "" {
			do = "skip"
		}
		must(
			t,
			s.SaveStep(
				ctx,
				order,
				st.Key,
				store.StepChange{Version: 1, Data: data, Note: note, Do: do, Why: "no time"},
				"x",
				now,
			),
		)
	}
	_, err = s.Finish(ctx, order, 0, "x", now)
	must(t, err)
	m := load(t, s, id)
	if m.Protection(now).Proven {
		t.Error("a new build without a test counts as proven")
	}
	if d := maintenance.DueList(m.Subject(now), now)[0]; d.State != maintenance.Unproven {
		t.Errorf("first on the list: %+v", d)
	}
}

func TestAbandon(t *testing.T) {
	s := pgtest.Store(t)
	id := add(t, s, "Avocet", fitting)
	order, err := s.OpenWork(ctx, id, "plumbline-probe", "wear", "x", now)
	must(t, err)
	must(t, s.Abandon(ctx, order, "x", now))
	if m := load(t, s, id); m.OpenOrder != nil || m.Facts.Model("probe") != "none" {
		t.Error("an abandoned order changes nothing and locks nothing")
	}
	second, err := s.OpenWork(ctx, id, "plumbline-probe", "wear", "x", now)
	must(t, err)
	heads, err := s.Orders(ctx)
	must(t, err)
	if len(heads) != 2 || heads[0].ID != second || heads[0].State != "open" || heads[0].Machine != "Avocet" ||
		heads[0].Kit != "Plumbline contact probe kit" ||
		heads[0].Steps == 0 ||
		heads[1].State != "abandoned" {
		t.Errorf("the list of orders: %+v", heads)
	}
}

func TestOpenWorkNeedsAVerdictThatFits(t *testing.T) {
	s := pgtest.Store(t)
	id := add(t, s, "Avocet", map[string]string{"firmware.family": "compiled"})
	_, err := s.OpenWork(ctx, id, "plumbline-probe", "wear", "x", now)
	refused(t, err, "look first")
}

func TestExchangeByHandVoids(t *testing.T) {
	s := pgtest.Store(t)
	id := add(t, s, "Avocet", map[string]string{"sensor.model": "old", "sensor.type": "100k thermistor"})
	calibrate(t, s, id, calibration.Protection, tested)
	must(t, s.Exchange(ctx, id, "sensor", "new", "broke", "x", now))
	m := load(t, s, id)
	if m.Facts.Fact("sensor.type").Known() || m.Protection(now).Proven {
		t.Error("a new sensor starts without readings and voids the proof")
	}
}

func TestMetersAndTasks(t *testing.T) {
	s := pgtest.Store(t)
	id := add(t, s, "Avocet", nil)
	at := now.AddDate(0, 0, -20)
	must(t, s.ReadMeter(ctx, id, maintenance.Meter{At: at, Hours: 100}, "x", now))
	must(t, s.ReadMeter(ctx, id, maintenance.Meter{At: at, Hours: 100}, "x", now)) // the same again
	refused(t, s.ReadMeter(ctx, id, maintenance.Meter{At: now, Hours: 90}, "x", now), "backwards")
	refused(t, s.ReadMeter(ctx, id, maintenance.Meter{At: now, Hours: -90}, "x", now), "starts at 0")
	must(t, s.ReadMeter(ctx, id, maintenance.Meter{At: now, Hours: 10, Reset: true}, "x", now))
	if m := load(t, s, id); len(m.Meters) != 2 || maintenance.NewLife(m.Meters).At(now) != 110 {
		t.Errorf("meters %+v", m.Meters)
	}
	must(t, does(s).MarkDone(ctx, id, maintenance.Completion{Task: "belts", At: now}, "", "x", now))
	refused(t, does(s).MarkDone(ctx, id, maintenance.Completion{Task: "belts", At: now.AddDate(0, 0, 1)}, "", "x",
		now), "still to come")
	refused(t, does(s).MarkDone(ctx, id, maintenance.Completion{Task: "juggling", At: now}, "", "x", now),
		"no maintenance task")
	refused(t, does(s).MarkDone(ctx, id, maintenance.Completion{Task: maintenance.ProtectionTask, At: now}, "", "x",
		now), "with its result")
	must(t, s.UndoDone(ctx, id, "belts"))
	if err := s.UndoDone(ctx, id, "belts"); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("undone twice: %v", err)
	}
	// One bad row blocks no other.
	tb, _ := table(t, "machine,date,hours\nAvocet,2026-04-20,150\nNobody,2026-04-20,1\nAvocet,2026-04-25,160\n")
	p, err := s.ImportMeters(ctx, store.ImportFile{Name: "meters.csv"}, tb, csvimport.Decisions{}, "x", now)
	must(t, err)
	if len(p.Rows) != 2 || len(p.Faults) != 1 || len(load(t, s, id).Meters) != 4 {
		t.Errorf("imported %+v", p)
	}
	if p, err = s.ImportMeters(ctx, store.ImportFile{}, tb, csvimport.Decisions{}, "x", now); err != nil || p.Same != 2 ||
		len(p.Rows) != 0 {
		t.Errorf("the same file twice: %+v, %v", p, err)
	}
}

// A part's wear goes with it from machine to machine, retired ones too.
func TestWearGoesWithThePart(t *testing.T) {
	s := pgtest.Store(t)
	from, to := add(t, s, "Avocet", nil), add(t, s, "Bittern", nil)
	start := now.AddDate(0, 0, -100)
	at := func(day int) time.Time { return start.AddDate(0, 0, day) }
	for _, m := range []struct {
		id    int64
		day   int
		hours float64
	}{{from, 0, 0}, {from, 50, 250}, {to, 0, 1000}, {to, 90, 1180}} { // 5 and 2 h a day
		must(t, s.ReadMeter(ctx, m.id, maintenance.Meter{At: at(m.day), Hours: m.hours}, "x", now))
	}
	nozzle, err := s.AddPart(ctx, "nozzle", "Spire", store.PartFields{BoughtOn: at(0).Format(time.DateOnly)}, "x", at(0))
	must(t, err)
	must(
		t,
		s.MovePart(
			ctx,
			nozzle,
			fromHere(t, s, nozzle, store.Move{To: "machine", MachineID: from, Slot: "nozzle", Why: "x"}),
			"x",
			at(10),
		),
	)
	must(
		t,
		s.MovePart(
			ctx,
			nozzle,
			fromHere(t, s, nozzle, store.Move{To: "machine", MachineID: to, Slot: "nozzle", Why: "x"}),
			"x",
			at(40),
		),
	)
	must(t, s.Retire(ctx, from, "sold", "x", at(60)))
	fleet, err := s.Fleet(ctx)
	must(t, err)
	must(t, s.Wear(ctx, fleet))
	w := maintenance.WearOf(fleet[0].Worn["nozzle"], "nozzle")
	if math.Abs(w.Hours-250) > 0.01 || w.AtLeast || len(fleet) != 1 { // 30 days at 5 h, 50 at 2 h
		t.Errorf("worn %g h, at least: %v", w.Hours, w.AtLeast)
	}
}

// A kit that the shop has made its own is not overwritten by a newer version
// of the application; a shipped one is.
func TestShippedKits(t *testing.T) {
	s := pgtest.Store(t)
	_, err := s.SQL.Exec(
		`update kits set definition = jsonb_set(definition, '{name}', '"Ours"'), shipped = false where key =
			'bollard-springs'`,
	)
	must(t, err)
	_, err = s.SQL.Exec(
		`update kits set definition = jsonb_set(definition, '{name}', '"Stale"') where key = 'plumbline-probe'`,
	)
	must(t, err)
	must(t, s.Migrate(ctx))
	kits, err := s.Kits(ctx)
	must(t, err)
	var names []string
	for _, k := range kits {
		names = append(names, k.Name)
	}
	got := ", " + strings.Join(names, ", ") + ", "
	if len(names) != len(catalogue.Kits()) || !strings.Contains(got, ", Ours, ") || strings.Contains(got, "Stale") {
		t.Errorf("kits after a new start: %s", got)
	}
	if _, err := s.Judge(ctx, "gone"); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("a kit that is not there: %v", err)
	}
}

// does is what people do with a store.
func does(s *store.Store) *app.App { return app.New(s, func() time.Time { return now }) }
