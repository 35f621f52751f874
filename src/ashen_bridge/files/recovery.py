"""Recovery copies: the state of every open document, written after each edit, found again after a crash or kill.

Each open document owns one folder with `project.json`, `about.json` and a locked file `lock`. The lock falls with the process
that held it, however it ended, so a folder whose lock can be taken belongs to nobody any more.
"""

from __future__ import annotations

import contextlib
import fcntl
import json
import os
import shutil
import time
import uuid
from dataclasses import dataclass
from pathlib import Path

import platformdirs

from ashen_bridge.files.archive import parse_project
from ashen_bridge.files.errors import FileError
from ashen_bridge.model.project import Project

_PROJECT, _ABOUT, _LOCK = "project.json", "about.json", "lock"
_YOUNG_S = 60.0


def default_folder() -> Path:
    """Return the folder of the user's recovery copies."""
    return Path(platformdirs.user_state_dir("ashen-bridge")) / "recovery"


@dataclass(frozen=True)
class Leftover:
    """A recovery copy that its program did not take away. `path` is the file it belonged to, None if it had none yet."""

    folder: Path
    title: str
    path: Path | None
    saved_at: float

    def project(self) -> Project:
        """Return what was being worked on. Raises `FileError` or `ProjectError`."""
        try:
            content = (self.folder / _PROJECT).read_bytes()
        except OSError as error:
            raise FileError(f"The recovery copy of “{self.title}” cannot be read: {error.strerror}.") from error
        return parse_project(content, f"recovery copy of {self.title}")[0]

    def discard(self) -> None:
        """Delete the copy."""
        shutil.rmtree(self.folder, ignore_errors=True)


class RecoveryCopy:
    """The recovery copy of one open document."""

    def __init__(self, folder: Path | None = None) -> None:
        self._folder = (folder or default_folder()) / uuid.uuid4().hex
        self._lock: int | None = None

    def write(self, project: Project, title: str, path: Path | None) -> None:
        """Keep this state. Raises `FileError` if it cannot be kept; an older copy then stays."""
        about = {"title": title, "path": str(path) if path else None, "time": time.time()}
        try:
            if self._lock is None:
                self._folder.mkdir(parents=True, exist_ok=True)
                self._lock = os.open(self._folder / _LOCK, os.O_CREAT | os.O_RDWR, 0o600)
                fcntl.flock(self._lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
            _replace(self._folder / _ABOUT, json.dumps(about).encode())
            _replace(self._folder / _PROJECT, project.model_dump_json(exclude_none=True).encode())
        except OSError as error:
            raise FileError(f"No recovery copy can be kept in '{self._folder.parent}': {error.strerror}.") from error

    def remove(self) -> None:
        """Take the copy away: the work is saved, or not wanted."""
        if self._lock is not None:
            shutil.rmtree(self._folder, ignore_errors=True)
            os.close(self._lock)
            self._lock = None


def _replace(path: Path, content: bytes) -> None:
    # Renaming is atomic; what the kernel holds survives the process, so no waiting for the disk here.
    temporary = path.with_suffix(".part")
    temporary.write_bytes(content)
    temporary.replace(path)


def leftovers(folder: Path | None = None) -> list[Leftover]:
    """Return the copies that nobody holds any more, newest first; empty ones are cleared away."""
    root = folder or default_folder()
    found: list[Leftover] = []
    for place in sorted(root.iterdir()) if root.is_dir() else []:
        if not place.is_dir() or _held(place):
            continue
        if (place / _PROJECT).exists():
            found.append(_leftover(place))
        elif time.time() - place.stat().st_mtime > _YOUNG_S:
            shutil.rmtree(place, ignore_errors=True)  # killed before anything was kept
    return sorted(found, key=lambda leftover: -leftover.saved_at)


def _leftover(place: Path) -> Leftover:
    changed = (place / _PROJECT).stat().st_mtime
    try:
        about = json.loads((place / _ABOUT).read_bytes())
        return Leftover(place, str(about["title"]), Path(about["path"]) if about["path"] else None, changed)
    except (OSError, ValueError, KeyError, TypeError):
        return Leftover(place, "Unnamed project", None, changed)  # the work itself may still be whole


def _held(place: Path) -> bool:
    with contextlib.suppress(FileNotFoundError):
        handle = os.open(place / _LOCK, os.O_RDWR)
        try:
            fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            return True
        finally:
            os.close(handle)
    return False
