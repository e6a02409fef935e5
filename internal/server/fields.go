package server

import (
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"
)

// pointer writes a name as a step of a JSON pointer. Source: RFC 6901, 3.
var pointer = strings.NewReplacer("~", "~0", "/", "~1")

// fieldsWith are the fields of a body that hold a number or a day as it was written, as JSON pointers: it stands in
// them whole, with no further digit or mark beside it.
func fieldsWith(body []byte, written string) []string {
	var of any
	if written == "" || json.Unmarshal(body, &of) != nil {
		return nil
	}
	var out []string
	var walk func(at string, v any)
	walk = func(at string, v any) {
		switch v := v.(type) {
		case string:
			if before, after, found := strings.Cut(v, written); found && !strings.ContainsAny(before+after, "0123456789.,") {
				out = append(out, at)
			}
		case []any:
			for i, e := range v {
				walk(fmt.Sprint(at, "/", i), e)
			}
		case map[string]any:
			for _, name := range slices.Sorted(maps.Keys(v)) {
				walk(at+"/"+pointer.Replace(name), v[name])
			}
		}
	}
	walk("", of)
	return out
}
