# Shared by ./run and ./check: makes .venv and installs what is pinned. Does nothing when that has been done before.
# Sourced with $here set; sets $python and $bin.

bin="$here/.venv/bin"
python="$bin/python"
plugins="$here"/.venv/lib/python*/site-packages/PyQt6/Qt6/plugins/platforms

# The package of Debian and its kin that brings a library.
package_of() {
    case "$1" in
        libEGL.so*) echo libegl1 ;;
        libGL.so* | libGLX.so*) echo libgl1 ;;
        libOpenGL.so*) echo libopengl0 ;;
        libglib-2.0.so* | libgthread-2.0.so*) echo libglib2.0-0 ;;
        libdbus-1.so*) echo libdbus-1-3 ;;
        libfontconfig.so*) echo libfontconfig1 ;;
        libfreetype.so*) echo libfreetype6 ;;
        libX11.so*) echo libx11-6 ;;
        libX11-xcb.so*) echo libx11-xcb1 ;;
        libxcb.so*) echo libxcb1 ;;
        libxkbcommon-x11.so*) echo libxkbcommon-x11-0 ;;
        libxkbcommon.so*) echo libxkbcommon0 ;;
        # libxcb-icccm.so.4 comes with libxcb-icccm4, and so on.
        *) echo "$1" | sed -E 's/\.so\./ /; s/ ([0-9]+).*/\1/; s/\.so$//' ;;
    esac
}

# What printing needs of the system, package by package; printed sheets are made without a window too.
missing_text_packages() {
    "$python" - <<'PY'
from ctypes.util import find_library

NEEDED = {"pango-1.0": "libpango-1.0-0", "pangoft2-1.0": "libpangoft2-1.0-0", "harfbuzz-subset": "libharfbuzz-subset0"}
print(" ".join(package for library, package in NEEDED.items() if find_library(library) is None))
PY
}

# need_text: install what printing needs, or say how; everything else works without it.
need_text() {
    local packages
    packages="$(missing_text_packages)"
    [ -z "$packages" ] && return 0
    if [ "$(id -u)" -eq 0 ] && command -v apt-get >/dev/null 2>&1; then
        echo "Installing what printing needs of the system: $packages" >&2
        apt-get update -qq >/dev/null 2>&1 || true
        # shellcheck disable=SC2086
        DEBIAN_FRONTEND=noninteractive apt-get install -y -qq $packages >/dev/null 2>&1 || true
        packages="$(missing_text_packages)"
        [ -z "$packages" ] && return 0
    fi
    echo "Sheets can be printed as PDF after: sudo apt-get install $packages" >&2
}

# Every library that a window needs and this system does not have, one by one.
missing_libraries() {
    local file
    for file in $plugins/libqxcb.so $plugins/libqoffscreen.so; do
        if [ -e "$file" ]; then ldd "$file" 2>/dev/null | awk '/not found/ { print $1 }'; fi
    done | sort -u
}

find_python() {
    local candidate
    for candidate in python3.13 python3.12 python3.11 python3 python; do
        if command -v "$candidate" >/dev/null 2>&1 && "$candidate" -c 'import sys; raise SystemExit(sys.version_info < (3, 11))' 2>/dev/null; then
            echo "$candidate"
            return 0
        fi
    done
    echo "Python 3.11 or newer is needed and was not found." >&2
    return 1
}

# need_libraries PROGRAM…: see that windows can open, and that some programs are there; install what is missing, or say how.
need_libraries() {
    local missing packages="" one
    missing="$(missing_libraries)"
    for one in $missing; do packages="$packages $(package_of "$one")"; done
    for one in "$@"; do command -v "$one" >/dev/null 2>&1 || packages="$packages $(echo "$one" | tr '[:upper:]' '[:lower:]')"; done
    [ -z "$packages" ] && return 0
    packages="$(echo "$packages" | tr ' ' '\n' | sort -u | tr '\n' ' ' | sed 's/^ *//; s/ *$//')"
    if [ "$(id -u)" -eq 0 ] && command -v apt-get >/dev/null 2>&1; then
        echo "Installing what windows need of the system: $packages" >&2
        apt-get update -qq >/dev/null 2>&1 || true
        # shellcheck disable=SC2086
        DEBIAN_FRONTEND=noninteractive apt-get install -y -qq $packages >/dev/null 2>&1 || true
        missing="$(missing_libraries)"
    fi
    if [ -n "$missing" ]; then
        echo "Windows need libraries that are missing here ($(echo "$missing" | tr '\n' ' ' | sed 's/ $//')). Install them with:" >&2
        echo "  sudo apt-get install $packages" >&2
        return 1
    fi
}

# prepare run|dev: install what running (or also checking) needs, once per change of the pins.
prepare() {
    local what="$1" extra="" stamp wanted
    [ "$what" = dev ] && extra="[dev]"
    wanted="$(cat "$here/pyproject.toml" "$here/constraints.txt" | sha256sum | cut -d' ' -f1) $here"
    stamp="$here/.venv/.ready-$what"
    if [ -f "$stamp" ] && [ "$(cat "$stamp")" = "$wanted" ]; then
        return 0
    fi
    echo "Setting up (once)…" >&2
    if [ ! -x "$python" ]; then
        "$(find_python)" -m venv "$here/.venv"
    fi
    PIP_CONSTRAINT="$here/constraints.txt" "$python" -m pip install --quiet --disable-pip-version-check -e "$here$extra" >&2
    need_text
    echo "$wanted" > "$stamp"
    if [ "$what" = dev ]; then
        echo "$wanted" > "$here/.venv/.ready-run"
    fi
}
