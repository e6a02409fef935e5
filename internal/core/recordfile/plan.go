package recordfile

import (
	"fmt"
	"reflect"
	"strings"
	"time"

	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/firmware"
	"wardifex/internal/core/machine"
)

// ImportPlan is what importing a record file would do.
type ImportPlan struct {
	Machines  []string          `json:"machines" doc:"Names, in the file's order"`
	Parts     int               `json:"parts"`
	Readings  int               `json:"readings"`
	Photos    int               `json:"photos"`
	Catalogue []catalogue.Entry `json:"catalogue" doc:"Catalogue entries that would be added or changed"`
	Faults    []string          `json:"faults"`
}

// OnRecord is what is on record beside a file that is to be imported.
type OnRecord struct {
	Machines []string // names
	Tags     []string // of parts
	// Builds are those that have a name of the file's builds, by it in small letters.
	Builds map[string]firmware.Build
	// Positions are those that any machine has or had.
	Positions []machine.Position
}

// NewImportPlan judges a file beside what is on record. merged is what its catalogue and kits
// would make of the shop's; the file is read in that vocabulary.
func NewImportPlan(f File, on OnRecord, merged catalogue.MergePlan, now time.Time) (ImportPlan, error) {
	p := ImportPlan{Machines: []string{}, Parts: len(f.Parts), Catalogue: []catalogue.Entry{}, Faults: []string{}}
	for _, part := range f.Parts {
		p.Readings += len(part.Readings)
		for _, r := range part.Readings {
			p.Photos += len(r.Photos)
		}
	}
	p.Catalogue = append(append(p.Catalogue, merged.Added...), merged.Changed...)
	if len(merged.Faults) > 0 {
		p.Faults = append(p.Faults, catalogue.FirstFaults(merged.Faults)...)
		return p, nil
	}
	voc, err := merged.After.Vocabulary(append(on.Positions, f.PositionsBesides()...)...)
	if err != nil {
		return p, err
	}
	p.Faults = append(p.Faults, f.Faults(voc, now)...)
	taken := map[string]bool{}
	for _, name := range on.Machines {
		taken["machine "+strings.ToLower(name)] = true
	}
	for _, tag := range on.Tags {
		taken["tag "+strings.ToLower(tag)] = true
	}
	for _, m := range f.Machines {
		p.Machines = append(p.Machines, m.Name)
		if taken["machine "+strings.ToLower(m.Name)] {
			p.Faults = append(p.Faults, fmt.Sprintf("there is a machine named %s already; a record is imported whole, not "+
				"mixed with another. Rename one of the two", m.Name))
		}
	}
	for _, b := range f.Builds {
		if is, known := on.Builds[strings.ToLower(b.Name)]; known && !reflect.DeepEqual(is, b.Build) {
			p.Faults = append(p.Faults, fmt.Sprintf("there is another build named %s already; builds are not mixed. Rename "+
				"one of the two", b.Name))
		}
	}
	for _, part := range f.Parts {
		key := "tag " + strings.ToLower(part.Tag)
		if part.Tag != "" && taken[key] {
			p.Faults = append(p.Faults, fmt.Sprintf("there is a part tagged %s already", part.Tag))
		}
		taken[key] = true
	}
	p.Faults = catalogue.FirstFaults(p.Faults)
	return p, nil
}
