# Shared by ./run and ./check: makes .venv and installs what is pinned. Does nothing when that has been done before.
# Sourced with $here set; sets $python and $bin.

bin="$here/.venv/bin"
python="$bin/python"
qt_packages="libegl1 libgl1 libxkbcommon0 libdbus-1-3 libfontconfig1 libglib2.0-0 libxcb-cursor0 libxkbcommon-x11-0 libxcb-icccm4 libxcb-image0 libxcb-keysyms1 libxcb-render-util0 libxcb-shape0 libxcb-xinerama0"

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

qt_works() {
    QT_QPA_PLATFORM=offscreen "$python" -c 'from PyQt6 import QtWidgets' >/dev/null 2>&1
}

need_qt_libraries() {
    # The offscreen platform works without the X libraries; a window on a display does not.
    if qt_works && { [ -z "${DISPLAY:-}" ] || ldconfig -p 2>/dev/null | grep -q libxcb-cursor; }; then
        return 0
    fi
    if [ "$(id -u)" -eq 0 ] && command -v apt-get >/dev/null 2>&1; then
        echo "Installing the system libraries Qt needs…" >&2
        apt-get update -qq >/dev/null
        # shellcheck disable=SC2086
        DEBIAN_FRONTEND=noninteractive apt-get install -y -qq $qt_packages >/dev/null
    fi
    if ! qt_works; then
        echo "Qt's system libraries are missing. Install them with:" >&2
        echo "  sudo apt-get install $qt_packages" >&2
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
    need_qt_libraries
    echo "$wanted" > "$stamp"
    if [ "$what" = dev ]; then
        echo "$wanted" > "$here/.venv/.ready-run"
    fi
}
