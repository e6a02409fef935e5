// Package firmware knows how builds get into a board and what flashing does.
package firmware

import (
	"fmt"
	"strings"
)

// CheckCardName judges the file name of a build on a memory card. A board
// ignores in silence a file named as the last one it flashed, without regard to
// case as FAT32 has none. last is "" when unknown. Source: common practice.
func CheckCardName(last, name string) error {
	name, last = strings.TrimSpace(name), strings.TrimSpace(last)
	switch {
	case name == "":
		return fmt.Errorf("type the name of the file on the card, such as build-0412.bin")
	case strings.ContainsAny(name, `\/:*?"<>|`):
		return fmt.Errorf("%q holds a character that a FAT32 card cannot store; use letters, digits, dots and hyphens", name)
	case strings.EqualFold(name, last):
		return fmt.Errorf(
			"%q is the name last flashed on this board: it would be ignored in silence. Give the file another name",
			name,
		)
	}
	return nil
}
