#!/bin/sh
# Runs the long tests, with the race detector, of the packages that changed since a commit: long_tests.sh COMMIT SECONDS.
# What is not begun or not done by then is listed, and is no failure.
set -eu
since=$1
end=$(($(date +%s) + $2))

if ! git cat-file -e "$since^{commit}" 2>/dev/null; then
	echo "Long tests did not run: the history does not reach back to $since"
	exit 0
fi

changed() { # folders of packages that hold a changed file, or whose testdata does; the core's, which are quick, first
	git diff --name-only "$since" HEAD -- internal cmd e2e web/src |
		sed -e 's|^web/src/.*|e2e/|' -e 's|/[^/]*$||' -e 's|/testdata.*||' | sort -u |
		awk '{ print (/^internal\/core/ ? 0 : /^e2e/ ? 2 : 1), $0 }' | sort | cut -d" " -f2-
}

failed=""
left=""
for folder in $(changed); do
	ls "$folder"/*_test.go >/dev/null 2>&1 || continue
	seconds=$((end - $(date +%s)))
	if [ "$seconds" -le 0 ]; then
		left="$left $folder"
		continue
	fi
	case "$folder" in
	e2e) tests="-run TestEveryView" ;; # the others have no long form
	*) tests="-race" ;;
	esac
	status=0
	WARDIFEX_LONG=1 timeout -k 10 "$seconds" go test $tests -count=1 -timeout 60m "./$folder" || status=$?
	case "$status" in
	0) ;;
	124 | 137) left="$left $folder" ;;
	*) failed="$failed $folder" ;;
	esac
done
[ -z "$left" ] || echo "Long tests that did not run or were not done in time:$left"
[ -z "$failed" ] || {
	echo "Long tests that failed:$failed"
	exit 1
}
