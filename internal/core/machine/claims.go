package machine

import (
	"cmp"
	"iter"
	"math"
	"slices"
)

// Claim is what somebody said of a part, with what stands of it now.
type Claim struct {
	Supplier string
	Trait    *Trait
	Claimed  Reading
	Standing Fact // of the same trait of the same part; unknown where nothing checks the claim
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

// Claims gives what is claimed among readings, with what stands of the same trait where
// something stronger was read; those that were taken back were never made. trait gives the
// trait of a key, nil where it is not asked for; from names who answers for its claims.
func Claims(readings []Reading, trait func(Key) *Trait, from func(*Trait) string) iter.Seq[Claim] {
	return func(yield func(Claim) bool) {
		of := map[Key][]Reading{} // where something stronger was read
		for _, r := range readings {
			if r.Grade > Claimed && r.Superseded == "" {
				of[r.Key] = nil
			}
		}
		for _, r := range readings {
			if list, ok := of[r.Key]; ok {
				of[r.Key] = append(list, r)
			}
		}
		for _, r := range readings {
			if r.Grade != Claimed || r.Retracted() {
				continue
			}
			t := trait(r.Key)
			if t == nil {
				continue
			}
			c := Claim{Supplier: from(t), Trait: t, Claimed: r}
			if list := of[r.Key]; list != nil {
				c.Standing = Standing(t, list)
			}
			if !yield(c) {
				return
			}
		}
	}
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
// offender first: by the lower bound of the share of false claims.
func TallyClaims(claims iter.Seq[Claim]) []SupplierTally {
	at := map[string]*SupplierTally{}
	of := func(supplier string) *SupplierTally {
		if at[supplier] == nil {
			at[supplier] = &SupplierTally{Supplier: supplier}
		}
		return at[supplier]
	}
	for c := range claims {
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
