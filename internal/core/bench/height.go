package bench

import (
	"fmt"
	"math"
)

func heightCalculators() []Calculator {
	const group = "Z height"
	offset := Input{Key: "offset", Label: "Offset in force", Unit: "mm", Min: -maxOffset, Max: maxOffset,
		Hint: "As this family writes it: negative in compiled firmware, the trigger height in the others"}
	return []Calculator{
		{
			Key: "z-offset-gap", Title: "Z offset from the gap", Group: group,
			About:  "One round of the loop: home, Z to 0, see the gap, set, home again.",
			Source: "common practice: compiled new = old − gap; hosted and scripted new = old + gap",
			Inputs: []Input{family, offset,
				{Key: "gap", Label: "Gap seen at Z 0", Unit: "mm", Min: -maxGap, Max: maxGap, Usual: [2]float64{-0.5, 4},
					Hint: "Negative where the nozzle presses"}},
			work: zOffsetRound,
		},
		{
			Key: "another-surface", Title: "Another build surface", Group: group,
			About: "What a thicker or thinner sheet does to the offset or the endstop, before power goes on.",
			Source: "common practice: a probe that touches the surface keeps its offset; any other moves by the thickness " +
				"difference",
			Inputs: []Input{
				{Key: "senses", Label: "How the machine finds Z 0", Default: "metal", Choices: choices("touch",
					"a probe that touches the surface", "metal", "a probe that senses the metal under it", "endstop",
					"an endstop, no probe")},
				{Key: "before", Label: "Thickness of the surface before", Unit: "mm", Min: 0, Max: 20, Usual: [2]float64{0, 6}},
				{Key: "after", Label: "Thickness of the new one", Unit: "mm", Min: 0, Max: 20, Usual: [2]float64{0, 6}},
				{Key: "offset", Label: "Offset in force", Unit: "mm", Min: -maxOffset, Max: maxOffset,
					When: &When{"senses", []string{"metal"}}},
				{Key: "reach", Label: "How far the probe senses", Unit: "mm", Min: 0.1, Max: 20, Optional: true,
					When: &When{"senses", []string{"metal"}}},
				{Key: "family", Label: "Firmware family", Default: "compiled", Choices: family.Choices,
					When: &When{"senses", []string{"metal"}}},
			},
			work: anotherSurface,
		},
	}
}

// offsetSign is the sign with which a family writes the way of the nozzle down: compiled
// firmware as a negative offset, the others as a positive trigger height.
func offsetSign(family string) float64 {
	if family == "compiled" {
		return -1
	}
	return 1
}

func zOffsetRound(v Values) (Result, error) {
	old, gap, sign := v.Number("offset"), v.Number("gap"), offsetSign(v.Word("family"))
	next := InFamily(v.Word("family"), NextZOffset(InFamily(v.Word("family"), old), gap, false).Next)
	mark := "+"
	if sign < 0 {
		mark = "−"
	}
	r := Result{
		Figures: []Figure{figure("offset", "Offset to try next", next, "mm"), figure("down", "Nozzle goes down by", gap,
			"mm")},
		Formula: []string{fmt.Sprintf("%s %s %s = %s mm", signed(old), mark, bracketed(gap), signed(next))},
		Lines:   StoreZOffset(v.Word("family"), InFamily(v.Word("family"), next)),
		Next: "Store it, home again (never trust that it moved), Z to 0, look again, until paper of 0.1 mm is " +
			"lightly pinched.",
	}
	if math.Abs(next) > maxOffset {
		return Result{}, fault("gap",
			"the next offset would be %s mm: the loop runs away. Home, see that the probe triggers, and "+
				"begin with the sign that this family uses", signed(next))
	}
	if old != 0 && next != 0 && math.Signbit(old) != math.Signbit(next) {
		r.Questions = []string{"The offset changes its sign: is it written as this family writes it?"}
	}
	if gap < 0 {
		r.Cautions = []string{"The nozzle presses on the surface: raise Z before anything moves sideways."}
	}
	return r, nil
}

func anotherSurface(v Values) (Result, error) {
	change := v.Number("after") - v.Number("before")
	diff := fmt.Sprintf("%s − %s = %s mm", Rounded(v.Number("after")), Rounded(v.Number("before")), Rounded(change))
	r := Result{Figures: []Figure{figure("change", "Thicker by", change, "mm")}, Formula: []string{diff}}
	higher := "higher"
	if change < 0 {
		higher = "lower"
	}
	switch v.Word("senses") {
	case "touch":
		r.Next = "The probe follows the surface: the offset stays. Check it with paper all the same."
	case "endstop":
		r.Figures = append(r.Figures, figure("endstop", "Endstop goes up by", change, "mm"))
		if change != 0 {
			r.Next = fmt.Sprintf("Set the endstop %s mm %s before power goes on; then paper at the corners.",
				Rounded(math.Abs(change)),
				higher)
		}
		if change > 0 {
			r.Cautions = []string{"With the endstop as it is, the nozzle would be driven into the new surface at homing."}
		}
	case "metal":
		sign := offsetSign(v.Word("family"))
		old := v.Number("offset")
		next := math.Round((old-sign*change)*100) / 100
		r.Figures = append([]Figure{figure("offset", "New offset", next, "mm")}, r.Figures...)
		r.Formula = append(r.Formula, fmt.Sprintf("%s %s %s = %s mm", signed(old), map[bool]string{true: "+",
			false: "−"}[sign < 0],
			bracketed(change), signed(next)))
		r.Lines = StoreZOffset(v.Word("family"), InFamily(v.Word("family"), next))
		r.Next = "Enter it before the first homing with the new surface; then check with paper."
		if reach := v.Number("reach"); reach > 0 && v.Number("after") >= reach {
			r.Cautions = append(r.Cautions,
				fmt.Sprintf("The probe senses %s mm: through %s mm of surface it finds no metal, and the "+
					"nozzle is driven into the bed.", Rounded(reach), Rounded(v.Number("after"))))
		}
		if change > 0 {
			r.Cautions = append(r.Cautions, "With the old offset the nozzle would press into the new surface.")
		}
	}
	return r, nil
}
