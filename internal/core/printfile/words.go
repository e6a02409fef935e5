package printfile

import (
	"bytes"
	"math"
	"strings"
)

// byteOrder is what some editors put before a text of UTF-8.
var byteOrder = []byte("\ufeff")

// other reads a line that is no straight move in its usual form.
func (s *scanner) other(b []byte) {
	if !s.plain && s.again(b) || !s.checkLength(len(b)) {
		return
	}
	if bytes.IndexByte(b, 0) >= 0 {
		s.seeBinary()
		return
	}
	text := bytes.Trim(bytes.TrimPrefix(b, byteOrder), " \t\r")
	if len(text) == 0 {
		return
	}
	if text[0] == ';' {
		s.comment(text[1:])
		return
	}
	if text[0] == 'N' && len(text) > 1 && text[1]-'0' <= 9 { // the number of a line
		_, end := parse(text, 1)
		text = bytes.TrimLeft(text[end:], " \t")
	}
	if len(text) == 0 {
		return
	}
	letter := text[0] &^ 0x20
	n, end := parse(text, 1)
	switch {
	case (letter == 'G' || letter == 'M' || letter == 'T') && end > 1 && (end == len(text) || !isWord(text[end]) ||
		letter != 'T' && isLetter(text[end])):
		s.codes++
		if word, alone := s.code(letter, n, text[:end], text[end:], b); alone {
			s.countAlone(text[:end], count{s.uses[word], true})
		}
	case isLetter(text[0]) || text[0] == '_':
		end := 0
		for end < len(text) && isWord(text[end]) {
			end++
		}
		if word, alone := s.named(string(bytes.ToUpper(text[:end])), text[end:]); alone {
			s.countAlone(text[:end], count{s.uses[word], false})
		}
	default:
		if text[0] != '(' && text[0] != '%' {
			if s.notACommand++; s.notACommand == 1 {
				s.rubbish = Fault{s.lines, clip(text)}
			}
		}
	}
}

func isLetter(c byte) bool { return c|0x20 >= 'a' && c|0x20 <= 'z' }
func isWord(c byte) bool   { return isLetter(c) || c >= '0' && c <= '9' || c == '_' }

func clip(b []byte) string {
	text := strings.ToValidUTF8(string(b[:min(len(b), 60)]), "?")
	if len(b) > 60 {
		text += "…"
	}
	return text
}

// param is the number of a parameter; ok is false where it has none.
func param(b []byte, letter byte) (n float64, ok bool) {
	for i := 0; i < len(b); i++ {
		switch c := b[i]; {
		case c == ';' || c == '(':
			return 0, false
		case c == '"':
			close := bytes.IndexByte(b[i+1:], '"')
			if close < 0 {
				return 0, false
			}
			i += close + 1
		case c == letter || c == letter|0x20:
			n, end := valueAt(b, i+1)
			return n, end > i+1
		}
	}
	return 0, false
}

// overrides are the words that set what a machine keeps itself: steps, currents, offsets, PID.
var overrides = map[string]bool{"M92": true, "M301": true, "M304": true, "M851": true, "M906": true, "M350": true,
	"G31": true, "M307": true, "M665": true, "M666": true, "M206": true, "M569": true, "M500": true, "M502": true,
	"M302": true}

// count is a word of which nothing is taken down but how often it is used; that too only where use is not nil.
type count struct {
	use  *Use
	code bool // it is a word of G-code
}

func (s *scanner) countAlone(written []byte, c count) {
	if len(s.counted) < mostUses && len(written) < longestWord {
		s.counted[string(written)] = c
	}
}

// again reads a line whose word was read before and is only counted: slicers write some with every few moves.
func (s *scanner) again(b []byte) bool {
	end := 0
	for end < len(b) && end < longestWord && isWord(b[end]) {
		end++
	}
	c, ok := s.counted[string(b[:end])]
	if !ok || len(b) > 400 || end < len(b) && b[end] != ' ' && b[end] != '\r' || bytes.IndexByte(b, 0) >= 0 {
		return false
	}
	if c.use != nil {
		c.use.Count++
	}
	if c.code {
		s.codes++
	}
	return true
}

// code is a word of G-code; alone says that whatever its parameters are, nothing is taken down but that it is used.
func (s *scanner) code(letter byte, n float64, name, rest, line []byte) (word string, alone bool) {
	word = string(letter) + string(name[1:])
	switch number := int(n); {
	case letter == 'T' && n >= 0 && n < mostTools:
		s.tool = number
		return word, false
	case letter == 'G' && n == math.Trunc(n) && number >= 0 && number <= 3:
		if number < 2 {
			s.move(rest)
		} else {
			s.arc(rest, number == 2)
		}
		return word, false
	case letter == 'G' && number == 92 && n > 92: // G92.1 takes the names back
		s.renamed = [3]float64{}
	case letter == 'G' && n == math.Trunc(n):
		alone = !s.geometry(number, rest, line)
	case letter == 'M' && number == 98:
		if name := script(rest); name != "" {
			word = callsScript + name
			s.mayEnd(word)
		}
	case letter == 'M':
		alone = !s.setting(word, number, rest, line)
	}
	if overrides[word] {
		if alone = false; !harmless(word, rest) {
			s.override(word, line)
			return word, false
		}
	}
	switch word {
	case "G20", "G21", "G90", "G91", "G92", "M82", "M83", "M104", "M109", "M140", "M190", "M105", "M106", "M107", "M73",
		"M117":
	default:
		s.use(word)
	}
	return word, alone
}

// geometry is a word of G-code that says how those of moves are taken, or where the head is; false for another.
func (s *scanner) geometry(number int, rest, line []byte) bool {
	switch number {
	case 5:
		if s.move(rest); s.spline == 0 {
			s.spline = s.lines
		}
	case 10: // by which the scripted family sets the temperatures of tools, and where work begins
		if how, ok := param(rest, 'L'); ok && (how == 2 || how == 20) {
			s.workBegins(rest, line, how == 20)
			break
		}
		s.setTemperatures(rest)
	case 20:
		s.unit = 25.4
	case 21:
		s.unit = 1
	case 28:
		s.home(rest, line)
	case 29:
		s.probe(rest, line)
	case 90:
		s.relative, s.relE = false, false
	case 91:
		s.relative, s.relE = true, true
	case 92:
		s.set(rest)
	default:
		return false
	}
	return true
}

// setting is a word of G-code of which the parameters are looked at; false for another.
func (s *scanner) setting(word string, number int, rest, line []byte) bool {
	switch number {
	case 82:
		s.relE = false
	case 83:
		s.relE = true
	case 104, 109:
		s.heatTool(rest)
	case 140, 190:
		s.p.Bed = s.hotter(s.p.Bed, rest)
		s.setTo(&s.setBed, rest)
	case 141, 191:
		s.p.Chamber = s.hotter(s.p.Chamber, rest)
		s.setTo(&s.setChamber, rest)
		if number == 191 && s.p.ChamberWaits == 0 && len(s.p.Chamber) > 0 {
			s.p.ChamberWaits = s.lines
		}
	case 0, 1, 2, 81: // in some families they run a script of the machine's own, or switch everything off
		s.mayEnd(word)
	case 206:
		s.homesElsewhere(rest, line)
	case 290:
		s.nudged(rest)
	case 420:
		switch on, ok := param(rest, 'S'); {
		case ok && on == 1:
			s.levels()
			if s.p.Loaded == 0 {
				s.p.Loaded = s.lines
			}
		case ok && on == 0:
			s.levelsNoMore(word, line)
		}
	case 561: // of the scripted family
		s.levelsNoMore(word, line)
	case 486:
		if id, ok := param(rest, 'S'); ok && id >= 0 {
			s.label("M486 " + mm(id))
		}
	case 568: // as G10
		s.setTemperatures(rest)
	default:
		return false
	}
	return true
}

// harmless are uses of a word that set nothing: a word without parameters asks.
func harmless(word string, rest []byte) bool {
	if word == "M500" || word == "M502" || word == "M302" { // M302 alone allows cold extrusion in old builds
		return false
	}
	if word == "G31" {
		_, height := param(rest, 'Z')
		return !height
	}
	for i := 0; i < len(rest) && rest[i] != ';'; i++ {
		if isLetter(rest[i]) {
			return false
		}
	}
	return true
}

// home is G28: what is homed is where its end is, which no slicer says.
func (s *scanner) home(rest, line []byte) {
	if s.p.Homed == 0 {
		s.p.Homed = s.lines
	}
	var axes [3]bool
	any := false
	for i := 0; i < len(rest) && rest[i] != ';'; i++ {
		if c := rest[i] &^ 0x20; c >= 'X' && c <= 'Z' {
			axes[c-'X'], any = true, true
		}
	}
	for i := range 3 {
		if axes[i] || !any {
			s.at[i], s.known[i], s.renamed[i] = 0, false, 0
			if s.piece != nil {
				s.piece.lost[i] = true
			}
		}
	}
	// After homing a mesh that was probed before is gone, in most builds.
	if !any {
		s.p.Probed, s.p.ProbedBy, s.p.Loaded, s.homedAll = 0, nil, 0, true
		s.levels() // what was put out of force before is no matter
		if s.p.Extruded == 0 {
			if s.piece != nil && s.piece.firstE != nil {
				s.piece.needsEntry = true // whether it printed before follows from what is before the piece
			}
			s.p.HomedEnd = s.offset + int64(len(line)) + 1
		}
	}
}

// probe is G29 in its forms: to probe a mesh, or to load the stored one.
func (s *scanner) probe(rest, line []byte) {
	switch on, ok := param(rest, 'S'); {
	case ok && on == 1: // of the scripted family; compiled builds take it as manual probing
		s.levels()
		if s.p.Loaded == 0 {
			s.p.Loaded = s.lines
		}
		return
	case ok && on == 2: // as 1
		s.levelsNoMore("G29", line)
		return
	}
	s.probed("G29", line)
}

// probed notes that a mesh is probed.
func (s *scanner) probed(word string, line []byte) {
	s.levels()
	if s.p.Probed == 0 {
		s.p.Probed = s.lines
		s.p.ProbedBy = &Use{Word: word, Line: s.lines, Count: 1, Text: clip(line), From: s.offset}
	}
}

func (s *scanner) heatTool(rest []byte) {
	tool := s.tool
	if n, ok := param(rest, 'T'); ok && n >= 0 && n < mostTools {
		tool = int(n)
	}
	s.heat[tool] = s.hotter(s.heat[tool], rest)
	s.setTo(&s.setTool[tool], rest)
}

// setTo notes what a heater is set to.
func (s *scanner) setTo(heater *Extreme, rest []byte) {
	for _, letter := range []byte("SR") {
		if n, ok := param(rest, letter); ok {
			*heater = Extreme{n, s.lines}
		}
	}
}

// setTemperatures are those of a tool by its number: S while it prints, R while it waits.
func (s *scanner) setTemperatures(rest []byte) {
	tool, ok := param(rest, 'P')
	if _, sets := param(rest, 'S'); ok && sets && tool >= 0 && tool < mostTools {
		s.heat[int(tool)] = s.hotter(s.heat[int(tool)], rest)
		s.setTo(&s.setTool[int(tool)], rest)
	}
}

// hotter notes a temperature that is above all before it: S to reach, R to reach or fall to.
func (s *scanner) hotter(list []Extreme, rest []byte) []Extreme {
	for _, letter := range []byte("SR") {
		n, ok := param(rest, letter)
		if !ok || n <= 0 || len(list) > 0 && n <= list[len(list)-1].Value {
			continue
		}
		if n > furthest {
			s.fault("a temperature of %g °C", n)
			continue
		}
		list = push(list, n, s.lines)
	}
	return list
}

// label counts an object that is labelled, once.
func (s *scanner) label(name string) {
	if !s.labelled[name] && len(s.labelled) < 10_000 {
		s.labelled[name] = true
	}
}

func (s *scanner) use(word string) {
	u := s.uses[word]
	if u == nil {
		if len(s.uses) >= mostUses || len(word) > 60 {
			return
		}
		u = &Use{Word: word, Line: s.lines}
		s.uses[word] = u
		s.order = append(s.order, word)
	}
	u.Count++
}

// override notes a word that sets what the machine keeps; what it sets may be set several times.
func (s *scanner) override(word string, line []byte) {
	text := strings.ToValidUTF8(strings.TrimRight(string(line[:min(len(line), 300)]), "\r"), "?")
	u := s.overrides[text]
	if u == nil {
		if len(s.overrides) >= mostUses {
			return
		}
		u = &Use{Word: word, Line: s.lines, Text: text, From: s.offset}
		s.overrides[text] = u
		s.overOrder = append(s.overOrder, text)
	}
	u.Count++
}
