package schedule

import (
	"fmt"
	"time"

	"wardifex/internal/core/civil"
	"wardifex/internal/core/shop"
)

// Leave is a stretch of days on which somebody does not work.
type Leave struct {
	ID   int64     `json:"id"`
	From civil.Day `json:"from"`
	To   civil.Day `json:"to"  doc:"The last day of it"`
	Why  string    `json:"why" maxLength:"120" staff:"only" doc:"As they want it shown: away, ill, holiday"`
}

// Check refuses a leave that ends before it begins or has no end in sight.
func (l Leave) Check() error { return checkDays(l.From, l.To, "a leave") }

func checkDays(from, to civil.Day, what string) error {
	switch {
	case to < from:
		return fmt.Errorf("%s ends on or after the day on which it begins: %s is before %s", what, to.Show(), from.Show())
	case int(to-from) >= longestStretch:
		return fmt.Errorf("%s has at most %d days; this one has %d", what, longestStretch, int(to-from)+1)
	}
	return nil
}

// Worker is somebody who works in the shop: when, and what they can be given to do.
type Worker struct {
	Account int64
	Name    string
	Skills  []string
	Shifts  []shop.Hours // every week
	Leave   []Leave
}

// Works is when somebody works over the days from one to another: in their shifts, without their
// leave. Whoever has told no shifts is given no work.
func (w Worker) Works(from, to civil.Day, in *time.Location) Spans {
	var away []Span
	for _, l := range w.Leave {
		away = append(away, DaysOf(l.From, l.To, in))
	}
	return Weekly(w.Shifts, from, to, in).Minus(Join(away...))
}
