package main

import (
	"os"
	"path/filepath"
	"slices"
	"testing"
)

func TestPlacesOfAFile(t *testing.T) {
	const text = `package p

const limit = 5

type list [3]int

func (l *list) over(n int, name string) (bool, error) {
	if n >= limit && name != "x" {
		return true, nil
	}
	if err := l.save(); err != nil {
		return false, err
	}
	sort(l)
	return !l.empty(), nil
}
`
	places, err := placesOf("p/p.go", []byte(text))
	if err != nil {
		t.Fatal(err)
	}
	var got []string
	for _, p := range places {
		if p.Old != text[p.From:p.To] {
			t.Errorf("%q is not what stands there", p.Old)
		}
		got = append(got, p.name())
	}
	for _, want := range []string{
		"p/p.go : 5 -> 6",
		"p/p.go *list.over: n >= limit -> n > limit",
		`p/p.go *list.over: n >= limit && name != "x" -> n >= limit || name != "x"`,
		`p/p.go *list.over: n >= limit && name != "x" -> false && (n >= limit && name != "x")`,
		"p/p.go *list.over: true -> false",
		"p/p.go *list.over: err != nil -> err != nil && false",
		"p/p.go *list.over: sort(l) -> _ = 0",
		"p/p.go *list.over: ! -> ",
	} {
		if !slices.Contains(got, want) {
			t.Errorf("%q is no place", want)
		}
	}
	if slices.Contains(got, "p/p.go : 3 -> 4") {
		t.Error("the length of an array is a place")
	}
	if _, err := placesOf("p/p.go", []byte("package")); err == nil {
		t.Error("what is no Go is read")
	}
}

func TestEquivalentsGiveAReason(t *testing.T) {
	file := filepath.Join(t.TempDir(), "equivalent.txt")
	write := func(text string) {
		if err := os.WriteFile(file, []byte(text), 0o644); err != nil {
			t.Fatal(err)
		}
	}
	write("// about them\n\np/p.go f: a < b -> a <= b # a and b are never the same\n")
	if got, err := equivalents(file); err != nil || !got["p/p.go f: a < b -> a <= b"] || len(got) != 1 {
		t.Errorf("%v, %v", got, err)
	}
	write("p/p.go f: a < b -> a <= b # equal\n")
	if _, err := equivalents(file); err == nil {
		t.Error("one is taken without a reason")
	}
}
