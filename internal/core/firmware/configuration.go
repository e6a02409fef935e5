package firmware

import (
	"fmt"
	"regexp"
	"strconv"
	"strings"

	"wardifex/internal/core/dialect"
)

// versionWords are the options by which headers of the compiled family say of which version they are,
// two digits for each number: 02010205 is 2.1.2.5. Source: from memory.
var versionWords = []string{"CONFIGURATION_H_VERSION", "CONFIGURATION_ADV_H_VERSION"}

var packedVersion = regexp.MustCompile(`^\d{8}$`)

// unpacked is a version of two digits for each number as it is shown; empty of what is none.
func unpacked(text string) string {
	if !packedVersion.MatchString(text) {
		return ""
	}
	var out []string
	for i := 0; i < len(text); i += 2 {
		n, _ := strconv.Atoi(text[i : i+2])
		out = append(out, strconv.Itoa(n))
	}
	return strings.TrimSuffix(strings.Join(out, "."), ".0")
}

// PairsWith are the versions that the headers of a build's configuration say they are of and that do not
// go with its source, in sentences. What is not on record is held against nothing.
func (b Build) PairsWith(d *dialect.Document) []string {
	var out []string
	for _, word := range versionWords {
		for i := range d.Entries {
			e := &d.Entries[i]
			is := unpacked(d.Value(e))
			if d.Word(e) != word || e.Force != dialect.InForce || is == "" || b.Version == "" {
				continue
			}
			of := release(b.Version)
			if !dotted.MatchString(of) || is == of || strings.HasPrefix(is+".", of+".") || strings.HasPrefix(of+".", is+".") {
				continue
			}
			file, line := d.PlaceOf(e.Line)
			at := fmt.Sprintf("line %d", line)
			if name := d.FileName(file); name != "" {
				at += " of " + name
			}
			out = append(out, fmt.Sprintf("the source is of version %s, and %s says that the configuration is of %s: take both "+
				"of one version before anything is built; mixed they fail late", of, at, is))
		}
	}
	return out
}
