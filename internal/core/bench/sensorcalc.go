package bench

import "fmt"

func sensorChoices() []Choice {
	var out []Choice
	for _, t := range sensorTypes {
		out = append(out, Choice{t.name, t.name})
	}
	return out
}

func sensorOf(name string) sensorType {
	for _, t := range sensorTypes {
		if t.name == name {
			return t
		}
	}
	return sensorTypes[0]
}

func sensorCalculators() []Calculator {
	const group = "Temperature"
	ohms := func(key, label string) Input {
		return Input{Key: key, Label: label, Unit: "Ω", Min: 1, Max: 2e7}
	}
	celsius := func(key, label string) Input {
		return Input{Key: key, Label: label, Unit: "°C", Min: -39, Max: 349}
	}
	return []Calculator{
		{
			Key: "sensor-type", Title: "Which sensor is it?", Group: group,
			About:  "From its resistance at two temperatures: one alone does not tell the commonest thermistors apart.",
			Source: "IEC 60751 (platinum); β model, β of the two thermistors from memory",
			Inputs: []Input{ohms("cold-ohms", "Resistance, cold"), celsius("cold", "at"), ohms("warm-ohms", "Resistance, warm"),
				celsius("warm", "at")},
			work: sensorKind,
		},
		{
			Key: "wrong-sensor", Title: "How wrong a wrong sensor setting is", Group: group,
			About:  "What the machine shows when its build believes in another sensor than the one that is fitted.",
			Source: "IEC 60751 (platinum); β model, β of the two thermistors from memory",
			Inputs: []Input{
				{Key: "is", Label: "Sensor that is fitted", Default: "104 thermistor", Choices: sensorChoices()},
				{Key: "believed", Label: "Sensor that the build believes in", Default: "100k thermistor", Choices: sensorChoices()},
				{Key: "shown", Label: "Temperature shown", Unit: "°C", Min: 0, Max: 400, Default: "200"},
				{Key: "lead", Label: "Resistance of the leads", Unit: "Ω", Min: 0, Max: 20, Default: "0"},
			},
			work: wrongSensor,
		},
	}
}

func sensorKind(v Values) (Result, error) {
	cold := Point{v.Number("cold-ohms"), v.Number("cold")}
	warm := Point{v.Number("warm-ohms"), v.Number("warm")}
	if cold.Celsius == warm.Celsius {
		return Result{}, fault("warm", "both points are at %s °C: warm the sensor and measure again", Rounded(cold.Celsius))
	}
	f, err := IdentifySensor(cold, warm)
	if err != nil {
		return Result{}, fault("warm-ohms", "%s", err)
	}
	r := Result{Formula: []string{f.Arithmetic}, Remarks: []string{f.Sentence},
		Next: "Set this sensor in the build, then test the " +
			"thermal-runaway protection anew: a changed sensor makes its proof invalid."}
	if falls := cold.Ohms > warm.Ohms == (cold.Celsius < warm.Celsius); falls {
		r.Figures = append(r.Figures, figure("beta", "β", Beta(cold, warm), "K"))
	} else {
		r.Figures = append(r.Figures, figure("slope", "Rises by", (warm.Ohms-cold.Ohms)/(warm.Celsius-cold.Celsius), "Ω/°C"))
	}
	for _, w := range f.Wrong {
		if w.Hotter > 5 {
			r.Cautions = append(r.Cautions,
				fmt.Sprintf("A build that believes in %s shows %s °C at a true 200 °C: the hotend is %s °C "+
					"hotter than shown.", w.Believes, Rounded(w.Shows), Rounded(w.Hotter)))
		}
	}
	return r, nil
}

// hazardous is by how much, in °C, a hotend may be hotter than shown before it is a fire and
// fume hazard rather than a bad print. Source: common practice.
const hazardous = 10

func wrongSensor(v Values) (Result, error) {
	is, believed := sensorOf(v.Word("is")), sensorOf(v.Word("believed"))
	shown := v.Number("shown")
	seen := believed.ohms(shown)
	at := seen - v.Number("lead")
	if at <= 0 {
		return Result{}, fault("lead", "the leads alone have more than the %s Ω that the build sees", Rounded(seen))
	}
	real := is.back(at)
	r := Result{
		Figures: []Figure{figure("real", "It is really", real, "°C"), figure("off", "Hotter than shown by", real-shown, "°C"),
			figure("ohms", "Resistance seen", seen, "Ω")},
		Formula: []string{fmt.Sprintf("%s at %s °C is %s Ω; less the leads' %s Ω, %s has that at %s °C", believed.name,
			Rounded(shown),
			Rounded(seen), Rounded(v.Number("lead")), is.name, Rounded(real))},
		Next: "Find out the sensor by its marking, or by its resistance at two temperatures.",
	}
	switch {
	case real-shown > hazardous:
		r.Cautions = []string{fmt.Sprintf("The hotend is %s °C hotter than shown: a fire and a fume hazard (PTFE above "+
			"its rating). Do not "+
			"heat before the sensor is set right.", Rounded(real-shown))}
	case shown-real > hazardous:
		r.Remarks = []string{"Colder than shown: it prints badly and blocks, and is no hazard by itself."}
	}
	return r, nil
}
