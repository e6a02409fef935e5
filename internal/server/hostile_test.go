package server_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"net/url"
	"os"
	"regexp"
	"runtime/debug"
	"slices"
	"strconv"
	"strings"
	"testing"
)

// schema is as much of a schema of the OpenAPI document as it takes to make values by it.
type schema struct {
	Ref                  string `json:"$ref"`
	Type                 any
	Enum                 []any
	Properties           map[string]schema
	Items                *schema
	AdditionalProperties any
	Required             []string
}

type operation struct {
	OperationID string
	Parameters  []struct {
		Name, In string
		Schema   schema
	}
	RequestBody struct {
		Content map[string]struct{ Schema schema }
	}
}

type openAPI struct {
	Paths      map[string]map[string]operation
	Components struct{ Schemas map[string]schema }
}

func documentOf(t testing.TB, c *client) openAPI {
	t.Helper()
	_, text := c.call("GET", "/api/openapi.json", nil)
	var doc openAPI
	if err := json.Unmarshal([]byte(text), &doc); err != nil {
		t.Fatal(err)
	}
	return doc
}

// hostile are values that no form sends.
var hostile = []any{
	nil, "", " ", 0, -1, 1, 2, 7, 1e12, -1e12, 1e308, 1e-320, 9223372036854775807.0, 0.1, true, false, []any{},
	map[string]any{},
	"\x00", "a\u0000b", "\u202e\ufeff", "=cmd|'/c calc'!A1", "'; drop table machines; --", "<script>alert(1)</script>",
	"../../etc/passwd", "%00", "%s%n", "NaN", "1e400", "1,200", "0001-01-01", "2026-02-30", "9999-12-31T23:59:59Z",
	"3/4/2026",
	strings.Repeat("a", 5000), strings.Repeat("ä", 300), "supply.volts", "probe", "none", "plumbline-probe",
	"plumbline-probe@99", "1@1",
	"🖨️", "µΩ", "24 V", "-", ".", "..", "/", "\\", "\"", "{", "[", "null", "read", "claimed",
}

// made is a value by a schema, hostile here and there.
func (d openAPI) made(r *rand.Rand, s schema, depth int) any {
	if s.Ref != "" {
		s = d.Components.Schemas[strings.TrimPrefix(s.Ref, "#/components/schemas/")]
	}
	if r.IntN(5) == 0 || depth > 6 {
		return hostile[r.IntN(len(hostile))]
	}
	if len(s.Enum) > 0 {
		return s.Enum[r.IntN(len(s.Enum))]
	}
	kind := fmt.Sprint(s.Type)
	switch {
	case strings.Contains(kind, "object"):
		out := map[string]any{}
		for name, p := range s.Properties {
			if slices.Contains(s.Required, name) || r.IntN(3) == 0 {
				out[name] = d.made(r, p, depth+1)
			}
		}
		if r.IntN(10) == 0 {
			out["nobody knows this"] = 1
		}
		return out
	case strings.Contains(kind, "array") && s.Items != nil:
		out := []any{}
		for range r.IntN(4) {
			out = append(out, d.made(r, *s.Items, depth+1))
		}
		return out
	case strings.Contains(kind, "integer"):
		return r.IntN(40) - 2
	case strings.Contains(kind, "number"):
		return float64(r.IntN(4000))/10 - 5
	case strings.Contains(kind, "boolean"):
		return r.IntN(2) == 0
	}
	return hostile[r.IntN(len(hostile))]
}

// Every operation of the OpenAPI document is asked with hostile values: nothing fails
// inside, no refusal is long, memory stays bounded, and the record can be read afterwards.
func TestHostileRequests(t *testing.T) {
	base, _ := start(t)
	lead := signedIn(t, base, "lead")
	for _, name := range []string{"A", "B", "C"} {
		lead.wants(200, "", "POST", "/api/machines", body{"name": name, "bay": "", "maker": "", "serial": "", "note": ""})
	}
	lead.wants(200, "", "POST", "/api/machines/1/readings", body{"key": "supply.volts", "value": "24",
		"grade": "observed"})
	_, people := lead.call("GET", "/api/people", nil)
	own, _ := strconv.Atoi(regexp.MustCompile(`"id":(\d+),"name":"lead"`).FindStringSubmatch(people)[1])
	doc := documentOf(t, lead)
	var operations []string
	for path, methods := range doc.Paths {
		for method := range methods {
			operations = append(operations, method+" "+path)
		}
	}
	slices.Sort(operations)
	requests := 2000
	if os.Getenv("WARDIFEX_LONG") != "" { // make test-long
		requests = 30_000
	}
	taken := map[string]bool{}
	r := rand.New(rand.NewPCG(uint64(requests), 7))
	debug.FreeOSMemory() // what tests before this one held is not counted
	var most uint64
	for i := range requests {
		if i%50 == 0 {
			most = max(most, held())
		}
		method, path, _ := strings.Cut(operations[i%len(operations)], " ")
		op := doc.Paths[path][method]
		if op.OperationID == "sign-out" || op.OperationID == "sign-in" {
			continue
		}
		at := path
		query := url.Values{}
		for _, p := range op.Parameters {
			v := doc.made(r, p.Schema, 0)
			switch {
			case p.In == "path" && r.IntN(4) > 0 && !strings.Contains(fmt.Sprint(p.Schema.Type), "string"):
				at = strings.ReplaceAll(at, "{"+p.Name+"}", fmt.Sprint(1+r.IntN(3)))
			case p.In == "path":
				at = strings.ReplaceAll(at, "{"+p.Name+"}", url.PathEscape(fmt.Sprint(v)))
			case p.In == "query" && r.IntN(3) > 0:
				query.Set(p.Name, fmt.Sprint(v))
			}
		}
		if len(query) > 0 {
			at += "?" + query.Encode()
		}
		if strings.HasPrefix(at, fmt.Sprintf("/api/people/%d/", own)) || at == fmt.Sprintf("/api/people/%d", own) {
			continue // whoever switches its own account off learns nothing more
		}
		var sent []byte
		if content, ok := op.RequestBody.Content["application/json"]; ok {
			sent, _ = json.Marshal(doc.made(r, content.Schema, 0))
			if r.IntN(12) == 0 && len(sent) > 0 {
				sent = sent[:r.IntN(len(sent))]
			}
		} else if len(op.RequestBody.Content) > 0 {
			sent = []byte(fmt.Sprint(hostile[r.IntN(len(hostile))]))
		}
		status, text := lead.send(strings.ToUpper(method), at, nil, bytes.NewReader(sent))
		if status >= 500 || status == 0 {
			t.Errorf("%s %s with %.400s: %d %.300s", method, at, sent, status, text)
		}
		if status < 300 {
			taken[op.OperationID] = true
		}
		if status >= 400 && len(text) > 100_000 {
			t.Errorf("%s %s: a refusal of %d bytes", method, at, len(text))
		}
	}
	if len(taken) < len(operations)/3 {
		t.Errorf("%d of %d operations were ever taken: too few to tell", len(taken), len(operations))
	}
	if most > 500<<20 {
		t.Errorf("%d MiB held", most>>20)
	}
	for _, path := range []string{"/api/machines", "/api/machines/1", "/api/due", "/api/matrix", "/api/record.json",
		"/api/changes", "/api/faults"} {
		lead.wants(200, "", "GET", path, nil)
	}
}
