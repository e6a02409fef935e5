package maintenance

import (
	"fmt"
	"regexp"
	"slices"
	"strings"
	"unicode"

	"wardifex/internal/core/machine"
	"wardifex/internal/core/quantity"
)

// Bounds of a task: what is beyond them is a slip.
const (
	mostLimitDays   = 3660
	mostTaskMinutes = 24 * 60
	mostTimes       = 100
	longestHow      = 2000
	mostTaskSteps   = 100
)

var taskKey = regexp.MustCompile(`^[a-z0-9][a-z0-9-]{0,39}$`)

// Check refuses a task that could not be done or would never be due, in one sentence. others are
// the tasks of the shop beside it.
func (t Task) Check(others []Task, voc *machine.Vocabulary) error {
	switch {
	case !taskKey.MatchString(t.Key):
		return fmt.Errorf("a task's key has small letters, digits and hyphens, such as clean-bed; %q has others", t.Key)
	case strings.TrimSpace(t.Title) == "":
		return fmt.Errorf("name the task, as it is shown in the list")
	case slices.ContainsFunc(others, func(o Task) bool { return o.Key != t.Key && strings.EqualFold(o.Title, t.Title) }):
		return fmt.Errorf("there is a task %q already", t.Title)
	case !isKind(voc, t.Kind):
		return fmt.Errorf("the catalogue has no kind of part %q: choose what the task is about", t.Kind)
	case t.Renews != "" && !isKind(voc, t.Renews):
		return fmt.Errorf("the catalogue has no kind of part %q, which is to be renewed", t.Renews)
	case t.Always && t.Renews == "":
		return fmt.Errorf("a task that always puts a part in anew says which kind of part")
	case len(t.Steps) > mostTaskSteps:
		return fmt.Errorf("a task has at most %d steps, not %d", mostTaskSteps, len(t.Steps))
	case t.Minutes < 0 || t.Minutes > mostTaskMinutes:
		return fmt.Errorf("%s minutes cannot be: a task takes up to a day", quantity.Format(t.Minutes))
	case !slices.Contains(Risks(), t.Risk):
		return fmt.Errorf("say what comes of it where it is not done: one of %v", Risks())
	}
	for _, e := range t.After {
		if !slices.Contains(Events(), e) {
			return fmt.Errorf("%q is none of the events after which a task can be due: %v", e, Events())
		}
	}
	if err := t.Limits.check(); err != nil {
		return err
	}
	for i, c := range t.When {
		if err := c.check(voc); err != nil {
			return fmt.Errorf("condition %d: %w", i+1, err)
		}
	}
	if err := t.checkTexts(); err != nil {
		return err
	}
	if t.Limits == (Limits{}) && len(t.After) == 0 {
		return fmt.Errorf("say after how much use, after how many days, or after what the task is due")
	}
	return t.checkProtection()
}

func isKind(voc *machine.Vocabulary, kind string) bool { _, ok := voc.Kind(kind); return ok }

// checkProtection keeps what rules and the law of safety take for granted of the protection test.
func (t Task) checkProtection() error {
	if t.Key != ProtectionTask {
		return nil
	}
	is, _ := Find(Shipped(), ProtectionTask)
	switch {
	case t.Off:
		return fmt.Errorf("the test of thermal-runaway protection cannot be left out")
	case t.Days == 0 || t.Days > is.Days:
		return fmt.Errorf("a protection test proves nothing after %d days: make it as often, or more often", is.Days)
	case t.Kind != is.Kind || t.Renews != "" || len(t.When) > 0 || t.Hours+t.Filament+t.Prints > 0:
		return fmt.Errorf("of the protection test only its days, its texts, minutes, tools and skill can be changed")
	}
	return nil
}

func (t Task) checkTexts() error {
	short, long := append([]string{t.Title, t.Skill}, t.Tools...), append([]string{t.How}, t.Cautions...)
	for i, s := range t.Steps {
		if strings.TrimSpace(s.Title) == "" {
			return fmt.Errorf("step %d says nothing: name it, or remove it", i+1)
		}
		short, long = append(short, s.Title), append(long, s.Do)
	}
	for _, text := range short {
		if text == "" {
			continue
		}
		if err := machine.PlainText(text); err != nil {
			return fmt.Errorf("%q: %w", text, err)
		}
	}
	for _, text := range long {
		if len([]rune(text)) > longestHow {
			return fmt.Errorf("a text of %d characters is too long: at most %d", len([]rune(text)), longestHow)
		}
		if strings.ContainsFunc(text, func(r rune) bool { return unicode.IsControl(r) && r != '\n' && r != '\t' }) {
			return fmt.Errorf("a text holds a character that cannot be printed; type it again")
		}
	}
	return nil
}

func (l Limits) check() error {
	for _, c := range Counters() {
		if n := l.Of(c); n < 0 || n > countings[c].most {
			return fmt.Errorf("every %s %s cannot be", quantity.Format(n), countings[c].name)
		}
	}
	if l.Days < 0 || l.Days > mostLimitDays {
		return fmt.Errorf("every %d days cannot be: up to ten years", l.Days)
	}
	return nil
}

func (c Condition) check(voc *machine.Vocabulary) error {
	kind, trait, ok := strings.Cut(c.Trait, ".")
	if !ok || voc.TraitOfKind(kind, trait) == nil {
		return fmt.Errorf("no part of the catalogue has the trait %q; write its kind and trait, such as nozzle.abrasive",
			c.Trait)
	}
	switch {
	case c.Is == "" && c.Over == nil:
		return fmt.Errorf("say at which word %s stands, or above which number", c.Trait)
	case strings.TrimSpace(c.Words) == "":
		return fmt.Errorf("say why, as it is shown beside the task")
	case c.Times < 0 || c.Times > mostTimes:
		return fmt.Errorf("%s times the usual cannot be: up to %d", quantity.Format(c.Times), mostTimes)
	case !c.Never && c.Times == 0 && c.Limits == (Limits{}):
		return fmt.Errorf("say what is otherwise where it is so: another limit, so many times the usual, or never")
	}
	return c.Limits.check()
}
