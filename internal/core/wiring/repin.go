package wiring

import (
	"fmt"
	"regexp"
	"strings"
	"unicode"
)

// Lead is one end of a coil: coil 1 or 2, end A or B.
type Lead struct {
	Coil int  `json:"coil"`
	B    bool `json:"b"`
}

func (l Lead) String() string {
	if l.B {
		return fmt.Sprintf("%dB", l.Coil)
	}
	return fmt.Sprintf("%dA", l.Coil)
}

// Order is what the four ways of a connector are, first to last.
type Order [4]Lead

func (o Order) String() string {
	return fmt.Sprintf("%s %s %s %s", o[0], o[1], o[2], o[3])
}

// ends are the names of the four ends, as leaflets write them without blanks.
var ends = map[string]Lead{
	"1A": {1, false}, "1B": {1, true}, "2A": {2, false}, "2B": {2, true},
	"A1": {1, false}, "A2": {1, true}, "B1": {2, false}, "B2": {2, true},
	"A+": {1, false}, "A-": {1, true}, "B+": {2, false}, "B-": {2, true},
	"A": {1, false}, "A'": {1, true}, "B": {2, false}, "B'": {2, true},
}

// oneSign writes primes and minus signs with one character each.
var oneSign = strings.NewReplacer(
	"′",
	"'",
	"’",
	"'",
	"‘",
	"'",
	"´",
	"'",
	"`",
	"'",
	"ʹ",
	"'",
	"−",
	"-",
	"–",
	"-",
	"\u00a0",
	" ",
)

// spaced is an end with a blank inside it: "A +", "1 A", "B '".
var spaced = regexp.MustCompile(`[12]\s*[AB]|[AB]\s*[12+'-]|[AB]`)

// ParseOrder reads four ends such as "1A 1B 2A 2B". Leaflets write the same as
// "A+ A− B+ B−", "A1 A2 B1 B2" or "A A′ B B′": letters are then the coils. Blanks
// inside a name do no harm.
func ParseOrder(text string) (Order, error) {
	var o Order
	plain := oneSign.Replace(strings.ToUpper(text))
	separator := func(r rune) bool { return unicode.IsSpace(r) || strings.ContainsRune(",;/|", r) }
	words := strings.FieldsFunc(plain, separator)
	if len(words) > 4 && strings.TrimFunc(spaced.ReplaceAllString(plain, ""), separator) == "" {
		words = spaced.FindAllString(plain, -1)
	}
	if len(words) != 4 {
		return o, fmt.Errorf("%q: four ends are needed, such as 1A 1B 2A 2B, in the order of the pins", text)
	}
	seen := map[Lead]bool{}
	for i, w := range words {
		lead, ok := ends[strings.Join(strings.Fields(w), "")]
		if !ok {
			return o, fmt.Errorf("%q is no end of a coil; write 1A, 1B, 2A, 2B or A+, A−, B+, B−", w)
		}
		if seen[lead] {
			return o, fmt.Errorf("%s is there twice; each of the four ends once", lead)
		}
		seen[lead] = true
		o[i] = lead
	}
	return o, nil
}

// State says what a motor does as wired.
type State string

const (
	Buzzes   State = "buzzes" // coils split over the driver's pairs: it does not turn
	Forward  State = "turns"
	Backward State = "turns the other way"
)

// Swap exchanges the leads of two pins of the motor's connector, 1 to 4.
type Swap struct {
	A int `json:"a"`
	B int `json:"b"`
}

// Repinning is which leads to exchange.
type Repinning struct {
	Now   State  `json:"now" doc:"As it would be with the leads straight through"`
	Swaps []Swap `json:"swaps" doc:"In order; each exchanges the leads of two pins of the motor's connector"`
	After Order  `json:"-"`
	// Leads is which lead of the motor's connector, 1 to 4 as it was, ends on
	// each way of the header.
	Leads [4]int `json:"leads"`
	Words string `json:"words"`
}

// stateOf is what a motor does whose leads lie on a header in this order. Both
// coils must lie on one of the driver's pairs each. Direction turns over when
// one coil is reversed, and when the coils change places. Source: common
// practice; it follows from the two phases' order.
func stateOf(motor, header Order) State {
	var pair [3]int
	var flipped [3]bool
	for i, lead := range motor {
		if p := pair[lead.Coil]; p != 0 && p != header[i].Coil {
			return Buzzes
		}
		pair[lead.Coil] = header[i].Coil
		flipped[lead.Coil] = lead.B != header[i].B
	}
	backward := flipped[1] != flipped[2]
	if pair[1] == 2 {
		backward = !backward
	}
	if backward {
		return Backward
	}
	return Forward
}

// Repin finds the fewest exchanges of leads after which each coil sits on one
// of the driver's pairs; with reverse set, also so that the motor turns against
// the way it does, or would with ends as named. Of equally few it takes those
// after which the motor turns as the names of the ends say.
func Repin(motor, header Order, reverse bool) Repinning {
	r := Repinning{Now: stateOf(motor, header), Swaps: []Swap{}}
	good := []State{Forward, Backward} // the better first
	if reverse {
		good = []State{Backward}
		if r.Now == Backward {
			good = []State{Forward}
		}
	}
	for layer := []route{{order: motor, leads: [4]int{1, 2, 3, 4}}}; ; layer = further(layer) {
		for _, want := range good {
			for _, at := range layer {
				if stateOf(at.order, header) == want {
					r.After, r.Leads, r.Swaps = at.order, at.leads, append(r.Swaps, at.swaps...)
					r.Words = r.words(reverse)
					return r
				}
			}
		}
	}
}

// route is an order of leads and the exchanges that lead to it.
type route struct {
	order Order
	leads [4]int
	swaps []Swap
}

// further lists what one exchange more leads to. Every order of four leads is
// reached by three.
func further(layer []route) []route {
	var out []route
	for _, at := range layer {
		for a := range 4 {
			for b := a + 1; b < 4; b++ {
				next := at
				next.swaps = append(append([]Swap(nil), at.swaps...), Swap{a + 1, b + 1})
				next.order[a], next.order[b] = next.order[b], next.order[a]
				next.leads[a], next.leads[b] = next.leads[b], next.leads[a]
				out = append(out, next)
			}
		}
	}
	return out
}

func (r Repinning) words(reverse bool) string {
	var out string
	switch {
	case r.Now == Buzzes:
		out = "Straight through, the coils are split over the driver's pairs: the motor buzzes and does not turn."
	case reverse:
		out = "Straight through, each coil sits on a pair; turned over, the motor goes the other way."
	default:
		return "Straight through, each coil sits on one of the driver's pairs: nothing to swap. Should it turn the " +
			"wrong way, swap the two leads of one coil."
	}
	for _, s := range r.Swaps {
		out += fmt.Sprintf(" Swap the leads on pins %d and %d.", s.A, s.B)
	}
	return out
}
