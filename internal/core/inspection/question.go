package inspection

import (
	"cmp"
	"slices"

	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
)

// Question is one fact to find out, and how.
type Question struct {
	Key        machine.Key        `json:"key"`
	Label      string             `json:"label"`
	Inspection machine.Inspection `json:"inspection"`
	Grade      machine.Grade      `json:"grade" doc:"What the answer earns"`
	Safety     string             `json:"safety,omitempty" doc:"What may happen while it is not known"`
	Pending    []string           `json:"pending" doc:"Kits whose verdict waits for it"`
	Needed     []string           `json:"needed" doc:"Needs of fitted parts that it would tell"`
	Conflict   bool               `json:"conflict" doc:"Equal readings differ; this one would end it"`
	Stands     string             `json:"stands" doc:"What is on record so far"`
	StandsAs   machine.Grade      `json:"standsAs"`

	trait *machine.Trait
}

// Kit is an upgrade that somebody wants judged.
type Kit struct {
	Name  string
	Judge *fit.Judge
}

// Asked is what was asked before without an answer.
type Asked func(key machine.Key, inspection string) bool

// Questions lists what is unknown or weak on a machine and matters to an aim: to safety
// always, and to the kits. They come in the cheapest physical order, at the display
// first and under the heat sink last; at one depth what matters to safety is
// first, and what one inspection answers stays together. unreadable says what
// a technician tried and could not read that way; another way is asked instead,
// or nothing.
func Questions(s machine.Snapshot, aim Aim, kits []Kit, unreadable Asked) []Question {
	asked, _ := ask(s, aim, kits, unreadable)
	return asked
}

// NotRead lists what matters to an aim and was tried in every way that there is.
func NotRead(s machine.Snapshot, aim Aim, kits []Kit, unreadable Asked) []Question {
	_, left := ask(s, aim, kits, unreadable)
	return left
}

func ask(s machine.Snapshot, aim Aim, kits []Kit, unreadable Asked) (asked, left []Question) {
	voc := s.Vocabulary()
	at := map[machine.Key]*Question{}
	least := map[machine.Key]machine.Grade{}
	want := func(t *machine.Trait, g machine.Grade) *Question {
		k := t.Key()
		least[k] = max(least[k], g)
		if at[k] == nil {
			f := s.At(t)
			at[k] = &Question{
				Key:      k,
				Label:    t.Label,
				Pending:  []string{},
				Needed:   []string{},
				Stands:   t.Show(f.Value),
				StandsAs: f.Grade,
				Conflict: len(f.Conflict) > 0,
				trait:    t,
			}
			if len(f.Conflict) > 0 {
				at[k].Stands = "in conflict"
			}
		}
		return at[k]
	}
	for _, t := range voc.Traits {
		if t.Safety != "" && t.Superseded == "" && concerns(s, t) && weak(s, t) {
			want(t, enough(t)).Safety = t.Safety
		}
	}
	if aim == Identity {
		for _, t := range voc.Traits {
			if TellsApart(t) && concerns(s, t) && weak(s, t) {
				want(t, enough(t))
			}
		}
	}
	if aim != SafetyOnly {
		for _, open := range fit.Stand(s).Open() {
			if t := open.Trait; concerns(s, t) || t.Is(machine.ListComplete) {
				q := want(t, open.Least)
				q.Needed = append(q.Needed, open.For)
			}
		}
	}
	for _, k := range kits {
		for _, open := range k.Judge.Open(s) {
			q := want(open.Trait, open.Least)
			q.Pending = append(q.Pending, k.Name)
		}
	}
	for k, q := range at {
		in, grade, ok := voc.CheapestWay(q.trait, least[k], func(inspection string) bool {
			return unreadable(q.trait.Key(), inspection)
		})
		if ok {
			q.Inspection, q.Grade = in, grade
			asked = append(asked, *q)
			continue
		}
		if in, grade, ok = voc.CheapestWay(q.trait, least[k], func(string) bool { return false }); ok {
			q.Inspection, q.Grade = in, grade
			left = append(left, *q)
		}
	}
	return inOrder(voc, asked), inOrder(voc, left)
}

// concerns reports whether a trait is asked about on this machine: its position is
// one that the machine has, and it is not known to be empty.
func concerns(s machine.Snapshot, t *machine.Trait) bool {
	p := t.Position()
	return s.Has(p) && s.ModelAt(p) != machine.None && p.Superseded == ""
}

// enough is the grade at which a safety trait is no longer asked: what its
// inspections can earn, at most read.
func enough(t *machine.Trait) machine.Grade {
	best := machine.Claimed
	for _, w := range t.FindBy {
		best = max(best, w.Grade)
	}
	return min(best, machine.Observed)
}

func weak(s machine.Snapshot, t *machine.Trait) bool {
	f := s.At(t)
	return !f.Known() || f.Grade < enough(t)
}

func inOrder(voc *machine.Vocabulary, questions []Question) []Question {
	safety := map[string]bool{} // inspections that answer something of safety
	for _, q := range questions {
		if q.Safety != "" {
			safety[q.Inspection.Key] = true
		}
	}
	place := map[string]int{}
	for i, in := range voc.Catalogue.Inspections {
		place[in.Key] = i
	}
	order := map[machine.Key]int{}
	for i, t := range voc.Traits {
		order[t.Key()] = i
	}
	first := func(yes bool) int {
		if yes {
			return 0
		}
		return 1
	}
	slices.SortFunc(questions, func(a, b Question) int {
		return cmp.Or(
			cmp.Compare(a.Inspection.Depth, b.Inspection.Depth),
			cmp.Compare(first(safety[a.Inspection.Key]), first(safety[b.Inspection.Key])),
			cmp.Compare(place[a.Inspection.Key], place[b.Inspection.Key]),
			cmp.Compare(first(a.Safety != ""), first(b.Safety != "")),
			cmp.Compare(order[a.Key], order[b.Key]))
	})
	return questions
}

// Round orders the questions of several machines of a bay: once along what can
// be seen from outside, then one machine opened at a time. It is negative when a
// comes before b, for a stable sort of the machines' own lists one after another.
func Round(a, b Question) int {
	return min(a.Inspection.Depth, 1) - min(b.Inspection.Depth, 1)
}

// Minutes is how long the inspections of a list of questions on one machine
// take: each is made once, and so is what is done on the way to a deeper one.
func Minutes(voc *machine.Vocabulary, questions []Question) int {
	made, shared := map[string]bool{}, map[string]int{}
	total := 0
	for _, q := range questions {
		if in := q.Inspection; !made[in.Key] {
			made[in.Key] = true
			total += in.Minutes
			if in.Within != "" {
				shared[in.Within]++
			}
		}
	}
	for key, n := range shared {
		if !made[key] {
			n-- // opened for them alone: once
		}
		in, _ := voc.Inspection(key)
		total -= n * in.Minutes
	}
	return max(total, 0)
}
