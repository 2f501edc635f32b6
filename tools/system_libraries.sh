#!/bin/sh
# Sees to the system libraries that the window needs and a compiler for the loops, with "screen" to the virtual screen for the tests, and with
# "printer" to a printing system with a PDF printer and with "reader" to the bus and the library of readers of the
# screen; without these two, one test each is skipped.
# Installs them with apt where that is allowed; otherwise prints the one line to run, and stops.
set -eu

packages=""
for part in "$@"; do
    case "$part" in
    window) packages="$packages libgl1 libegl1 libxkbcommon0 libxkbcommon-x11-0 libdbus-1-3 libfontconfig1
        libglib2.0-0 libxcb-cursor0 libxcb-icccm4 libxcb-image0 libxcb-keysyms1 libxcb-randr0
        libxcb-render-util0 libxcb-shape0 libxcb-xinerama0 libxcb-xkb1"
        command -v cc >/dev/null 2>&1 || packages="$packages gcc libc6-dev" ;;
    screen) packages="$packages xvfb xauth" ;;
    reader) packages="$packages dbus at-spi2-core python3-gi gir1.2-atspi-2.0" ;;
    printer) packages="$packages cups-daemon cups-client cups-filters printer-driver-cups-pdf" ;;
    esac
done

if ! command -v dpkg-query >/dev/null 2>&1; then
    echo "This is not a Debian-like system; the names to look for are:" $packages
    exit 0
fi

missing=""
for package in $packages python3-venv; do
    # Newer releases carry some of these under a name ending in t64.
    if [ "$package" = python3-venv ] && python3 -c 'import ensurepip, venv' 2>/dev/null; then continue; fi
    if dpkg-query -W -f '${Status}\n' "$package" "${package}t64" 2>/dev/null | grep -q '^install ok installed'; then continue; fi
    missing="$missing $package"
done
[ -z "$missing" ] && exit 0

line="apt-get install -y --no-install-recommends$missing"
if [ "$(id -u)" = 0 ]; then
    run=""
elif command -v sudo >/dev/null 2>&1 && sudo -n true 2>/dev/null; then
    run="sudo"
else
    echo "Mild Compass needs some system libraries. Run this line once, then try again:"
    echo "    sudo sh -c 'apt-get update && $line'"
    exit 1
fi
echo "Installing system libraries:$missing"
export DEBIAN_FRONTEND=noninteractive
$run apt-get update -qq
$run $line >/dev/null
