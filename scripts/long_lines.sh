#!/bin/sh
# Fails on lines of Go longer than 120 characters.
set -eu
cd "$(dirname "$0")/.."
LC_ALL=C.UTF-8 grep -rnE --include='*.go' '^.{121,}$' cmd internal e2e scripts web/embed.go && {
	echo "these lines are longer than 120 characters" >&2
	exit 1
}
exit 0
