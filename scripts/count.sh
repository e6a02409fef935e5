#!/bin/sh
# Counts hand-written lines and says which part of them are tests; generated files, data and SQL are left out.
set -eu
cd "$(dirname "$0")/.."

lines() { xargs -r cat | wc -l; }
# Packages that only tests use are tests.
testing='_test\.go$|/(pgtest|machinetest|changetest|fittest|goldentest)/|^e2e/'

go=$(git ls-files '*.go' | grep -vE "$testing" | lines)
tests=$(git ls-files '*.go' | grep -E "$testing" | lines)
web=$(git ls-files 'web/src/*.ts' 'web/src/*.tsx' 'web/src/*.css' 'web/worker/*' 'web/*.ts' | grep -v '\.gen\.ts$' | lines)
sh=$(git ls-files '*.sh' Makefile .ci/run | lines)
all=$((go + tests + web + sh))
share=$((1000 * tests / all))
echo "Go $go, its tests $tests, front end $web, scripts $sh: $all lines, of which tests $((share / 10)).$((share % 10)) %"
if [ "$share" -lt 250 ] || [ "$share" -gt 330 ]; then
	echo "tests are to be 25 to 33 % of all hand-written lines" >&2
	exit 1
fi
