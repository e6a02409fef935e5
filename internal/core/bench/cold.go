package bench

import (
	"fmt"
	"math"
	"strings"
)

// coldTolerance is how far a sensor of a cold machine may stand from the room,
// in °C. Source: common practice ("within a few degrees").
const coldTolerance = 5.0

// ColdReading is what one sensor of a cold machine shows, in °C.
type ColdReading struct {
	Name    string
	Celsius float64
}

// ColdCheck judges the sensors of a machine that has stood cold: all must
// agree with the room. It returns nil when they do, and otherwise says which do
// not and what that means. room is in °C.
func ColdCheck(room float64, shown []ColdReading) error {
	if room < 0 || room > 45 {
		return fmt.Errorf("a room of %g °C is no workshop; type the room's temperature in °C, such as 21", room)
	}
	var wrong []string
	for _, r := range shown {
		if d := r.Celsius - room; math.Abs(d) > coldTolerance {
			wrong = append(wrong, fmt.Sprintf("%s shows %+.0f °C against the room", r.Name, d))
		}
	}
	if len(wrong) == 0 {
		return nil
	}
	return fmt.Errorf(
		"%s; at most %g °C is right. The machine is not cold yet, or the build believes in another sensor than the one "+
			"fitted: do not heat",
		strings.Join(wrong, ", "),
		coldTolerance,
	)
}
