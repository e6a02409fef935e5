package store_test

import (
	"encoding/json"
	"os"
	"strings"
	"testing"

	"wardifex/internal/app"
	"wardifex/internal/demo"
	"wardifex/internal/postgres/pgtest"
	"wardifex/internal/store"
)

// stored are the rows with documents of a database, as JSON.
type stored map[string][]json.RawMessage

// fixture is what version 1 of every document looked like, as the demo room wrote it.
const fixture = "testdata/documents-1.json"

// TestWriteDocuments writes the fixture anew, for a version that is to be left behind:
// WARDIFEX_WRITE_FIXTURES=1, and a new file name.
func TestWriteDocuments(t *testing.T) {
	if os.Getenv("WARDIFEX_WRITE_FIXTURES") == "" {
		t.Skip("writes a fixture")
	}
	s := pgtest.Store(t)
	must(t, demo.Seed(ctx, s))
	out := stored{}
	for table, query := range map[string]string{
		"kits":        "select to_jsonb(t) - 'document' from kits t order by key",
		"work_orders": "select to_jsonb(t) - 'document' from work_orders t where closing <> 'null' order by id limit 2",
		"work_steps": "select to_jsonb(t) - 'document' from work_steps t where work_order_id in (select id from " +
			"work_orders where closing <> 'null' order by id limit 2) order by 1",
		"wire_sheets": "select to_jsonb(t) - 'document' from wire_sheets t order by machine_id limit 1",
		"questions":   "select to_jsonb(t) - 'document' from questions t order by id",
	} {
		rows, err := s.SQL.Query(query)
		must(t, err)
		for rows.Next() {
			var row []byte
			must(t, rows.Scan(&row))
			out[table] = append(out[table], row)
		}
		must(t, rows.Err())
	}
	text, err := json.Marshal(out)
	must(t, err)
	must(t, os.WriteFile(fixture, append(text, '\n'), 0o644))
}

// Documents of version 1 are brought along when the application starts, and read as they
// were meant; a document of a newer program is refused.
func TestDocumentsAreBroughtAlong(t *testing.T) {
	text, err := os.ReadFile(fixture)
	must(t, err)
	var was stored
	must(t, json.Unmarshal(text, &was))
	s := pgtest.Store(t)
	_, err = does(s).AddMachine(ctx, store.Fields{Name: "M"}, app.Like{}, "x", now)
	must(t, err)
	_, err = s.SQL.Exec("delete from kits")
	must(t, err)
	for _, table := range []string{"kits", "work_orders", "work_steps", "wire_sheets", "questions"} {
		if len(was[table]) == 0 {
			t.Fatalf("no %s in the fixture", table)
		}
		for _, row := range was[table] {
			var fields map[string]any
			must(t, json.Unmarshal(row, &fields))
			if _, ok := fields["machine_id"]; ok {
				fields["machine_id"] = 1
			}
			fields["document"] = 1
			if table == "kits" {
				fields["hidden"] = false // as a column that a later schema added has it
			}
			if table == "work_orders" { // as versions before it left them
				for _, column := range []string{"by", "why", "loose", "screws", "waits"} {
					fields["parked_"+column] = ""
				}
				fields["task"], fields["back_by"], fields["back_why"] = "", "", ""
				fields["spares"] = map[string]any{}
				delete(fields["verdict"].(map[string]any), "remarks")
				delete(fields["closing"].(map[string]any), "missing")
			}
			here, err := json.Marshal(fields)
			must(t, err)
			_, err = s.SQL.Exec("insert into "+table+" overriding system value select (jsonb_populate_record(null::"+table+
				", $1)).*", here)
			must(t, err)
		}
	}
	must(t, s.Migrate(ctx))
	for _, row := range was["work_orders"] {
		var head struct{ ID int64 }
		must(t, json.Unmarshal(row, &head))
		o, err := does(s).Order(ctx, head.ID)
		must(t, err)
		if len(o.StepList) == 0 || o.Remarks == nil || o.Closing == nil || o.Closing.Missing == nil {
			t.Errorf("order %d: %d steps, remarks %v, closing %+v", head.ID, len(o.StepList), o.Remarks, o.Closing)
		}
	}
	kits, err := s.Kits(ctx)
	must(t, err)
	questions, err := s.Questions(ctx)
	must(t, err)
	if len(kits) != len(was["kits"]) || len(questions) != len(was["questions"]) {
		t.Errorf("%d kits, %d questions", len(kits), len(questions))
	}
	var lists, behind int
	must(t, s.SQL.QueryRow(`select count(*) filter (where jsonb_typeof(verdict->'remarks') = 'array' and
		jsonb_typeof(closing->'missing') = 'array'),
		count(*) filter (where document <> 2) from work_orders`).Scan(&lists, &behind))
	if lists != len(was["work_orders"]) || behind > 0 {
		t.Errorf("%d orders have their lists, %d were left behind", lists, behind)
	}
	_, err = s.SQL.Exec("update kits set document = 9 where key = 'bollard-springs'")
	must(t, err)
	if err := s.Migrate(ctx); err == nil || !strings.Contains(err.Error(), "version 9") {
		t.Errorf("a newer document: %v", err)
	}
}
