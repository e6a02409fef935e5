package server

import (
	"context"
	"slices"
	"strconv"

	"wardifex/internal/app"
	"wardifex/internal/core/change"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/plan"
	"wardifex/internal/store"
)

type judgePlan struct {
	Body struct {
		MachineID int64    `json:"machineId"`
		Kits      []string `json:"kits" maxItems:"20"`
	}
}

// PlanSheet is several kits on one machine, with what has to be bought.
type PlanSheet struct {
	plan.PlanVerdict
	Machine    string            `json:"machine"`
	OpenOrder  *store.OrderHead  `json:"openOrder,omitempty"`
	Planned    []store.OrderHead `json:"planned" doc:"Work that waits its turn on the machine already"`
	Reasons    []string          `json:"reasons" doc:"Reasons for which a machine may be touched"`
	Order      []plan.OrderLine  `json:"order" doc:"What has to be bought"`
	Objections []string          `json:"against" doc:"What speaks against it, with numbers"`
}

func (s *Server) judgePlan(ctx context.Context, _ user, in *judgePlan) (*answer[PlanSheet], error) {
	m, err := s.Store.Machine(ctx, in.Body.MachineID)
	if err != nil {
		return nil, err
	}
	var judges []*fit.Judge
	for _, key := range in.Body.Kits {
		j, err := s.app.Judge(ctx, key)
		if err != nil {
			return nil, err
		}
		judges = append(judges, j)
	}
	p, err := plan.Judge(ctx, judges, m.Facts, m.Records)
	if err != nil {
		return nil, app.Refused(err)
	}
	order := plan.NewOrderList()
	for _, step := range p.Steps {
		order.Add(fit.Find(judges, step.Kit).Kit, step.Additional)
	}
	fleet, err := s.Store.Fleet(ctx)
	if err != nil {
		return nil, err
	}
	work := plan.Work{Changes: len(p.Steps), Price: p.Price, Minutes: p.Minutes, After: p.After(), On: owned(&m)}
	return answerOf(
		PlanSheet{
			PlanVerdict: p,
			Machine:     m.Name,
			OpenOrder:   m.OpenOrder,
			Planned:     m.Planned,
			Reasons:     change.Reasons(),
			Order:       order.Lines,
			Objections:  work.Objections(allOwned(fleet)),
		},
		nil,
	)
}

type orderFor struct {
	Body struct {
		Picks []Pick `json:"picks" maxItems:"2000"`
	}
}

// Pick is a kit for a machine.
type Pick struct {
	Kit       string `json:"kit"`
	MachineID int64  `json:"machineId"`
}

func (s *Server) orderFor(ctx context.Context, _ user, in *orderFor) (*answer[plan.OrderList], error) {
	judges, _, err := s.app.Judges(ctx)
	if err != nil {
		return nil, err
	}
	fleet, err := s.Store.Fleet(ctx)
	if err != nil {
		return nil, err
	}
	byID := map[int64]*store.Machine{}
	for i := range fleet {
		byID[fleet[i].ID] = &fleet[i]
	}
	out := plan.NewOrderList()
	for _, p := range in.Body.Picks {
		if j, m := fit.Find(judges, p.Kit), byID[p.MachineID]; j != nil && m != nil {
			out.AddFor(j, m.Name, m.Facts)
		}
	}
	out.Pilot()
	return answerOf(out, nil)
}

// Advice is what to do about a verdict: what would make the kit fit, where to
// look first, what follows, and which parts it sets free.
type Advice struct {
	Remedies     *plan.Remedies       `json:"remedies,omitempty" doc:"What would make it fit, where it does not"`
	Memory       *plan.Memory         `json:"memory,omitempty" doc:"Where flash is short"`
	Objections   []string             `json:"against" doc:"What speaks against it, with numbers"`
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

func (s *Server) advice(ctx context.Context, _ user, in *kitOnMachine) (*answer[Advice], error) {
	j, m, err := s.kitAndMachine(ctx, in)
	if err != nil {
		return nil, err
	}
	judges, _, err := s.app.Judges(ctx)
	if err != nil {
		return nil, err
	}
	fleet, err := s.Store.Fleet(ctx)
	if err != nil {
		return nil, err
	}
	j = j.On(m.Facts)
	v := j.Verdict(m.Facts)
	out := Advice{Spares: []SpareUse{}}
	if v.Answer == fit.DoesNotFit {
		on := m.Facts
		if i := slices.IndexFunc(fleet, func(f store.Machine) bool { return f.ID == m.ID }); i >= 0 {
			on = fleet[i].Facts // the same as long as nothing is recorded
		}
		r, err := s.remedied.find(ctx, remediedKey{in.Key, m.ID}, j, judges, on, m.Records)
		if err != nil {
			return nil, err
		}
		out.Remedies = &r
		out.Memory = plan.MemoryFor(j, m.Facts)
	}
	mine := batchesOf(fleet).of(&m)
	if out.Look, err = plan.LookFirst(ctx, j, m.Facts, plan.FleetPrior(mine.machines)); err != nil {
		return nil, err
	}
	c, err := change.NewChange(j.Kit, v.Additional, m.Facts)
	if err != nil {
		return nil, err
	}
	out.Consequences = c.Consequences(m.Records)
	work := plan.Work{Changes: 1, After: c.After, On: owned(&m)}
	work.Price, work.Minutes = c.Cost()
	out.Objections = work.Objections(allOwned(fleet))
	for _, spare := range c.Spares() {
		out.Spares = append(out.Spares, spareUse(spare, m.ID, judges, fleet))
	}
	return answerOf(out, nil)
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

type lookAtFleet struct {
	ByKit
	N int `query:"n" minimum:"1" maximum:"1000" default:"1" doc:"How many are to be ordered"`
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
	ID      int64   `json:"id"`
	Name    string  `json:"name"`
	Bay     string  `json:"bay"`
	Chance  float64 `json:"chance"`
	Minutes float64 `json:"minutes"`
	First   string  `json:"first" doc:"What to look at first on it"`
}

func (s *Server) lookAtFleet(ctx context.Context, _ user, in *lookAtFleet) (*answer[FleetLookSheet], error) {
	j, err := s.app.Judge(ctx, in.Key)
	if err != nil {
		return nil, err
	}
	fleet, err := s.Store.Fleet(ctx)
	if err != nil {
		return nil, err
	}
	candidates := make([]plan.Candidate, len(fleet))
	rows := map[int64]FleetLookRow{}
	looker, whole := plan.NewFleetInspectionPlanner(ctx, j, len(fleet)), true
	all := batchesOf(fleet)
	for i := range fleet {
		m := &fleet[i]
		mine := all.of(m)
		l, err := looker.In(mine.name, func() plan.Prior { return plan.FleetPrior(mine.machines) }).First(m.Facts)
		if err != nil {
			return nil, err
		}
		whole = whole && l.Exact
		candidates[i] = plan.Candidate{ID: m.ID, Chance: l.Chance, Minutes: l.Minutes}
		rows[m.ID] = FleetLookRow{ID: m.ID, Name: m.Name, Bay: m.Bay, Chance: l.Chance, Minutes: l.Minutes, First: l.Title}
	}
	out := FleetLookSheet{FleetLook: plan.LookAtFleet(candidates, in.N), Machines: []FleetLookRow{}, Whole: whole}
	for _, id := range out.Order {
		out.Machines = append(out.Machines, rows[id])
	}
	return answerOf(out, nil)
}

// KitWords is what a kit's needs are written with, besides the traits.
type KitWords struct {
	Ops       []fit.OpKind           `json:"ops"`
	Budgets   []BudgetName           `json:"budgets"`
	Relations []machine.RelationKind `json:"relations" doc:"How parts can stand to the one that needs something"`
	Places    []machine.Place        `json:"places" doc:"Places that can be named"`
}

// BudgetName is a budget that a kit can draw on.
type BudgetName struct {
	Key   string `json:"key"`
	Title string `json:"title"`
	Unit  string `json:"unit,omitempty"`
}

func (s *Server) kitWords(context.Context, user, *none) (*answer[KitWords], error) {
	out := KitWords{Ops: fit.Ops(), Relations: machine.RelationKinds(), Places: machine.UsualPlaces()}
	for _, b := range fit.Capacities() {
		out.Budgets = append(out.Budgets, BudgetName{b.Key, b.Title, b.Unit})
	}
	return answerOf(out, nil)
}

func (s *Server) kitEntry(ctx context.Context, _ user, in *ByKit) (*answer[store.KitEntry], error) {
	return answerOf(s.Store.KitEntry(ctx, in.Key))
}

type tryKit struct {
	Body fit.Kit
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

func (s *Server) tryKit(ctx context.Context, _ user, in *tryKit) (*answer[KitTrial], error) {
	out := KitTrial{Rows: []TrialRow{}, Hints: []string{}}
	j, err := s.app.CheckKit(ctx, in.Body)
	if err != nil {
		p := problemOf(err)
		if p.Status >= 500 {
			return nil, err
		}
		out.Problem = p.Detail
		return answerOf(out, nil)
	}
	out.Hints = j.Unprovable()
	saved, err := s.app.Judge(ctx, in.Body.Key)
	if err != nil && problemOf(err).Status >= 500 {
		return nil, err
	}
	fleet, err := s.Store.Fleet(ctx)
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
	return answerOf(out, err)
}

type saveKit struct {
	Body struct {
		Version int     `json:"version" doc:"0 for a new kit"`
		Kit     fit.Kit `json:"kit"`
	}
}

func (s *Server) saveKit(ctx context.Context, _ user, in *saveKit) (*answer[store.KitEntry], error) {
	if err := s.app.SaveKit(ctx, in.Body.Kit, in.Body.Version); err != nil {
		return nil, err
	}
	return answerOf(s.Store.KitEntry(ctx, in.Body.Kit.Key))
}

type deleteKit struct {
	ByKit
	Body struct {
		Version int `json:"version"`
	}
}

// KitDeleted says what became of a kit that was taken out of the catalogue.
type KitDeleted struct {
	Back bool `json:"back" doc:"It stands again as it came with the application"`
}

func (s *Server) deleteKit(ctx context.Context, _ user, in *deleteKit) (*answer[KitDeleted], error) {
	back, err := s.app.DeleteKit(ctx, in.Key, in.Body.Version)
	return answerOf(KitDeleted{back}, err)
}
