package csvimport

import (
	"slices"
	"strings"

	"wardifex/internal/core/machine"
	"wardifex/internal/core/maintenance"
	"wardifex/internal/core/parts"
	"wardifex/internal/core/quantity"
)

// Target is something a column can go into.
type Target struct {
	Key   string `json:"key"`
	Label string `json:"label"`
	Unit  string `json:"unit,omitempty"`

	trait *machine.Trait // nil of a field
	part  [][]string     // phrases for the part that a trait is of
	what  [][]string     // phrases for the trait, beside those of its part; an empty one says the part alone
	own   [][]string     // its key and labels
	whole [][]string     // phrases that say everything by themselves
	loose [][]string     // phrases that may mean something else
}

// catalogued are the targets of a vocabulary, and which of them have a word in a phrase.
type catalogued struct {
	targets []Target
	byWord  map[string][]int
}

type cataloguedKey struct{}

func targetsOf(voc *machine.Vocabulary) catalogued {
	return voc.Derived(cataloguedKey{}, func() any { return index(allTargets(voc)) }).(catalogued)
}

func index(targets []Target) catalogued {
	out := catalogued{targets, map[string][]int{}}
	for i := range targets {
		for w := range targets[i].vocabulary() {
			out.byWord[w] = append(out.byWord[w], i)
		}
	}
	return out
}

// Targets lists what columns can go into, in the sheet's order.
func Targets(voc *machine.Vocabulary) []Target { return targetsOf(voc).targets }

func allTargets(voc *machine.Vocabulary) []Target {
	out := make([]Target, 0, len(words.Fields)+len(voc.Traits))
	for _, f := range words.Fields {
		if !f.Meters {
			out = append(out, fieldTarget(f))
		}
	}
	for i := range voc.Traits {
		out = append(out, traitTarget(voc, voc.Traits[i]))
	}
	return out
}

func fieldTarget(f field) Target {
	return Target{
		Key:   f.Target,
		Label: f.Label,
		own:   phrases([]string{f.Label}),
		whole: phrases(append([]string{f.Label}, f.Words...)),
		loose: phrases(f.Loose),
	}
}

func traitTarget(voc *machine.Vocabulary, t *machine.Trait) Target {
	p := t.Position()
	out := Target{Key: string(t.Key()), Label: t.Label, Unit: t.Unit, trait: t}
	if t.Unit != "" {
		out.Label += " (" + t.Unit + ")"
	}
	out.own = phrases([]string{out.Key, t.Label, out.Label})
	out.whole = slices.Clone(out.own)
	out.part = phrases(partWords(voc, p))
	what := append([]string{t.Short}, words.Measured[t.Name]...)
	what = append(what, words.Measured[t.Unit]...)
	first := voc.First(p.Kind) == p
	for _, w := range words.Traits {
		if w.Trait != t.Name || !voc.Is(p.Kind, w.Kind) {
			continue
		}
		what = append(what, w.Words...)
		if first {
			out.whole = append(out.whole, phrases(w.Alone)...)
		}
	}
	if t.Name == machine.ModelTrait {
		what = append(what, "type", "name", "maker", "maker and model")
		out.what = append(out.what, nil)
	}
	out.what = append(out.what, phrases(what)...)
	return out
}

// partWords are what the part at a position is called in headings.
func partWords(voc *machine.Vocabulary, p *machine.Position) []string {
	out := []string{p.Label}
	axis := ""
	if letter, is := strings.CutPrefix(string(p.Serves), "axis "); is {
		axis = letter
	}
	for _, w := range words.Parts[p.Kind] {
		switch {
		case axis != "" && p.Kind != parts.ZDrive && p.N <= 1:
			out = append(out, w+" "+axis)
		case voc.First(p.Kind) == p:
			out = append(out, w)
		}
	}
	if p.Serves == machine.Bed {
		out = append(out, words.Bed[p.Kind]...)
	}
	if p.Kind == parts.Driver && p.Serves == machine.Head(1) {
		out = append(out, "extruder driver", "driver e")
	}
	if p.Kind == parts.Motor && axis != "" && p.N <= 1 {
		out = append(out, "motor "+axis)
	}
	if p.Kind == parts.Motor && p.Serves == machine.Head(1) && p.N <= 1 {
		out = append(out, "extruder motor", "motor e", "e motor")
	}
	return out
}

func phrases(texts []string) [][]string {
	out := make([][]string, 0, len(texts))
	for _, t := range texts {
		if w := wordsOf(t); len(w) > 0 && !slices.ContainsFunc(out, func(o []string) bool { return slices.Equal(o, w) }) {
			out = append(out, w)
		}
	}
	return out
}

// said is how far a heading says a target.
type said struct {
	share float64 // of the heading's words that it explains
	words int     // that it explains
	plain bool    // it says what it is and of what
	label bool    // it is the target's own label
	byKin bool    // only the part is named, and the unit or the cells say what of it
}

// said finds the best way in which a heading says the target.
func (t *Target) said(h heading) (said, bool) {
	unit, wrong := t.inUnit(h.unit)
	if wrong || len(h.words) == 0 {
		return said{}, false
	}
	best := said{}
	try := func(words int, plain, byKin bool) {
		s := said{share: float64(words) / float64(len(h.words)), words: words, plain: plain, byKin: byKin}
		if s.share > best.share ||
			s.share == best.share && (s.plain && !best.plain || s.byKin != best.byKin && !s.byKin && s.plain == best.plain) {
			best = s
		}
	}
	for _, p := range t.whole {
		if h.has(p) {
			try(len(p), true, false)
		}
	}
	label := slices.ContainsFunc(t.own, func(p []string) bool { return slices.Equal(p, h.words) })
	for _, p := range t.loose {
		if h.has(p) {
			try(len(p), false, false)
		}
	}
	for _, k := range t.part {
		if !h.has(k) {
			continue
		}
		for _, w := range t.what {
			if h.has(w) && (len(w) > 0 || len(k) == len(h.words)) {
				try(union(k, w), true, false)
			}
		}
		if t.byKin() {
			try(len(k), unit && h.unit != "", true)
		}
	}
	best.label = label
	return best, best.words > 0
}

// byKin reports whether the cells can say that a column is of this trait, where its
// heading names the part alone.
func (t *Target) byKin() bool {
	switch {
	case t.trait == nil:
		return false
	case t.trait.Kind == machine.Text:
		return t.trait.Is(parts.FirmwareVersion)
	}
	return true
}

// union is how many words two phrases have together.
func union(a, b []string) int {
	n := len(a)
	for _, w := range b {
		if !slices.Contains(a, w) {
			n++
		}
	}
	return n
}

// inUnit reports whether a unit is of the target's dimension; wrong where it is of
// another, or the target takes no number.
func (t *Target) inUnit(unit string) (right, wrong bool) {
	if unit == "" {
		return true, false
	}
	want := t.Unit
	switch {
	case isMeter(t.Key):
		want = maintenance.Counter(t.Key).Unit()
	case t.Key == Volume:
		want = "mm"
	case t.trait == nil || t.trait.Kind != machine.Number:
		return false, true
	}
	u, ok := quantity.Lookup(want)
	if !ok || want == "" {
		return false, true
	}
	_, ok = quantity.Meant(unit, u.Dimension)
	return ok, !ok
}
