package app

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"wardifex/internal/core/maintenance"
	"wardifex/internal/store"
)

// OpenDanger is a danger that was reported, until its fault is closed.
type OpenDanger struct {
	Fault   store.ReportedFault `json:"fault"`
	Bay     string              `json:"bay"`
	What    string              `json:"what"    doc:"What was seen, in a few words"`
	Waiting bool                `json:"waiting" doc:"Nobody has taken it yet"`
	Minutes int                 `json:"minutes" doc:"Since it was reported"`
	Overdue bool                `json:"overdue" doc:"It has waited for longer than the shop allows"`
	Sisters []store.Sister      `json:"sisters" doc:"Machines with the same board, supply or heater"`
}

// Dangers lists the dangers whose fault is open: those that nobody has taken first, then the oldest.
func (a *App) Dangers(ctx context.Context, account int64, now time.Time) ([]OpenDanger, error) {
	out := []OpenDanger{}
	faults, err := a.store.Faults(ctx, store.FaultFilter{Show: "danger", Account: account})
	if err != nil || faults.Found == 0 {
		return out, err
	}
	shop, err := a.store.Shop(ctx)
	if err != nil {
		return nil, err
	}
	bays, err := a.store.Bays(ctx)
	if err != nil {
		return nil, err
	}
	for _, f := range faults.Rows {
		d := OpenDanger{Fault: f, Bay: bays[f.MachineID], What: faultTitle(f), Waiting: f.TakenBy == "",
			Minutes: max(0, int(now.Sub(f.At).Minutes()))}
		d.Overdue = d.Waiting && d.Minutes >= shop.DangerMinutes
		if d.Sisters, err = a.sisters(ctx, f.MachineID); err != nil {
			return nil, err
		}
		out = append(out, d)
	}
	slices.SortStableFunc(out, func(x, y OpenDanger) int {
		if x.Waiting != y.Waiting {
			if x.Waiting {
				return -1
			}
			return 1
		}
		return x.Fault.At.Compare(y.Fault.At)
	})
	return out, nil
}

// sisters are the machines that may have the danger of another: with the same board, supply or heater.
func (a *App) sisters(ctx context.Context, machineID int64) ([]store.Sister, error) {
	voc := a.store.Vocabulary(ctx)
	var kinds []string
	for _, k := range voc.Catalogue.Kinds {
		if slices.ContainsFunc(maintenance.SisterKinds(), func(kind string) bool { return voc.Is(k.Key, kind) }) {
			kinds = append(kinds, k.Key)
		}
	}
	return a.store.Sisters(ctx, machineID, kinds)
}

// sisterWords tells of which machines it is worth looking, too: "same power supply Gannet 360: Brant, Curlew".
func sisterWords(sisters []store.Sister, label func(kind string) string) string {
	var out []string
	for i := 0; i < len(sisters); {
		first := sisters[i]
		var names []string
		for ; i < len(sisters) && sisters[i].Kind == first.Kind && sisters[i].Model == first.Model; i++ {
			names = append(names, sisters[i].Name)
		}
		out = append(out, fmt.Sprintf("same %s %s: %s", label(first.Kind), first.Model, listed(names)))
	}
	return strings.Join(out, "; ")
}

// alarm closes the machine of a danger and tells every technician and lead, as part of the transaction of the
// report. It does so again after the shop's minutes, until somebody has taken it.
func (a *App) alarm(ctx context.Context, fault int64, by string, now time.Time) error {
	f, err := a.store.Fault(ctx, fault)
	if err != nil {
		return err
	}
	why := fmt.Sprintf("danger reported, fault %d: not to be switched on before somebody has looked", fault)
	if err := a.store.AddUse(ctx, f.MachineID, maintenance.OutOfUse, why, by, now); err != nil {
		return err
	}
	// Nothing else is done there before the repair, so nobody is sent there.
	dropped, err := a.store.DropPlannedOn(ctx, f.MachineID)
	if err != nil {
		return err
	}
	words := fmt.Sprintf("Danger on %s: %s", f.Machine, faultTitle(f))
	if f.Words != faultTitle(f) {
		words += ". “" + f.Words + "”"
	}
	if n := len(dropped); n > 0 {
		words += fmt.Sprintf(". %s taken out of the schedule: %s", f.Machine, pieces(n))
	}
	if err := a.tellStaff(ctx, f, words, now); err != nil {
		return err
	}
	return a.remindOf(ctx, fault, 1)
}

// tellStaff tells every technician and lead of a danger, with the machines that are worth a look.
func (a *App) tellStaff(ctx context.Context, f store.ReportedFault, words string, now time.Time) error {
	sisters, err := a.sisters(ctx, f.MachineID)
	if err != nil {
		return err
	}
	voc := a.store.Vocabulary(ctx)
	label := func(kind string) string {
		k, _ := voc.Kind(kind)
		return strings.ToLower(k.Label)
	}
	if too := sisterWords(sisters, label); too != "" {
		words += ". Look there too: " + too
	}
	users, err := a.store.Users(ctx)
	if err != nil {
		return err
	}
	for _, u := range users {
		if u.DisabledAt != nil || u.Role == store.Member {
			continue
		}
		n := store.Notice{AccountID: u.ID, At: now, Words: words, Link: faultLink(f.ID), Danger: true}
		if err := a.store.AddNotice(ctx, n); err != nil {
			return err
		}
	}
	return nil
}

func faultLink(fault int64) string { return fmt.Sprintf("/faults?fault=%d", fault) }

// DangerReminder tells of a danger again that nobody has taken.
type DangerReminder struct {
	Fault int64 `json:"fault"`
	Round int   `json:"round"` // 1 for the first reminder
}

// Kind names the work where it is handed over.
func (DangerReminder) Kind() string { return "danger-reminder" }

// mostReminders is how often a danger is told again; the banner on every page stays.
const mostReminders = 48

// remindOf hands the next reminder over.
func (a *App) remindOf(ctx context.Context, fault int64, round int) error {
	shop, err := a.store.Shop(ctx)
	if err != nil || round > mostReminders {
		return err
	}
	after := time.Duration(shop.DangerMinutes) * time.Minute
	return a.store.AddJobIn(ctx, DangerReminder{Fault: fault, Round: round}, after)
}

// RemindOfDanger tells of a danger again where nobody has taken it, and hands the next reminder over.
func (a *App) RemindOfDanger(ctx context.Context, r DangerReminder, now time.Time) error {
	return a.store.InTx(ctx, func(ctx context.Context) error {
		if _, err := a.store.LockFault(ctx, r.Fault); err != nil {
			return err
		}
		f, err := a.store.Fault(ctx, r.Fault)
		if err != nil || f.ClosedAt != nil || f.TakenBy != "" {
			return err
		}
		words := fmt.Sprintf("Nobody has taken the danger on %s for %d minutes: %s", f.Machine,
			int(now.Sub(f.At).Minutes()), faultTitle(f))
		if err := a.tellStaff(ctx, f, words, now); err != nil {
			return err
		}
		return a.remindOf(ctx, r.Fault, r.Round+1)
	})
}

// mayUse refuses to open a machine again while its danger is open.
func (a *App) mayUse(ctx context.Context, machineID int64, use maintenance.Use) error {
	if use == maintenance.OutOfUse {
		return nil
	}
	m, err := a.store.Machine(ctx, machineID)
	if err == nil && m.Danger != nil {
		err = refuse("%s stays out of use: %s. Close fault %d first, with what it was and what was done", m.Name, m.Danger,
			m.Danger.Fault)
	}
	return err
}
