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
		switch {
		case w.RunsAway:
			r.Cautions = append(r.Cautions, fmt.Sprintf("A build that believes in %s shows less the hotter it gets: it heats "+
				"on until a protection trips.", w.Believes))
		case w.Hotter > 5:
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
	m := mistaken{is: sensorOf(v.Word("is")), believed: sensorOf(v.Word("believed")), lead: v.Number("lead")}
	shown := v.Number("shown")
	seen := m.believed.ohms(shown)
	if seen <= m.lead {
		return Result{}, fault("lead", "the leads alone have more than the %s Ω that the build sees", Rounded(seen))
	}
	cold, where := m.shows(room)
	r := Result{
		Formula: []string{fmt.Sprintf("%s at %s °C is %s Ω", m.believed.name, Rounded(shown), Rounded(seen))},
		Next:    "Find out the sensor by its marking, or by its resistance at two temperatures.",
	}
	real, what := m.heatTo(shown)
	if what == reaches {
		r.Figures = append(r.Figures, figure("real", "It is really", real, "°C"),
			figure("off", "Hotter than shown by", real-shown, "°C"))
		r.Formula[0] += fmt.Sprintf("; less the leads' %s Ω, %s has that at %s °C", Rounded(m.lead), m.is.name, Rounded(real))
	}
	r.Figures = append(r.Figures, figure("ohms", "Resistance seen", seen, "Ω"))
	if where == onScale {
		r.Figures = append(r.Figures, figure("cold", fmt.Sprintf("Shown in a room of %g °C", room), cold, "°C"))
	}
	m.warn(&r, shown, where)
	return r, nil
}

// warn says what follows from the error at a shown temperature, and over the whole range of temperatures that a
// machine is set to.
func (m mistaken) warn(r *Result, shown float64, cold scale) {
	caution := func(format string, with ...any) { r.Cautions = append(r.Cautions, fmt.Sprintf(format, with...)) }
	switch cold {
	case belowScale:
		caution("Cold, it reads below the scale of %s. A build with a minimum-temperature alarm refuses to heat; one "+
			"without it heats on. Do not heat before the sensor is set right.", m.believed.name)
	case aboveScale:
		r.Remarks = append(r.Remarks, fmt.Sprintf("Cold, it reads above the scale of %s: a build with a maximum-temperature "+
			"alarm stops.", m.believed.name))
	}
	if m.opposite() {
		caution("Do not heat: the resistances of the two go opposite ways, so the number shown falls as it gets hotter. " +
			"The machine heats on until a protection trips, if it has one that works.")
		return
	}
	real, what := m.heatTo(shown)
	from, to, most := m.hotter()
	switch {
	case what == runsAway && cold != belowScale:
		caution("Do not heat: %s °C is never shown, however hot it gets. The machine heats on until a protection trips, if "+
			"it has one that works.", Rounded(shown))
	case what == reaches && real-shown > hazardous:
		caution("The hotend is %s °C hotter than shown: a fire and a fume hazard (PTFE above its rating). Do not heat "+
			"before the sensor is set right.", Rounded(real-shown))
	case most > hazardous:
		caution("Set to %s to %s °C it is hotter than shown, by up to %s °C: a fire and a fume hazard. Do not heat before "+
			"the sensor is set right.", Rounded(from), Rounded(to), Rounded(most))
	case what == staysCold:
		r.Remarks = append(r.Remarks, "It shows that much before it is warm, so it does not heat.")
	case what == reaches && shown-real > hazardous:
		r.Remarks = append(r.Remarks, "Colder than shown over its whole range: it prints badly and blocks, and is no hazard "+
			"by itself.")
	}
}

// The temperatures, in °C, that machines are set to: from warm beds to the hottest hotends. Source: common practice.
const (
	setLowest  = 40
	setHighest = 400
)

// hotter is between which set temperatures it gets hotter than shown by more than is harmless, and by how much at
// most; most is 0 where it never does. What heats on without end is hotter by all that the sensor bears.
func (m mistaken) hotter() (from, to, most float64) {
	for shown := float64(setLowest); shown <= setHighest; shown += 5 {
		real, what := m.heatTo(shown)
		if what == runsAway {
			real = m.is.hottest
		}
		if what == staysCold || real-shown <= hazardous {
			continue
		}
		if most == 0 {
			from = shown
		}
		to, most = shown, max(most, real-shown)
	}
	return from, to, most
}
