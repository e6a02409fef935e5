package machine

import "time"

// Installation is a part's time in a machine, or on the shelf, with what the part cost.
type Installation struct {
	Part    int64
	Machine int64 // 0 on the shelf
	From    time.Time
	Price   *float64 // in the shop's currency; nil when unknown
	Empty   bool     // a placeholder for a slot known to be empty: no part
}

// Cost is what a machine has cost.
type Cost struct {
	Machine  float64 `json:"machine" staff:"only" doc:"Its own price, in the shop's currency"`
	Parts    float64 `json:"parts" staff:"only" doc:"Prices of the parts first fitted here after it came"`
	Priced   int     `json:"priced" doc:"Parts counted"`
	Unpriced int     `json:"unpriced" doc:"Parts fitted later of which no price is on record"`
	MovedIn  int     `json:"movedIn" doc:"Parts that came from another machine, where their price counts"`
	Minutes  int     `json:"minutes" doc:"Work on record"`
}

// CostOf adds up a machine. A part's price counts once, at the machine it was
// first fitted in; what was in the machine when it came is in the machine's own
// price unless the part has a price of its own.
func CostOf(machine int64, price *float64, since time.Time, stays []Installation, minutes int) Cost {
	c := Cost{Minutes: minutes}
	if price != nil {
		c.Machine = *price
	}
	first := map[int64]Installation{}
	for _, s := range stays {
		if f, ok := first[s.Part]; s.Machine != 0 && (!ok || s.From.Before(f.From)) {
			first[s.Part] = s
		}
	}
	here := map[int64]bool{}
	for _, s := range stays {
		if s.Machine != machine || s.Empty || here[s.Part] {
			continue
		}
		here[s.Part] = true
		switch {
		case first[s.Part].Machine != machine:
			c.MovedIn++
		case s.Price != nil:
			c.Parts += *s.Price
			c.Priced++
		case s.From.After(since.AddDate(0, 0, 1)):
			c.Unpriced++
		}
	}
	return c
}
