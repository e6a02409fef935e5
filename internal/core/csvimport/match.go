package csvimport

import (
	"fmt"
	"regexp"
	"slices"
	"sort"
	"strings"

	"wardifex/internal/core/civil"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
	"wardifex/internal/core/quantity"
)

// Match is the proposal for one column.
type Match struct {
	Heading string `json:"heading"`
	Target  string `json:"target" doc:"Key of the target; empty when the column is left out"`
	Sure    bool   `json:"sure" doc:"Heading, unit and cells say it plainly; otherwise it is to be looked at"`
	Why     string `json:"why" doc:"What the proposal depends on"`
	// Instead is a target that a column left out could go into.
	Instead string `json:"instead,omitempty"`
}

// Remembered says for headings, as HeadingKey writes them, what somebody matched them to
// before; an empty target left the column out.
type Remembered map[string]string

// HeadingKey writes a heading so that it is found again, however it is written.
func HeadingKey(text string) string {
	h := readHeading(text)
	words := slices.Clone(h.words)
	sort.Strings(words)
	return strings.Join(append(words, strings.ToLower(h.unit)), " ")
}

// Limits of matching: how much of a heading's words must be explained at all, how many
// cells are looked at, and how many of them must fit for a match and for a sure one.
const (
	leastShare  = 0.6
	weakShare   = 0.3 // that is no match, and a proposal for a column that is left out
	sampleCells = 200
	leastFit    = 0.5
	sureFit     = 0.9
	lead        = 0.08 // by which a sure match must be ahead of the next
)

// candidate is a target for a column.
type candidate struct {
	column, target int
	score          float64
	said           said
	fit            float64
	why            string
}

// Propose matches columns to targets by heading, unit and cells: each column to at most
// one target and each target to at most one column, the surest first.
func Propose(t Table, voc *machine.Vocabulary, before Remembered) []Match {
	among := targetsOf(voc)
	targets := among.targets
	out := make([]Match, len(t.Headings))
	taken := map[int]bool{}
	var all []candidate
	for c, text := range t.Headings {
		out[c].Heading = text
		h := readHeading(text)
		if key, ok := before[HeadingKey(text)]; ok && len(h.words) > 0 {
			i := slices.IndexFunc(targets, func(t Target) bool { return t.Key == key })
			if key == "" || i >= 0 && !taken[i] {
				out[c].Target, out[c].Sure, out[c].Why = key, true, "matched so by hand before"
				if key != "" {
					taken[i] = true
				}
				continue
			}
		}
		all = append(all, candidates(c, h, sample(t, c), among)...)
	}
	sort.SliceStable(all, func(i, j int) bool { return all[i].score > all[j].score })
	for _, x := range all {
		m := &out[x.column]
		switch {
		case m.Target != "" || m.Why != "":
		case taken[x.target] || x.said.share < leastShare:
			if m.Instead == "" {
				m.Instead = targets[x.target].Key
			}
		default:
			m.Target, m.Why, m.Instead = targets[x.target].Key, x.why, "" // better than what was taken
			m.Sure = sure(x, all, targets, taken)
			taken[x.target] = true
		}
	}
	return out
}

// sure reports whether a match needs no second look: all words of the heading are
// explained, what is said is said whole, the cells fit, and no other target is near.
func sure(x candidate, all []candidate, targets []Target, taken map[int]bool) bool {
	if x.said.share < 1 || !x.said.plain && !(x.said.byKin && x.fit >= 1) || x.fit < sureFit {
		return false
	}
	for _, y := range all {
		if y.column == x.column && y.target != x.target && y.score > x.score-lead {
			return false
		}
	}
	return true
}

// vocabulary are the words of a target's phrases.
func (t *Target) vocabulary() map[string]bool {
	out := map[string]bool{}
	for _, list := range [][][]string{t.whole, t.loose, t.part} {
		for _, p := range list {
			for _, w := range p {
				out[w] = true
			}
		}
	}
	return out
}

// sample are the first cells of a column that say something.
func sample(t Table, column int) []string {
	var out []string
	for _, r := range t.Rows {
		if c := cell(r, column); !blank[strings.ToLower(c)] {
			if out = append(out, c); len(out) == sampleCells {
				break
			}
		}
	}
	return out
}

// Weights of a target that only the part is named of, and of a word that may mean
// something else: less than of one that is said.
const (
	byKinWeight   = 0.95
	byWordsWeight = 1.1 // where all cells are words of the trait's list
	looseWeight   = 0.8
	wholeBonus    = 0.1  // of a heading that is the target's own label
	wordsBonus    = 0.09 // of cells that are all words of the trait's list
)

func candidates(column int, h heading, cells []string, among catalogued) []candidate {
	var out []candidate
	seen := map[int]bool{}
	for _, w := range h.words {
		for _, i := range among.byWord[w] {
			if seen[i] {
				continue
			}
			seen[i] = true
			t := &among.targets[i]
			s, ok := t.said(h)
			if !ok || s.share < weakShare {
				continue
			}
			fit, why := t.fits(cells, h)
			if s.label {
				fit, why = 1, "the heading is its own name" // as the register is written out
			}
			if s.byKin && h.unit == "" && fit < 1 || fit < leastFit {
				continue
			}
			score := s.share * (0.4 + 0.6*fit)
			switch {
			case s.byKin && !s.plain && len(cells) > 0 && t.trait.Kind == machine.Choice:
				score *= byWordsWeight
			case s.byKin && !s.plain:
				score *= byKinWeight
			case !s.plain:
				score *= looseWeight
			}
			if s.label {
				score += wholeBonus
			}
			if s.plain && fit == 1 && len(cells) > 0 && t.trait != nil && t.trait.Kind == machine.Choice {
				score += wordsBonus
			}
			score += 0.01 * float64(s.words) // of two that are said whole, the one said by more words
			out = append(out, candidate{column, i, score, s, fit, why})
		}
	}
	return out
}

var (
	versionForm  = regexp.MustCompile(`(?i)^(?:v|fw|rel(?:ease)?|firmware|version)?[\s:.]*\d+\.\d+`)
	revisionForm = regexp.MustCompile(`(?i)^(?:v|r|rev\.?|revision|version|ver\.?|hw)?[\s.]*\d+(?:\.\d+)*[a-z]?$`)
	volumeForm   = regexp.MustCompile(
		`^\s*(\d+(?:[.,]\d+)?)\s*(?:mm|cm)?\s*[x×*]\s*(\d+(?:[.,]\d+)?)\s*(?:mm|cm)?` +
			`(?:\s*[x×*]\s*(\d+(?:[.,]\d+)?))?\s*(mm|cm)?\s*$`,
	)
	money = strings.NewReplacer(
		"€",
		"",
		"$",
		"",
		"£",
		"",
		"EUR",
		"",
		"USD",
		"",
		"GBP",
		"",
		"NOK",
		"",
		"CHF",
		"",
		"kr",
		"",
		",-",
		"",
		".-",
		"",
		",–",
		"",
	)
)

// fits is the share of cells that the target takes, and what they are in words. Without
// any cell, all of none fit.
func (t *Target) fits(cells []string, h heading) (float64, string) {
	if len(cells) == 0 {
		return 1, "by its heading; no cell says anything"
	}
	count := func(takes func(string) bool) float64 {
		n := 0
		for _, c := range cells {
			if takes(c) {
				n++
			}
		}
		return float64(n) / float64(len(cells))
	}
	whole := func(share float64, what string) (float64, string) {
		switch {
		case share == 1:
			return share, "all cells are " + what
		case share == 0:
			return share, "no cell is " + what
		}
		return share, fmt.Sprintf("%.0f %% of the cells are %s", 100*share, what)
	}
	switch t.Key {
	case Name:
		distinct := map[string]bool{}
		for _, c := range cells {
			distinct[fold(c)] = true
		}
		return whole(float64(len(distinct))/float64(len(cells)), "names of their own")
	case Serial, Note, Supplier:
		return 1, "by its heading"
	case Bay, Maker, Model:
		return whole(1-count(func(c string) bool { return numericWithUnit(c) || isDate(c) }), "words")
	case Bought, HoursOn:
		return whole(count(isDate), "dates")
	case Hours, Filament, Prints:
		return whole(
			count(func(c string) bool { _, err := readMeter(t.Key, c, quantity.Unsaid); return err == nil }),
			t.Key,
		)
	case Price:
		return whole(count(func(c string) bool { return numeric(strings.TrimSpace(money.Replace(c))) }), "amounts")
	case Volume:
		return whole(count(volumeForm.MatchString), "of the form 235 × 235 × 250")
	}
	return t.fitsTrait(cells, h, count, whole)
}

func (t *Target) fitsTrait(
	cells []string,
	h heading,
	count func(func(string) bool) float64,
	whole func(float64, string) (float64, string),
) (float64, string) {
	tr := t.trait
	switch {
	case tr.Kind == machine.Number:
		what := fmt.Sprintf("numbers from %s to %s %s", quantity.Format(tr.Min), quantity.Format(tr.Max), tr.Unit)
		return whole(count(func(c string) bool {
			_, err := readTrait(tr, c, h.unit, quantity.Unsaid)
			return err == nil || two(err)
		}), strings.TrimSpace(what))
	case tr.Kind == machine.YesNo:
		return whole(count(func(c string) bool { _, err := tr.Parse(c); return err == nil }), "yes or no")
	case tr.Kind == machine.Choice:
		return whole(
			count(func(c string) bool { _, err := tr.Parse(c); return err == nil }),
			"among "+strings.Join(tr.Called(), ", "),
		)
	case tr.Is(parts.FirmwareVersion):
		return whole(count(func(c string) bool { return versionForm.MatchString(c) && !isDate(c) }), "versions")
	case tr.Name == "revision":
		return whole(count(revisionForm.MatchString), "revisions")
	case tr.Is(parts.MainboardProcessor):
		return whole(count(func(c string) bool {
			return !strings.Contains(strings.TrimSpace(c), "  ") && strings.ContainsAny(c, "0123456789") && !numeric(c)
		}), "markings")
	case tr.Name == machine.ModelTrait:
		return whole(count(func(c string) bool {
			return !numeric(c) && !isDate(c) && !volumeForm.MatchString(c) && !versionForm.MatchString(c) &&
				!(yesNo(c) && !machine.SaysEmpty(c))
		}), "names")
	}
	return whole(count(func(c string) bool { return !numericWithUnit(c) }), "words")
}

func yesNo(cell string) bool {
	switch strings.ToLower(strings.TrimSpace(cell)) {
	case "yes", "no", "y", "n", "true", "false", "x", "ja", "nein":
		return true
	}
	return false
}

func numericWithUnit(cell string) bool {
	_, unit := quantity.Split(cell)
	return unit != "" && numeric(cell)
}

func isDate(cell string) bool {
	_, err := readDay(cell, civil.DayFirst)
	return err == nil && !numeric(cell) || err == nil && serialDay.MatchString(cell)
}
