package plan

import (
	"slices"

	"wardifex/internal/core/firmware"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
)

// Memory is what to do where flash is short for a kit. Source: common practice: a
// bootloader is kept unless every byte is needed.
type Memory struct {
	Short float64 `json:"short" doc:"KiB"`
	// Empty when all together do not free enough.
	Drop []string `json:"drop" doc:"The smallest set of features to leave out of the build"`
	// 0 when there is none on record.
	Bootloader float64 `json:"bootloader" doc:"KiB that leaving the bootloader out would free"`
	Enough     bool    `json:"enough" doc:"That alone would do"`
}

// MemoryFor says what to do where flash is short; nil where it is not.
func MemoryFor(kit *fit.Judge, s machine.Snapshot) *Memory {
	short := kit.Short("flash", s)
	if short <= 0 {
		return nil
	}
	out := Memory{Short: short, Drop: []string{}}
	for _, f := range firmware.DropFeatures(short, featuresOf(s)) {
		out.Drop = append(out.Drop, f.Name)
	}
	board := s.First(parts.Mainboard)
	if f := s.Of(board, parts.MainboardBootloaderSize); f.Known() && !s.Says(board, parts.MainboardBootloader, "no") {
		out.Bootloader, out.Enough = f.Value.Number, f.Value.Number >= short
	}
	return &out
}

// featuresOf are the features of a machine's build whose size is known.
func featuresOf(s machine.Snapshot) []machine.Feature {
	var out []machine.Feature
	build := s.First(parts.Firmware)
	if build == nil {
		return nil
	}
	for _, name := range fit.FeaturesIn(s.Of(build, parts.FirmwareFeatures).Value.Text) {
		named := func(o machine.Feature) bool { return o.Name == name }
		if f, ok := s.Vocabulary().Feature(build.Kind, name); ok && f.KiB > 0 && !slices.ContainsFunc(out, named) {
			out = append(out, f)
		}
	}
	return out
}
