"""Project files on the command line: what an older format means now is said on the error stream."""

from __future__ import annotations

from ashen_bridge.cli.said import say
from ashen_bridge.files.archive import Opened
from ashen_bridge.files.demos import open_anything


def opened(file: str) -> Opened:
    """Return what a file or demo holds."""
    found = open_anything(file)
    for line in found.news:
        say(f"{file}: {line}", err=True)
    return found
