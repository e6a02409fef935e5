package settings

import (
	"fmt"
	"math"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"wardifex/internal/core/bench"
	"wardifex/internal/core/calibration"
	"wardifex/internal/core/parts"
)

// Statement is one calibrated value that settings state.
type Statement struct {
	Kind    calibration.Kind    `json:"kind"`
	Subject calibration.Subject `json:"subject"`
	Value   string              `json:"value" doc:"As it is recorded: with its unit, in the record's sign"`
	Word    string              `json:"word" doc:"As it is written there: M92 E415"`
	Line    int                 `json:"line" doc:"From 1"`
}

// Read finds the calibrated values in settings of a firmware family: a settings report or a
// script of G-code words, or sections of keys. Of a value that is there twice the last counts,
// as it does for the firmware. What it does not know it leaves alone. Source of the words and
// of what they mean in which family: from memory.
func Read(family, text string) []Statement {
	r := reader{family: family}
	if family == parts.Hosted || family == "" && sectioned.MatchString(text) {
		r.sections(text)
	} else {
		r.words(text)
	}
	return r.out
}

type reader struct {
	family string
	out    []Statement
}

var (
	sectioned = regexp.MustCompile(`(?m)^\s*\[[^\]\n]+\]\s*$`)
	parameter = regexp.MustCompile(`([A-Z])(-?\d+(?:\.\d+)?)`)
	command   = regexp.MustCompile(`^(?:echo:|Recv:)?\s*([GM]\d+)\b(.*)$`)
)

func (r *reader) add(s Statement) {
	r.out = slices.DeleteFunc(r.out, func(o Statement) bool { return o.Kind == s.Kind && o.Subject == s.Subject })
	r.out = append(r.out, s)
}

func (r *reader) words(text string) {
	for i, line := range strings.Split(text, "\n") {
		code, _, _ := strings.Cut(strings.TrimSpace(line), ";")
		found := command.FindStringSubmatch(strings.TrimSpace(code))
		if found == nil {
			continue
		}
		values := map[string]float64{}
		for _, p := range parameter.FindAllStringSubmatch(found[2], -1) {
			values[p[1]], _ = strconv.ParseFloat(p[2], 64)
		}
		r.word(found[1], values, i+1)
	}
}

func (r *reader) word(word string, v map[string]float64, line int) {
	head := calibration.Subject(fmt.Sprintf("head %d", 1+int(v["T"])))
	say := func(kind calibration.Kind, x calibration.Subject, value, written string) {
		r.add(Statement{Kind: kind, Subject: x, Value: value, Word: written, Line: line})
	}
	_, hasE := v["E"]
	z, hasZ := v["Z"]
	switch {
	case word == "M92" && hasE:
		say(calibration.Steps, head, number(v["E"])+" steps/mm", fmt.Sprintf("M92 E%s", number(v["E"])))
	case word == "M851" && r.family != parts.Scripted:
		if hasZ {
			say(calibration.ZOffset, "head 1", offset(z), fmt.Sprintf("M851 Z%s", number(z)))
		}
		r.probeXY(v, "M851", line)
	case word == "G31" && r.family == parts.Scripted:
		if hasZ {
			say(calibration.ZOffset, "head 1", offset(bench.InFamily(r.family, z)), fmt.Sprintf("G31 Z%s", number(z)))
		}
		r.probeXY(v, "G31", line)
	case word == "M301" && r.family != parts.Scripted:
		x := calibration.Subject(fmt.Sprintf("head %d", 1+int(v["E"])))
		say(calibration.HotendPID, x, pid(v), "M301 "+pidWord(v))
	case word == "M304":
		say(calibration.BedPID, "bed", pid(v), "M304 "+pidWord(v))
	case word == "M906":
		r.currents(v, line)
	}
}

func (r *reader) probeXY(v map[string]float64, word string, line int) {
	x, hasX := v["X"]
	y, hasY := v["Y"]
	if hasX && hasY {
		r.add(Statement{Kind: calibration.ProbeXY, Subject: "head 1", Value: "X " + signed(x) + " Y " + signed(y) + " mm",
			Word: fmt.Sprintf("%s X%s Y%s", word, number(x), number(y)), Line: line})
	}
}

// currents are those of drivers, mA: RMS in the compiled family, peak in the scripted one.
func (r *reader) currents(v map[string]float64, line int) {
	for _, axis := range []string{"X", "Y", "Z", "E"} {
		mA, there := v[axis]
		if !there || mA <= 0 {
			continue
		}
		amps := mA / 1000
		if r.family == parts.Scripted {
			amps /= math.Sqrt2
		}
		x := calibration.Subject("axis " + strings.ToLower(axis))
		if axis == "E" {
			x = "head 1"
		}
		r.add(Statement{Kind: calibration.Current, Subject: x, Value: number(round(amps, 3)) + " A",
			Word: fmt.Sprintf("M906 %s%s", axis, number(mA)), Line: line})
	}
}

// sections reads keys under sections; a saved block at the end counts over what is before it.
func (r *reader) sections(text string) {
	type value struct {
		text string
		line int
	}
	all := map[string]map[string]value{}
	section := ""
	for i, line := range strings.Split(text, "\n") {
		line = strings.TrimSpace(strings.TrimPrefix(strings.TrimSpace(line), "#*#"))
		if cut := strings.IndexAny(line, "#;"); cut >= 0 {
			line = strings.TrimSpace(line[:cut])
		}
		if strings.HasPrefix(line, "[") && strings.HasSuffix(line, "]") {
			section = strings.ToLower(strings.Join(strings.Fields(line[1:len(line)-1]), " "))
			continue
		}
		at := strings.IndexAny(line, ":=")
		if at < 1 || section == "" {
			continue
		}
		if all[section] == nil {
			all[section] = map[string]value{}
		}
		all[section][strings.ToLower(strings.TrimSpace(line[:at]))] = value{strings.TrimSpace(line[at+1:]), i + 1}
	}
	num := func(section, key string) (float64, int, bool) {
		v, there := all[section][key]
		n, err := strconv.ParseFloat(v.text, 64)
		return n, v.line, there && err == nil
	}
	for section := range all {
		owner, x := section, calibration.Subject("")
		if i := strings.LastIndex(section, " "); i >= 0 {
			owner = section[i+1:]
		}
		switch {
		case strings.HasPrefix(owner, "stepper_") && len(owner) == len("stepper_x"):
			x = calibration.Subject("axis " + owner[len("stepper_"):])
		case strings.HasPrefix(owner, "extruder"):
			n, err := strconv.Atoi(owner[len("extruder"):])
			if err != nil {
				n = 0
			}
			x = calibration.Subject(fmt.Sprintf("head %d", n+1))
		}
		if n, line, ok := num(section, "run_current"); ok && x != "" {
			r.add(Statement{Kind: calibration.Current, Subject: x, Value: number(n) + " A",
				Word: "run_current: " + number(n), Line: line})
		}
		if owner != section || x == "" || x.Head() == 0 {
			continue
		}
		if n, line, ok := num(section, "rotation_distance"); ok && n > 0 {
			r.rotation(x, n, all[section]["gear_ratio"].text, all[section]["microsteps"].text,
				all[section]["full_steps_per_rotation"].text, line)
		}
		r.pidKeys(calibration.HotendPID, x, func(key string) (float64, int, bool) { return num(section, key) })
	}
	r.pidKeys(calibration.BedPID, "bed", func(key string) (float64, int, bool) { return num("heater_bed", key) })
	if n, line, ok := num("probe", "z_offset"); ok {
		r.add(Statement{Kind: calibration.ZOffset, Subject: "head 1", Value: offset(bench.InFamily(parts.Hosted, n)),
			Word: "z_offset: " + number(n), Line: line})
	}
	x, line, hasX := num("probe", "x_offset")
	if y, _, hasY := num("probe", "y_offset"); hasX && hasY {
		r.probeXY(map[string]float64{"X": x, "Y": y}, "probe", line)
	}
	slices.SortFunc(r.out, func(a, b Statement) int { return a.Line - b.Line })
}

// rotation is the extruder's steps/mm: full steps × microsteps × gear ratio ÷ rotation distance.
func (r *reader) rotation(x calibration.Subject, distance float64, gears, micro, full string, line int) {
	steps, err := strconv.ParseFloat(micro, 64)
	if err != nil || steps <= 0 {
		return // without its microsteps it says no steps
	}
	whole, err := strconv.ParseFloat(full, 64)
	if err != nil {
		whole = 200 // as the family takes it where it is not said
	}
	ratio := 1.0
	for _, pair := range strings.Split(gears, ",") {
		a, b, ok := strings.Cut(pair, ":")
		of, errA := strconv.ParseFloat(strings.TrimSpace(a), 64)
		to, errB := strconv.ParseFloat(strings.TrimSpace(b), 64)
		if ok && errA == nil && errB == nil && to > 0 {
			ratio *= of / to
		}
	}
	r.add(Statement{Kind: calibration.Steps, Subject: x, Value: number(round(whole*steps*ratio/distance, 2)) + " steps/mm",
		Word: "rotation_distance: " + number(distance), Line: line})
}

func (r *reader) pidKeys(kind calibration.Kind, x calibration.Subject, num func(string) (float64, int, bool)) {
	p, line, ok := num("pid_kp")
	i, _, okI := num("pid_ki")
	d, _, okD := num("pid_kd")
	if ok && okI && okD {
		v := map[string]float64{"P": p, "I": i, "D": d}
		r.add(Statement{Kind: kind, Subject: x, Value: pid(v), Word: "pid_kp: " + number(p), Line: line})
	}
}

func pid(v map[string]float64) string {
	return fmt.Sprintf("P %s I %s D %s", number(v["P"]), number(v["I"]), number(v["D"]))
}

func pidWord(v map[string]float64) string {
	return fmt.Sprintf("P%s I%s D%s", number(v["P"]), number(v["I"]), number(v["D"]))
}

func offset(mm float64) string { return strconv.FormatFloat(mm, 'f', 2, 64) + " mm" }

func number(n float64) string { return strconv.FormatFloat(n, 'f', -1, 64) }

func signed(n float64) string {
	if n < 0 {
		return "−" + number(-n)
	}
	return number(n)
}

func round(n float64, digits int) float64 {
	p := math.Pow10(digits)
	return math.Round(n*p) / p
}
