package firmware

import (
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"wardifex/internal/core/civil"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
	"wardifex/internal/core/quantity"
)

// Build is a firmware build as it was made once, on whatever boards it runs.
type Build struct {
	// No two builds have the same.
	Name    string `json:"name" minLength:"1" maxLength:"120" doc:"The shop's name for it"`
	Family  string `json:"family" enum:"compiled,hosted,scripted," doc:"Empty while it is unknown"`
	Version string `json:"buildVersion,omitempty" maxLength:"120" doc:"As the information screen shows it"`
	// The source tree and the example configuration must be of one version.
	ConfigVersion string `json:"configVersion,omitempty" maxLength:"120" doc:"Of the configuration that it was built from"`
	// Of the hosted family only.
	HostVersion string `json:"hostVersion,omitempty" maxLength:"120" doc:"Of the host's software that it goes with"`
	APIVersion  string `json:"apiVersion,omitempty" maxLength:"120" doc:"Of the host's API server"`
	PageVersion string `json:"pageVersion,omitempty" maxLength:"120" doc:"Of the host's web page"`
	AddOns      string `json:"addOns,omitempty" maxLength:"500" doc:"On the host, with their versions"`

	Label     string  `json:"label,omitempty" maxLength:"120" doc:"Machine label that it shows"`
	File      string  `json:"file,omitempty" maxLength:"120"`
	SHA256    string  `json:"sha256,omitempty" maxLength:"64" pattern:"^([0-9a-f]{64})?$" doc:"Of the file"`
	KiB       float64 `json:"kib,omitempty" minimum:"0" doc:"Size; 0 while it is unknown"`
	Processor string  `json:"processor,omitempty" maxLength:"120" doc:"That it is built for"`
	// Offset is where a bootloader has to start it.
	Offset  *float64 `json:"offset,omitempty" minimum:"0" maximum:"512" doc:"KiB; absent while it is unknown"`
	BuiltBy string   `json:"builtBy,omitempty" maxLength:"120"`
	BuiltOn string   `json:"builtOn,omitempty" maxLength:"40" doc:"Day, ISO 8601"`
	// What a seller said of it before it was looked at.
	Advertised *Advertised `json:"advertised,omitempty" doc:"What it was sold as"`
	// Features that it is known to have, yes, or not to have, no; of all others nothing
	// is known.
	Features map[string]string `json:"features"`
	// ConfiguredFor is what it was configured for, by the key of a trait: "probe.senses":
	// "surface, by touch".
	ConfiguredFor map[machine.Key]string `json:"configuredFor"`
	Note          string                 `json:"note,omitempty" maxLength:"2000"`
}

// mostFeatures is how many features can be said of a build.
const mostFeatures = 200

// Check says what is wrong with a build as it is written, and what would be right.
func (b Build) Check(voc *machine.Vocabulary) error {
	if err := machine.PlainText(b.Name); err != nil {
		return fmt.Errorf("name of the build: %w", err)
	}
	for _, t := range []struct{ what, text string }{{"version", b.Version}, {"version of the host", b.HostVersion},
		{"label", b.Label}, {"file", b.File}, {"version of the configuration", b.ConfigVersion}, {"processor", b.Processor},
		{"version of the API server", b.APIVersion}, {"version of the web page", b.PageVersion}, {"add-ons", b.AddOns},
		{"who built it", b.BuiltBy}} {
		if t.text == "" {
			continue
		}
		if err := machine.PlainText(t.text); err != nil {
			return fmt.Errorf("%s: %w", t.what, err)
		}
	}
	if b.BuiltOn != "" {
		if err := new(civil.Day).UnmarshalText([]byte(b.BuiltOn)); err != nil {
			return fmt.Errorf("the day it was built: %w", err)
		}
	}
	if (b.APIVersion != "" || b.PageVersion != "" || b.AddOns != "") && b.Family != parts.Hosted {
		return fmt.Errorf("an API server, a web page and add-ons go with builds of the hosted family; this one is %s",
			cmpWord(b.Family))
	}
	if b.HostVersion != "" && b.Family != parts.Hosted {
		return fmt.Errorf("a version of the host goes with builds of the hosted family; this one is %s", cmpWord(b.Family))
	}
	if b.KiB < 0 || b.KiB > 8192 {
		return fmt.Errorf("a build of %g KiB: between 1 and 8192 KiB are right", b.KiB)
	}
	if len(b.Features) > mostFeatures || len(b.ConfiguredFor) > machine.MostPositions {
		return fmt.Errorf(
			"%d features and %d things that it is configured for: at most %d and %d are right",
			len(b.Features),
			len(b.ConfiguredFor),
			mostFeatures,
			machine.MostPositions,
		)
	}
	for _, name := range slices.Sorted(maps.Keys(b.Features)) {
		if said := b.Features[name]; said != "yes" && said != "no" {
			return fmt.Errorf("feature %q: write yes or no, or leave it out where it is not known", name)
		}
		if strings.ContainsAny(name, ",;") || machine.PlainText(name) != nil ||
			strings.HasPrefix(strings.ToLower(name), "no ") {
			return fmt.Errorf("%q is no name of a feature: write words without a comma, such as full mesh levelling", name)
		}
	}
	for key, value := range b.ConfiguredFor {
		t, ok := voc.Trait(key)
		if !ok || !Stated(t) {
			return fmt.Errorf(
				"a build is not configured for %q: it states the board, drivers, display, probe, endstops, sensors, motors "+
					"and the print volume",
				key,
			)
		}
		if _, err := t.ParseRecorded(value); err != nil {
			return err
		}
	}
	return nil
}

func cmpWord(family string) string {
	if family == "" {
		return "of an unknown family"
	}
	return family
}

// Traits are what is known of a run of the build, by the names of the traits of its kind.
func (b Build) Traits() map[string]string {
	out := map[string]string{machine.ModelTrait: b.Name}
	for name, text := range map[string]string{parts.FirmwareFamily.Name: b.Family,
		parts.FirmwareVersion.Name: b.Version, parts.FirmwareLabel.Name: b.Label,
		parts.FirmwareFile.Name: b.File, parts.FirmwareFeatures.Name: WriteFeatures(b.Features)} {
		if text != "" {
			out[name] = text
		}
	}
	if b.KiB > 0 {
		out[parts.FirmwareSize.Name] = quantity.Format(b.KiB)
	}
	return out
}

// WriteFeatures writes which features a build has and which not, as they stand on record:
// "contact probe, no arc moves".
func WriteFeatures(features map[string]string) string {
	var has, lacks []string
	for _, name := range slices.Sorted(maps.Keys(features)) {
		if features[name] == "yes" {
			has = append(has, name)
		} else {
			lacks = append(lacks, "no "+name)
		}
	}
	return strings.Join(append(has, lacks...), ", ")
}

// Run is a build that a board runs, from a day to a day.
type Run struct {
	Slot string
	From time.Time
	To   time.Time // zero while it runs
}

// CheckRun says why a run cannot be from a day to a day beside the others of its board:
// no board runs two builds at once.
func CheckRun(r Run, others []Run, now time.Time) error {
	day := func(t time.Time) string { return t.Format(civil.Shown) }
	switch {
	case r.From.After(now), r.To.After(now):
		return fmt.Errorf("a run begins and ends on a day that has come; it is %s now", day(now))
	case !r.To.IsZero() && !r.To.After(r.From):
		return fmt.Errorf("it ends on %s, before it begins on %s", day(r.To), day(r.From))
	}
	for _, o := range others {
		if o.Slot == r.Slot && (o.To.IsZero() || r.From.Before(o.To)) && (r.To.IsZero() || o.From.Before(r.To)) {
			until := "is running still"
			if !o.To.IsZero() {
				until = "ran until " + day(o.To)
			}
			return fmt.Errorf("a board runs one build at a time: another began on %s and %s", day(o.From), until)
		}
	}
	return nil
}

// CheckShown says where the machine shows something else than a build is recorded with:
// the screen proves what runs. shown are values as typed, by trait.
func (b Build) CheckShown(shown map[machine.Key]string, voc *machine.Vocabulary) error {
	traits := b.Traits()
	for _, key := range slices.Sorted(maps.Keys(shown)) {
		t, ok := voc.Trait(key)
		is := traits[key.Trait()]
		if !ok || is == "" || t.Same(t.Stored(is), t.Stored(shown[key])) {
			continue
		}
		return fmt.Errorf("%s: the machine shows %s, and the build %s is recorded with %s. The machine proves what "+
			"runs: choose the build that it is, or correct the record of the build", t.Label, shown[key], b.Name, is)
	}
	return nil
}
