"""Blobs that no project refers to any more are taken away, after half a year in which nobody opened one that does."""

from __future__ import annotations

import contextlib
import re
import time
from pathlib import Path

from ashen_bridge.files.atomic import write_atomically
from ashen_bridge.files.blobs import BlobStore
from ashen_bridge.files.errors import FileError

KEPT_DAYS = 180.0
_DIGEST = re.compile(rb"\b[0-9a-f]{64}\b")
_LIST = "outside.txt"


def remember_outside(store: BlobStore, path: Path) -> None:
    """Note a project file that does not carry its logs and pictures itself, as plain JSON does not."""
    known = _outside(store)
    if path.absolute() not in known:
        with contextlib.suppress(OSError, FileError):
            store.folder.mkdir(parents=True, exist_ok=True)
            text = "\n".join(str(one) for one in (*known, path.absolute()))
            write_atomically(store.folder / _LIST, text.encode(errors="surrogateescape"))


def sweep(store: BlobStore, recovery: Path, now: float | None = None) -> int:
    """Take away blobs unused for `KEPT_DAYS` that neither recovery copies nor noted files name; returns how many.

    A noted file that cannot be read just now, on a disk that is not there, keeps everything: what it names is not known.
    """
    kept: set[str] = set()
    for path in (*_outside(store), *recovery.glob("*/project.json")):
        try:
            kept |= {digest.decode() for digest in _DIGEST.findall(path.read_bytes())}
        except FileNotFoundError:
            if not path.parent.is_dir():
                return 0
        except OSError:
            return 0
    oldest, gone = (now or time.time()) - KEPT_DAYS * 86_400, 0
    for blob in store.folder.glob("??/*"):
        with contextlib.suppress(OSError):
            if len(blob.name) == 64 and blob.name not in kept and blob.stat().st_mtime < oldest:
                blob.unlink()
                gone += 1
    return gone


def _outside(store: BlobStore) -> tuple[Path, ...]:
    try:
        text = (store.folder / _LIST).read_bytes().decode(errors="surrogateescape")
    except OSError:
        return ()
    return tuple(Path(line) for line in text.split("\n") if line)
