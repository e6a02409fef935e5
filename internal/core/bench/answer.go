package bench

import "errors"

// ZOffsetAsked is a round of the Z-offset loop as typed.
type ZOffsetAsked struct {
	Offset  string `json:"offset" doc:"mm, in force"`
	Gap     string `json:"gap" doc:"mm, seen; may be empty when pinched"`
	Pinched bool   `json:"pinched"`
	Family  string `json:"family,omitempty" doc:"Firmware family, for the lines that store it"`
	Endstop bool   `json:"endstop,omitempty" doc:"No probe: the offset is how far the endstop was moved"`
}

// ZOffsetAnswer is one round of the loop and how to store its offset.
type ZOffsetAnswer struct {
	Round ZOffsetRound `json:"round"`
	Lines []string     `json:"lines"`
}

// Answer reads what was typed and gives the round; an error says what is wrong with it.
func (a ZOffsetAsked) Answer() (ZOffsetAnswer, error) {
	offset, err := ParseOffset(a.Offset)
	if err != nil {
		return ZOffsetAnswer{}, err
	}
	gap := 0.0
	if !a.Pinched {
		if gap, err = ParseGap(a.Gap); err != nil {
			return ZOffsetAnswer{}, err
		}
	}
	if a.Endstop {
		return ZOffsetAnswer{Round: MoveEndstop(offset, gap, a.Pinched), Lines: []string{}}, nil
	}
	round := NextZOffset(offset, gap, a.Pinched)
	lines := StoreZOffset(a.Family, round.Next)
	if lines == nil {
		lines = []string{}
	}
	return ZOffsetAnswer{Round: round, Lines: lines}, nil
}

// Sum is what a calculator comes to, or what is wrong with what was typed.
type Sum struct {
	Result *Result           `json:"result,omitempty"`
	Faults map[string]string `json:"faults" doc:"Sentences, by input"`
}

// Sum does the sum with what was typed: what is wrong with single inputs is part of the answer;
// an error is of all of them together.
func (c Calculator) Sum(typed map[string]string) (Sum, error) {
	r, err := c.Work(typed)
	if faults, ok := errors.AsType[Faults](err); ok {
		return Sum{Faults: faults}, nil
	}
	return Sum{Result: &r, Faults: map[string]string{}}, err
}
