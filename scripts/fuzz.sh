#!/bin/sh
# Runs every fuzz target for the time given, one after the other: go takes one at a time.
# Inputs that find something new are made smaller by a few tries alone, or most of the time goes into that.
set -eu
cd "$(dirname "$0")/.."
grep -rlE --include='*_test.go' '^func Fuzz' internal cmd | while read -r file; do
	package=./$(dirname "$file")
	grep -oE '^func Fuzz[A-Za-z0-9_]+' "$file" | sed 's/^func //' | while read -r target; do
		echo "== $package $target"
		go test "$package" -run '^$' -fuzz "^$target\$" -fuzztime "$1" -fuzzminimizetime 100x
	done
done
