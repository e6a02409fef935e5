package fit

import (
	"errors"
	"fmt"
	"math"
	"strings"
	"unicode"
	"unicode/utf8"

	"wardifex/internal/core/machine"
	"wardifex/internal/core/quantity"
)

// Bounds of a formula as written, so that a hostile one costs nothing.
const (
	maxFormula = 400 // characters
	maxNesting = 24
)

// expr is a part of a compiled formula.
type expr struct {
	op       byte // '+', '-', '*', '/', 'n' a number, 't' a trait
	a, b     *expr
	number   float64 // in base units
	text     string  // as written, for numbers
	gauge    float64 // of a wire, which is a cross-section or a diameter; 0 where it is none
	trait    *machine.Trait
	model    *machine.Trait
	unit     quantity.Unit // of the trait
	quantity quantity.Dimension
}

// formula is a compiled comparison.
type formula struct {
	left, right *expr
	op          string
	traits      []*machine.Trait
	voc         *machine.Vocabulary
}

type formulaParser struct {
	compiler
	rest  string
	depth int
	into  *formula
}

// compileFormula checks a formula as written, which compares two sums of facts, with arithmetic and units, such as
//
//	motor-e.shaft - bracket.thickness >= 8 mm
//	heater.volts = supply.volts
//	heater.watts / heater.volts <= tool-plate.contact-amperes
//
// A fact is position.trait; own.trait is of the part that needs it, and part.trait of
// each part that it is asked of. Operators are + − × ÷ (or + - * /) and ( ); comparisons
// are >= <= = > < (or ≥ ≤). A minus between facts stands between blanks, since
// names have hyphens. Numbers carry their unit. A fact of a slot known to be
// empty counts as nothing.
//
// Facts must be there, and units go together.
func (c compiler) compileFormula(text string) (*formula, error) {
	voc := c.voc
	if utf8.RuneCountInString(text) > maxFormula {
		return nil, fmt.Errorf("the formula is longer than %d characters; split it into several requirements", maxFormula)
	}
	f := &formula{voc: voc}
	p := &formulaParser{rest: text, compiler: c, into: f}
	var err error
	if f.left, err = p.sum(); err != nil {
		return nil, err
	}
	if f.op, err = p.comparison(); err != nil {
		return nil, err
	}
	if f.right, err = p.sum(); err != nil {
		return nil, err
	}
	p.blanks()
	if p.rest != "" {
		return nil, fmt.Errorf("after the comparison there is %q too many", short(p.rest))
	}
	f.left.asDiameter(f.right.quantity)
	f.right.asDiameter(f.left.quantity)
	if f.left.quantity != f.right.quantity {
		return nil, fmt.Errorf(
			"the left side is %s, the right side %s: they cannot be compared",
			f.left.quantity,
			f.right.quantity,
		)
	}
	if len(f.traits) == 0 {
		return nil, errors.New("the formula asks for no fact; name one as position.trait, such as motor-e.shaft")
	}
	return f, nil
}

func short(s string) string {
	if r := []rune(s); len(r) > 24 {
		return string(r[:23]) + "…"
	}
	return s
}

func (p *formulaParser) blanks() { p.rest = strings.TrimLeftFunc(p.rest, unicode.IsSpace) }

// take eats one of the signs given; "" when none is next.
func (p *formulaParser) take(signs ...string) string {
	p.blanks()
	for _, s := range signs {
		if strings.HasPrefix(p.rest, s) {
			p.rest = p.rest[len(s):]
			return s
		}
	}
	return ""
}

func (p *formulaParser) comparison() (string, error) {
	switch s := p.take(">=", "≥", "<=", "≤", "=", ">", "<"); s {
	case "≥":
		return ">=", nil
	case "≤":
		return "<=", nil
	case "":
		return "", fmt.Errorf("a comparison (>=, <=, =, > or <) is needed before %q", short(p.rest))
	default:
		return s, nil
	}
}

func (p *formulaParser) sum() (*expr, error) {
	if p.depth++; p.depth > maxNesting {
		return nil, fmt.Errorf("the formula nests deeper than %d", maxNesting)
	}
	defer func() { p.depth-- }()
	a, err := p.product()
	for err == nil {
		sign := p.take("+", "-", "−")
		if sign == "" {
			return a, nil
		}
		var b *expr
		if b, err = p.product(); err == nil {
			op := byte('+')
			if sign != "+" {
				op = '-'
			}
			if a.quantity != b.quantity {
				return nil, fmt.Errorf("%s and %s cannot be added or subtracted", a.quantity, b.quantity)
			}
			a = &expr{op: op, a: a, b: b, quantity: a.quantity}
		}
	}
	return nil, err
}

func (p *formulaParser) product() (*expr, error) {
	a, err := p.factor()
	for err == nil {
		sign := p.take("*", "×", "/", "÷")
		if sign == "" {
			return a, nil
		}
		var b *expr
		if b, err = p.factor(); err == nil {
			if sign == "*" || sign == "×" {
				a = &expr{op: '*', a: a, b: b, quantity: a.quantity.Times(b.quantity, 1)}
			} else {
				if b.isZero() {
					return nil, fmt.Errorf("%w: %s is 0 on every machine", errZero, b.words(machine.Snapshot{}, machine.Claimed))
				}
				a = &expr{op: '/', a: a, b: b, quantity: a.quantity.Times(b.quantity, -1)}
			}
		}
	}
	return nil, err
}

func (p *formulaParser) factor() (*expr, error) {
	p.blanks()
	if p.take("(") != "" {
		e, err := p.sum()
		if err == nil && p.take(")") == "" {
			err = errors.New("a bracket is opened and not closed")
		}
		return e, err
	}
	first, _ := utf8.DecodeRuneInString(p.rest)
	switch {
	case p.rest == "":
		return nil, errors.New("the formula breaks off; a number or a fact is missing at its end")
	case first >= '0' && first <= '9':
		return p.number()
	case first >= 'a' && first <= 'z':
		return p.fact()
	}
	return nil, fmt.Errorf("%q is neither a number nor a fact such as motor-e.shaft", short(p.rest))
}

func (p *formulaParser) number() (*expr, error) {
	end := strings.IndexFunc(p.rest, func(r rune) bool { return (r < '0' || r > '9') && r != '.' })
	if end < 0 {
		end = len(p.rest)
	}
	n, err := quantity.Recorded(p.rest[:end])
	if err != nil {
		return nil, err
	}
	e := &expr{op: 'n', text: p.rest[:end]}
	p.rest = p.rest[end:]
	after := strings.TrimLeft(p.rest, " ")
	unit, length, ok := quantity.Prefix(after)
	next, _ := utf8.DecodeRuneInString(after)
	switch {
	case ok:
		p.rest = after[length:]
		e.text += " " + after[:length]
	case unicode.IsLetter(next) && !strings.Contains(strings.SplitN(after, " ", 2)[0], "."):
		return nil, fmt.Errorf("%q is no unit that formulas know; use one of %s", short(after), quantity.Names())
	default:
		unit, _ = quantity.Lookup("")
	}
	if unit.Gauge() {
		e.gauge, unit = n, wireGauge
	}
	e.number, e.quantity = unit.Base(n), unit.Dimension
	return e, nil
}

// wireGauge is a gauge as a cross-section, which is what currents hang on.
var wireGauge, _ = quantity.Meant("AWG", quantity.Area)

// asDiameter takes a wire's gauge for its diameter, where a length is beside it.
func (e *expr) asDiameter(beside quantity.Dimension) {
	if diameter, ok := quantity.Meant("AWG", beside); ok && e.gauge != 0 {
		e.number, e.quantity = diameter.Base(e.gauge), beside
	}
}

func (p *formulaParser) fact() (*expr, error) {
	end := strings.IndexFunc(p.rest, func(r rune) bool {
		return (r < 'a' || r > 'z') && (r < '0' || r > '9') && r != '-' && r != '.'
	})
	if end < 0 {
		end = len(p.rest)
	}
	name := p.rest[:end]
	t, ok := p.voc.Trait(p.named(name))
	if !ok {
		return nil, fmt.Errorf(
			"there is no fact %q; write position.trait, such as motor-e.shaft, and blanks around a minus",
			short(name),
		)
	}
	u, known := quantity.Lookup(t.Unit)
	if t.Kind != machine.Number || !known {
		return nil, fmt.Errorf("%s is no number that can be computed with", t.Label)
	}
	p.rest = p.rest[end:]
	p.into.traits = append(p.into.traits, t)
	model, _ := p.voc.Trait(machine.KeyOf(t.Slot, machine.ModelTrait))
	return &expr{op: 't', trait: t, model: model, unit: u, quantity: u.Dimension}, nil
}

// named is the key that a fact is written for: own and part stand for positions.
func (p *formulaParser) named(name string) machine.Key {
	slot, trait, _ := strings.Cut(name, ".")
	switch {
	case slot == "own" && p.owner != nil:
		slot = p.owner.Key
	case slot == "part" && p.part != nil:
		slot = p.part.Key
	}
	return machine.KeyOf(slot, trait)
}

// bounds are the least and greatest that a part of a formula can be.
type bounds struct{ lo, hi float64 }

// errZero is a division by a fact that is zero.
var errZero = errors.New("a division by zero")

// isZero reports whether a part without facts is 0.
func (e *expr) isZero() bool {
	if e.asks() {
		return false
	}
	b, err := e.bounds(machine.Snapshot{}, machine.Claimed)
	return err == nil && b.lo == 0 && b.hi == 0
}

// asks reports whether there is a fact in it.
func (e *expr) asks() bool {
	return e.op == 't' || e.op != 'n' && (e.a.asks() || e.b.asks())
}

func (e *expr) bounds(w machine.Snapshot, least machine.Grade) (bounds, error) {
	switch e.op {
	case 'n':
		return bounds{e.number, e.number}, nil
	case 't':
		lo, hi, _ := factBounds(w, e.trait, e.model, least)
		return bounds{e.unit.Base(lo), e.unit.Base(hi)}, nil
	}
	a, err := e.a.bounds(w, least)
	if err != nil {
		return a, err
	}
	b, err := e.b.bounds(w, least)
	if err != nil {
		return b, err
	}
	switch e.op {
	case '+':
		return bounds{a.lo + b.lo, a.hi + b.hi}, nil
	case '-':
		return bounds{a.lo - b.hi, a.hi - b.lo}, nil
	case '*':
		return hull(a.lo*b.lo, a.lo*b.hi, a.hi*b.lo, a.hi*b.hi), nil
	}
	if b.lo == 0 && b.hi == 0 {
		return b, fmt.Errorf("%w: %s is 0", errZero, e.b.words(w, least))
	}
	if b.lo <= 0 && b.hi >= 0 {
		return bounds{math.Inf(-1), math.Inf(1)}, nil
	}
	return hull(a.lo/b.lo, a.lo/b.hi, a.hi/b.lo, a.hi/b.hi), nil
}

// hull spans its arguments; nothing times what is unbounded is nothing.
func hull(xs ...float64) bounds {
	b := bounds{math.Inf(1), math.Inf(-1)}
	for _, x := range xs {
		if math.IsNaN(x) {
			x = 0
		}
		b.lo, b.hi = math.Min(b.lo, x), math.Max(b.hi, x)
	}
	return b
}

// same is how near two computed numbers are the same.
const same = 1e-9

// truth judges the comparison. A fact that stands alone on a side is compared by the
// nominal value that it stands for; sums use what was measured.
func (f *formula) truth(w machine.Snapshot, least machine.Grade) (Truth, error) {
	strict, err := f.at(w, least)
	if err != nil {
		return isOpen, err
	}
	return judged(strict, func() tri {
		lean, err := f.at(w, machine.Claimed)
		if err != nil {
			return maybe
		}
		return lean
	}), nil
}

func (f *formula) at(w machine.Snapshot, least machine.Grade) (tri, error) {
	a, err := f.left.side(w, least)
	if err != nil {
		return maybe, err
	}
	b, err := f.right.side(w, least)
	if err != nil {
		return maybe, err
	}
	slack := same * math.Max(1, math.Max(finite(a.hi), finite(b.hi)))
	sure, never := false, false
	switch f.op {
	case ">=":
		sure, never = a.lo >= b.hi-slack, a.hi < b.lo-slack
	case ">":
		sure, never = a.lo > b.hi+slack, a.hi <= b.lo+slack
	case "<=":
		sure, never = a.hi <= b.lo+slack, a.lo > b.hi+slack
	case "<":
		sure, never = a.hi < b.lo-slack, a.lo >= b.hi-slack
	default:
		sure, never = a.hi-b.lo <= slack && b.hi-a.lo <= slack, a.hi < b.lo-slack || a.lo > b.hi+slack
	}
	return tri{sure, !never}, nil
}

// side is what a whole side of a comparison can be.
func (e *expr) side(w machine.Snapshot, least machine.Grade) (bounds, error) {
	b, err := e.bounds(w, least)
	if e.op == 't' && e.trait.Nominal != nil && err == nil {
		b.lo, b.hi = e.unit.Base(e.trait.Snap(e.unit.From(b.lo))), e.unit.Base(e.trait.Snap(e.unit.From(b.hi)))
	}
	return b, err
}

func finite(x float64) float64 {
	if math.IsInf(x, 0) {
		return 1
	}
	return math.Abs(x)
}

// open lists the facts that leave the formula undecided.
func (f *formula) open(w machine.Snapshot, least machine.Grade) []*machine.Trait {
	var out []*machine.Trait
	for _, t := range f.traits {
		model, _ := w.Vocabulary().Trait(machine.KeyOf(t.Slot, machine.ModelTrait))
		if _, _, open := factBounds(w, t, model, least); open {
			out = append(out, w.Decides(t))
		}
	}
	return out
}

// words writes a part of a formula with its numbers in it.
func (e *expr) words(w machine.Snapshot, least machine.Grade) string {
	switch e.op {
	case 'n':
		return e.text
	case 't':
		value := "?"
		if f := w.At(e.trait); f.Known() {
			value = e.trait.Show(f.Value)
			if f.Grade < least {
				value += "?"
			}
		} else if none := w.At(e.model); f.Grade == machine.Unknown && none.Value.Text == machine.None &&
			none.Grade >= least {
			value = "0"
		}
		return value + " (" + e.trait.Label + ")"
	}
	sign := map[byte]string{'+': " + ", '-': " − ", '*': " × ", '/': " ÷ "}[e.op]
	part := func(x *expr) string {
		if (e.op == '*' || e.op == '/') && (x.op == '+' || x.op == '-') ||
			e.op == '/' && x == e.b && (x.op == '*' || x.op == '/') ||
			e.op == '-' && x == e.b && (x.op == '+' || x.op == '-') {
			return "(" + x.words(w, least) + ")"
		}
		return x.words(w, least)
	}
	return part(e.a) + sign + part(e.b)
}

// words writes the comparison with its numbers and what its sides come to.
func (f *formula) words(w machine.Snapshot, least machine.Grade) string {
	op := map[string]string{">=": "≥", "<=": "≤"}[f.op]
	if op == "" {
		op = f.op
	}
	text := f.left.words(w, least) + " " + op + " " + f.right.words(w, least)
	a, errA := f.left.bounds(w, least)
	b, errB := f.right.bounds(w, least)
	if errA == nil && errB == nil && a.lo == a.hi && b.lo == b.hi {
		text += fmt.Sprintf(": %s against %s", inUnit(a.lo, f.left.quantity), inUnit(b.lo, f.right.quantity))
	}
	return text
}

func inUnit(x float64, q quantity.Dimension) string {
	number := figure(x)
	if name := q.String(); !strings.HasPrefix(name, "a ") {
		return number + " " + name
	}
	return number
}
