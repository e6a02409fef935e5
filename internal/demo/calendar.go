package demo

import (
	"time"

	"wardifex/internal/app"
	"wardifex/internal/core/civil"
	"wardifex/internal/core/fleetquery"
	"wardifex/internal/core/roster"
	"wardifex/internal/core/schedule"
	"wardifex/internal/core/shop"
	"wardifex/internal/store"
)

// shifts are the same hours on several days of every week.
func shifts(from, to string, days ...time.Weekday) (out []shop.Hours) {
	for _, d := range days {
		out = append(out, shop.Hours{Day: d, From: from, To: to})
	}
	return out
}

// calendar fills in who works when, who has a machine, and what the shop keeps up.
func (w *writer) calendar() {
	if w.err != nil {
		return
	}
	users, err := w.s.Users(w.ctx)
	w.do(err)
	account := map[string]store.User{}
	for _, u := range users {
		account[u.Name] = u
	}
	works := map[string][]shop.Hours{
		"technician": append(shifts("12:00", "16:00", time.Tuesday, time.Thursday), shifts("10:00", "14:00", time.Friday)...),
		"lead":       shifts("12:00", "15:00", time.Wednesday, time.Friday),
		"volunteer":  shifts("08:00", "12:00", time.Saturday),
	}
	for name, hours := range works {
		w.do(w.a.SaveShifts(w.ctx, account[name].ID, hours, account[name].Version))
	}
	today := civil.Of(Today)
	w.do(w.a.TakeLeave(w.ctx, account["lead"].ID, schedule.Leave{From: today + 12, To: today + 16, Why: "away"}))
	w.do(w.a.CloseShop(w.ctx, schedule.Closure{From: civil.Date(2026, time.December, 24), To: civil.Date(2027,
		time.January, 1),
		Why: "the harbour is closed"}))
	w.bookings(account["member"].ID)
	w.planning()
	if w.err == nil {
		w.do(w.a.PlanNow(w.ctx, 400, lead, Today))
	}
}

// bookings are those of courses and members, some weeks back and ahead.
func (w *writer) bookings(account int64) {
	first := civil.Of(Today) - 56
	add := func(machine, who, what string, of int64, from civil.Day, hour, hours int, rule string, attended bool) {
		if w.err != nil {
			return
		}
		b := store.Booking{MachineID: w.ids[machine], Who: who, What: what,
			Starts:   from.Start(time.UTC).Add(time.Duration(hour) * time.Hour),
			Attended: attended, Rule: rule, Zone: "UTC", UID: machine + "-" + from.String() + "-" + what + "@wardifex",
			MadeBy: who,
			MadeAt: Today.AddDate(0, -2, 0)}
		b.Ends = b.Starts.Add(time.Duration(hours) * time.Hour)
		if of != 0 {
			b.AccountID = &of
		}
		_, err := w.s.AddBooking(w.ctx, b)
		w.do(err)
	}
	// 56 days before a Friday is a Friday.
	add("Avocet", "Beginners' course", "the first cube", 0, first+4, 18, 3, "FREQ=WEEKLY", true)
	add("Bittern", "Beginners' course", "the first cube", 0, first+4, 18, 3, "FREQ=WEEKLY", true)
	add("Curlew", "Boat club", "fairleads", 0, first+6, 16, 6, "FREQ=WEEKLY;INTERVAL=2", true)
	add("Dunlin", "Mirja Holt", "drawer fronts", 0, first+5, 15, 5, "FREQ=WEEKLY", true)
	add("Lapwing", "Mirja Holt", "sign letters", 0, first+1, 11, 5, "FREQ=WEEKLY", true)
	add("Osprey", "Model makers", "rigging blocks", 0, first+1, 10, 7, "FREQ=WEEKLY", true)
	add("Avocet", member, "lamp shade", account, civil.Of(Today)+1, 11, 4, "", true)
	add("Heron", member, "replacement knobs", account, civil.Of(Today)+4, 15, 3, "", true)
}

// planning is what the shop keeps up, and what its machines hang on.
func (w *writer) planning() {
	if w.err != nil {
		return
	}
	question, err := w.a.SaveQuestion(w.ctx, store.SavedQuestion{Name: "At least 230 mm wide",
		Question: fleetquery.Question{
			Columns: []string{"frame.x", "machine.bay"}, Where: []fleetquery.Filter{{Of: "frame.x", Test: fleetquery.AtLeast,
				Value: "230"}}}}, lead, Today)
	w.do(err)
	bays := map[string][]int64{}
	fleet, err := w.s.Fleet(w.ctx)
	w.do(err)
	for _, m := range fleet {
		bays[m.Bay] = append(bays[m.Bay], m.ID)
	}
	set, err := w.a.PlanningSettings(w.ctx)
	w.do(err)
	if w.err != nil {
		return
	}
	w.do(w.a.SavePlanning(w.ctx, app.Planning{Days: 28, Weights: roster.Usual(),
		Floors: []store.Floor{{QuestionID: question, Least: 5}}, Version: set.Version, Circuits: []store.Circuit{
			{Name: "Quay wall", Watts: 3600, Machines: bays["Quay"]}, {Name: "Loft", Watts: 3600, Machines: bays["Loft"]},
			{Name: "Slip, 16 A", Watts: 3600, Machines: bays["Slip"]}}}))
}
