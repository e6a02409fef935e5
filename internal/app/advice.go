package app

import (
	"context"
	"errors"
	"slices"
	"strconv"

	"wardifex/internal/core/change"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/plan"
	"wardifex/internal/store"
)

// PlanSheet is several kits on one machine, with what has to be bought.
type PlanSheet struct {
	plan.PlanVerdict
	Machine    string            `json:"machine"`
	OpenOrder  *store.OrderHead  `json:"openOrder,omitempty"`
	Planned    []store.OrderHead `json:"planned" doc:"Work that waits its turn on the machine already"`
	Reasons    []string          `json:"reasons" doc:"Reasons for which a machine may be touched"`
	Order      []plan.OrderLine  `json:"order" doc:"What has to be bought"`
	Objections []string          `json:"against" staff:"only" doc:"What speaks against it, with numbers"`
}

// Pick is a kit for a machine.
type Pick struct {
	Kit       string `json:"kit"`
	MachineID int64  `json:"machineId"`
}

// Advice is what to do about a verdict: what would make the kit fit, where to
// look first, what follows, and which parts it sets free.
type Advice struct {
	Remedies     *plan.Remedies       `json:"remedies,omitempty" doc:"What would make it fit, where it does not"`
	Memory       *plan.Memory         `json:"memory,omitempty" doc:"Where flash is short"`
	Objections   []string             `json:"against" staff:"only" doc:"What speaks against it, with numbers"`
	Look         plan.InspectionPlan  `json:"look"`
	Consequences []change.Consequence `json:"consequences"`
	Spares       []SpareUse           `json:"spares"`
}

// SpareUse is a part set free, with the machines that could use it.
type SpareUse struct {
	change.Spare
	Machines []string   `json:"machines" doc:"That carry the same model: it is a spare for them"`
	Homes    []SpareFor `json:"homes" doc:"That could take it in by a kit which fits this model"`
}

// SpareFor is a machine that could take a part in.
type SpareFor struct {
	plan.ReuseOption
	MachineID int64  `json:"machineId"`
	Machine   string `json:"machine"`
}

func owned(m *store.Machine) plan.Owned {
	o := plan.Owned{Maker: m.Maker, Facts: m.Facts}
	if m.Price != nil {
		o.Price = *m.Price
	}
	return o
}

func allOwned(fleet []store.Machine) []plan.Owned {
	out := make([]plan.Owned, len(fleet))
	for i := range fleet {
		out[i] = owned(&fleet[i])
	}
	return out
}

// spareUse looks through the fleet, but for the machine that sets the part free.
func spareUse(spare change.Spare, from int64, judges []*fit.Judge, fleet []store.Machine) SpareUse {
	u := SpareUse{Spare: spare, Machines: []string{}, Homes: []SpareFor{}}
	for i := range fleet {
		m := &fleet[i]
		if m.ID == from {
			continue
		}
		if spare.Serves(m.Facts) {
			u.Machines = append(u.Machines, m.Name)
		}
		for _, h := range plan.HomesFor(spare, judges, m.Facts) {
			u.Homes = append(u.Homes, SpareFor{h, m.ID, m.Name})
		}
	}
	return u
}

// batches are the machines of a fleet by what they were bought with. Machines that were
// bought alike have one batch, which is put together once.
type batches struct {
	fleet []store.Machine
	known map[plan.Bought]batch
}

// batch is a machine's batch, itself among them; name tells batches apart.
type batch struct {
	machines []machine.Snapshot
	name     string
}

func batchesOf(fleet []store.Machine) *batches {
	return &batches{fleet: fleet, known: map[plan.Bought]batch{}}
}

func boughtWith(m *store.Machine) plan.Bought {
	return plan.Bought{Maker: m.Maker, Supplier: m.Supplier, On: m.Since}
}

func (b *batches) of(m *store.Machine) batch {
	mine := boughtWith(m)
	if known, ok := b.known[mine]; ok {
		return known
	}
	var out batch
	var name []byte
	for i := range b.fleet {
		if o := &b.fleet[i]; mine.SameBatch(boughtWith(o)) {
			out.machines = append(out.machines, o.Facts)
			name = append(strconv.AppendInt(name, o.ID, 10), ' ')
		}
	}
	out.name = string(name)
	b.known[mine] = out
	return out
}

// FleetLookSheet is which machines to open first for a kit ordered several times.
type FleetLookSheet struct {
	plan.FleetLook
	Machines []FleetLookRow `json:"machines" doc:"In the order to look"`
	// Else minutes and chances are estimates.
	Whole bool `json:"whole" doc:"Every course was followed on every machine"`
}

// FleetLookRow is one machine to look at.
type FleetLookRow struct {
	ID    int64  `json:"id"`
	Name  string `json:"name"`
	Bay   string `json:"bay"`
	First string `json:"first" doc:"What to look at first on it"`
	// Where the batch was read often enough.
	Chance   *float64 `json:"chance,omitempty" doc:"That it fits, 0 to 1"`
	Minutes  float64  `json:"minutes" doc:"Expected; the most that it takes where no chance is told"`
	Readings int      `json:"readings" doc:"In its batch, of the open fact that was read least"`
}

// KitTrial is a kit as it would be judged, before it is saved.
type KitTrial struct {
	Problem string     `json:"problem,omitempty" doc:"Why it cannot be saved so"`
	Hints   []string   `json:"hints" doc:"What may be meant otherwise"`
	Counts  fit.Counts `json:"counts"`
	Rows    []TrialRow `json:"rows" doc:"Machines whose verdict would change come first"`
}

// TrialRow is the trial's verdict on one machine.
type TrialRow struct {
	Machine string     `json:"machine"`
	Answer  fit.Answer `json:"answer" enum:"fits,fits if,look first,does not fit"`
	Lean    fit.Answer `json:"lean,omitempty" enum:"fits,fits if,does not fit,no lean,"`
	// Where that is another.
	Was      fit.Answer `json:"was,omitempty" enum:"fits,fits if,look first,does not fit" doc:"By the kit as it is saved"`
	Headline string     `json:"headline"`
}

// JudgePlan judges several kits on a machine together.
func (a *App) JudgePlan(ctx context.Context, machineID int64, kits []string) (PlanSheet, error) {
	m, err := a.store.Machine(ctx, machineID)
	if err != nil {
		return PlanSheet{}, err
	}
	judges, err := a.judgesOf(ctx, kits)
	if err != nil {
		return PlanSheet{}, err
	}
	p, err := plan.Judge(ctx, judges, m.Facts, m.Records)
	if err != nil {
		return PlanSheet{}, Refused(err)
	}
	order := plan.NewOrderList()
	for _, step := range p.Steps {
		order.Add(fit.Find(judges, step.Kit).Kit, step.Additional, plan.For{})
	}
	fleet, err := a.store.Fleet(ctx)
	if err != nil {
		return PlanSheet{}, err
	}
	shop, err := a.store.Shop(ctx)
	if err != nil {
		return PlanSheet{}, err
	}
	work := plan.Work{
		Changes: len(p.Steps), Price: p.Price, Currency: shop.Currency, Minutes: p.Minutes, After: p.After(), On: owned(&m),
	}
	return PlanSheet{
		PlanVerdict: p,
		Machine:     m.Name,
		OpenOrder:   m.OpenOrder,
		Planned:     m.Planned,
		Reasons:     change.Reasons(),
		Order:       order.Lines,
		Objections:  work.Objections(allOwned(fleet)),
	}, nil
}

// OrderFor lists what has to be bought for kits on machines.
func (a *App) OrderFor(ctx context.Context, picks []Pick) (plan.OrderList, error) {
	judges, _, err := a.Judges(ctx)
	if err != nil {
		return plan.OrderList{}, err
	}
	fleet, err := a.store.Fleet(ctx)
	if err != nil {
		return plan.OrderList{}, err
	}
	byID := map[int64]*store.Machine{}
	for i := range fleet {
		byID[fleet[i].ID] = &fleet[i]
	}
	out := plan.NewOrderList()
	for _, p := range picks {
		if j, m := fit.Find(judges, p.Kit), byID[p.MachineID]; j != nil && m != nil {
			out.AddFor(j, plan.For{ID: m.ID, Name: m.Name}, m.Facts)
		}
	}
	out.Pilot()
	last, err := a.store.LastSuppliers(ctx)
	if err != nil {
		return out, err
	}
	out.Suppliers(last)
	shelf, err := a.store.OnShelf(ctx)
	if err != nil {
		return out, err
	}
	kits := make([]fit.Kit, len(judges))
	for i, j := range judges {
		kits[i] = j.Kit
	}
	voc := a.store.Vocabulary(ctx)
	out.Stock(kits, func(slot, model string) int {
		position, ok := voc.Position(slot)
		if !ok {
			return 0
		}
		return shelf[store.Modelled{Kind: position.Kind, Model: model}]
	})
	return out, nil
}

// Advice says what to do about the verdict of a kit on a machine.
func (a *App) Advice(ctx context.Context, kit string, machineID int64) (Advice, error) {
	j, m, err := a.KitOnMachine(ctx, kit, machineID)
	if err != nil {
		return Advice{}, err
	}
	judges, _, err := a.Judges(ctx)
	if err != nil {
		return Advice{}, err
	}
	fleet, err := a.store.Fleet(ctx)
	if err != nil {
		return Advice{}, err
	}
	j = j.On(m.Facts)
	v := j.Verdict(m.Facts)
	out := Advice{Spares: []SpareUse{}}
	if v.Answer == fit.DoesNotFit {
		on := m.Facts
		if i := slices.IndexFunc(fleet, func(f store.Machine) bool { return f.ID == m.ID }); i >= 0 {
			on = fleet[i].Facts // the same as long as nothing is recorded
		}
		r, err := a.remedies.find(ctx, remedyKey{kit, m.ID}, j, judges, on, m.Records)
		if err != nil {
			return Advice{}, err
		}
		out.Remedies = &r
		out.Memory = plan.MemoryFor(j, m.Facts)
	}
	mine := batchesOf(fleet).of(&m)
	if out.Look, err = plan.LookFirst(ctx, j, m.Facts, plan.FleetPrior(mine.machines)); err != nil {
		return Advice{}, err
	}
	c, err := change.NewChange(j.Kit, v.Additional, m.Facts)
	if err != nil {
		return Advice{}, err
	}
	out.Consequences = c.Consequences(m.Records)
	shop, err := a.store.Shop(ctx)
	if err != nil {
		return Advice{}, err
	}
	work := plan.Work{Changes: 1, Currency: shop.Currency, After: c.After, On: owned(&m)}
	work.Price, work.Minutes = c.Cost()
	out.Objections = work.Objections(allOwned(fleet))
	for _, spare := range c.Spares() {
		out.Spares = append(out.Spares, spareUse(spare, m.ID, judges, fleet))
	}
	return out, nil
}

// LookAtFleet says which machines to open first for a kit of which n are to be ordered.
func (a *App) LookAtFleet(ctx context.Context, kit string, n int) (FleetLookSheet, error) {
	j, err := a.Judge(ctx, kit)
	if err != nil {
		return FleetLookSheet{}, err
	}
	fleet, err := a.store.Fleet(ctx)
	if err != nil {
		return FleetLookSheet{}, err
	}
	candidates := make([]plan.Candidate, len(fleet))
	rows := map[int64]FleetLookRow{}
	planner, whole := plan.NewFleetInspectionPlanner(ctx, j, len(fleet)), true
	all := batchesOf(fleet)
	for i := range fleet {
		m := &fleet[i]
		mine := all.of(m)
		l, err := planner.In(mine.name, func() plan.Prior { return plan.FleetPrior(mine.machines) }).First(m.Facts)
		if err != nil {
			return FleetLookSheet{}, err
		}
		whole = whole && l.Exact
		candidates[i] = l.Candidate(m.ID)
		row := FleetLookRow{
			ID: m.ID, Name: m.Name, Bay: m.Bay, Chance: l.Chance, Minutes: l.Minutes, Readings: l.Readings, First: l.Title,
		}
		if l.Chance == nil {
			row.Minutes = float64(l.All)
		}
		rows[m.ID] = row
	}
	out := FleetLookSheet{FleetLook: plan.LookAtFleet(candidates, n), Machines: []FleetLookRow{}, Whole: whole}
	for _, id := range out.Order {
		out.Machines = append(out.Machines, rows[id])
	}
	return out, nil
}

// TryKit judges a kit on the fleet before it is saved.
func (a *App) TryKit(ctx context.Context, k fit.Kit) (KitTrial, error) {
	out := KitTrial{Rows: []TrialRow{}, Hints: []string{}}
	j, err := a.CheckKit(ctx, k)
	var refusal *Refusal
	if errors.As(err, &refusal) {
		out.Problem = refusal.Sentence
		return out, nil
	}
	if err != nil {
		return out, err
	}
	out.Hints = j.Unprovable()
	saved, err := a.Judge(ctx, k.Key)
	if err != nil && !errors.Is(err, ErrNotFound) && !errors.As(err, &refusal) {
		return out, err
	}
	fleet, err := a.store.Fleet(ctx)
	var same []TrialRow
	for i := range fleet {
		v := j.Verdict(fleet[i].Facts)
		row := TrialRow{Machine: fleet[i].Name, Answer: v.Answer, Lean: v.Lean, Headline: v.Headline}
		if saved != nil {
			if was := saved.Truth(fleet[i].Facts).Answer(); was != v.Answer {
				row.Was = was
			}
		}
		out.Counts.Add(v.Answer, v.Lean)
		if row.Was != "" {
			out.Rows = append(out.Rows, row)
		} else {
			same = append(same, row)
		}
	}
	out.Rows = append(out.Rows, same...)
	return out, err
}

// KitOnMachine makes a kit ready and loads the machine that it is judged on.
func (a *App) KitOnMachine(ctx context.Context, kit string, machineID int64) (*fit.Judge, store.Machine, error) {
	j, err := a.Judge(ctx, kit)
	if err != nil {
		return nil, store.Machine{}, err
	}
	m, err := a.store.Machine(ctx, machineID)
	return j, m, err
}
