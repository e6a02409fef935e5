package fit_test

import (
	"math"
	"regexp"
	"strconv"
	"strings"

	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
)

var compares = regexp.MustCompile("[<>]=")

// formula compares two sums or products of facts and numbers of like units, without brackets.
func (r *reference) formula(f fit.Formula, part *machine.Position) may {
	r.part = part
	at := compares.FindStringIndex(f.Text)
	return r.leaf(f.Least, func(least machine.Grade) may {
		less, more := r.side(f.Text[:at[0]], least), r.side(f.Text[at[1]:], least)
		if f.Text[at[0]] == '>' {
			less, more = more, less
		}
		return answered(less[1] <= more[0]+1e-6, less[0] <= more[1]+1e-6)
	})
}

// side is a whole side of a compares: a fact by itself counts as what it stands for.
func (r *reference) side(text string, least machine.Grade) [2]float64 {
	x := r.span(text, least)
	if words := strings.Fields(text); len(words) == 1 {
		t := r.factOf(words[0])
		return [2]float64{nominal(t, x[0]), nominal(t, x[1])}
	}
	return x
}

// span is the least and the greatest that an expression can be.
func (r *reference) span(text string, least machine.Grade) [2]float64 {
	for _, signs := range []string{" + - ", " * / "} { // the last of the weakest signs parts it
		at := max(strings.LastIndex(text, signs[:3]), strings.LastIndex(text, signs[2:]))
		if at < 0 {
			continue
		}
		a, b := r.span(text[:at], least), r.span(text[at+3:], least)
		if text[at+1] == '/' && b[0] <= 0 && b[1] >= 0 {
			return [2]float64{math.Inf(-1), math.Inf(1)}
		}
		out := [2]float64{math.Inf(1), math.Inf(-1)}
		for _, x := range a {
			for _, y := range b {
				z := map[byte]float64{'+': x + y, '-': x - y, '*': x * y, '/': x / y}[text[at+1]]
				if math.IsNaN(z) { // nothing of what is without bound
					z = 0
				}
				out = [2]float64{min(out[0], z), max(out[1], z)}
			}
		}
		return out
	}
	word := strings.Fields(text)[0]
	if n, err := strconv.ParseFloat(word, 64); err == nil {
		return [2]float64{n, n}
	}
	t := r.factOf(word)
	k, model := r.at(t.Slot, t.Name), r.at(t.Slot, "model")
	out := [2]float64{math.Inf(-1), math.Inf(1)}
	if t.Max > t.Min {
		out = [2]float64{t.Min, t.Max}
	}
	switch {
	case k.grade == machine.Unknown && model.is("none") && model.grade >= least:
		return [2]float64{}
	case k.grade > machine.Unknown && k.grade >= least:
		out = [2]float64{math.Inf(1), math.Inf(-1)}
		for _, v := range k.values {
			out = [2]float64{min(out[0], v.Number), max(out[1], v.Number)}
		}
	}
	return out
}

func (r *reference) factOf(word string) *machine.Trait {
	slot, name, _ := strings.Cut(word, ".")
	if p := map[string]*machine.Position{"own": r.own, "part": r.part}[slot]; p != nil {
		slot = p.Key
	}
	return traitOf(slot, name)
}
