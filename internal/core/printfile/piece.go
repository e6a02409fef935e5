package printfile

import (
	"bytes"
	"cmp"
	"maps"
	"slices"
)

// piece is a part of a file that is read before what stands before it: what it takes from there is
// put in afterwards.
type piece struct {
	assumed modes
	// needsEntry says that it cannot be read without knowing what is before it.
	needsEntry bool
	// extruded are, by axis, the lines of the first move that prints from where the axis was before the
	// piece; 0 for none.
	extruded [3]int64
	lost     [3]bool    // axes that are homed in the piece
	firstE   *entryMove // the first move whose filament follows from what is before the piece
	unpaced  float64    // mm moved before a feed rate is set
}

// entryMove is a move at the begin of a piece.
type entryMove struct {
	from   [3]float64
	begun  [3]bool // where it begins, as far as the piece says so
	to     [3]float64
	known  [3]bool // where it goes, as far as the piece says so
	lost   [3]bool
	e      float64
	line   int64
	tool   int
	across bool // it moves in X or Y
}

// entryTool stands for the tool that is in use when a piece begins.
const entryTool = mostTools

// newPiece begins a piece whose modes are taken to be those read last of what stands before it. What lies within
// the bounds of what was read is nothing new in it either.
func newPiece(before *scanner) *scanner {
	s := newScanner()
	s.modes, s.knownE, s.tool = before.modes, false, entryTool
	s.reach.low, s.reach.high = before.reach.low, before.reach.high
	s.used.low, s.used.high = before.used.low, before.used.high
	s.piece = &piece{assumed: before.modes}
	return s
}

// mostHead is how many lines of a piece are left to what is known before it.
const mostHead = 100

// headOf is how many bytes of a piece stand before the first straight move that says where the nozzle is in X and Y: an
// arc before it, say, cannot be understood without what is before the piece. 0 where there is none among the first
// lines.
func headOf(text []byte) int {
	var m move
	at := 0
	for range mostHead {
		if at+ahead >= len(text) {
			return 0
		}
		if end := m.read((*window)(text[at:at+ahead]), true); end > 0 && m.kind < '2' && m.saw&(sawX|sawY) == sawX|sawY {
			return at
		}
		next := bytes.IndexByte(text[at:], '\n')
		if next < 0 {
			return 0
		}
		at += next + 1
	}
	return 0
}

// asksEntry notes that a line cannot be understood without where an axis is before the piece.
func (s *scanner) asksEntry(axis int) {
	if s.piece != nil && !s.known[axis] && !s.piece.lost[axis] {
		s.piece.needsEntry = true
	}
}

// absorb adds a piece that follows on what was read; false where it has to be read again with what
// is known now.
func (s *scanner) absorb(x *scanner) bool {
	if x.piece.needsEntry || x.piece.assumed != s.modes {
		return false
	}
	base := s.lines
	s.absorbEnd(x, base)
	tool := func(n int) int {
		if n == entryTool {
			return s.tool
		}
		return n
	}
	before := s.tooFar
	s.absorbBoxes(x, base, tool)
	if at := base + x.tooFar; x.tooFar > 0 && before == 0 && (s.tooFar == 0 || at < s.tooFar) {
		s.tooFar = at
	}
	// What the tool in use was told, and what it was told by its number later, is of one tool.
	if own := x.heat[entryTool]; len(own) > 0 && s.tool < mostTools {
		x.heat[s.tool] = append(x.heat[s.tool], own...)
		slices.SortStableFunc(x.heat[s.tool], func(a, b Extreme) int { return cmp.Compare(a.Line, b.Line) })
		x.heat[entryTool] = nil
	}
	for n := range x.filament {
		s.filament[tool(n)] += x.filament[n]
		s.heat[tool(n)] = follow(s.heat[tool(n)], x.heat[n], base)
	}
	s.p.Bed, s.p.Chamber = follow(s.p.Bed, x.p.Bed, base), follow(s.p.Chamber, x.p.Chamber, base)
	s.seconds += x.seconds + x.piece.unpaced*s.perMM
	s.absorbStart(x, base)
	s.absorbWords(x, base)
	for i := range 3 {
		if x.known[i] || x.piece.lost[i] {
			s.at[i], s.known[i] = x.at[i], x.known[i]
		}
	}
	if x.knownE {
		s.e = x.e
	}
	if x.perMM > 0 {
		s.perMM = x.perMM
	}
	s.tool, s.modes = tool(x.tool), x.modes
	s.p.Moves += x.p.Moves
	firstLine(&s.binary, x.binary, base)
	firstLine(&s.asked, x.asked, base)
	firstLine(&s.spline, x.spline, base)
	s.codes += x.codes
	if s.notACommand == 0 && x.notACommand > 0 {
		s.rubbish = Fault{base + x.rubbish.Line, x.rubbish.Says}
	}
	s.notACommand += x.notACommand
	s.lines = base + x.lines
	s.offset += x.offset
	return true
}

// absorbEnd adds what a piece sets and prints last.
func (s *scanner) absorbEnd(x *scanner, base int64) {
	if m := x.piece.firstE; m != nil && m.e > s.e && m.across {
		x.lastE = max(x.lastE, m.line)
	}
	later := func(to *Extreme, from Extreme) {
		if from.Line > 0 {
			*to = Extreme{from.Value, base + from.Line}
		}
	}
	if own := x.setTool[entryTool]; own.Line > x.setTool[s.tool].Line {
		x.setTool[s.tool] = own
	}
	x.setTool[entryTool] = Extreme{}
	for n := range x.setTool {
		later(&s.setTool[n], x.setTool[n])
	}
	later(&s.setBed, x.setBed)
	later(&s.setChamber, x.setChamber)
	if x.lastE > 0 {
		s.lastE = base + x.lastE
	}
	for _, u := range x.ends {
		u.Line += base
		s.ends = lastEnds(append(s.ends, u))
	}
}

// going is a coordinate that a piece goes to.
type going struct {
	box   *sides
	axis  int
	value float64
	line  int64
}

// absorbBoxes goes through the ever further coordinates of a piece, those that follow from what is
// before it among them, in the order of its lines.
func (s *scanner) absorbBoxes(x *scanner, base int64, tool func(int) int) {
	var all []going
	for i, line := range x.piece.extruded {
		if line > 0 && s.known[i] { // it printed where the axis stood
			all = append(all, going{&s.used, i, s.at[i], line})
		}
	}
	if m := x.piece.firstE; m != nil {
		fed := m.e - s.e
		s.filament[tool(m.tool)] += fed
		if fed > 0 && m.across {
			all = append(all, m.printed(s)...)
			if x.p.Extruded == 0 || m.line < x.p.Extruded {
				x.p.Extruded = m.line
			}
		}
	}
	for axis := range 3 {
		for _, b := range []struct{ to, from *sides }{{&s.reach, &x.reach}, {&s.used, &x.used}} {
			for _, list := range [][]Extreme{b.from.box.Low[axis], b.from.box.High[axis]} {
				for _, e := range list {
					all = append(all, going{b.to, axis, e.Value, e.Line})
				}
			}
		}
	}
	slices.SortStableFunc(all, func(a, b going) int { return cmp.Compare(a.line, b.line) })
	for _, g := range all {
		if g.value < g.box.low[g.axis] || g.value > g.box.high[g.axis] {
			s.lines = base + g.line
			s.further(g.box, g.axis, g.value)
		}
	}
}

// printed is where the move prints, after what was read before it.
func (m *entryMove) printed(s *scanner) []going {
	var out []going
	for i := range 3 {
		switch {
		case m.begun[i]:
			out = append(out, going{&s.used, i, m.from[i], m.line})
		case s.known[i] && !m.lost[i]:
			out = append(out, going{&s.used, i, s.at[i], m.line})
		}
		if m.known[i] {
			out = append(out, going{&s.used, i, m.to[i], m.line})
		}
	}
	return out
}

// follow adds ever higher values to those before them.
func follow(list, more []Extreme, base int64) []Extreme {
	for _, e := range more {
		if len(list) == 0 || e.Value > list[len(list)-1].Value {
			list = push(list, e.Value, base+e.Line)
		}
	}
	return list
}

// firstLine is the first line of something, of a piece only where there was none before.
func firstLine(to *int64, from, base int64) {
	if *to == 0 && from > 0 {
		*to = base + from
	}
}

// absorbStart adds what a piece homes, probes and prints first.
func (s *scanner) absorbStart(x *scanner, base int64) {
	line := func(to *int64, from int64) { firstLine(to, from, base) }
	if x.homedAll {
		s.p.Probed, s.p.ProbedBy, s.p.Loaded, s.homedAll = 0, nil, 0, true
		if s.p.Extruded == 0 && x.p.HomedEnd > 0 {
			s.p.HomedEnd = s.offset + x.p.HomedEnd
		}
	}
	if u := x.p.ProbedBy; u != nil && s.p.ProbedBy == nil {
		u.Line += base
		u.From += s.offset
		s.p.ProbedBy = u
	}
	for i := range s.p.Shifted {
		line(&s.p.Shifted[i], x.p.Shifted[i])
	}
	line(&s.p.Homed, x.p.Homed)
	line(&s.p.Probed, x.p.Probed)
	line(&s.p.Loaded, x.p.Loaded)
	line(&s.p.ChamberWaits, x.p.ChamberWaits)
	line(&s.p.Extruded, x.p.Extruded)
}

// absorbWords adds the words, comments and faults of a piece.
func (s *scanner) absorbWords(x *scanner, base int64) {
	add := func(to map[string]*Use, order *[]string, key string, u *Use) {
		if was := to[key]; was != nil {
			was.Count += u.Count
			return
		}
		if len(to) >= mostUses {
			return
		}
		u.Line += base
		if u.Text != "" {
			u.From += s.offset
		}
		to[key] = u
		*order = append(*order, key)
	}
	for _, word := range x.order {
		add(s.uses, &s.order, word, x.uses[word])
	}
	for _, text := range x.overOrder {
		add(s.overrides, &s.overOrder, text, x.overrides[text])
	}
	maps.Copy(s.labelled, x.labelled)
	h, more := &s.p.Hints, x.p.Hints
	if h.Nozzle == 0 {
		h.Nozzle, h.Nozzles = more.Nozzle, more.Nozzles
	}
	if h.Filament == "" {
		h.Filament, h.Filaments = more.Filament, more.Filaments
	}
	if h.Layer == 0 {
		h.Layer = more.Layer
	}
	if h.Seconds == 0 {
		h.Seconds = more.Seconds
	}
	if h.Flavour == "" {
		h.Flavour = more.Flavour
	}
	for _, f := range x.p.Faults {
		if len(s.p.Faults) < mostFaults {
			s.p.Faults = append(s.p.Faults, Fault{base + f.Line, f.Says})
		}
	}
}
