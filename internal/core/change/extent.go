package change

import (
	"slices"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
)

// extent is how far into a machine a change goes: which steps its work needs follows from it.
// It is told from the relations of the kinds of part, so that a kind that only the catalogue
// knows gets the steps that it needs.
type extent struct {
	wired    bool // wires are unplugged: the machine is opened
	off      bool // something besides the bed: the machine is switched off
	feeds    bool // something that other parts hang on
	onHead   bool // something at a head
	filament bool // something in the filament's path
	moves    bool // something that an axis, the bed or homing depends on
	bed      bool
	flashes  bool
	needed   []calibration.Due
}

func (c Change) extent(records []calibration.Record) extent {
	x := extent{flashes: c.Flashes(), needed: c.Needed(records)}
	voc := c.Before.Vocabulary()
	for _, p := range c.PartChanges {
		if p.build || p.Stays && p.setting {
			continue
		}
		kind, _ := voc.Kind(p.at.Kind)
		fed := p.at.FedBy != nil || len(voc.FedBy(kind)) > 0
		place := p.at.Serves
		x.feeds = x.feeds || feeds(voc, p.at.Kind)
		x.wired = x.wired || x.feeds || fed || inside(voc, p.at)
		x.off = x.off || place != machine.Bed
		x.onHead = x.onHead || place.Head() > 0
		x.bed = x.bed || place == machine.Bed
		x.moves = x.moves || place.Head() > 0 || place == machine.Bed || place == machine.Frame || place.Letter() != ""
	}
	x.wired = x.wired || slices.ContainsFunc(c.fittingSteps(), isWiring)
	x.moves = x.moves || x.flashes || c.exchanges(parts.Mainboard)
	x.filament = x.needs(calibration.Retraction) || x.needs(calibration.LoadLength) || x.needs(calibration.HotendPID) ||
		x.needs(calibration.Nozzles)
	return x
}

// needs reports whether a calibration of a kind is to be made.
func (x extent) needs(k calibration.Kind) bool {
	return slices.ContainsFunc(x.needed, func(d calibration.Due) bool { return d.Calibration.Kind == k })
}

// subjects are those of which a calibration of a kind is to be made.
func (x extent) subjects(k calibration.Kind) []calibration.Subject {
	var out []calibration.Subject
	for _, d := range x.needed {
		if d.Calibration.Kind == k {
			out = append(out, d.Subject)
		}
	}
	return out
}

// measured reports whether the change is one whose effect shows in a print, so that one is
// made before and after.
func (x extent) measured() bool {
	return x.onHead || x.flashes || x.wired && (x.moves || x.feeds) || x.needs(calibration.Resonance)
}

// zero reports whether the height of the nozzle over the bed may be another one.
func (x extent) zero() bool {
	return x.needs(calibration.ZOffset) || x.needs(calibration.Mesh) || x.needs(calibration.Tramming) || x.bed || x.onHead
}

// feeds reports whether parts of a kind feed others.
func feeds(voc *machine.Vocabulary, kind string) bool {
	return slices.ContainsFunc(voc.Catalogue.Kinds, func(k machine.PartKind) bool {
		return slices.ContainsFunc(k.FedBy, func(by string) bool { return voc.Is(kind, by) })
	})
}

// coverOff is the depth of inspections for which a machine is opened.
const coverOff = 2

// inside reports whether a part can only be seen in the open machine.
func inside(voc *machine.Vocabulary, p *machine.Position) bool {
	model := voc.ModelAt(p)
	if model == nil || len(model.FindBy) == 0 {
		return false
	}
	return !slices.ContainsFunc(model.FindBy, func(w machine.Way) bool {
		i, ok := voc.Inspection(w.Inspection)
		return ok && i.Depth < coverOff
	})
}
