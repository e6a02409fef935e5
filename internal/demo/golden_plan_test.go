package demo_test

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"regexp"
	"slices"
	"strings"
	"testing"

	"wardifex/internal/core/change"
	"wardifex/internal/core/change/changetest"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/plan"
	"wardifex/internal/core/quantity"
	"wardifex/internal/demo"
	"wardifex/internal/goldentest"
)

var figuresIn = regexp.MustCompile(`[-−]?\d+(\.\d+)?`)

// What follows from every shipped kit on every machine of the demo room, and what the finished order leaves on
// record: the parts, what is read of them, what is no longer valid, what is set.
func TestGoldenFinishedWorkOfNetloft(t *testing.T) {
	t.Parallel()
	_, fleet, judges := netloft(t)
	var lines []goldentest.Line
	for i := range fleet {
		m := &fleet[i]
		for _, j := range judges {
			on := j.On(m.Facts)
			c, err := change.NewChange(on.Kit, on.Verdict(m.Facts).Additional, m.Facts)
			if err != nil {
				continue
			}
			var b strings.Builder
			for _, x := range c.Consequences(m.Records) {
				fmt.Fprintf(&b, "%s%v%v; ", x.What, figuresIn.FindAllString(x.Says, -1), figuresIn.FindAllString(x.Arithmetic, -1))
			}
			var worked []change.Worked
			for _, s := range c.WorkOrder(m.Records) {
				data, note := changetest.Fill(s)
				worked = append(worked, change.Worked{Step: s, Data: data, Note: note, Done: true, By: "x", At: demo.Today})
			}
			f, err := c.Finish(worked, m.Records, "old.bin", 0, demo.Today)
			if err != nil {
				b.WriteString("not finished")
			} else {
				b.WriteString(left(t, f))
			}
			lines = append(lines, goldentest.Line{Of: m.Name + " " + j.Kit.Key, Says: b.String()})
		}
	}
	goldentest.Check(t, "finished", lines)
}

// left is what a finished order leaves, by keys and values.
func left(t *testing.T, f change.Finished) string {
	t.Helper()
	var b strings.Builder
	for _, x := range f.Closing.PartChanges {
		fmt.Fprintf(&b, "%s %s→%s %v; ", x.Slot, x.Before, x.After, x.Stays)
	}
	for _, x := range f.Closing.Invalid {
		fmt.Fprintf(&b, "invalid %s %s %s; ", x.Kind, x.Subject, x.Remedy)
	}
	for _, x := range f.Settings {
		fmt.Fprintf(&b, "set %s %v; ", x.Key, x.Value)
	}
	parts, err := json.Marshal(f.Fittings)
	must(t, err)
	built, err := json.Marshal(f.BuiltFor)
	must(t, err)
	fmt.Fprintf(&b, "%s for %s, %d min, %d recorded, %d missing", parts, built, f.Minutes, len(f.Closing.Recorded),
		len(f.Closing.Missing))
	return b.String()
}

// Plans of two and three kits on machines of the demo room, and what would make a kit fit that does not.
func TestGoldenPlansOfNetloft(t *testing.T) {
	t.Parallel()
	_, fleet, judges := netloft(t)
	r := rand.New(rand.NewPCG(7, 8))
	var lines []goldentest.Line
	for range 120 {
		m := &fleet[r.IntN(len(fleet))]
		var kits []*fit.Judge
		of := m.Name
		for _, i := range r.Perm(len(judges))[:2+r.IntN(2)] {
			kits = append(kits, judges[i])
			of += " " + judges[i].Kit.Key
		}
		p, err := plan.Judge(t.Context(), kits, m.Facts, m.Records)
		must(t, err)
		lines = append(lines, goldentest.Line{Of: of, Says: planned(p)})
	}
	for range 40 {
		m, j := &fleet[r.IntN(len(fleet))], judges[r.IntN(len(judges))]
		of := "remedies " + m.Name + " " + j.Kit.Key
		if slices.ContainsFunc(lines, func(l goldentest.Line) bool { return l.Of == of }) ||
			j.Verdict(m.Facts).Answer != fit.DoesNotFit {
			continue
		}
		x, err := plan.FindRemedies(t.Context(), j, judges, m.Facts, m.Records)
		must(t, err)
		says := fmt.Sprintf("tried %d, whole %v", x.Tried, x.Whole)
		for _, remedy := range []*plan.Remedy{x.Sure, x.Perhaps} {
			if remedy == nil {
				says += "; none"
				continue
			}
			says += fmt.Sprintf("; %s %s %s %d min", remedy.Then, remedy.Lean, quantity.Format(remedy.Price), remedy.Minutes)
			for _, k := range remedy.Kits {
				says += " " + k.Kit
			}
		}
		lines = append(lines, goldentest.Line{Of: of, Says: says})
	}
	goldentest.Check(t, "plans", lines)
}

func planned(p plan.PlanVerdict) string {
	var b strings.Builder
	fmt.Fprintf(&b, "%s %s, whole %v, %g, %d min, %d again, %d openings, %d builds; look %d; conflict %d", p.Answer,
		p.Lean, p.Whole, p.Price, p.Minutes, p.Repeated, p.Openings, p.Builds, len(p.LookNow), len(p.Conflict))
	for _, s := range p.Steps {
		fmt.Fprintf(&b, "; %s %s %s together %v waits %v opens %v flashes %v %g %d min %d calibrations", s.Kit,
			s.Answer, s.Lean, s.Together, s.Waits != "", s.Opens, s.Flashes, s.Price, s.Minutes, len(s.Calibrations))
	}
	for _, x := range p.Without {
		fmt.Fprintf(&b, "; without %s %s %g %d min", x.Kit, x.Answer, x.Price, x.Minutes)
	}
	return b.String()
}
