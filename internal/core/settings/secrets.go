package settings

import (
	"regexp"
	"strings"
)

// Masked stands where a secret was.
const Masked = "•••"

// named are the words in the name of a key whose value is a secret.
const named = `(?:password|passwd|passphrase|pass_?word|psk|secret|token|api[_-]?key|private[_-]?key|` +
	`wifi[_-]?key|network[_-]?key|wpa[_-]?key|credentials?|pwd)`

// secrets are values that open something: after a key that names one, those of G-code words that
// join a network or set a password, and those in addresses and headers. The first group stays, the
// second goes. Source: common practice.
var secrets = []*regexp.Regexp{
	regexp.MustCompile(`(?im)^([\t #*;/]*[\w.-]*` + named + `[\w.-]*["']?\s*[:=][^\S\r\n]*)(\S[^\r\n]*)`),
	regexp.MustCompile(`(?im)^([\t ;/]*#\s*define\s+\w*` + named + `\w*[^\S\r\n]+)(\S[^\r\n]*)`),
	regexp.MustCompile(`(?im)^([\t ;/]*#\s*define\s+\w*(?:wifi|wlan|network)\w*_pass\w*[^\S\r\n]+)(\S[^\r\n]*)`),
	regexp.MustCompile(`(?i)\b(M58[789]\b[^\n;]*?\bP)("[^"\n]*"|[^\s";]+)`),
	regexp.MustCompile(`(?i)\b(M55[14]\b[^\n;]*?\bP)("[^"\n]*"|[^\s";]+)`),
	regexp.MustCompile(`(?i)(\b[a-z][a-z0-9+.-]*://[^\s/:@]*:)([^\s/@]+)@`),
	regexp.MustCompile(`(?i)(\b(?:bearer|basic)\s+)([A-Za-z0-9._~+/=-]{8,})`),
	regexp.MustCompile(`(-----BEGIN [A-Z ]*PRIVATE KEY-----)([^-]+)`),
}

// addressed is the one of secrets of which more than the value is matched.
const addressed = 5

// Mask takes the secrets out of a text, and counts them. A text without any is as it was. Lines
// stay where they were, but for those of a key that is written over several.
func Mask(text string) (masked string, n int) {
	for i, secret := range secrets {
		text = secret.ReplaceAllStringFunc(text, func(found string) string {
			parts := secret.FindStringSubmatch(found)
			if strings.HasPrefix(parts[2], Masked) || strings.HasPrefix(parts[2], `"`+Masked) {
				return found
			}
			n++
			if i == addressed {
				return parts[1] + Masked + "@"
			}
			return parts[1] + Masked
		})
	}
	return text, n
}
