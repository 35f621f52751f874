"""The files that were opened last, newest first; kept in the user's state folder."""

from __future__ import annotations

import contextlib
import json
from pathlib import Path

import platformdirs

from ashen_bridge.files.atomic import write_atomically
from ashen_bridge.files.errors import FileError

MOST = 12


def _list_path() -> Path:
    return Path(platformdirs.user_state_dir("ashen-bridge")) / "recent.json"


def recent_files() -> list[Path]:
    """Return recently opened files that still exist."""
    try:
        listed = json.loads(_list_path().read_text(encoding="utf-8"))
    except (OSError, ValueError):
        return []
    paths = [Path(one) for one in listed if isinstance(one, str)] if isinstance(listed, list) else []
    return [path for path in paths if path.is_file()][:MOST]


def remember(path: Path) -> None:
    """Put a file at the top of the list. That it cannot be written is no reason to stop anybody's work."""
    own = path.absolute()
    kept = [own, *(other for other in recent_files() if other != own)][:MOST]
    with contextlib.suppress(OSError, FileError):
        _list_path().parent.mkdir(parents=True, exist_ok=True)
        write_atomically(_list_path(), json.dumps([str(one) for one in kept], indent=1).encode())
