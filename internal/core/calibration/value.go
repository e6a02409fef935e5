package calibration

import (
	"errors"
	"fmt"
	"math"
	"regexp"
	"slices"
	"strings"

	"wardifex/internal/core/bench"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
	"wardifex/internal/core/quantity"
)

// Write writes a value of its parts as typed: "P 21.7 I 1.6 D 74", "X −24 Y −12 mm". The
// error names the part that is missing or no number.
func (c Calibration) Write(typed []string) (string, error) {
	var b strings.Builder
	for i, p := range c.Parts {
		text := ""
		if i < len(typed) {
			text = strings.TrimSpace(typed[i])
		}
		n, err := quantity.In(text, p.Unit, quantity.Unsaid, 0, 0)
		if err != nil {
			return "", fmt.Errorf("%s, %s: type a number%s: %w", c.Title, p.Name, inUnit(p.Unit), err)
		}
		if i > 0 {
			b.WriteByte(' ')
		}
		fmt.Fprintf(&b, "%s %s", p.Name, quantity.Format(n))
	}
	if c.Unit != "" {
		b.WriteString(" " + c.Unit)
	}
	return b.String(), nil
}

func inUnit(unit string) string {
	if unit == "" {
		return ""
	}
	return " in " + unit
}

var (
	number   = regexp.MustCompile(`[-−+]?\d+(?:[.,]\d+)?`)
	lettered = map[machine.Place]string{machine.Axis("x"): "X", machine.Axis("y"): "Y"}
)

// Numbers are those that a value says: one for each part, or the one of an axis where a
// value tells several. It is nil where they cannot be read, as in "6 × 6, spread 0.2 mm".
func (c Calibration) Numbers(x Subject, value string) []float64 {
	if len(c.Parts) > 0 {
		var out []float64
		for _, p := range c.Parts {
			n, ok := after(p.Name, value)
			if !ok {
				return nil
			}
			out = append(out, n)
		}
		return out
	}
	if letter := lettered[x.Place()]; letter != "" {
		if n, ok := after(letter, value); ok {
			return []float64{n}
		}
	}
	word, _, _ := strings.Cut(value, " ")
	if n, err := quantity.Recorded(word); err == nil {
		return []float64{n}
	}
	return nil
}

// after is the number that follows a name: 21.7 of "P 21.7" or "P=21.7".
func after(name, value string) (float64, bool) {
	m := regexp.MustCompile(`(?i)(?:^|[^a-z])` + regexp.QuoteMeta(name) + `\s*[:=]?\s*(` + number.String() + `)`).
		FindStringSubmatch(value)
	if m == nil {
		return 0, false
	}
	n, err := quantity.Recorded(m[1])
	return n, err == nil
}

// ErrAsk is of a value that is not what such a machine plausibly has: it is asked for
// once more, and taken when the person says that it is right.
var ErrAsk = errors.New("is that right? Say so if it is, else type it again")

// ask is a question about a value.
type ask struct{ says string }

func (a ask) Error() string { return a.says + ": " + ErrAsk.Error() }
func (a ask) Unwrap() error { return ErrAsk }

// bounds are what a number plausibly is, both ends included.
type bounds struct {
	min, max float64
	why      string
}

func (b bounds) holds(n float64) bool { return n >= b.min && n <= b.max }

// Plausible asks about numbers that such a machine plausibly does not have; the error is
// ErrAsk. What is plausible follows from the machine's parts, as far as they are known;
// else it is what is common. Source of the common bounds: from memory.
func (c Calibration) Plausible(s machine.Snapshot, x Subject, value string) error {
	numbers := c.Numbers(x, value)
	for i, b := range c.bounds(s, x) {
		if i >= len(numbers) || b.holds(numbers[i]) {
			continue
		}
		name := c.On(s, x)
		if len(c.Parts) > 1 {
			name += ", " + c.Parts[i].Name
		}
		return ask{fmt.Sprintf("%s of %s is outside of %s to %s%s (%s)", name, quantity.Format(numbers[i]),
			quantity.Format(round(b.min)), quantity.Format(round(b.max)), unitAfter(c.Unit), b.why)}
	}
	return nil
}

func unitAfter(unit string) string {
	if unit == "" {
		return ""
	}
	return " " + unit
}

func round(n float64) float64 { return math.Round(n*100) / 100 }

const usual = "common on such machines"

func (c Calibration) bounds(s machine.Snapshot, x Subject) []bounds {
	switch c.Kind {
	case Steps:
		for _, e := range s.Structure().At(parts.Extruder, x.Place()) {
			if n := bench.DriveOf(s, e).StepsPerMM(); n > 0 {
				return []bounds{{n * (1 - bench.Agree), n * (1 + bench.Agree), fmt.Sprintf("its parts give %.1f", n)}}
			}
		}
		return []bounds{{50, 2500, usual}}
	case AxisSteps:
		if d, ok := bench.AxisDriveOf(s, x.Place()); ok {
			n := d.StepsPerMM
			return []bounds{{n * (1 - bench.Agree), n * (1 + bench.Agree), fmt.Sprintf("from its %s: %.1f", d.By, n)}}
		}
		return []bounds{{10, 4000, usual}}
	case HotendPID:
		return []bounds{{1, 200, usual}, {0.01, 60, usual}, {1, 1500, usual}}
	case BedPID:
		return []bounds{{1, 2000, usual}, {0.01, 500, usual}, {0, 6000, usual}}
	case ProbeXY:
		return []bounds{{-150, 150, usual}, {-150, 150, usual}}
	case Nozzles:
		return []bounds{{-400, 400, usual}, {-400, 400, usual}}
	case ZOffset:
		return []bounds{{-12, 2, "negative moves the nozzle down"}}
	case Resonance:
		return []bounds{{8, 220, usual}}
	case Retraction:
		for _, tube := range s.Structure().At(parts.Tube, x.Place()) {
			if mm, ok := s.Number(tube, parts.TubeLength); ok && mm < DirectTube {
				return []bounds{{0.2, 3.5, fmt.Sprintf("its tube is %s mm long", quantity.Format(mm))}}
			} else if ok {
				return []bounds{{2, 14, fmt.Sprintf("its tube is %s mm long", quantity.Format(mm))}}
			}
		}
		return []bounds{{0.2, 14, usual}}
	case LoadLength:
		fast := bounds{0, 2500, usual}
		for _, tube := range s.Structure().At(parts.Tube, x.Place()) {
			if mm, ok := s.Number(tube, parts.TubeLength); ok {
				fast = bounds{
					0,
					mm + 100,
					fmt.Sprintf("its tube is %s mm long, and the fast part ends short of the nozzle", quantity.Format(mm)),
				}
			}
		}
		return []bounds{{0, 150, usual}, fast, {0, 300, usual}}
	case Current:
		if motor := x.position(s, parts.Motor); motor != nil {
			if amps, ok := s.Number(motor, parts.MotorCurrent); ok {
				shared := float64(max(1, motorsOn(s, motor)))
				return []bounds{
					{0.2 * amps, amps * shared * (1 + currentSlack), fmt.Sprintf("its motor is rated %s A", quantity.Format(amps))},
				}
			}
		}
		return []bounds{{0.1, 4, usual}}
	}
	return nil
}

// motorsOn is how many motors hang on the driver of one.
func motorsOn(s machine.Snapshot, motor *machine.Position) int {
	driver, n := s.Structure().FedBy(motor).To, 0
	for _, m := range s.Each(parts.Motor) {
		if driver != nil && s.Structure().FedBy(m).To == driver && there(s, m) {
			n++
		}
	}
	return n
}

// NumberOf is the one number of a valid calibration of a kind, of the first subject
// that has one; 0 where there is none.
func NumberOf(s machine.Snapshot, records []Record, k Kind, x ...Subject) float64 {
	c, _ := Of(k)
	for _, y := range c.Subjects(s) {
		if len(x) > 0 && !slices.Contains(x, y) {
			continue
		}
		if st := StateOf(s, records, c, y); st.Word == Valid {
			if n := c.Numbers(y, st.Record.Value); len(n) == 1 {
				return n[0]
			}
		}
	}
	return 0
}
