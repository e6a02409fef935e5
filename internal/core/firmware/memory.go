package firmware

import (
	"maps"
	"slices"

	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
)

// FlashUse is how the flash of a board is used: what there is, less the bootloader, the build without
// its features, and each feature. Source: common practice.
type FlashUse struct {
	KiB        float64       `json:"kib" doc:"Of flash; 0 while that is unknown"`
	Grade      machine.Grade `json:"grade" doc:"How surely the board has that much"`
	Shares     []Share       `json:"shares" doc:"What takes of it, in the order of the bar"`
	Free       float64       `json:"free" doc:"KiB left at most; below 0 it does not fit"`
	Least      float64       `json:"least" doc:"KiB left at least: less where what the bootloader takes is unknown"`
	Known      bool          `json:"known" doc:"Whether flash and size are on record, so that what is free can be told"`
	Missing    []string      `json:"missing" doc:"What is not on record and would have to be looked at"`
	Bootloader float64       `json:"bootloader" doc:"KiB that leaving the bootloader out would free"`
	// Said where leaving it out is a question at all.
	WithoutIt string `json:"withoutBootloader,omitempty" doc:"What leaving it out gains and costs"`
}

// Share is a piece of the flash.
type Share struct {
	Name    string  `json:"name"`
	KiB     float64 `json:"kib"`
	Feature bool    `json:"feature" doc:"It is a feature that can be left out"`
	// Claimed says that the size is as stated, not as observed.
	Claimed bool `json:"claimed"`
}

// FlashUseOf is how a build uses the flash of the mainboard of a machine. The size of a build as a
// whole is what was observed of it; those of features are as the catalogue states them.
func FlashUseOf(s machine.Snapshot, b Build) FlashUse {
	board := s.First(parts.Mainboard)
	out := FlashUse{Shares: []Share{}, Missing: []string{}}
	flash := s.Of(board, parts.MainboardFlash)
	if board != nil && flash.Known() {
		out.KiB, out.Grade = flash.Value.Number, flash.Grade
	} else {
		out.Missing = append(out.Missing, "how much flash the board has")
	}
	unknown := 0.0 // that the bootloader may take
	if board != nil && !s.Says(board, parts.MainboardBootloader, "no") {
		size := s.Of(board, parts.MainboardBootloaderSize)
		switch {
		case size.Known():
			out.Bootloader = size.Value.Number
			out.Shares = append(out.Shares, Share{Name: "bootloader", KiB: size.Value.Number,
				Claimed: size.Grade <= machine.Claimed})
		default:
			out.Missing = append(out.Missing, "how much the bootloader takes")
			unknown = mostBootloader(size.Trait)
		}
	}
	features := 0.0
	var list []Share
	for _, name := range slices.Sorted(maps.Keys(b.Features)) {
		if f, ok := s.Vocabulary().Feature(parts.Firmware, name); ok && b.Features[name] == "yes" && f.KiB > 0 {
			list = append(list, Share{Name: name, KiB: f.KiB, Feature: true, Claimed: true})
			features += f.KiB
		}
	}
	if b.KiB == 0 {
		out.Missing = append(out.Missing, "the size of the build")
	} else {
		base := max(b.KiB-features, 0)
		out.Shares = append(out.Shares, Share{Name: "build without them", KiB: base})
		if features == 0 {
			out.Shares[len(out.Shares)-1].Name = "build"
		}
	}
	out.Shares = append(out.Shares, list...)
	out.Known = out.KiB > 0 && b.KiB > 0
	if out.Known {
		out.Free = out.KiB - max(b.KiB, features) - out.Bootloader
		out.Least = out.Free - unknown
	}
	if out.Bootloader > 0 {
		out.WithoutIt = "It would free its share, and every update from then on needs the in-circuit programmer. Keep it " +
			"unless every byte is needed."
	}
	return out
}

// mostBootloader is how much a bootloader takes at most, KiB, where the catalogue says nothing. Source: common
// practice.
func mostBootloader(t *machine.Trait) float64 {
	if t != nil {
		if r, told := t.Possible[""]; told {
			return r.Max
		}
	}
	return 64
}

// Wanted is what features that are wanted besides would leave of the flash.
type Wanted struct {
	Features []string `json:"features"`
	KiB      float64  `json:"kib" doc:"That they take, as stated"`
	Free     float64  `json:"free" doc:"KiB left with them at most; below 0 they do not fit"`
	Least    float64  `json:"least" doc:"KiB left with them at least"`
	Unknown  []string `json:"unknown" doc:"Those of which nobody has stated what they take"`
	Drop     []Drop   `json:"drop" doc:"What could be left out for them, the cheapest first; empty where they fit"`
	// Empty where all together would not do.
	Smallest   []string `json:"smallest" doc:"The cheapest set that suffices"`
	Bootloader bool     `json:"bootloader" doc:"Leaving the bootloader out alone would do"`
}

// Drop is a feature that could be left out.
type Drop struct {
	Feature string  `json:"feature"`
	KiB     float64 `json:"kib"`
	Alone   bool    `json:"alone" doc:"Leaving it out alone would do"`
	Used    string  `json:"used" doc:"What on the machine needs it; empty where nothing is known to"`
}

// Want is what features leave of the flash, and what to drop for them. Cheapest is what nothing on
// the machine needs; of those what takes least but suffices.
func (m FlashUse) Want(s machine.Snapshot, b Build, features []string) Wanted {
	out := Wanted{Features: features, Unknown: []string{}, Drop: []Drop{}, Smallest: []string{}}
	for _, name := range features {
		f, ok := s.Vocabulary().Feature(parts.Firmware, name)
		switch {
		case b.Features[name] == "yes":
		case !ok || f.KiB == 0:
			out.Unknown = append(out.Unknown, name)
		default:
			out.KiB += f.KiB
		}
	}
	out.Free, out.Least = m.Free-out.KiB, m.Least-out.KiB
	if !m.Known || out.Free >= 0 {
		return out
	}
	short := -out.Free
	var spare, used []machine.Feature
	for _, share := range m.Shares {
		if !share.Feature || slices.Contains(features, share.Name) {
			continue
		}
		by := usedBy(s, share.Name)
		out.Drop = append(out.Drop, Drop{share.Name, share.KiB, share.KiB >= short, by})
		f := machine.Feature{Name: share.Name, KiB: share.KiB}
		if by == "" {
			spare = append(spare, f)
		} else {
			used = append(used, f)
		}
	}
	slices.SortStableFunc(out.Drop, func(a, b Drop) int {
		switch {
		case (a.Used == "") != (b.Used == ""):
			if a.Used == "" {
				return -1
			}
			return 1
		case a.Alone != b.Alone:
			if a.Alone {
				return -1
			}
			return 1
		case a.Alone:
			return int(a.KiB - b.KiB)
		}
		return int(b.KiB - a.KiB)
	})
	set := DropFeatures(short, spare)
	if set == nil {
		set = DropFeatures(short, append(spare, used...))
	}
	for _, f := range set {
		out.Smallest = append(out.Smallest, f.Name)
	}
	out.Bootloader = m.Bootloader >= short
	return out
}

// usedBy is what of a machine needs a feature of its build: a part of the kind that the feature is
// for; empty where nothing is known to.
func usedBy(s machine.Snapshot, feature string) string {
	f, ok := s.Vocabulary().Feature(parts.Firmware, feature)
	if !ok {
		return ""
	}
	for _, n := range f.Needs {
		if n.That.Test == nil {
			continue
		}
		for _, p := range s.Each(n.That.Test.Of.Kind) {
			if s.Presence(p, machine.Claimed).Sure {
				return p.Label
			}
		}
	}
	return ""
}

// DropFeatures is the smallest set of features that frees the KiB needed; of sets of one
// size the one that frees least. nil when all of them together do not free enough. A kind
// has at most machine.MostFeatures of them, so that every set can be tried.
func DropFeatures(needKiB float64, there []machine.Feature) []machine.Feature {
	var best []machine.Feature
	bestSum := 0.0
	for mask := 1; mask < 1<<len(there); mask++ {
		var some []machine.Feature
		sum := 0.0
		for i, f := range there {
			if mask>>i&1 == 1 {
				some, sum = append(some, f), sum+f.KiB
			}
		}
		if sum >= needKiB && (best == nil || len(some) < len(best) || len(some) == len(best) && sum < bestSum) {
			best, bestSum = some, sum
		}
	}
	return best
}
