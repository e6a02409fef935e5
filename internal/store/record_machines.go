package store

import (
	"encoding/json"
	"fmt"
	"strings"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/maintenance"
	"wardifex/internal/core/recordfile"
)

func (in *importer) writeMachines(list []recordfile.Machine) error {
	rows := make([]machineRow, len(list))
	for i, m := range list {
		rows[i] = machineRow{
			Name:       m.Name,
			Bay:        m.Bay,
			Maker:      m.Maker,
			Serial:     m.Serial,
			Note:       m.Note,
			Supplier:   m.Supplier,
			Price:      m.Price,
			Since:      m.Since,
			RetiredAt:  m.RetiredAt,
			RetiredWhy: m.RetiredWhy,
			Version:    m.Changed.Version,
			ChangedBy:  m.Changed.By,
			ChangedAt:  m.Changed.At,
		}
		var err error
		if rows[i].BoughtOn, err = dateOf(m.BoughtOn); err != nil {
			return fmt.Errorf("machine %s: %w", m.Name, err)
		}
	}
	if err := createAll(in.tx, rows); err != nil {
		return err
	}
	in.machines = make([]newMachine, len(list))
	for i, m := range list {
		in.machines[i] = newMachine{Machine: m, id: rows[i].ID, orders: make([]int64, len(m.Orders)+1)}
	}
	return nil
}

// writeOrders writes the work orders of the machines, with their locks and steps.
func (in *importer) writeOrders() error {
	var rows []orderRow
	for _, m := range in.machines {
		for _, o := range m.Orders {
			rows = append(rows, orderOf(m.id, o))
		}
	}
	if err := createAll(in.tx, rows); err != nil {
		return err
	}
	var locks []lockRow
	var steps []stepRow
	var photos [][]recordfile.Photo // by step
	next := 0
	for _, m := range in.machines {
		for i, o := range m.Orders {
			id := rows[next].ID
			m.orders[i+1] = id
			next++
			for _, l := range o.Locks {
				locks = append(locks, lockRow{WorkOrderID: id, Name: l.Name, PutOn: l.PutOn, TakenOff: l.Off,
					TakenOffBy: l.OffBy, Why: l.Why})
			}
			for n, s := range o.Steps {
				steps = append(steps, stepRow{
					WorkOrderID: id,
					Seq:         n + 1,
					Key:         s.Key,
					Step:        orNull(s.Step),
					Data:        orNull(s.Data),
					Note:        s.Note,
					DoneBy:      s.DoneBy,
					DoneAt:      s.DoneAt,
					SkippedWhy:  s.SkippedWhy,
					Version:     s.Version,
				})
				photos = append(photos, s.Photos)
			}
		}
	}
	if err := createAll(in.tx, locks); err != nil {
		return err
	}
	if err := createAll(in.tx, steps); err != nil {
		return err
	}
	for i := range steps {
		if err := in.photos(photos[i], photoRow{WorkOrderID: &steps[i].WorkOrderID, StepKey: &steps[i].Key}); err != nil {
			return err
		}
	}
	return nil
}

func orderOf(machineID int64, o recordfile.Order) orderRow {
	row := orderRow{
		MachineID: machineID,
		KitKey:    o.KitKey,
		Kit:       orNull(o.Kit),
		Further:   orNull(o.Further),
		Verdict:   orNull(o.Verdict),
		Reason:    o.Reason,
		State:     o.State,
		OpenedBy:  o.OpenedBy,
		OpenedAt:  o.OpenedAt,
		ClosedBy:  o.ClosedBy,
		ClosedAt:  o.ClosedAt,
		Closing:   orNull(o.Closing),
		Task:      o.Task,
		Spares:    []byte("{}"), // what lay on another shop's shelf has other numbers here
	}
	if p := o.Parked; p != nil {
		row.ParkedAt, row.ParkedBy, row.ParkedWhy = &p.At, p.By, p.Why
		row.ParkedLoose, row.ParkedScrews, row.ParkedWaits = p.Loose, p.Screws, p.Waits
	}
	if b := o.Back; b != nil {
		row.BackAt, row.BackBy, row.BackWhy = &b.At, b.By, b.Why
	}
	return row
}

// writePositions lists what the machines have and had. A file of the first version says nothing of it: there they have
// the usual positions, and those that held something.
func (in *importer) writePositions() error {
	var rows []positionRow
	ids := make([]int64, len(in.machines))
	for i, m := range in.machines {
		ids[i] = m.id
		list := m.Positions
		if list == nil {
			held := map[string]bool{}
			for _, f := range m.Fittings {
				held[f.Slot] = true
			}
			for _, p := range in.s.vocabularyOf(in.tx).Usual(func(p machine.Position) bool { return held[p.Key] }) {
				list = append(list, recordfile.Listed{Position: p, From: m.Since, By: m.Changed.By})
			}
		}
		for _, p := range list {
			row, err := positionOf(m.id, p.Position, p.By, p.From)
			if err != nil {
				return fmt.Errorf("machine %s: %w", m.Name, err)
			}
			row.ToAt = p.To
			rows = append(rows, row)
		}
	}
	if err := createAll(in.tx, rows); err != nil {
		return err
	}
	return in.tx.Exec("update machines set structure = structure + 1 where id = any(?::bigint[])", arrayOf(ids)).Error
}

// writeFittings writes what was at the positions, and the runs of builds with what was read of them.
func (in *importer) writeFittings() error {
	var rows []fittingRow
	var takings [][]machine.Taking // by fitting
	var runs []recordfile.Run      // of the first fittings
	for i := range in.machines {
		m := &in.machines[i]
		for _, r := range in.ran(m.Machine) {
			rows = append(rows, fittingRow{MachineID: m.id, Slot: r.Slot, FittedAt: r.From, RemovedAt: r.To,
				WorkOrderID: m.order(r.Order), Why: r.Why, MovedBy: r.By})
			runs, takings = append(runs, r), append(takings, r.Takes)
		}
	}
	for i := range in.machines {
		m := &in.machines[i]
		for _, f := range m.Fittings {
			if _, software := in.software[f.Part]; software {
				continue
			}
			part := in.parts[f.Part]
			rows = append(rows, fittingRow{MachineID: m.id, Slot: f.Slot, FittedAt: f.From, RemovedAt: f.To,
				WorkOrderID: m.order(f.Order), PartID: &part, Why: f.Why, MovedBy: f.By})
			takings = append(takings, f.Takes)
		}
	}
	if err := createAll(in.tx, rows); err != nil {
		return err
	}
	if err := in.writeTakings(rows, takings); err != nil {
		return err
	}
	return in.writeRuns(rows[:len(runs)], runs)
}

// writeTakings writes what fitted parts take, and what is taken of machines for good.
func (in *importer) writeTakings(fitted []fittingRow, takings [][]machine.Taking) error {
	var last int64
	if err := in.tx.Raw("select coalesce(max(id), 0) from readings").Scan(&last).Error; err != nil {
		return err
	}
	var all []takingRow
	for i := range fitted {
		rows, err := takingRows(fitted[i].MachineID, &fitted[i].ID, last, takings[i])
		if err != nil {
			return err
		}
		all = append(all, rows...)
	}
	for _, m := range in.machines {
		rows, err := takingRows(m.id, nil, last, m.Takings)
		if err != nil {
			return err
		}
		all = append(all, rows...)
	}
	return createAll(in.tx, all)
}

func (in *importer) writeRuns(fitted []fittingRow, runs []recordfile.Run) error {
	ids := make([]int64, len(in.machines))
	for i, m := range in.machines {
		ids[i] = m.id
	}
	if len(runs) == 0 {
		return nil
	}
	listed, err := listedNow(in.tx, ids)
	if err != nil {
		return err
	}
	rows := make([]runRow, len(runs))
	found := make([]foundOf, len(runs))
	for i, r := range runs {
		at := &fitted[i]
		rows[i] = runRow{FittingID: at.ID, Board: r.Board, Configured: []byte("{}")}
		if r.Board == "" {
			rows[i].Board = boardOf(in.s.vocabularyOf(in.tx), listed[at.MachineID], r.Slot)
		}
		if id := in.builds[strings.ToLower(r.Build)]; r.Build != "" && id != 0 {
			rows[i].BuildID = &id
		}
		if len(r.Configured) > 0 {
			if rows[i].Configured, err = json.Marshal(r.Configured); err != nil {
				return err
			}
		}
		found[i] = foundOf{at.held(), r.Readings, r.Unreadable}
	}
	if err := createAll(in.tx, rows); err != nil {
		return err
	}
	return in.writeFound(found)
}

// writeCalibrations writes records with what made them invalid.
func (in *importer) writeCalibrations() error {
	var rows []calibrationRow
	for i := range in.machines {
		m := &in.machines[i]
		for _, c := range m.Calibrations {
			proof := calibration.Record{}.Proof
			if c.Proof != nil {
				proof = *c.Proof
			}
			text, err := json.Marshal(proof)
			if err != nil {
				return err
			}
			rows = append(rows, calibrationRow{
				MachineID:   m.id,
				Kind:        c.Kind,
				Subject:     c.Subject,
				Value:       c.Value,
				Store:       c.Store,
				Method:      c.Method,
				Passed:      c.Passed,
				Proof:       text,
				DoneAt:      c.At,
				DoneBy:      c.By,
				WorkOrderID: m.order(c.Order),
			})
		}
	}
	if err := createAll(in.tx, rows); err != nil {
		return err
	}
	var gone []invalidRow
	next := 0
	for i := range in.machines {
		m := &in.machines[i]
		for _, c := range m.Calibrations {
			for _, v := range c.Gone() {
				causes, err := json.Marshal(append([]string{}, v.Causes...))
				if err != nil {
					return err
				}
				gone = append(gone, invalidRow{CalibrationID: rows[next].ID, Subject: v.Subject, Reason: v.Reason,
					Remedy: v.Remedy, Causes: causes, At: v.At, WorkOrderID: m.order(v.Order)})
			}
			next++
		}
	}
	return createAll(in.tx, gone)
}

// writeHistory writes meters, what was done, working time, availability and wire sheets.
func (in *importer) writeHistory() error {
	var meters []meterRow
	var done []doneRow
	var labour []labourRow
	var uses []useRow
	var wires []wireRow
	for i := range in.machines {
		m := &in.machines[i]
		for _, x := range m.Meters {
			meters = append(meters, meterRow{MachineID: m.id, Counter: x.Counts(), ReadAt: x.At, Amount: x.Hours,
				Reset: x.Reset, TakenBy: x.By})
		}
		for _, x := range m.Done {
			done = append(done, doneRow{MachineID: m.id, Task: x.Task, DoneAt: x.At, DoneBy: x.By, Note: x.Note,
				NewParts: append([]string{}, x.NewParts...)})
		}
		for _, x := range m.Labour {
			labour = append(labour, labourRow{MachineID: m.id, WorkOrderID: m.order(x.Order), At: x.At, By: x.By,
				Minutes: x.Minutes, What: x.What})
		}
		for _, x := range m.Uses {
			uses = append(uses, useRow{MachineID: m.id, Use: string(x.Use), Why: x.Why, At: x.At, By: x.By})
		}
		for _, w := range m.WireSheets {
			text, err := json.Marshal(w.Sheet)
			if err != nil {
				return err
			}
			wires = append(wires, wireRow{MachineID: m.id, Head: w.Head, Definition: text, Version: w.Changed.Version,
				ChangedBy: w.Changed.By, ChangedAt: w.Changed.At})
		}
	}
	if err := createAll(in.tx, meters); err != nil {
		return err
	}
	if err := createAll(in.tx, done); err != nil {
		return err
	}
	if err := createAll(in.tx, labour); err != nil {
		return err
	}
	if err := createAll(in.tx, uses); err != nil {
		return err
	}
	return createAll(in.tx, wires)
}

func (in *importer) writeFaults() error {
	var rows []faultRow
	var photos [][]recordfile.Photo // by fault
	for _, m := range in.machines {
		for _, x := range m.Faults {
			rows = append(rows, faultRow{
				MachineID:  m.id,
				Symptom:    x.Symptom,
				Words:      x.Words,
				ReportedBy: x.By,
				ReportedAt: x.At,
				ClosedAt:   x.ClosedAt,
				ClosedBy:   x.ClosedBy,
				Answer:     x.Answer,
				Danger:     maintenance.IsDanger(x.Symptom, x.Words),
				Version:    x.Version,
			})
			photos = append(photos, x.Photos)
		}
	}
	if err := createAll(in.tx, rows); err != nil {
		return err
	}
	for i := range rows {
		if err := in.photos(photos[i], photoRow{FaultID: &rows[i].ID}); err != nil {
			return err
		}
	}
	return nil
}
