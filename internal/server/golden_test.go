package server_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"maps"
	"net/http"
	"net/http/httptest"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"wardifex/internal/demo"
	"wardifex/internal/goldentest"
	"wardifex/internal/postgres/pgtest"
	"wardifex/internal/server"
	"wardifex/internal/store"
)

// Every read of the API, answered to a member, a technician and a lead of the demo room. What is written in sentences
// counts by its numbers alone: words may be put better, facts may not change.
func TestGoldenAnswersOfNetloft(t *testing.T) {
	t.Parallel()
	s := pgtest.Filled(t, demo.Seed)
	api := server.New(server.Config{Store: s, Clock: func() time.Time { return demo.Today },
		Files: http.FS(appFiles), Log: quiet(t)})
	srv := httptest.NewServer(api)
	t.Cleanup(func() { srv.Close(); api.Close() })

	roles := []string{store.Lead, store.Technician, store.Member}
	by := map[string]*client{}
	for _, role := range roles {
		by[role] = signedInBy(t, srv.URL, role, demo.Password)
	}
	until := time.Now().Add(time.Minute)
	for whole := ""; whole != `"judged":24,`; { // the matrix grows meanwhile
		whole = regexp.MustCompile(`"judged":\d+,`).FindString(by[store.Lead].wants(200, "", "GET", "/api/matrix", nil))
		if time.Now().After(until) {
			t.Fatalf("the fleet is not judged yet: %s", whole)
		}
	}
	var lines []goldentest.Line
	for _, path := range readsAbout(t, by[store.Lead], []string{"1", "2", "10", "17"}) {
		path = days.Replace(path)
		before := ""
		for _, role := range roles {
			status, text := by[role].call("GET", path, nil)
			says := fmt.Sprintf("%d %s", status, facts(text))
			if says == before {
				says = "as to the role above"
			} else {
				before = says
			}
			lines = append(lines, goldentest.Line{Of: path + " " + role, Says: says})
		}
	}
	goldentest.Check(t, "answers", lines)
}

// days are days of the other tests and those of the demo room's calendar.
var days = strings.NewReplacer("2026-05-01", "2026-11-20", "2026-05-02", "2026-11-28")

// facts is an answer as one line: of JSON the keys and values, of another file its lines.
func facts(text string) string {
	var v any
	d := json.NewDecoder(strings.NewReader(text))
	d.UseNumber()
	if err := d.Decode(&v); err != nil {
		return strings.Join(strings.FieldsFunc(text, func(r rune) bool { return r == '\n' || r == '\r' }), "⏎")
	}
	var b bytes.Buffer
	writeFacts(&b, v)
	return b.String()
}

var numbers = regexp.MustCompile(`[-−]?\d+([.,]\d+)?`)

func writeFacts(b *bytes.Buffer, v any) {
	switch v := v.(type) {
	case map[string]any:
		b.WriteByte('{')
		for i, key := range slices.Sorted(maps.Keys(v)) {
			if i > 0 {
				b.WriteByte(',')
			}
			b.WriteString(key + ":")
			writeFacts(b, v[key])
		}
		b.WriteByte('}')
	case []any:
		b.WriteByte('[')
		for i, x := range v {
			if i > 0 {
				b.WriteByte(',')
			}
			writeFacts(b, x)
		}
		b.WriteByte(']')
	case string:
		if strings.Count(v, " ") >= 3 { // a sentence
			fmt.Fprintf(b, "words%v", numbers.FindAllString(v, -1))
			return
		}
		b.WriteString(strings.ReplaceAll(v, "\n", "⏎"))
	default:
		fmt.Fprint(b, v)
	}
}
