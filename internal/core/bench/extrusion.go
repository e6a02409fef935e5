package bench

import (
	"fmt"
	"math"
)

// Inputs that several sums of the extruder ask for.
var (
	askedLength = Input{Key: "asked", Label: "Filament asked for", Unit: "mm", Min: 1, Max: 1000, Default: "100"}
	delivered   = Input{Key: "delivered", Label: "Filament that came", Unit: "mm", Min: 0, Max: 2000,
		Hint: "Mark the filament, measure how far the mark went"}
	stepAngle = Input{Key: "angle", Label: "Step angle of the motor", Unit: "°", Min: 0.1, Max: 90,
		Usual: [2]float64{0.9, 1.8}, Default: "1.8"}
	microsteps = Input{Key: "microsteps", Label: "Microsteps", Min: 1, Max: 256, Default: "16"}
	motorTeeth = Input{Key: "driven", Label: "Teeth of the driven gear", Min: 1, Max: 500, Default: "1",
		Hint: "1 and 1 where there is no gear"}
	gearTeeth = Input{Key: "driving", Label: "Teeth of the gear on the motor", Min: 1, Max: 500, Default: "1"}
	gearWidth = Input{Key: "diameter", Label: "Effective diameter of the drive gear", Unit: "mm", Min: 1, Max: 50,
		Usual: [2]float64{6, 13}}
)

func extrusionCalculators() []Calculator {
	const group = "Extruder"
	return []Calculator{
		{
			Key: "steps-feed", Title: "Steps/mm from a feed", Group: group,
			About:  "After another extruder, motor or driver: feed a length, measure what came.",
			Source: "common practice: new = old × asked ÷ delivered",
			Inputs: []Input{
				{Key: "old", Label: "Steps/mm in force", Unit: "steps/mm", Min: 1, Max: 10000, Usual: [2]float64{50, 1000}},
				askedLength, delivered, family,
			},
			work: stepsFeed,
		},
		{
			Key: "rotation-feed", Title: "Rotation distance from a feed", Group: group,
			About:  "The hosted family states the same as steps/mm the other way round.",
			Source: "common practice: new = old × delivered ÷ asked",
			Inputs: []Input{
				{Key: "old", Label: "Rotation distance in force", Unit: "mm", Min: 0.1, Max: 500, Usual: [2]float64{4, 50}},
				askedLength, delivered,
			},
			work: rotationFeed,
		},
		{
			Key: "steps-parts", Title: "Steps/mm and rotation distance from the parts", Group: group,
			About:  "Where to begin before a feed, and to see whether a number follows from the parts.",
			Source: "common practice: e = full steps × microsteps × gear ratio ÷ (π × diameter)",
			Inputs: []Input{stepAngle, microsteps, motorTeeth, gearTeeth, gearWidth,
				{Key: "stated", Label: "Steps/mm that stand somewhere", Unit: "steps/mm", Min: 1, Max: 10000, Optional: true,
					Hint: "To see which part would have to be another one"},
			},
			work: stepsParts,
		},
		{
			Key: "rotation-convert", Title: "Rotation distance from steps/mm", Group: group,
			About:  "From a compiled or scripted machine to a hosted one.",
			Source: "common practice: rotation distance = full steps × microsteps × gear ratio ÷ steps/mm",
			Inputs: []Input{stepAngle, microsteps, motorTeeth, gearTeeth,
				{Key: "steps", Label: "Steps/mm", Unit: "steps/mm", Min: 1, Max: 10000, Usual: [2]float64{50, 1000}}},
			work: rotationConvert,
		},
		{
			Key: "step-rate", Title: "Step rate", Group: group,
			About:  "Whether the board can send steps as fast as a move asks for them.",
			Source: "common practice: steps/s = steps/mm × mm/s",
			Inputs: []Input{
				{Key: "steps", Label: "Steps/mm", Unit: "steps/mm", Min: 1, Max: 10000, Usual: [2]float64{20, 1000}},
				{Key: "speed", Label: "Fastest move", Unit: "mm/s", Min: 0.1, Max: 2000},
				{Key: "limit", Label: "What the board can send", Unit: "kHz", Min: 1, Max: 10000, Optional: true,
					Hint: "From its build or its data"},
			},
			work: stepRate,
		},
	}
}

// nothingCame is the fault where a feed delivered nothing.
func nothingCame(v Values) error {
	if v.Number("delivered") > 0 {
		return nil
	}
	return fault("delivered", "nothing came, and no number of steps makes up for that: look for a blocked nozzle, "+
		"a hotend too cold, a current too low or an idler that does not press")
}

// farOff asks about a feed that is far from what was asked.
func farOff(asked, came float64) []string {
	ratio := came / asked
	if ratio > 0.8 && ratio < 1.25 {
		return nil
	}
	why := Suspect(came, asked)
	if why == "" {
		why = "A slip of the ruler, slipping filament, or another part than the record has"
	}
	return []string{fmt.Sprintf("%s mm came of %s mm asked for: %s. Feed once more before it is kept.", Rounded(came),
		Rounded(asked), why)}
}

func stepsFeed(v Values) (Result, error) {
	if err := nothingCame(v); err != nil {
		return Result{}, err
	}
	old, asked, came := v.Number("old"), v.Number("asked"), v.Number("delivered")
	e := old * asked / came
	r := Result{
		Figures: []Figure{figure("steps", "New steps/mm", e, "steps/mm"),
			figure("change", "Change", 100*(e/old-1), "%")},
		Formula: []string{fmt.Sprintf("%s × %s ÷ %s = %s steps/mm", Rounded(old), Rounded(asked), Rounded(came),
			Rounded(e))},
		Questions: farOff(asked, came),
		Next:      "Enter it, store it, feed once more: what comes should be what is asked, within 1 %.",
	}
	switch v.Word("family") {
	case "compiled":
		r.Lines = []string{fmt.Sprintf("M92 E%.2f", e), "M500"}
	case "scripted":
		r.Lines = []string{fmt.Sprintf("M92 E%.2f", e)}
		r.Remarks = []string{"It stays only in the script that runs at start."}
	case "hosted":
		r.Remarks = []string{"The hosted family takes a rotation distance: it rejects M92."}
	}
	return r, nil
}

func rotationFeed(v Values) (Result, error) {
	if err := nothingCame(v); err != nil {
		return Result{}, err
	}
	old, asked, came := v.Number("old"), v.Number("asked"), v.Number("delivered")
	d := old * came / asked
	return Result{
		Figures: []Figure{figure("rotation", "New rotation distance", d, "mm"), figure("change", "Change", 100*(d/old-1),
			"%")},
		Formula:   []string{fmt.Sprintf("%s × %s ÷ %s = %s mm", Rounded(old), Rounded(came), Rounded(asked), Rounded(d))},
		Questions: farOff(asked, came),
		Lines:     []string{"[extruder]", fmt.Sprintf("rotation_distance: %.4f", d)},
		Next:      "Write it into the configuration, restart, feed once more.",
	}, nil
}

// driveOf is the drive of the typed parts.
func driveOf(v Values) Drive {
	return Drive{StepAngle: v.Number("angle"), Microsteps: v.Number("microsteps"),
		Ratio: v.Number("driven") / v.Number("driving"), Diameter: v.Number("diameter")}
}

func stepsParts(v Values) (Result, error) {
	d := driveOf(v)
	e := d.StepsPerMM()
	r := Result{
		Figures: []Figure{
			figure("steps", "Steps/mm", e, "steps/mm"),
			figure("rotation", "Rotation distance", math.Pi*d.Diameter, "mm"),
			figure("ratio", "Gear ratio", d.Ratio, ""),
		},
		Formula: []string{
			fmt.Sprintf("360 ÷ %s × %s × %s ÷ (π × %s) = %s steps/mm", Rounded(d.StepAngle), Rounded(d.Microsteps),
				Rounded(d.Ratio), Rounded(d.Diameter), Rounded(e)),
			fmt.Sprintf("π × %s = %s mm", Rounded(d.Diameter), Rounded(math.Pi*d.Diameter)),
		},
		Next: "Begin with it, then feed a length and correct: teeth sink into the filament.",
	}
	stated := v.Number("stated")
	if stated == 0 {
		return r, nil
	}
	if !d.Contradicted(stated) {
		r.Remarks = append(r.Remarks, fmt.Sprintf("%s steps/mm follows from these parts, within 5 %%.", Rounded(stated)))
		return r, nil
	}
	r.Figures = append(r.Figures, figure("diameter", "Drive gear that would give it", d.GearDiameter(stated), "mm"))
	r.Remarks = append(r.Remarks,
		fmt.Sprintf("%s steps/mm does not follow from these parts: a finding, not a rounding matter.",
			Rounded(stated)))
	for _, x := range d.Explain(stated) {
		r.Remarks = append(r.Remarks, "It would with "+x.Why+".")
	}
	return r, nil
}

func rotationConvert(v Values) (Result, error) {
	d := driveOf(v)
	full, e := 360/d.StepAngle, v.Number("steps")
	rotation := full * d.Microsteps * d.Ratio / e
	r := Result{
		Figures: []Figure{figure("rotation", "Rotation distance", rotation, "mm")},
		Formula: []string{fmt.Sprintf("%s × %s × %s ÷ %s = %s mm", Rounded(full), Rounded(d.Microsteps), Rounded(d.Ratio),
			Rounded(e), Rounded(rotation))},
		Lines: []string{fmt.Sprintf("rotation_distance: %.4f", rotation), fmt.Sprintf("microsteps: %g", d.Microsteps),
			fmt.Sprintf("full_steps_per_rotation: %g", full)},
		Next: "Begin with it and feed a length.",
	}
	if d.Ratio != 1 {
		r.Lines = append(r.Lines, fmt.Sprintf("gear_ratio: %g:%g", v.Number("driven"), v.Number("driving")))
	}
	return r, nil
}

func stepRate(v Values) (Result, error) {
	e, speed := v.Number("steps"), v.Number("speed")
	rate := e * speed / 1000
	r := Result{
		Figures: []Figure{figure("rate", "Step rate", rate, "kHz")},
		Formula: []string{fmt.Sprintf("%s steps/mm × %s mm/s = %s kHz", Rounded(e), Rounded(speed), Rounded(rate))},
	}
	if limit := v.Number("limit"); limit > 0 {
		r.Figures = append(r.Figures, figure("fastest", "Fastest that the board can do", limit*1000/e, "mm/s"),
			figure("share", "Share of what the board can send", 100*rate/limit, "%"))
		if rate > limit {
			r.Remarks = []string{"More than the board can send: it loses steps or slows down. Fewer microsteps or a slower " +
				"move."}
		}
	}
	return r, nil
}
