package app_test

import (
	"testing"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/maintenance"
	"wardifex/internal/core/safety"
	"wardifex/internal/postgres/pgtest"
)

// A safety file that was kept shows the day as it was known then: later proofs and faults
// change nothing in it, and nobody can.
func TestTheSafetyFileStaysAsItWas(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	id := add(t, s, "Avocet", map[string]string{"plate.mains": "no"})
	_, err := does(s).SafetyFile(ctx, days(0).Format("2006-01-02"), "x", now)
	refused(t, err, "no safety file was kept")
	must(t, does(s).KeepSafetyFile(ctx, "Ansa", now))
	calibrate(t, s, id, calibration.Protection, tested)
	_, _, err = does(s).ReportFault(ctx, id, "", "it squeaks", "x", now)
	must(t, err)
	must(t, does(s).KeepSafetyFile(ctx, "Joren", now)) // the first of a day stays
	kept, err := does(s).SafetyFile(ctx, days(0).Format("2006-01-02"), "x", now)
	must(t, err)
	is, err := does(s).SafetyFile(ctx, "", "x", now)
	must(t, err)
	was, live := kept.File.Machines[0], is.File.Machines[0]
	if !kept.Kept || kept.File.TakenBy != "Ansa" || was.Faults != 0 || was.State != maintenance.AttendedOnly ||
		was.Proofs[0].Proven {
		t.Errorf("kept: %+v", was)
	}
	if is.Kept || live.Faults != 1 || !live.Proofs[0].Proven || live.Mains != safety.LowVoltage {
		t.Errorf("now: %+v", live)
	}
	if later, err := does(s).SafetyFile(ctx, days(-1).Format("2006-01-02"), "x", days(3)); err == nil {
		t.Errorf("a day before the first: %+v", later.File)
	}
	if after, err := does(s).SafetyFile(ctx, days(2).Format("2006-01-02"), "x", days(3)); err != nil ||
		after.File.Day != kept.File.Day {
		t.Errorf("the last before a day: %s, %v", after.File.Day, err)
	}
	_, err = does(s).SafetyFile(ctx, days(1).Format("2006-01-02"), "x", now)
	refused(t, err, "still to come")
	for _, change := range []string{"update safety_files set document = '{}'", "delete from safety_files"} {
		if _, err := s.SQL.Exec(change); err == nil {
			t.Errorf("%s is let through", change)
		}
	}
}
