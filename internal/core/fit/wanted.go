package fit

import "slices"

// Leans are which way the claims lean where something is to be looked at first, in the
// order in which they are shown.
func Leans() []Answer { return []Answer{Fits, FitsIf, NoLean, DoesNotFit} }

// Wanted is which answers are asked for; empty is any. A lean narrows LookFirst.
type Wanted struct{ Answer, Lean Answer }

// Is reports whether an answer with its lean is asked for.
func (w Wanted) Is(a, lean Answer) bool {
	return (w.Answer == "" || w.Answer == a) && (w.Lean == "" || w.Lean == lean)
}

// CompareAnswers orders answers with their leans, the best first.
func CompareAnswers(a, aLean, b, bLean Answer) int {
	if n := slices.Index(Answers(), a) - slices.Index(Answers(), b); n != 0 {
		return n
	}
	return slices.Index(Leans(), aLean) - slices.Index(Leans(), bLean)
}

// FitNow is how many machines a kit fits, as it is or with additional changes.
func (c Counts) FitNow() int { return c.Fits + c.FitsIf }

// LeanToFit is how many of those to be looked at first lean to fitting.
func (c Counts) LeanToFit() int { return c.LeansFits + c.LeansFitsIf }

// Counted is how many machines have an answer; with a lean, how many of those to be looked
// at first lean so.
type Counted struct {
	Answer Answer `json:"answer" enum:"fits,fits if,look first,does not fit"`
	Lean   Answer `json:"lean" enum:"fits,fits if,no lean,does not fit,"`
	Count  int    `json:"count"`
}

// List is the counts in the order in which they are shown: each answer, then the leans.
func (c Counts) List() []Counted {
	out := []Counted{{Fits, "", c.Fits}, {FitsIf, "", c.FitsIf}, {LookFirst, "", c.LookFirst},
		{DoesNotFit, "", c.DoesNotFit}}
	of := map[Answer]int{Fits: c.LeansFits, FitsIf: c.LeansFitsIf, NoLean: c.NoLean, DoesNotFit: c.LeansDoesNotFit}
	for _, lean := range Leans() {
		out = append(out, Counted{LookFirst, lean, of[lean]})
	}
	return out
}
