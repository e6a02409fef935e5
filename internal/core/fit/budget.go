package fit

import (
	"fmt"
	"math"
	"strings"

	"wardifex/internal/core/machine"
)

// Budget is something that a machine offers and its parts use up.
type Budget struct {
	Key       string
	Title     string
	Unit      string
	Offers    []Term // with factor +1
	Takes     []Term // with factor −1; by parts that are fitted already
	Fixed     float64
	FixedFor  string // what Fixed is taken for
	Unless    *Test  // the budget does not matter where this holds
	Least     machine.Grade
	Why       string
	Otherwise string
}

func offer(slot, trait string) Term { return Term{Slot: slot, Trait: trait, Factor: 1} }
func takes(slot, trait string) Term { return Term{Slot: slot, Trait: trait, Factor: -1} }

// where makes a term count only where a trait has a value.
func (t Term) where(slot, trait, value string) Term {
	t.Where = &Where{slot, trait, value}
	return t
}

// one makes a term count as 1, whatever its trait's kind, where it has a value.
func (t Term) one(value string) Term { t.One = value; return t }

// budgets that kits use up. Source: common practice, except where marked.
var budgets = []Budget{
	{Key: "flash", Title: "Flash left", Unit: "KiB", Offers: []Term{offer("mainboard", "flash")}, Takes: []Term{takes("mainboard", "bootloader-size"), takes("firmware", "size")},
		Unless: &Test{Slot: "firmware", Trait: "family", Op: Equal, Values: []string{"hosted"}, Least: machine.Read}, Least: machine.Read,
		Why: "A build that does not fit cannot be flashed.", Otherwise: "Dropping features from the build, or a board with more flash, would change that."},
	{Key: "probe-header", Title: "Probe header free", Offers: []Term{offer("mainboard", "probe-port").one("yes")}, Takes: []Term{takes("probe", "senses").one("surface, by touch")}, Least: machine.Read,
		Why: "Two parts cannot share the header.", Otherwise: "A board with another header, or taking out what is on it, would change that."},
	{Key: "driver-outputs", Title: "Driver outputs free", Offers: []Term{offer("mainboard", "driver-outputs")}, Fixed: 4, FixedFor: "X, Y, Z, E",
		Takes: []Term{takes("z-drive", "motors").one("two on two drivers"), takes("motor-e2", machine.ModelTrait).one("*")}, Least: machine.Claimed,
		Why: "Each motor of its own needs an output.", Otherwise: "A board with more outputs would change that."},
	{Key: "supply-watts", Title: "Power left", Unit: "W", Offers: []Term{offer("supply", "watts")}, Fixed: 40, FixedFor: "motors, fans, electronics (from memory)",
		Takes: []Term{takes("heater", "watts"), takes("heater-2", "watts"), takes("bed-heater", "watts").where("plate", "mains", "no")}, Least: machine.Marked,
		Why: "An overloaded supply runs hot and drops out.", Otherwise: "A larger supply, or heating the bed from the mains, would change that."},
	{Key: "tool-contacts", Title: "Contacts free", Offers: []Term{offer("tool-plate", "contacts")}, Least: machine.Read,
		Why: "Each wire of a head needs a contact.", Otherwise: "A plate with more contacts would change that."},
	{Key: "toolhead-ways", Title: "Ways free on the toolhead board", Offers: []Term{offer("toolhead-board", "ways")}, Least: machine.Read,
		Why: "Each wire of a probe or fan needs a way.", Otherwise: "Another toolhead board would change that."},
	{Key: "mains-amperes", Title: "Mains circuit left", Unit: "A", Offers: []Term{offer("circuit", "amperes")}, Takes: []Term{takes("circuit", "others")}, Least: machine.Marked,
		Why: "A bed at full power can trip the breaker.", Otherwise: "Capping the bed's power, or another circuit, would change that."},
}

// Budgets lists every budget.
func Budgets() []Budget { return budgets }

func budgetOf(key string) (Budget, bool) {
	for _, b := range budgets {
		if b.Key == key {
			return b, true
		}
	}
	return Budget{}, false
}

// Use is what a kit takes of a budget, or frees when negative.
type Use struct {
	Budget string  `json:"budget" enum:"flash,probe-header,driver-outputs,supply-watts,tool-contacts,toolhead-ways,mains-amperes"`
	Amount float64 `json:"amount" doc:"In the budget's unit; negative when it frees"`
	For    string  `json:"for,omitempty" doc:"What takes it"`
}

// budgetNode is a compiled budget of a kit.
type budgetNode struct {
	Budget
	uses   []Use
	terms  []term
	unless *node
}

// compileUses makes a requirement of everything that a kit takes.
func compileUses(k *Kit, voc *machine.Vocabulary) ([]node, error) {
	var out []node
	at := map[string]int{}
	for _, u := range k.Uses {
		b, ok := budgetOf(u.Budget)
		if !ok {
			return nil, fmt.Errorf("there is no budget %q", u.Budget)
		}
		if math.IsNaN(u.Amount) || math.IsInf(u.Amount, 0) {
			return nil, fmt.Errorf("%s: %g is no amount", b.Title, u.Amount)
		}
		if i, twice := at[u.Budget]; twice {
			out[i].budget.uses = append(out[i].budget.uses, u)
			continue
		}
		n := node{kind: budgetKind, req: &Requirement{Label: b.Title, Why: b.Why, Otherwise: b.Otherwise}, budget: &budgetNode{Budget: b, uses: []Use{u}}}
		for _, t := range append(append([]Term(nil), b.Offers...), b.Takes...) {
			compiled, err := compileTerm(t, voc)
			if err != nil {
				return nil, err
			}
			n.budget.terms = append(n.budget.terms, compiled)
		}
		if b.Unless != nil {
			unless := node{kind: testNode, req: &Requirement{Test: b.Unless, Label: b.Title}}
			if err := unless.compileTest(*b.Unless, voc); err != nil {
				return nil, err
			}
			n.budget.unless = &unless
		}
		at[u.Budget] = len(out)
		out = append(out, n)
	}
	return out, nil
}

// bounds are what is left after the kit, and after what was spent before it.
func (b *budgetNode) bounds(w world) (lo, hi float64, open []*machine.Trait) {
	lo, hi = -b.Fixed-w.spent[b.Key], -b.Fixed-w.spent[b.Key]
	for _, u := range b.uses {
		lo, hi = lo-u.Amount, hi-u.Amount
	}
	for i := range b.terms {
		x, y, o := b.terms[i].bounds(w.Snapshot, b.Least)
		lo, hi = lo+x, hi+y
		open = append(open, o...)
	}
	return lo, hi, open
}

func (b *budgetNode) truth(w world) Truth {
	lo, hi, _ := b.bounds(w)
	t := isOpen
	switch {
	case lo >= -same:
		t = isYes
	case hi < -same:
		t = isNo
	}
	if b.unless != nil {
		t = b.unless.truth(w).Or(t)
	}
	return t
}

func (b *budgetNode) arithmetic(w world) string {
	var out strings.Builder
	for i := range b.terms {
		t := &b.terms[i]
		sign := " + "
		if t.factor < 0 {
			sign = " − "
		}
		if i > 0 || t.factor < 0 {
			out.WriteString(sign)
		}
		out.WriteString(t.words(w.Snapshot, b.Least))
	}
	if b.Fixed > 0 {
		fmt.Fprintf(&out, " − %s %s", machine.FormatNumber(b.Fixed), b.FixedFor)
	}
	if spent := w.spent[b.Key]; spent != 0 {
		fmt.Fprintf(&out, " − %s before it in the plan", machine.FormatNumber(spent))
	}
	for _, u := range b.uses {
		what := u.For
		if what == "" {
			what = "this kit"
		}
		if u.Amount < 0 {
			fmt.Fprintf(&out, " + %s freed by %s", machine.FormatNumber(-u.Amount), what)
		} else {
			fmt.Fprintf(&out, " − %s %s", machine.FormatNumber(u.Amount), what)
		}
	}
	unit := ""
	if b.Unit != "" {
		unit = " " + b.Unit
	}
	lo, hi, _ := b.bounds(w)
	switch {
	case lo == hi:
		fmt.Fprintf(&out, " = %s%s left", machine.FormatNumber(lo), unit)
	case !math.IsInf(lo, 0) && !math.IsInf(hi, 0):
		fmt.Fprintf(&out, " = between %s and %s%s left", machine.FormatNumber(lo), machine.FormatNumber(hi), unit)
	default:
		out.WriteString(" = unknown")
	}
	return strings.TrimSpace(out.String())
}
