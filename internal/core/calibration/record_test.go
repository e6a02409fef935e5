package calibration_test

import (
	"errors"
	"slices"
	"strings"
	"testing"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/machine"
)

// state is how a calibration of a subject stands.
func state(
	t *testing.T,
	s machine.Snapshot,
	records []calibration.Record,
	k calibration.Kind,
	x calibration.Subject,
) calibration.State {
	t.Helper()
	c, _ := calibration.Of(k)
	if !slices.Contains(c.Subjects(s), x) {
		t.Fatalf("%s has no %s here", k, x)
	}
	return calibration.StateOf(s, records, c, x)
}

// A record of the machine as a whole counts for every subject until one of its own is
// made, and is no longer valid only for the subject of which a part was changed.
func TestWholeMachineRecord(t *testing.T) {
	s := twoHeads("by hand", nil)
	old := []calibration.Record{
		{
			ID:     1,
			Kind:   calibration.HotendPID,
			Value:  "P 21.7 I 1.6 D 74",
			Store:  calibration.StorePart,
			Passed: true,
			At:     on(-100),
		},
	}
	if st := state(t, s, old, calibration.HotendPID, "head 2"); st.Word != calibration.Valid {
		t.Errorf("covered by the machine's: %s", st.Word)
	}
	list := exchanged(s, "heater-2").Invalidated(old)
	if gone(list) != "hotend-pid@head-2" {
		t.Fatalf("invalid: %s", gone(list))
	}
	old[0].Invalid = list
	if a, b := state(t, s, old, calibration.HotendPID, "head 1"), state(t, s, old, calibration.HotendPID,
		"head 2"); a.Word != calibration.Valid ||
		b.Word != calibration.NotValid {
		t.Errorf("head 1 %s, head 2 %s", a.Word, b.Word)
	}
	own := append(
		old,
		calibration.Record{
			ID:      2,
			Kind:    calibration.HotendPID,
			Subject: "head 2",
			Value:   "P 20 I 1 D 60",
			Passed:  true,
			At:      on(-1),
		},
	)
	if st := state(t, s, own, calibration.HotendPID, "head 2"); st.Word != calibration.Valid || st.Record.ID != 2 {
		t.Errorf("its own: %s, %d", st.Word, st.Record.ID)
	}
	if st := state(t, s, own, calibration.HotendPID, "head 1"); st.Record.ID != 1 {
		t.Error("head 2's record counts for head 1")
	}
}

// Heads that are changed by hand have offsets of their own. The settings hold those of
// one head at a time: mounting the other asks for its own to be entered again.
func TestMountedHead(t *testing.T) {
	records := []calibration.Record{
		{
			ID:      1,
			Kind:    calibration.ZOffset,
			Subject: "head 1",
			Value:   "-2.10 mm",
			Store:   calibration.StoreSettings,
			Passed:  true,
			At:      on(-9),
		},
		{
			ID:      2,
			Kind:    calibration.ZOffset,
			Subject: "head 2",
			Value:   "-1.40 mm",
			Store:   calibration.StoreSettings,
			Passed:  true,
			At:      on(-3),
		},
	}
	for mounted, want := range map[string][2]calibration.StateWord{"1": {calibration.NotValid, calibration.Valid},
		"2": {calibration.Valid, calibration.Valid}} {
		s := twoHeads("by hand", map[string]string{"structure.mounted": mounted})
		for i, x := range []calibration.Subject{"head 1", "head 2"} {
			if st := state(t, s, records, calibration.ZOffset, x); st.Word != want[i] {
				t.Errorf("head %s mounted: %s is %s, want %s", mounted, x, st.Word, want[i])
			} else if st.Invalid != nil &&
				(st.Invalid.Remedy != calibration.EnterAgain || !strings.Contains(st.Invalid.Reason, "of head 2 since")) {
				t.Errorf("%+v", st.Invalid)
			}
		}
	}
	s := twoHeads("by hand", map[string]string{"structure.mounted": "1"})
	records[1].Store = calibration.StoreCard
	if st := state(t, s, records, calibration.ZOffset, "head 1"); st.Word != calibration.Valid {
		t.Errorf("head 2's is on a card of its own: %s", st.Word)
	}
}

// What could not be told is settled by what is found out later.
func TestSettledLater(t *testing.T) {
	unknown := with(map[string]string{"probe.senses": ""})
	records := recorded(unknown)
	i := slices.IndexFunc(records, func(r calibration.Record) bool { return r.Kind == calibration.ZOffset })
	for _, v := range exchanged(unknown, "surface").Invalidated(records) {
		if v.Kind == calibration.ZOffset {
			records[i].Invalid = []calibration.Invalid{v}
		}
	}
	for senses, want := range map[string]calibration.StateWord{
		"": calibration.Undecided, "surface, by touch/claimed": calibration.Undecided,
		"surface, by touch": calibration.Valid, "metal, without touch": calibration.NotValid,
	} {
		st := state(t, with(map[string]string{"probe.senses": senses}), records, calibration.ZOffset, "head 1")
		if st.Word != want {
			t.Errorf("%q: %s, want %s (%v)", senses, st.Word, want, st.Invalid)
		}
	}
	if st := state(t, unknown, records, calibration.ZOffset, "head 1"); !strings.Contains(
		st.Invalid.Reason,
		"cannot be told which way",
	) {
		t.Errorf("it says %q", st.Invalid.Reason)
	}
}

// A mesh is made on a trammed bed and with the probe's place: those made anew make it
// invalid, the same value entered again does not.
func TestMadeOn(t *testing.T) {
	s := with(nil)
	mesh := calibration.Record{
		ID:      1,
		Kind:    calibration.Mesh,
		Subject: calibration.Surface,
		Value:   "3 × 3",
		Passed:  true,
		At:      on(-5),
	}
	place := func(id int64, value string, day int) calibration.Record {
		return calibration.Record{
			ID:      id,
			Kind:    calibration.ProbeXY,
			Subject: "head 1",
			Value:   value,
			Passed:  true,
			At:      on(day),
		}
	}
	tram := func(day int) calibration.Record {
		return calibration.Record{ID: 9, Kind: calibration.Tramming, Subject: "bed", Passed: true, At: on(day)}
	}
	for name, tt := range map[string]struct {
		records []calibration.Record
		want    calibration.StateWord
	}{
		"trammed before": {[]calibration.Record{tram(-6), mesh}, calibration.Valid},
		"trammed since":  {[]calibration.Record{mesh, tram(-4)}, calibration.NotValid},
		"the probe's place anew": {[]calibration.Record{place(2, "X -24 Y -12 mm", -9), mesh,
			place(3, "X -25 Y -12 mm", -4)}, calibration.NotValid},
		"the same place entered": {[]calibration.Record{place(2, "X -24 Y -12 mm", -9), mesh,
			place(3, "X -24 Y -12 mm", -4)}, calibration.Valid},
		"its place for the first time": {[]calibration.Record{mesh, place(3, "X -24 Y -12 mm", -4)}, calibration.NotValid},
	} {
		if st := state(t, s, tt.records, calibration.Mesh, calibration.Surface); st.Word != tt.want {
			t.Errorf("%s: %s, want %s", name, st.Word, tt.want)
		}
	}
}

// The machine is proven when every heater is, each by its own test, within half a year,
// with the configuration that was tested.
// Source: half a year, and what voids the test, from memory.
func TestProtectionOfEveryHeater(t *testing.T) {
	s := with(map[string]string{"firmware.configuration": "rev 12"})
	proof := func(id int64, x calibration.Subject, more func(*calibration.Record)) calibration.Record {
		r := calibration.Record{
			ID:      id,
			Kind:    calibration.Protection,
			Subject: x,
			Value:   "alarm after 190 s",
			Passed:  true,
			At:      on(-183),
			By:      "x",
		}
		if more != nil {
			more(&r)
		}
		return r
	}
	bed := proof(2, "bed", nil)
	for name, tt := range map[string]struct {
		records []calibration.Record
		proven  bool
		why     string
	}{
		"never tested":          {nil, false, "never tested"},
		"the nozzle alone":      {[]calibration.Record{proof(1, "head 1", nil)}, false, "bed: never tested"},
		"each, good to the day": {[]calibration.Record{proof(1, "head 1", nil), bed}, true, "190 s"},
		"of an earlier version": {[]calibration.Record{proof(1, calibration.WholeMachine, nil)}, true, "190 s"},
		"a bed that stayed silent": {[]calibration.Record{proof(1, calibration.WholeMachine, nil),
			proof(2, "bed", func(r *calibration.Record) { r.Passed = false })}, false, "bed: tested"},
		"a day too old": {[]calibration.Record{proof(1, "head 1",
			func(r *calibration.Record) { r.At = on(-184) }), bed}, false, "184 days old"},
		"invalid": {[]calibration.Record{proof(1, "head 1",
			func(r *calibration.Record) { r.Invalid = []calibration.Invalid{{Reason: "new build"}} }), bed}, false, "new build"},
		"of this configuration": {[]calibration.Record{proof(1, "head 1",
			func(r *calibration.Record) { r.Proof.Configuration = "rev 12" }), bed}, true, ""},
		"of another configuration": {[]calibration.Record{proof(1, "head 1",
			func(r *calibration.Record) { r.Proof.Configuration = "rev 11" }), bed}, false, "rev 11"},
	} {
		if p := calibration.ProtectionOf(s, tt.records, now); p.Proven != tt.proven || !strings.Contains(p.Why, tt.why) {
			t.Errorf("%s: %+v", name, p)
		}
	}
	claimed := with(map[string]string{"bed-heater.model": "none/claimed"})
	if p := calibration.ProtectionOf(claimed, []calibration.Record{proof(1, "head 1", nil)}, now); p.Proven {
		t.Error("a seller's word that there is no bed heater proves the machine")
	}
	if p := calibration.ProtectionOf(twoHeads("together", map[string]string{"bed-heater.model": "none"}),
		[]calibration.Record{proof(1, "head 1", nil)}, now); p.Proven ||
		len(p.Heaters) != 2 {
		t.Errorf("two nozzles, a cold bed: %+v", p)
	}
}

func TestNotThatAlarm(t *testing.T) {
	for text, other := range map[string]bool{
		"Heating failed": false, "THERMAL RUNAWAY, system stopped": false, "Error: MINTEMP triggered": true,
		"E1 Min Temp": true, "err: min_temp": true, "below minimum temperature": true,
	} {
		if got := calibration.NotThatAlarm(text) != ""; got != other {
			t.Errorf("%q: %v", text, got)
		}
	}
}

func TestValues(t *testing.T) {
	pid, _ := calibration.Of(calibration.HotendPID)
	load, _ := calibration.Of(calibration.LoadLength)
	ring, _ := calibration.Of(calibration.Resonance)
	steps, _ := calibration.Of(calibration.Steps)
	if got, err := pid.Write([]string{"21,7", "1.6", "74"}); err != nil || got != "P 21.7 I 1.6 D 74" {
		t.Errorf("%q, %v", got, err)
	}
	if _, err := load.Write([]string{"25", "540"}); err == nil || !strings.Contains(err.Error(), "purge") {
		t.Errorf("two of three lengths: %v", err)
	}
	for _, tt := range []struct {
		c     calibration.Calibration
		x     calibration.Subject
		value string
		want  []float64
	}{
		{pid, "head 1", "P 21.7 I 1.6 D 74", []float64{21.7, 1.6, 74}},
		{pid, "head 1", "p=21.7, i=1,6, d=74", []float64{21.7, 1.6, 74}},
		{pid, "head 1", "as before", nil},
		{ring, "axis y", "X 52 Y 41 Hz", []float64{41}},
		{ring, "axis x", "52 Hz", []float64{52}},
		{steps, "head 1", "95,4", []float64{95.4}},
		{steps, "head 1", "words", nil},
	} {
		if got := tt.c.Numbers(tt.x, tt.value); !slices.Equal(got, tt.want) {
			t.Errorf("%s %q: %v, want %v", tt.c.Kind, tt.value, got, tt.want)
		}
	}
}

// Each bound of what is plausible, from either side.
// Source: the bounds from memory.
func TestPlausible(t *testing.T) {
	drive := map[string]string{
		"motor-e.step-angle":     "1.8",
		"driver-e.microsteps":    "16",
		"extruder.ratio":         "3",
		"extruder.gear-diameter": "7.36",
		"motor-e.current":        "1",
	}
	long := map[string]string{"tube.length": "600"}
	for _, tt := range []struct {
		k     calibration.Kind
		known map[string]string
		value string
		asked bool
	}{
		{calibration.Steps, nil, "95", false}, {calibration.Steps, nil, "1.2", true}, {calibration.Steps, nil, "50",
			false}, {calibration.Steps, nil, "49", true}, {calibration.Steps, nil, "2501", true},
		{calibration.Steps, drive, "415", false}, {calibration.Steps, drive, "95.4", true}, {calibration.Steps, drive,
			"435", false}, {calibration.Steps, drive, "437", true},
		{calibration.ZOffset, nil, "-2.7 mm", false}, {calibration.ZOffset, nil, "2.7 mm", true}, {calibration.ZOffset,
			nil, "-12 mm", false}, {calibration.ZOffset, nil, "-12.1 mm", true},
		{calibration.Resonance, nil, "52 Hz", false}, {calibration.Resonance, nil, "520 Hz", true},
		{calibration.Retraction, nil, "1.2 mm", false}, {calibration.Retraction, nil, "6 mm",
			true}, {calibration.Retraction, long, "6 mm", false}, {calibration.Retraction, long, "0.8 mm", true},
		{calibration.Current, drive, "0.9 A", false}, {calibration.Current, drive, "1.41 A", true}, {calibration.Current,
			nil, "4.1 A", true},
		{calibration.LoadLength, long, "slow 25 fast 540 purge 50 mm", false}, {calibration.LoadLength, long,
			"slow 25 fast 701 purge 50 mm", true},
		{calibration.HotendPID, nil, "P 21.7 I 1.6 D 74", false}, {calibration.HotendPID, nil, "P 2170 I 1.6 D 74", true},
		{calibration.ProbeXY, nil, "X -24 Y -12 mm", false}, {calibration.ProbeXY, nil, "X -240 Y -12 mm", true},
	} {
		s := with(tt.known)
		c, _ := calibration.Of(tt.k)
		err := c.Plausible(s, c.Subjects(s)[0], tt.value)
		if errors.Is(err, calibration.ErrAsk) != tt.asked || (err != nil) != tt.asked {
			t.Errorf("%s %q: %v, want asked %v", tt.k, tt.value, err, tt.asked)
		}
	}
}
