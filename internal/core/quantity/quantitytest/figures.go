// Package quantitytest reads the figures out of sentences, so that tests compare what a sum comes to and not its words.
package quantitytest

import (
	"regexp"
	"strings"
)

// A minus is part of a number where no blank stands between: "− 20 mesh" takes 20, "= −1 left" comes to −1.
var number = regexp.MustCompile(`[-−]?\d+(\.\d+)?`)

// Figures are the numbers in a text, in their order.
func Figures(text string) []string {
	return number.FindAllString(strings.ReplaceAll(text, "-", "−"), -1)
}

// Holds reports whether the numbers of want stand in text one after another. A want without a number is of nothing: it
// holds nowhere.
func Holds(text, want string) bool {
	asked := Figures(want)
	joined := func(list []string) string { return " " + strings.Join(list, " ") + " " }
	return len(asked) > 0 && strings.Contains(joined(Figures(text)), joined(asked))
}
