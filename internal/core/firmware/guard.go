package firmware

import (
	"fmt"
	"slices"
	"strings"

	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
	"wardifex/internal/core/quantity"
)

// GuardLevel is how a check before a flash turns out.
type GuardLevel string

// Levels of guards.
const (
	GuardPasses GuardLevel = "passes"
	GuardAsks   GuardLevel = "look first"
	GuardStops  GuardLevel = "stop"
)

// Guard is one check of a build against the machine that it is to be flashed on.
type Guard struct {
	What  string     `json:"what"`
	Level GuardLevel `json:"level" enum:"passes,look first,stop"`
	Says  string     `json:"says"`
}

// Guards are the checks of a build before it is flashed on a machine: what stops first.
func Guards(b Build, s machine.Snapshot, name, last string) []Guard {
	var out []Guard
	say := func(what string, level GuardLevel, format string, a ...any) {
		out = append(out, Guard{what, level, fmt.Sprintf(format, a...)})
	}
	board := s.First(parts.Mainboard)
	now := s.Of(s.First(parts.Firmware), parts.FirmwareFamily).Value.Text
	if b.Family != "" && now != "" && b.Family != now {
		say("Family", GuardAsks,
			"the machine runs a %s build and this one is %s: see what carries over before you change the "+
				"family", now, b.Family)
	}
	for _, says := range b.Pairs() {
		say("Versions", GuardStops, "%s", says)
	}
	if p := s.Of(board, parts.MainboardProcessor); board != nil {
		switch {
		case b.Processor == "":
			say("Processor", GuardAsks, "which processor it is built for is not on record")
		case !p.Known():
			say("Processor", GuardAsks, "it is built for %s, and the board's processor is not on record", b.Processor)
		case !sameWord(b.Processor, p.Value.Text):
			say("Processor", GuardStops, "it is built for %s, and the board has %s", b.Processor, p.Trait.Show(p.Value))
		case p.Grade <= machine.Claimed:
			say("Processor", GuardAsks, "it is built for %s, which the board is only claimed to have: lift the heat sink",
				b.Processor)
		default:
			say("Processor", GuardPasses, "%s, as the board has", b.Processor)
		}
		guardOffset(b, s, board, say)
	}
	if b.Family != parts.Hosted {
		guardMemory(b, s, say)
	}
	apart := Mismatches(s, b.ConfiguredFor)
	for _, m := range apart {
		level := GuardStops
		if m.Leans {
			level = GuardAsks
		}
		say(m.Says[:strings.Index(m.Says+":", ":")], level, "%s. %s", m.Says, m.Hazard)
	}
	if len(b.ConfiguredFor) == 0 {
		say("Configured for", GuardAsks, "for which parts it was configured is not on record")
	} else if len(apart) == 0 {
		say("Configured for", GuardPasses, "all that is on record of both agrees")
	}
	guardName(b, s, board, last, say)
	columns, _ := s.Number(s.First(parts.Display), parts.DisplayColumns)
	if says := b.CheckLabel(name, columns); says != "" {
		say("Label", GuardAsks, "%s", says)
	} else {
		say("Label", GuardPasses, "%s", b.Label)
	}
	SortGuards(out)
	return out
}

// SortGuards puts checks in order: what stops first.
func SortGuards(list []Guard) {
	slices.SortStableFunc(list, func(a, b Guard) int { return rankOf(b.Level) - rankOf(a.Level) })
}

func rankOf(l GuardLevel) int {
	return slices.Index([]GuardLevel{GuardPasses, GuardAsks, GuardStops}, l)
}

// sameWord compares names without regard to case, blanks and hyphens.
func sameWord(a, b string) bool {
	plain := strings.NewReplacer(" ", "", "-", "", "_", "")
	return strings.EqualFold(plain.Replace(a), plain.Replace(b))
}

type sayGuard func(what string, level GuardLevel, format string, a ...any)

func guardOffset(b Build, s machine.Snapshot, board *machine.Position, say sayGuard) {
	at, known := s.Number(board, parts.MainboardOffset)
	switch {
	case b.Offset == nil && !known: // of 8-bit boards nobody asks
	case b.Offset == nil:
		say("Start offset", GuardAsks,
			"the bootloader starts a build at %g KiB, and for which start this one is made is not on "+
				"record", at)
	case !known:
		say("Start offset", GuardAsks, "it is made for a start at %g KiB, and the bootloader's is not on record", *b.Offset)
	case at != *b.Offset:
		say("Start offset", GuardStops,
			"it is made for a start at %g KiB, and the bootloader starts a build at %g KiB: it would be "+
				"written and never run", *b.Offset, at)
	default:
		say("Start offset", GuardPasses, "%g KiB, as the bootloader starts it", at)
	}
}

func guardMemory(b Build, s machine.Snapshot, say sayGuard) {
	m := FlashUseOf(s, b)
	switch {
	case !m.Known:
		say("Memory", GuardAsks, "cannot be told: %s is not on record", strings.Join(m.Missing, " and "))
	case m.Free < 0:
		say("Memory", GuardStops, "it is %s KiB too large: %s KiB of flash, %s of it the bootloader's",
			quantity.Format(-m.Free),
			quantity.Format(m.KiB), quantity.Format(m.Bootloader))
	case m.Least < 0:
		say("Memory", GuardAsks, "between %s and %s KiB left: %s is not on record", quantity.Format(m.Least),
			quantity.Format(m.Free), strings.Join(m.Missing, " and "))
	case m.Grade <= machine.Claimed:
		say("Memory", GuardAsks, "%s KiB would be left of a flash that is only claimed: half of it is common",
			quantity.Format(m.Free))
	default:
		say("Memory", GuardPasses, "%s KiB left of %s", quantity.Format(m.Free), quantity.Format(m.KiB))
	}
}

// guardName holds the file name against the last one and the one that the bootloader asks for.
func guardName(b Build, s machine.Snapshot, board *machine.Position, last string, say sayGuard) {
	if board == nil || !s.Says(board, parts.MainboardUpload, parts.MemoryCard) {
		return
	}
	fixed := s.Of(board, parts.MainboardFileName).Value.Text
	switch err := CheckCardName(last, b.File, fixed); {
	case b.File == "":
		say("File name", GuardAsks, "the name of its file is not on record; the last one flashed was %s", orUnknown(last))
	case err != nil:
		say("File name", GuardStops, "%s", err.Error())
	case last == "" && fixed == "":
		say("File name", GuardAsks,
			"%s; which file was flashed last is not on record, so whether it is a new name cannot be told",
			b.File)
	default:
		say("File name", GuardPasses, "%s, and %s was the last", b.File, orUnknown(last))
	}
}

func orUnknown(text string) string {
	if text == "" {
		return "not recorded"
	}
	return text
}
