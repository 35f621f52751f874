"""Saving that is either done or not begun: temporary file in the same folder, flushed to disk, then renamed."""

from __future__ import annotations

import contextlib
import glob
import hashlib
import os
import tempfile
import time
from pathlib import Path

from ashen_bridge.files.errors import FileError

_STALE_S = 60.0


def write_atomically(path: Path, content: bytes) -> None:
    """Write `content` to `path`; a crash or a full disk leaves the old file as it was. Raises `FileError`.

    A link is followed: what it leads to is replaced, and it goes on leading there.
    """
    try:
        path = path.resolve() if path.is_symlink() else path
    except OSError as error:
        raise FileError(f"Cannot save '{path.name[:60]}': {error.strerror}.") from error
    except RuntimeError as error:
        raise FileError(f"Cannot save '{path.name}': it is a link that leads to itself.") from error
    _clear_away(path)
    try:
        handle, name = tempfile.mkstemp(prefix=_begin(path), suffix=".part", dir=path.parent)
    except OSError as error:
        raise FileError(f"Cannot write into '{path.parent}': {error.strerror}.") from error
    try:
        with os.fdopen(handle, "wb") as file:
            file.write(content)
            file.flush()
            os.fsync(file.fileno())
        mode = path.stat().st_mode & 0o777 if path.exists() else 0o666 & ~_umask()
        os.chmod(name, mode)
        os.replace(name, path)
    except OSError as error:
        with contextlib.suppress(OSError):
            os.unlink(name)
        raise FileError(f"Cannot save '{path.name}': {error.strerror}. The file on disk is unchanged.") from error
    _sync_folder(path.parent)


def _begin(path: Path) -> str:
    """How temporary files of a file begin: by a hash, since a name may be as long as a name can be."""
    return f".ashen-{hashlib.sha256(os.fsencode(path.name)).hexdigest()[:16]}."


def _clear_away(path: Path) -> None:
    """Remove temporary files that a killed save of this file left behind; a save that is still going on is younger."""
    with contextlib.suppress(OSError):
        for old in path.parent.glob(f"{glob.escape(_begin(path))}*.part"):
            if time.time() - old.stat().st_mtime > _STALE_S:
                old.unlink()


def _umask() -> int:
    current = os.umask(0)
    os.umask(current)
    return current


def _sync_folder(folder: Path) -> None:
    # Some file systems cannot sync a folder; the rename itself has happened by then.
    with contextlib.suppress(OSError):
        handle = os.open(folder, os.O_RDONLY)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)
