package app

import (
	"context"
	"time"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/civil"
	"wardifex/internal/store"
)

// CalibrationRow is how one calibration of one machine stands.
type CalibrationRow struct {
	MachineID int64                 `json:"machineId"`
	Machine   string                `json:"machine"`
	Bay       string                `json:"bay"`
	Kind      calibration.Kind      `json:"kind"`
	Title     string                `json:"title"`
	Subject   calibration.Subject   `json:"subject"`
	Name      string                `json:"name,omitempty" doc:"Of the subject; empty is the machine as a whole"`
	State     calibration.StateWord `json:"state" enum:"valid,invalid,cannot be told,failed,never recorded"`
	Because   string                `json:"because,omitempty" doc:"Why it is not valid"`
	Value     string                `json:"value,omitempty"`
	Unit      string                `json:"unit,omitempty"`
	Store     string                `json:"store,omitempty" doc:"Where the value is kept"`
	Method    string                `json:"method,omitempty"`
	Build     string                `json:"build,omitempty" doc:"Of a proof: what ran while it was tested"`
	On        string                `json:"on,omitempty" doc:"ISO 8601"`
	By        string                `json:"by,omitempty"`
	Differs   string                `json:"differs,omitempty" doc:"What another place says, where two disagree"`
}

// CalibrationBook is the calibrations over the fleet.
type CalibrationBook struct {
	Rows  []CalibrationRow          `json:"rows"`
	Kinds []calibration.Calibration `json:"kinds"`
}

// CalibrationBook lists how the calibrations of a kind, or all, stand over the fleet. What a
// shop may do without is left out where it was never recorded.
func (a *App) CalibrationBook(ctx context.Context, kind calibration.Kind, now time.Time) (CalibrationBook, error) {
	out := CalibrationBook{Rows: []CalibrationRow{}, Kinds: calibration.All()}
	fleet, err := a.store.Fleet(ctx)
	if err != nil {
		return out, err
	}
	for i := range fleet {
		if err := ctx.Err(); err != nil {
			return out, err // whoever asked has gone
		}
		out.Rows = append(out.Rows, calibrationRows(&fleet[i], kind, now)...)
	}
	return out, nil
}

func calibrationRows(m *store.Machine, kind calibration.Kind, now time.Time) []CalibrationRow {
	var out []CalibrationRow
	disagree := calibration.Disagreements(m.Facts, m.Records, nil)
	unproven := map[calibration.Subject]string{} // a proof has its time, too
	for _, h := range m.Protection(now).Heaters {
		if !h.Proven {
			unproven[h.Subject] = h.Why
		}
	}
	for _, st := range calibration.States(m.Facts, m.Records) {
		c := st.Calibration
		if kind != "" && c.Kind != kind || st.Word == calibration.NeverMade && (c.Optional || c.Feature) {
			continue
		}
		row := CalibrationRow{MachineID: m.ID, Machine: m.Name, Bay: m.Bay, Kind: c.Kind, Title: c.Title, Subject: st.Subject,
			Name: st.Subject.String(), State: st.Word, Unit: c.Unit}
		if st.Subject == calibration.WholeMachine {
			row.Name = ""
		}
		if st.Invalid != nil {
			row.Because = st.Invalid.Reason
		}
		if why := unproven[st.Subject]; why != "" && c.Kind == calibration.Protection && st.Word == calibration.Valid {
			row.State, row.Because = calibration.NotValid, why
		}
		if r := st.Record; r != nil {
			row.Value, row.Store, row.Method, row.By, row.Build = r.Value, r.Store, r.Method, r.By, r.Proof.Build
			row.On = civil.Of(r.At.In(now.Location())).String()
		}
		for _, d := range disagree {
			if d.Kind == c.Kind && d.Subject == st.Subject {
				row.Differs = d.Says
			}
		}
		out = append(out, row)
	}
	return out
}
