package printfile

import (
	"fmt"
	"strings"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
)

// slack is by how much a print may stick out of the volume on record: coordinates are rounded, and
// lines have a width. Source: from memory.
const slack = 0.5 // mm

// touching is how far over the bed, mm, a nozzle is that has no room for plastic under it: coordinates are
// rounded. Source: from memory.
const touching = 0.001

// volume holds the room that is really used against that of the machine.
func (j *judge) volume() {
	frame := j.m.Facts.First(parts.Frame)
	width, depth, calibrated := calibration.PrintAreaOf(j.m.Facts, j.m.Records)
	var unknown []string
	for axis, name := range []machine.TraitOf{parts.FrameX, parts.FrameY, parts.FrameZ} {
		j.below(axis)
		_, high, uses := j.p.Used.Bounds(axis)
		room, known := j.m.Facts.Number(frame, name)
		if axis < 2 && calibrated {
			if area := []float64{width, depth}[axis]; !known || area < room {
				room, known = area, true
			}
		}
		switch {
		case known:
			j.above(axis, room)
		case uses:
			unknown = append(unknown, "XYZ"[axis:axis+1]+" "+mm(high))
		}
	}
	if len(unknown) > 0 {
		j.say("size-unknown", Look, 0,
			"it prints up to %s, and the machine's size there is not on record", strings.Join(unknown, ", "))
	}
}

// above is what lies beyond the far end of an axis that has so much room.
func (j *judge) above(axis int, room float64) {
	letter := "XYZ"[axis : axis+1]
	_, high, uses := j.p.Used.Bounds(axis)
	if at := first(j.p.Used.High[axis], room+slack, true); at != nil {
		j.say("prints-too-far", Stop, at.Line,
			"it prints up to %s in %s, and the machine has %s%s", mm(high), letter, mm(room),
			j.byShift(axis, at))
	}
	at := first(j.p.Reach.High[axis], room+slack, true)
	if at == nil || uses && high > room+slack {
		return
	}
	_, to, _ := j.p.Reach.Bounds(axis)
	if by := j.byShift(axis, at); by != "" {
		j.say("moves-too-far", Stop, at.Line,
			"it moves to %s in %s, and the machine has %s%s", mm(to), letter, mm(room), by).Hazard = driven
		return
	}
	if !uses {
		return
	}
	j.say("stops-at-end", Note, at.Line,
		"it moves to %s in %s without printing there; the machine has %s and stops at its end",
		mm(to), letter, mm(room))
}

const (
	driven  = "A machine that does not know where it is drives against the end of its travel."
	intoBed = "The nozzle is driven into the bed: it scratches the surface, bends the gantry or breaks the probe."
)

// below is what lies before the near end of an axis, and below the bed.
func (j *judge) below(axis int) {
	low, _, uses := j.p.Used.Bounds(axis)
	limit := -slack
	if axis == 2 {
		limit = -touching
	}
	if at := first(j.p.Used.Low[axis], limit, false); at != nil {
		by := j.byShift(axis, at)
		if axis < 2 {
			j.say("prints-beside-bed", Stop, at.Line,
				"it prints down to %s in %s, which is beside the bed%s", mm(low), "XY"[axis:axis+1], by)
			return
		}
		j.say("prints-below-bed", Stop, at.Line,
			"it prints down to Z %s, which is below the bed%s", mm(low), by).Hazard = intoBed
		return
	}
	if axis == 2 && uses && low <= touching {
		at := first(j.p.Used.Low[2], 2*touching, false)
		j.say("prints-on-bed", Look, at.Line,
			"it prints at Z %s, where the nozzle touches the bed and nothing comes out", mm(low)).Hazard =
			intoBed
	}
	at := first(j.p.Reach.Low[axis], limit, false)
	if at == nil {
		return
	}
	to, _, _ := j.p.Reach.Bounds(axis)
	by := j.byShift(axis, at)
	switch {
	case axis < 2 && by != "":
		j.say("moves-too-far", Stop, at.Line, "it moves down to %s in %s%s", mm(to), "XY"[axis:axis+1], by).Hazard = driven
	case axis == 2 && by != "":
		j.say("moves-below-bed", Stop, at.Line,
			"it moves down to Z %s, which is below the bed%s", mm(to), by).Hazard = intoBed
	case axis == 2:
		j.say("moves-below-bed", Look, at.Line,
			"it moves down to Z %s, which is below the bed: a machine that does not stop there drives its "+
				"nozzle into it", mm(to)).Hazard = intoBed
	}
}

// byShift says that a place follows from a shift of the coordinates before it; empty where it does not.
func (j *judge) byShift(axis int, at *Extreme) string {
	if from := j.p.Shifted[axis]; from > 0 && at.Line >= from {
		return fmt.Sprintf(", because line %d shifts its coordinates", from)
	}
	return ""
}
