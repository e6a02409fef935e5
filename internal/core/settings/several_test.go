package settings_test

import (
	"fmt"
	"strings"
	"testing"

	"wardifex/internal/core/dialect"
	"wardifex/internal/core/settings"
)

// stated are the values of several files, with where each stands, and what is told.
func stated(t *testing.T, family string, form dialect.Form, files ...dialect.File) string {
	t.Helper()
	d, err := dialect.ReadAll(form, files)
	if err != nil {
		t.Fatal(err)
	}
	s, err := settings.Shipped().State(family, d)
	if err != nil {
		t.Fatal(err)
	}
	var b strings.Builder
	for _, st := range s.Calibrations {
		fmt.Fprintf(&b, "%s:%d %s %s\n", d.FileName(st.File), st.Line, st.Kind, st.Value)
	}
	for _, st := range s.Traits {
		fmt.Fprintf(&b, "%s:%d %s.%s %g%s\n", d.FileName(st.File), st.Line, st.Kind, st.Trait, st.Value, st.Choice)
	}
	for _, says := range s.SetTwice() {
		b.WriteString("twice: " + says + "\n")
	}
	for _, f := range d.Faults {
		fmt.Fprintf(&b, "! %s:%d %s\n", f.File, f.Line, f.Says)
	}
	return b.String()
}

// Files that are one configuration state one value together, wherever its numbers stand. Source: from
// memory.
func TestOneConfigurationOfSeveralFiles(t *testing.T) {
	for name, tt := range map[string]struct {
		family string
		form   dialect.Form
		files  []dialect.File
		want   string
	}{
		"the microsteps are in another file": {"hosted", dialect.Sections, []dialect.File{
			{Name: "printer.cfg", Text: "[include drive.cfg]\n[extruder]\nrotation_distance: 7.71\n"},
			{Name: "drive.cfg", Text: "[extruder]\nmicrosteps: 16\ngear_ratio: 3:1\n"},
		}, "printer.cfg:3 steps-per-mm 1245.136 steps/mm\ndrive.cfg:2 driver.microsteps 16\n"},
		"the later file counts": {"hosted", dialect.Sections, []dialect.File{
			{Name: "a.cfg", Text: "[probe]\nz_offset: 1.5\n[include b.cfg]\n"},
			{Name: "b.cfg", Text: "[probe]\nz_offset: 1.8\n"},
		}, "b.cfg:2 z-offset −1.8 mm\ntwice: [probe] z_offset: 1.8 on line 2 of b.cfg counts; line 2 of a.cfg sets it " +
			"otherwise\n"},
		"what was saved counts over all": {"hosted", dialect.Sections, []dialect.File{
			{Name: "a.cfg", Text: "[include b.cfg]\n#*# [probe]\n#*# z_offset = 1.5\n"},
			{Name: "b.cfg", Text: "[probe]\nz_offset: 1.5\n"},
		}, "a.cfg:3 z-offset −1.5 mm\n"},
		"one header decides in the other": {"compiled", dialect.Header, []dialect.File{
			{Name: "Config_adv.h", Text: "#if ENABLED(DUAL)\n#define X_CURRENT 900\n#else\n#define X_CURRENT 800\n#endif\n"},
			{Name: "Config.h", Text: "//#define DUAL\n"},
		}, "Config_adv.h:4 motor-current 0.8 A\n"},
		"not decided is not stated": {"compiled", dialect.Header, []dialect.File{
			{Name: "Config_adv.h", Text: "#if ENABLED(DUAL)\n#define X_CURRENT 900\n#else\n#define X_CURRENT 800\n#endif\n"},
		}, "twice: X_CURRENT: 900 on line 2, 800 on line 4\n! :1 #if ENABLED(DUAL): cannot be decided from this file\n" +
			"! :2 X_CURRENT 900 on line 2, or X_CURRENT 800 on line 4: which of them counts depends on #if ENABLED(DUAL), " +
			"which is not known here\n"},
		"the same either way": {"compiled", dialect.Header, []dialect.File{
			{Name: "Config_adv.h", Text: "#if ENABLED(DUAL)\n#define X_CURRENT 800\n#else\n#define X_CURRENT 800\n#endif\n"},
		}, ":4 motor-current 0.8 A\n! :1 #if ENABLED(DUAL): cannot be decided from this file\n"},
	} {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			if got := stated(t, tt.family, tt.form, tt.files...); got != tt.want {
				t.Errorf("got\n%swant\n%s", got, tt.want)
			}
		})
	}
}

func TestCautions(t *testing.T) {
	const header, sections, code = dialect.Header, dialect.Sections, dialect.GCode
	for _, tt := range []struct {
		form       dialect.Form
		text, want string
	}{
		{header, "#define THERMAL_PROTECTION_HOTENDS\n", ""},
		{header, "//#define THERMAL_PROTECTION_HOTENDS\n", "THERMAL_PROTECTION_HOTENDS"},
		{header, "//#define THERMAL_PROTECTION_BED\n#define THERMAL_PROTECTION_BED\n", ""},
		{header, "#define THERMAL_PROTECTION_BED\n//#define THERMAL_PROTECTION_BED\n", ""},
		{header, "#define TEMP_SENSOR_0 1\n", ""},
		{header, "#define TEMP_SENSOR_0 998\n", "TEMP_SENSOR_0 998"},
		{header, "#define TEMP_SENSOR_3 999\n", "TEMP_SENSOR_3 999"},
		{header, "//#define TEMP_SENSOR_0 998\n", ""},
		{header, "#if 0\n#define TEMP_SENSOR_0 998\n#endif\n#define TEMP_SENSOR_0 5\n", ""},
		{header, "#define MINUTE 60\n#define WATCH_TEMP_PERIOD 10*MINUTE\n", "WATCH_TEMP_PERIOD 10*MINUTE"},
		{header, "#define WATCH_TEMP_PERIOD 40\n#define HEATER_0_MAXTEMP 275\n#define HEATER_0_MINTEMP 5\n", ""},
		{header, "#define HEATER_1_MAXTEMP 999\n", "HEATER_1_MAXTEMP 999"},

		{sections, "[verify_heater extruder]\nmax_error: 120\ncheck_gain_time: 20\nhysteresis: 5\nheating_gain: 2\n", ""},
		{sections, "[verify_heater heater_bed]\nmax_error = 99999\n", "[verify_heater heater_bed] max_error: 99999"},
		{sections, "[verify_heater extruder]\nmax_error: 9999\n[verify_heater extruder]\nmax_error: 120\n", ""},
		{sections, "[verify_heater extruder]\nmax_error: 9999\n[verify_heater heater_bed]\nmax_error: 120\n",
			"[verify_heater extruder] max_error: 9999"},
		{sections, "#[verify_heater extruder]\n#max_error: 9999\n", ""},
		{sections, "[extruder1]\nsensor_type: temperature_host\n", "[extruder1] sensor_type: temperature_host"},
		{sections, "[temperature_sensor host]\nsensor_type: temperature_host\n[extruder]\nmax_temp: 285\nmin_temp: 0\n", ""},
		{sections, "[heater_bed]\nmin_temp: -200\n", "[heater_bed] min_temp: -200"},
		{sections, "[idle_timeout]\ntimeout: 600\n", ""},
		{sections, "[idle_timeout]\ntimeout: 9999999\n", "[idle_timeout] timeout: 9999999"},

		{code, "M570 H1 P5 T15\nM143 H1 S285\n", ""},
		{code, "M570 H0 P5\nM570 H1 P600 T15\n", "M570 P600"},
		{code, "M570 H1 P600\nM570 H1 P5\n", ""},
		{code, ";M570 H1 P600\n", ""},
		{code, "M143 H1 S2000\n", "M143 S2000"},
		{code, "M562 P1\n", "M562 P1"},
		{code, "M562\n", "M562"},
	} {
		family := map[dialect.Form]string{header: "compiled", sections: "hosted", code: "scripted"}[tt.form]
		s, err := settings.Shipped().ReadAs(family, tt.form, tt.text)
		if err != nil {
			t.Fatal(err)
		}
		got := ""
		for _, c := range s.Cautions() {
			got += c.Word
		}
		if got != tt.want {
			t.Errorf("%q: %q, want %q", tt.text, got, tt.want)
		}
	}
}

// What macros do, with all that they call. Nothing is run: what depends on a condition may be done.
func TestMacros(t *testing.T) {
	const always, never, sometimes = settings.Always, settings.Never, settings.Sometimes
	for name, tt := range map[string]struct {
		text string
		want settings.MacroDoes
	}{
		"plain": {"[gcode_macro START_PRINT]\ngcode:\n  G28\n  BED_MESH_CALIBRATE\n", settings.MacroDoes{Homes: always,
			Probes: always}},
		"through others": {"[gcode_macro start_print]\ngcode:\n  ready ; now\n[gcode_macro READY]\ngcode:\n  G28\n" +
			"  BED_MESH_PROFILE LOAD=default\n", settings.MacroDoes{Homes: always, Loads: always}},
		"on a condition": {"[gcode_macro START_PRINT]\ngcode:\n  {% if params.MESH %}\n  G29\n  {% else %}\n  G28\n" +
			"  {% endif %}\n", settings.MacroDoes{Homes: sometimes, Probes: sometimes}},
		"on one line": {"[gcode_macro START_PRINT]\ngcode:\n  {% if x %} G29 {% endif %}\n  G28\n",
			settings.MacroDoes{Homes: always, Probes: sometimes}},
		"a condition of a called one": {"[gcode_macro START_PRINT]\ngcode:\n  {%if x%}\n  A\n  {%endif%}\n[gcode_macro A]\n" +
			"gcode:\n  G28\n", settings.MacroDoes{Homes: sometimes}},
		"one axis is no homing": {"[gcode_macro START_PRINT]\ngcode:\n  G28 Z\n", settings.MacroDoes{Homes: never}},
		"a command in place of another": {"[gcode_macro START_PRINT]\ngcode:\n  G28\n[gcode_macro G28]\n" +
			"rename_existing: G28.1\ngcode:\n  G28.1\n", settings.MacroDoes{Homes: always}},
		"itself": {"[gcode_macro START_PRINT]\ngcode:\n  START_PRINT\n  G28\n", settings.MacroDoes{Homes: always}},
	} {
		d, err := dialect.Read(dialect.Sections, tt.text)
		if err != nil {
			t.Fatal(err)
		}
		if got, known := settings.MacrosOf(d).Does("START_PRINT"); got != tt.want || !known {
			t.Errorf("%s: got %+v, %t, want %+v", name, got, known, tt.want)
		}
	}
}

// Macros that call more and more of each other end, and promise nothing.
func TestMacroBomb(t *testing.T) {
	var b strings.Builder
	for i := range 40 {
		fmt.Fprintf(&b, "[gcode_macro A%d]\ngcode:\n  A%d\n  A%d\n", i, i+1, i+1)
	}
	d, err := dialect.Read(dialect.Sections, b.String())
	if err != nil {
		t.Fatal(err)
	}
	const perhaps = settings.Sometimes
	want := settings.MacroDoes{Homes: perhaps, Probes: perhaps, Loads: perhaps,
		Cools: settings.Cooling{Nozzle: perhaps, Bed: perhaps, Chamber: perhaps}}
	if got, _ := settings.MacrosOf(d).Does("a0"); got != want {
		t.Errorf("got %+v", got)
	}
}

// What scripts of G-code do: what is moved in stands under a condition, M98 calls another.
func TestScripts(t *testing.T) {
	const always, sometimes = settings.Always, settings.Sometimes
	all := settings.Cooling{Nozzle: always, Bed: always, Chamber: always}
	for text, want := range map[string]settings.MacroDoes{
		"G28\nG29\n":                               {Homes: always, Probes: always},
		"g28 ; all axes XYZ\r\nG29 S1\r\n":         {Homes: always, Loads: always},
		"G28 X0 Y0\nG28 Z0\nM375\n":                {Homes: always, Loads: always},
		"G28 X0 Y0\n":                              {},
		"if sensors.probes[0].value = 0\n\tG28\n":  {Homes: sometimes},
		"M98 P\"0:/sys/B.g\"\nM98 P\"start.g\"\n":  {Homes: always},
		"M98 Pb.g ; twice\n  M98 P\"b.g\"\nM0\n":   {Homes: always, Cools: all},
		"M104 S0.0\n":                              {Cools: settings.Cooling{Nozzle: always}},
		"G10 P0 S0 R0\n":                           {Cools: settings.Cooling{Nozzle: always}},
		"M104 S05\nM140 S0\nM109 S180\n;M104 S0\n": {Cools: settings.Cooling{Bed: always}},
	} {
		d, err := dialect.ReadAll(dialect.GCode, []dialect.File{{Name: "Start.g", Text: text}, {Name: "b.g", Text: "G28\n"}})
		if err != nil {
			t.Fatal(err)
		}
		if got, known := settings.MacrosOf(d).Does("0:/sys/start.g"); got != want || !known {
			t.Errorf("%q: got %+v, %t, want %+v", text, got, known, want)
		}
	}
}

// Whatever macros and scripts are, following them ends.
func FuzzMacros(f *testing.F) {
	f.Add("[gcode_macro a]\ngcode:\n  {% if x %}\n  A\n  G28 X\n", "M98 P\"a\"\nM98 P\"b\"\n", "a")
	f.Fuzz(func(t *testing.T, sections, script, name string) {
		host, err := dialect.Read(dialect.Sections, sections)
		if err != nil {
			return
		}
		d, err := dialect.ReadAll(dialect.GCode, []dialect.File{{Name: "a", Text: script}, {Name: name, Text: sections}})
		if err != nil {
			return
		}
		for _, called := range []string{"a", name} {
			settings.MacrosOf(host, d).Does(called)
		}
	})
}
