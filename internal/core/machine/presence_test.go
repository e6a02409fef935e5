package machine_test

import (
	"testing"

	"wardifex/internal/core/machine"
	"wardifex/internal/core/machine/machinetest"
)

// rig is a machine with a motor at each place where one may be, and a record of them.
func rig(t *testing.T, read map[string]string, leaveOut ...string) machine.Snapshot {
	t.Helper()
	model := machine.TraitDef{Name: machine.ModelTrait, Short: "model", Kind: machine.Text}
	c := machine.Catalogue{
		Kinds: []machine.PartKind{
			{Key: "motor", Label: "Motor", Traits: []machine.TraitDef{model,
				{Name: "current", Short: "current", Kind: machine.Number, Unit: "A", Max: 5},
				{Name: "damper", Short: "damper", Kind: machine.YesNo},
				{Name: "sound", Short: "sound", Kind: machine.Text, Hint: "says little"}}},
			{
				Key:    "structure",
				Label:  "Structure",
				Traits: []machine.TraitDef{model, {Name: "complete", Short: "list checked", Kind: machine.YesNo}},
			},
		},
		Slots: []machine.Position{
			{Key: "structure", Label: "Structure", Kind: "structure"},
			{Key: "z1", Label: "Z1", Kind: "motor", Serves: machine.Axis("z")},
			{Key: "z2", Label: "Z2", Kind: "motor", Serves: machine.Axis("z"), N: 2},
			{Key: "e1", Label: "E1", Kind: "motor", Serves: machine.Head(1)},
			{Key: "e2", Label: "E2", Kind: "motor", Serves: machine.Head(2)},
		},
	}
	voc, err := c.Vocabulary()
	if err != nil {
		t.Fatal(err)
	}
	var listed []machine.Position
	for _, p := range c.Slots {
		if len(leaveOut) == 0 || p.Key != leaveOut[0] {
			listed = append(listed, p)
		}
	}
	return machine.NewSnapshot(voc, machine.Record{Readings: machinetest.Readings(voc, read), Positions: listed})
}

// Whether a part is there: by its model, by what else is known of it, by what a machine
// cannot be without, and by the list.
func TestPresence(t *testing.T) {
	sure, maybe, no := machine.Presence{Sure: true, Possible: true}, machine.Presence{Possible: true}, machine.Presence{}
	for _, tt := range []struct {
		what  string
		at    string
		read  map[string]string
		least machine.Grade
		want  machine.Presence
	}{
		{"its model is read", "z2", map[string]string{"z2.model": "Heron 17"}, machine.Observed, sure},
		{"its model is claimed, and that is asked", "z2", map[string]string{"z2.model": "Heron 17/claimed"},
			machine.Claimed, sure},
		{"its model is claimed, and more is asked", "z2", map[string]string{"z2.model": "Heron 17/claimed"},
			machine.Observed, maybe},
		{"there is none, read", "z2", map[string]string{"z2.model": "none"}, machine.Observed, no},
		{"there is none, claimed, and more is asked", "z2", map[string]string{"z2.model": "none/claimed"}, machine.Observed,
			maybe},
		{"its current is read", "z2", map[string]string{"z2.current": "0.8"}, machine.Observed, sure},
		{"its current is read, and it is claimed that there is none", "z2",
			map[string]string{"z2.current": "0.8", "z2.model": "none/claimed"}, machine.Claimed, sure},
		{"its current is claimed, and it is claimed that there is none", "z2",
			map[string]string{"z2.current": "0.8/claimed", "z2.model": "none/claimed"}, machine.Claimed, sure},
		{"its current is read, and it is read that there is none", "z2",
			map[string]string{"z2.current": "0.8", "z2.model": "none"}, machine.Observed, no},
		{"a yes or no says nothing", "z2", map[string]string{"z2.damper": "no"}, machine.Observed, maybe},
		{"a hint says nothing", "z2", map[string]string{"z2.sound": "hums/marked"}, machine.Claimed, maybe},
		{"two models in conflict", "z2", map[string]string{"z2.model": "Heron 17|Ibis 17"}, machine.Observed, sure},
		{"a model and none in conflict", "z2", map[string]string{"z2.model": "Heron 17|none"}, machine.Observed, maybe},
		{"nobody looked at the second of an axis", "z2", nil, machine.Observed, maybe},
		{"nobody looked at the first of an axis", "z1", nil, machine.Observed, sure},
		{"nobody looked at the first of the first head", "e1", nil, machine.Observed, sure},
		{"nobody looked at the second head", "e2", nil, machine.Observed, maybe},
		{"the first of an axis is claimed not to be there", "z1", map[string]string{"z1.model": "none/claimed"},
			machine.Observed, maybe},
	} {
		s := rig(t, tt.read)
		if got := s.Presence(s.Vocabulary().At(tt.at), tt.least); got != tt.want {
			t.Errorf("%s: %+v, want %+v", tt.what, got, tt.want)
		}
	}
}

// What is not on the list is not there, as surely as the list is known to be whole.
func TestAbsence(t *testing.T) {
	for checked, want := range map[string]machine.Grade{"": machine.Claimed, "yes": machine.Observed,
		"yes/proven": machine.Proven, "no": machine.Unknown} {
		read := map[string]string{}
		if checked != "" {
			read["structure.complete"] = checked
		}
		s := rig(t, read, "e2")
		f := s.Fact("e2.model")
		if p := s.Vocabulary().At("e2"); s.Has(p) || s.Presence(p, machine.Observed) != (machine.Presence{}) {
			t.Errorf("checked %q: it is not on the list, and may be there", checked)
		}
		if f.Grade != want || want > machine.Unknown && (f.Value.Text != machine.None || !f.Unlisted) {
			t.Errorf("checked %q: %q with grade %s, want %s", checked, f.Value.Text, f.Grade, want)
		}
	}
}
