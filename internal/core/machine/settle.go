package machine

// Settle is what becomes of a conflict when one of its readings is chosen: the numbers of
// those that say something else, which are set aside. ok is false where the chosen one is
// no part of the conflict any more.
func (f Fact) Settle(chosen int64) (aside []int64, ok bool) {
	var keep *Reading
	for i := range f.Conflict {
		if f.Conflict[i].ID == chosen {
			keep = &f.Conflict[i]
		}
	}
	if keep == nil {
		return nil, false
	}
	for _, r := range f.Conflict {
		if !f.Trait.Same(r.Value, keep.Value) {
			aside = append(aside, r.ID)
		}
	}
	return aside, true
}
