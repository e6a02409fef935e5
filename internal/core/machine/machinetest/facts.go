// Package machinetest writes machines down in tests.
package machinetest

import (
	"maps"
	"slices"
	"strings"
	"time"

	"wardifex/internal/core/machine"
)

// Day is when every reading of this package was taken.
var Day = time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC)

// Readings are one or more for each key, in the keys' order. A value is written
// as people write it, with its grade behind a slash unless that is read, and
// differing values with a bar between them: "512/claimed", "256|512". It panics
// on what cannot be: a slip in the test.
func Readings(voc *machine.Vocabulary, values map[string]string) []machine.Reading {
	var rs []machine.Reading
	for _, key := range slices.Sorted(maps.Keys(values)) {
		t, ok := voc.Trait(machine.Key(key))
		if !ok {
			panic("there is no trait " + key)
		}
		text, word, graded := strings.Cut(values[key], "/")
		grade := machine.Observed
		if graded {
			var err error
			if grade, err = machine.ParseGrade(word); err != nil {
				panic(err)
			}
		}
		for _, one := range strings.Split(text, "|") {
			v, err := t.ParseRecorded(one)
			if err != nil {
				panic(err)
			}
			rs = append(rs, machine.Reading{ID: int64(len(rs) + 1), Key: t.Key(), Value: v, Grade: grade, TakenAt: Day, By: "x"})
		}
	}
	return rs
}

// Facts is the machine of which these readings are known.
func Facts(voc *machine.Vocabulary, values map[string]string) machine.Snapshot {
	return machine.NewSnapshot(voc, machine.Record{Readings: Readings(voc, values)})
}
