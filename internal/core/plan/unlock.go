package plan

import (
	"slices"

	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
)

// Unlock is what an update of the build would make possible: a reason to touch a
// machine that is otherwise left alone.
type Unlock struct {
	Version string   `json:"version" doc:"The least that does"`
	Kits    []string `json:"kits" doc:"Names of the kits that may fit then"`
}

// Unlocks lists, by version, the kits that do not fit because of the build's
// version alone.
func Unlocks(judges []*fit.Judge, s machine.Snapshot) []Unlock {
	trait := s.Vocabulary().Of(s.First(parts.Firmware), parts.FirmwareVersion)
	if trait == nil || !s.At(trait).Known() {
		return []Unlock{}
	}
	key := trait.Key()
	out := []Unlock{}
	for _, j := range judges {
		if j.Truth(s).Hi() != fit.No {
			continue
		}
		for _, version := range j.VersionsAsked(trait) {
			v, err := trait.ParseRecorded(version)
			if err != nil || j.Truth(s.WithValue(key, v, machine.Proven)).Hi() == fit.No {
				continue
			}
			at := slices.IndexFunc(out, func(u Unlock) bool { return u.Version == version })
			if at < 0 {
				at, out = len(out), append(out, Unlock{Version: version})
			}
			out[at].Kits = append(out[at].Kits, j.Kit.Name)
			break
		}
	}
	slices.SortFunc(out, func(a, b Unlock) int { return fit.CompareVersions(a.Version, b.Version) })
	return out
}
