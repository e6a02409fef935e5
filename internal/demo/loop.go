package demo

import (
	"fmt"

	"wardifex/internal/core/bench"
	"wardifex/internal/core/calibration"
	"wardifex/internal/core/change"
)

// loop is a Z-offset loop of two rounds: the gap seen at the offset, then paper
// pinched at the next.
func loop(bed, soak string, offset, gap float64) change.Data {
	first := bench.NextZOffset(offset, gap, false)
	second := bench.NextZOffset(first.Next, 0, true)
	return change.Data{
		BedTemperature: bed,
		SoakMinutes:    soak,
		StartOffset:    fmt.Sprint(offset),
		Rounds:         []bench.ZOffsetRound{first, second},
		Store:          calibration.StoreSettings,
	}
}
