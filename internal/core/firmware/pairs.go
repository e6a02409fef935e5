package firmware

import (
	"fmt"
	"regexp"
	"strings"

	"wardifex/internal/core/parts"
)

// Advertised is what a build, or the board that it came on, was sold as.
type Advertised struct {
	Version    string `json:"version,omitempty" maxLength:"120" doc:"Of the firmware"`
	Bootloader string `json:"bootloader,omitempty" enum:"yes,no," doc:"Whether the board was said to have one"`
	Supplier   string `json:"supplier,omitempty" maxLength:"120"`
	Found      string `json:"found,omitempty" enum:"yes,no," doc:"Whether a bootloader was found"`
}

// Differs is what was found otherwise than advertised, in sentences.
func (b Build) Differs() []string {
	a := b.Advertised
	if a == nil {
		return nil
	}
	var out []string
	from := ""
	if a.Supplier != "" {
		from = " by " + a.Supplier
	}
	if a.Version != "" && b.Version != "" && !sameVersion(a.Version, b.Version) {
		out = append(out, fmt.Sprintf("version %s was advertised%s, and %s was found", a.Version, from, b.Version))
	}
	if a.Bootloader != "" && a.Found != "" && a.Bootloader != a.Found {
		if a.Found == "no" {
			out = append(out, "a bootloader was advertised"+from+", and none was found: updates need the in-circuit programmer")
		} else {
			out = append(out, "no bootloader was advertised"+from+", and one was found")
		}
	}
	return out
}

var dotted = regexp.MustCompile(`\d+(?:\.\d+)+(?:-?(?:rc|alpha|beta|pre)[.-]?\d*)?`)

// release is the release of a version as it is shown: 2.0.6 of "2.0.6 (Nov 20) bench 4".
func release(version string) string {
	if found := dotted.FindString(strings.ToLower(version)); found != "" {
		return found
	}
	return strings.ToLower(strings.Join(strings.Fields(version), " "))
}

func sameVersion(a, b string) bool {
	x, y := release(a), release(b)
	return x == y || dotted.MatchString(x) && dotted.MatchString(y) && compareReleases(x, y) == 0
}

// Pairs are the versions of a build that do not go together, in sentences: mixing fails late. What
// is not on record is held against nothing. Source: common practice.
func (b Build) Pairs() []string {
	out := []string{}
	if b.ConfigVersion != "" && b.Version != "" && !sameVersion(b.ConfigVersion, b.Version) {
		out = append(out, fmt.Sprintf("the source is of version %s and the configuration of %s: take both of one version "+
			"before anything is built; mixed they fail late", release(b.Version), release(b.ConfigVersion)))
	}
	if b.Family == parts.Hosted && b.HostVersion != "" && b.Version != "" && !sameVersion(b.HostVersion, b.Version) {
		out = append(out, fmt.Sprintf("the host is of version %s and the mainboard's build of %s: rebuild it on the "+
			"host and "+
			"flash it", release(b.HostVersion), release(b.Version)))
	}
	return out
}

// usualColumns is how many characters a line of a common character display shows. Source: from
// memory.
const usualColumns = 20

// CheckLabel says what is wrong with the label that a build shows, for a display of so many
// characters in a line, 0 where that is unknown; empty where nothing is.
func (b Build) CheckLabel(machine string, columns float64) string {
	most := int(columns)
	if most == 0 {
		most = usualColumns
	}
	n := len([]rune(b.Label))
	switch {
	case b.Label == "":
		return "it shows no label of its own: stamp it with the machine's name and the date, so that the screen proves " +
			"what runs"
	case n > most && columns == 0:
		return fmt.Sprintf("its label has %d characters; many displays show %d, and how many this one shows is not on record",
			n, most)
	case n > most:
		return fmt.Sprintf("its label has %d characters and the display shows %d: the end, where the date is, is cut off", n,
			most)
	case machine != "" && !strings.Contains(strings.ToLower(b.Label), strings.ToLower(machine)):
		return fmt.Sprintf("its label %q does not name %s", b.Label, machine)
	case !strings.ContainsAny(b.Label, "0123456789"):
		return fmt.Sprintf("its label %q has no date or number: two builds of one machine look alike", b.Label)
	}
	return ""
}
