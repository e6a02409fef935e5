package store

import (
	"context"
	"encoding/json"
	"time"

	"gorm.io/gorm"
)

// Act is one change on record: what it was before, and what it is since.
type Act struct {
	ID          int64
	Transaction int64
	At          time.Time
	AccountID   *int64
	Account     string // the name that the account signs in with; empty where none did it
	Actor       string // as shown when it was done
	Action      string // the operation
	Relation    string // the table
	Done        string // insert, update, delete, or note
	Subject     string // the row's key
	MachineID   *int64
	Machine     string
	PartID      *int64
	Was         json.RawMessage
	IsNow       json.RawMessage
	// Last is the number of the last event of the transaction, Of how many are of those that were asked for.
	Last int64
	Of   int
}

// Note puts on record what shows in no row, such as a sign-in.
func (s *Store) Note(ctx context.Context, relation, subject string, what any) error {
	text, err := json.Marshal(what)
	if err != nil {
		return err
	}
	return s.tx(ctx, func(tx *gorm.DB) error {
		return tx.Exec(
			"select note(?, 'note', ?, null::bigint, null::bigint, null::jsonb, ?::jsonb)",
			relation,
			subject,
			string(text),
		).Error
	})
}

// ActsOf says which acts are wanted; what is zero narrows nothing.
type ActsOf struct {
	Machine   int64
	Part      int64
	Relations []string
	Subject   string // with those whose key begins with it and a stroke
	Account   int64
	Before    int64 // of the events before this number
	Limit     int   // of transactions
	Each      int   // acts of one transaction; all where it is 0
}

// Acts lists changes on record, those of the newest transactions first, of each transaction the first that were done,
// at most as many as asked for.
func (s *Store) Acts(ctx context.Context, of ActsOf) ([]Act, error) {
	narrowed := func(q *gorm.DB) *gorm.DB {
		if of.Machine != 0 {
			q = q.Where("machine_id = ?", of.Machine)
		}
		if of.Part != 0 {
			q = q.Where("part_id = ?", of.Part)
		}
		if len(of.Relations) > 0 {
			q = q.Where("relation in ?", of.Relations)
		}
		if of.Subject != "" {
			q = q.Where("(subject = ? or starts_with(subject, ?))", of.Subject, of.Subject+"/")
		}
		if of.Account != 0 {
			q = q.Where("account_id = ?", of.Account)
		}
		return q
	}
	tx := s.from(ctx)
	newest := narrowed(
		tx.Table("events"),
	).Select("transaction, max(id) as last").
		Group("transaction").
		Order("max(id) desc").
		Limit(of.Limit)
	if of.Before != 0 {
		newest = newest.Having("max(id) < ?", of.Before)
	}
	var out []Act
	numbered := narrowed(tx.Table("events e").Joins("join (?) t using (transaction)", newest)).
		Select(`e.*, t.last, count(*) over (partition by e.transaction) as "of",
			row_number() over (partition by e.transaction order by e.id) as nth`)
	err := tx.Table("(?) e", numbered).Where("e.nth <= coalesce(nullif(?::bigint, 0), e.of)", of.Each).
		Joins("left join users u on u.id = e.account_id left join machines m on m.id = e.machine_id").
		Select("e.*, u.name as account, m.name as machine").Order("e.last desc, e.id").Scan(&out).Error
	return out, err
}
