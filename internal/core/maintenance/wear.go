package maintenance

import "time"

// Installation is a time that a part was in a machine.
type Installation struct {
	From  time.Time
	To    time.Time // zero while it is there
	Lives Lives     // of that machine
	Done  []Done    // on that machine
}

// Part is a part as far as its wear goes: where it was, and whether it was new when it
// was fitted first.
type Part struct {
	Stays []Installation // in the order of time, the last where it is now
	New   bool
}

// Wear is how far a part is worn since a task was done to it last, by one counter: its own
// use, over all machines that it was in.
type Wear struct {
	Amount float64 // that the record shows
	// AtLeast says that use before are unknown: an earlier life, or a meter that was
	// read first after the part was fitted.
	AtLeast bool
	Since   time.Time // when counting began
	Done    *time.Time

	stretches []stretch // that the amount is made of
}

// stretch is a part of a machine's life, and the amount that came before it.
type stretch struct {
	life     Life
	from, to time.Time // to is zero while it goes on
	before   float64
}

// amount is what the record shows.
func (s stretch) amount() float64 {
	if !s.life.Known() {
		return 0
	}
	to := s.to
	if to.IsZero() || to.After(s.life.Last()) {
		to = s.life.Last()
	}
	return max(0, s.life.At(to)-s.start())
}

// start is how old the machine was when the stretch began: as the record shows it, or as
// it was most likely, where the meter was not read since.
func (s stretch) start() float64 {
	if r, ok := s.life.Forecast(s.from); ok {
		return r.Middle
	}
	return s.life.At(s.from)
}

// WearOf counts a part's use since a task was done last, wherever the part was then.
func WearOf(p Part, task string, by Counter) Wear {
	w := Wear{AtLeast: !p.New}
	for _, s := range p.Stays {
		for _, d := range s.Done {
			if d.Task == task && !d.At.Before(s.From) && (s.To.IsZero() || !d.At.After(s.To)) &&
				(w.Done == nil || d.At.After(*w.Done)) {
				at := d.At
				w.Done, w.AtLeast = &at, false
			}
		}
	}
	for _, s := range p.Stays {
		from := s.From
		if w.Done != nil && w.Done.After(from) {
			from = *w.Done
		}
		if !s.To.IsZero() && !s.To.After(from) {
			continue
		}
		if w.Since.IsZero() {
			w.Since = from
		}
		life := s.Lives[by]
		part := stretch{life: life, from: from, to: s.To, before: w.Amount}
		w.AtLeast = w.AtLeast || !life.Known() || life.First().After(from)
		w.stretches = append(w.stretches, part)
		w.Amount += part.amount()
	}
	return w
}

// Reached is when the part came to an amount, where the record shows it.
func (w Wear) Reached(amount float64) (time.Time, bool) {
	for _, s := range w.stretches {
		if !s.life.Known() || s.before+s.amount() < amount {
			continue
		}
		if at, ok := s.life.Reached(s.start() + amount - s.before); ok && !at.Before(s.from) {
			return at, true
		}
		return s.from, true
	}
	return time.Time{}, false
}

// now is the stretch of the machine that the part is in; nil where it is in none.
func (w Wear) now() *stretch {
	if n := len(w.stretches); n > 0 && w.stretches[n-1].to.IsZero() {
		return &w.stretches[n-1]
	}
	return nil
}

// lifeAt is how old the machine that the part is in will be when the part comes to an
// amount.
func (s stretch) lifeAt(amount float64) float64 { return s.start() + amount - s.before }
