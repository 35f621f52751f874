"""The window on a virtual display with a window manager, in a process of its own."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
import time
from collections.abc import Iterator
from pathlib import Path

import pytest

TESTS = Path(__file__).resolve().parent.parent
NEEDED = ("Xvfb", "openbox")


@pytest.fixture
def display(tmp_path: Path) -> Iterator[str]:
    """The name of a display of 1280 × 800 with a window manager on it."""
    missing = [name for name in NEEDED if shutil.which(name) is None]
    if missing:
        pytest.skip(f"needs {' and '.join(missing)}, which ./check installs where it may")
    quiet = {"stdout": subprocess.DEVNULL, "stderr": subprocess.DEVNULL, "stdin": subprocess.DEVNULL}
    number = 100 + os.getpid() % 800
    name, socket = f":{number}", Path(f"/tmp/.X11-unix/X{number}")
    command = ["Xvfb", name, "-screen", "0", "1280x800x24", "-nolisten", "tcp"]
    server = subprocess.Popen(command, **quiet)  # type: ignore[call-overload]
    for _ in range(100):
        if socket.exists():
            break
        time.sleep(0.1)
    home = {"HOME": str(tmp_path), "XDG_CONFIG_HOME": str(tmp_path), "DISPLAY": name}
    said = tmp_path / "manager.txt"
    with said.open("w") as heard:
        manager = subprocess.Popen(
            ["openbox", "--sm-disable"], env=os.environ | home, stdin=subprocess.DEVNULL, stdout=heard, stderr=heard
        )
    time.sleep(0.5)
    assert manager.poll() is None, f"the window manager did not start on {name}: {said.read_text()}"
    yield name
    for process in (manager, server):
        process.terminate()
        process.wait(10)


def test_the_window_as_a_window_manager_shows_it(display: str) -> None:
    environment = os.environ | {"DISPLAY": display, "QT_QPA_PLATFORM": "xcb"}
    environment = {name: value for name, value in environment.items() if not name.startswith("PYTEST_")}
    done = subprocess.run(
        [sys.executable, "-m", "pytest", "-q", "-p", "no:cacheprovider", "-p", "no:xdist", str(TESTS / "display")],
        env=environment, cwd=TESTS.parent, stdin=subprocess.DEVNULL, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True,
        timeout=400,
    )  # fmt: skip
    assert done.returncode == 0, done.stdout[-6000:]
    assert "skipped" not in done.stdout, done.stdout[-2000:]
