"""The name that stands in histories, typed once; kept in the user's settings folder, empty unless it was given."""

from __future__ import annotations

from pathlib import Path

import platformdirs

from ashen_bridge.files.atomic import write_atomically
from ashen_bridge.files.errors import FileError

_LONG = 80


def _path() -> Path:
    return Path(platformdirs.user_config_dir("ashen-bridge")) / "name.txt"


def who() -> str:
    """Return the name; empty where none was given or it cannot be read."""
    try:
        return _plain(_path().read_text("utf-8", errors="replace")[: 4 * _LONG])
    except OSError:
        return ""


def set_who(name: str) -> None:
    """Keep the name from now on. Raises `FileError` where it cannot be kept."""
    try:
        _path().parent.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise FileError(f"Your name cannot be kept in '{_path().parent}': {error.strerror}.") from error
    write_atomically(_path(), (_plain(name) + "\n").encode())


def _plain(name: str) -> str:
    """One line without anything that cannot be seen."""
    return "".join(one if one.isprintable() else " " for one in name).strip()[:_LONG]
