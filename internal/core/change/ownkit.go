package change

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"wardifex/internal/core/firmware"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/maintenance"
	"wardifex/internal/core/parts"
	"wardifex/internal/core/sentence"
)

// OwnKit begins the keys of changes that no catalogue has as a kit: they are written as one
// of their own.
const OwnKit = "own/"

const (
	swapWhat   = "one part for another"
	flashWhat  = "a flash by itself"
	repairWhat = "a repair"
	taskWhat   = "maintenance"
	mountWhat  = "another head"
)

// Swap is one part for another of its kind, or for a new one of the same model: a repair, or
// wear.
func Swap(at *machine.Position, before, after string) fit.Kit {
	name := "new " + strings.ToLower(at.Label)
	if !strings.EqualFold(before, after) {
		name = at.Label + ": " + before + " → " + after
	}
	return fit.Kit{Key: "own/swap/" + at.Key, Name: name, What: swapWhat,
		Effects: []fit.Effect{{Slot: at.Key, Model: after}}}
}

// Reflash is another build for the parts that are fitted. must is what it has to have.
func Reflash(must string) fit.Kit {
	return fit.Kit{Key: "own/flash", Name: "another build", What: flashWhat, NewBuild: must}
}

// HostUpdate is an update of the host's software, in the order in which its pieces talk to each other.
func HostUpdate() fit.Kit {
	kit := fit.Kit{Key: "own/host-update", Name: "host update", What: taskWhat}
	for _, s := range firmware.HostUpdate() {
		kit.Steps = append(kit.Steps, fit.FittingStep{Title: s.Title, Do: s.Do})
	}
	return kit
}

// Repair is the search for what a fault comes from. Which part is changed turns out while it
// is done: Amend puts that into the order. s is nil where no symptom was recognised.
func Repair(words string, s *maintenance.Symptom) fit.Kit {
	look := fit.FittingStep{Title: "Look for the cause", Do: "See the fault for yourself before anything is changed. " +
		"One thing at a time: what is changed together is never known apart."}
	if s != nil {
		look.Do += " Most likely first:"
		for _, c := range s.Causes {
			look.Lines = append(look.Lines, c.Cause+": "+c.Check)
			if c.Caution != "" {
				look.Cautions = append(look.Cautions, c.Caution)
			}
		}
	}
	mend := fit.FittingStep{Title: "Mend it",
		Do: "Where a part is changed for it, say so under “Another part was fitted”: what has to be measured again " +
			"then joins this order."}
	return fit.Kit{Key: "own/repair", Name: "repair: " + shortened(words), What: repairWhat,
		Steps: []fit.FittingStep{look, mend}}
}

// Maintain is a task of maintenance on one machine. Where it puts parts in anew, those of the
// same model take their places; model is that of a part whose model is not on record. The
// error says where one is needed.
func Maintain(t maintenance.Task, s machine.Snapshot, model string) (fit.Kit, error) {
	kit := fit.Kit{Key: "own/task/" + t.Key, Name: sentence.Within(t.Title), What: taskWhat,
		Steps: []fit.FittingStep{{Title: t.Title, Do: t.How, Cautions: t.Cautions}}}
	for _, s := range t.Steps {
		kit.Steps = append(kit.Steps, fit.FittingStep{Title: s.Title, Do: s.Do})
	}
	if t.Renews == "" || !t.Always {
		return kit, nil
	}
	for _, p := range s.Each(t.Renews) {
		is := s.ModelAt(p)
		if is == machine.None {
			continue
		}
		if is = cmp.Or(is, model); is == "" {
			return kit, fmt.Errorf("%s: which model is there is not on record; say which one goes in", p.Label)
		}
		kit.Effects = append(kit.Effects, fit.Effect{Slot: p.Key, Model: is})
	}
	return kit, nil
}

// Mount is another head on a machine whose heads are changed by hand. The error says why
// there is none to mount.
func Mount(s machine.Snapshot, head int) (fit.Kit, error) {
	list := s.First(parts.Structure)
	switch {
	case list == nil || !s.Says(list, machine.HeadsMode, machine.HeadsByHand):
		return fit.Kit{}, fmt.Errorf("heads of this machine are not changed by hand, as far as is on record")
	case !slices.Contains(s.Structure().Heads(), head):
		return fit.Kit{}, fmt.Errorf("this machine has no head %d", head)
	}
	if n, known := s.Number(list, machine.HeadMounted); known && int(n) == head {
		return fit.Kit{}, fmt.Errorf("head %d is mounted already", head)
	}
	return fit.Kit{Key: fmt.Sprintf("own/mount/%d", head), Name: fmt.Sprintf("mount head %d", head), What: mountWhat,
		Effects: []fit.Effect{{Slot: list.Key, From: list.Key,
			Traits: map[string]string{machine.HeadMounted.Name: fmt.Sprint(head)}}},
		Steps: []fit.FittingStep{
			{Title: "Take the head off that is mounted",
				Do:       "Cold, power off. Hold it while the lock opens; put it on its dock.",
				Cautions: []string{burn}},
			{Title: fmt.Sprintf("Put head %d on", head),
				Do: "Seated flat, locked, no wire pinched, all contacts clean. Pull at it: it does not move."},
		}}, nil
}

// shortened is the beginning of a text, for a name.
func shortened(text string) string {
	line, _, _ := strings.Cut(strings.TrimSpace(text), "\n")
	line = strings.TrimRight(line, ".!? ")
	if r := []rune(line); len(r) > 60 {
		return strings.TrimSpace(string(r[:60])) + " …"
	}
	return line
}
