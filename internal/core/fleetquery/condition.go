package fleetquery

import (
	"fmt"
	"strings"
	"time"

	"wardifex/internal/core/maintenance"
)

// Condition is how a machine stands as a whole.
type Condition struct {
	Proven    bool  // protection
	Danger    bool  // was reported, and nobody has repaired it
	Order     int64 // the open work order; 0 when none is
	Use       maintenance.Use
	Faults    int // open
	Conflicts int
	Invalid   int              // calibrations
	Disagree  int              // values of which two places say different things
	BuiltFor  int              // parts that the build is configured for and that are fitted otherwise
	Next      *maintenance.Due // the most urgent task, when there is one
}

// Fields are the columns that show it.
func (c Condition) Fields() map[string]string {
	f := map[string]string{
		UseColumn:        string(c.Use),
		ProtectionColumn: "not proven",
		ConflictsColumn:  fmt.Sprint(c.Conflicts),
		FaultsColumn:     fmt.Sprint(c.Faults),
		InvalidColumn:    fmt.Sprint(c.Invalid),
		BuiltForColumn:   fmt.Sprint(c.BuiltFor),
		DisagreeColumn:   fmt.Sprint(c.Disagree),
	}
	if c.Proven {
		f[ProtectionColumn] = "proven"
	}
	if c.Order != 0 {
		f[OrderColumn] = fmt.Sprintf("order %d", c.Order)
	}
	switch {
	case c.Danger:
		f[NextColumn] = "Danger reported: inspect first" // nothing else is done there before
	case c.Next != nil:
		f[NextColumn] = c.Next.Title + ": " + c.Next.Words
		if c.Next.State == maintenance.Unproven {
			f[NextColumn] = c.Next.Title + ": now" // no date beside an unproven protection; why is in the state
		}
	}
	f[StateColumn] = c.state(f[ProtectionColumn], f[OrderColumn])
	return f
}

// state is whether a machine is safe, and what is out of the ordinary with it,
// in a few words.
func (c Condition) state(protection, order string) string {
	out := []string{"protection " + protection}
	if c.Danger {
		out = []string{"danger reported", "protection " + protection}
	}
	if order != "" {
		out = append(out, "locked out, "+order)
	}
	if c.Use != maintenance.InUse {
		out = append(out, string(c.Use))
	}
	for _, n := range []struct {
		count     int
		one, many string
	}{
		{c.Faults, "open fault", "open faults"}, {c.Conflicts, "value in conflict", "values in conflict"},
		{c.Invalid, "calibration invalid", "calibrations invalid"}, {c.Disagree, "value disagrees", "values disagree"},
		{c.BuiltFor, "part that its build is not for", "parts that its build is not for"},
	} {
		switch {
		case n.count == 1:
			out = append(out, "1 "+n.one)
		case n.count > 1:
			out = append(out, fmt.Sprintf("%d %s", n.count, n.many))
		}
	}
	return strings.Join(out, "; ")
}

// InFleet reports whether a machine that came on one day, and was retired on
// another or not yet (nil), was in the fleet at any time of a period; of a
// moment, when from is zero.
func InFleet(since time.Time, retired *time.Time, from, to time.Time) bool {
	if from.IsZero() {
		from = to
	}
	return !since.After(to) && (retired == nil || !retired.Before(from))
}
