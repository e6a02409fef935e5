package bench

import (
	"errors"
	"fmt"
	"math"

	"wardifex/internal/core/machine"
	"wardifex/internal/core/quantity"
)

// Bounds of the Z-offset loop, in mm. Nobody sees a gap of centimetres under a
// nozzle that has gone to Z 0 with its probe working; such a number is a slip
// or a probe that did not trigger. Source: common practice.
const (
	maxGap    = 10.0
	maxOffset = 20.0
)

// PaperThickness is the sheet pinched under the nozzle, in mm. Source: common
// practice.
const PaperThickness = 0.1

// ZOffsetRound is one turn of the loop: the offset in force, and the gap seen
// under the nozzle at Z 0 after homing.
type ZOffsetRound struct {
	Offset  float64 `json:"offset" doc:"mm; negative moves the nozzle down"`
	Gap     float64 `json:"gap" doc:"mm between nozzle and surface at Z 0; negative when the nozzle presses"`
	Pinched bool    `json:"pinched" doc:"Paper of 0.1 mm is lightly pinched"`
	Next    float64 `json:"next" doc:"mm; the offset to try next: offset − gap"`
	Formula string  `json:"formula"`
}

// ParseGap reads a gap as typed, in mm, with point or comma.
func ParseGap(text string) (float64, error) {
	gap, err := parseMillimetres(text)
	if err != nil {
		return 0, err
	}
	if math.Abs(gap) > maxGap {
		return 0, fmt.Errorf(
			"a gap of %s mm is more than this loop is for (%g mm either way): the probe probably did not trigger, or the "+
				"machine was not homed; home again and look. A gap is typed in millimetres, such as 0.7",
			quantity.Format(gap),
			maxGap,
		)
	}
	return gap, nil
}

// ParseOffset reads a Z offset as typed, in mm, with point or comma.
func ParseOffset(text string) (float64, error) {
	offset, err := parseMillimetres(text)
	if err != nil {
		return 0, err
	}
	if math.Abs(offset) > maxOffset {
		return 0, fmt.Errorf(
			"an offset of %s mm cannot be right: between probe and nozzle there are at most %g mm; it is typed in "+
				"millimetres, such as −2.70",
			quantity.Format(offset),
			maxOffset,
		)
	}
	return offset, nil
}

var length = machine.Trait{Label: "Length", TraitDef: machine.TraitDef{Kind: machine.Number, Unit: "mm"}}

func parseMillimetres(text string) (float64, error) {
	v, err := length.ParseRecorded(text)
	if err != nil {
		return 0, fmt.Errorf("%q is not a length; type millimetres, such as 0.7 or −2.70", text)
	}
	return v.Number, nil
}

// NextZOffset gives the round's next offset: old offset − gap, in mm, rounded
// to the hundredth that firmware keeps. Source: common practice.
func NextZOffset(offset, gap float64, pinched bool) ZOffsetRound {
	r := ZOffsetRound{Offset: offset, Gap: gap, Pinched: pinched, Next: math.Round((offset-gap)*100) / 100}
	if pinched {
		r.Next = offset
		r.Formula = fmt.Sprintf("paper pinched at %s mm: this is the offset", signed(offset))
		return r
	}
	r.Formula = fmt.Sprintf("next = offset − gap = %s − %s = %s mm", signed(offset), bracketed(gap), signed(r.Next))
	return r
}

// MoveEndstop is the round where no probe is fitted: the endstop goes down by the gap. Offsets
// are how far it was moved since the loop began, in mm, down negative. Source: common practice.
func MoveEndstop(moved, gap float64, pinched bool) ZOffsetRound {
	r := NextZOffset(moved, gap, pinched)
	way := "down"
	if gap < 0 {
		way = "up"
	}
	r.Formula = fmt.Sprintf("endstop %s by %.2f mm: %s − %s = %s mm since it began", way, math.Abs(gap), signed(moved),
		bracketed(gap), signed(r.Next))
	if pinched {
		r.Formula = fmt.Sprintf("paper pinched: the endstop was moved by %s mm", signed(moved))
	}
	return r
}

// FinishZOffset gives the final offset of a loop, or says why it is not yet
// one: the loop ends with paper pinched at the offset in force after homing,
// because nobody may trust that an offset just typed has taken effect.
func FinishZOffset(rounds []ZOffsetRound) (float64, error) {
	if len(rounds) == 0 {
		return 0, errors.New("no gap has been looked at yet: home, go to Z 0, and type the gap you see")
	}
	last := rounds[len(rounds)-1]
	if !last.Pinched {
		return 0, fmt.Errorf(
			"set %s mm, home again, go to Z 0, and try the paper once more: the loop ends when paper is lightly pinched",
			signed(last.Next),
		)
	}
	return last.Offset, nil
}

// SetZOffset gives the lines that put an offset into a machine of a firmware
// family, before it is stored. Compiled builds take the offset with its sign; the hosted and the
// scripted family state the same distance as the probe's trigger height above
// the nozzle, so with the other sign. Source: from memory.
func SetZOffset(family string, offset float64) []string {
	switch family {
	case "compiled":
		return []string{fmt.Sprintf("M851 Z%.2f", offset)}
	case "hosted":
		return []string{"[probe]", fmt.Sprintf("z_offset: %.2f", InFamily(family, offset))}
	case "scripted":
		return []string{fmt.Sprintf("G31 Z%.2f", InFamily(family, offset))}
	}
	return nil
}

// StoreZOffset gives those lines with the one that stores the offset, where a family has one.
func StoreZOffset(family string, offset float64) []string {
	lines := SetZOffset(family, offset)
	if family == "compiled" {
		lines = append(lines, "M500")
	}
	return lines
}

// InFamily is an offset, in mm, as a family writes it: with its sign in the compiled family and
// where the family is not known, as a trigger height in the others. Taken twice it is the offset
// again.
func InFamily(family string, offset float64) float64 {
	if family == "hosted" || family == "scripted" {
		return -offset
	}
	return offset
}

func signed(mm float64) string {
	if mm < 0 {
		return fmt.Sprintf("−%.2f", -mm)
	}
	return fmt.Sprintf("%.2f", mm)
}

func bracketed(mm float64) string {
	if mm < 0 {
		return "(" + signed(mm) + ")"
	}
	return signed(mm)
}
