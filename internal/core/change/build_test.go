package change_test

import (
	"strings"
	"testing"

	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/change"
	"wardifex/internal/core/fit"
)

func changed(t *testing.T, kit fit.Kit, on map[string]string) change.Change {
	t.Helper()
	c, err := change.NewChange(kit, nil, facts(on))
	if err != nil {
		t.Fatal(err)
	}
	return c
}

// What a build states of its machine: exchanging it makes the build wrong, what
// it takes no notice of leaves it alone. Source: common practice.
func TestTheBuildIsRightWhileWhatItStatesStays(t *testing.T) {
	put := func(slot, model string, traits map[string]string) fit.Kit {
		return fit.Kit{Key: "k", Name: "k", Effects: []fit.Effect{{Slot: slot, Model: model, Traits: traits}}}
	}
	m := func(pairs ...string) map[string]string {
		out := map[string]string{"firmware.model": "b", "firmware.family": "compiled"}
		for i := 0; i < len(pairs); i += 2 {
			out[pairs[i]] = pairs[i+1]
		}
		return out
	}
	for name, tt := range map[string]struct {
		kit   fit.Kit
		on    map[string]string
		wants string // what the build states otherwise; empty when it stays
	}{
		"another sensor": {put("sensor", "S", map[string]string{"type": "104 thermistor"}),
			m("sensor.type", "100k thermistor"), "Hotend sensor: type 100k thermistor → 104 thermistor"},
		"a sensor nobody had looked at": {put("sensor", "S", map[string]string{"type": "Pt1000"}), m(),
			"type not on record → Pt1000"},
		"a new sensor of the same type": {put("sensor", "S", map[string]string{"type": "100k thermistor"}),
			m("sensor.type", "100k thermistor"), ""},
		"a second Z motor on a split lead": {put("z-drive", "Z", map[string]string{"motors": "two on one driver"}),
			m("z-drive.motors", "one"), ""},
		"a second Z motor of its own": {put("z-drive", "Z", map[string]string{"motors": "two on two drivers"}),
			m("z-drive.motors", "one"), "one → two on two drivers"},
		"the first run-out sensor":  {put("runout", "R", nil), m("runout.model", "none"), "none → R"},
		"another run-out sensor":    {put("runout", "R", nil), m("runout.model", "old"), ""},
		"an endstop taken out":      {put("z-endstop", "none", nil), m("z-endstop.model", "lever"), "lever → none"},
		"an endstop that never was": {put("z-endstop", "none", nil), m(), ""},
		"a longer frame": {put("frame", "F", map[string]string{"x": "500"}), m("frame.x", "235"),
			"235 mm → 500 mm"},
		"an extruder: stored settings": {put("extruder", "E",
			map[string]string{"ratio": "3"}), m("extruder.ratio", "1"), ""},
		"a direct drive: no firmware change when all electrical parts stay": {put("tube", "direct",
			map[string]string{"length": "40"}), m("tube.length", "450"), ""},
	} {
		c := changed(t, tt.kit, tt.on)
		says := c.Consequences(nil)[0]
		if c.Flashes() != (tt.wants != "") || !strings.Contains(says.Arithmetic, tt.wants) {
			t.Errorf("%s: flashes %v, %+v", name, c.Flashes(), says)
		}
		flash := false
		for _, s := range c.WorkOrder(nil) {
			flash = flash || s.Form == change.BuildForm
		}
		if flash != c.Flashes() {
			t.Errorf("%s: the work order flashes %v", name, flash)
		}
	}
}

// Whoever changes a part by hand leaves the build as it is, right or wrong.
func TestByHandLeavesTheBuild(t *testing.T) {
	c, err := change.ByHand(
		"mainboard",
		"another",
		facts(map[string]string{"mainboard.model": "old", "firmware.model": "b"}),
	)
	if err != nil || len(c.PartChanges) != 1 || c.Flashes() || c.After.Model("firmware") != "b" {
		t.Errorf("%+v, %v", c.PartChanges, err)
	}
}

func TestStaleFiles(t *testing.T) {
	one := func(slot, model string, traits map[string]string) fit.Kit {
		return fit.Kit{Key: "k", Name: "k", Effects: []fit.Effect{{Slot: slot, Model: model, Traits: traits}}}
	}
	for name, tt := range map[string]struct {
		kit  fit.Kit
		on   map[string]string
		want string // "" when no file goes stale
	}{
		"a first probe": {one("probe", "P", nil), map[string]string{"probe.model": "none"},
			"G29 on the line after G28"},
		"another probe":     {one("probe", "P", nil), map[string]string{"probe.model": "Q"}, ""},
		"no probe any more": {one("probe", "none", nil), map[string]string{"probe.model": "Q"}, "G29 out"},
		"a geared extruder": {one("extruder", "E", map[string]string{"ratio": "3"}),
			map[string]string{"extruder.ratio": "1"}, "M92 out"},
		"a finer extruder motor": {one("motor-e", "M", map[string]string{"step-angle": "0.9"}),
			map[string]string{"motor-e.step-angle": "1.8"}, "M92 out"},
		"a wider nozzle": {one("nozzle", "N", map[string]string{"bore": "0.6"}),
			map[string]string{"nozzle.bore": "0.4"}, "slice them again for 0.6 mm"},
		"the same bore": {one("nozzle", "N", map[string]string{"bore": "0.4"}),
			map[string]string{"nozzle.bore": "0.4"}, ""},
		"a cooler hotend": {one("hotend", "H", map[string]string{"rating": "240"}),
			map[string]string{"hotend.rating": "300"}, "above 240 °C"},
		"a hotter hotend": {one("hotend", "H", map[string]string{"rating": "300"}),
			map[string]string{"hotend.rating": "240"}, ""},
		"a dock in the way": {fit.Kit{Key: "k", AreaLoss: [3]float64{40, 0, 0}}, map[string]string{"frame.x": "235"},
			"more than 195 mm in print width X"},
		"stiffer springs": {catalogue.MustKit("bollard-springs"), nil, ""},
	} {
		got := strings.Join(changed(t, tt.kit, tt.on).StaleFiles(), "\n")
		if tt.want == "" && got != "" || !strings.Contains(got, tt.want) {
			t.Errorf("%s: %q, want %q", name, got, tt.want)
		}
	}
	// What the kit says itself is not said twice.
	lines := strings.Join(
		changed(t, catalogue.MustKit("plumbline-probe"), map[string]string{"probe.model": "none"}).StaleFiles(),
		"\n",
	)
	if strings.Count(lines, "G29") != 1 {
		t.Errorf("G29 is said %d times:\n%s", strings.Count(lines, "G29"), lines)
	}
}

// Start code and old files are a step of their own, also where nothing is
// flashed.
func TestStartCodeWithoutAFlash(t *testing.T) {
	kit := fit.Kit{
		Key:     "k",
		Name:    "k",
		Effects: []fit.Effect{{Slot: "extruder", Model: "E", Traits: map[string]string{"ratio": "3"}}},
	}
	for _, s := range changed(t, kit, map[string]string{"extruder.ratio": "1"}).WorkOrder(nil) {
		if s.Key == "start-code" && strings.Contains(strings.Join(s.Lines, " "), "M92") {
			return
		}
	}
	t.Error("no step says that M92 has to go")
}

// A board is new where one comes in for another: not where there was none, where it leaves, where it stays or is moved,
// and no other part is one.
func TestNewBoard(t *testing.T) {
	on := map[string]string{"mainboard.model": "Brace board", "toolhead-board.model": "Gull board",
		"nozzle.model": "plain"}
	with := func(e ...fit.Effect) fit.Kit { return fit.Kit{Key: "k", Name: "kit", Effects: e} }
	without := map[string]string{"mainboard.model": "none", "nozzle.model": "plain"}
	for name, tt := range map[string]struct {
		kit  fit.Kit
		on   map[string]string
		want string
	}{
		"another":      {with(fit.Effect{Slot: "mainboard", Model: "Brace 5"}), on, "mainboard"},
		"of a head":    {with(fit.Effect{Slot: "toolhead-board", Model: "Tern board"}), on, "toolhead-board"},
		"the first":    {with(fit.Effect{Slot: "mainboard", Model: "Brace 5"}), without, ""},
		"it comes out": {with(fit.Effect{Slot: "toolhead-board", Model: "none"}), on, ""},
		"it stays": {with(fit.Effect{Slot: "mainboard", From: "mainboard", Traits: map[string]string{"flash": "512"}}), on,
			""},
		"another nozzle": {with(fit.Effect{Slot: "nozzle", Model: "hard"}), on, ""},
		"another build":  {with(fit.Effect{Slot: "firmware", Model: "Skerry 2.1"}), on, ""},
		"nozzle and then": {with(fit.Effect{Slot: "nozzle", Model: "hard"}, fit.Effect{Slot: "mainboard", Model: "Brace 5"}),
			on, "mainboard"},
	} {
		got := ""
		if p := changed(t, tt.kit, tt.on).NewBoard(); p != nil {
			got = p.Key
		}
		if got != tt.want {
			t.Errorf("%s: %q, want %q", name, got, tt.want)
		}
	}
}
