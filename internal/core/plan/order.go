package plan

import (
	"fmt"
	"io"
	"slices"
	"strings"

	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
)

// OrderLine is a line of an order list.
type OrderLine struct {
	What     string   `json:"what"`
	Kind     string   `json:"kind"              enum:"kit,additional change"`
	Count    int      `json:"count"`
	Price    float64  `json:"price"             doc:"Of all of them together"`
	Machines []string `json:"machines"          doc:"For which they are, one for each"`
	Box      []InBox  `json:"box"               doc:"What comes in the boxes, all together"`
	OnShelf  int      `json:"onShelf,omitempty" doc:"Parts on the shelf of the models that it fits"`
	Kit      string   `json:"kit,omitempty"     doc:"Its key"`
	IDs      []int64  `json:"machineIds"        doc:"Of the machines, in their order"`
	Supplier string   `json:"supplier"          doc:"Who it was ordered of last; empty where it never was"`
}

// For is the machine that something is ordered for; the zero value for none in particular.
type For struct {
	ID   int64
	Name string
}

// InBox is what comes with a kit.
type InBox struct {
	What  string `json:"what"`
	Count int    `json:"count" doc:"How many boxes have it"`
}

// OrderList is what has to be bought for kits on machines.
type OrderList struct {
	Lines   []OrderLine `json:"lines"`
	Price   float64     `json:"price"`
	Minutes int         `json:"minutes"`
	Refused []string    `json:"refused" doc:"Kits that are not to be ordered, and why"`
	Waiting []Waiting   `json:"waiting" doc:"Kits that wait for a look, by which way the claims lean"`
	Pilots  []string    `json:"pilots" doc:"Advice for kits that go into several machines"`
}

// NewOrderList is an empty list.
func NewOrderList() OrderList {
	return OrderList{Lines: []OrderLine{}, Refused: []string{}, Waiting: []Waiting{}, Pilots: []string{}}
}

func (o *OrderList) line(kind, what string, on For, price float64) *OrderLine {
	i := slices.IndexFunc(o.Lines, func(l OrderLine) bool { return l.Kind == kind && l.What == what })
	if i < 0 {
		i = len(o.Lines)
		o.Lines = append(o.Lines, OrderLine{What: what, Kind: kind, Machines: []string{}, IDs: []int64{}, Box: []InBox{}})
	}
	l := &o.Lines[i]
	l.Count++
	l.Price += price
	if on.Name != "" {
		l.Machines, l.IDs = append(l.Machines, on.Name), append(l.IDs, on.ID)
	}
	return l
}

// Add puts a kit with its additional changes on the order for a machine; the same thing is
// one line, counted, with what comes in its box under it.
func (o *OrderList) Add(k fit.Kit, changes []fit.AdditionalChange, on For) {
	l := o.line("kit", k.Name, on, k.Price)
	l.Kit = k.Key
	for _, what := range slices.Concat(k.Parts, k.Screws) {
		i := slices.IndexFunc(l.Box, func(b InBox) bool { return b.What == what })
		if i < 0 {
			i = len(l.Box)
			l.Box = append(l.Box, InBox{What: what})
		}
		l.Box[i].Count++
	}
	for _, f := range changes {
		o.line("additional change", f.Title, on, f.Price)
	}
	price, minutes := k.Cost(changes)
	o.Price, o.Minutes = o.Price+price, o.Minutes+minutes
}

// Stock notes for each kit how many parts lie on the shelf that it would fit, by position and
// model.
func (o *OrderList) Stock(kits []fit.Kit, onShelf func(slot, model string) int) {
	for i := range o.Lines {
		l := &o.Lines[i]
		k := slices.IndexFunc(kits, func(k fit.Kit) bool { return k.Key == l.Kit })
		if l.Kit == "" || k < 0 {
			continue
		}
		for _, e := range kits[k].Effects {
			if e.Fits() {
				l.OnShelf += onShelf(e.Slot, e.Model)
			}
		}
	}
}

// Suppliers notes of whom each kit was ordered last, by its key.
func (o *OrderList) Suppliers(last map[string]string) {
	for i := range o.Lines {
		o.Lines[i].Supplier = last[o.Lines[i].Kit]
	}
}

// WriteCSV writes the list, a kit's line before those of its box. Source: RFC 4180.
func (o OrderList) WriteCSV(w io.Writer, currency string) error {
	lines := [][]string{{"Count", "What", "Kind", "Price, " + currency, "For", "On the shelf", "Supplier"}}
	for _, l := range o.Lines {
		shelf := ""
		if l.Kit != "" {
			shelf = fmt.Sprint(l.OnShelf)
		}
		lines = append(lines, []string{
			fmt.Sprint(l.Count), l.What, l.Kind, fmt.Sprintf("%.2f", l.Price), strings.Join(l.Machines, ", "), shelf, l.Supplier,
		})
		for _, b := range l.Box {
			lines = append(lines, []string{fmt.Sprint(b.Count), b.What, "in the box of " + l.What, "", "", "", ""})
		}
	}
	return machine.WriteCSV(w, lines)
}

// Pilot advises, for each kit that is ordered several times, to begin with one
// machine. Source: common practice.
func (o *OrderList) Pilot() {
	for _, l := range o.Lines {
		if l.Kind == "kit" && l.Count > 1 {
			o.Pilots = append(
				o.Pilots,
				fmt.Sprintf(
					"%s: one pilot machine first, run it for a while, then the other %d; keep a way back.",
					l.What,
					l.Count-1,
				),
			)
		}
	}
}

// AddFor puts a kit on the order if it fits a machine, additional changes
// included; what is not settled, or does not fit, is refused with its verdict.
func (o *OrderList) AddFor(j *fit.Judge, on For, s machine.Snapshot) {
	j = j.On(s)
	v := j.Verdict(s)
	switch v.Answer {
	case fit.Fits, fit.FitsIf:
		o.Add(j.Kit, v.Additional, on)
	case fit.LookFirst:
		o.wait(j.Kit.Name, v.Lean, on.Name)
	default:
		o.Refused = append(o.Refused, j.Kit.Name+" on "+on.Name+": "+string(v.Answer)+". "+v.Headline)
	}
}

func (o *OrderList) wait(kit string, lean fit.Answer, machine string) {
	for i := range o.Waiting {
		if w := &o.Waiting[i]; w.Kit == kit && w.Lean == lean {
			w.Count++
			w.Machines = append(w.Machines, machine)
			return
		}
	}
	o.Waiting = append(o.Waiting, Waiting{Kit: kit, Lean: lean, Count: 1, Machines: []string{machine}})
}

// Waiting is a kit that is not ordered before somebody has looked at machines.
type Waiting struct {
	Kit      string     `json:"kit"`
	Lean     fit.Answer `json:"lean" enum:"fits,fits if,does not fit,no lean" doc:"Which way the claims lean on them"`
	Count    int        `json:"count"`
	Machines []string   `json:"machines"`
}
