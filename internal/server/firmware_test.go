package server_test

import (
	"net/url"
	"strings"
	"testing"
)

// From settings that are sent in to the patch, over the API: secrets masked, roles kept, a family
// that is not the machine's refused.
func TestSettingsOverTheAPI(t *testing.T) {
	t.Parallel()
	address, _ := start(t)
	member, technician := signedIn(t, address, "member"), signedIn(t, address, "technician")
	technician.wants(200, `"id":1`, "POST", "/api/machines",
		body{"name": "Avocet", "bay": "", "maker": "", "serial": "", "note": ""})
	for key, value := range map[string]string{"firmware.family": "compiled", "extruder.steps": "415"} {
		technician.wants(200, "", "POST", "/api/machines/1/readings",
			body{"key": key, "value": value, "grade": "observed", "how": "seen"})
	}
	send := func(query, text string) (int, string) {
		t.Helper()
		return technician.call("POST", "/api/machines/1/settings?"+query, []byte(text))
	}
	place := func(place, name string, more ...string) string {
		q := url.Values{"place": {place}, "name": {name}}
		for i := 0; i+1 < len(more); i += 2 {
			q.Set(more[i], more[i+1])
		}
		return q.Encode()
	}
	for query, want := range map[string]string{
		place("start code", "profile"):                "say where the file is kept",
		place("attic", "profile", "original", "safe"): "Settings live in one of: build configuration, host",
		"name=x": "place",
		place("start code", "a\nb", "original", "safe"):    "Name of the file",
		place("start code", "x", "taken", "the day of it"): "the day of it",
	} {
		if status, text := send(query, "M92 E95\nM551 Psecret\n"); status != 422 || !strings.Contains(text, want) {
			t.Errorf("%s: %d %s, want %q", query, status, text, want)
		}
	}
	if status, text := send(place("host configuration", "cfg"), "[extruder]\nmicrosteps: 16\n"); status != 422 ||
		!strings.Contains(text, "sections of keys") {
		t.Errorf("%d %s", status, text)
	}
	status, text := send(place("start code", "profile", "original", "safe"), "M92 E95\nM551 Psecret\n")
	if status != 200 || !strings.Contains(text, `"inForce":"start code, profile"`) || !strings.Contains(text,
		`+; M92 E95`) {
		t.Errorf("%d %s", status, text)
	}
	technician.wants(200, "M551 P•••", "GET", "/api/settings-files/1", nil)
	member.wants(403, "", "GET", "/api/settings-files/1", nil)
	member.wants(200, "95 steps/mm", "GET", "/api/machines/1/settings", nil)
	technician.wants(200, `"read":1`, "GET", "/api/drift", nil)
	member.wants(200, "start code, profile", "GET", "/api/machines/1", nil) // beside the calibration, on the sheet
	technician.wants(204, "", "POST", "/api/settings-files/1/end", nil)
	technician.wants(404, "", "POST", "/api/settings-files/1/end", nil)
	technician.wants(204, "", "POST", "/api/settings-files/1/keep", nil)
	technician.wants(404, "", "POST", "/api/settings-files/1/keep", nil)
	technician.wants(200, `"read":1`, "GET", "/api/drift", nil)
	technician.wants(204, "", "POST", "/api/settings-files/1/end", nil)

	word := body{"family": "compiled", "form": "C header", "word": "MY_E_STEPS", "calibration": "steps-per-mm",
		"of": "head 1"}
	technician.wants(204, "", "POST", "/api/setting-words", word)
	word["calibration"] = "astrology"
	technician.wants(422, "There is no calibration", "POST", "/api/setting-words", word)
	technician.wants(200, "MY_E_STEPS", "GET", "/api/setting-words", nil)
	technician.wants(204, "", "POST", "/api/setting-words/1/delete", nil)
	technician.wants(404, "", "POST", "/api/setting-words/1/delete", nil)
}

// What is asked of a machine's firmware, over the API.
func TestFirmwareOverTheAPI(t *testing.T) {
	t.Parallel()
	address, _ := start(t)
	technician := signedIn(t, address, "technician")
	technician.wants(200, `"id":1`, "POST", "/api/machines",
		body{"name": "Avocet", "bay": "", "maker": "", "serial": "", "note": ""})
	for key, value := range map[string]string{"firmware.family": "hosted", "mainboard.flash": "256"} {
		technician.wants(200, "", "POST", "/api/machines/1/readings",
			body{"key": key, "value": value, "grade": "observed", "how": "seen"})
	}
	technician.wants(200, `"families":["compiled","scripted"]`, "GET", "/api/machines/1/firmware", nil)
	technician.wants(200, "two versions", "POST", "/api/machines/1/firmware/message", body{"text": "version mismatch"})
	technician.wants(200, "Macros of the configuration", "GET", "/api/machines/1/firmware/family?to=compiled", nil)
	technician.wants(422, "hosted family already", "GET", "/api/machines/1/firmware/family?to=hosted", nil)
	technician.wants(200, `"features":["arc moves"]`, "POST", "/api/machines/1/firmware/want",
		body{"features": []string{"arc moves"}})
	technician.wants(422, "reason", "POST", "/api/machines/1/firmware/decision", body{"answer": "wanted", "reason": ""})
	technician.wants(204, "", "POST", "/api/machines/1/firmware/decision", body{"answer": "leave it alone",
		"reason": "it works"})
	technician.wants(422, "not come yet", "POST", "/api/machines/1/ways-back",
		body{"kind": "backup", "name": "b", "place": "shelf", "madeOn": "2999-01-01"})
	technician.wants(200, `"id":1`, "POST", "/api/machines/1/ways-back",
		body{"kind": "backup", "name": "b", "place": "shelf", "madeOn": "2026-01-01"})
	technician.wants(204, "", "POST", "/api/machines/1/ways-back/1/end", nil)
	technician.wants(204, "", "POST", "/api/machines/1/ways-back/1/keep", nil)
	technician.wants(404, "", "POST", "/api/machines/1/ways-back/1/keep", nil)
	technician.wants(204, "", "POST", "/api/machines/1/ways-back/1/end", nil)
	technician.wants(422, "Say why", "POST", "/api/machines/1/host-update", body{"reason": " "})
	technician.wants(200, `"id":1`, "POST", "/api/machines/1/host-update", body{"reason": "a fault it cures"})
	technician.wants(200, "Check the Z offset with paper", "GET", "/api/work/1", nil)

	technician.wants(200, `"id":1`, "POST", "/api/builds", body{"name": "B", "family": "hosted", "buildVersion": "0.11.0",
		"hostVersion": "0.12.0", "features": body{}, "configuredFor": body{}})
	technician.wants(200, "rebuild it on the host", "GET", "/api/builds", nil)
	technician.wants(200, "Configured for", "GET", "/api/machines/1/firmware/checks/1", nil)
	technician.wants(200, `"name":"b.bin"`, "POST", "/api/builds/1/files?name=b.bin&kind=build", []byte{1, 2, 3})
	technician.wants(200, "\x01\x02\x03", "GET", "/api/builds/1/files/1", nil)
	technician.wants(404, "", "GET", "/api/builds/1/files/2", nil)
	technician.wants(200, `"machine":"Avocet"`, "GET", "/api/builds/1/machines", nil)
	technician.wants(422, "family", "POST", "/api/builds", body{"name": "C", "family": "compiled", "apiVersion": "1",
		"features": body{}, "configuredFor": body{}})
}
