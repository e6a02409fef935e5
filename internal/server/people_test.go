package server_test

import (
	"fmt"
	"regexp"
	"strings"
	"testing"

	"wardifex/internal/postgres/pgtest"
)

// A lead adds a person, changes and locks out another; each may change the own password and
// end the own sessions, and nobody that of somebody else.
func TestPeople(t *testing.T) {
	t.Parallel()
	url, _ := start(t)
	lead, tech := signedIn(t, url, "lead"), signedIn(t, url, "technician")
	ids := func(name string) string {
		t.Helper()
		found := regexp.MustCompile(`"id":(\d+),"name":"` + name + `"`).FindStringSubmatch(
			lead.wants(200, "", "GET", "/api/people", nil))
		if found == nil {
			t.Fatalf("no %s among the people", name)
		}
		return found[1]
	}
	pia := body{"name": "pia", "display": "Pia", "role": "technician", "skills": []string{" mains wiring ", "",
		"firmware"},
		"password": password}
	lead.wants(204, "", "POST", "/api/people", pia)
	lead.wants(422, "named pia already", "POST", "/api/people", pia)
	lead.wants(200, `"display":"Pia","role":"technician","skills":["mains wiring","firmware"]`, "GET", "/api/people", nil)
	at := "/api/people/" + ids("pia")
	change := func(role string, disabled bool, version int) body {
		return body{"display": "Pia", "role": role, "skills": []string{}, "disabled": disabled, "version": version}
	}

	t.Run("switched off", func(t *testing.T) {
		p := signedIn(t, url, "pia")
		lead.wants(204, "", "PUT", at, change("technician", true, 0))
		p.wants(401, "", "GET", "/api/people", nil)
		anonymous(t, url).wants(401, "switched off", "POST", "/api/session", body{"name": "pia", "password": password})
		anonymous(t, url).wants(401, "wrong", "POST", "/api/session", body{"name": "pia", "password": "not the password"})
		lead.wants(409, "meanwhile", "PUT", at, change("technician", false, 0))
		lead.wants(204, "", "PUT", at, change("technician", false, 1))
	})
	t.Run("the last lead stays", func(t *testing.T) {
		own := "/api/people/" + ids("lead")
		lead.wants(422, "only lead", "PUT", own, change("technician", false, 0))
		lead.wants(422, "only lead", "PUT", own, change("lead", true, 0))
		lead.wants(204, "", "PUT", at, change("lead", false, 2))
		lead.wants(204, "", "PUT", at, change("technician", false, 3))
	})
	t.Run("another password", func(t *testing.T) {
		p := signedIn(t, url, "pia")
		other := signedIn(t, url, "pia")
		lead.wants(422, "at least 10", "POST", at+"/password", body{"password": "short"})
		p.wants(422, "present password is wrong", "POST", "/api/account/password",
			body{"present": "something else", "password": "four quiet harbour seals"})
		p.wants(204, "", "POST", "/api/account/password", body{"present": password, "password": "four quiet harbour seals"})
		p.wants(200, `"here":true`, "GET", "/api/account/sessions", nil)
		other.wants(401, "", "GET", "/api/account/sessions", nil)
		lead.wants(204, "", "POST", at+"/password", body{"password": password})
		p.wants(401, "", "GET", "/api/account/sessions", nil)
		signedIn(t, url, "pia")
	})
	t.Run("tries at the own password end", func(t *testing.T) {
		p := signedIn(t, url, "pia")
		for range 5 {
			p.wants(422, "wrong", "POST", "/api/account/password", body{"present": "x", "password": "four quiet harbour seals"})
		}
		p.wants(429, "Too many", "POST", "/api/account/password",
			body{"present": password, "password": "four quiet harbour seals"})
	})
	t.Run("signed out everywhere but here", func(t *testing.T) {
		here, there := signedIn(t, url, "pia"), signedIn(t, url, "pia")
		here.wants(204, "", "POST", "/api/account/end-sessions", nil)
		if text := here.wants(200, "", "GET", "/api/account/sessions", nil); strings.Count(text, `"until"`) != 1 {
			t.Errorf("sessions left: %s", text)
		}
		there.wants(401, "", "GET", "/api/account/sessions", nil)
		lead.wants(204, "", "POST", at+"/end-sessions", nil)
		here.wants(401, "", "GET", "/api/account/sessions", nil)
	})
	t.Run("unlocked", func(t *testing.T) {
		for range 5 {
			anonymous(t, url).wants(401, "", "POST", "/api/session", body{"name": "pia", "password": "wrong password"})
		}
		anonymous(t, url).wants(429, "", "POST", "/api/session", body{"name": "pia", "password": password})
		lead.wants(200, `"locked":true`, "GET", "/api/people", nil)
		lead.wants(204, "", "POST", at+"/unlock", nil)
		signedIn(t, url, "pia")
	})
	text := lead.wants(200, "", "GET", "/api/changes", nil)
	for _, noted := range []string{"signed out everywhere", "signed out everywhere else", "unlocked", "skills",
		`"action":"add-person"`} {
		if !strings.Contains(text, noted) {
			t.Errorf("who did what does not say %q", noted)
		}
	}
	if strings.Contains(text, "argon2") || strings.Contains(text, password) {
		t.Error("who did what has a password in it")
	}
	tech.wants(403, "", "GET", "/api/people", nil)
}

// A number that no column holds is the sender's to mend.
func TestNumbersBeyondAll(t *testing.T) {
	t.Parallel()
	url, _ := start(t)
	lead := signedIn(t, url, "lead")
	for _, version := range []int64{-999_999_999_999, 999_999_999_999} {
		lead.wants(422, "larger than any", "PUT", "/api/people/1/shifts", body{"shifts": []any{}, "version": version})
	}
}

// Smoke takes the machine out of use with the report; who is on a fault is noted, and each
// finds the own ones.
func TestDangerAndWhoIsOnIt(t *testing.T) {
	t.Parallel()
	url, s := start(t)
	tech, member := signedIn(t, url, "technician"), signedIn(t, url, "member")
	elsewhere := signedIn(t, instance(t, pgtest.Again(t, s)), "lead")
	elsewhere.wants(200, "[]", "GET", "/api/dangers", nil)
	for _, name := range []string{"Avocet", "Bittern"} {
		tech.wants(200, "", "POST", "/api/machines", body{"name": name, "bay": "", "maker": "", "serial": "", "note": ""})
	}
	member.wants(200, `"danger":true`, "POST", "/api/machines/1/faults", body{"words": "smoke at the back", "symptom": ""})
	member.wants(200, `"danger":false`, "POST", "/api/machines/2/faults", body{"words": "it clicks", "symptom": ""})
	member.wants(200, `"name":"Avocet","bay":"","state":"out of use","why":"danger reported by The member`, "GET",
		"/api/usable", nil)
	member.wants(200, `"state":"out of use"`, "GET", "/api/machines/1/usable", nil)
	elsewhere.wants(200, `"waiting":true`, "GET", "/api/dangers", nil)
	elsewhere.wants(200, `"unread":1`, "GET", "/api/notices", nil)
	member.wants(200, `"unread":0`, "GET", "/api/notices", nil)
	elsewhere.wants(422, "Close fault 1", "POST", "/api/machines/1/use", body{"use": "in use", "why": "fine"})
	if text := member.wants(200, `"found":1`, "GET", "/api/usable?only=true", nil); strings.Contains(text, "Avocet") {
		t.Errorf("a machine in danger can be used: %s", text)
	}
	member.wants(200, `"unknown":2`, "GET", "/api/usable?x=200", nil)
	member.wants(403, "", "POST", "/api/faults/2/take", body{"version": 1, "off": false})
	tech.wants(204, "", "POST", "/api/faults/2/take", body{"version": 1, "off": false})
	tech.wants(409, "meanwhile", "POST", "/api/faults/2/take", body{"version": 1, "off": true})
	for _, c := range []struct {
		who  *client
		show string
		want int
	}{{tech, "mine", 1}, {member, "mine", 2}, {tech, "open", 2}, {tech, "closed", 0}} {
		text := c.who.wants(200, "", "GET", "/api/faults?show="+c.show, nil)
		if n := strings.Count(text, `"words"`); n != c.want {
			t.Errorf("%s: %d faults, want %d", c.show, n, c.want)
		}
	}
	elsewhere.wants(204, "", "POST", "/api/faults/1/take", body{"version": 1, "off": false})
	tech.wants(200, `"waiting":false`, "GET", "/api/dangers", nil)
	tech.wants(204, "", "POST", "/api/faults/1/close", body{"version": 2, "answer": "steam, nothing burnt"})
	tech.wants(200, "[]", "GET", "/api/dangers", nil)
	tech.wants(204, "", "POST", "/api/fleet/use", body{"machines": []int{1, 2, 2}, "use": "in use", "why": "looked at"})
	member.wants(200, `"found":2`, "GET", "/api/usable?only=true", nil)
	tech.wants(404, "", "POST", "/api/fleet/use", body{"machines": []int{1, 99}, "use": "out of use", "why": "x"})
	member.wants(200, `"found":2`, "GET", "/api/usable?only=true", nil)

	names := []string{}
	for i := range 12 {
		names = append(names, fmt.Sprintf("Pier %d", i+1))
	}
	fields := body{"name": "", "bay": "Quay", "maker": "Skerry 22", "serial": "", "note": ""}
	tech.wants(200, `"ids":[3,4,5`, "POST", "/api/fleet/machines", body{"names": names, "fields": fields})
	tech.wants(422, "Avocet", "POST", "/api/fleet/machines", body{"names": []string{"New", "Avocet"}, "fields": fields})
	if text := tech.wants(200, "", "GET", "/api/machines", nil); strings.Contains(text, `"New"`) {
		t.Error("half of the machines were added")
	}
}
