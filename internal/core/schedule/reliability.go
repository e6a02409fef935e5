package schedule

// Service is how one machine stood over a while, by which its reliability is told.
type Service struct {
	Open   Spans  // in which the shop was open and the machine in the fleet
	Down   Spans  // out of use, or with work open on it
	Faults []Span // from report to close; To is zero of one that is open
	// Planned and Unplanned are minutes of work on record.
	Planned, Unplanned float64
}

// Reliability is how a machine, or several together, did over a while.
type Reliability struct {
	Machines  int     `json:"machines"`
	Open      float64 `json:"open"      doc:"Opening hours, of all machines together, h"`
	Up        float64 `json:"up"        doc:"Of them in which the machine could be used, h"`
	Failures  int     `json:"failures"  doc:"Faults reported"`
	Repaired  int     `json:"repaired"  doc:"Faults closed"`
	Repair    float64 `json:"repair"    doc:"From report to close, of those closed together, h"`
	Planned   float64 `json:"planned"   doc:"Minutes of planned work: maintenance and upgrades"`
	Unplanned float64 `json:"unplanned" doc:"Minutes of work for faults"`
	// Available is Up / Open; empty where the shop was never open.
	Available *float64 `json:"available,omitempty" doc:"Share, from 0 to 1"`
	// Between is Up / Failures, the mean time between failures; empty where none failed.
	Between *float64 `json:"between,omitempty" doc:"Opening hours up between failures, h"`
	// ToRepair is Repair / Repaired, the mean time to repair; empty where none was repaired.
	ToRepair *float64 `json:"toRepair,omitempty" doc:"Hours of the clock from report to close, h"`
}

// ReliabilityOf tells how machines did together over a while; what lies outside of it does not count. A
// fault counts when it was reported in it, a repair when it was closed in it.
// Source: IEC 60050-192, availability and mean operating time between failures, with opening hours
// as the time in which a machine is asked for.
func ReliabilityOf(all []Service, within Span) Reliability {
	r := Reliability{Machines: len(all)}
	whole := Spans{within}
	for _, s := range all {
		open := s.Open.And(whole)
		r.Open += open.Length().Hours()
		r.Up += open.Minus(s.Down).Length().Hours()
		for _, f := range s.Faults {
			if whole.At(f.From) {
				r.Failures++
			}
			if !f.To.IsZero() && whole.At(f.To) {
				r.Repaired++
				r.Repair += f.Length().Hours()
			}
		}
		r.Planned, r.Unplanned = r.Planned+s.Planned, r.Unplanned+s.Unplanned
	}
	ratio := func(a, b float64) *float64 {
		if b <= 0 {
			return nil
		}
		out := a / b
		return &out
	}
	r.Available, r.Between = ratio(r.Up, r.Open), ratio(r.Up, float64(r.Failures))
	r.ToRepair = ratio(r.Repair, float64(r.Repaired))
	return r
}
