package store

import (
	"context"
	"fmt"
	"strings"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"wardifex/internal/core/civil"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/maintenance"
)

type faultRow struct {
	ID         int64
	MachineID  int64
	Symptom    string
	Words      string
	ReportedBy string
	ReportedAt time.Time
	// ReportedByID and TakenByID are accounts.
	ReportedByID *int64
	TakenBy      string
	TakenByID    *int64
	TakenAt      *time.Time
	ClosedAt     *time.Time
	ClosedBy     string
	Answer       string
	Danger       bool
	Version      int
}

func (faultRow) TableName() string { return "faults" }

type useRow struct {
	ID        int64
	MachineID int64
	Use       string
	Why       string
	At        time.Time
	By        string
}

func (useRow) TableName() string { return "machine_uses" }

// ReportedFault is a fault as somebody reported it.
type ReportedFault struct {
	ID        int64      `json:"id"`
	MachineID int64      `json:"machineId"`
	Machine   string     `json:"machine,omitempty"`
	Symptom   string     `json:"symptom" doc:"Key of a symptom, or empty"`
	Words     string     `json:"words"`
	By        string     `json:"by"`
	At        time.Time  `json:"at"`
	TakenBy   string     `json:"takenBy,omitempty" doc:"Who is on it"`
	TakenAt   *time.Time `json:"takenAt,omitempty"`
	Mine      bool       `json:"mine" doc:"Whoever asks is on it"`
	ClosedAt  *time.Time `json:"closedAt,omitempty"`
	ClosedBy  string     `json:"closedBy,omitempty"`
	Answer    string     `json:"answer,omitempty" doc:"What it was and what was done"`
	Danger    bool       `json:"danger" doc:"It can hurt somebody: its machine is closed until somebody has looked"`
	Version   int        `json:"version"`
	Photos    []int64    `json:"photos"`
}

// UseSince is what a machine may be used for, since when and why.
type UseSince struct {
	Use maintenance.Use `json:"use" enum:"in use,attended only,out of use"`
	Why string          `json:"why,omitempty"`
	At  *time.Time      `json:"at,omitempty" doc:"Empty when it was never said otherwise"`
	By  string          `json:"by,omitempty"`
}

// AddFault writes down a fault of a machine, as it was reported by whoever writes with the context, and gives its
// number.
func (s *Store) AddFault(ctx context.Context, f ReportedFault) (int64, error) {
	row := faultRow{MachineID: f.MachineID, Symptom: f.Symptom, Words: f.Words, ReportedBy: f.By, ReportedAt: f.At,
		Danger: f.Danger, Version: 1, ReportedByID: orNil(actorOf(ctx).Account)}
	err := s.from(ctx).Create(&row).Error
	return row.ID, err
}

// LockFault takes a fault for the transaction, and tells its version.
func (s *Store) LockFault(ctx context.Context, id int64) (version int, err error) {
	if err := s.lockMachineOf(ctx, "faults", id); err != nil {
		return 0, err
	}
	var row faultRow
	err = s.from(ctx).Clauses(clause.Locking{Strength: "UPDATE"}).First(&row, id).Error
	return row.Version, found(err)
}

// WriteAnswer writes what a fault was and what was done, as its next version; an empty
// answer opens it again.
func (s *Store) WriteAnswer(ctx context.Context, id int64, answer, by string, at time.Time) error {
	set := map[string]any{"version": gorm.Expr("version + 1"), "answer": answer, "closed_by": by, "closed_at": at}
	if answer == "" {
		set["closed_by"], set["closed_at"] = "", nil
	}
	return s.from(ctx).Model(&faultRow{}).Where("id = ?", id).Updates(set).Error
}

// TakeFault notes who is on a fault, as its next version; nobody where account is 0.
func (s *Store) TakeFault(ctx context.Context, id, account int64, by string, at time.Time) error {
	set := map[string]any{
		"version": gorm.Expr("version + 1"), "taken_by": by, "taken_by_id": account, "taken_at": at,
	}
	if account == 0 {
		set["taken_by"], set["taken_by_id"], set["taken_at"] = "", nil, nil
	}
	return s.from(ctx).Model(&faultRow{}).Where("id = ?", id).Updates(set).Error
}

// HasFault reports whether there is a fault of a number.
func (s *Store) HasFault(ctx context.Context, id int64) (bool, error) {
	var n int64
	err := s.from(ctx).Model(&faultRow{}).Where("id = ?", id).Count(&n).Error
	return n > 0, err
}

// AddUse writes down what a machine may be used for from now on, and why.
func (s *Store) AddUse(ctx context.Context, machineID int64, use maintenance.Use, why, by string, at time.Time) error {
	return s.from(ctx).Create(&useRow{MachineID: machineID, Use: string(use), Why: why, At: at, By: by}).Error
}

// OpenDanger is a danger that was reported of a machine, while its fault is open.
type OpenDanger struct {
	Fault   int64
	Symptom string
	Words   string
	By      string
	At      time.Time
}

// String tells what was reported, by whom and when.
func (d OpenDanger) String() string {
	return fmt.Sprintf("danger reported by %s on %s: %s", d.By, d.At.Format(civil.Moment), d.what())
}

func (d OpenDanger) what() string {
	if s, ok := maintenance.SymptomOf(d.Symptom); ok {
		return strings.ToLower(s.Title)
	}
	return d.Words
}

// Sister is a machine with a part of the same model as one that is dangerous.
type Sister struct {
	ID    int64  `json:"id"`
	Name  string `json:"name"`
	Kind  string `json:"kind" doc:"Of the part"`
	Model string `json:"model"`
}

// Sisters lists the machines of the fleet on which a part of the same model is fitted as on a machine, of some kinds
// of part, by name.
func (s *Store) Sisters(ctx context.Context, machineID int64, kinds []string) ([]Sister, error) {
	out := []Sister{}
	err := s.from(ctx).Raw(`
		with fitted as (select f.machine_id, p.kind, p.standing_model as model
			from fittings f join parts p on p.id = f.part_id
			where f.removed_at is null and p.kind in ? and p.standing_model not in ('', ?))
		select distinct m.id, m.name, o.kind, o.model from fitted own join fitted o on o.kind = own.kind
			and o.model = own.model and o.machine_id <> own.machine_id
		join machines m on m.id = o.machine_id and m.retired_at is null
		where own.machine_id = ? order by o.kind, o.model, m.name, m.id`, kinds, machine.None, machineID).Scan(&out).Error
	return out, err
}

// FaultFilter chooses faults: of one machine, or of all where it is 0; open, dangerous and open, closed or those
// of an account, which reported them or is on them; all where Show is empty.
type FaultFilter struct {
	ID      int64 // the one of this number; 0 for all
	Machine int64
	Show    string
	Account int64
	Cut
}

// Faults lists faults, open ones first, then the newest.
func (s *Store) Faults(ctx context.Context, f FaultFilter) (Listed[ReportedFault], error) {
	tx := s.from(ctx)
	var rows []struct {
		Fault   faultRow `gorm:"embedded"`
		Machine string
	}
	q := tx.Table("faults").
		Joins("join machines on machines.id = faults.machine_id")
	if f.ID != 0 {
		q = q.Where("faults.id = ?", f.ID)
	}
	if f.Machine != 0 {
		q = q.Where("machine_id = ?", f.Machine)
	}
	switch f.Show {
	case "open":
		q = q.Where("closed_at is null")
	case "closed":
		q = q.Where("closed_at is not null")
	case "danger":
		q = q.Where("closed_at is null and danger")
	case "mine":
		q = q.Where("closed_at is null and (taken_by_id = ? or reported_by_id = ?)", f.Account, f.Account)
	}
	var out Listed[ReportedFault]
	var found int64
	if err := q.Session(&gorm.Session{}).Count(&found).Error; err != nil {
		return out, err
	}
	out.Found = int(found)
	if err := q.Select("faults.*, machines.name as machine").
		Order("closed_at is null desc, (closed_at is null and danger) desc, " +
			"coalesce(closed_at, reported_at) desc, faults.id desc").
		Offset(f.Offset).Limit(f.rows()).Scan(&rows).Error; err != nil {
		return out, err
	}
	ids := make([]int64, len(rows))
	for i, r := range rows {
		ids[i] = r.Fault.ID
	}
	photos, err := photoIDs(tx, "fault_id", ids)
	out.Rows = make([]ReportedFault, len(rows))
	for i, r := range rows {
		is := r.Fault
		out.Rows[i] = ReportedFault{
			ID:        is.ID,
			MachineID: is.MachineID,
			Machine:   r.Machine,
			Symptom:   is.Symptom,
			Words:     is.Words,
			By:        is.ReportedBy,
			At:        is.ReportedAt,
			TakenBy:   is.TakenBy,
			TakenAt:   is.TakenAt,
			Mine:      is.TakenByID != nil && *is.TakenByID == f.Account,
			ClosedAt:  is.ClosedAt,
			ClosedBy:  is.ClosedBy,
			Answer:    is.Answer,
			Danger:    is.Danger,
			Version:   is.Version,
			Photos:    photos[is.ID],
		}
		if out.Rows[i].Photos == nil {
			out.Rows[i].Photos = []int64{}
		}
	}
	return out, err
}

// Fault loads one fault.
func (s *Store) Fault(ctx context.Context, id int64) (ReportedFault, error) {
	list, err := s.Faults(ctx, FaultFilter{ID: id})
	if err == nil && len(list.Rows) == 0 {
		err = ErrNotFound
	}
	if err != nil {
		return ReportedFault{}, err
	}
	return list.Rows[0], nil
}

// loadUses gives each machine what it may be used for, and its open faults.
func loadUses(tx *gorm.DB, at map[int64]*Machine) error {
	for _, m := range at {
		m.Use = UseSince{Use: maintenance.InUse}
	}
	var rows []useRow
	if err := tx.Session(&gorm.Session{}).Order("at, id").Find(&rows).Error; err != nil {
		return err
	}
	for _, r := range rows {
		if m := at[r.MachineID]; m != nil {
			when := r.At
			m.Use = UseSince{Use: maintenance.Use(r.Use), Why: r.Why, At: &when, By: r.By}
		}
	}
	var dangers []faultRow
	err := tx.Session(&gorm.Session{}).Where("closed_at is null and danger").Order("reported_at, id").Find(&dangers).Error
	if err != nil {
		return err
	}
	for _, d := range dangers {
		if m := at[d.MachineID]; m != nil && m.Danger == nil {
			m.Danger = &OpenDanger{Fault: d.ID, Symptom: d.Symptom, Words: d.Words, By: d.ReportedBy, At: d.ReportedAt}
		}
	}
	var counts []struct {
		MachineID int64
		N         int
	}
	if err := tx.Session(&gorm.Session{}).Table("faults").Select("machine_id, count(*) as n").Where(
		"closed_at is null").Group("machine_id").Scan(&counts).Error; err != nil {
		return err
	}
	for _, c := range counts {
		if m := at[c.MachineID]; m != nil {
			m.OpenFaults = c.N
		}
	}
	return nil
}

// Bays are where machines stand, by their numbers.
func (s *Store) Bays(ctx context.Context) (map[int64]string, error) {
	var rows []machineRow
	err := s.from(ctx).Select("id, bay").Find(&rows).Error
	out := make(map[int64]string, len(rows))
	for _, r := range rows {
		out[r.ID] = r.Bay
	}
	return out, err
}
