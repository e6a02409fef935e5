package store

import (
	"context"
	"encoding/json"
	"time"

	"gorm.io/gorm"

	"wardifex/internal/core/machine"
)

type takingRow struct {
	ID           int64
	MachineID    int64
	FittingID    *int64
	Capacity     string
	Amount       float64
	What         string
	Key          string
	Shift        float64
	Covers       []byte `gorm:"type:jsonb"`
	AfterReading int64
	UntilReading int64
}

func (takingRow) TableName() string { return "takings" }

func (r takingRow) taking() (machine.Taking, error) {
	t := machine.Taking{
		Capacity:     r.Capacity,
		Amount:       r.Amount,
		What:         r.What,
		Key:          machine.Key(r.Key),
		Shift:        r.Shift,
		AfterReading: r.AfterReading,
		UntilReading: r.UntilReading,
	}
	return t, json.Unmarshal(r.Covers, &t.Covers)
}

// Take records what work takes of a machine for good, by no part.
func (s *Store) Take(ctx context.Context, machineID int64, list []machine.Taking) error {
	return takes(s.from(ctx), machineID, nil, list)
}

// takes records what a fitted part takes from now on; without a part, what is taken
// for good.
func takes(tx *gorm.DB, machineID int64, fitting *int64, list []machine.Taking) error {
	if len(list) == 0 {
		return nil
	}
	var last int64
	if err := tx.Raw("select coalesce(max(id), 0) from readings").Scan(&last).Error; err != nil {
		return err
	}
	return takesAfter(tx, machineID, fitting, last, list)
}

// takesAfter is takes where it is known which reading was the last before.
func takesAfter(tx *gorm.DB, machineID int64, fitting *int64, last int64, list []machine.Taking) error {
	rows, err := takingRows(machineID, fitting, last, list)
	if err == nil {
		err = createAll(tx, rows)
	}
	if err != nil {
		return err
	}
	return structureChanged(tx, machineID)
}

func takingRows(machineID int64, fitting *int64, last int64, list []machine.Taking) ([]takingRow, error) {
	out := make([]takingRow, len(list))
	for i, t := range list {
		covers, err := json.Marshal(append([]string{}, t.Covers...))
		if err != nil {
			return nil, err
		}
		out[i] = takingRow{
			MachineID:    machineID,
			FittingID:    fitting,
			Capacity:     t.Capacity,
			Amount:       t.Amount,
			What:         t.What,
			Key:          string(t.Key),
			Shift:        t.Shift,
			Covers:       covers,
			AfterReading: last,
		}
	}
	return out, nil
}

// takingsOf are what parts take or took on machines, by machine, with where and
// when the parts were there; of all machines without ids.
func takingsOf(tx *gorm.DB, ids []int64) (map[int64][]machine.Taking, error) {
	q := tx.Table("takings").Select("takings.*, fittings.slot, fittings.fitted_at, fittings.removed_at").
		Joins("left join fittings on fittings.id = takings.fitting_id").Order("takings.id")
	if len(ids) > 0 {
		q = q.Where("takings.machine_id in ?", ids)
	}
	var rows []struct {
		Taking              takingRow `gorm:"embedded"`
		Slot                string
		FittedAt, RemovedAt *time.Time
	}
	if err := q.Scan(&rows).Error; err != nil {
		return nil, err
	}
	out := map[int64][]machine.Taking{}
	for _, r := range rows {
		t, err := r.Taking.taking()
		if err != nil {
			return nil, err
		}
		t.Slot = r.Slot
		if r.FittedAt != nil {
			t.From = *r.FittedAt
		}
		if r.RemovedAt != nil {
			t.To = *r.RemovedAt
		}
		out[r.Taking.MachineID] = append(out[r.Taking.MachineID], t)
	}
	return out, nil
}
