"""Demonstration projects that ship with the program; everything in them is invented."""

from __future__ import annotations

from importlib import resources
from pathlib import Path

from ashen_bridge.files.archive import Opened, open_project
from ashen_bridge.files.errors import FileError

PREFIX = "demo:"


def demo_names() -> tuple[str, ...]:
    """Return the names that may follow `demo:`."""
    folder = resources.files(__name__)
    return tuple(sorted(item.name.removesuffix(".ashb") for item in folder.iterdir() if item.name.endswith(".ashb")))


def open_anything(where: str) -> Opened:
    """Return the content of a file, or of a demo when `where` is `demo:NAME`. Raises `FileError` or `ProjectError`."""
    if not where.startswith(PREFIX):
        return open_project(Path(where))
    name = where.removeprefix(PREFIX)
    if name not in demo_names():
        raise FileError(f"There is no demo '{name}'; there is: {', '.join(demo_names())}.")
    with resources.as_file(resources.files(__name__).joinpath(f"{name}.ashb")) as path:
        return open_project(path)
