package app

import (
	"cmp"
	"context"
	"slices"
	"strings"
	"time"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/civil"
	"wardifex/internal/core/machine"
)

// CalibrationHistory is what one calibration of one subject of a machine has been, and what it
// is on other machines.
type CalibrationHistory struct {
	Unit    string             `json:"unit,omitempty"`
	Made    []MadeCalibration  `json:"made" doc:"The oldest first"`
	Sisters []SisterCalibrated `json:"sisters" doc:"Valid values of other machines, those most alike first"`
}

// MadeCalibration is a calibration as it was made.
type MadeCalibration struct {
	On      string   `json:"on" doc:"ISO 8601"`
	By      string   `json:"by"`
	Value   string   `json:"value"`
	Number  *float64 `json:"number,omitempty" doc:"In the unit, where the value is one number"`
	Store   string   `json:"store"`
	Method  string   `json:"method"`
	Context []string `json:"context" doc:"The parts on which it was made, as far as they were known then"`
	Ended   string   `json:"ended,omitempty" doc:"Why it is no longer valid, where it was made invalid"`
}

// SisterCalibrated is a value of another machine: at most a start here, never the value.
type SisterCalibrated struct {
	MachineID int64    `json:"machineId"`
	Machine   string   `json:"machine"`
	Value     string   `json:"value"`
	Number    *float64 `json:"number,omitempty" doc:"In the unit, where the value is one number"`
	On        string   `json:"on" doc:"ISO 8601"`
	Unlike    []string `json:"unlike" doc:"Parts that matter for it and are not known to be the same here and there"`
}

// mostSisters is how many other machines' values are shown.
const mostSisters = 8

// CalibrationHistory lists how a calibration came about, and what other machines have.
func (a *App) CalibrationHistory(ctx context.Context, id int64, kind calibration.Kind, x calibration.Subject,
	now time.Time) (CalibrationHistory, error) {
	out := CalibrationHistory{Made: []MadeCalibration{}, Sisters: []SisterCalibrated{}}
	c, ok := calibration.Of(kind)
	if !ok {
		return out, ErrNotFound
	}
	out.Unit = c.Unit
	m, err := a.store.Machine(ctx, id)
	if err != nil {
		return out, err
	}
	histories, err := a.store.Histories(ctx, id)
	if err != nil {
		return out, err
	}
	then := func(at time.Time) machine.Snapshot {
		if h := histories[id]; h != nil {
			return h.At(at)
		}
		return m.Facts
	}
	for _, r := range calibration.HistoryOf(m.Records, kind, x) {
		made := MadeCalibration{On: civil.Of(r.At.In(now.Location())).String(), By: r.By, Value: r.Value, Store: r.Store,
			Method: r.Method, Context: append([]string{}, c.Context(then(r.At), x)...)}
		made.Number = oneNumber(c, x, r.Value)
		if v := r.InvalidOf(x); v != nil {
			made.Ended = v.Reason
		}
		out.Made = append(out.Made, made)
	}
	fleet, err := a.store.Fleet(ctx)
	if err != nil {
		return out, err
	}
	for i := range fleet {
		o := &fleet[i]
		if o.ID == id || !slices.Contains(c.Subjects(o.Facts), x) {
			continue
		}
		st := calibration.StateOf(o.Facts, o.Records, c, x)
		if st.Word != calibration.Valid || kind == calibration.Protection {
			continue // a proof is of its own machine alone
		}
		out.Sisters = append(out.Sisters, SisterCalibrated{MachineID: o.ID, Machine: o.Name, Value: st.Record.Value,
			Number: oneNumber(c, x, st.Record.Value),
			On:     civil.Of(st.Record.At.In(now.Location())).String(),
			Unlike: append([]string{}, c.Unlike(m.Facts, o.Facts, x)...)})
	}
	slices.SortStableFunc(out.Sisters, func(x, y SisterCalibrated) int {
		return cmp.Or(cmp.Compare(len(x.Unlike), len(y.Unlike)), strings.Compare(x.Machine, y.Machine))
	})
	out.Sisters = out.Sisters[:min(mostSisters, len(out.Sisters))]
	return out, nil
}

// oneNumber is the number of a value that is one; nil of any other.
func oneNumber(c calibration.Calibration, x calibration.Subject, value string) *float64 {
	if n := c.Numbers(x, value); len(n) == 1 {
		return &n[0]
	}
	return nil
}
