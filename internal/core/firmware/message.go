package firmware

import (
	"regexp"
	"slices"
)

// Meaning is what a message of a host means, and what to do.
type Meaning struct {
	Means string `json:"means"`
	Do    string `json:"do"`
	// Of a key that the new version does not know.
	Section string `json:"section,omitempty"`
	Key     string `json:"key,omitempty"`
	// Flash says that the mainboard needs a build of the host's version.
	Flash bool `json:"flash,omitempty"`
}

// messages are what hosts say, by what is in their words. Source: common practice; the words from
// memory.
var messages = []struct {
	says *regexp.Regexp
	Meaning
}{
	{regexp.MustCompile(`(?i)(?:option|key|parameter)\s+'?"?([\w.-]+)'?"?\s+(?:is\s+)?(?:not valid|not known|` +
		`unknown|not supported|` +
		`deprecated|invalid)(?:\s+in\s+(?:section\s+)?\[?'?"?([\w .-]+?)'?"?\]?(?:$|[.,;\n]))?`), Meaning{
		Means: "the new version does not know this key any more",
		Do:    "Comment it out, restart, and look into what took its place before you print."}},
	{regexp.MustCompile(`(?i)(?:unknown|unrecogni[sz]ed|invalid)\s+(?:option|key|parameter)\s+'?"?([\w.-]+)'?"?` +
		`(?:\s+in\s+(?:section\s+)?\[?'?"?([\w .-]+?)'?"?\]?(?:$|[.,;\n]))?`), Meaning{
		Means: "the new version does not know this key any more",
		Do:    "Comment it out, restart, and look into what took its place before you print."}},
	{regexp.MustCompile(`(?i)section\s+\[?'?"?([\w .-]+?)'?"?\]?\s+is not (?:a )?(?:valid|known)`), Meaning{
		Means: "the new version does not know this section any more, or the add-on that brings it is not installed",
		Do: "Look whether an add-on was updated with the host; else comment the section out and look into what took " +
			"its place."}},
	{regexp.MustCompile(`(?i)version.{0,40}(?:mismatch|differ|does not match|too old|incompatible)|` +
		`(?:mismatch|incompatible).{0,40}version|` +
		`protocol (?:error|mismatch)|must be (?:rebuilt|recompiled|updated)`), Meaning{
		Means: "host and mainboard are of two versions",
		Do:    "Rebuild the mainboard's build on this host, clean before you build, and flash it.", Flash: true}},
	{regexp.MustCompile(`(?i)(?:unable|failed|could not|cannot) to? ?(?:connect|open|reach|find)|` +
		`no such (?:file|device)|` +
		`serial (?:port|path).{0,40}(?:not|fail)|timeout.{0,30}(?:connect|serial)`), Meaning{
		Means: "the host does not find the mainboard on the line that is configured",
		Do: "Set the serial path by the board's identity, not by its number: numbers change with the order of plugging. " +
			"Then " +
			"the cable, the supply, and whether the board runs a build of the host's family."}},
	{regexp.MustCompile(`(?i)lost communication|communication.{0,20}(?:lost|timeout|timed out)|timer too (?:close|late)|` +
		`stopped responding`), Meaning{
		Means: "the mainboard did not answer in time",
		Do: "The lead and its plugs, the supply of host and board, then what else the host is busy with. It is no reason " +
			"to flash."}},
	{regexp.MustCompile(`(?i)\b(?:probe|endstop)\b.{0,40}\btrigger(?:ed)?\b|\bno trigger\b`), Meaning{
		Means: "a probe or an endstop reads closed where it should be open, or never closes",
		Do: "Read it open and closed by hand before the axis moves again. A contact probe that was too close to the bed at " +
			"power-up: lift Z and switch off and on."}},
	{regexp.MustCompile(`(?i)permission denied`), Meaning{
		Means: "the host's account may not use the line or the file",
		Do:    "Give the account the right to it; run nothing as the all-powerful user for it."}},
	{regexp.MustCompile(`(?i)not heating|heating failed|does not heat|thermal.?runaway`), Meaning{
		Means: "a heater does not follow, and the protection has stopped the machine",
		Do: "Power off and let it cool. Look at the leads and the seat of heater and sensor first, then at the supply; do " +
			"not widen the protection's window to silence it."}},
	{regexp.MustCompile(`(?i)(?:adc|temperature).{0,30}out of range|thermistor|sensor.{0,20}(?:open|short)|` +
		`\b(?:min|max)_?temp\b`), Meaning{
		Means: "a sensor shows what cannot be: open, shorted, or of another type than configured",
		Do:    "Heat nothing. Plug out, look at the plug and the wires, and at the sensor's type in the configuration."}},
	{regexp.MustCompile(`(?i)(?:already|default|weak).{0,20}password|change.{0,20}password`), Meaning{
		Means: "the host still has the password that it came with",
		Do:    "Change it before the host is on the network again."}},
	{regexp.MustCompile(`(?i)must be specified|missing (?:option|key|required)|required (?:option|key)`), Meaning{
		Means: "the new version asks for a key that the configuration does not have",
		Do:    "Take it from the new version's example, with this machine's own value; do not guess pins."}},
	{regexp.MustCompile(`(?i)under-?voltage|low voltage|throttled`), Meaning{
		Means: "the host's supply does not carry it",
		Do:    "Give it its own supply of the size that it asks for, not a laptop's port."}},
}

// mostMeanings is how many meanings one message may have: whoever pastes a whole log reads no more.
const mostMeanings = 30

// MeaningsOf are what the lines of a message mean, as far as they are known: each once, and each key
// and section of which it speaks.
func MeaningsOf(text string) []Meaning {
	out := []Meaning{}
	for _, m := range messages {
		for _, found := range m.says.FindAllStringSubmatch(text, mostMeanings) {
			is := m.Meaning
			switch len(found) {
			case 3:
				is.Key, is.Section = found[1], found[2]
			case 2:
				is.Section = found[1]
			}
			told := slices.ContainsFunc(out, func(o Meaning) bool {
				return o.Means == is.Means && o.Key == is.Key && (o.Section == is.Section || is.Section == "")
			})
			if !told && len(out) < mostMeanings {
				out = append(out, is)
			}
		}
	}
	return out
}

// HostUpdateStep is one of the steps of updating a host.
type HostUpdateStep struct{ Title, Do string }

// HostUpdate is the order in which a host is updated. Source: common practice.
func HostUpdate() []HostUpdateStep {
	return []HostUpdateStep{
		{"Is there a reason?", "A host that works is left alone. Without a reason on record, stop here."},
		{"Back up the configuration and put the card aside",
			"Copy the configuration off the host. Better: write a fresh card, and keep " +
				"the old one with its date: it is the way back in one step. Record both under Cards and backups."},
		{"Change the default password, if it is still the one it came with", "Before the host goes on the network."},
		{"Update the host's software", "First of all, and by itself. Read what it says about keys that changed."},
		{"Update the API server, then the web page, then the add-ons", "In this order: each talks to the one before it."},
		{"Read the messages after the restart",
			"A version mismatch: rebuild the mainboard's build on this host and flash it. A key that is " +
				"not known any more: comment it out, look into it. No connection: the serial path by the board's identity. Paste " +
				"others into “What does this message mean?” on the machine's page of firmware."},
		{"Check the Z offset with paper", "After every host update, even where nothing of the probe was touched."},
	}
}
