package firmware

import (
	"fmt"
	"strings"

	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
)

// Trap is a way in which a flash fails, in silence or with damage.
type Trap string

// Traps. Source: common practice; the start offset from memory.
const (
	SameName       Trap = "the file name is the one flashed last: the board ignores it in silence"
	OtherName      Trap = "the bootloader asks for one name and ignores every other"
	OtherOffset    Trap = "the build is made for another start than the bootloader's: it is written and never runs"
	CardFormat     Trap = "the card is formatted otherwise than the bootloader reads, or holds other files"
	StaleObjects   Trap = "the first build after an update fails, or carries stale pieces"
	MixedVersions  Trap = "source and configuration are of two versions"
	LostBootloader Trap = "the programmer writes over the bootloader"
	BackFeed       Trap = "current flows back into the computer"
	WrongWay       Trap = "the connector of the programmer is the wrong way round"
	CutShort       Trap = "power goes or the card is taken out while it is written"
	BlankDisplay   Trap = "the display is blank and is taken for broken"
	GarbageValues  Trap = "stored values of another layout are taken for this one's"
	LostValues     Trap = "this machine's own values are gone"
	NotRunning     Trap = "the old build still runs and nobody notices"
	JumperLeft     Trap = "the boot jumper stays on and the board never starts its build"
	LostWayBack    Trap = "the old build and its settings are gone"
	OtherProcessor Trap = "the build is for another processor"
	HostMismatch   Trap = "host and mainboard speak different versions"
	ClosedScreen   Trap = "a closed display fights with the host for the board"
	LaptopPort     Trap = "a laptop's port does not carry the host"
	OpenPassword   Trap = "the host's default password is known to everybody"
	ShiftedOffset  Trap = "the Z offset is not what it was"
)

// FlashStep is a step of getting a build into a board.
type FlashStep struct {
	Key      string
	Title    string
	Do       string
	Lines    []string
	Cautions []string
	Seconds  int    // that something takes that is waited for
	Prevents []Trap // what goes wrong without it
	// Name says that the name of the file on the card is typed at the step, before the card is
	// written; Last is the one that must not come again, Fixed the only one that is taken.
	Name        bool
	Last, Fixed string
	// Flashes says that the board is another afterwards.
	Flashes bool
}

// Flashing is what is flashed, where.
type Flashing struct {
	Machine machine.Snapshot // as it is when it is flashed
	Last    string           // file name flashed last; empty where that is unknown
	Must    string           // what the build must have
}

// way is how a build gets in; empty where it is not on record.
func (f Flashing) way() string {
	return f.Machine.Of(f.Machine.First(parts.Mainboard), parts.MainboardUpload).Value.Text
}

func (f Flashing) family() string {
	return f.Machine.Of(f.Machine.First(parts.Firmware), parts.FirmwareFamily).Value.Text
}

// UniqueName proposes a file name that the board has not seen: the machine's and the day's, within
// the eight characters that every bootloader reads. n tells several of a day apart.
func UniqueName(name, day, last string) string {
	letters := strings.Map(func(r rune) rune {
		if r >= 'a' && r <= 'z' || r >= '0' && r <= '9' {
			return r
		}
		return -1
	}, strings.ToLower(name))
	day = strings.ReplaceAll(day, "-", "")
	if len(day) == 8 {
		day = day[4:]
	}
	base := letters[:min(len(letters), 8-len(day)-1)] + day
	for _, end := range "abcdefghijklmnopqrstuvwxyz" {
		if proposed := base + string(end) + ".bin"; !strings.EqualFold(proposed, last) {
			return proposed
		}
	}
	return base + ".bin"
}

// Steps are those from a build that is wanted to a build that is seen to run, for the way in that
// the machine's board has; the ways back, and the values that are entered again, come before and
// after. Source: common practice.
func (f Flashing) Steps() []FlashStep {
	if f.family() == parts.Hosted {
		return f.hosted()
	}
	out := []FlashStep{f.make()}
	switch f.way() {
	case parts.MemoryCard:
		out = append(out, f.card()...)
	case parts.Programmer:
		out = append(out, f.programmer()...)
	case parts.USB:
		out = append(out, FlashStep{Key: "connect", Title: "Connect the board by USB",
			Do: "With the driver of its USB chip. The machine's own supply off: USB feeds the logic. An upload that does not " +
				"begin means no bootloader, the wrong port or the wrong chip driver: nothing has been written yet.",
			Prevents: []Trap{BackFeed}})
	case parts.BootJumper:
		out = append(out, FlashStep{Key: "jumper-on", Title: "Power off, set the boot jumper, power on",
			Do:       "Off before the jumper is moved. The board then waits for an upload and shows nothing.",
			Cautions: []string{"Everything on the chip may be overwritten, the bootloader too: keep its file at hand."},
			Prevents: []Trap{LostBootloader}})
	default:
		out = append(out, FlashStep{Key: "way-in", Title: "Find out how this board takes a build",
			Do: "It is not on record. USB where there is a bootloader, else a memory card with a new file name each time, " +
				"else " +
				"the six-pin programmer. Record it on the mainboard."})
	}
	return append(out, f.write())
}

// make is how the build is made.
func (f Flashing) make() FlashStep {
	do := "It must have: " + f.Must +
		". Source tree and example configuration of the same version: look at both before you " +
		"build. Every setting of this machine carried over. Stamp it with the machine's name and the date. After an update " +
		"of the source, clean and build again: the first build often fails on stale pieces."
	s := FlashStep{Key: "make-build", Title: "Make the build", Do: do,
		Prevents: []Trap{MixedVersions, StaleObjects, OtherProcessor}}
	board := f.Machine.First(parts.Mainboard)
	if p := f.Machine.Of(board, parts.MainboardProcessor); p != nil && p.Known() {
		s.Lines = append(s.Lines, "processor: "+p.Trait.Show(p.Value))
	}
	if n, known := f.Machine.Number(board, parts.MainboardOffset); known {
		s.Lines = append(s.Lines, fmt.Sprintf("start offset: %g KiB (0x%X)", n, int(n)*1024))
		s.Prevents = append(s.Prevents, OtherOffset)
	} else {
		s.Do += " Where the bootloader starts a build is not on record: a build for another start is written and never runs."
		s.Prevents = append(s.Prevents, OtherOffset)
	}
	for _, a := range Asks(f.Machine) {
		says := a.Label + ": " + a.Value
		if a.Grade <= machine.Claimed {
			says += " (only claimed: look first)"
		}
		s.Lines = append(s.Lines, says)
	}
	return s
}

func (f Flashing) card() []FlashStep {
	fixed := f.Machine.Of(f.Machine.First(parts.Mainboard), parts.MainboardFileName).Value.Text
	name := FlashStep{Key: "file-name", Title: "Name the file before it goes on the card", Name: true, Last: f.Last,
		Fixed:    fixed,
		Prevents: []Trap{SameName, OtherName}}
	switch {
	case fixed != "" && fixed != machine.None:
		name.Do = "This board's bootloader takes the name " + fixed + " alone, and renames the file once it has read it."
	case f.Last != "":
		name.Do = "The last file flashed was " + f.Last +
			". The new one must have another name, or the board ignores it in silence."
	default:
		name.Do = "The name of the last file is not on record. Choose one that this board cannot have seen: the " +
			"machine's name " +
			"and today's date."
	}
	return []FlashStep{name,
		{Key: "write-card", Title: "Write the card: FAT32, 4096-byte clusters, nothing else on it",
			Do: "Format it if it holds anything. Copy the file, then eject the card in the computer before you pull it. A " +
				"card of " +
				"more than 32 GB is often formatted otherwise: take a smaller one.",
			Prevents: []Trap{CardFormat}},
		{Key: "card-in", Title: "Power off, put the card in",
			Do:       "Off before the card goes in: the board looks for it when it starts.",
			Prevents: []Trap{CutShort}},
	}
}

func (f Flashing) programmer() []FlashStep {
	return []FlashStep{
		{Key: "bootloader", Title: "Decide on the bootloader first",
			Do: "The programmer writes all of the flash. Either burn the bootloader now and send the firmware over USB " +
				"afterwards, or write the firmware with the programmer: that erases a bootloader written before, and every later " +
				"update needs the programmer again.",
			Prevents: []Trap{LostBootloader}},
		{Key: "programmer-power", Title: "Take the programmer's power jumper off; plug it in the right way round",
			Do: "The board runs on its own supply. Pin 1 to pin 1: where the programmer does not find the chip, turn the " +
				"connector before anything else.",
			Cautions: []string{"With the jumper on, the machine's supply feeds back into the computer's USB port.",
				"The supply is on while you plug: low voltage side only, cover of the mains side closed."},
			Prevents: []Trap{BackFeed, WrongWay}},
	}
}

// write is the flash itself, and the proof that it ran.
func (f Flashing) write() FlashStep {
	s := FlashStep{Key: "flash", Title: "Flash, then read the version off the machine", Flashes: true, Seconds: 12,
		Prevents: []Trap{CutShort, BlankDisplay, NotRunning}}
	switch f.way() {
	case parts.MemoryCard:
		s.Do = "Power on and wait 12 s; touch nothing meanwhile."
	case parts.Programmer:
		s.Do = "Write, and let it verify. Then programmer off, power off and on."
		s.Seconds = 60
	case parts.BootJumper:
		s.Do = "Upload. Then power off, take the boot jumper off, power on: with it on the board never starts its build."
		s.Seconds = 60
		s.Prevents = append(s.Prevents, JumperLeft)
	default:
		s.Do = "Upload, and leave it alone until the program says that it is done."
		s.Seconds = 60
	}
	s.Do += " A blank display is normal until a build with this display is in. The information screen, or the reply to " +
		"M115, proves what runs: hold it against the label and type what it shows."
	s.Lines = []string{"M115"}
	return s
}

// hosted is a mainboard's build beside a host: rebuilt on it, and flashed only where the two do not
// match.
func (f Flashing) hosted() []FlashStep {
	return []FlashStep{
		{Key: "host-backup", Title: "Back up the configuration; keep the old card",
			Do: "Copy the configuration off the host. With a new system: a fresh card, the old one put aside with its " +
				"date. Put " +
				"both on record under Cards and backups.",
			Prevents: []Trap{LostWayBack}},
		{Key: "host-power", Title: "The host on its own supply; a closed display unplugged; the password changed",
			Do: "A laptop's port does not carry a host. A closed display talks to the board over the same line. Change the " +
				"default password before the host is on the network.",
			Prevents: []Trap{LaptopPort, ClosedScreen, OpenPassword}},
		{Key: "make-build", Title: "Build for the mainboard on the host",
			Do: "It must have: " + f.Must +
				". On the host that it will talk to, so that both are of one version. Clean before you " +
				"build. Processor, start offset and the line it talks on as the board has them.",
			Prevents: []Trap{HostMismatch, StaleObjects, OtherOffset, OtherProcessor}},
		{Key: "flash", Title: "Flash, restart, then read the version off the machine", Flashes: true, Seconds: 60,
			Do: "Then the serial line by its identity in the configuration, not by its number: numbers change with the " +
				"order of " +
				"plugging. Restart; no message of a version mismatch may come. Type what the host shows as the mainboard's " +
				"version.",
			Prevents: []Trap{NotRunning, HostMismatch}},
		{Key: "paper", Title: "Check the Z offset with paper",
			Do: "After every host update, even where nothing of the probe was touched.", Prevents: []Trap{ShiftedOffset}},
	}
}
