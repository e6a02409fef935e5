package bench_test

import (
	"errors"
	"fmt"
	"maps"
	"math"
	"strings"
	"testing"

	"wardifex/internal/core/bench"
)

// sums are each calculator with what is typed into it, and what comes out. Worked figures are
// common practice unless a source is named.
var sums = map[string]struct {
	typed map[string]string
	want  map[string]float64
}{
	// 3:1 dual drive, 100 mm asked, 96 came of 415.
	"steps-feed":    {map[string]string{"old": "415", "delivered": "96"}, map[string]float64{"steps": 432.2917}},
	"rotation-feed": {map[string]string{"old": "22.68", "delivered": "96"}, map[string]float64{"rotation": 21.7728}},
	// "a direct gear near 95; a 3:1 dual-drive about 415 with a 1.8° motor at 1/16 step".
	"steps-parts": {map[string]string{"driven": "3", "driving": "1", "diameter": "7.36", "stated": "830"},
		map[string]float64{"steps": 415.18, "ratio": 3, "rotation": 23.1221}},
	"rotation-convert": {map[string]string{"driven": "50", "driving": "17", "steps": "415"},
		map[string]float64{"rotation": 22.679}},
	// "100 mm/s × 415 steps/mm is 41.5 kHz".
	"step-rate": {map[string]string{"steps": "415", "speed": "100", "limit": "40"},
		map[string]float64{"rate": 41.5, "fastest": 96.3855, "share": 103.75}},
	"axis-belt":  {map[string]string{}, map[string]float64{"steps": 80, "rotation": 40}},
	"axis-screw": {map[string]string{}, map[string]float64{"steps": 400, "rotation": 8}},
	// A gantry 0.4 mm higher on the right over 300 mm.
	"gantry": {map[string]string{"motors": "0 150\n300 150", "points": "50 20 0.1\n250 20 0.3\n50 280 0.1\n250 280 0.3"},
		map[string]float64{"motor-1": 0, "motor-2": 0.3, "turns-2": 0.0375}},
	// Source: TMC2208 datasheet, full scale with 0.11 Ω: 1.77 A RMS at 2.5 V.
	"current-from-voltage": {map[string]string{"vref": "2.5"}, map[string]float64{"rms": 1.7678, "peak": 2.5}},
	"voltage-for-current": {map[string]string{"rms": "0.8"}, map[string]float64{"vref": 1.1314, "low": 1.0748,
		"high": 1.1879}},
	// Source: TMC2208 datasheet: 32 steps of 1.7678 A.
	"current-register": {map[string]string{"rms": "0.8"}, map[string]float64{"is": 0.7734, "cs": 13, "next": 0.8286}},
	// "2–3 mm seen, −2.00 tried, −2.70 final".
	"z-offset-gap": {map[string]string{"offset": "-2", "gap": "0.7"}, map[string]float64{"offset": -2.7, "down": 0.7}},
	// 4 mm of glass for a 1.2 mm sheet over an inductive probe.
	"another-surface": {map[string]string{"before": "4", "after": "1.2", "offset": "-2.7", "reach": "5"},
		map[string]float64{"offset": -5.5, "change": -2.8}},
	// z = 0.001 x: 0.2 mm higher on the right.
	"mesh": {map[string]string{"mesh": "0 0.1 0.2\n0 0.1 0.2\n0 0.1 0.2", "right": "200", "back": "200",
		"screws": "fl 0 0\nfr 200 0\nrl 0 200\nrr 200 200"},
		map[string]float64{"spread": 0.2, "remains": 0, "tilt-x": 0.2, "tilt-y": 0, "turns fr": -0.286, "turns rl": 0,
			"minutes": 0.6}},
	// Seven points on 300 mm are 50 mm apart; 90 mm and twice 5 are 100 mm, of which three points are two steps.
	"area-mesh": {map[string]string{"width": "300", "depth": "300", "points": "7", "x": "90", "y": "90"},
		map[string]float64{"saved": 160, "points": 9, "apart": 50}},
	// "Long-tube machine: about 600 mm".
	"filament-change": {map[string]string{"path": "600", "steps": "415", "limit": "40", "longest": "500", "old": "200",
		"new": "240"},
		map[string]float64{"unload": 620, "fast": 545, "purge": 80, "rate": 41.5, "heat": 240, "longest": 620,
			"loads": 40.0667}},
	// Source: IEC 60751: 138.51 Ω at 100 °C.
	"sensor-type": {map[string]string{"cold-ohms": "100", "cold": "0", "warm-ohms": "138.51", "warm": "100"},
		map[string]float64{"slope": 0.3851}},
	// "with the wrong one 200 shown is really 223".
	"wrong-sensor": {map[string]string{"is": "100k thermistor", "believed": "104 thermistor"},
		map[string]float64{"real": 223.389, "off": 23.389}},
	"heater-ohms": {map[string]string{"volts": "24", "ohms": "14.4"}, map[string]float64{"watts": 40, "amperes": 1.6667}},
	"heater-power": {map[string]string{"watts": "750", "volts": "230", "limit": "2", "duty": "50"},
		map[string]float64{"amperes": 3.2609, "rms": 2.3058, "average": 375, "most": 37.6178}},
	// "1.2 kg aluminium, +85 K, 220 W, 2 W/K: 797 s".
	"warm-up": {map[string]string{"watts": "220", "mass": "1.2", "area": "900"},
		map[string]float64{"seconds": 797.2, "hottest": 110, "density": 0.2444}},
	// Source: ASTM B258: AWG 18 is 0.823 mm².
	"wire": {map[string]string{"watts": "60", "volts": "12", "area": "AWG 18", "length": "2", "contacts": "2"},
		map[string]float64{"amperes": 5, "each": 2.5, "density": 6.0752, "drop": 0.418}},
	"supply-left": {map[string]string{"watts": "350", "loads": "bed 220\nhotend 40"}, map[string]float64{"left": 20,
		"sum": 260}},
	"screw": {map[string]string{"length": "10", "stack": "5", "washer": "0.5", "into": "aluminium", "depth": "4"},
		map[string]float64{"engagement": 4.5, "ratio": 1.5, "needs": 4.5, "longer": 10}},
	// Two equal levels add 3 dB; 3 dB over a background is its equal.
	"noise": {map[string]string{"levels": "54\n54", "background": "54"}, map[string]float64{"sum": 57.0103,
		"without": 54}},
}

// moves say, for each input, what is typed instead and how a figure moves: up, down, or
// "gone" and "there" where it comes and goes.
var moves = map[string]struct{ instead, figure, goes string }{
	"steps-feed old": {"500", "steps", "up"}, "steps-feed asked": {"110", "steps", "up"}, "steps-feed delivered": {"99",
		"steps", "down"},
	"steps-feed family": {"hosted", "steps", "lines"},
	"rotation-feed old": {"30", "rotation", "up"}, "rotation-feed asked": {"110", "rotation", "down"},
	"rotation-feed delivered": {"99", "rotation", "up"},
	"steps-parts angle":       {"0.9", "steps", "up"}, "steps-parts microsteps": {"32", "steps", "up"},
	"steps-parts driven": {"4", "steps", "up"}, "steps-parts driving": {"2", "steps", "down"},
	"steps-parts diameter": {"11", "steps", "down"}, "steps-parts stated": {"415", "diameter", "gone"},
	"rotation-convert angle": {"0.9", "rotation", "up"}, "rotation-convert microsteps": {"32", "rotation", "up"},
	"rotation-convert driven": {"60", "rotation", "up"}, "rotation-convert driving": {"20", "rotation", "down"},
	"rotation-convert steps": {"800", "rotation", "down"},
	"step-rate steps":        {"500", "rate", "up"}, "step-rate speed": {"50", "rate", "down"}, "step-rate limit": {"80",
		"fastest", "up"},
	"axis-belt angle": {"0.9", "steps", "up"}, "axis-belt microsteps": {"32", "steps", "up"}, "axis-belt teeth": {"16",
		"steps", "up"},
	"axis-belt pitch":  {"3", "steps", "down"},
	"axis-screw angle": {"0.9", "steps", "up"}, "axis-screw microsteps": {"32", "steps", "up"},
	"axis-screw pitch": {"1", "steps", "up"}, "axis-screw starts": {"1", "steps", "up"},
	"gantry motors": {"0 150\n400 150", "motor-2", "up"}, "gantry points": {"50 20 0.1\n250 20 0.5", "motor-2", "up"},
	"gantry lead":              {"2", "turns-2", "up"},
	"current-from-voltage law": {"gain-of-8 chopper", "peak", "up"}, "current-from-voltage rs": {"0.15", "rms", "down"},
	"current-from-voltage vref": {"1", "rms", "down"}, "current-from-voltage wired": {"parallel", "rms", "down"},
	"voltage-for-current law": {"gain-of-8 chopper", "vref", "down"}, "voltage-for-current rs": {"0.15", "vref", "up"},
	"voltage-for-current rms": {"0.9", "vref", "up"}, "voltage-for-current wired": {"parallel", "vref", "up"},
	"current-register rs": {"0.15", "cs", "up"}, "current-register scale": {"0.180", "cs", "up"},
	"current-register rms": {"0.5", "is", "down"}, "current-register family": {"scripted", "is", "lines"},
	"z-offset-gap family": {"hosted", "offset", "up"}, "z-offset-gap offset": {"-1", "offset", "up"},
	"z-offset-gap gap":       {"0.9", "offset", "down"},
	"another-surface senses": {"endstop", "endstop", "there"}, "another-surface before": {"3", "offset", "up"},
	"another-surface after":  {"2", "offset", "up"},
	"another-surface offset": {"-2", "offset", "up"}, "another-surface reach": {"1", "offset", "cautions"},
	"another-surface family": {"hosted", "offset", "up"},
	"mesh mesh":              {"0 0.1 0.3\n0 0.1 0.3", "spread", "up"}, "mesh " +
		"rows": {"rear", "tilt-y", "same"}, "mesh left": {"-100",
		"turns fr", "up"},
	"mesh front": {"100", "turns fr", "same"}, "mesh right": {"400", "turns fr", "up"}, "mesh back": {"400", "turns fr",
		"same"},
	"mesh screws": {"fl 0 0\nfr 100 0\nrl 0 200", "turns fr", "up"}, "mesh thread": {"M3", "turns fr", "down"},
	"mesh hand": {"raises", "turns fr", "directions"}, "mesh seconds": {"8", "minutes", "up"},
	"area-mesh width": {"240", "saved", "down"}, "area-mesh depth": {"240", "saved", "down"},
	"area-mesh points": {"13", "saved", "up"}, "area-mesh x": {"200", "saved", "down"},
	"area-mesh y": {"200", "saved", "down"}, "area-mesh margin": {"30", "saved", "down"},
	"area-mesh seconds":    {"8", "saved", "up"},
	"filament-change path": {"50", "unload", "down"}, "filament-change short": {"60", "fast", "down"},
	"filament-change fast": {"100", "loads", "down"}, "filament-change unload": {"50", "unloads", "up"},
	"filament-change purge": {"80", "purge", "up"}, "filament-change slow": {"5", "loads", "down"},
	"filament-change steps": {"95", "rate", "down"}, "filament-change limit": {"60", "rate", "remarks"},
	"filament-change longest": {"700", "longest", "remarks"}, "filament-change old": {"260", "heat", "up"},
	"filament-change new":   {"270", "heat", "up"},
	"sensor-type cold-ohms": {"110", "slope", "down"}, "sensor-type cold": {"20", "slope", "up"},
	"sensor-type warm-ohms": {"150", "slope", "up"}, "sensor-type warm": {"120", "slope", "down"},
	"wrong-sensor is": {"104 thermistor", "off", "down"}, "wrong-sensor believed": {"100k thermistor", "off", "down"},
	"wrong-sensor shown": {"240", "real", "up"}, "wrong-sensor lead": {"10", "real", "up"},
	"heater-ohms volts": {"12", "watts", "down"}, "heater-ohms ohms": {"10", "watts", "up"},
	"heater-power watts": {"500", "amperes", "down"}, "heater-power volts": {"120", "amperes", "up"},
	"heater-power limit": {"1", "most", "down"}, "heater-power duty": {"100", "rms", "up"},
	"warm-up watts": {"300", "seconds", "down"}, "warm-up mass": {"2", "seconds", "up"}, "warm-up material": {"840",
		"seconds", "down"},
	"warm-up loss": {"2.5", "seconds", "up"}, "warm-up rise": {"60", "seconds", "down"}, "warm-up area": {"400",
		"density", "up"},
	"wire watts": {"40", "amperes", "down"}, "wire volts": {"24", "amperes", "down"}, "wire contact": {"2", "each",
		"cautions"},
	"wire contacts": {"1", "each", "up"}, "wire area": {"1.5", "drop", "down"}, "wire length": {"4", "drop", "up"},
	"supply-left watts": {"400", "left", "up"}, "supply-left loads": {"bed 300", "left", "down"},
	"supply-left reserve": {"10", "left", "up"},
	"screw diameter":      {"4", "ratio", "down"}, "screw length": {"12", "engagement", "up"}, "screw stack": {"6",
		"engagement", "down"},
	"screw washer": {"1", "engagement", "down"}, "screw into": {"plastic", "needs", "up"}, "screw depth": {"6",
		"engagement", "cautions"},
	"noise levels": {"54\n60", "sum", "up"}, "noise background": {"50", "without", "up"},
}

func figureOf(r bench.Result, key string) (float64, bool) {
	for _, f := range r.Figures {
		if f.Key == key {
			return f.Number, true
		}
	}
	return 0, false
}

func TestSums(t *testing.T) {
	for _, c := range bench.All() {
		sum, ok := sums[c.Key]
		if !ok {
			t.Errorf("%s has no worked figures", c.Key)
			continue
		}
		t.Run(c.Key, func(t *testing.T) {
			r, err := c.Work(sum.typed)
			if err != nil {
				t.Fatal(err)
			}
			for key, want := range sum.want {
				if got, ok := figureOf(r, key); !ok || math.Abs(got-want) > 1e-3*math.Max(1, math.Abs(want)) {
					t.Errorf("%s: %v, want %v", key, got, want)
				}
			}
			if len(r.Formula) == 0 || c.Source == "" || c.About == "" {
				t.Errorf("no formula, source or use: %+v", r)
			}
		})
	}
}

// Every input of every calculator moves its result, in the right direction.
func TestEveryInputMovesTheResult(t *testing.T) {
	for _, c := range bench.All() {
		before, err := c.Work(sums[c.Key].typed)
		if err != nil {
			t.Fatalf("%s: %v", c.Key, err)
		}
		for _, in := range c.Inputs {
			if in.When != nil && in.When.Input == "thread" {
				continue // a thread that is none of the usual: below
			}
			m, ok := moves[c.Key+" "+in.Key]
			if !ok {
				t.Errorf("%s %s: nothing says how it moves the result", c.Key, in.Key)
				continue
			}
			typed := maps.Clone(sums[c.Key].typed)
			typed[in.Key] = m.instead
			after, err := c.Work(typed)
			if err != nil {
				t.Errorf("%s %s: %v", c.Key, in.Key, err)
				continue
			}
			was, had := figureOf(before, m.figure)
			is, has := figureOf(after, m.figure)
			moved := map[string]bool{
				"up": has && is > was, "down": has && is < was, "same": has && is == was, "there": has && !had, "gone": had && !has,
				"lines":    strings.Join(before.Lines, "\n") != strings.Join(after.Lines, "\n"),
				"cautions": strings.Join(before.Cautions, "\n") != strings.Join(after.Cautions, "\n"),
				"remarks":  strings.Join(before.Remarks, "\n") != strings.Join(after.Remarks, "\n"),
			}
			if m.goes == "directions" {
				moved[m.goes] = before.Relief.Turns[1].Direction != after.Relief.Turns[1].Direction
			}
			if !moved[m.goes] {
				t.Errorf("%s %s: %s goes from %v to %v, want it %s", c.Key, in.Key, m.figure, was, is, m.goes)
			}
		}
	}
	mesh, _ := bench.Find("mesh")
	typed := maps.Clone(sums["mesh"].typed)
	typed["thread"], typed["pitch"] = "other", "0.5"
	if r, err := mesh.Work(typed); err != nil {
		t.Error(err)
	} else if is, _ := figureOf(r, "turns fr"); math.Abs(is+0.4) > 1e-3 {
		t.Errorf("0.2 mm on a pitch of 0.5: %v turns", is)
	}
}

// What is wrong is said of the input that it is about, and both sides of a bound are held.
func TestWrongInput(t *testing.T) {
	for name, tt := range map[string]struct {
		key, input, value, want string
	}{
		"nothing came":            {"steps-feed", "delivered", "0", "nothing came"},
		"words for a number":      {"steps-feed", "old", "many", "number"},
		"left empty":              {"steps-feed", "old", "", "is needed"},
		"below the bound":         {"steps-feed", "old", "0.9", "cannot be"},
		"no such choice":          {"steps-feed", "family", "other", "choose one"},
		"one temperature":         {"sensor-type", "warm", "0", "warm the sensor"},
		"an offset runs away":     {"z-offset-gap", "offset", "-19.5", "runs away"},
		"a gap out of this world": {"z-offset-gap", "gap", "10.1", "cannot be"},
		"ragged mesh":             {"mesh", "mesh", "0 0 0\n0 0", "as many in each row"},
		"words in a mesh":         {"mesh", "mesh", "0 0 x 0\n0 0 0 0", "words among its numbers"},
		"one row":                 {"mesh", "mesh", "0 0 0", "two rows"},
		"no millimetres":          {"mesh", "mesh", "0 0\n0 21", "no height of a bed"},
		"points of no bed":        {"mesh", "right", "0", "right of"},
		"two screws":              {"mesh", "screws", "a 0 0\nb 1 1", "three or four"},
		"too much current":        {"current-register", "rms", "1.8", "more than this driver"},
		"more than five volts":    {"voltage-for-current", "rms", "4", "cannot give it"},
		"one motor":               {"gantry", "motors", "0 0", "two or three"},
		"points in a line":        {"gantry", "points", "150 0 1\n150 300 1", "both sides"},
		"a load without watts":    {"supply-left", "loads", "bed", "name and watts"},
		"an insert of no depth":   {"screw", "depth", "", ""},
	} {
		t.Run(name, func(t *testing.T) {
			c, ok := bench.Find(tt.key)
			if !ok {
				t.Fatal(tt.key)
			}
			typed := maps.Clone(sums[tt.key].typed)
			typed[tt.input] = tt.value
			_, err := c.Work(typed)
			if tt.want == "" {
				if err != nil {
					t.Error(err)
				}
				return
			}
			var faults bench.Faults
			if !errors.As(err, &faults) || !strings.Contains(err.Error(), tt.want) {
				t.Fatalf("%v; want %q", err, tt.want)
			}
		})
	}
}

// Numbers that are right in another unit are asked about.
func TestSlipsAreAskedAbout(t *testing.T) {
	for name, tt := range map[string]struct{ key, input, value, want string }{
		"millivolts":         {"current-from-voltage", "vref", "0.0005", "milli"},
		"inches":             {"screw", "stack", "5", ""},
		"an ordinary number": {"steps-feed", "old", "415", ""},
		"an angle doubled":   {"steps-parts", "angle", "3.6", "not usual"},
		"half the feed":      {"steps-feed", "delivered", "50", "Off by two"},
		"a belt in inches":   {"axis-belt", "pitch", "0.8", "not usual"},
		"a √2":               {"steps-feed", "delivered", "141.4", "peak current"},
	} {
		c, _ := bench.Find(tt.key)
		typed := maps.Clone(sums[tt.key].typed)
		typed[tt.input] = tt.value
		r, err := c.Work(typed)
		if err != nil {
			t.Errorf("%s: %v", name, err)
			continue
		}
		if got := strings.Join(r.Questions, " "); tt.want == "" && got != "" || !strings.Contains(got, tt.want) {
			t.Errorf("%s: %q, want %q", name, got, tt.want)
		}
	}
	for ratio, want := range map[float64]bool{1: false, 1.1: false, 2: true, 0.5: true, 25.4: true, 1000: true,
		math.Sqrt2: true, 3: false} {
		if got := bench.Suspect(ratio*0.8, 0.8) != ""; got != want {
			t.Errorf("a factor of %v: %v", ratio, got)
		}
	}
}

// A number just past an input's bounds is refused at that input, with the bounds and their unit; at the bounds it is
// taken by the input.
func TestBoundsOfInputs(t *testing.T) {
	refused := 0
	for _, c := range bench.All() {
		for _, in := range c.Inputs {
			if in.Max <= in.Min || in.Lines || len(in.Choices) > 0 {
				continue
			}
			for n, bad := range map[float64]bool{in.Min: false, in.Max: false, in.Max * 1.001: true, in.Min - 0.001: true} {
				typed := maps.Clone(sums[c.Key].typed)
				if typed == nil {
					typed = map[string]string{}
				}
				if in.When != nil {
					typed[in.When.Input] = in.When.Is[0]
				}
				typed[in.Key] = fmt.Sprintf("%.6f", n)
				var faults bench.Faults
				_, err := c.Work(typed)
				says := ""
				if errors.As(err, &faults) {
					says = faults[in.Key]
				}
				cannot := strings.Contains(says, " cannot be: ")
				if cannot != bad {
					t.Errorf("%s, %s %s: %v", c.Key, in.Key, typed[in.Key], err)
				} else if bad {
					refused++
					if !strings.HasSuffix(says, strings.TrimSpace(bench.Rounded(in.Max)+" "+in.Unit)) {
						t.Errorf("%s, %s: %q does not end with the bound", c.Key, in.Key, says)
					}
				}
			}
		}
	}
	if refused < 60 {
		t.Errorf("only %d numbers were refused", refused)
	}
}
