package app_test

import (
	"strings"
	"testing"

	"wardifex/internal/app"
	"wardifex/internal/core/calibration"
	"wardifex/internal/core/change"
	"wardifex/internal/core/settings"
	"wardifex/internal/postgres/pgtest"
)

// Settings that are pasted into a step are kept without their secrets and read: what is not on
// record goes there after a look, what differs is told and not recorded.
func TestPastedSettings(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	id := add(t, s, "Avocet", map[string]string{"firmware.family": "compiled", "probe.model": "none"})
	calibrate(t, s, id, calibration.Steps, change.Data{Value: "95", Store: calibration.StoreSettings})
	order, err := does(s).OpenFlash(ctx, id, "", "a feature that is needed", "Ansa", now)
	must(t, err)
	get := func() app.Order {
		t.Helper()
		o, err := does(s).Order(ctx, order)
		must(t, err)
		return o
	}
	st := get().StepList[0]
	if !st.Settings {
		t.Fatalf("the first step is %s", st.Key)
	}
	note := "M92 X80 Y80 Z400 E415\nM301 P21.7 I1.6 D74\nM587 S\"net\" P\"hunter2\"\n"
	must(t, does(s).SaveStep(ctx, order, st.Key, app.StepChange{Version: st.Version, Note: note, Do: "save"}, "Ansa", now))
	o := get()
	if kept := o.StepList[0].Note; strings.Contains(kept, "hunter2") || !strings.Contains(kept, "M92 X80 Y80 Z400 E415") {
		t.Errorf("kept: %q", kept)
	}
	is := map[calibration.Kind]settings.Agreement{}
	for _, c := range o.Pasted.Stated {
		is[c.Kind] = c.Is
	}
	if is[calibration.Steps] != settings.Differs || is[calibration.HotendPID] != settings.NotOnIt {
		t.Fatalf("%v", is)
	}
	pid := app.StatedValue{Kind: calibration.HotendPID, Subject: "head 1"}
	refused(t, does(s).RecordPasted(ctx, order, []app.StatedValue{{Kind: calibration.Steps, Subject: "head 1"}}, "Ansa",
		now), "on record already")
	refused(t, does(s).RecordPasted(ctx, order, []app.StatedValue{{Kind: calibration.Mesh, Subject: "bed"}}, "Ansa", now),
		"no longer state")
	must(t, does(s).RecordPasted(ctx, order, []app.StatedValue{pid}, "Ansa", now))
	refused(t, does(s).RecordPasted(ctx, order, []app.StatedValue{pid}, "Ansa", now), "on record already")
	r := current(load(t, s, id), calibration.HotendPID, "head 1").Record
	if r == nil || r.Value != "P 21.7 I 1.6 D 74" || r.Store != calibration.StoreSettings ||
		!strings.Contains(r.Method, "M301") {
		t.Errorf("%+v", r)
	}
}
