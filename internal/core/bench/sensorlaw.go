package bench

import (
	"math"

	"wardifex/internal/core/quantity"
)

// Coefficients of platinum above and below 0 °C. Source: IEC 60751.
const (
	ptA = 3.9083e-3
	ptB = -5.775e-7
	ptC = -4.183e-12
)

// The temperatures, in °C, between which the law of platinum holds. Source: IEC 60751.
const (
	ptColdest = -200
	ptHottest = 850
)

// PlatinumOhms is the resistance of a platinum sensor of r0 Ω at 0 °C, at
// −200 to 850 °C. Source: IEC 60751.
func PlatinumOhms(r0, celsius float64) float64 {
	t := celsius
	r := 1 + ptA*t + ptB*t*t
	if t < 0 {
		r += ptC * (t - 100) * t * t * t
	}
	return r0 * r
}

// PlatinumCelsius is the temperature at which a platinum sensor of r0 Ω at 0 °C has a resistance; ok is false where
// it has that nowhere from −200 to 850 °C. Source: IEC 60751.
func PlatinumCelsius(r0, ohms float64) (celsius float64, ok bool) {
	ratio := ohms / r0
	if !(ratio >= PlatinumOhms(1, ptColdest) && ratio <= PlatinumOhms(1, ptHottest)) {
		return 0, false
	}
	if ratio >= 1 {
		return min(ptHottest, (-ptA+math.Sqrt(ptA*ptA-4*ptB*(1-ratio)))/(2*ptB)), true
	}
	// Below 0 °C the law is of the fourth degree; it rises all the way.
	cold, hot := float64(ptColdest), 0.0
	for range 60 {
		if mid := (cold + hot) / 2; PlatinumOhms(1, mid) < ratio {
			cold = mid
		} else {
			hot = mid
		}
	}
	return (cold + hot) / 2, true
}

// The temperatures, in °C, between which thermistors of machines are used. Source: common practice.
const (
	ntcColdest = -50
	ntcHottest = 500
)

// Beta is a thermistor's β in K from two points.
func Beta(a, b Point) float64 {
	return math.Log(a.Ohms/b.Ohms) / (1/(a.Celsius+quantity.ZeroCelsius) - 1/(b.Celsius+quantity.ZeroCelsius))
}

// BetaOhms is the resistance by the β model: r25 Ω at 25 °C.
func BetaOhms(r25, beta, celsius float64) float64 {
	return r25 * math.Exp(beta*(1/(celsius+quantity.ZeroCelsius)-1/(25+quantity.ZeroCelsius)))
}

// BetaCelsius is the temperature by the β model; ok is false where the resistance is had nowhere from −50 to 500 °C.
func BetaCelsius(r25, beta, ohms float64) (celsius float64, ok bool) {
	if !(ohms <= BetaOhms(r25, beta, ntcColdest) && ohms >= BetaOhms(r25, beta, ntcHottest)) {
		return 0, false
	}
	return 1/(1/(25+quantity.ZeroCelsius)+math.Log(ohms/r25)/beta) - quantity.ZeroCelsius, true
}

// sensorType is a sensor that machines carry. The two 100 kΩ thermistors differ
// by their β. Source: IEC 60751 for platinum; β from memory.
type sensorType struct {
	name             string
	coldest, hottest float64 // °C, between which its law holds
	ohms             func(celsius float64) float64
	back             func(ohms float64) (celsius float64, ok bool)
}

func thermistorType(name string, beta float64) sensorType {
	return sensorType{name, ntcColdest, ntcHottest,
		func(t float64) float64 { return BetaOhms(1e5, beta, t) },
		func(r float64) (float64, bool) { return BetaCelsius(1e5, beta, r) }}
}

func platinumType(name string, r0 float64) sensorType {
	return sensorType{name, ptColdest, ptHottest,
		func(t float64) float64 { return PlatinumOhms(r0, t) },
		func(r float64) (float64, bool) { return PlatinumCelsius(r0, r) }}
}

var sensorTypes = []sensorType{
	thermistorType("100k thermistor", 3950),
	thermistorType("104 thermistor", 4267),
	platinumType("Pt100", 100),
	platinumType("Pt1000", 1000),
}

// rises reports whether its resistance rises with heat.
func (s sensorType) rises() bool { return s.ohms(s.hottest) > s.ohms(s.coldest) }

// mistaken is a sensor that a build takes for another, with the resistance of its leads in Ω.
type mistaken struct {
	is, believed sensorType
	lead         float64
}

// scale is where a reading lies against the scale of the sensor that the build believes in.
type scale int

const (
	onScale scale = iota
	belowScale
	aboveScale
)

// shows is what the build shows, in °C, at a true temperature; off its scale the number is the end of that.
func (m mistaken) shows(celsius float64) (float64, scale) {
	ohms := m.is.ohms(celsius) + m.lead
	if t, ok := m.believed.back(ohms); ok {
		return t, onScale
	}
	if tooMuch := ohms > m.believed.ohms(m.believed.hottest); tooMuch == m.believed.rises() {
		return m.believed.hottest, aboveScale
	}
	return m.believed.coldest, belowScale
}

// opposite reports whether the number that is shown falls while it gets hotter.
func (m mistaken) opposite() bool { return m.is.rises() != m.believed.rises() }

// roomOf a machine that is switched on cold, °C.
const room = 25.0

// heating is what comes of heating up, from the room, to a temperature that is to be shown.
type heating int

const (
	// reaches it, at another true temperature.
	reaches heating = iota
	// runsAway never sees it, and heats on until a protection trips.
	runsAway
	// staysCold shows it, or more, before it has heated at all.
	staysCold
)

// heatTo tells what comes of heating up to a shown temperature, and at which true one it is held where it is reached.
func (m mistaken) heatTo(shown float64) (real float64, what heating) {
	at, _ := m.shows(room)
	switch {
	case at >= shown && shown > room:
		return 0, staysCold
	case m.opposite():
		return 0, runsAway
	}
	real, ok := m.is.back(m.believed.ohms(shown) - m.lead)
	if !ok {
		if shown <= at {
			return 0, staysCold
		}
		return 0, runsAway
	}
	return real, reaches
}
