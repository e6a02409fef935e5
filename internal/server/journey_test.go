package server_test

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"

	"wardifex/internal/postgres/pgtest"
	"wardifex/internal/store"
)

// From smoke to repair, by a member, a technician and a lead at once, on two servers: each sees at once what another
// did, and nobody can use the machine until it is mended and somebody has said so.
func TestFromSmokeToRepair(t *testing.T) {
	t.Parallel()
	url, s := start(t)
	second := instance(t, pgtest.Again(t, s))
	member, lead, tech := signedIn(t, url, "member"), signedIn(t, url, "lead"), signedIn(t, second, "technician")
	tech.wants(200, "", "POST", "/api/machines", body{"name": "Avocet", "bay": "", "maker": "", "serial": "", "note": ""})
	free := func(want bool) {
		t.Helper()
		got := member.wants(200, "", "GET", "/api/usable?only=true", nil)
		if strings.Contains(got, "Avocet") != want {
			t.Errorf("offered as free: %s", got)
		}
	}
	free(true)
	lead.wants(200, "", "GET", "/api/machines/1", nil) // kept in memory before it happens
	tech.wants(200, "", "GET", "/api/machines/1", nil)

	member.wants(200, `"danger":true`, "POST", "/api/machines/1/faults",
		body{"words": "sparks at the board", "symptom": ""})
	free(false)
	for _, staff := range []*client{lead, tech} {
		staff.wants(200, "sparks at the board", "GET", "/api/notices", nil)
		staff.wants(200, `"waiting":true`, "GET", "/api/dangers", nil)
		staff.wants(200, "until somebody has looked", "GET", "/api/machines/1", nil)
	}
	booking := body{"machine": 1, "from": "2026-05-02T10:00:00Z", "to": "2026-05-02T12:00:00Z", "what": "a lid",
		"attended": true}
	member.wants(422, "", "POST", "/api/bookings", booking)
	lead.wants(422, "", "POST", "/api/machines/1/use", body{"use": "in use", "why": "it looks fine"})

	// Both go to it: the second is told, and the danger waits for nobody any more.
	tech.wants(204, "", "POST", "/api/faults/1/take", body{"version": 1, "off": false})
	lead.wants(409, "meanwhile", "POST", "/api/faults/1/take", body{"version": 1, "off": false})
	lead.wants(200, `"waiting":false`, "GET", "/api/dangers", nil)
	var order struct{ ID int64 }
	made := tech.wants(200, "", "POST", "/api/work/repair", body{"fault": 1})
	if err := json.Unmarshal([]byte(made), &order); err != nil {
		t.Fatal(err)
	}
	path := fmt.Sprintf("/api/work/%d", order.ID)
	lead.wants(422, "", "POST", "/api/work/repair", body{"fault": 1})
	free(false)
	work(t, tech, path)
	lead.wants(200, `"state":"finished"`, "GET", path, nil)
	lead.wants(200, "[]", "GET", "/api/dangers", nil)
	if text := lead.wants(200, "", "GET", "/api/machines/1", nil); strings.Contains(text, "until somebody has looked") {
		t.Error("the danger outlives its repair")
	}
	free(false) // mended is not yet in use: somebody says so
	lead.wants(200, "", "POST", "/api/machines/1/use", body{"use": "in use", "why": "mended and tried"})
	free(true)
	member.wants(200, "", "POST", "/api/bookings", booking)
}

// work does the steps of an order, and finishes it: what asks for more than a tick is skipped.
func work(t *testing.T, c *client, path string) {
	t.Helper()
	for range 60 {
		var o struct{ StepList []store.OrderStep }
		if err := json.Unmarshal([]byte(c.wants(200, "", "GET", path, nil)), &o); err != nil {
			t.Fatal(err)
		}
		next := -1
		for i, s := range o.StepList {
			if s.DoneAt == nil && s.SkippedWhy == "" {
				next = i
				break
			}
		}
		if next < 0 {
			c.wants(200, "", "POST", path+"/finish", body{"minutes": 30})
			return
		}
		s := o.StepList[next]
		at := path + "/steps/" + s.Key
		said := body{"version": s.Version, "data": body{}, "note": "looked at", "do": "tick"}
		if status, _ := c.call("POST", at, said); status != 200 {
			said["do"], said["why"] = "skip", "a trial"
			c.wants(200, "", "POST", at, said)
		}
	}
	t.Fatal("the order does not end")
}
