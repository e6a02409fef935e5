package app_test

import (
	"errors"
	"fmt"
	"os"
	"strings"
	"testing"
	"time"

	"gorm.io/driver/postgres"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"

	"wardifex/internal/app"
	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/csvimport"
	"wardifex/internal/core/machine"
	"wardifex/internal/postgres/pgtest"
	"wardifex/internal/store"
)

func table(t *testing.T, text string) (csvimport.Table, []string) {
	t.Helper()
	tb, err := csvimport.ReadTable(t.Context(), []byte(text), csvimport.MaxRows, csvimport.Layout{})
	must(t, err)
	var mapping []string
	for _, m := range csvimport.Propose(tb, catalogue.Vocabulary(), nil) {
		mapping = append(mapping, m.Target)
	}
	return tb, mapping
}

func TestBringIn(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	add(t, s, "Avocet", map[string]string{"mainboard.flash": "512"})
	tb, mapping := table(t, "name,bay,flash,board\nAvocet,Loft,256,Brace\nCurlew,Slip,512,Sill\nDunlin,Slip,,\n")
	p, err := does(s).PlanRegister(ctx, tb, csvimport.Decisions{Mapping: mapping}, now)
	must(t, err)
	if fleet, _ := s.Fleet(ctx); len(fleet) != 1 || p.Created != 2 || p.Changed != 1 {
		t.Fatalf("the preview wrote, or is wrong: %+v", p)
	}
	var conflict *app.Conflict
	if _, err := does(s).ImportRegister(ctx, store.ImportFile{}, tb, csvimport.Decisions{Mapping: mapping}, "another",
		"x",
		now); !errors.As(
		err,
		&conflict,
	) {
		t.Errorf("brought in what was not previewed: %v", err)
	}
	_, err = does(s).ImportRegister(ctx, store.ImportFile{}, tb, csvimport.Decisions{Mapping: mapping}, p.Fingerprint,
		"x", now)
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
	again, err := does(s).PlanRegister(ctx, tb, csvimport.Decisions{Mapping: mapping}, now)
	must(t, err)
	if again.Same != 3 {
		t.Errorf("the same file again: %+v", again)
	}
	// Out and in again changes nothing either.
	out, err := does(s).RegisterCSV(ctx)
	must(t, err)
	tb, mapping = table(t, string(out))
	if again, err = does(s).PlanRegister(ctx, tb, csvimport.Decisions{Mapping: mapping}, now); err != nil ||
		again.Same != 3 {
		t.Errorf("the register's own export: %+v, %v\n%s", again, err, out)
	}
}

// What a register says of machines that are there changes just that, over the version
// that was previewed.
func TestImportChangesMachines(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	id := add(t, s, "Avocet", nil)
	must(t, does(s).ChangeMachine(ctx, id, 1, store.Fields{Name: "Avocet", Bay: "Quay", Note: "lid cracked"}, "x", now))
	tb, mapping := table(
		t,
		"printer;bought on;price;print hours;heater 3 watts;supplier\nAvocet;3 Feb 2025;€ 249,50;120;60;Harbour\n",
	)
	mapping[4] = "" // there is no third heater yet
	d := csvimport.Decisions{Mapping: mapping}
	p, err := does(s).PlanRegister(ctx, tb, d, now)
	must(t, err)
	_, err = does(s).ImportRegister(ctx, store.ImportFile{}, tb, d, p.Fingerprint, "Ann", now)
	must(t, err)
	m := load(t, s, id)
	if m.BoughtOn != "2025-02-03" || m.Price == nil || *m.Price != 249.5 || m.Supplier != "Harbour" || m.Bay != "Quay" ||
		m.Note != "lid cracked" ||
		m.Version != 3 ||
		m.ChangedBy != "Ann" {
		t.Errorf("changed to %+v, version %d", m.Fields, m.Version)
	}
	if len(m.Meters) != 1 || m.Meters[0].Amount != 120 || !m.Meters[0].At.Equal(now) {
		t.Errorf("meter %+v", m.Meters)
	}
	if again, err := does(s).PlanRegister(ctx, tb, d, now); err != nil || again.Same != 1 {
		t.Errorf("the same file again: %+v, %v", again, err)
	}
}

func TestBringInRefusesFaults(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	tb, mapping := table(t, "name,flash\nA,256\nB,lots\n")
	p, err := does(s).PlanRegister(ctx, tb, csvimport.Decisions{Mapping: mapping}, now)
	must(t, err)
	_, err = does(s).ImportRegister(ctx, store.ImportFile{}, tb, csvimport.Decisions{Mapping: mapping}, p.Fingerprint,
		"x", now)
	refused(t, err, "1 rows have faults")
	if fleet, _ := s.Fleet(ctx); len(fleet) != 0 {
		t.Error("something was written all the same")
	}
	p, err = does(s).PlanRegister(ctx, tb, csvimport.Decisions{Mapping: mapping, LeaveOut: []int{3}}, now)
	must(t, err)
	_, err = does(s).ImportRegister(
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
	t.Parallel()
	s := pgtest.Store(t)
	var b strings.Builder
	b.WriteString("name,flash,board,nozzle size,bay\n")
	for i := range 3000 {
		fmt.Fprintf(&b, "M%04d,256,Brace,0.4,Quay\n", i)
	}
	tb, mapping := table(t, b.String())
	p, err := does(s).PlanRegister(ctx, tb, csvimport.Decisions{Mapping: mapping}, now)
	must(t, err)
	done := make(chan error, 1)
	go func() {
		_, err := does(s).ImportRegister(
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
	_, err = does(s).ImportRegister(ctx, store.ImportFile{}, tb, csvimport.Decisions{Mapping: mapping}, p.Fingerprint,
		"x", now)
	must(t, err)
	if fleet, _ := s.Fleet(ctx); len(fleet) != 3000 {
		t.Errorf("the second try brought %d in", len(fleet))
	}
}

// 5,000 machines of 30 columns: previewed in under 3 s, imported within 3 times of what
// plain inserts of the same rows take, while others go on writing.
func TestImportIsFast(t *testing.T) {
	if testing.Short() || os.Getenv("WARDIFEX_LONG") != "" {
		t.Skip("takes a while, and is measured by make bench: alone, and without the race detector")
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
	tb, err := csvimport.ReadTable(t.Context(), text, csvimport.MaxRows, csvimport.Layout{})
	must(t, err)
	d := csvimport.Decisions{Mapping: columns}
	for i, m := range csvimport.Propose(tb, s.Vocabulary(t.Context()), nil) {
		if m.Target != columns[i] {
			t.Errorf("%q is matched to %q", m.Heading, m.Target)
		}
	}
	p, err := does(s).PlanRegister(ctx, tb, d, now)
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
			if _, err := does(s).AddReading(ctx, other, "supply.volts", fmt.Sprint(12+n%12),
				machine.Reading{Grade: machine.Claimed, TakenAt: now, By: "x", How: "x"}, now); err != nil {
				t.Errorf("another writer: %v", err)
			}
			if _, err := does(s).AddMachine(ctx, store.Fields{Name: fmt.Sprint("Other ", n)}, app.Like{}, "x",
				now); err != nil {
				t.Errorf("another writer: %v", err)
			}
			most = max(most, time.Since(at))
		}
	}()
	began = time.Now()
	_, err = does(s).ImportRegister(ctx, store.ImportFile{Name: "fleet.csv", Data: text}, tb, d, p.Fingerprint, "x", now)
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
	if list, err := s.Imports(ctx, store.Cut{}); err != nil || list.Found != 1 || list.Rows[0].By != "x" ||
		list.Rows[0].File != "fleet.csv" ||
		list.Rows[0].Result["new"] != 5000 {
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
