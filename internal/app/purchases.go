package app

import (
	"cmp"
	"context"
	"slices"
	"time"

	"wardifex/internal/core/civil"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/purchase"
	"wardifex/internal/store"
)

// NewPurchase is an order as it is written.
type NewPurchase struct {
	store.PurchaseFields
	Lines []NewPurchaseLine `json:"lines" minItems:"1" maxItems:"200"`
}

// NewPurchaseLine is a line of it: a kit, a part of a model, or something that goes on no
// record.
type NewPurchaseLine struct {
	Kit      string   `json:"kit,omitempty"      doc:"Key of a kit"`
	Kind     string   `json:"kind,omitempty"     doc:"Kind of part, where it is one"`
	What     string   `json:"what,omitempty"     maxLength:"120" doc:"Model of the part, or what it is"`
	Count    int      `json:"count"              minimum:"1" maximum:"1000"`
	Price    *float64 `json:"price,omitempty"    minimum:"0" doc:"Of all of them together"`
	Machines []int64  `json:"machines,omitempty" maxItems:"1000" doc:"For which they are"`
}

// PlaceOrders puts orders on record, all or none, and gives their numbers.
func (a *App) PlaceOrders(ctx context.Context, orders []NewPurchase, by string, now time.Time) ([]int64, error) {
	var ids []int64
	err := a.store.InTx(ctx, func(ctx context.Context) error {
		ids = nil
		for _, o := range orders {
			if err := checkPurchase(&o.PurchaseFields, now); err != nil {
				return err
			}
			lines := make([]purchase.Line, len(o.Lines))
			for i, l := range o.Lines {
				var err error
				if lines[i], err = a.purchaseLine(ctx, l); err != nil {
					return err
				}
			}
			if len(lines) == 0 {
				return refuse("an order without a line orders nothing")
			}
			id, err := a.store.AddPurchase(ctx, o.PurchaseFields, lines, by, now)
			if err != nil {
				return err
			}
			ids = append(ids, id)
		}
		return nil
	})
	return ids, err
}

func checkPurchase(f *store.PurchaseFields, now time.Time) error {
	if f.Supplier == "" {
		return refuse("say of which supplier it is ordered")
	}
	if err := checkTexts([]named{{"supplier", f.Supplier}, {"reference", f.Reference}}); err != nil {
		return err
	}
	var err error
	if f.OrderedOn, err = dayUntil("ordered on", f.OrderedOn, now); err != nil {
		return err
	}
	if f.ExpectedOn == "" {
		return nil
	}
	day, err := civil.ParseDay(f.ExpectedOn, civil.Unsaid)
	if err != nil {
		return refuse("expected on: %s", err)
	}
	f.ExpectedOn = day.String()
	if f.ExpectedOn < f.OrderedOn { // both ISO 8601
		return refuse("it was ordered on %s, so it cannot be expected on %s", f.OrderedOn, f.ExpectedOn)
	}
	return nil
}

// dayUntil reads a day that is not to come, as typed, and writes it as ISO 8601; today where
// it is empty.
func dayUntil(what, text string, now time.Time) (string, error) {
	today := civil.Of(now)
	if text == "" {
		return today.String(), nil
	}
	day, err := civil.ParseDay(text, civil.Unsaid)
	if err != nil {
		return "", refuse("%s: %s", what, err)
	}
	if day > today {
		return "", refuse("%s %s, which is still to come; it is %s now", what, day.Show(), today.Show())
	}
	return day.String(), nil
}

// purchaseLine is a line as it is kept: a kit with what is in its box today.
func (a *App) purchaseLine(ctx context.Context, l NewPurchaseLine) (purchase.Line, error) {
	out := purchase.Line{What: l.What}
	voc := a.store.Vocabulary(ctx)
	switch {
	case l.Kit != "":
		entry, err := a.store.KitEntry(ctx, l.Kit)
		if err != nil {
			return out, err
		}
		out = purchase.OfKit(entry.Kit, func(slot string) string {
			p, ok := voc.Position(slot)
			if !ok || voc.Software(p.Kind) {
				return ""
			}
			return p.Kind
		})
	case l.Kind != "":
		if k, ok := voc.Kind(l.Kind); !ok || k.Software {
			return out, refuse("there is no kind of part %q that can be ordered", l.Kind)
		}
		out.Kept = []purchase.KeptPart{{Kind: l.Kind, Model: l.What}}
	}
	out.Count, out.Price, out.Machines = l.Count, l.Price, l.Machines
	if err := out.Check(); err != nil {
		return out, Refused(err)
	}
	slices.Sort(out.Machines)
	out.Machines = slices.Compact(out.Machines)
	if len(out.Machines) == 0 {
		return out, nil
	}
	named, err := a.store.Names(ctx)
	for _, id := range out.Machines {
		if !slices.ContainsFunc(named, func(m store.Machine) bool { return m.ID == id }) {
			return out, cmp.Or(err, ErrNotFound)
		}
	}
	return out, err
}

// ChangeOrder writes an order's fields over the version that the editor saw. With a reason it
// is closed: what has not come is waited for no more. An empty reason opens it again.
func (a *App) ChangeOrder(ctx context.Context, id int64, version int, f store.PurchaseFields, closedWhy, by string,
	now time.Time) error {
	if err := checkPurchase(&f, now); err != nil {
		return err
	}
	if err := checkTexts([]named{{"reason", closedWhy}}); err != nil {
		return err
	}
	return a.store.InTx(ctx, func(ctx context.Context) error {
		p, err := a.store.LockPurchase(ctx, id)
		if err != nil {
			return err
		}
		if p.Version != version {
			return editedMeanwhile("order", p.ChangedBy, p.ChangedAt, p.PurchaseFields)
		}
		for _, c := range p.Arrivals {
			if c.CameOn < f.OrderedOn { // both ISO 8601
				return refuse("%s came on %s, so it was not ordered after that", c.What, c.CameOn)
			}
		}
		return a.store.WritePurchase(ctx, id, f, closedWhy, by, now)
	})
}

// Orders lists what was ordered, the newest first, with what is claimed of suppliers.
type Orders struct {
	Orders []store.Purchase `json:"orders"`
	Claims []store.Arrival  `json:"claims" doc:"What is claimed of suppliers, what goes back first first"`
}

// PurchaseBook lists orders: those that are waited for, or all.
func (a *App) PurchaseBook(ctx context.Context, all bool, now time.Time) (Orders, error) {
	list, err := a.store.Purchases(ctx)
	if err != nil {
		return Orders{}, err
	}
	if !all {
		list = slices.DeleteFunc(list, func(p store.Purchase) bool { return !p.Waits() })
	}
	claims, err := a.store.Claims(ctx)
	due(claims, now)
	return Orders{Orders: list, Claims: claims}, err
}

// due says of each thing until when it goes back.
func due(list []store.Arrival, now time.Time) {
	for i := range list {
		c := &list[i]
		if day, err := civil.ParseDay(c.ReturnBy, civil.Unsaid); err == nil {
			c.Due = purchase.ReturnBy(&day, c.Claim, civil.Of(now))
		}
	}
}

// PurchaseSheet is an order with what to check on each thing that is still to come.
type PurchaseSheet struct {
	store.Purchase
	Names  map[int64]string  `json:"names" doc:"Machines by their numbers"`
	Checks []DeliveryCheck   `json:"checks"`
	Labels map[string]string `json:"labels" doc:"Kinds of part by their keys"`
}

// DeliveryCheck is a trait to look at when a part of a model comes.
type DeliveryCheck struct {
	Kind       string       `json:"kind"`
	Model      string       `json:"model"`
	Trait      string       `json:"trait"`
	Label      string       `json:"label"`
	Answer     machine.Kind `json:"answer" enum:"number,choice,yes/no,text"`
	Unit       string       `json:"unit,omitempty"`
	Choices    []string     `json:"choices"`
	Hint       string       `json:"hint,omitempty"`
	Advertised string       `json:"advertised" doc:"As the catalogue has it; empty where it says nothing"`
}

// PurchaseSheet loads an order with its checks.
func (a *App) PurchaseSheet(ctx context.Context, id int64, now time.Time) (PurchaseSheet, error) {
	p, err := a.store.Purchase(ctx, id)
	if err != nil {
		return PurchaseSheet{}, err
	}
	due(p.Arrivals, now)
	out := PurchaseSheet{Purchase: p, Names: map[int64]string{}, Checks: []DeliveryCheck{}, Labels: map[string]string{}}
	wanted := map[int64]bool{}
	seen := map[purchase.KeptPart]bool{}
	voc := a.store.Vocabulary(ctx)
	for _, l := range p.Lines {
		for _, id := range l.Machines {
			wanted[id] = true
		}
		for _, k := range l.Kept {
			if seen[k] {
				continue
			}
			seen[k] = true
			if kind, ok := voc.Kind(k.Kind); ok {
				out.Labels[k.Kind] = kind.Label
			}
			out.Checks = append(out.Checks, deliveryChecks(voc, k)...)
		}
	}
	machines, err := a.store.Names(ctx)
	for _, m := range machines {
		if wanted[m.ID] {
			out.Names[m.ID] = m.Name
		}
	}
	return out, err
}

// deliveryChecks are the traits of a part: what it is first, then what its model states.
func deliveryChecks(voc *machine.Vocabulary, k purchase.KeptPart) []DeliveryCheck {
	stated := voc.DefaultsOf(k.Kind, k.Model)
	var first, rest []DeliveryCheck
	for _, def := range voc.TraitsOf(k.Kind) {
		if def.Superseded != "" {
			continue
		}
		t := voc.TraitOfKind(k.Kind, def.Name)
		c := DeliveryCheck{Kind: k.Kind, Model: k.Model, Trait: def.Name, Label: def.Short, Answer: def.Kind, Unit: def.Unit,
			Choices: t.Called(), Hint: def.Hint, Advertised: stated[def.Name].Text}
		if def.Name == machine.ModelTrait {
			c.Advertised = k.Model
		}
		if c.Advertised != "" {
			first = append(first, c)
		} else {
			rest = append(rest, c)
		}
	}
	return append(first, rest...)
}
