package machine

import (
	"fmt"
	"regexp"
	"strconv"
	"strings"

	"wardifex/internal/core/quantity"
)

// Place is what a position serves: "axis z", "head 2", "bed", "frame",
// "enclosure", "electronics" or "shop"; NoPlace while nobody has said it.
type Place string

// PlaceKind is a place without its number or letter: "axis", "head", "bed" …
type PlaceKind string

const (
	NoPlace     Place = ""
	Bed         Place = "bed"
	Frame       Place = "frame"
	Enclosure   Place = "enclosure"
	Electronics Place = "electronics"
	Shop        Place = "shop"

	AnAxis PlaceKind = "axis"
	AHead  PlaceKind = "head"
	ABed   PlaceKind = "bed"
)

// MostHeads is how many tool heads a machine can have on record, and MostOfAKind
// how many parts of one kind at one place.
const (
	MostHeads   = 50
	MostOfAKind = 50
)

// Axis is the place of an axis, by its letter.
func Axis(letter string) Place { return Place("axis " + letter) }

// Head is the place of a tool head, counted from 1.
func Head(n int) Place { return Place("head " + strconv.Itoa(n)) }

// Kind is the place without its number or letter.
func (p Place) Kind() PlaceKind {
	word, _, _ := strings.Cut(string(p), " ")
	return PlaceKind(word)
}

// Head is the number of the head that the place is, from 1; 0 when it is none.
func (p Place) Head() int {
	if p.Kind() != AHead {
		return 0
	}
	n, _ := strconv.Atoi(strings.TrimPrefix(string(p), "head "))
	return n
}

// Letter is the letter of the axis that the place is; empty when it is none.
func (p Place) Letter() string {
	if p.Kind() != AnAxis {
		return ""
	}
	return strings.TrimPrefix(string(p), "axis ")
}

var placeForm = regexp.MustCompile(`^(axis [a-cu-z]|head [1-9][0-9]?|bed|frame|enclosure|electronics|shop)?$`)

// ParsePlace reads a place as it is written. The error says what there is.
func ParsePlace(text string) (Place, error) {
	p := Place(fold(text))
	if !placeForm.MatchString(string(p)) || p.Head() > MostHeads {
		return NoPlace, fmt.Errorf("%q is no place of a machine: write axis x (or y, z, u, v, w, a, b, c), "+
			"head 1 to head %d, bed, frame, enclosure, electronics or shop", quantity.Clip(text), MostHeads)
	}
	return p, nil
}

// String writes the place for people: "axis Z", "head 2", "not placed".
func (p Place) String() string {
	switch p.Kind() {
	case "":
		return "not placed"
	case AnAxis:
		return "axis " + strings.ToUpper(p.Letter())
	}
	return string(p)
}

// UsualPlaces are places that most machines have, as they are proposed.
func UsualPlaces() []Place {
	return []Place{Axis("x"), Axis("y"), Axis("z"), Head(1), Head(2), Bed, Frame, Enclosure, Electronics, Shop}
}
