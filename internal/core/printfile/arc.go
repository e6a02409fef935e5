package printfile

import "math"

// arc is a move along a circle, in mm from where it begins.
type arc struct {
	dx, dy    float64 // where it ends
	i, j      float64 // the centre
	clockwise bool
}

func (a arc) radius() float64 { return math.Sqrt(a.i*a.i + a.j*a.j) }

// length is how far it goes; one that ends where it begins is the whole circle.
func (a arc) length() float64 {
	// The angle between the two radii.
	fromX, fromY, toX, toY := -a.i, -a.j, a.dx-a.i, a.dy-a.j
	angle := math.Atan2(fromX*toY-fromY*toX, fromX*toX+fromY*toY)
	if a.clockwise {
		angle = -angle
	}
	if angle <= 0 {
		angle += 2 * math.Pi
	}
	return a.radius() * angle
}

// toCentre is where the centre of an arc lies from its begin: the arc goes by dx and dy, and is the longer of two
// where its radius is negative. Source: from memory.
func toCentre(dx, dy, radius float64, clockwise bool) (i, j float64) {
	chord := math.Hypot(dx, dy)
	if chord == 0 {
		return 0, 0
	}
	away := math.Sqrt(max(radius*radius-chord*chord/4, 0)) / chord
	if clockwise != (radius < 0) {
		away = -away
	}
	return dx/2 - dy*away, dy/2 + dx*away
}

// arc is G2 or G3: its whole circle is within the bounds that it may reach.
func (s *scanner) arc(rest []byte, clockwise bool) {
	s.asksEntry(0)
	s.asksEntry(1)
	from, known, seconds := s.at, s.known[0] && s.known[1], s.seconds
	s.move(rest)
	a := arc{dx: s.at[0] - from[0], dy: s.at[1] - from[1], clockwise: clockwise}
	i, hasI := param(rest, 'I')
	j, hasJ := param(rest, 'J')
	a.i, a.j = i*s.unit, j*s.unit
	if radius, hasR := param(rest, 'R'); hasR && !hasI && !hasJ {
		a.i, a.j = toCentre(a.dx, a.dy, radius*s.unit, clockwise)
	} else if !hasI && !hasJ {
		return
	}
	if known {
		s.seconds = seconds + math.Hypot(a.length(), s.at[2]-from[2])*s.perMM
	}
	centre, r := [2]float64{from[0] + a.i, from[1] + a.j}, a.radius()
	begin := math.Atan2(from[1]-centre[1], from[0]-centre[0])
	end := math.Atan2(s.at[1]-centre[1], s.at[0]-centre[0])
	if clockwise {
		begin, end = end, begin
	}
	if end <= begin {
		end += 2 * math.Pi
	}
	_, extrudes := param(rest, 'E')
	for quarter := math.Ceil(begin / (math.Pi / 2)); quarter*math.Pi/2 < end; quarter++ {
		angle := quarter * math.Pi / 2
		for axis, n := range []float64{centre[0] + r*math.Cos(angle), centre[1] + r*math.Sin(angle)} {
			for _, b := range []*sides{&s.reach, &s.used} {
				if (b == &s.reach || extrudes) && (n < b.low[axis]-1e-9 || n > b.high[axis]+1e-9) {
					s.further(b, axis, n)
				}
			}
		}
	}
}
