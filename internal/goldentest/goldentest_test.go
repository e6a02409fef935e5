package goldentest

import (
	"slices"
	"strings"
	"testing"
)

func TestWhatDiffersIsShown(t *testing.T) {
	was := []Line{{"a", "1"}, {"b", strings.Repeat("x", 100) + "old"}, {"c", "3"}}
	is := []Line{{"a", "1"}, {"b", strings.Repeat("x", 100) + "new"}, {"d", "4"}}
	got := differences(was, is)
	if len(got) != 3 || !strings.Contains(got[0], "xold") || !strings.Contains(got[0], "xnew") || got[1] != "gone: c" ||
		got[2] != "new: d" {
		t.Errorf("%q", got)
	}
	path := t.TempDir() + "/testdata/x.golden.gz"
	if err := write(path, was); err != nil {
		t.Fatal(err)
	}
	if back, err := read(path); err != nil || !slices.Equal(back, was) {
		t.Errorf("%v, %v", back, err)
	}
}
