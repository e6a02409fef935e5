package store

import (
	"context"
	"encoding/json"
	"fmt"

	"gorm.io/gorm"
)

// document is a kind of JSON document that is stored in columns of a table. Each row says
// of which version its documents are.
type document struct {
	table, key string   // of the rows; key is the expression that tells them apart
	columns    []string // that hold documents
	// upgrades bring a document along from the version of their index + 1 to the next. They
	// get one column's document, and never meet a null.
	upgrades []func(column string, doc map[string]any) error
}

func (d document) version() int { return len(d.upgrades) + 1 }

// documents are all that are stored. A change of what one may hold that older ones do not
// bear out is a new upgrade at the end of its list, and a fixture of the version before in
// testdata/documents.
var documents = []document{
	{table: "kits", key: "key", columns: []string{"definition"}},
	{table: "work_orders", key: "id", columns: []string{"kit", "verdict", "closing"},
		upgrades: []func(string, map[string]any) error{listsOfOrders}},
	{table: "work_steps", key: "work_order_id || '/' || seq", columns: []string{"step", "data"}},
	{table: "wire_sheets", key: "machine_id || '/' || head", columns: []string{"definition"}},
	{table: "questions", key: "id", columns: []string{"definition"}},
	{table: "tasks", key: "key", columns: []string{"definition"}},
}

// listsOfOrders: verdicts of version 1 may lack the remarks and what is to be checked at
// delivery, and closings what was recorded and is missing; since version 2 they are lists.
func listsOfOrders(column string, doc map[string]any) error {
	for _, name := range map[string][]string{"verdict": {"remarks", "delivery"},
		"closing": {"recorded", "missing"}}[column] {
		if doc[name] == nil {
			doc[name] = []any{}
		}
	}
	return nil
}

// upgradeDocuments brings every stored document to the version that this program writes.
func (s *Store) upgradeDocuments(ctx context.Context) error {
	for _, d := range documents {
		if err := s.tx(ctx, func(tx *gorm.DB) error { return d.upgrade(tx) }); err != nil {
			return fmt.Errorf("documents in %s: %w", d.table, err)
		}
	}
	return nil
}

func (d document) upgrade(tx *gorm.DB) error {
	var newest int
	if err := tx.Raw("select coalesce(max(document), 0) from " + d.table).Scan(&newest).Error; err != nil {
		return err
	}
	if newest > d.version() {
		return fmt.Errorf("there are some of version %d, and this program knows up to version %d: use the newer program",
			newest, d.version())
	}
	for version := 1; version < d.version(); version++ {
		for _, column := range d.columns {
			if err := d.step(tx, version, column); err != nil {
				return err
			}
		}
		if err := tx.Exec("update "+d.table+" set document = ? where document = ?", version+1, version).Error; err != nil {
			return err
		}
	}
	return nil
}

// step brings one column's documents along by one version.
func (d document) step(tx *gorm.DB, version int, column string) error {
	var rows []struct {
		Key string
		Doc []byte
	}
	err := tx.Raw("select "+d.key+" as key, "+column+" as doc from "+d.table+" where document = ? and jsonb_typeof("+
		column+") = 'object'", version).
		Scan(&rows).Error
	if err != nil {
		return err
	}
	for _, r := range rows {
		var doc map[string]any
		if err := json.Unmarshal(r.Doc, &doc); err != nil {
			return err
		}
		if err := d.upgrades[version-1](column, doc); err != nil {
			return fmt.Errorf("%s: %w", r.Key, err)
		}
		text, err := json.Marshal(doc)
		if err != nil {
			return err
		}
		if err := tx.Exec("update "+d.table+" set "+column+" = ?::jsonb where ("+d.key+")::text = ?", string(text),
			r.Key).Error; err != nil {
			return err
		}
	}
	return nil
}
