// Package firmware knows builds: what they are made for, which versions go together, how they use
// the flash, how they get into a board and what flashing does.
package firmware

import (
	"fmt"
	"strings"
)

// CheckCardName judges the file name of a build on a memory card. A board
// ignores in silence a file named as the last one it flashed, without regard to
// case as FAT32 has none; others take one fixed name alone. last and fixed are "" where they are
// unknown, or none is asked for. Source: common practice.
func CheckCardName(last, name, fixed string) error {
	name, last, fixed = strings.TrimSpace(name), strings.TrimSpace(last), strings.TrimSpace(fixed)
	switch {
	case name == "":
		return fmt.Errorf("type the name of the file on the card, such as build-0412.bin")
	case strings.ContainsAny(name, `\/:*?"<>|`):
		return fmt.Errorf("%q holds a character that a FAT32 card cannot store; use letters, digits, dots and hyphens", name)
	case fixed != "" && !strings.EqualFold(name, fixed):
		return fmt.Errorf("this board's bootloader takes the name %s alone, and would ignore %q in silence", fixed, name)
	case fixed == "" && strings.EqualFold(name, last):
		return fmt.Errorf(
			"%q is the name last flashed on this board: it would be ignored in silence. Give the file another name",
			name,
		)
	}
	return nil
}
