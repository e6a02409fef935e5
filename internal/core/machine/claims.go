package machine

import (
	"cmp"
	"math"
	"slices"
)

// Claim is what somebody said of a part, with what stands of it now.
type Claim struct {
	Supplier string
	Trait    *Trait
	Claimed  Reading
	Standing Fact // of the same trait of the same part
}

// False reports whether a stronger reading has shown the claim to be wrong, and
// whether any has checked it at all. A claim that was taken back, as misheard,
// was never made.
func (c Claim) False() (wrong, checked bool) {
	if c.Standing.Grade <= Claimed || !c.Standing.Known() {
		return false, false
	}
	return !c.Trait.Same(c.Claimed.Value, c.Standing.Value), true
}

// SupplierTally is how the claims of one supplier fared.
type SupplierTally struct {
	Supplier string `json:"supplier"`
	Claims   int    `json:"claims"`
	Checked  int    `json:"checked" doc:"Claims of which something stronger than a claim is known"`
	False    int    `json:"false" doc:"Claims that it contradicts"`
	// Low and High are the bounds of the share of false claims: Wilson's
	// interval at 95 %. Few checks leave them wide.
	Low  float64 `json:"low" doc:"0 to 1"`
	High float64 `json:"high" doc:"0 to 1"`
}

// TallyClaims compares suppliers by how often their claims failed, the surest
// offender first: by the lower bound of the share of false claims. unchecked are how many
// claims of each there are besides, of which nothing better is known.
func TallyClaims(claims []Claim, unchecked map[string]int) []SupplierTally {
	at := map[string]*SupplierTally{}
	of := func(supplier string) *SupplierTally {
		if at[supplier] == nil {
			at[supplier] = &SupplierTally{Supplier: supplier}
		}
		return at[supplier]
	}
	for supplier, n := range unchecked {
		of(supplier).Claims += n
	}
	for _, c := range claims {
		t := of(c.Supplier)
		t.Claims++
		wrong, checked := c.False()
		if checked {
			t.Checked++
		}
		if wrong {
			t.False++
		}
	}
	out := make([]SupplierTally, 0, len(at))
	for _, t := range at {
		t.Low, t.High = wilson(t.False, t.Checked)
		out = append(out, *t)
	}
	slices.SortFunc(out, func(a, b SupplierTally) int {
		return cmp.Or(cmp.Compare(b.Low, a.Low), cmp.Compare(b.Checked, a.Checked), cmp.Compare(a.Supplier, b.Supplier))
	})
	return out
}

// wilson is the 95 % score interval of a share of k in n. Source: E. B. Wilson,
// "Probable inference, the law of succession, and statistical inference",
// J. Am. Stat. Assoc. 22 (1927).
func wilson(k, n int) (low, high float64) {
	if n == 0 {
		return 0, 1
	}
	const z = 1.959964
	p, m := float64(k)/float64(n), float64(n)
	middle := p + z*z/(2*m)
	half := z * math.Sqrt(p*(1-p)/m+z*z/(4*m*m))
	return max(0, (middle-half)/(1+z*z/m)), min(1, (middle+half)/(1+z*z/m))
}
