"""What the set-up says of libraries that a window needs: one by one, with the exact command, as root and not."""

from __future__ import annotations

import subprocess
from pathlib import Path

import pytest

from here import ROOT

LDD = """#!/bin/sh
echo "	libxcb-cursor.so.0 => not found"
echo "	libxkbcommon-x11.so.0 => not found"
echo "	libEGL.so.1 => not found"
echo "	libc.so.6 => /lib/libc.so.6 (0x1)"
"""


def told(tmp_path: Path, ldd: str, user: int, *programs: str) -> subprocess.CompletedProcess[str]:
    """Let the set-up look on a system with such an `ldd`, whose package manager only says what it was asked for."""
    for name, text in {"ldd": ldd, "id": f"#!/bin/sh\necho {user}\n", "apt-get": '#!/bin/sh\necho "$@" >> "$ASKED"\n'}.items():
        (tmp_path / name).write_text(text)
        (tmp_path / name).chmod(0o755)
    plugins = tmp_path / ".venv/lib/python3.11/site-packages/PyQt6/Qt6/plugins/platforms"
    plugins.mkdir(parents=True)
    (plugins / "libqxcb.so").touch()
    script = f'set -euo pipefail; here="{tmp_path}"; source "{ROOT}/scripts/setup.sh"; need_libraries {" ".join(programs)}'
    path = f"{tmp_path}:/usr/local/bin:/usr/bin:/bin"
    return subprocess.run(
        ["bash", "-c", script], env={"PATH": path, "ASKED": str(tmp_path / "asked")}, capture_output=True, text=True, check=False
    )


def test_without_root_the_exact_command_is_said(tmp_path: Path) -> None:
    done = told(tmp_path, LDD, 1000)
    assert done.returncode == 1
    assert "libEGL.so.1 libxcb-cursor.so.0 libxkbcommon-x11.so.0" in done.stderr
    assert "sudo apt-get install libegl1 libxcb-cursor0 libxkbcommon-x11-0\n" in done.stderr
    assert not (tmp_path / "asked").exists()


def test_root_installs_just_what_is_missing(tmp_path: Path) -> None:
    done = told(tmp_path, LDD, 0)
    assert "install -y -qq libegl1 libxcb-cursor0 libxkbcommon-x11-0" in (tmp_path / "asked").read_text()
    assert done.returncode == 1, "and says so where that did not help"


@pytest.mark.parametrize("user", [0, 1000])
def test_where_nothing_is_missing_nothing_is_done(tmp_path: Path, user: int) -> None:
    done = told(tmp_path, "#!/bin/sh\necho libc.so.6\n", user, "bash")
    assert (done.returncode, done.stderr) == (0, "")
    assert not (tmp_path / "asked").exists()


def test_a_program_that_only_tests_need_stops_nothing(tmp_path: Path) -> None:
    done = told(tmp_path, "#!/bin/sh\necho libc.so.6\n", 1000, "NoSuchProgram")
    assert done.returncode == 0
