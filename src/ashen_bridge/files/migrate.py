"""Older project files are brought up to date step by step, on plain data, before validation."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from ashen_bridge.files.errors import FileError
from ashen_bridge.model.project import FORMAT_VERSION

Plain = dict[str, Any]

STEPS: dict[int, Callable[[Plain], Plain]] = {}
"""Format version → what makes it the next one. Version 1 is the first, so there is nothing to do yet."""


def migrate(data: Any, steps: dict[int, Callable[[Plain], Plain]] | None = None, target: int = FORMAT_VERSION) -> Plain:
    """Return project data of version `target`. Raises `FileError` for data from a newer program or without a version."""
    if not isinstance(data, dict) or data.get("format") != "ashen-bridge":
        raise FileError("This is not an Ashen Bridge project: its 'format' is not 'ashen-bridge'.")
    version = data.get("version")
    if not isinstance(version, int) or isinstance(version, bool) or version < 1:
        raise FileError("The project does not say which format version it is in.")
    if version > target:
        raise FileError(f"The project is in format version {version}; this program knows versions up to {target}.")
    known = STEPS if steps is None else steps
    current: Plain = data
    while version < target:
        if version not in known:
            raise FileError(f"Format version {version} can no longer be read.")
        current = known[version](current)
        version += 1
        current = {**current, "version": version}
    return current
