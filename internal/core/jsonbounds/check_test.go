package jsonbounds_test

import (
	"encoding/json"
	"strings"
	"testing"

	"wardifex/internal/core/jsonbounds"
)

var bounds = jsonbounds.Bounds{Depth: 3, Values: 5, Text: 4, Number: 1e6, Years: true}

func TestCheck(t *testing.T) {
	t.Parallel()
	for name, c := range map[string]struct{ text, says string }{
		"as deep as may be":            {`[[[]]]`, ""},
		"deeper":                       {`[[[[]]]]`, "deep"},
		"one after the other":          {`[[],[],[]]`, ""},
		"as many values as may be":     {`[1,2,3,4]`, ""},
		"one more":                     {`[1,2,3,4,5]`, "more than 5 values"},
		"as long a text as may be":     {`"abcd"`, ""},
		"a longer one":                 {`"abcde"`, "longer than 4"},
		"brackets in a text":           {`"[[[["`, ""},
		"a quotation mark in a text":   {`"a\"b"`, ""},
		"as large a number as may be":  {`1e6`, ""},
		"a larger one":                 {`1000001`, "larger than"},
		"as small a one":               {`-1e6`, ""},
		"a smaller one":                {`-1e6001`, "larger than"},
		"beyond all":                   {`1e999`, "larger than"},
		"no number":                    {`1-2`, ""}, // left to the decoder
		"NUL":                          {`"\u0000"`, "NUL"},
		"half a character":             {`"\ud800"`, "half a character"},
		"the second half alone":        {`"\udc00"`, "half a character"},
		"two first halves":             {`"\ud800\ud800"`, "half a character"},
		"no UTF-8":                     {"\"\xff\"", "UTF-8"},
		"cut off in a text":            {`"ab`, ""}, // left to the decoder
		"cut off in a character":       {`"\u00`, ""},
		"nothing":                      {``, ""},
		"a mark that closes by itself": {`]`, ""},
	} {
		err := jsonbounds.Check([]byte(c.text), bounds)
		if (err == nil) != (c.says == "") || err != nil && !strings.Contains(err.Error(), c.says) {
			t.Errorf("%s: %v, want %q", name, err, c.says)
		}
	}
	// Objects: as many in one list as may be, and not so many that are hardly written.
	files := jsonbounds.Bounds{Depth: 9, Bare: 3, List: 4}
	for text, says := range map[string]string{
		`[{},{},{}]`:                 "",
		`[{},{},{},{}]`:              "empty",
		`{"a":{"b":{"c":{"d":{}}}}}`: "empty",
		`[{"a":"` + strings.Repeat("x", 40) + `"},{},{},{}]`:                        "",
		`[[{"a":"` + strings.Repeat("x", 90) + `"},{},{}],[{},{}]]`:                 "",
		`[{"a":"` + strings.Repeat("x", 90) + `"},{},{},{},{}]`:                     "more than 4 entries",
		`[{"a":["` + strings.Repeat("x", 90) + `", 1, 2, 3, 4, 5]},{"b":[{}]}, {}]`: "",
	} {
		err := jsonbounds.Check([]byte(text), files)
		if (err == nil) != (says == "") || err != nil && !strings.Contains(err.Error(), says) {
			t.Errorf("%s: %v, want %q", text, err, says)
		}
	}
	// A whole character of two halves, and the years on either side of their bounds.
	wide := bounds
	wide.Text = 0
	for text, says := range map[string]string{
		`"\ud83d\udda8"`:                    "",
		`"1900-01-01T00:00:00Z"`:            "",
		`"1899-12-31T23:59:59Z"`:            "years run",
		`"2200-12-31T23:59:59Z"`:            "",
		`"2201-01-01T00:00:00Z"`:            "years run",
		`"2201-01-01 is no moment of ours"`: "",
	} {
		err := jsonbounds.Check([]byte(text), wide)
		if (err == nil) != (says == "") || err != nil && !strings.Contains(err.Error(), says) {
			t.Errorf("%s: %v, want %q", text, err, says)
		}
	}
}

// What is within the bounds and JSON is never refused for what it is not: the depth that
// Check allows is the depth that there is.
func FuzzCheck(f *testing.F) {
	for _, text := range []string{
		`{"a":[1,"b\u00e4",{"c":null}]}`, `"\ud83d\udda8"`, `[[[[1e5]]]]`, `{"t":"2026-11-26T10:00:00Z"}`,
	} {
		f.Add([]byte(text))
	}
	f.Fuzz(func(t *testing.T, text []byte) {
		err := jsonbounds.Check(text, jsonbounds.Bounds{Depth: 4})
		var v any
		if json.Unmarshal(text, &v) != nil {
			return
		}
		if deep := depth(v) > 4; deep && err == nil {
			t.Errorf("%q is taken, %d deep", text, depth(v))
		} else if err != nil && !deep && strings.Contains(err.Error(), "deep") {
			t.Errorf("%q is refused for its depth, %d", text, depth(v))
		}
	})
}

func depth(v any) (n int) {
	switch v := v.(type) {
	case []any:
		for _, x := range v {
			n = max(n, depth(x))
		}
		return n + 1
	case map[string]any:
		for _, x := range v {
			n = max(n, depth(x))
		}
		return n + 1
	}
	return 0
}
