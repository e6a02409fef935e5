package plan

import (
	"fmt"

	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
)

// OrderLine is a line of an order list.
type OrderLine struct {
	What  string  `json:"what"`
	Kind  string  `json:"kind" enum:"kit,further change,part,screws,tool"`
	Count int     `json:"count"`
	Price float64 `json:"price" doc:"Of all of them together; 0 for what comes with a kit"`
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

func (o *OrderList) line(kind, what string, price float64) {
	for i := range o.Lines {
		if o.Lines[i].Kind == kind && o.Lines[i].What == what {
			o.Lines[i].Count++
			o.Lines[i].Price += price
			return
		}
	}
	o.Lines = append(o.Lines, OrderLine{What: what, Kind: kind, Count: 1, Price: price})
}

// Add puts a kit with its further changes on the order; the same thing is one
// line, counted.
func (o *OrderList) Add(k fit.Kit, changes []fit.AdditionalChange) {
	o.line("kit", k.Name, k.Price)
	for _, f := range changes {
		o.line("further change", f.Title, f.Price)
	}
	for _, p := range k.Parts {
		o.line("part", p, 0)
	}
	for _, p := range k.Screws {
		o.line("screws", p, 0)
	}
	price, minutes := k.Cost(changes)
	o.Price, o.Minutes = o.Price+price, o.Minutes+minutes
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

// AddFor puts a kit on the order if it fits a machine, changes changes
// included; what is not settled, or does not fit, is refused with its verdict.
func (o *OrderList) AddFor(j *fit.Judge, name string, s machine.Snapshot) {
	j = j.On(s)
	v := j.Verdict(s)
	switch v.Answer {
	case fit.Fits, fit.FitsIf:
		o.Add(j.Kit, v.Additional)
	case fit.LookFirst:
		o.wait(j.Kit.Name, v.Lean, name)
	default:
		o.Refused = append(o.Refused, j.Kit.Name+" on "+name+": "+string(v.Answer)+". "+v.Headline)
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
