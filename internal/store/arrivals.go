package store

import (
	"context"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"wardifex/internal/core/machine"
	"wardifex/internal/core/purchase"
)

type arrivalRow struct {
	ID         int64
	LineID     int64
	Kept       int
	CameOn     *time.Time
	Outcome    string
	Note       string
	Slip       string
	Lot        string
	PartID     *int64
	ReturnBy   *time.Time
	Claim      string
	ClaimNote  string
	ReplacesID *int64
	ReceivedBy string
	ReceivedAt time.Time
	Version    int
	ChangedBy  string
	ChangedAt  time.Time
}

func (arrivalRow) TableName() string { return "arrivals" }

type findingRow struct {
	ArrivalID  int64
	Trait      string
	Advertised string
	Found      string
	Grade      int16
}

func (findingRow) TableName() string { return "arrival_findings" }

// ArrivalFields are what is written of a thing when it comes.
type ArrivalFields struct {
	LineID int64  `json:"lineId"`
	Kept   int    `json:"kept"     minimum:"0" doc:"Which of the parts in a box; 0 where it has none"`
	CameOn string `json:"cameOn,omitempty" doc:"ISO 8601; today when empty"`
	// By what was found when it is empty.
	Outcome  purchase.Outcome `json:"outcome,omitempty" enum:"as advertised,wrong,damaged,missing,"`
	Note     string           `json:"note,omitempty" maxLength:"1000" doc:"What is wrong with it"`
	Slip     string           `json:"slip,omitempty" maxLength:"120" doc:"Number of the delivery note"`
	Lot      string           `json:"lot,omitempty" maxLength:"60"`
	ReturnBy string           `json:"returnBy,omitempty" doc:"Until when it can be sent back, ISO 8601"`
	Replaces *int64           `json:"replaces,omitempty" doc:"The thing whose replacement it is"`
}

// Arrival is a thing that came, or should have.
type Arrival struct {
	ID         int64  `json:"id"`
	PurchaseID int64  `json:"purchaseId"`
	Supplier   string `json:"supplier"`
	What       string `json:"what" doc:"The part's advertised model, or what the line says"`
	Kind       string `json:"kind,omitempty" doc:"Of part; empty where it goes on no record"`
	ArrivalFields
	PartID     *int64                  `json:"partId,omitempty" doc:"The part that it became"`
	Findings   []purchase.TraitChecked `json:"findings"`
	Claim      purchase.Claim          `json:"claim,omitempty" enum:"open,sent back,replaced,refunded,given up,"`
	ClaimNote  string                  `json:"claimNote,omitempty"`
	Waits      bool                    `json:"waits" doc:"Something is still expected of the supplier"`
	Due        string                  `json:"due,omitempty" doc:"Until when it goes back, in words"`
	Photos     []int64                 `json:"photos"`
	ReceivedBy string                  `json:"receivedBy"`
	ReceivedAt time.Time               `json:"receivedAt"`
	Version    int                     `json:"version"`
	ChangedBy  string                  `json:"-"`
	ChangedAt  time.Time               `json:"-"`
}

// AddArrival writes down what came, with what was found, and gives its number. part is the
// part that it became; 0 where it became none.
func (s *Store) AddArrival(ctx context.Context, f ArrivalFields, claim purchase.Claim, findings []purchase.TraitChecked,
	part int64, by string, at time.Time) (int64, error) {
	row := arrivalRow{LineID: f.LineID, Kept: f.Kept, Outcome: string(f.Outcome), Note: f.Note, Slip: f.Slip, Lot: f.Lot,
		ReplacesID: f.Replaces, Claim: string(claim), ReceivedBy: by, ReceivedAt: at, Version: 1, ChangedBy: by,
		ChangedAt: at}
	if part != 0 {
		row.PartID = &part
	}
	var err error
	if row.CameOn, err = dateOf(f.CameOn); err != nil {
		return 0, err
	}
	if row.ReturnBy, err = dateOf(f.ReturnBy); err != nil {
		return 0, err
	}
	return row.ID, s.tx(ctx, func(tx *gorm.DB) error {
		if err := tx.Create(&row).Error; err != nil {
			return err
		}
		for _, c := range findings {
			found := findingRow{ArrivalID: row.ID, Trait: c.Trait, Advertised: c.Advertised, Found: c.Found,
				Grade: int16(c.Grade)}
			if err := tx.Create(&found).Error; err != nil {
				return err
			}
		}
		return nil
	})
}

// LockArrival takes a thing that came for the transaction.
func (s *Store) LockArrival(ctx context.Context, id int64) (Arrival, error) {
	var row arrivalRow
	if err := s.from(ctx).Clauses(clause.Locking{Strength: "UPDATE"}).First(&row, id).Error; err != nil {
		return Arrival{}, found(err)
	}
	list, err := s.arrivals(s.from(ctx), "a.id = ?", id)
	if err != nil || len(list) == 0 {
		return Arrival{}, cmpErr(err, ErrNotFound)
	}
	return list[0], nil
}

// WriteClaim writes how far a claim has come, as the next version.
func (s *Store) WriteClaim(ctx context.Context, id int64, claim purchase.Claim, note string, returnBy string, by string,
	at time.Time) error {
	day, err := dateOf(returnBy)
	if err != nil {
		return err
	}
	return s.from(ctx).Model(&arrivalRow{}).Where("id = ?", id).Updates(map[string]any{"claim": string(claim),
		"claim_note": note, "return_by": day, "version": gorm.Expr("version + 1"), "changed_by": by, "changed_at": at}).Error
}

// HasArrival reports whether there is a thing of a number that came.
func (s *Store) HasArrival(ctx context.Context, id int64) (bool, error) {
	var n int64
	err := s.from(ctx).Model(&arrivalRow{}).Where("id = ?", id).Count(&n).Error
	return n > 0, err
}

// Claims lists what is still claimed of suppliers, what goes back first first.
func (s *Store) Claims(ctx context.Context) ([]Arrival, error) {
	return s.arrivals(s.from(ctx).Order("a.return_by nulls last"), "a.claim in ?",
		[]string{string(purchase.Open), string(purchase.SentBack)})
}

// WrongGoods lists what came and became no part of the shop's.
func (s *Store) WrongGoods(ctx context.Context) ([]Arrival, error) {
	return s.arrivals(s.from(ctx), "a.part_id is null and a.outcome <> ?", string(purchase.AsAdvertised))
}

// arrivals lists things that came, the newest first.
func (s *Store) arrivals(tx *gorm.DB, where string, args ...any) ([]Arrival, error) {
	var rows []struct {
		Row                   arrivalRow `gorm:"embedded"`
		PurchaseID            int64
		Supplier, What        string
		Kind, AdvertisedModel *string
	}
	err := tx.Table("arrivals a").Select("a.*, l.purchase_id, p.supplier, l.what, k.kind, k.model as advertised_model").
		Joins("join purchase_lines l on l.id = a.line_id").Joins("join purchases p on p.id = l.purchase_id").
		Joins("left join purchase_kept k on k.line_id = l.id and k.n = a.kept").
		Where(where, args...).Order("a.received_at desc, a.id desc").Scan(&rows).Error
	if err != nil || len(rows) == 0 {
		return []Arrival{}, err
	}
	tx = tx.Session(&gorm.Session{NewDB: true})
	ids := make([]int64, len(rows))
	for i, r := range rows {
		ids[i] = r.Row.ID
	}
	photos, err := photoIDs(tx, "arrival_id", ids)
	if err != nil {
		return nil, err
	}
	var findings []findingRow
	if err := tx.Where("arrival_id in ?", ids).Order("arrival_id, trait").Find(&findings).Error; err != nil {
		return nil, err
	}
	of := map[int64][]purchase.TraitFound{}
	for _, f := range findings {
		of[f.ArrivalID] = append(of[f.ArrivalID], purchase.TraitFound{Trait: f.Trait, Advertised: f.Advertised,
			Found: f.Found,
			Grade: machine.Grade(f.Grade)})
	}
	voc := s.vocabularyOf(tx)
	out := make([]Arrival, len(rows))
	for i, r := range rows {
		a := Arrival{ID: r.Row.ID, PurchaseID: r.PurchaseID, Supplier: r.Supplier, What: r.What, PartID: r.Row.PartID,
			Claim: purchase.Claim(r.Row.Claim), ClaimNote: r.Row.ClaimNote, Photos: listed(photos[r.Row.ID]),
			ReceivedBy: r.Row.ReceivedBy,
			ReceivedAt: r.Row.ReceivedAt, Version: r.Row.Version, ChangedBy: r.Row.ChangedBy, ChangedAt: r.Row.ChangedAt}
		a.ArrivalFields = ArrivalFields{LineID: r.Row.LineID, Kept: r.Row.Kept, CameOn: isoDay(r.Row.CameOn),
			Outcome: purchase.Outcome(r.Row.Outcome), Note: r.Row.Note, Slip: r.Row.Slip, Lot: r.Row.Lot,
			ReturnBy: isoDay(r.Row.ReturnBy),
			Replaces: r.Row.ReplacesID}
		if r.Kind != nil {
			a.Kind, a.What = *r.Kind, *r.AdvertisedModel
		}
		a.Waits = a.Claim.Waits()
		a.Findings = purchase.Recall(voc, a.Kind, of[r.Row.ID])
		out[i] = a
	}
	return out, nil
}
