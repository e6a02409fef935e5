package change

import (
	"fmt"
	"strings"
	"time"

	"wardifex/internal/core/civil"
	"wardifex/internal/core/machine"
)

// Where a part can be moved to.
const (
	ToMachine = "machine"
	ToShelf   = "shelf"
	ToScrap   = "scrap"
)

// Move is where a part goes.
type Move struct {
	To        string `json:"to" enum:"machine,shelf,scrap"`
	MachineID int64  `json:"machineId,omitempty"`
	Slot      string `json:"slot,omitempty"`
	Shelf     string `json:"shelf,omitempty" maxLength:"60"`
	Why       string `json:"why" maxLength:"120"`
	From      Origin `json:"from" doc:"Where the mover sees the part; moved meanwhile, it stays where it is"`
	// Replaces says that what is in the slot now goes to the shelf.
	Replaces bool `json:"replaces,omitempty"`
}

// Origin is where a part is before it is moved: at a position of a machine or, without
// one, on the shelf or scrapped.
type Origin struct {
	MachineID int64  `json:"machineId,omitempty"`
	Slot      string `json:"slot,omitempty"`
}

// Movable is what is known of a part that is to be moved.
type Movable struct {
	Kind        string
	ScrappedAt  *time.Time
	ScrappedWhy string
}

// Place is a machine that a part leaves or enters.
type Place struct {
	Name      string
	Facts     machine.Snapshot
	OpenOrder int64 // number of the work order that is open on it; 0 for none
}

// Free says why no part of a machine is moved by hand: work is open on it.
func (p Place) Free() error {
	if p.OpenOrder != 0 {
		return fmt.Errorf("work order %d is open on %s; record the exchange there, or finish it first", p.OpenOrder, p.Name)
	}
	return nil
}

// Check says why a part cannot be moved so. at is where it goes, nil where it goes into no
// machine.
func (m Move) Check(p Movable, at *Place) error {
	if p.ScrappedAt != nil && m.To != ToShelf {
		return fmt.Errorf("this part was scrapped on %s: %s. Bring it back to the shelf first",
			p.ScrappedAt.Format(civil.Shown), p.ScrappedWhy)
	}
	if at == nil {
		return nil
	}
	voc := at.Facts.Vocabulary()
	slot, ok := voc.Position(m.Slot)
	switch {
	case !ok:
		return fmt.Errorf("there is no position %q", m.Slot)
	case voc.Software(slot.Kind):
		return fmt.Errorf("%s holds no part: boards run builds. Record on the machine's page of builds what its board runs",
			slot.Label)
	case slot.Kind != p.Kind:
		return fmt.Errorf("%s holds a %s; this part is a %s", slot.Label, kindName(voc, slot.Kind), kindName(voc, p.Kind))
	case m.From == Origin{m.MachineID, m.Slot}:
		return fmt.Errorf("the part is at this position already")
	}
	if err := at.Free(); err != nil {
		return err
	}
	if at.Facts.Fitted(m.Slot) && !m.Replaces {
		return fmt.Errorf("%s of %s holds %s. A part cannot be where another is: say that it replaces it, and that one "+
			"goes to the shelf", slot.Label, at.Name, at.Facts.Model(m.Slot))
	}
	return nil
}

// kindName is what a kind of part is called, in small letters.
func kindName(voc *machine.Vocabulary, key string) string {
	if k, ok := voc.Kind(key); ok {
		return strings.ToLower(k.Label)
	}
	return key
}
