package settings

import (
	"regexp"
	"slices"
	"strings"

	"wardifex/internal/core/dialect"
)

// MaskVersion is of what Mask finds: 2 finds secrets that go on over lines, and those beside other text, 3 those of
// the first line after a byte order mark, after blanks, and of names that end in "pass".
const MaskVersion = 3

// Masked stands where a secret was.
const Masked = dialect.Masked

// Words in the name of a key whose value is a secret, and texts in quotation marks.
const (
	named = `(?:password|passwd|passphrase|pass_?word|psk|secret|token|api[_-]?key|private[_-]?key|` +
		`wifi[_-]?key|network[_-]?key|wpa[_-]?key|credentials?|pwd|` +
		`(?:wi-?fi|wlan|network|ota|mqtt|ftp|web|http|smtp|mail|login|user|admin)[_-]?\w*[_-]?pass)`
	key    = `[\w.-]*` + named + `[\w.-]*`
	quoted = `"(?:[^"\n]|"")*"|'[^'\n]*'`
	define = `\x{feff}?[\t ;/]*#\s*define\s+`
)

// ofLines are lines of which all that follows is the value of a secret, and the lines that go on with
// it: after a key that names one, and after the name of an option. The first group stays, the second
// goes. Source: common practice.
var ofLines = []*regexp.Regexp{
	regexp.MustCompile(`(?i)^(\x{feff}?[\t #*;/]*(?:pass|` + key + `)["']?\s*[:=][^\S\r\n]*)([^\r\n]*)`),
	regexp.MustCompile(`(?i)^(` + define + `\w*` + named + `\w*[^\S\r\n]+)([^\r\n]*)`),
}

// secret is how a secret is found inside of a line or over several. The first group stays, the second goes, the third
// stays.
type secret struct {
	*regexp.Regexp
	// needs are texts in small letters of which one stands in every text that holds it: looking for them is much
	// faster than for what fits the expression.
	needs []string
}

// stems are parts of names of secrets, one of which stands in every such name.
var stems = []string{"pass", "psk", "secret", "token", "key", "credential", "pwd"}

// within are of G-code words that join a network or set a password, in addresses and headers, beside a name in any
// text. Source: common practice.
var within = []secret{
	{regexp.MustCompile(`(?i)(\bM(?:58[789]|55[14])\b(?:` + quoted + `|[^\n;"])*?\bP[\t ]*)(` + quoted + `|[^\s";]+)()`),
		[]string{"m58", "m55"}},
	{regexp.MustCompile(`(?i)(\b[a-z][a-z0-9+.-]*://[^\s/:@]*:)([^\s/@]+)(@)`), []string{"://"}},
	{regexp.MustCompile(`(?i)([?&]` + key + `=)([^&\s"'#]+)()`), stems},
	{regexp.MustCompile(`(?i)(\b(?:bearer|basic)\s+)([A-Za-z0-9._~+/=-]{8,})()`), []string{"bearer", "basic"}},
	{regexp.MustCompile(`(?i)(["']` + key + `["']\s*:\s*)(` + quoted + `)()`), stems},
	{regexp.MustCompile(`(?i)(\b` + key + `(?:\[\w*\])?\s*=\s*)(` + quoted + `)()`), stems},
	{regexp.MustCompile(`(?i)(\b(?:password|passwd|passphrase|secret|api[_-]?key|token)\s*[:=]\s*)([^\s"',;]+)()`), stems},
	{regexp.MustCompile(`(-----BEGIN [A-Z ]*PRIVATE KEY-----)([^-]+)()`), []string{"-----begin"}},
}

// small is a text in small letters, as expressions take letters for each other in any case: ſ is an s too.
func small(text string) string { return strings.ReplaceAll(strings.ToLower(text), "ſ", "s") }

func containsOne(text string, parts []string) bool {
	return slices.ContainsFunc(parts, func(part string) bool { return strings.Contains(text, part) })
}

// Mask takes the secrets out of a text, and counts them. A text without any is as it was. Every line
// stays where it was.
func Mask(text string) (masked string, n int) {
	plain := small(text)
	if containsOne(plain, stems) {
		text, n = maskLines(text)
	}
	for _, secret := range within {
		if !containsOne(plain, secret.needs) {
			continue
		}
		more := 0
		text, more = secret.mask(text)
		n += more
	}
	return text, n
}

// mask takes the secrets of one kind out of a text, and counts them.
func (s secret) mask(text string) (string, int) {
	var b strings.Builder
	n, at := 0, 0
	for _, found := range s.FindAllStringSubmatchIndex(text, -1) {
		from, to := found[4], found[5]
		if strings.HasPrefix(strings.Trim(text[from:to], "\"' \t\r\n"), Masked) {
			continue
		}
		b.WriteString(text[at:from])
		b.WriteString(maskEach(text[from:to]))
		n, at = n+1, to
	}
	if n == 0 {
		return text, 0
	}
	b.WriteString(text[at:])
	return b.String(), n
}

// maskLines masks what follows the names of secrets, with the lines that go on.
func maskLines(text string) (string, int) {
	var b strings.Builder
	n, deep, goesOn := 0, -1, false // how far in the key stands whose value may go on
	lines := strings.SplitAfter(text, "\n")
	for at, line := range lines {
		body := strings.TrimRight(line, "\r\n")
		end := line[len(body):]
		indent := indentOf(body)
		if deep >= 0 && strings.TrimSpace(body) != "" && (goesOn || indent > deep) {
			goesOn = goesOn && strings.HasSuffix(body, `\`)
			b.WriteString(maskEach(body) + end)
			continue
		}
		deep, goesOn = -1, false
		if !containsOne(small(body), stems) {
			b.WriteString(line)
			continue
		}
		for i, secret := range ofLines {
			parts := secret.FindStringSubmatch(body)
			if parts == nil {
				continue
			}
			value := strings.TrimSpace(parts[2])
			if strings.HasPrefix(strings.Trim(value, `"'`), Masked) {
				break
			}
			if value != "" {
				body = parts[1] + Masked
			}
			switch commented := strings.TrimLeft(body, " \t") != strings.TrimLeft(body, " \t#*;/"); {
			case i > 0 && strings.HasSuffix(value, `\`):
				deep, goesOn = 0, true
			case i == 0 && !commented:
				deep = indent
			}
			if value != "" {
				n++
			} else if at+1 < len(lines) && deep >= 0 && indentOf(lines[at+1]) > deep && !strings.Contains(lines[at+1], Masked) {
				n++
			}
			break
		}
		b.WriteString(body + end)
	}
	return b.String(), n
}

// indentOf is how far in a line begins; 0 of one that is blank.
func indentOf(line string) int {
	inner := strings.TrimLeft(line, " \t")
	if strings.TrimSpace(inner) == "" {
		return 0
	}
	return len(line) - len(inner)
}

// maskEach masks what stands on each line of a text.
func maskEach(text string) string {
	var b strings.Builder
	for line := range strings.Lines(text) {
		body := strings.TrimRight(line, "\r\n")
		if inner := strings.TrimLeft(body, " \t"); inner != "" {
			body = body[:len(body)-len(inner)] + Masked
		}
		b.WriteString(body + line[len(strings.TrimRight(line, "\r\n")):])
	}
	return b.String()
}
