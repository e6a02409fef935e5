package demo_test

import (
	"flag"
	"fmt"
	"os"
	"slices"
	"strings"
	"testing"

	"wardifex/internal/demo"
	"wardifex/internal/postgres/pgtest"
)

var update = flag.Bool("update", false, "write the golden file anew; name every difference in the commit")

// Every shipped kit on every machine of the demo room, against the verdicts of
// the version before. A difference is approved by name, in the commit that makes it.
func TestVerdictsOfNetloft(t *testing.T) {
	t.Parallel()
	const golden = "testdata/verdicts.golden"
	ctx := t.Context()
	s := pgtest.Filled(t, demo.Seed)
	fleet, err := s.Fleet(ctx)
	if err != nil {
		t.Fatal(err)
	}
	judges, broken, err := does(s).Judges(ctx)
	if err != nil || len(broken) > 0 {
		t.Fatalf("kits that cannot be judged: %v, %v", broken, err)
	}
	var got []string
	for i := range fleet {
		for _, j := range judges {
			got = append(got, fmt.Sprintf("%s\t%s\t%s", fleet[i].Name, j.Kit.Key, j.Verdict(fleet[i].Facts).Answer))
		}
	}
	slices.Sort(got)
	if *update {
		if err := os.WriteFile(golden, []byte(strings.Join(got, "\n")+"\n"), 0o644); err != nil {
			t.Fatal(err)
		}
	}
	text, err := os.ReadFile(golden)
	if err != nil {
		t.Fatal(err)
	}
	want := strings.Split(strings.TrimSpace(string(text)), "\n")
	if len(got) != len(want) {
		t.Fatalf("%d verdicts, %d before", len(got), len(want))
	}
	for i := range got {
		if got[i] != want[i] {
			t.Errorf("%q, before %q", got[i], want[i])
		}
	}
}
