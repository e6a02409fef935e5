package store

// Cut is which rows of a list are wanted: at most Limit of them from Offset on, all where Limit is 0.
type Cut struct{ Offset, Limit int }

// Listed are some rows of a list, and how many it has.
type Listed[T any] struct {
	Rows  []T `json:"rows"`
	Found int `json:"found" doc:"How many there are, of which some are listed"`
}

// rows is the limit for the database, of which -1 is none.
func (c Cut) rows() int {
	if c.Limit == 0 {
		return -1
	}
	return c.Limit
}
