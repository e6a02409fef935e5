package calibration

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
)

// Difference is a machine before and after something was done to it, or after something
// was read that says otherwise than what stood.
type Difference struct {
	Before, After machine.Snapshot
	// Exchanged are the positions whose part is another one afterwards, by key, with the
	// words that say so: "Nozzle: brass → hardened".
	Exchanged map[string]string
	// Reconfigured are those whose build stays and is configured otherwise.
	Reconfigured map[string]string
	// Set are traits of parts that stay, which have another value afterwards, with the
	// words that say so.
	Set map[machine.Key]string
	// Until is the moment up to which records are touched; zero: every one.
	Until time.Time
	// Weights say how the mass of a head (by its number; 0 for any) or of the bed changed
	// besides: "toolhead mass +40 g".
	Weights []Weight
	// Area says how the print area changed; empty where it did not.
	Area string
	// Begins are the kinds of which the change brings the use, with why.
	Begins map[Kind]string
}

// Weight is a change of moving mass that no exchanged part tells.
type Weight struct {
	Bed  bool
	Head int // 0: of any
	Says string
}

// reason is one cause of an invalid calibration.
type reason struct {
	says  string
	cause string // key of the position; empty where it is none
	doubt string
}

// reasons are what makes a calibration of a subject invalid; empty when it stays valid.
func (d Difference) reasons(c Calibration, x Subject) []reason {
	var out []reason
	seen := map[*machine.Position]bool{}
	for _, on := range [][]Dependency{c.DependsOn(d.After, x), c.DependsOn(d.Before, x)} {
		for _, n := range on {
			says := d.otherwise(n)
			if says == "" || seen[n.At] {
				continue
			}
			seen[n.At] = true
			out = append(out, reason{says, n.At.Key, n.Doubt})
		}
	}
	switch c.Kind {
	case Resonance:
		out = append(out, d.weighed(x)...)
	case PrintArea:
		if d.Area != "" {
			out = append(out, reason{says: d.Area})
		}
	}
	if why := d.Begins[c.Kind]; why != "" {
		out = append(out, reason{says: why})
	}
	return out
}

// otherwise says what is otherwise of a position on which something depends; empty where
// nothing is.
func (d Difference) otherwise(n Dependency) string {
	says, exchanged := d.Exchanged[n.At.Key]
	if n.Settings {
		if why := d.Reconfigured[n.At.Key]; why != "" {
			return why
		}
	}
	if exchanged {
		if n.Part || len(n.Traits) == 0 {
			return says
		}
		for _, name := range n.Traits {
			was, is := d.Before.Of(n.At, name), d.After.Of(n.At, name)
			if !was.Known() || !is.Known() || !is.Trait.Same(was.Value, is.Value) {
				return says
			}
		}
		return ""
	}
	traits := n.Traits
	if n.Part {
		traits = append([]machine.TraitOf{{Name: machine.ModelTrait, Value: machine.Text}}, traits...)
	}
	if n.Settings {
		traits = append(slices.Clone(traits), parts.FirmwareConfiguration)
	}
	for _, name := range traits {
		if t := d.After.Vocabulary().Of(n.At, name); t != nil && d.Set[t.Key()] != "" {
			return d.Set[t.Key()]
		}
	}
	return ""
}

// weighed are the changes of mass that an axis moves.
func (d Difference) weighed(x Subject) []reason {
	moves := d.After.Of(d.After.First(parts.Frame), parts.BedMoves)
	slings := moves.Value.Text == parts.BedAlongY
	y := x.Place() == machine.Axis("y")
	var out []reason
	for _, w := range d.Weights {
		other := x.Head() > 0 && w.Head > 0 && w.Head != x.Head()
		switch {
		case w.Bed && !y, !w.Bed && y && moves.Known() && slings, w.Bed && moves.Known() && !slings, other:
			continue
		case y && !moves.Known():
			frame := ""
			if p := d.After.First(parts.Frame); p != nil {
				frame = p.Key
			}
			out = append(out, reason{w.Says, frame, "it is not known whether the bed moves along Y"})
		default:
			out = append(out, reason{says: w.Says})
		}
	}
	return out
}

// Invalidated lists which of the records are no longer valid after the change, in
// working order, for each subject. A value of which no part is touched but whose store
// is lost keeps its number: it is entered again, not measured again.
func (d Difference) Invalidated(records []Record) []Invalid {
	out := []Invalid{}
	for _, c := range all {
		for _, x := range c.Subjects(d.Before) {
			r := RecordOf(records, c.Kind, x)
			if r == nil || r.InvalidOf(x) != nil || !d.Until.IsZero() && r.At.After(d.Until) {
				continue
			}
			v := Invalid{Record: r.ID, Kind: c.Kind, Subject: x, Title: c.On(d.Before, x), Value: r.Value}
			why, lost := d.reasons(c, x), d.lostStore(r.Store)
			switch {
			case len(why) > 0:
				v.because(why, lost)
			case lost != "":
				v.Reason, v.Remedy = lost, EnterAgain
			default:
				continue
			}
			out = append(out, v)
		}
	}
	return out
}

// because says why it is invalid, and what makes it good. Where all the reasons are
// doubtful it cannot be told, and what is found out later tells.
func (v *Invalid) because(why []reason, lost string) {
	sure := slices.DeleteFunc(slices.Clone(why), func(r reason) bool { return r.doubt != "" })
	var says []string
	v.Remedy = MeasureAgain
	if len(sure) > 0 {
		why = sure
	} else if lost == "" {
		v.Remedy = CannotTell
	}
	for _, r := range why {
		says = append(says, r.says)
		if r.cause != "" {
			v.Causes = append(v.Causes, r.cause)
		}
	}
	if v.Remedy == CannotTell {
		says = append(says, "cannot be told which way: "+why[0].doubt)
	}
	if lost != "" && len(sure) == 0 {
		says = append(says, lost)
	}
	v.Reason = strings.Join(says, "; ")
}

// lostStore says why a store loses its values; empty when it keeps them.
func (d Difference) lostStore(store string) string {
	exchanged := func(kind string) bool {
		return slices.ContainsFunc(
			slices.Concat(d.Before.Each(kind), d.After.Each(kind)),
			func(p *machine.Position) bool { return d.Exchanged[p.Key] != "" },
		)
	}
	main := d.Before.First(parts.Mainboard)
	flashed := slices.ContainsFunc(
		append(Runs(d.Before, main), Runs(d.After, main)...),
		func(p *machine.Position) bool { return d.Exchanged[p.Key] != "" },
	)
	board := flashed || exchanged(parts.Mainboard)
	switch {
	case store == StoreSettings && board:
		return "kept in the stored settings, and defaults are restored after a new build"
	case store == StoreBuild && board:
		return "kept in the old build"
	case store == StoreCard && exchanged(parts.Card):
		return "kept on the card that was taken out"
	case store == StoreCard && board:
		return "kept in a file on the card, and a file that another build wrote is not to be trusted"
	case store == StoreHost && d.leavesHosts():
		return "kept in the configuration of the host, which the new firmware family does not read"
	case store == StoreHost && exchanged(parts.Host):
		return "kept in the configuration of the old host"
	}
	return ""
}

// leavesHosts reports whether another family runs than the hosted one that did.
func (d Difference) leavesHosts() bool {
	family := func(s machine.Snapshot) string {
		return s.Of(s.First(parts.Firmware), parts.FirmwareFamily).Value.Text
	}
	is := family(d.After)
	return family(d.Before) == parts.Hosted && is != "" && is != parts.Hosted
}

// Needed lists the calibrations that the change makes necessary, in working order, each
// with its subject: those that it makes invalid, and those never made that depend on
// what it changed.
func (d Difference) Needed(records []Record) []Due {
	var out []Due
	for _, c := range all {
		for _, x := range c.Subjects(d.After) {
			if len(d.reasons(c, x)) == 0 || c.Feature && RecordOf(records, c.Kind, x) == nil && d.Begins[c.Kind] == "" {
				continue
			}
			out = append(out, Due{c, x})
		}
	}
	return out
}

// Due is a calibration that is to be made, of one subject.
type Due struct {
	Calibration Calibration
	Subject     Subject
}

// Titles are the titles of calibrations, each kind once with its subjects.
func Titles(s machine.Snapshot, list []Due) []string {
	out := []string{}
	for i := 0; i < len(list); {
		c := list[i].Calibration
		var of []Subject
		for ; i < len(list) && list[i].Calibration.Kind == c.Kind; i++ {
			of = append(of, list[i].Subject)
		}
		out = append(out, c.OnEach(s, of))
	}
	return out
}

// ReadAnew is the difference that a reading makes which says otherwise than what stood.
// What was only claimed was not known, and a reading that is weaker than what stands
// changes nothing. Only what was calibrated before the reading was taken is touched.
func ReadAnew(before, after machine.Snapshot, t *machine.Trait, taken time.Time) Difference {
	d := Difference{Before: before, After: after, Until: taken, Exchanged: map[string]string{}}
	was, is := before.At(t), after.At(t)
	if !was.Known() || was.Grade <= machine.Claimed || was.Unlisted ||
		len(is.Conflict) == 0 && (!is.Known() || t.Same(was.Value, is.Value)) {
		return d
	}
	now := is.Value
	for _, r := range is.Conflict {
		if !t.Same(r.Value, was.Value) {
			now = r.Value
		}
	}
	says := fmt.Sprintf("%s: %s → %s", t.Label, t.Show(was.Value), t.Show(now))
	d.Set = map[machine.Key]string{t.Key(): says}
	if at := t.Position(); before.Vocabulary().Is(at.Kind, parts.Firmware) && slices.ContainsFunc(identity, t.Is) {
		d.Exchanged[at.Key] = says
	}
	return d
}

// identity are the traits by which one build is told from another.
var identity = []machine.TraitOf{
	{
		Kind:  parts.Firmware,
		Name:  machine.ModelTrait,
		Value: machine.Text,
	}, parts.FirmwareFamily, parts.FirmwareVersion, parts.FirmwareLabel,
}
