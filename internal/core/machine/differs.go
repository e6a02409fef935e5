package machine

// Differs is what the reader of a value that differs from the one that stands says of it.
type Differs string

const (
	// NotSaid leaves the two in conflict where they are of one grade.
	NotSaid Differs = ""
	// Changed says that it was changed since.
	Changed Differs = "changed"
	// WasWrong says that the record was wrong: the machine is as it was.
	WasWrong Differs = "wrong"
)

// why is the reason with which the readings before are set aside.
func (d Differs) why() string {
	switch d {
	case Changed:
		return "changed since"
	case WasWrong:
		return "the record was wrong"
	}
	return ""
}

// SupersededBy lists the readings that no longer count once a value of a trait is read with
// a grade, and the reason; none where the reader does not say why they differ. A stronger
// grade gives way too: somebody says that it is no longer so.
func (d Differs) SupersededBy(before []Reading, t *Trait, v Value, grade Grade) (aside []int64, why string) {
	if d.why() == "" {
		return nil, ""
	}
	for _, old := range before {
		if old.Key == t.Key() && old.Superseded == "" && !t.Same(old.Value, v) && old.Grade >= grade {
			aside = append(aside, old.ID)
		}
	}
	return aside, d.why() + ": " + t.Show(v)
}
