package app_test

import (
	"strings"
	"testing"

	"wardifex/internal/app"
	"wardifex/internal/core/calibration"
	"wardifex/internal/core/carryover"
	"wardifex/internal/core/change"
	"wardifex/internal/core/drift"
	"wardifex/internal/core/firmware"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/settings"
	"wardifex/internal/postgres/pgtest"
	"wardifex/internal/store"
)

// Settings are kept without their secrets, and only where it is known where those are; one of the same
// name in the same place is replaced; what they state is held against the record, on the machine's
// page, on its sheet and over the fleet.
func TestSettingsOnRecord(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	id := add(t, s, "Avocet", map[string]string{"firmware.family": "compiled", "probe.model": "none"})
	add(t, s, "Bittern", map[string]string{"firmware.family": "hosted"})
	calibrate(t, s, id, calibration.Steps, change.Data{Value: "95", Store: calibration.StoreSettings})
	keep := func(place drift.Where, name, original, text string) error {
		_, err := does(s).AddSettings(ctx, app.NewSettings{MachineID: id, Place: place, Name: name, Original: original,
			Text: []byte(text)}, "Ansa", now)
		return err
	}
	const secret = "M92 E415\nM587 S\"net\" P\"hunter2\"\n"
	refused(t, keep(drift.StartCode, "profile", "", secret), "1 secret, which would be masked")
	refused(t, keep(drift.StoredSettings, "printer.cfg", "", "[extruder]\nmicrosteps: 16\n"), "choose the machine's "+
		"own file")
	refused(t, keep(drift.StoredSettings, "fw.bin", "", "G28\x00\x01"), "bytes that are no text")
	refused(t, keep("nowhere", "x", "", "M92 E1"), "settings live in one of")
	files, err := s.SettingsFiles(ctx, 0)
	must(t, err)
	if len(files) != 0 {
		t.Fatalf("%d files were kept of what was refused", len(files))
	}
	must(t, keep(drift.StartCode, "profile", "office safe", secret))
	must(t, keep(drift.StartCode, "Profile", "office safe", secret+"M92 E416\n"))
	view, err := does(s).MachineSettings(ctx, id)
	must(t, err)
	if len(view.Files) != 1 || view.Files[0].Secrets != 1 || len(view.Files[0].Twice) != 1 {
		t.Fatalf("%+v", view.Files)
	}
	if len(view.Values) != 1 || view.Values[0].Stands != "95 steps/mm" || !strings.HasPrefix(view.Values[0].InForce,
		"start code") ||
		len(view.Values[0].Patches) != 1 {
		t.Errorf("%+v", view.Values)
	}
	text, err := does(s).SettingsFile(ctx, view.Files[0].ID)
	must(t, err)
	if strings.Contains(text.Text, "hunter2") || len(text.States) != 1 {
		t.Errorf("%q states %+v", text.Text, text.States)
	}
	fleet, err := does(s).FleetDrift(ctx)
	must(t, err)
	if fleet.Read != 1 || fleet.None != 1 || len(fleet.Machines) != 1 {
		t.Errorf("%+v", fleet)
	}
	must(t, does(s).EndSettings(ctx, view.Files[0].ID, now))
	if view, err = does(s).MachineSettings(ctx, id); err != nil || len(view.Files) != 0 || len(view.Values) != 0 {
		t.Errorf("%v, %+v", err, view)
	}
}

// A script that is called is shown as one, and what it sets on its way is held against nothing.
func TestScriptsOfAMachine(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	id := add(t, s, "Avocet", map[string]string{"firmware.family": "scripted"})
	for name, text := range map[string]string{"config.g": "M906 E800\n", "begin.g": "M906 E400\nG28\nM906 E700\n"} {
		_, err := does(s).AddSettings(ctx, app.NewSettings{MachineID: id, Place: drift.StoredSettings, Name: name,
			Text: []byte(text)}, "Ansa", now)
		must(t, err)
	}
	view, err := does(s).MachineSettings(ctx, id)
	must(t, err)
	if len(view.Values) != 0 || len(view.Files) != 2 {
		t.Fatalf("%+v", view)
	}
	for _, f := range view.Files {
		if f.Called != (f.Name == "begin.g") || f.Values != 1 || len(f.Twice) > 0 {
			t.Errorf("%+v", f)
		}
	}
}

// Files that take one another in are one configuration: what one leaves open the other says, a value is
// put right in the file where it stands, and what is wrong is told with its file.
func TestSeveralFilesAreOneConfiguration(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	id := add(t, s, "Avocet", map[string]string{"firmware.family": "hosted", "probe.model": "Lodestar"})
	calibrate(t, s, id, calibration.ProbeXY, change.Data{Numbers: []string{"-44", "-8"}, Store: calibration.StoreHost})
	keep := func(name, text string) error {
		_, err := does(s).AddSettings(ctx, app.NewSettings{MachineID: id, Place: drift.HostConfiguration, Name: name,
			Text: []byte(text)}, "Ansa", now)
		return err
	}
	must(t, keep("printer.cfg", "[include head/probe.cfg]\n[include gone.cfg]\n[extruder]\nmicrosteps: 16\n"))
	must(t, keep("probe.cfg", "# probe\n[probe]\nx_offset: -40\ny_offset: -8\n[include printer.cfg]\n[extruder]\n"+
		"rotation_distance: 8\n"))
	refused(t, keep("other.h", "#define A 1\n"), "choose the machine's own file")
	view, err := does(s).MachineSettings(ctx, id)
	must(t, err)
	if len(view.Files) != 2 || view.Files[0].Values != 1 || view.Files[1].Values != 2 {
		t.Fatalf("%+v", view.Files)
	}
	if f := view.Files[0].Faults; len(f) != 1 || f[0].Line != 2 || !strings.Contains(f[0].Says, "gone.cfg") {
		t.Errorf("%+v", f)
	}
	if f := view.Files[1].Faults; len(f) != 1 || f[0].Line != 5 || !strings.Contains(f[0].Says, "in again") {
		t.Errorf("%+v", f)
	}
	if len(view.Values) == 0 || len(view.Values[0].Patches) != 1 {
		t.Fatalf("%+v", view.Values)
	}
	if p := view.Values[0].Patches[0]; p.Name != "probe.cfg" || p.Line != 3 ||
		!strings.Contains(p.Diff, "+++ b/probe.cfg\n@@ -1,6 +1,6 @@\n # probe\n [probe]\n-x_offset: -40\n"+
			"+x_offset: -44\n y_offset: -8\n") {
		t.Errorf("%+v", p)
	}
	text, err := does(s).SettingsFile(ctx, view.Files[1].ID)
	must(t, err)
	if len(text.States) != 2 || text.States[0].Line != 3 || text.States[1].Line != 7 {
		t.Errorf("%+v", text.States)
	}
}

// What stands on a card goes with the card: it counts for the machine that the card is in.
func TestSettingsOfACard(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	of := map[string]string{"firmware.family": "compiled", "probe.model": "Lodestar", "card.model": "blue card"}
	a, b := add(t, s, "Avocet", of), add(t, s, "Bittern", map[string]string{"firmware.family": "compiled"})
	card := app.NewSettings{MachineID: b, Place: drift.CardFile, Name: "values", Card: true, Text: []byte("M851 Z-1.85\n")}
	_, err := does(s).AddSettings(ctx, card, "Ansa", now)
	refused(t, err, "no card is on record in Bittern")
	card.MachineID = a
	_, err = does(s).AddSettings(ctx, card, "Ansa", now)
	must(t, err)
	count := func(id int64) int {
		t.Helper()
		v, err := does(s).MachineSettings(ctx, id)
		must(t, err)
		return len(v.Files)
	}
	if count(a) != 1 || count(b) != 0 {
		t.Errorf("%d and %d files", count(a), count(b))
	}
}

// A word of the shop counts over the program's, until it is deleted; one that means nothing is refused.
func TestWordsOfTheShop(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	id := add(t, s, "Avocet", map[string]string{"firmware.family": "hosted", "probe.model": "Lodestar"})
	_, err := does(s).AddSettings(ctx, app.NewSettings{MachineID: id, Place: drift.HostConfiguration, Name: "printer.cfg",
		Text: []byte("[feeler]\nz_offset: 1.85\n")}, "Ansa", now)
	must(t, err)
	values := func() int {
		t.Helper()
		v, err := does(s).MachineSettings(ctx, id)
		must(t, err)
		return v.Files[0].Values
	}
	w := settings.Word{Family: "hosted", Form: "sections of keys", Section: "feeler", Word: "z_offset",
		Calibration: calibration.ZOffset, Of: "head 1", As: settings.TriggerHeight}
	if values() != 0 {
		t.Error("the word is known already")
	}
	must(t, does(s).SaveWord(ctx, w, "Ansa", now))
	must(t, does(s).SaveWord(ctx, w, "Ansa", now))
	list, err := does(s).ShopWords(ctx)
	must(t, err)
	if values() != 1 || len(list) != 1 {
		t.Errorf("%d values are known, by %+v", values(), list)
	}
	must(t, does(s).DropWord(ctx, list[0].ID))
	if values() != 0 {
		t.Error("a deleted word counts")
	}
	for says, change := range map[string]func(*settings.Word){
		"choose the machine's own file": func(w *settings.Word) { w.Family = "compiled" },
		"no word of":                    func(w *settings.Word) { w.Word = "a b" },
		"has the section":               func(w *settings.Word) { w.Section = "" },
		"say either":                    func(w *settings.Word) { w.Calibration = "" },
		"there is no calibration":       func(w *settings.Word) { w.Calibration = "nothing" },
		"made of 1 numbers":             func(w *settings.Word) { w.Part = 2 },
		"no kind of part has":           func(w *settings.Word) { w.Calibration, w.Trait = "", "frame.smell" },
		"kitchen":                       func(w *settings.Word) { w.Of = "kitchen" },
	} {
		bad := w
		change(&bad)
		refused(t, does(s).SaveWord(ctx, bad, "Ansa", now), says)
	}
}

// What was decided about a word once is decided for every machine that goes between the two versions.
func TestDecidedOnceForTheFleet(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	var own []int64
	for _, name := range []string{"Avocet", "Bittern"} {
		id := add(t, s, name, map[string]string{"firmware.family": "hosted"})
		file, err := does(s).AddSettings(ctx, app.NewSettings{MachineID: id, Place: drift.HostConfiguration,
			Name: "printer.cfg",
			Text: []byte("[fan]\nkick: 1\n[extruder]\nmax_temp: 300\n")}, "Ansa", now)
		must(t, err)
		own = append(own, file)
	}
	carry := func(own int64, to string) carryover.Carried {
		t.Helper()
		c, err := does(s).CarryOver(ctx, app.CarryOver{Own: own, Example: []byte("[extruder]\nmax_temp: " +
			"250\n[fan]\nspeed: 1\n"),
			From: "1", To: to})
		must(t, err)
		return c
	}
	if c := carry(own[0], "2"); c.Open != 1 || !strings.Contains(c.Text, "max_temp: 300") {
		t.Errorf("%+v", c)
	}
	v := store.Versions{Family: "hosted", From: "1", To: "2"}
	must(t, does(s).DecideCarryover(ctx, v, carryover.Decision{Section: "fan", Word: "kick", Action: carryover.LeaveOut},
		"Ansa", now))
	if a, b := carry(own[1], "2"), carry(own[1], "3"); a.Open != 0 || b.Open != 1 {
		t.Errorf("%d and %d are open", a.Open, b.Open)
	}
	_, err := does(s).CarryOver(ctx, app.CarryOver{Own: own[0], Example: []byte("#define A 1\n"), From: "1", To: "2"})
	refused(t, err, "choose one of the same family")
}

// The firmware of a machine: what is decided, the ways back, the file of a build with its checksum,
// and one build held against all machines.
func TestFirmwareOfAMachine(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	known := map[string]string{"firmware.family": "compiled", "mainboard.flash": "256", "mainboard.upload": "memory card",
		"firmware.file": "old.bin", "probe.senses": "surface, by touch", "sensor.type": "100k thermistor"}
	id := add(t, s, "Avocet", known)
	other := add(t, s, "Bittern", map[string]string{"probe.senses": "metal, without touch"})
	build, err := does(s).AddBuild(ctx, firmware.Build{Name: "B", Family: "compiled", File: "OLD.bin", KiB: 200,
		ConfiguredFor: map[machine.Key]string{"probe.senses": "surface, by touch"}}, "Ansa", now)
	must(t, err)
	list, err := does(s).BuildForMachines(ctx, build)
	must(t, err)
	if !list[0].Fits || list[0].MachineID != id || list[1].Fits || list[1].MachineID != other || len(list[1].Apart) != 1 {
		t.Errorf("%+v", list)
	}
	checks, err := does(s).FlashChecks(ctx, id, build, now)
	must(t, err)
	if checks.Checks[0].What != "File name" || checks.Checks[0].Level != firmware.GuardStops {
		t.Errorf("%+v", checks.Checks)
	}
	must(t, does(s).AddBuildFile(ctx, build, store.BuildFile{Name: "b.bin"}, []byte{1, 2, 3}, "Ansa", now))
	refused(t, does(s).AddBuildFile(ctx, build, store.BuildFile{Name: "c.bin"}, []byte{4}, "Ansa", now),
		"another checksum")
	refused(t, does(s).AddBuildFile(ctx, build, store.BuildFile{Name: "c.h"},
		[]byte("#define WIFI_PASSWORD \"hunter2\"\n#define A 1\n"), "Ansa", now), "1 secret, and no built file")
	_, err = does(s).AddSettings(ctx, app.NewSettings{BuildID: build, Place: drift.BuildConfiguration, Name: "c.h",
		Text: []byte("//#define THERMAL_PROTECTION_HOTENDS\n#define TEMP_SENSOR_0 5\n#define X_BED_SIZE 300\n")}, "Ansa", now)
	must(t, err)
	checks, err = does(s).FlashChecks(ctx, id, build, now)
	must(t, err)
	var stops []string
	for _, g := range checks.Checks {
		if g.Level == firmware.GuardStops {
			stops = append(stops, g.What+": "+g.Says)
		}
	}
	for _, want := range []string{"THERMAL_PROTECTION_HOTENDS, line 1: the build does not watch its nozzles",
		"TEMP_SENSOR_0 5 (line 2), and the machine has 100k thermistor"} {
		if !strings.Contains(strings.Join(stops, "; "), want) {
			t.Errorf("%q does not say %q", stops, want)
		}
	}
	files, err := s.BuildFiles(ctx, build)
	must(t, err)
	for _, f := range files {
		if _, content, err := s.BuildFile(ctx, build, f.ID); err != nil || strings.Contains(string(content), "hunter2") {
			t.Errorf("%s: %v %q", f.Name, err, content)
		}
	}
	must(t, does(s).DecideFlash(ctx, id, store.FlashDecision{Answer: "leave it alone", Reason: "it works"}, "Ansa", now))
	must(t, does(s).DecideFlash(ctx, id, store.FlashDecision{Answer: "wanted", Reason: "a mesh", Unlocks: "the probe"},
		"Ansa", now))
	back, err := does(s).AddWayBack(ctx, store.WayBack{Kind: "backup", Name: "old", Place: "shelf 2", MachineID: id,
		MadeOn: 1},
		"Ansa", now)
	must(t, err)
	f, err := does(s).FirmwareOf(ctx, id, now)
	must(t, err)
	if f.Decision.Answer != "wanted" || len(f.WaysBack) != 1 || f.Memory.KiB != 256 || f.Last != "old.bin" ||
		strings.EqualFold(f.Propose, "old.bin") {
		t.Errorf("%+v", f)
	}
	must(t, does(s).EndWayBack(ctx, id, back, now))
	if err := does(s).EndWayBack(ctx, id, back, now); err == nil {
		t.Error("what is gone went again")
	}
	_, err = does(s).OpenHostUpdate(ctx, id, "a reason", "Ansa", now)
	refused(t, err, "has no host on record")
}

// Examples that are sent in to be compared are kept for a day without their secrets.
func TestExamplesAreMasked(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	account := addUser(t, s, "mira")
	up, err := does(s).UploadSettings(ctx, account, "example.cfg", strings.NewReader("[a]\npassword: hunter2\nb: 1\n"))
	must(t, err)
	content, release, err := does(s).Uploaded(ctx, account, up.SHA256)
	must(t, err)
	defer release()
	if string(content) != "[a]\npassword: •••\nb: 1\n" {
		t.Errorf("kept: %q", content)
	}
	_, err = does(s).UploadSettings(ctx, account, "large", strings.NewReader(strings.Repeat("x\n", 4<<20+1)))
	refused(t, err, "larger than 8 MiB")
}
