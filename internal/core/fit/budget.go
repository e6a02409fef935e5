package fit

import (
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"

	"wardifex/internal/core/machine"
)

// Budget is something that a machine offers and its parts use up.
type Budget struct {
	Key      string
	Title    string
	Unit     string
	Offers   []Term // with factor +1
	Takes    []Term // with factor −1; by parts that are fitted already
	Fixed    float64
	FixedFor string // what Fixed is taken for
	Unless   *Test  // the budget does not matter where this holds
	// Noted is the fact that says what is free, or with NotedTakes what is taken,
	// as a number or as yes and no: it is another one once a kit is fitted. Other budgets follow from the parts.
	Noted      machine.Key
	NotedTakes bool
	Binds      machine.Key // a limit of the shop's own: it matters only where it is on record
	// ByParts says that the parts of a kit draw on it by being fitted, where nothing
	// is written as used.
	ByParts   bool
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
	{Key: "display-header", Title: "10-pin display header free", Offers: []Term{offer("mainboard", "display-port").one("yes")}, Noted: "mainboard.display-port", Least: machine.Read,
		Why: "A display and an adapter cannot share the header.", Otherwise: "A board with another header would change that."},
	{Key: "driver-outputs", Title: "Driver outputs free", Offers: []Term{offer("mainboard", "driver-outputs")}, Fixed: 4, FixedFor: "X, Y, Z, E",
		Takes: []Term{takes("z-drive", "motors").one("two on two drivers"), takes("motor-e2", machine.ModelTrait).one("*")}, ByParts: true, Least: machine.Claimed,
		Why: "Each motor of its own needs an output.", Otherwise: "A board with more outputs would change that."},
	{Key: "heater-outputs", Title: "Heater outputs for hotends free", Offers: []Term{offer("mainboard", "heater-outputs")}, Fixed: 1, FixedFor: "the hotend",
		Takes: []Term{takes("heater-2", machine.ModelTrait).one("*")}, ByParts: true, Least: machine.Read,
		Why: "Each heater of its own needs an output.", Otherwise: "A board with more outputs would change that."},
	{Key: "sensor-inputs", Title: "Inputs for temperature sensors free", Offers: []Term{offer("mainboard", "sensor-inputs")}, Fixed: 2, FixedFor: "hotend and bed",
		Takes: []Term{takes("sensor-2", machine.ModelTrait).one("*")}, ByParts: true, Least: machine.Read,
		Why: "Each sensor of its own needs an input.", Otherwise: "A board with more inputs would change that."},
	{Key: "fan-outputs", Title: "Fan outputs free", Offers: []Term{offer("mainboard", "fan-outputs")}, Noted: "mainboard.fan-outputs", Least: machine.Read,
		Why: "A fan that the firmware switches needs an output of its own.", Otherwise: "A board with more outputs would change that."},
	{Key: "supply-watts", Title: "Power left", Unit: "W", Offers: []Term{offer("supply", "watts")}, Fixed: 40, FixedFor: "motors, fans, electronics (from memory)",
		Takes: []Term{takes("heater", "watts"), takes("heater-2", "watts"), takes("bed-heater", "watts").where("plate", "mains", "no")}, ByParts: true, Least: machine.Marked,
		Why: "An overloaded supply runs hot and drops out.", Otherwise: "A larger supply, or heating the bed from the mains, would change that."},
	{Key: "tool-contacts", Title: "Contacts free", Offers: []Term{offer("tool-plate", "contacts")}, Least: machine.Read,
		Why: "Each wire of a head needs a contact.", Otherwise: "A plate with more contacts would change that."},
	{Key: "toolhead-ways", Title: "Ways free on the toolhead board", Offers: []Term{offer("toolhead-board", "ways")}, Noted: "toolhead-board.ways", Least: machine.Read,
		Why: "Each wire of a probe or fan needs a way.", Otherwise: "Another toolhead board would change that."},
	{Key: "mains-amperes", Title: "Mains circuit left", Unit: "A", Offers: []Term{offer("circuit", "amperes")}, Takes: []Term{takes("circuit", "others")}, Noted: "circuit.others", NotedTakes: true, Least: machine.Marked,
		Why: "A bed at full power can trip the breaker.", Otherwise: "Capping the bed's power, or another circuit, would change that."},
	{Key: "print-width", Title: "Print width left", Unit: "mm", Offers: []Term{offer("frame", "x")}, Least: machine.Read,
		Why: areaWhy, Otherwise: areaOtherwise},
	{Key: "print-depth", Title: "Print depth left", Unit: "mm", Offers: []Term{offer("frame", "y")}, Least: machine.Read,
		Why: areaWhy, Otherwise: areaOtherwise},
	{Key: "print-height", Title: "Print height left", Unit: "mm", Offers: []Term{offer("frame", "z")}, Least: machine.Read,
		Why: areaWhy, Otherwise: areaOtherwise},
	{Key: "head-mass", Title: "Mass that the carriage may still carry", Unit: "g", Offers: []Term{offer("carriage", "bears")}, Takes: []Term{{Slot: "toolhead", Trait: "grams", Factor: -1, Sure: true}}, Binds: "carriage.bears", ByParts: true, Least: machine.Read,
		Why: "A heavier head rings lower and has to be driven slower.", Otherwise: "A lighter head, or a stiffer carriage, would change that."},
	{Key: "bed-mass", Title: "Mass that the bed's axis may still carry", Unit: "g", Offers: []Term{offer("frame", "bears")}, Takes: []Term{takes("plate", "grams")}, Binds: "frame.bears", ByParts: true, Least: machine.Read,
		Why: "A heavier bed rings lower and has to be driven slower.", Otherwise: "A lighter plate, or a stronger axis, would change that."},
}

const (
	areaWhy       = "A head, or the dock for it, takes a part of the way."
	areaOtherwise = "A longer frame, or a smaller head, would change that."
)

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
	Budget string  `json:"budget" enum:"flash,probe-header,display-header,driver-outputs,heater-outputs,sensor-inputs,fan-outputs,supply-watts,tool-contacts,toolhead-ways,mains-amperes,print-width,print-depth,print-height,head-mass,bed-mass"`
	Amount float64 `json:"amount" doc:"In the budget's unit; negative when it frees"`
	For    string  `json:"for,omitempty" doc:"What takes it"`
	Keep   float64 `json:"keep,omitempty" doc:"What must be left over, in the budget's unit"`

	implied bool // not written: the kit's parts take it by being what they are
}

// Spends is everything that a kit takes of the budgets: what is written as
// such, and the print area and moving mass that it is said to cost.
func (k Kit) Spends() []Use {
	out := slices.Clone(k.Uses)
	also := func(budget string, amount float64) {
		written := slices.ContainsFunc(k.Uses, func(u Use) bool { return u.Budget == budget })
		if amount > 0 && !written {
			out = append(out, Use{Budget: budget, Amount: amount})
		}
	}
	for i, budget := range []string{"print-width", "print-depth", "print-height"} {
		also(budget, k.AreaLoss[i])
	}
	also("head-mass", k.ToolheadGrams)
	also("bed-mass", k.BedGrams)
	return out
}

// budgetNode is a compiled budget of a kit.
type budgetNode struct {
	Budget
	uses   []Use
	terms  []term
	unless *node
	binds  *machine.Trait
}

// keep is what must be left over.
func (b *budgetNode) keep() (most float64) {
	for _, u := range b.uses {
		most = math.Max(most, u.Keep)
	}
	return most
}

// idle reports whether the budget is a limit that is not on record.
func (b *budgetNode) idle(w world) bool {
	return b.binds != nil && w.At(b.binds).Grade == machine.Unknown
}

// mostAmount bounds what may be written of a budget, in any unit.
const mostAmount = 1_000_000

// compileUses makes a requirement of everything that is taken, on a machine with
// the parts that are fitted: what they offer counts in place of the machine's own,
// and so does what they take where nothing is written as used.
func compileUses(voc *machine.Vocabulary, by ...spending) ([]node, error) {
	var out []node
	at := map[string]int{}
	var all []Use
	for _, x := range by {
		all = append(all, x.uses...)
	}
	for _, u := range all {
		b, ok := budgetOf(u.Budget)
		if !ok {
			return nil, fmt.Errorf("there is no budget %q", u.Budget)
		}
		if !(math.Abs(u.Amount) <= mostAmount) {
			return nil, fmt.Errorf("%s: %g is no amount; it lies between −%d and %d", b.Title, u.Amount, mostAmount, mostAmount)
		}
		if !(u.Keep >= 0 && u.Keep <= mostAmount) {
			return nil, fmt.Errorf("%s: what must be left over lies between 0 and %d, not at %g", b.Title, mostAmount, u.Keep)
		}
		if i, twice := at[u.Budget]; twice {
			out[i].budget.uses = append(out[i].budget.uses, u)
			continue
		}
		n := node{kind: budgetKind, req: &Requirement{Label: b.Title, Why: b.Why, Otherwise: b.Otherwise}, budget: &budgetNode{Budget: b, uses: []Use{u}}}
		offers, takes := placed{}, placed{}
		for _, x := range by {
			maps.Copy(offers, x.parts)
			if !x.writes(b.Key) {
				maps.Copy(takes, x.parts)
			}
		}
		for i, t := range slices.Concat(b.Offers, b.Takes) {
			compiled, err := compileTerm(t, voc)
			if err != nil {
				return nil, err
			}
			if compiled.parts = takes; i < len(b.Offers) {
				compiled.parts = offers
			}
			n.budget.terms = append(n.budget.terms, compiled)
		}
		n.budget.tellApart(voc)
		if b.Unless != nil {
			unless := node{kind: testNode, req: &Requirement{Test: b.Unless, Label: b.Title}}
			if err := unless.compileTest(*b.Unless, voc); err != nil {
				return nil, err
			}
			n.budget.unless = &unless
		}
		if b.Binds != "" {
			if n.budget.binds, ok = voc.Trait(b.Binds); !ok {
				return nil, fmt.Errorf("%s: there is no trait %s", b.Title, b.Binds)
			}
		}
		at[u.Budget] = len(out)
		out = append(out, n)
	}
	return out, nil
}

// tellApart names terms by their slot where one trait is summed over several.
func (b *budgetNode) tellApart(voc *machine.Vocabulary) {
	count := map[string]int{}
	for _, t := range b.terms {
		count[t.trait.Short]++
	}
	for i := range b.terms {
		if t := &b.terms[i]; count[t.trait.Short] > 1 {
			slot, _ := voc.Slot(t.trait.Slot)
			t.name = slot.Label
		}
	}
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

// relieves reports whether a kit uses nothing of the budget and its parts leave at
// least as much of it as there is: it stands in no kit's way then, however little
// that is.
func (b *budgetNode) relieves(w world) bool {
	gain := 0.0
	for _, u := range b.uses {
		gain -= u.Amount
	}
	if gain < 0 || b.keep() > 0 {
		return false
	}
	for i := range b.terms {
		if t := &b.terms[i]; t.exchanged() {
			now := *t
			now.parts = nil
			after, _, _ := t.bounds(w.Snapshot, b.Least)
			_, before, _ := now.bounds(w.Snapshot, b.Least)
			gain += after - before
		}
	}
	return gain >= 0
}

func (b *budgetNode) truth(w world) Truth {
	if b.idle(w) || b.relieves(w) {
		return isYes
	}
	lo, hi, _ := b.bounds(w)
	t := isOpen
	switch keep := b.keep(); {
	case lo >= keep-same:
		t = isYes
	case hi < keep-same:
		t = isNo
	}
	if b.unless != nil {
		t = b.unless.truth(w).Or(t)
	}
	return t
}

func (b *budgetNode) arithmetic(w world) string {
	if b.idle(w) {
		return "no limit is on record (" + b.binds.Label + "), so this does not matter"
	}
	var out strings.Builder
	for i := range b.terms {
		t := &b.terms[i]
		if t.idle(w.Snapshot, b.Least) {
			continue
		}
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
		fmt.Fprintf(&out, " − %s %s", figure(b.Fixed), b.FixedFor)
	}
	if spent := w.spent[b.Key]; spent != 0 {
		by := w.spentBy
		if by == "" {
			by = "before it in the plan"
		}
		sign := "−"
		if spent < 0 {
			sign = "+"
		}
		fmt.Fprintf(&out, " %s %s %s", sign, figure(math.Abs(spent)), by)
	}
	for _, u := range b.uses {
		if u.implied {
			continue
		}
		what := u.For
		if what == "" {
			what = "this kit"
		}
		if u.Amount < 0 {
			fmt.Fprintf(&out, " + %s freed by %s", figure(-u.Amount), what)
		} else {
			fmt.Fprintf(&out, " − %s %s", figure(u.Amount), what)
		}
	}
	unit := ""
	if b.Unit != "" {
		unit = " " + b.Unit
	}
	lo, hi, _ := b.bounds(w)
	switch {
	case lo == hi:
		fmt.Fprintf(&out, " = %s%s left", figure(lo), unit)
	case !math.IsInf(lo, 0) && !math.IsInf(hi, 0):
		fmt.Fprintf(&out, " = between %s and %s%s left", figure(lo), figure(hi), unit)
	default:
		out.WriteString(" = unknown")
	}
	if keep := b.keep(); keep > 0 {
		fmt.Fprintf(&out, ", %s%s must be", figure(keep), unit)
	}
	if lo < 0 && b.relieves(w) {
		out.WriteString("; this kit takes no more than it gives")
	}
	return strings.TrimSpace(out.String())
}

// figure writes a computed number as it is read: to the thousandth, with a real
// minus.
func figure(n float64) string {
	n = math.Round(n*1000) / 1000
	if n == 0 {
		return "0"
	}
	return strings.Replace(machine.FormatNumber(n), "-", "−", 1)
}
