package settings

import "regexp"

// Masked stands where a secret was.
const Masked = "•••"

// named are the words in the name of a key whose value is a secret.
const named = `(?:password|passwd|passphrase|psk|secret|token|api[_-]?key)`

// secrets are values that open something: after a key that names one, and those of G-code words
// that join a network or set a password. The first group stays. Source: common practice.
var secrets = []*regexp.Regexp{
	regexp.MustCompile(`(?im)^([\t #*;/]*[\w.-]*` + named + `[\w.-]*\s*[:=]\s*)(\S[^\r\n]*)`),
	regexp.MustCompile(`(?im)^([\t ;/]*#\s*define\s+\w*` + named + `\w*\s+)(\S[^\r\n]*)`),
	regexp.MustCompile(`(?i)\b(M58[789]\b[^\n;]*?\bP)("[^"\n]*"|[^\s";]+)`),
	regexp.MustCompile(`(?i)\b(M551\b[^\n;]*?\bP)("[^"\n]*"|[^\s";]+)`),
}

// Mask takes the secrets out of a text, and counts them. A text without any is as it was.
func Mask(text string) (masked string, n int) {
	for _, secret := range secrets {
		text = secret.ReplaceAllStringFunc(text, func(found string) string {
			parts := secret.FindStringSubmatch(found)
			if parts[2] == Masked {
				return found
			}
			n++
			return parts[1] + Masked
		})
	}
	return text, n
}
