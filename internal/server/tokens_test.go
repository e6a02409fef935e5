package server_test

import (
	"encoding/json"
	"fmt"
	"net/http"
	"strings"
	"testing"

	"wardifex/internal/store"
)

// bearer sends a token with each request, and no cookie.
type bearer struct{ secret string }

func (b bearer) RoundTrip(r *http.Request) (*http.Response, error) {
	r = r.Clone(r.Context())
	r.Header.Set("Authorization", "Bearer "+b.secret)
	return http.DefaultTransport.RoundTrip(r)
}

// A token lets a program in as its maker, in its own role, until it ends; its secret is kept
// nowhere, and what it sends is on record as its own.
func TestAPITokens(t *testing.T) {
	t.Parallel()
	url, s := start(t)
	lead, technician := signedIn(t, url, "lead"), signedIn(t, url, "technician")
	technician.wants(200, "", "POST", "/api/machines", body{"name": "Avocet", "bay": "", "maker": "", "serial": "",
		"note": ""})
	make := func(name, role string, days int) (*client, store.Token) {
		var made struct {
			store.Token
			Secret string `json:"secret"`
		}
		text := lead.wants(200, `"secret":"wardifex_`, "POST", "/api/tokens", body{"name": name, "role": role, "days": days})
		if err := json.Unmarshal([]byte(text), &made); err != nil {
			t.Fatal(err)
		}
		return &client{t: t, url: url, http: &http.Client{Transport: bearer{made.Secret}}}, made.Token
	}
	host, token := make("host of Quay", "technician", 30)
	reading := func(machine, hours string) body {
		return body{"readings": []body{{"machine": machine, "hours": hours, "filament": "1 kg"}}}
	}
	host.wants(204, "", "POST", "/api/meters", reading("avocet", "512"))
	host.wants(204, "", "POST", "/api/meters", reading("Avocet", "512"))
	host.wants(422, "No machine in use has the name", "POST", "/api/meters", reading("Ghost", "1"))
	host.wants(422, "Avocet: the meter", "POST", "/api/meters", reading("Avocet", "12"))
	lead.wants(200, `"amount":512`, "GET", "/api/machines/1", nil)
	lead.wants(200, "lead, by host of Quay", "GET", "/api/changes", nil)
	// Who may come in is no program's to change, whatever its role: a leaked token ends with itself.
	for _, c := range []struct{ method, path string }{{"POST", "/account/end-sessions"}, {"GET", "/account/sessions"},
		{"POST", "/account/password"}, {"DELETE", "/session"}, {"POST", "/session"}, {"GET", "/calendar/links"},
		{"POST", "/calendar/links"}, {"POST", "/calendar/links/1/end"}, {"GET", "/tokens"}, {"POST", "/tokens"},
		{"POST", "/tokens/1/revoke"}, {"GET", "/people"}, {"POST", "/people/1/end-sessions"},
		{"POST", "/people/1/password"}} {
		host.wants(403, "A token may not do this", c.method, "/api"+c.path, nil)
	}
	host.wants(200, "", "GET", "/api/session", nil)
	hall, _ := make("display in the hall", "member", 1)
	hall.wants(200, "Avocet", "GET", "/api/usable", nil)
	hall.wants(403, "technician", "POST", "/api/meters", reading("Avocet", "600"))
	technician.wants(403, "", "GET", "/api/tokens", nil)
	lead.wants(422, "", "POST", "/api/tokens", body{"name": "x", "role": "lead", "days": 9})

	if list := lead.wants(200, "host of Quay", "GET", "/api/tokens", nil); strings.Contains(list, "wardifex_") ||
		!strings.Contains(list, `"usedAt"`) {
		t.Errorf("the list: %s", list)
	}
	var secrets int
	if err := s.SQL.QueryRow(`select count(*) from events where was::text || is_now::text like '%wardifex\_%'`).
		Scan(&secrets); err != nil || secrets > 0 {
		t.Errorf("%d secrets are on record, %v", secrets, err)
	}
	unknown := &client{t: t, url: url, http: &http.Client{Transport: bearer{"wardifex_guessed"}}}
	unknown.wants(401, "is not known", "GET", "/api/machines", nil)

	if _, err := s.SQL.Exec("update api_tokens set expires_at = '2000-01-01' where name like 'display%'"); err != nil {
		t.Fatal(err)
	}
	hall.wants(401, "has ended", "GET", "/api/usable", nil)
	lead.wants(204, "", "POST", "/api/tokens/"+fmt.Sprint(token.ID)+"/revoke", nil)
	host.wants(401, "has ended", "GET", "/api/machines", nil)
	lead.wants(404, "", "POST", "/api/tokens/"+fmt.Sprint(token.ID)+"/revoke", nil)
}
