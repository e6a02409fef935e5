// Package shop is what a workshop sets for itself: its name, money, week and opening hours.
package shop

import (
	"fmt"
	"slices"
	"time"

	"wardifex/internal/core/machine"
)

// Settings are a shop's own. The time zone is kept apart, since each that was in force
// still counts for the days of its time.
type Settings struct {
	Name      string    `json:"name"      maxLength:"80"                               doc:"As prints and pages show it"`
	Currency  string    `json:"currency"  maxLength:"3"                                doc:"ISO 4217, such as EUR"`
	WeekStart WeekStart `json:"weekStart" enum:"monday,sunday,saturday"`
	Opening   []Hours   `json:"opening"   maxItems:"28"                                doc:"Empty: not told"`
	Contact   string    `json:"contact"   maxLength:"500"                              doc:"Whom to ask, and how"`
	// DangerMinutes is how long a reported danger waits for somebody to take it before it is told again.
	DangerMinutes int `json:"dangerMinutes,omitempty" minimum:"0" maximum:"120" doc:"0 for the usual 5"`
}

// UsualDangerMinutes is how long a danger waits before it is told again. Source: from memory.
const UsualDangerMinutes = 5

// WeekStart is the day with which a week begins.
type WeekStart string

// Days with which weeks begin. Source: Unicode CLDR, week data.
const (
	Monday   WeekStart = "monday"
	Sunday   WeekStart = "sunday"
	Saturday WeekStart = "saturday"
)

// Hours are one stretch of time in which the shop is open, every week.
type Hours struct {
	Day  time.Weekday `json:"day"  minimum:"0" maximum:"6" doc:"0 is Sunday"`
	From string       `json:"from" doc:"15:04, on the shop's clock"`
	To   string       `json:"to"   doc:"15:04, later on the same day; 24:00 is its end"`
}

// Usual are the settings of a shop that has set nothing.
func Usual() Settings {
	return Settings{Currency: "EUR", WeekStart: Monday, Opening: []Hours{}, DangerMinutes: UsualDangerMinutes}
}

const mostDangerMinutes = 120

// Check gives the settings in order of the week, or says what is wrong with them. That the
// currency is one of ISO 4217 is for whoever has its list.
func (s Settings) Check() (Settings, error) {
	for what, text := range map[string]string{"the shop's name": s.Name, "the contact": s.Contact} {
		if text == "" {
			continue
		}
		if err := machine.PlainText(text); err != nil {
			return s, fmt.Errorf("%s: %w", what, err)
		}
	}
	if s.WeekStart != Monday && s.WeekStart != Sunday && s.WeekStart != Saturday {
		return s, fmt.Errorf("a week starts on monday, sunday or saturday, not on %q", s.WeekStart)
	}
	if s.DangerMinutes == 0 {
		s.DangerMinutes = UsualDangerMinutes
	}
	if s.DangerMinutes < 1 || s.DangerMinutes > mostDangerMinutes {
		return s, fmt.Errorf("a danger is told again after 1 to %d minutes, not after %d", mostDangerMinutes, s.DangerMinutes)
	}
	var err error
	s.Opening, err = CheckHours(s.Opening)
	return s, err
}

// CheckHours gives weekly hours in order of the week, or says what is wrong with them.
func CheckHours(all []Hours) ([]Hours, error) {
	all = append([]Hours{}, all...)
	for _, h := range all {
		from, to, ok := h.Minutes()
		switch {
		case h.Day < time.Sunday || h.Day > time.Saturday:
			return nil, fmt.Errorf("%d is no day of the week; they are 0 for Sunday to 6 for Saturday", h.Day)
		case !ok:
			return nil, fmt.Errorf("%s from %q to %q: write times such as 09:30 and 24:00", h.Day, h.From, h.To)
		case to <= from:
			return nil, fmt.Errorf("%s: %s is not before %s; hours past midnight belong to the next day", h.Day, h.From, h.To)
		}
	}
	slices.SortFunc(all, func(a, b Hours) int {
		from, _, _ := a.Minutes()
		other, _, _ := b.Minutes()
		return 24*60*(int(a.Day)-int(b.Day)) + from - other
	})
	for i := 1; i < len(all); i++ {
		before, h := all[i-1], all[i]
		_, end, _ := before.Minutes()
		if from, _, _ := h.Minutes(); before.Day == h.Day && from < end {
			return nil, fmt.Errorf("%s: %s to %s and %s to %s overlap; join them", h.Day, before.From, before.To, h.From, h.To)
		}
	}
	return all, nil
}

// Minutes are those since midnight at which the hours begin and end; ok is false where one is no time.
func (h Hours) Minutes() (from, to int, ok bool) {
	from, okFrom := minute(h.From)
	to, okTo := minute(h.To)
	return from, to, okFrom && okTo
}

func minute(text string) (int, bool) {
	if text == "24:00" {
		return 24 * 60, true
	}
	t, err := time.Parse("15:04", text)
	return 60*t.Hour() + t.Minute(), err == nil && len(text) == len("15:04")
}

// Open reports whether the shop is open at a moment on its own clock, and whether it has
// told its hours at all.
func (s Settings) Open(at time.Time) (open, told bool) {
	now := 60*at.Hour() + at.Minute()
	for _, h := range s.Opening {
		from, to, ok := h.Minutes()
		if ok && h.Day == at.Weekday() && now >= from && now < to {
			return true, true
		}
	}
	return false, len(s.Opening) > 0
}
