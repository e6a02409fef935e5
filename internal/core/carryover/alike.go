package carryover

import (
	"regexp"
	"strconv"
	"strings"
)

// pieces are what a value is made of: texts in quotation marks, versions and addresses, numbers, names, signs.
var pieces = regexp.MustCompile(`"[^"]*"|\d+(?:\.\d+){2,}|(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?[fFuUlL]*\b|\w+|\S`)

// alike reports whether two values are the same, whatever the blanks between their pieces and however many digits
// a number is written with: "{ 80, 80.0 }" is "{80,80}".
func alike(a, b string) bool { return a == b || plain(a) == plain(b) }

func plain(value string) string {
	all := pieces.FindAllString(value, -1)
	for i, piece := range all {
		if piece[0] != '.' && (piece[0] < '0' || piece[0] > '9') {
			continue
		}
		if n, err := strconv.ParseFloat(strings.TrimRight(piece, "fFuUlL"), 64); err == nil {
			all[i] = strconv.FormatFloat(n, 'g', -1, 64)
		}
	}
	return strings.Join(all, "\x00")
}
