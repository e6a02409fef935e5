package demo

import (
	"context"
	"fmt"
	"math"
	"sort"
	"strings"
	"time"

	"wardifex/internal/app"
	"wardifex/internal/core/calibration"
	"wardifex/internal/core/change"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/maintenance"
	"wardifex/internal/core/shop"
	"wardifex/internal/store"
)

// Today is the demo's fixed clock.
var Today = time.Date(2026, time.November, 20, 10, 0, 0, 0, time.UTC)

// Password of the demo's accounts.
const Password = "netloft-demo"

// People of Netloft; the first three are the demo's accounts.
const (
	lead       = "Ansa Verrel"
	technician = "Joren Halm"
	member     = "Pia Ostrander"
	former     = "Tomke Reil"
	volunteer  = "Eske Brandt" // comes on Saturdays
)

// openShop sets what the workshop sets for itself.
func openShop(ctx context.Context, s *store.Store, a *app.App) error {
	is, err := s.Shop(ctx)
	if err != nil {
		return err
	}
	settings := shop.Settings{
		Name: "Netloft", Currency: "EUR", WeekStart: shop.Monday, Contact: lead + ", at the counter in the Quay bay",
	}
	for _, day := range []time.Weekday{time.Tuesday, time.Wednesday, time.Thursday, time.Friday} {
		settings.Opening = append(settings.Opening, shop.Hours{Day: day, From: "14:00", To: "22:00"})
	}
	settings.Opening = append(settings.Opening, shop.Hours{Day: time.Saturday, From: "10:00", To: "18:00"})
	_, err = a.SaveShop(ctx, settings, is.TimeZone, is.Version, lead, Today.AddDate(-2, 0, 0))
	return err
}

// Accounts makes the demo's accounts, in a database that may be empty besides.
func Accounts(ctx context.Context, s *store.Store) error {
	ctx = asDemo(ctx)
	a := app.New(s, func() time.Time { return Today })
	for _, u := range []struct {
		name, display, role string
		skills              []string
	}{
		{"lead", lead, store.Lead, []string{"mains wiring", "firmware", "heavy frames"}},
		{"technician", technician, store.Technician, []string{"firmware", "crimping"}},
		{"member", member, store.Member, nil},
		{"volunteer", volunteer, store.Technician, []string{"crimping"}},
	} {
		account := app.Account{Name: u.name, Display: u.display, Role: u.role, Password: Password, Skills: u.skills}
		if err := a.AddAccount(ctx, account, Today.AddDate(-2, 0, 0)); err != nil {
			return err
		}
	}
	return nil
}

func asDemo(ctx context.Context) context.Context {
	return store.WithActor(ctx, store.Actor{Name: "the demo room", Action: "fill-the-demo-room", At: Today})
}

// Seed fills an empty, migrated database. It is no single transaction: cut off
// half-way, the database is to be thrown away.
func Seed(ctx context.Context, s *store.Store) error {
	if err := Accounts(ctx, s); err != nil {
		return err
	}
	ctx = asDemo(ctx)
	a := app.New(s, func() time.Time { return Today })
	if err := openShop(ctx, s, a); err != nil {
		return err
	}
	w := writer{ctx: ctx, s: s, a: a, ids: map[string]int64{}, buildIDs: map[string]int64{}}
	w.makeBuilds()
	for _, u := range units {
		w.unit(u)
	}
	w.trouble()
	w.parts()
	w.drive()
	w.photographs()
	w.wires()
	w.purchases()
	w.faults()
	w.questions()
	w.finishedWork()
	w.openWork()
	w.calendar()
	w.settingsFiles()
	return w.err
}

// writer stops at the first error and keeps it.
type writer struct {
	ctx      context.Context
	s        *store.Store
	a        *app.App
	ids      map[string]int64
	buildIDs map[string]int64
	err      error
}

func (w *writer) do(err error) {
	if w.err == nil && err != nil {
		w.err = fmt.Errorf("seeding the demo room: %w", err)
	}
}

func day(text string) time.Time {
	t, err := time.Parse("2006-01-02", text)
	if err != nil {
		panic(err) // a slip in the tables of this package
	}
	return t.Add(9 * time.Hour)
}

func (w *writer) unit(u unit) {
	if w.err != nil {
		return
	}
	b := batches[u.batch]
	since := day(b.since)
	id, err := w.a.AddMachine(
		w.ctx,
		store.Fields{
			Name:     u.name,
			Bay:      u.bay,
			Maker:    b.maker,
			Serial:   fmt.Sprintf("%s-%03d", strings.ToUpper(u.batch[:2]), 100+7*len(w.ids)),
			Supplier: b.supplier,
			Price:    price(b.price),
		},
		app.Like{},
		former,
		since,
	)
	w.do(err)
	w.ids[u.name] = id
	w.readings(id, b.sheet, machine.Claimed, "seller's sheet", former, since.Add(time.Hour))
	w.readings(id, u.found, machine.Observed, "looked", technician, since.AddDate(0, 4, len(w.ids)))
	w.meters(id, u, since)
	w.calibrations(id, u, since)
	w.flash(id, u)
	w.protection(id, u)
	w.upkeep(id, u)
}

func (w *writer) readings(id int64, values map[string]string, grade machine.Grade, how, by string, at time.Time) {
	keys := make([]string, 0, len(values))
	for k := range values {
		keys = append(keys, k)
	}
	sort.Strings(keys)
	for _, k := range keys {
		if w.err != nil {
			return
		}
		_, err := w.a.AddReading(
			w.ctx,
			id,
			machine.Key(k),
			values[k],
			machine.Reading{Grade: grade, TakenAt: at, By: by, How: how},
			Today,
		)
		w.do(err)
	}
}

// forgotten is the machine whose meter nobody has read for more than half a year.
const forgotten = "Redshank"

// meters reads each meter on the first Monday or so of every other month.
func (w *writer) meters(id int64, u unit, since time.Time) {
	if u.hours == 0 {
		return
	}
	last := Today.AddDate(0, 0, -2)
	if u.name == forgotten {
		last = Today.AddDate(0, 0, -200)
	}
	for at := since.AddDate(0, 1, 0); at.Before(last.AddDate(0, 0, -1)) && w.err == nil; at = at.AddDate(0, 2, 0) {
		hours := u.hours - u.perDay*Today.Sub(at).Hours()/24
		if hours < 0 {
			continue
		}
		w.do(w.a.ReadMeters(w.ctx, id, technician, Today, maintenance.HoursAt(at, float64(int(hours)))))
	}
	hours := math.Floor(u.hours - u.perDay*Today.Sub(last).Hours()/24)
	w.do(w.a.ReadMeters(w.ctx, id, technician, Today, maintenance.HoursAt(last, hours)))
}

// intervals between the times each task was done, in days, so that the due
// list shows every state.
var intervals = map[string]int{
	"nozzle":    34,
	"lubricate": 41,
	"belts":     47,
	"wheels":    52,
	"liner":     70,
	"fans":      80,
	"terminals": 170,
	"surface":   66,
	"extruder":  55,
	"probe":     30,
	"host":      96,
}

func (w *writer) calibrations(id int64, u unit, since time.Time) {
	if u.offset != "" {
		at := since.AddDate(0, 5, len(w.ids))
		w.calibrate(id, calibration.Tramming, "corners within 0.05 mm", calibration.StorePart, at)
		w.calibrate(id, calibration.HotendPID, "P 21.7 I 1.6 D 74", calibration.StoreSettings, at)
		steps := "95.4"
		if u.found["extruder.model"] == "Twinpawl 3:1" {
			steps = "415"
		}
		w.calibrate(id, calibration.Steps, steps, calibration.StoreSettings, at)
		if u.batch == "tern" {
			w.calibrate(id, calibration.ProbeXY, "X −24 Y −12", calibration.StoreHost, at)
			w.calibrate(id, calibration.Mesh, "6 × 6, spread 0.21 mm", calibration.StoreHost, at)
			w.calibrate(id, calibration.Resonance, "X 52 Y 41 Hz", calibration.StoreHost, at)
		}
		store := calibration.StoreSettings
		if u.batch == "tern" {
			store = calibration.StoreHost
		}
		w.calibrate(id, calibration.ZOffset, u.offset, store, at.Add(time.Hour))
		w.calibrate(id, calibration.Direction, "", calibration.StorePart, at)
	}
}

// protection is the last test of each heater.
func (w *writer) protection(id int64, u unit) {
	switch u.protection {
	case "":
	case "silent":
		w.step(id, calibration.Protection, change.Data{TestMethod: "no-heat", NoAlarm: true}, day("2026-02-09"))
	default:
		w.step(
			id,
			calibration.Protection,
			change.Data{TestMethod: "no-heat", Alarm: fmt.Sprint(170 + len(u.name)*7), AlarmText: "Heating failed"},
			day(u.protection),
		)
	}
}

// upkeep is when each task was done last.
func (w *writer) upkeep(id int64, u unit) {
	n := 0
	for _, t := range maintenance.Shipped() {
		every, ok := intervals[t.Key]
		if !ok || u.hours == 0 {
			continue
		}
		n++
		if t.Applies(w.facts(id)) {
			at := Today.AddDate(0, 0, -every*(3+(len(u.name)*n)%8)/10-int(40/(1+u.perDay)))
			done := maintenance.Completion{Task: t.Key, At: at}
			w.do(app.New(w.s, func() time.Time { return Today }).MarkDone(w.ctx, []int64{id}, done, "", technician, Today))
			if t.Always { // with a new nozzle the zero is found again
				w.zeroAgain(id, u, at.Add(time.Hour))
			}
		}
	}
}

// zeroAgain finds the Z offset again where it is no longer valid.
func (w *writer) zeroAgain(id int64, u unit, at time.Time) {
	if w.err != nil {
		return
	}
	m, err := w.s.Machine(w.ctx, id)
	w.do(err)
	for _, st := range calibration.States(m.Facts, m.Records) {
		if st.Calibration.Kind == calibration.ZOffset && st.Invalid != nil {
			w.one(id, calibration.ZOffset, st.Subject, change.Data{Value: u.offset, Store: st.Record.Store}, at)
		}
	}
}

func (w *writer) facts(id int64) machine.Snapshot {
	m, err := w.s.Machine(w.ctx, id)
	w.do(err)
	return m.Facts
}

func (w *writer) calibrate(id int64, k calibration.Kind, value, store string, at time.Time) {
	w.step(id, k, change.Data{Value: value, Store: store}, at)
}

// step records a calibration of every subject of its kind that the machine has.
func (w *writer) step(id int64, k calibration.Kind, d change.Data, at time.Time) {
	if w.err != nil {
		return
	}
	c, _ := calibration.Of(k)
	for _, x := range c.Subjects(w.facts(id)) {
		w.one(id, k, x, d, at)
	}
}

// one records a calibration of one subject.
func (w *writer) one(id int64, k calibration.Kind, x calibration.Subject, d change.Data, at time.Time) {
	if w.err != nil {
		return
	}
	step, err := change.StepFor(w.facts(id), k, x)
	w.do(err)
	if step.Form == change.ZOffsetForm {
		// On record from before the loop was kept: the value alone.
		step.Form = change.CalibrationForm
	}
	d.Configuration = "rev 12"
	w.do(w.a.CalibrateStep(w.ctx, id, step, d, technician, at))
}

// trouble is what goes wrong in any shop.
func (w *writer) trouble() {
	at := Today.AddDate(0, -2, 0)
	// Two people read one chip and do not agree.
	w.readings(
		w.ids["Ibis"],
		map[string]string{"mainboard.chip-maker": "pin-compatible twin"},
		machine.Observed,
		"lens, ribbon aside",
		lead,
		at,
	)
	// A board whose bootloader was advertised and is not there.
	w.readings(
		w.ids["Razorbill"],
		map[string]string{"mainboard.bootloader": "no"},
		machine.Proven,
		"upload failed, board silent",
		technician,
		at,
	)
	// A supply swapped by the maker for a lesser one.
	w.readings(
		w.ids["Eider"],
		map[string]string{"supply.watts": "280"},
		machine.Marked,
		"label, cover off",
		technician,
		at,
	)
	if w.err != nil {
		return
	}
	// Two cards, two offsets: the card that held this machine's went to another.
	w.readings(
		w.ids["Yaffle"],
		map[string]string{"card.model": "card, red label"},
		machine.Observed,
		"in the slot",
		technician,
		at,
	)
	w.step(
		w.ids["Yaffle"],
		calibration.ZOffset,
		change.Data{Value: "−1.45", Store: calibration.StoreCard},
		Today.AddDate(0, 0, -6),
	)
	if w.err != nil {
		return
	}
	w.do(
		w.a.ReplacePart(
			w.ctx,
			w.ids["Yaffle"],
			"card",
			"card, blue label",
			"red one found in Razorbill; its offset is not this machine's",
			technician,
			Today.AddDate(0, 0, -4),
		),
	)
	// A hotend changed by hand: what depends on it is invalid.
	w.do(
		w.a.ReplacePart(
			w.ctx,
			w.ids["Kittiwake"],
			"sensor",
			"104 thermistor, glass",
			"old one broke at the crimp",
			technician,
			Today.AddDate(0, 0, -9),
		),
	)
	// It is another type than the build believes in: nobody has thought of the build yet.
	w.readings(
		w.ids["Kittiwake"],
		map[string]string{"sensor.type": "104 thermistor"},
		machine.Marked,
		"bag it came in",
		technician,
		Today.AddDate(0, 0, -9).Add(time.Hour),
	)
}

// finishedWork is a spring kit done in the summer.
func (w *writer) finishedWork() {
	at := day("2026-07-14")
	id := w.open("Curlew", "bollard-springs", "levels drift: a fault it cures", at)
	o := w.order(id)
	for _, st := range o.StepList {
		d := change.Data{Store: calibration.StorePart, Value: "corners within 0.04 mm"}
		if st.Form == change.ZOffsetForm {
			d = loop("60", "5", -1.92, 0.12)
		}
		w.tick(id, st, d, at)
	}
	if w.err == nil {
		_, err := w.a.Finish(w.ctx, id, 0, technician, at.Add(2*time.Hour))
		w.do(err)
	}
}

// openWork is a probe kit half-way in: fitted, not yet flashed.
func (w *writer) openWork() {
	at := day("2026-11-19")
	if w.err != nil {
		return
	}
	id, err := w.a.OpenPlan(
		w.ctx,
		w.ids["Shearwater"],
		[]string{"plumbline-probe", "slate-sheet"},
		"a feature somebody needs: first layers on the big bed",
		technician,
		at,
	)
	w.do(err)
	w.do(w.a.PutLock(w.ctx, id, technician, at))
	for _, st := range w.order(id).StepList {
		if st.Phase == "Firmware" {
			break
		}
		w.tick(id, st, change.Data{}, at)
	}
}

func (w *writer) open(name, kit, reason string, at time.Time) int64 {
	if w.err != nil {
		return 0
	}
	id, err := w.a.OpenWork(w.ctx, w.ids[name], kit, reason, technician, at)
	w.do(err)
	return id
}

func (w *writer) order(id int64) app.Order {
	if w.err != nil {
		return app.Order{}
	}
	o, err := w.a.Order(w.ctx, id)
	w.do(err)
	return o
}

func (w *writer) tick(id int64, st store.OrderStep, d change.Data, at time.Time) {
	if w.err != nil {
		return
	}
	note := ""
	if st.Form == change.NoteForm {
		note = "M92 X80.00 Y80.00 Z400.00 E95.40\nM301 P21.70 I1.60 D74.00\nbuild 1.2.0, file kept in the shop's folder"
	}
	w.do(
		w.a.SaveStep(
			w.ctx,
			id,
			st.Key,
			app.StepChange{Version: st.Version, Data: d, Note: note, Do: "tick"},
			technician,
			at,
		),
	)
}
