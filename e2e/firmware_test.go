package e2e

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"

	"wardifex/internal/app"
	"wardifex/internal/core/firmware"
	"wardifex/internal/core/machine"
	"wardifex/internal/demo"
)

// A board arrives with another build than advertised: both are recorded with the build, and the page
// says what differs; a build whose source and configuration are of two versions says so before
// anything is built.
func TestABoardArrivesWithAnotherBuildThanAdvertised(t *testing.T) {
	t.Parallel()
	p := open(t, 1280, 800)
	p.signIn("technician")
	p.visit("/builds")
	p.press("Record a build")
	p.types("Name", "As it came, board 31")
	p.chooses("Family", "compiled")
	p.types("Version the screen shows", "1.1.9")
	p.types("Version of its configuration", "1.1.7")
	p.press("What it was advertised as")
	p.types("Version advertised", "2.0.6")
	p.types("Supplier", "Tern Supplies")
	p.chooses("Bootloader advertised", "yes")
	p.chooses("Bootloader found at delivery", "no")
	p.press("Save")
	p.sees("version 2.0.6 was advertised by Tern Supplies, and 1.1.9 was found")
	p.sees("updates need the in-circuit programmer")
	p.sees("Versions are mixed")
}

// A file name is used twice: the step before the card is written refuses it, and takes another.
func TestAFileNameUsedTwice(t *testing.T) {
	t.Parallel()
	id, err := does(roomOf(t).store).OpenFlash(t.Context(), 1, "", "a feature somebody needs", "Joren Halm", demo.Today)
	if err != nil {
		t.Fatal(err)
	}
	p := open(t, 1280, 800)
	p.signIn("technician")
	p.visit(fmt.Sprintf("/work/%d", id))
	for range 12 {
		p.until("a step", `document.querySelector('#step') !== null`)
		title := value[string](p, `document.querySelector('#step').innerText`)
		if strings.HasPrefix(title, "Name the file") {
			break
		}
		p.fillStep(title)
		p.press("Done, next")
		p.until("the step after "+title, fmt.Sprintf(`document.querySelector('#step')?.innerText !== %q`, title))
	}
	p.sees("The last file flashed was skerry-0408.bin")
	p.types("Name of the file on the card", "SKERRY-0408.BIN")
	p.press("Done, next")
	p.sees("it would be ignored in silence")
	p.types("Name of the file on the card", "avo1120a.bin")
	p.press("Done, next")
	p.sees("Write the card: FAT32")
}

// A feature that does not fit: the page says by how much, and what to leave out for it.
func TestAFeatureThatDoesNotFit(t *testing.T) {
	t.Parallel()
	does := does(roomOf(t).store)
	build, err := does.AddBuild(t.Context(), firmware.Build{Name: "Full to the brim", Family: "compiled", Version: "2.1.0",
		KiB:      220,
		Features: map[string]string{"full mesh levelling": "yes", "arc moves": "yes"}}, "Joren Halm", demo.Today)
	if err != nil {
		t.Fatal(err)
	}
	err = does.StartRun(t.Context(), 5, app.NewRun{Board: "mainboard", BuildID: build, From: demo.Today,
		Grade: machine.Observed,
		How:   "M115"}, "Joren Halm", demo.Today)
	if err != nil {
		t.Fatal(err)
	}
	p := open(t, 1280, 800)
	p.signIn("technician")
	p.visit("/machine/5/firmware")
	p.sees("free of 256 KiB")
	p.chooses("A feature that is wanted", "graphic display, 24 KiB")
	p.sees("It does not fit")
	p.sees("Leave out: full mesh levelling")
	p.chooses("Check a build against this machine", "Full to the brim")
	p.sees("for which parts it was configured is not on record")
}

// Steps that start code overrides are found among the settings, with the value that is likely right and
// the patch; a sliced file with the same override is repaired, and the copy no longer has it.
func TestStepsOverriddenInStartCode(t *testing.T) {
	t.Parallel()
	p := open(t, 1280, 800)
	p.signIn("technician")
	p.visit("/machine/2/settings")
	p.press("Add settings")
	p.chooses("Where these settings live", "start code")
	p.types("Paste them here", "G28\nM92 E415 ; from the old extruder\nM587 S\"net\" P\"seagull\"\n")
	p.press("Keep and compare")
	p.sees("say where the file is kept that holds them")
	p.types("Where the file with its secrets is kept", "office safe")
	p.press("Keep and compare")
	p.sees("prints with this")
	p.sees("95.4 steps/mm is likely right")
	p.sees("+; M92 E415 ; from the old extruder")
	p.sees("1 secret is masked; the file that holds them: office safe")
	if p.says("seagull") {
		t.Error("a secret is shown")
	}
	p.goes("/drift")
	p.sees("415 steps/mm, start code")

	file := sliced(t, "M92 E415\n", 60)
	p.goes("/files")
	p.do(chromedp.SetUploadFiles(`input[type=file]`, []string{file}))
	p.sees("sets Extruder steps per mm to 415 steps/mm, and 95.4 steps/mm is valid")
	p.do(chromedp.Evaluate[chromedp.Void](`URL.createObjectURL = (b) => { window.copy = b; return '#'; }`))
	p.press("Repaired copy for Bittern")
	p.until("the copy", `window.copy !== undefined`)
	p.until("the copy without the override",
		`window.copy.text().then((t) => t.includes('\n; M92 E415\n') && !t.includes('\nM92'))`)
}

// The family of a machine is changed: what is lost is listed, and what has to be measured again.
func TestAChangeOfFamilyListsItsLosses(t *testing.T) {
	t.Parallel()
	p := reads(t, "technician", 1280, 800)
	p.visit("/machine/1/firmware")
	p.chooses("What would become of it in another family?", "hosted")
	p.sees("The stored settings (M500)")
	p.sees("prove it before the machine runs unattended")
	p.sees("as rotation distance")
}

// A host is updated and no longer knows a key: the message is understood, and the line is found and
// commented out.
func TestAHostUpdateWithAnUnknownKey(t *testing.T) {
	t.Parallel()
	p := reads(t, "technician", 1280, 800)
	p.visit("/machine/11/firmware")
	p.types("Paste the message", "Option 'kick_start_time' is not valid in section 'extruder'")
	p.press("Explain the message")
	p.sees("does not know this key any more")
	p.sees("+#kick_start_time: 0.1")
	p.types("Paste the message", "mcu 'mcu': version mismatch")
	p.press("Explain the message")
	p.sees("Rebuild the mainboard's build on this host")
}

// A new version's example takes over a machine's own values; what was decided once is decided for
// every machine of the fleet.
func TestAConfigurationCarriedOver(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	for name, text := range map[string]string{
		"old.cfg": "[extruder]\nrotation_distance: 33\nmicrosteps: 16\nkick_start_time: 0\n",
		"new.cfg": "[extruder]\nrotation_distance: 33 # mm\nmicrosteps: 16\nstart_kick_time: 0\n",
	} {
		if err := os.WriteFile(filepath.Join(dir, name), []byte(text), 0o600); err != nil {
			t.Fatal(err)
		}
	}
	p := open(t, 1280, 800)
	p.signIn("technician")
	p.visit("/carry-over?machine=11")
	p.types("From version", "0.12")
	p.types("To version", "0.13")
	p.sees("printer.cfg, host configuration")
	p.do(chromedp.SetUploadFiles(`form label:nth-of-type(1) input[type=file]`, []string{filepath.Join(dir, "new.cfg")}))
	p.press("Compare")
	p.sees("to be decided")
	p.sees("start_kick_time")
	p.press("under the new name: kick_start_time")
	p.sees("+start_kick_time: 0.1")
	p.sees("+rotation_distance: 22.67 # mm")
}

// A member asks where a file prints: it is refused on one machine, with the line and the reason, and
// welcome on another that is free.
func TestAMembersFile(t *testing.T) {
	t.Parallel()
	p := open(t, 390, 844)
	p.signIn("member")
	p.press("Check a file")
	p.do(chromedp.SetUploadFiles(`input[type=file]`, []string{sliced(t, "G29\n", 248)}))
	p.sees("Nightjar")
	p.sees("prints here")
	p.sees("and the machine has 235 mm")
	first := value[string](p, `document.querySelector('main li').innerText`)
	if !strings.HasPrefix(first, "Nightjar") || !strings.Contains(first, "prints here") {
		t.Errorf("the first machine is %q", first)
	}
	p.press("Book Nightjar")
	p.sees("Book Nightjar")
}

// sliced is a small file that prints so wide, with lines after homing.
func sliced(t *testing.T, after string, wide float64) string {
	t.Helper()
	file := filepath.Join(t.TempDir(), "plate.gcode")
	text := fmt.Sprintf("; nozzle_diameter = 0.4\nM140 S60\nM104 S210\nG28\n%sM82\nG1 Z0.2 F1200\nG1 X2 Y20\nG1 X%g "+
		"Y20 E9\n"+
		"G1 X%g Y60 E12\nM104 S0\nM140 S0\n", after, wide, wide)
	if err := os.WriteFile(file, []byte(text), 0o600); err != nil {
		t.Fatal(err)
	}
	return file
}

// A configuration of two files: what the first takes in is missing and told, and once it is there the value
// is found in it, with its line, and put right there.
func TestAConfigurationOfTwoFiles(t *testing.T) {
	t.Parallel()
	p := open(t, 1280, 800)
	p.signIn("technician")
	p.visit("/machine/11/settings")
	add := func(name, text string) {
		p.press("Add settings")
		p.types("Name", name)
		p.focus("Paste them here")
		p.do(chromedp.KeyEvent(text))
		p.press("Keep and compare")
		p.sees("Settings kept, and compared")
	}
	add("printer.cfg", "[include probe.cfg]\r[extruder]\rmicrosteps: 16\r")
	p.press("1 line could not be read or decided")
	p.sees("it takes in probe.cfg, which is not read here")
	add("probe.cfg", "# the probe\r[probe]\rz_offset: 1.2\r")
	p.sees("host configuration, probe.cfg, line 3")
	p.sees("+++ b/probe.cfg")
	p.until("nothing left open", `!document.body.innerText.includes('could not be read')`)
}

// A build's header takes a protection away and believes in another sensor: it is told before it is flashed.
func TestAHeaderThatTakesProtectionAway(t *testing.T) {
	t.Parallel()
	p := open(t, 1280, 800)
	header := filepath.Join(t.TempDir(), "Configuration.h")
	text := "//#define THERMAL_PROTECTION_HOTENDS\n#define TEMP_SENSOR_0 5\n"
	if err := os.WriteFile(header, []byte(text), 0o600); err != nil {
		t.Fatal(err)
	}
	p.signIn("technician")
	p.visit("/build/2")
	p.sees("Add configuration files")
	p.do(chromedp.SetUploadFiles(`input[type=file][multiple]`, []string{header}))
	p.sees("Protection taken away")
	p.goes("/machine/1/firmware")
	p.chooses("Check a build against this machine", "Skerry plain 2.0.8")
	p.sees("the build does not watch its nozzles")
	p.sees("TEMP_SENSOR_0 5 (line 2), and the machine has 100k thermistor")
}
