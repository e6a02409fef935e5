package store

import (
	"context"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"wardifex/internal/core/purchase"
)

type purchaseRow struct {
	ID         int64
	Supplier   string
	Reference  string
	OrderedOn  *time.Time
	ExpectedOn *time.Time
	Note       string
	ClosedAt   *time.Time
	ClosedWhy  string
	Version    int
	ChangedBy  string
	ChangedAt  time.Time
}

func (purchaseRow) TableName() string { return "purchases" }

type purchaseLineRow struct {
	ID         int64
	PurchaseID int64
	What       string
	Kit        string
	Count      int
	Price      *float64
	Box        []string `gorm:"serializer:json"`
	Machines   []int64  `gorm:"serializer:json"`
}

func (purchaseLineRow) TableName() string { return "purchase_lines" }

type purchaseKeptRow struct {
	LineID int64
	N      int
	Kind   string
	Model  string
}

func (purchaseKeptRow) TableName() string { return "purchase_kept" }

// PurchaseFields are what a person writes about an order.
type PurchaseFields struct {
	Supplier   string `json:"supplier"            maxLength:"120"`
	Reference  string `json:"reference,omitempty" maxLength:"120" doc:"The supplier's number of the order"`
	OrderedOn  string `json:"orderedOn,omitempty" doc:"ISO 8601; today when empty"`
	Note       string `json:"note,omitempty"      maxLength:"1000"`
	ExpectedOn string `json:"expectedOn,omitempty" doc:"When it is expected to arrive, ISO 8601; empty where nobody knows"`
}

// PurchaseLine is a line of an order with how much of it has come.
type PurchaseLine struct {
	ID int64 `json:"id"`
	purchase.Line
	Progress []purchase.LineProgress `json:"progress" doc:"Of each part in a box, or of the line where it has none"`
}

// Purchase is an order with what came of it.
type Purchase struct {
	ID int64 `json:"id"`
	PurchaseFields
	ClosedAt  *time.Time     `json:"closedAt,omitempty"`
	ClosedWhy string         `json:"closedWhy,omitempty"`
	Lines     []PurchaseLine `json:"lines"`
	Arrivals  []Arrival      `json:"arrivals" doc:"Newest first"`
	Version   int            `json:"version"`
	ChangedBy string         `json:"-"`
	ChangedAt time.Time      `json:"-"`
}

func (f PurchaseFields) row() (purchaseRow, error) {
	row := purchaseRow{Supplier: f.Supplier, Reference: f.Reference, Note: f.Note}
	var err error
	if row.OrderedOn, err = dateOf(f.OrderedOn); err != nil {
		return row, err
	}
	row.ExpectedOn, err = dateOf(f.ExpectedOn)
	return row, err
}

// AddPurchase writes down an order with its lines, and gives its number.
func (s *Store) AddPurchase(ctx context.Context, f PurchaseFields, lines []purchase.Line, by string, at time.Time) (
	int64, error) {
	row, err := f.row()
	if err != nil {
		return 0, err
	}
	row.Version, row.ChangedBy, row.ChangedAt = 1, by, at
	return row.ID, s.tx(ctx, func(tx *gorm.DB) error {
		if err := tx.Create(&row).Error; err != nil {
			return err
		}
		for _, l := range lines {
			line := purchaseLineRow{PurchaseID: row.ID, What: l.What, Kit: l.Kit, Count: l.Count, Price: l.Price,
				Box: listed(l.Box), Machines: listed(l.Machines)}
			if err := tx.Create(&line).Error; err != nil {
				return err
			}
			for n, k := range l.Kept {
				if err := tx.Create(&purchaseKeptRow{LineID: line.ID, N: n, Kind: k.Kind, Model: k.Model}).Error; err != nil {
					return err
				}
			}
		}
		return nil
	})
}

// listed is a list that is written as an empty one rather than as null.
func listed[T any](of []T) []T {
	if of == nil {
		return []T{}
	}
	return of
}

// LockPurchase takes an order for the transaction, with its lines and what came.
func (s *Store) LockPurchase(ctx context.Context, id int64) (Purchase, error) {
	var row purchaseRow
	if err := s.from(ctx).Clauses(clause.Locking{Strength: "UPDATE"}).First(&row, id).Error; err != nil {
		return Purchase{}, found(err)
	}
	return s.Purchase(ctx, id)
}

// WritePurchase writes the fields of an order as the next version; with a reason it is
// closed, though not all of it came.
func (s *Store) WritePurchase(ctx context.Context, id int64, f PurchaseFields, closedWhy, by string,
	at time.Time) error {
	row, err := f.row()
	if err != nil {
		return err
	}
	set := map[string]any{"supplier": row.Supplier, "reference": row.Reference, "ordered_on": row.OrderedOn,
		"expected_on": row.ExpectedOn,
		"note":        row.Note, "closed_at": nil, "closed_why": closedWhy,
		"version": gorm.Expr("version + 1"), "changed_by": by,
		"changed_at": at}
	if closedWhy != "" {
		set["closed_at"] = at
	}
	return s.from(ctx).Model(&purchaseRow{}).Where("id = ?", id).Updates(set).Error
}

// Purchase loads an order.
func (s *Store) Purchase(ctx context.Context, id int64) (Purchase, error) {
	list, err := s.Purchases(ctx, id)
	if err == nil && len(list) == 0 {
		err = ErrNotFound
	}
	if err != nil {
		return Purchase{}, err
	}
	return list[0], nil
}

// Purchases loads orders, the newest first; with ids only those.
func (s *Store) Purchases(ctx context.Context, ids ...int64) ([]Purchase, error) {
	tx := s.from(ctx)
	var rows []purchaseRow
	q := tx.Order("ordered_on desc, id desc")
	if len(ids) > 0 {
		q = q.Where("id in ?", ids)
	}
	if err := q.Find(&rows).Error; err != nil || len(rows) == 0 {
		return []Purchase{}, err
	}
	out := make([]Purchase, len(rows))
	at := map[int64]*Purchase{}
	wanted := make([]int64, len(rows))
	for i, r := range rows {
		out[i] = Purchase{ID: r.ID, ClosedAt: r.ClosedAt, ClosedWhy: r.ClosedWhy, Version: r.Version,
			ChangedBy: r.ChangedBy, ChangedAt: r.ChangedAt, Lines: []PurchaseLine{}, Arrivals: []Arrival{}}
		out[i].PurchaseFields = PurchaseFields{Supplier: r.Supplier, Reference: r.Reference, Note: r.Note,
			OrderedOn: isoDay(r.OrderedOn), ExpectedOn: isoDay(r.ExpectedOn)}
		at[r.ID], wanted[i] = &out[i], r.ID
	}
	if err := s.lines(tx, wanted, at); err != nil {
		return nil, err
	}
	came, err := s.arrivals(tx, "l.purchase_id in ?", wanted)
	if err != nil {
		return nil, err
	}
	for _, a := range came {
		p := at[a.PurchaseID]
		p.Arrivals = append(p.Arrivals, a)
	}
	for i := range out {
		out[i].tally()
	}
	return out, nil
}

// lines loads the lines of orders into them.
func (s *Store) lines(tx *gorm.DB, wanted []int64, at map[int64]*Purchase) error {
	var lines []purchaseLineRow
	if err := tx.Where("purchase_id in ?", wanted).Order("id").Find(&lines).Error; err != nil {
		return err
	}
	var kept []purchaseKeptRow
	err := tx.Where("line_id in (select id from purchase_lines where purchase_id in ?)", wanted).
		Order("line_id, n").Find(&kept).Error
	if err != nil {
		return err
	}
	of := map[int64][]purchase.KeptPart{}
	for _, k := range kept {
		of[k.LineID] = append(of[k.LineID], purchase.KeptPart{Kind: k.Kind, Model: k.Model})
	}
	for _, l := range lines {
		p := at[l.PurchaseID]
		p.Lines = append(p.Lines, PurchaseLine{ID: l.ID, Line: purchase.Line{What: l.What, Kit: l.Kit, Count: l.Count,
			Price: l.Price, Box: listed(l.Box), Kept: listed(of[l.ID]), Machines: listed(l.Machines)}})
	}
	return nil
}

// tally counts what came of each line.
func (p *Purchase) tally() {
	came := make([]purchase.Came, len(p.Arrivals))
	for i, a := range p.Arrivals {
		came[i] = purchase.Came{Line: a.LineID, Kept: a.Kept, Outcome: a.Outcome, Claim: a.Claim}
	}
	for i := range p.Lines {
		l := &p.Lines[i]
		l.Progress = purchase.Tally(l.ID, l.Line, came)
	}
}

// Waits reports whether something of the order is still to come, or claimed.
func (p *Purchase) Waits() bool {
	for _, l := range p.Lines {
		for _, g := range l.Progress {
			if g.Claimed > 0 || p.ClosedAt == nil && g.ToCome > 0 {
				return true
			}
		}
	}
	return false
}

// LastSuppliers are those from whom each kit was ordered last, by the kit's key.
func (s *Store) LastSuppliers(ctx context.Context) (map[string]string, error) {
	var rows []struct{ Kit, Supplier string }
	err := s.from(ctx).Raw(`select distinct on (l.kit) l.kit, p.supplier
		from purchase_lines l join purchases p on p.id = l.purchase_id where l.kit <> ''
		order by l.kit, p.ordered_on desc, p.id desc`).Scan(&rows).Error
	out := map[string]string{}
	for _, r := range rows {
		out[r.Kit] = r.Supplier
	}
	return out, err
}
