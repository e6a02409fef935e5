package server

import (
	"context"
	"fmt"
	"strings"

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
	plan.Joint
	Machine string      `json:"machine"`
	Order   []OrderLine `json:"order" doc:"What has to be bought"`
	Against []string    `json:"against" doc:"What speaks against it, with numbers"`
}

// OrderLine is a line of an order list.
type OrderLine struct {
	What  string  `json:"what"`
	Kind  string  `json:"kind" enum:"kit,further change,part,screws,tool"`
	Count int     `json:"count"`
	Price float64 `json:"price" doc:"Of all of them together; 0 for what comes with a kit"`
}

func (s *Server) judgePlan(ctx context.Context, _ user, in *judgePlan) (*answer[PlanSheet], error) {
	m, err := s.Store.Machine(ctx, in.Body.MachineID)
	if err != nil {
		return nil, err
	}
	var judges []*fit.Judge
	for _, key := range in.Body.Kits {
		j, err := s.Store.Judge(ctx, key)
		if err != nil {
			return nil, err
		}
		judges = append(judges, j)
	}
	p, err := plan.Judge(judges, m.Facts, m.Records)
	if err != nil {
		return nil, &store.Refusal{Sentence: err.Error()}
	}
	var order orderList
	for _, step := range p.Steps {
		for _, j := range judges {
			if j.Kit.Key == step.Kit {
				order.add(j.Kit, step.Further)
			}
		}
	}
	var price float64
	if m.Price != nil {
		price = *m.Price
	}
	return answerOf(PlanSheet{Joint: p, Machine: m.Name, Order: order.lines, Against: plan.Against(p, price)}, nil)
}

// orderList gathers lines, the same thing counted once.
type orderList struct{ lines []OrderLine }

func (o *orderList) line(kind, what string, price float64) {
	for i := range o.lines {
		if o.lines[i].Kind == kind && o.lines[i].What == what {
			o.lines[i].Count++
			o.lines[i].Price += price
			return
		}
	}
	o.lines = append(o.lines, OrderLine{What: what, Kind: kind, Count: 1, Price: price})
}

func (o *orderList) add(k fit.Kit, further []fit.Further) {
	o.line("kit", k.Name, k.Price)
	for _, f := range further {
		o.line("further change", f.Title, f.Price)
	}
	for _, p := range k.Parts {
		o.line("part", p, 0)
	}
	for _, p := range k.Screws {
		o.line("screws", p, 0)
	}
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

// OrderSheet is what has to be bought for a selection of the matrix.
type OrderSheet struct {
	Lines   []OrderLine `json:"lines"`
	Price   float64     `json:"price"`
	Minutes int         `json:"minutes"`
	Refused []string    `json:"refused" doc:"Picks that are not to be ordered, and why"`
}

func (s *Server) orderFor(ctx context.Context, _ user, in *orderFor) (*answer[OrderSheet], error) {
	judges, _, err := s.Store.Judges(ctx)
	if err != nil {
		return nil, err
	}
	fleet, err := s.Store.Fleet(ctx)
	if err != nil {
		return nil, err
	}
	byKey := map[string]*fit.Judge{}
	for _, j := range judges {
		byKey[j.Kit.Key] = j
	}
	byID := map[int64]*store.Machine{}
	for i := range fleet {
		byID[fleet[i].ID] = &fleet[i]
	}
	out := OrderSheet{Lines: []OrderLine{}, Refused: []string{}}
	var list orderList
	for _, p := range in.Body.Picks {
		j, m := byKey[p.Kit], byID[p.MachineID]
		if j == nil || m == nil {
			continue
		}
		v := j.Verdict(m.Facts)
		if v.Answer != fit.Fits && v.Answer != fit.FitsIf {
			out.Refused = append(out.Refused, j.Kit.Name+" on "+m.Name+": "+string(v.Answer)+". "+v.Headline)
			continue
		}
		list.add(j.Kit, v.Further)
		price, minutes := j.Kit.Cost(v.Further)
		out.Price, out.Minutes = out.Price+price, out.Minutes+minutes
	}
	if list.lines != nil {
		out.Lines = list.lines
	}
	return answerOf(out, nil)
}

// Advice is what to do about a verdict: what would make the kit fit, where to
// look first, what follows, and which parts it sets free.
type Advice struct {
	Remedy       *plan.Remedy         `json:"remedy,omitempty"`
	NoRemedy     bool                 `json:"noRemedy" doc:"It does not fit, and no kits of the catalogue would make it"`
	Drop         []string             `json:"drop" doc:"The smallest set of features to drop from the build, where flash is short"`
	Look         plan.Route           `json:"look"`
	Consequences []change.Consequence `json:"consequences"`
	Spares       []SpareUse           `json:"spares"`
}

// SpareUse is a part set free, with the machines that carry the same.
type SpareUse struct {
	change.Spare
	Machines []string `json:"machines" doc:"That carry the same model and could use it as a spare"`
}

func (s *Server) advice(ctx context.Context, _ user, in *kitOnMachine) (*answer[Advice], error) {
	j, err := s.Store.Judge(ctx, in.Key)
	if err != nil {
		return nil, err
	}
	m, err := s.Store.Machine(ctx, in.ID)
	if err != nil {
		return nil, err
	}
	judges, _, err := s.Store.Judges(ctx)
	if err != nil {
		return nil, err
	}
	fleet, err := s.Store.Fleet(ctx)
	if err != nil {
		return nil, err
	}
	v := j.Verdict(m.Facts)
	out := Advice{Drop: []string{}, Spares: []SpareUse{}}
	if v.Answer == fit.DoesNotFit {
		if out.Remedy, err = plan.Remedies(j, judges, m.Facts, m.Records); err != nil {
			return nil, err
		}
		out.NoRemedy = out.Remedy == nil
		if short := j.Short("flash", fit.Stand(m.Facts)); short > 0 {
			for _, f := range plan.DropFeatures(short, listed(m.Facts.Fact("firmware.features").Value.Text)) {
				out.Drop = append(out.Drop, f.Name)
			}
		}
	}
	batch, _ := batchOf(&m, fleet)
	out.Look = plan.LookFirst(j, m.Facts, plan.FleetPrior(batch))
	c, err := change.NewChange(j.Kit, v.Further, m.Facts)
	if err != nil {
		return nil, err
	}
	out.Consequences = c.Consequences()
	for _, spare := range c.Spares() {
		u := SpareUse{Spare: spare, Machines: []string{}}
		for i := range fleet {
			if fleet[i].ID != m.ID && strings.EqualFold(fleet[i].Facts.Model(spare.Slot), spare.Model) {
				u.Machines = append(u.Machines, fleet[i].Name)
			}
		}
		out.Spares = append(out.Spares, u)
	}
	return answerOf(out, nil)
}

func listed(text string) []string {
	var out []string
	for _, f := range strings.FieldsFunc(text, func(r rune) bool { return r == ';' || r == ',' }) {
		out = append(out, strings.ToLower(strings.TrimSpace(f)))
	}
	return out
}

// batchOf are the machines of one name and one supplier, bought within days of
// each other, this one among them; name tells batches apart.
func batchOf(m *store.Machine, fleet []store.Machine) (out []machine.Snapshot, name string) {
	for i := range fleet {
		o := &fleet[i]
		if days := o.Since.Sub(m.Since).Hours() / 24; o.Maker == m.Maker && o.Supplier == m.Supplier && days > -60 && days < 60 {
			out = append(out, o.Facts)
			name += fmt.Sprint(o.ID, " ")
		}
	}
	return out, name
}

type lookAtFleet struct {
	ByKit
	N int `query:"n" minimum:"1" maximum:"1000" default:"1" doc:"How many are to be ordered"`
}

// FleetLookSheet is which machines to open first for a kit ordered several times.
type FleetLookSheet struct {
	plan.FleetLook
	Machines []FleetLookRow `json:"machines" doc:"In the order to look"`
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
	j, err := s.Store.Judge(ctx, in.Key)
	if err != nil {
		return nil, err
	}
	fleet, err := s.Store.Fleet(ctx)
	if err != nil {
		return nil, err
	}
	candidates := make([]plan.Candidate, len(fleet))
	rows := map[int64]FleetLookRow{}
	lookers := map[string]*plan.Looker{}
	for i := range fleet {
		m := &fleet[i]
		batch, name := batchOf(m, fleet)
		if lookers[name] == nil {
			lookers[name] = plan.NewLooker(j, plan.FleetPrior(batch))
		}
		l := lookers[name].First(m.Facts)
		candidates[i] = plan.Candidate{ID: m.ID, Chance: l.Chance, Minutes: l.Minutes}
		rows[m.ID] = FleetLookRow{ID: m.ID, Name: m.Name, Bay: m.Bay, Chance: l.Chance, Minutes: l.Minutes, First: l.Title}
	}
	out := FleetLookSheet{FleetLook: plan.LookAtFleet(candidates, in.N), Machines: []FleetLookRow{}}
	for _, id := range out.Order {
		out.Machines = append(out.Machines, rows[id])
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
	Counts  fit.Counts `json:"counts"`
	Rows    []TrialRow `json:"rows"`
}

// TrialRow is the trial's verdict on one machine.
type TrialRow struct {
	Machine  string     `json:"machine"`
	Answer   fit.Answer `json:"answer" enum:"fits,fits if,look first,does not fit"`
	Headline string     `json:"headline"`
}

func (s *Server) tryKit(ctx context.Context, _ user, in *tryKit) (*answer[KitTrial], error) {
	out := KitTrial{Rows: []TrialRow{}}
	j, err := s.Store.CheckKit(ctx, in.Body)
	if err != nil {
		p := problemOf(err)
		if p.Status >= 500 {
			return nil, err
		}
		out.Problem = p.Detail
		return answerOf(out, nil)
	}
	fleet, err := s.Store.Fleet(ctx)
	for i := range fleet {
		v := j.Verdict(fleet[i].Facts)
		out.Counts.Add(v.Answer)
		out.Rows = append(out.Rows, TrialRow{fleet[i].Name, v.Answer, v.Headline})
	}
	return answerOf(out, err)
}

type saveKit struct {
	Body struct {
		Version int     `json:"version" doc:"0 for a new kit"`
		Kit     fit.Kit `json:"kit"`
	}
}

func (s *Server) saveKit(ctx context.Context, _ user, in *saveKit) (*answer[store.KitEntry], error) {
	if err := s.Store.SaveKit(ctx, in.Body.Kit, in.Body.Version); err != nil {
		return nil, err
	}
	return answerOf(s.Store.KitEntry(ctx, in.Body.Kit.Key))
}
