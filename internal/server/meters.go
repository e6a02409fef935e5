package server

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"wardifex/internal/app"
	"wardifex/internal/core/civil"
	"wardifex/internal/core/maintenance"
)

// MeterSheet is one of a machine's meters.
type MeterSheet struct {
	Counter maintenance.Counter `json:"counter" enum:"hours,filament,prints"`
	Unit    string              `json:"unit"`
	Amount  float64             `json:"amount" doc:"As it was read last"`
	At      time.Time           `json:"at"`
	Life    float64             `json:"life" doc:"With resets bridged, carried on to today"`
	Low     float64             `json:"low" doc:"Ends of the 80 % range of the life today"`
	High    float64             `json:"high"`
	PerDay  *float64            `json:"perDay,omitempty"`
	Weeks   []maintenance.Week  `json:"weeks" doc:"Use in the last weeks that readings cover"`
	// Weekdays are told by readings about a day apart alone.
	Weekdays []float64 `json:"weekdays,omitempty" doc:"Mean use on each day of the week, Sunday first"`
}

// weeksShown is over how many weeks the use of a machine is shown.
const weeksShown = 26

// meterSheets are the meters that were read, as they stand.
func meterSheets(readings []maintenance.Meter, now time.Time) []MeterSheet {
	out := []MeterSheet{}
	lives := maintenance.NewLives(readings)
	for _, c := range maintenance.Counters() {
		own := maintenance.Counted(readings, c)
		if len(own) == 0 {
			continue
		}
		last, life := own[len(own)-1], lives[c]
		m := MeterSheet{Counter: c, Unit: c.Unit(), Amount: last.Amount, At: last.At, Life: life.At(now),
			Low: life.At(now), High: life.At(now)}
		if r, ok := life.Forecast(now); ok {
			m.Life, m.Low, m.High = r.Middle, r.Low, r.High
		}
		if rate, ok := life.Rate(); ok {
			m.PerDay = &rate
		}
		m.Weeks = life.Weeks(weeksShown, civil.Of(now), now.Location())
		if perDay, ok := life.Weekdays(now.Location()); ok {
			m.Weekdays = perDay[:]
		}
		out = append(out, m)
	}
	return out
}

// MeterTexts are what the meters of a machine show, as typed; at least one is given.
type MeterTexts struct {
	Hours    string `json:"hours,omitempty"    maxLength:"40" doc:"Print hours, as the meter shows"`
	Filament string `json:"filament,omitempty" maxLength:"40" doc:"Metres pushed through, or a mass"`
	Prints   string `json:"prints,omitempty"   maxLength:"40" doc:"Prints begun"`
	Reset    bool   `json:"reset,omitempty"    doc:"The meters were put back before this reading"`
}

type readMeter struct {
	ByID
	Body struct {
		MeterTexts
		Day string `json:"day,omitempty" doc:"ISO 8601; today when empty"`
	}
}

type readMeters struct {
	Body struct {
		Readings []MachineMeters `json:"readings" minItems:"1" maxItems:"5000"`
	}
}

// MachineMeters are the meters of one machine at a moment.
type MachineMeters struct {
	Machine string     `json:"machine" maxLength:"120" doc:"Its name"`
	At      *time.Time `json:"at,omitempty" doc:"RFC 3339; now when it is left out"`
	MeterTexts
}

func (s *Server) readMeters(ctx context.Context, u user, in *readMeters) (*noContent, error) {
	now := s.now()
	of := make([]app.MachineReading, len(in.Body.Readings))
	for i, r := range in.Body.Readings {
		at := now
		if r.At != nil {
			at = r.At.In(now.Location())
		}
		readings, err := r.meters(at)
		if err != nil {
			return nil, app.Refused(fmt.Errorf("%s: %w", r.Machine, err))
		}
		of[i] = app.MachineReading{Machine: r.Machine, Readings: readings}
	}
	return emptyAnswer(s.app.ReadMetersOf(ctx, of, u.Name, now))
}

// meters reads what was typed.
func (in MeterTexts) meters(at time.Time) ([]maintenance.Meter, error) {
	var out []maintenance.Meter
	for _, typed := range []struct {
		counter    maintenance.Counter
		what, text string
	}{
		{maintenance.Hours, "print hours", in.Hours},
		{maintenance.Filament, "filament", in.Filament},
		{maintenance.Prints, "prints", in.Prints},
	} {
		if strings.TrimSpace(typed.text) == "" {
			continue
		}
		amount, err := maintenance.ReadAmount(typed.counter, typed.text)
		if err != nil {
			return nil, app.Refused(fmt.Errorf("%s: %w", typed.what, err))
		}
		out = append(out, maintenance.Meter{Counter: typed.counter, At: at, Amount: amount, Reset: in.Reset})
	}
	if len(out) == 0 {
		return nil, app.Refused(errors.New("type what at least one of the meters shows"))
	}
	return out, nil
}

func (s *Server) readMeter(ctx context.Context, u user, in *readMeter) (*answer[Sheet], error) {
	at, err := s.moment(in.Body.Day)
	if err != nil {
		return nil, err
	}
	readings, err := in.Body.meters(at)
	if err != nil {
		return nil, err
	}
	if err := s.app.ReadMeters(ctx, in.ID, u.Name, s.now(), readings...); err != nil {
		return nil, err
	}
	return s.sheetOf(ctx, in.ID)
}
