package plan

import "time"

// Bought is under which name, from whom and when a machine was bought.
type Bought struct {
	Maker, Supplier string
	On              time.Time
}

// batchSpan is how far apart machines of one batch may have been bought: what
// one supplier sells under one name changes inside from one delivery to another.
// Source: from memory.
const batchSpan = 60 * 24 * time.Hour

// SameBatch reports whether what was read on one machine may be expected of the
// other.
func (b Bought) SameBatch(o Bought) bool {
	return b.Maker == o.Maker && b.Supplier == o.Supplier && b.On.Sub(o.On).Abs() < batchSpan
}
