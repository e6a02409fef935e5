package plan

import "fmt"

// Against is what speaks against a plan, with its numbers: the advice for who
// would go step by step, and the price of a new machine. machinePrice is what
// the machine cost, 0 when that is not on record; money is in the shop's
// currency. Source: common practice.
func Against(p Joint, machinePrice float64) []string {
	out := []string{}
	if len(p.Steps) > 1 {
		out = append(out, fmt.Sprintf("One change at a time, measured before and after with the same test: %d changes at once, and nobody knows what helped.", len(p.Steps)))
	}
	if machinePrice > 0 && p.Price > 0 {
		share := 100 * p.Price / machinePrice
		out = append(out, fmt.Sprintf("The kits cost %.0f, the machine cost %.0f: %.0f %% of a new one, and %.1f hours of work besides.", p.Price, machinePrice, share, float64(p.Minutes)/60))
	}
	if p.Minutes >= 300 {
		out = append(out, "Whoever has never levelled, assembled and tuned this machine begins with something smaller.")
	}
	return out
}
