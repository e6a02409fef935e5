package firmware

import (
	"cmp"
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"wardifex/internal/core/parts"
)

// Behind are the parts of a host that are older than what another build of the same host version goes with, in
// sentences: they may have been left out of an update. Nothing is said of hosts of which one version is not on
// record. After the host comes the API server, then the web page, then the add-ons. Source: common practice.
func (b Build) Behind(others []Build) []string {
	if b.Family != parts.Hosted || b.HostVersion == "" {
		return nil
	}
	newest := map[string]hostPart{}
	for _, o := range others {
		if o.Family != parts.Hosted || o.HostVersion == "" || !sameVersion(o.HostVersion, b.HostVersion) {
			continue
		}
		for _, p := range o.hostParts() {
			if best, ok := newest[p.name]; !ok || compareReleases(p.version, best.version) > 0 {
				newest[p.name] = p
			}
		}
	}
	var out []string
	for _, p := range b.hostParts() {
		if best, ok := newest[p.name]; ok && compareReleases(best.version, p.version) > 0 {
			out = append(out, fmt.Sprintf("%s is %s, and with the same host, %s, %q has %s: was it left out of the update?",
				p.words, p.version, release(b.HostVersion), best.build, best.version))
		}
	}
	return out
}

// hostPart is a part of a host with its version.
type hostPart struct{ name, words, version, build string }

// oneAddOn is an add-on with its version: "bed sensing 1.4.0".
var oneAddOn = regexp.MustCompile(`^\s*(.*?)[\s:=@-]*v?(` + dotted.String() + `)\s*$`)

// hostParts are the parts of a build's host, as far as their versions can be told.
func (b Build) hostParts() []hostPart {
	var out []hostPart
	add := func(name, words, version string) {
		if dotted.MatchString(strings.ToLower(version)) {
			out = append(out, hostPart{name, words, release(version), b.Name})
		}
	}
	add("api", "its API server", b.APIVersion)
	add("page", "its web page", b.PageVersion)
	for _, each := range strings.FieldsFunc(b.AddOns, func(r rune) bool { return r == ',' || r == ';' || r == '\n' }) {
		if m := oneAddOn.FindStringSubmatch(each); m != nil && m[1] != "" {
			add("add-on "+strings.ToLower(m[1]), "its add-on "+m[1], m[2])
		}
	}
	return out
}

// compareReleases orders two releases by their numbers; what stands before a release, as 1.2-rc1 before 1.2, comes
// before it.
func compareReleases(a, b string) int {
	x, before, ofX := strings.Cut(a, "-")
	y, after, ofY := strings.Cut(b, "-")
	numbers := func(text string) []int {
		var out []int
		for _, part := range strings.Split(text, ".") {
			n, _ := strconv.Atoi(strings.TrimLeft(part, "v"))
			out = append(out, n)
		}
		for len(out) > 0 && out[len(out)-1] == 0 {
			out = out[:len(out)-1] // 1.2 is 1.2.0
		}
		return out
	}
	if c := slices.Compare(numbers(x), numbers(y)); c != 0 {
		return c
	}
	switch {
	case ofX && !ofY:
		return -1
	case ofY && !ofX:
		return 1
	}
	return cmp.Compare(before, after)
}
