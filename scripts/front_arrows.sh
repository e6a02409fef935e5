#!/bin/sh
# Fails where the front end's arrows do not point one way: app and main -> features -> ui -> api.
set -eu
cd "$(dirname "$0")/../web/src"
bad=$(
	grep -rnE 'from "(\.\./)+(features|app)/|from "\.\./[a-z]+/' features | grep -vE 'from "\.\./\.\./(ui|api)/' || true
	grep -rnE 'from "(\.\./)+(features|app)/' ui || true
)
[ -z "$bad" ] || {
	echo "$bad"
	echo "a feature reaches into another, or ui into a feature: what two features need belongs in web/src/ui" >&2
	exit 1
}
