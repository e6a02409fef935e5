package firmware_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/dialect"
	"wardifex/internal/core/firmware"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/machine/machinetest"
)

var voc = catalogue.Vocabulary()

// What can be said of a build, and each bound from either side.
func TestBuildCheck(t *testing.T) {
	features := func(n int) map[string]string {
		out := map[string]string{}
		for i := range n {
			out[fmt.Sprint("feature ", i)] = "yes"
		}
		return out
	}
	for name, tt := range map[string]struct {
		build firmware.Build
		want  string // "" it is taken
	}{
		"a name alone":           {firmware.Build{Name: "B"}, ""},
		"no name":                {firmware.Build{}, "name of the build"},
		"8192 KiB":               {firmware.Build{Name: "B", KiB: 8192}, ""},
		"more than any chip has": {firmware.Build{Name: "B", KiB: 8193}, "between 1 and 8192"},
		"a negative size":        {firmware.Build{Name: "B", KiB: -1}, "between 1 and 8192"},
		"a host's version":       {firmware.Build{Name: "B", Family: "hosted", HostVersion: "0.12"}, ""},
		"of another family":      {firmware.Build{Name: "B", Family: "scripted", HostVersion: "0.12"}, "hosted family"},
		"of no family":           {firmware.Build{Name: "B", HostVersion: "0.12"}, "unknown family"},
		"yes and no":             {firmware.Build{Name: "B", Features: map[string]string{"mesh": "yes", "arcs": "no"}}, ""},
		"perhaps": {firmware.Build{Name: "B", Features: map[string]string{"mesh": "perhaps"}},
			"write yes or no"},
		"a comma in a feature": {firmware.Build{Name: "B", Features: map[string]string{"mesh, fine": "yes"}},
			"without a comma"},
		"a feature named no": {firmware.Build{Name: "B", Features: map[string]string{"No arcs": "yes"}},
			"no name of a feature"},
		"200 features": {firmware.Build{Name: "B", Features: features(200)}, ""},
		"201 features": {firmware.Build{Name: "B", Features: features(201)}, "at most 200"},
		"for a probe": {firmware.Build{Name: "B",
			ConfiguredFor: map[machine.Key]string{"probe.senses": "surface, by touch"}}, ""},
		"for a nozzle": {firmware.Build{Name: "B", ConfiguredFor: map[machine.Key]string{"nozzle.bore": "0.4"}},
			"not configured for"},
		"for a ghost": {firmware.Build{Name: "B", ConfiguredFor: map[machine.Key]string{"ghost.size": "1"}},
			"not configured for"},
		"for no such sense": {firmware.Build{Name: "B", ConfiguredFor: map[machine.Key]string{"probe.senses": "smell"}},
			"senses"},
	} {
		if err := said(tt.build.Check(voc)); (err == "") != (tt.want == "") || !strings.Contains(err, tt.want) {
			t.Errorf("%s: %q, want %q", name, err, tt.want)
		}
	}
}

func said(err error) string {
	if err == nil {
		return ""
	}
	return err.Error()
}

// A board runs one build at a time, each for a while.
func TestCheckRun(t *testing.T) {
	now := time.Date(2026, 5, 1, 12, 0, 0, 0, time.UTC)
	on := func(day int) time.Time { return now.AddDate(0, 0, day) }
	others := []firmware.Run{{Slot: "firmware", From: on(-20), To: on(-10)}, {Slot: "firmware", From: on(-5)}}
	for name, tt := range map[string]struct {
		run  firmware.Run
		want string
	}{
		"between the two":           {firmware.Run{Slot: "firmware", From: on(-10), To: on(-5)}, ""},
		"into the one that runs":    {firmware.Run{Slot: "firmware", From: on(-10), To: on(-4)}, "is running still"},
		"into the one before":       {firmware.Run{Slot: "firmware", From: on(-11), To: on(-5)}, "ran until 21 Apr 2026"},
		"before both":               {firmware.Run{Slot: "firmware", From: on(-30), To: on(-20)}, ""},
		"around both":               {firmware.Run{Slot: "firmware", From: on(-30)}, "one build at a time"},
		"on another board":          {firmware.Run{Slot: "firmware-2", From: on(-30)}, ""},
		"ends as it begins":         {firmware.Run{Slot: "firmware", From: on(-10), To: on(-10)}, "before it begins"},
		"ends before it begins":     {firmware.Run{Slot: "firmware", From: on(-8), To: on(-9)}, "before it begins"},
		"begins tomorrow":           {firmware.Run{Slot: "firmware-2", From: on(1)}, "has come"},
		"ends tomorrow":             {firmware.Run{Slot: "firmware-2", From: on(-1), To: on(1)}, "has come"},
		"begins now, and is alone":  {firmware.Run{Slot: "firmware-2", From: now}, ""},
		"begins as the other began": {firmware.Run{Slot: "firmware", From: on(-5)}, "is running still"},
	} {
		if err := said(firmware.CheckRun(tt.run, others, now)); (err == "") != (tt.want == "") ||
			!strings.Contains(err, tt.want) {
			t.Errorf("%s: %q, want %q", name, err, tt.want)
		}
	}
}

// What a build is configured for against what is fitted: only what is known on both sides
// and differs is a mismatch. What a build states of which part: common practice.
func TestMismatches(t *testing.T) {
	for name, tt := range map[string]struct {
		fitted     map[string]string
		configured map[machine.Key]string
		want       string
	}{
		"the same": {map[string]string{"sensor.type": "Pt100"},
			map[machine.Key]string{"sensor.type": "Pt100"}, ""},
		"another sensor": {map[string]string{"sensor.type": "Pt100"},
			map[machine.Key]string{"sensor.type": "100k thermistor"}, "configured for 100k thermistor, and Pt100 is fitted"},
		"another sensor, it is claimed": {map[string]string{"sensor.type": "Pt100/claimed"},
			map[machine.Key]string{"sensor.type": "100k thermistor"}, "as claimed"},
		"nobody knows what is fitted": {nil, map[machine.Key]string{"sensor.type": "100k thermistor"}, ""},
		"in conflict": {map[string]string{"sensor.type": "Pt100|Pt1000"},
			map[machine.Key]string{"sensor.type": "100k thermistor"}, ""},
		"nobody knows the build": {map[string]string{"sensor.type": "Pt100"}, nil, ""},
		"another make of endstop": {map[string]string{"z-endstop.model": "optical"},
			map[machine.Key]string{"z-endstop.model": "lever"}, ""},
		"no endstop any more": {map[string]string{"z-endstop.model": "none"},
			map[machine.Key]string{"z-endstop.model": "lever"}, "configured for lever"},
		"two motors on one driver": {map[string]string{"z-drive.motors": "two on one driver"},
			map[machine.Key]string{"z-drive.motors": "one"}, ""},
		"two motors on two drivers": {map[string]string{"z-drive.motors": "two on two drivers"},
			map[machine.Key]string{"z-drive.motors": "one"}, "two on two drivers is fitted"},
		"a larger volume": {map[string]string{"frame.z": "480"}, map[machine.Key]string{"frame.z": "250"},
			"configured for 250 mm, and 480 mm"},
		"a nozzle, which it states not": {map[string]string{"nozzle.bore": "0.6"},
			map[machine.Key]string{"nozzle.bore": "0.4"}, ""},
		"what cannot be": {map[string]string{"sensor.type": "Pt100"}, map[machine.Key]string{"sensor.type": "porridge"}, ""},
	} {
		text := ""
		for _, m := range firmware.Mismatches(machinetest.Facts(voc, tt.fitted), tt.configured) {
			text += m.Says
			if m.Leans {
				text += " as claimed"
			}
			if (m.Hazard != "") != strings.HasPrefix(string(m.Key), "sensor") {
				t.Errorf("%s: hazard %q", name, m.Hazard)
			}
		}
		if (text == "") != (tt.want == "") || !strings.Contains(text, tt.want) {
			t.Errorf("%s: %q, want %q", name, text, tt.want)
		}
	}
}

// A build made for a machine as it is has no mismatch with it, and states what the parts
// ask.
func TestConfigurationIsWhatIsAsked(t *testing.T) {
	s := machinetest.Facts(voc, map[string]string{
		"sensor.type": "Pt100", "probe.senses": "metal, without touch", "z-endstop.model": "none", "frame.x": "235",
		"nozzle.bore": "0.4", "display.kind": "driven by the board/claimed",
	})
	configured := firmware.Configuration(s)
	if len(firmware.Mismatches(s, configured)) != 0 {
		t.Errorf("made for it, and %v", firmware.Mismatches(s, configured))
	}
	asks := firmware.Asks(s)
	if len(asks) != len(configured) || len(asks) != 5 {
		t.Errorf("%d asked, %d stated: %v", len(asks), len(configured), asks)
	}
	for _, a := range asks {
		if configured[a.Key] == "" {
			t.Errorf("%s is asked and not stated", a.Label)
		}
	}
}

// The headers of a configuration say themselves of which version they are. Source of the words: from
// memory.
func TestConfigurationPairs(t *testing.T) {
	for text, want := range map[string]string{
		"#define CONFIGURATION_H_VERSION 02000600\n":                                               "",
		"#define CONFIGURATION_H_VERSION 02010205\n":                                               "line 1 says that",
		"#define CONFIGURATION_H_VERSION 02000601\n":                                               "",
		"//#define CONFIGURATION_H_VERSION 02010205\n":                                             "",
		"#define CONFIGURATION_H_VERSION 02000600\n#define CONFIGURATION_ADV_H_VERSION 02000500\n": "line 2 says that",
		"#define CONFIGURATION_H_VERSION old\n":                                                    "",
	} {
		d, err := dialect.Read(dialect.Header, text)
		if err != nil {
			t.Fatal(err)
		}
		got := strings.Join(firmware.Build{Version: "2.0.6 (Nov 20)"}.PairsWith(d), "; ")
		if (got == "") != (want == "") || !strings.Contains(got, want) {
			t.Errorf("%q: %q, want %q", text, got, want)
		}
	}
}

// A part of a host is behind where the same host version goes with a newer one elsewhere.
func TestBehind(t *testing.T) {
	other := firmware.Build{Name: "quay host", Family: "hosted", HostVersion: "v0.12.0-85", APIVersion: "0.9.3",
		PageVersion: "2.30.1", AddOns: "Bed sensing 1.4.0, timer v0.2"}
	for name, c := range map[string]struct {
		of   firmware.Build
		want string
	}{
		"all alike":                {other, ""},
		"older API server":         {firmware.Build{HostVersion: "0.12.0", APIVersion: "0.9.2"}, "API server is 0.9.2"},
		"newer API server":         {firmware.Build{HostVersion: "0.12.0", APIVersion: "0.10.0"}, ""},
		"older API, another host":  {firmware.Build{HostVersion: "0.11.0", APIVersion: "0.8.0"}, ""},
		"before the release":       {firmware.Build{HostVersion: "0.12.0", PageVersion: "2.30.1-rc2"}, "is 2.30.1-rc2"},
		"written shorter":          {firmware.Build{HostVersion: "0.12", APIVersion: "0.9.0"}, "its API server"},
		"an add-on, other letters": {firmware.Build{HostVersion: "0.12.0", AddOns: "bed sensing: 1.3.9"}, "sensing is 1.3.9"},
		"an add-on of no version":  {firmware.Build{HostVersion: "0.12.0", AddOns: "bed sensing"}, ""},
		"compiled":                 {firmware.Build{Family: "compiled", HostVersion: "0.12.0", APIVersion: "0.1.0"}, ""},
	} {
		if c.of.Family == "" {
			c.of.Family = "hosted"
		}
		got := strings.Join(c.of.Behind([]firmware.Build{other, {Name: "unknown", Family: "hosted"}, c.of}), "; ")
		if (got == "") != (c.want == "") || !strings.Contains(got, c.want) {
			t.Errorf("%s: %q, want %q", name, got, c.want)
		}
	}
}
