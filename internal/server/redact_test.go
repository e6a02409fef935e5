package server_test

import (
	"fmt"
	"strings"
	"testing"
)

// What a shop paid, where its files with secrets lie and why somebody is away is for those who work there; the same
// answer that hides it from a member has it for a technician, before and after.
func TestWhatMembersDoNotSee(t *testing.T) {
	t.Parallel()
	url, s := start(t)
	lead, technician, member := signedIn(t, url, "lead"), signedIn(t, url, "technician"), signedIn(t, url, "member")
	technician.wants(200, "", "POST", "/api/machines", body{"name": "Avocet", "bay": "", "maker": "", "serial": "",
		"note": "", "price": 1234.5})
	technician.wants(200, "", "POST", "/api/parts", body{"kind": "nozzle", "model": "Plain", "price": 6789.5, "tag": "N1",
		"serial": "", "supplier": "", "note": "", "shelf": ""})
	technician.wants(200, "", "POST", "/api/machines/1/ways-back", body{"kind": "settings with secrets", "name": "x.cfg",
		"place": "Hidden drawer", "madeOn": "2026-04-01", "note": ""})
	u, err := s.UserNamed(t.Context(), "technician")
	if err != nil {
		t.Fatal(err)
	}
	lead.wants(204, "", "POST", fmt.Sprintf("/api/people/%d/leaves", u.ID), body{"from": "2026-05-01", "to": "2026-05-02",
		"why": "a secret illness"})
	for range 2 {
		for _, c := range []struct{ path, hides string }{
			{"/api/machines/1", "1234.5"},
			{"/api/machines", "1234.5"},
			{"/api/parts", "6789.5"},
			{"/api/parts/1", "6789.5"},
			{"/api/machines/1/firmware", "Hidden drawer"},
			{"/api/calendar?from=2026-05-01&days=7", "a secret illness"},
		} {
			if got := member.wants(200, "", "GET", c.path, nil); strings.Contains(got, c.hides) {
				t.Errorf("%s tells a member %s", c.path, c.hides)
			}
			if c.path != "/api/machines" { // the list of the fleet has no prices
				technician.wants(200, c.hides, "GET", c.path, nil)
			}
		}
	}
}
