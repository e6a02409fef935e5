package demo

import (
	"fmt"
	"math"
	"strings"

	"wardifex/internal/app"
	"wardifex/internal/core/civil"
	"wardifex/internal/core/drift"
	"wardifex/internal/store"
)

// settingsTexts are settings that somebody put on record: a start code that was left over from another
// extruder, a card that carries an offset of its own, a host's configuration with a password in it.
var settingsTexts = []struct {
	machine  string
	place    drift.Where
	name     string
	original string
	text     string
}{
	{"Avocet", drift.StoredSettings, "M503 of 12 November", "", `echo:  G21    ; Units in mm
echo:Steps per unit:
echo:  M92 X80.00 Y80.00 Z400.00 E95.40
echo:PID settings:
echo:  M301 P21.70 I1.60 D74.00
echo:Maximum feedrates:
echo:  M203 X500.00 Y500.00 Z5.00 E25.00
`},
	{"Avocet", drift.StartCode, "loft profile", "", `; start of the loft profile
G28 ; home
M92 E415 ; dual drive
G92 E0
G1 Z2.0 F3000
`},
	{"Kittiwake", drift.HostConfiguration, "printer.cfg", "fire-proof box in the office, card K3", `[include macros.cfg]

[mcu]
serial: /dev/serial/by-id/usb-kittiwake-main

[stepper_x]
step_pin: PE2
microsteps: 16
rotation_distance: 40
position_max: 255

[extruder]
microsteps: 16
full_steps_per_rotation: 200
gear_ratio: 50:17
rotation_distance: 22.67 # mm of filament for one turn
nozzle_diameter: 0.4
max_temp: 280
kick_start_time: 0.1

[probe]
x_offset: 0
y_offset: 24
z_offset: 1.2

[camera]
password: seagull-7

#*# <---------------------- SAVE_CONFIG ---------------------->
#*# [probe]
#*# z_offset = 1.850
`},
	{"Kittiwake", drift.HostConfiguration, "macros.cfg", "", `# What the slicer's profile calls.
[gcode_macro START_PRINT]
gcode:
  M140 S{params.BED}
  G28
  {% if params.MESH|default(1)|int %}
  BED_MESH_CALIBRATE
  {% endif %}
  M109 S{params.NOZZLE}

[gcode_macro END_PRINT]
gcode:
  TURN_OFF_HEATERS
`},
}

// settingsFiles puts settings, sliced files, ways back and a decision on record.
func (w *writer) settingsFiles() {
	for _, x := range settingsTexts {
		if w.err != nil {
			return
		}
		_, err := w.a.AddSettings(w.ctx, app.NewSettings{MachineID: w.ids[x.machine], Place: x.place, Name: x.name,
			Original: x.original, Text: []byte(x.text), TakenAt: day("2026-11-12")}, technician, Today)
		w.do(err)
	}
	w.cardSettings()
	for _, f := range []struct {
		name string
		text string
	}{
		{"fairlead-3-pieces.gcode", sliced(60, 60, 12, 210, 60, "PLA", "G29\n")},
		{"drawer-front.gcode", sliced(232, 180, 18, 215, 60, "PLA", "")},
		{"name-plate-old-profile.gcode", sliced(120, 40, 3, 215, 60, "PLA", "M92 E415\n")},
		{"gear-housing.gcode", sliced(150, 150, 60, 285, 110, "PA-CF", "G29\n")},
		{"net-float.gcode", byMacros(sliced(80, 80, 40, 225, 70, "PETG", ""))},
	} {
		if w.err != nil {
			return
		}
		_, err := w.a.JudgeFile(w.ctx, 0, f.name, member, strings.NewReader(f.text), Today.AddDate(0, 0, -2))
		w.do(err)
	}
	if w.err != nil {
		return
	}
	_, err := w.a.AddWayBack(w.ctx, store.WayBack{Kind: "host card", Name: "card K3, before the spring update",
		Place: "fire-proof box in the office", MachineID: w.ids["Kittiwake"], MadeOn: civil.Of(day("2026-03-02"))},
		technician, Today)
	w.do(err)
	w.do(w.a.DecideFlash(w.ctx, w.ids["Bittern"], store.FlashDecision{Answer: "leave it alone",
		Reason: "it prints, and nothing that is wanted needs another build"}, lead, day("2026-05-04")))
	w.do(w.a.DecideFlash(w.ctx, w.ids["Curlew"], store.FlashDecision{Answer: "wanted", Reason: "an upgrade needs it",
		Unlocks: "the contact probe"}, technician, day("2026-10-20")))
}

// cardSettings are those on the blue card, which was in another machine before.
func (w *writer) cardSettings() {
	if w.err != nil {
		return
	}
	_, err := w.a.AddSettings(w.ctx, app.NewSettings{MachineID: w.ids["Yaffle"], Place: drift.CardFile,
		Name: "EEPROM.DAT as text",
		Card: true, Text: []byte("M92 E95.40\nM851 X0 Y0 Z-0.90\n"), TakenAt: day("2026-11-16")}, technician, Today)
	w.do(err)
}

// byMacros leaves the start and the end of a file to macros of a host's configuration.
func byMacros(text string) string {
	return strings.NewReplacer("G28\n", "START_PRINT BED=70 NOZZLE=225\n", "M104 S0\nM140 S0\n", "END_PRINT\n").
		Replace(text)
}

// sliced writes a small file as a slicer does: so wide, deep and high, mm, at these temperatures.
func sliced(x, y, z float64, hot, bed int, filament, after string) string {
	var b strings.Builder
	fmt.Fprintf(&b, "; nozzle_diameter = 0.4\n; filament_type = %s\n; layer_height = 0.2\nM140 S%d\nM104 S%d\nM190 "+
		"S%d\nM109 S%d\n"+
		"G28\n%sG92 E0\nM82\n", filament, bed, hot, bed, hot, after)
	e, low := 0.0, 117.5
	for layer := 1; float64(layer)*0.2 <= z; layer++ {
		fmt.Fprintf(&b, ";LAYER:%d\nG0 F9000 X%.3f Y%.3f Z%.2f\n", layer, low-x/2, low-y/2, float64(layer)*0.2)
		for line := 0.0; line <= math.Min(y, 40); line += 4 {
			e += x * 0.033
			fmt.Fprintf(&b, "G1 F2400 X%.3f Y%.3f E%.5f\n", low+x/2, low-y/2+line*y/math.Min(y, 40), e)
			e += x * 0.033
			fmt.Fprintf(&b, "G1 X%.3f Y%.3f E%.5f\n", low-x/2, low-y/2+line*y/math.Min(y, 40), e)
		}
	}
	b.WriteString("M104 S0\nM140 S0\nG0 X5 Y220\n")
	return b.String()
}
