package store_test

import (
	"database/sql"
	"os"
	"strings"
	"testing"

	_ "github.com/jackc/pgx/v5/stdlib"
	"github.com/pressly/goose/v3"

	"wardifex/internal/postgres/pgtest"
	"wardifex/internal/store"
)

// migratedFrom is a database of an older schema with rows of its time, brought up to now.
func migratedFrom(t *testing.T, schema int64, rows string) *store.Store {
	t.Helper()
	dsn := pgtest.Database(t)
	db, err := sql.Open("pgx", dsn)
	must(t, err)
	defer db.Close()
	p, err := goose.NewProvider(goose.DialectPostgres, db, os.DirFS("migrations"))
	must(t, err)
	_, err = p.UpTo(ctx, schema)
	must(t, err)
	_, err = db.ExecContext(ctx, rows)
	must(t, err)
	s, err := store.Open(dsn)
	must(t, err)
	t.Cleanup(func() { s.Close() })
	must(t, s.Migrate(ctx))
	return s
}

// The configuration of a build was kept with its files, where nothing read it; it is among the settings
// now, the newest of each name, but for one that was there already.
func TestConfigurationsOfBuildsBecomeSettings(t *testing.T) {
	t.Parallel()
	s := migratedFrom(t, 22, `
		insert into files (sha256, size) select decode(repeat(n, 32), 'hex'), 3 from unnest(array['01', '02', '03']) n;
		insert into file_chunks (n, sha256, content) select 0, sha256,
			convert_to('token:' || chr(10) || '  ' || substr(sha256::text, 3, 2), 'UTF8') from files;
		insert into builds (name, family, changed_by, changed_at) values ('B', 'compiled', 'x', now());
		insert into build_files (build_id, name, kind, sha256, bytes, added_by, added_at) values
			(1, 'b.bin', 'build', decode(repeat('01', 32), 'hex'), 3, 'x', '2026-01-01'),
			(1, 'C.h', 'configuration', decode(repeat('01', 32), 'hex'), 3, 'x', '2026-01-01'),
			(1, 'c.h', 'configuration', decode(repeat('02', 32), 'hex'), 3, 'y', '2026-01-02'),
			(1, 'adv.h', 'configuration', decode(repeat('02', 32), 'hex'), 3, 'y', '2026-01-02');
		insert into settings_files (place, name, family, build_id, sha256, bytes, taken_at, added_by, added_at) values
			('build configuration', 'Adv.h', 'compiled', 1, decode(repeat('03', 32), 'hex'), 3, now(), 'z', now())`)
	files, err := s.SettingsOfBuild(ctx, 1)
	must(t, err)
	var got []string
	for _, f := range files {
		text, err := s.SettingsText(ctx, f)
		must(t, err)
		got = append(got, f.Name+" "+f.Family+" "+text+" "+f.AddedBy)
	}
	if want := "Adv.h compiled token:\n  03 z, c.h compiled token:\n  02 y"; strings.Join(got, ", ") != want {
		t.Errorf("got %s, want %s", strings.Join(got, ", "), want)
	}
	var ended int
	must(t, s.SQL.QueryRowContext(ctx, "select count(*) from settings_files where ended_at is not null").Scan(&ended))
	if ended != 2 {
		t.Errorf("%d older ones are kept as ended, want 2", ended)
	}
	found, err := s.MaskSettings(ctx)
	must(t, err)
	if again, err := s.MaskSettings(ctx); found != 4 || again != 0 || err != nil {
		t.Errorf("secrets were found in %d texts, then in %d: %v", found, again, err)
	}
	files, err = s.SettingsOfBuild(ctx, 1)
	must(t, err)
	if text, err := s.SettingsText(ctx, files[1]); err != nil || text != "token:\n  •••" || files[1].Secrets != 1 {
		t.Errorf("%q, %v, %+v", text, err, files[1])
	}
	built, err := s.BuildFiles(ctx, 1)
	must(t, err)
	if len(built) != 1 || built[0].Name != "b.bin" {
		t.Errorf("%+v", built)
	}
}
