#!/bin/sh
# Installs from Debian what is missing: need.sh postgres | chromium
set -eu

if [ "$(id -u)" = 0 ]; then run=""; elif command -v sudo >/dev/null && sudo -n true 2>/dev/null; then run="sudo"; else run="no"; fi

install() {
	if [ "$run" = no ]; then
		echo "These Debian packages are missing and need an administrator: apt-get install $*" >&2
		exit 1
	fi
	echo "Installing from Debian: $*"
	$run apt-get update -q >/dev/null
	$run env DEBIAN_FRONTEND=noninteractive apt-get install -y -q --no-install-recommends "$@" >/dev/null
}

for what in "$@"; do
	case "$what" in
	postgres)
		if ! ls /usr/lib/postgresql/*/bin/postgres >/dev/null 2>&1; then
			# Debian would start a system cluster of its own; we want the programs only.
			if [ "$run" != no ] && [ ! -e /etc/postgresql-common ]; then
				$run mkdir -p /etc/postgresql-common/createcluster.d
				echo "create_main_cluster = false" | $run tee /etc/postgresql-common/createcluster.d/wardifex.conf >/dev/null
			fi
			install postgresql
		fi
		;;
	chromium) command -v chromium-headless-shell >/dev/null || install chromium-headless-shell fonts-liberation ;;
	esac
done
