#!/bin/sh
# Install the system packages that are missing: "run" for the application, "test" for its tests.
# On Debian and Ubuntu they are installed, asking for rights as usual; elsewhere they are named.
set -eu

RUN="python3-venv libgl1 libegl1 libxkbcommon0 libfontconfig1 libdbus-1-3 libglib2.0-0
libxkbcommon-x11-0 libxcb-cursor0 libxcb-icccm4 libxcb-keysyms1 libxcb-shape0 libportaudio2
libasound2-plugins libpulse0"
TEST="xvfb xdotool chromium pulseaudio pulseaudio-utils dbus-daemon pipewire pipewire-pulse wireplumber"

case "${1:-run}" in
run) WANTED=$RUN ;;
test) WANTED=$TEST ;;
*) echo "usage: $0 run|test" >&2; exit 2 ;;
esac

if ! command -v dpkg-query >/dev/null 2>&1; then
	# Look for the one library that is most often missing, and leave the rest to the reader.
	if ! ldconfig -p 2>/dev/null | grep -q libxcb-cursor; then
		echo "Cicada needs these libraries; install what your system calls them:" $WANTED
	fi
	exit 0
fi

missing=""
for package in $WANTED; do
	# Newer Debian and Ubuntu call some libraries by the same name with t64 behind it.
	for name in "$package" "${package}t64"; do
		state=$(dpkg-query -W -f '${Status}' "$name" 2>/dev/null || true)
		[ "$state" = "install ok installed" ] && continue 2
	done
	if [ "$package" = python3-venv ] && "${PYTHON:-python3}" -c "import ensurepip" 2>/dev/null; then
		continue
	fi
	missing="$missing $package"
done
[ -z "$missing" ] && exit 0

echo "Installing system packages:$missing"
as_root=""
if [ "$(id -u)" != 0 ]; then
	if ! command -v sudo >/dev/null 2>&1; then
		echo "Please install these packages as root, then try again:$missing" >&2
		exit 1
	fi
	as_root="sudo"
fi
$as_root apt-get update -qq
for package in $missing; do
	$as_root env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends \
		"$package" >/dev/null ||
		$as_root env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends \
			"${package}t64" >/dev/null
done
