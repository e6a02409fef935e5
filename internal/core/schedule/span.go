package schedule

import (
	"slices"
	"time"
)

// Span is a stretch of time, from From up to before To.
type Span struct {
	From time.Time `json:"from"`
	To   time.Time `json:"to"`
}

// Length is how long it is; never below 0.
func (s Span) Length() time.Duration { return max(0, s.To.Sub(s.From)) }

// Overlaps reports whether the two share any time. Spans that only touch share none.
func (s Span) Overlaps(t Span) bool { return s.From.Before(t.To) && t.From.Before(s.To) }

// Covers reports whether t lies within s.
func (s Span) Covers(t Span) bool { return !t.From.Before(s.From) && !t.To.After(s.To) }

// Spans are stretches of time in their order, of which no two overlap or touch.
type Spans []Span

// Join makes spans of stretches in any order; empty ones vanish.
func Join(all ...Span) Spans {
	all = slices.DeleteFunc(slices.Clone(all), func(s Span) bool { return !s.From.Before(s.To) })
	slices.SortFunc(all, func(a, b Span) int { return a.From.Compare(b.From) })
	var out Spans
	for _, s := range all {
		if n := len(out); n > 0 && !out[n-1].To.Before(s.From) {
			if out[n-1].To.Before(s.To) {
				out[n-1].To = s.To
			}
			continue
		}
		out = append(out, s)
	}
	return out
}

// Minus is what is left of s without t.
func (s Spans) Minus(t Spans) Spans {
	var out Spans
	for _, is := range s {
		for _, cut := range t {
			if !is.Overlaps(cut) {
				continue
			}
			if is.From.Before(cut.From) {
				out = append(out, Span{is.From, cut.From})
			}
			if is.From = cut.To; !is.From.Before(is.To) {
				break
			}
		}
		if is.From.Before(is.To) {
			out = append(out, is)
		}
	}
	return out
}

// And is what s and t have in common.
func (s Spans) And(t Spans) Spans {
	var out Spans
	for i, j := 0, 0; i < len(s) && j < len(t); {
		both := Span{s[i].From, s[i].To}
		if both.From.Before(t[j].From) {
			both.From = t[j].From
		}
		if both.To.After(t[j].To) {
			both.To = t[j].To
		}
		if both.From.Before(both.To) {
			out = append(out, both)
		}
		if s[i].To.Before(t[j].To) {
			i++
		} else {
			j++
		}
	}
	return out
}

// Cover reports whether all of t lies within one of s.
func (s Spans) Cover(t Span) bool {
	return slices.ContainsFunc(s, func(is Span) bool { return is.Covers(t) })
}

// At reports whether a moment lies within s.
func (s Spans) At(t time.Time) bool {
	return slices.ContainsFunc(s, func(is Span) bool { return !t.Before(is.From) && t.Before(is.To) })
}

// Length is how long they are together.
func (s Spans) Length() time.Duration {
	var sum time.Duration
	for _, is := range s {
		sum += is.Length()
	}
	return sum
}
