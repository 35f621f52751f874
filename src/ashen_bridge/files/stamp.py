"""Whether a file on disk is still the one that was read or written here."""

from __future__ import annotations

import os
from dataclasses import dataclass
from pathlib import Path


@dataclass(frozen=True)
class Stamp:
    """What tells one state of a file from another; all zero where there is no file."""

    size: int = 0
    modified_ns: int = 0
    inode: int = 0

    @classmethod
    def of(cls, path: Path) -> Stamp:
        """Return the stamp of a file as it is now."""
        try:
            found = path.stat()
        except OSError:
            return cls()
        return cls(found.st_size, found.st_mtime_ns, found.st_ino)

    @property
    def exists(self) -> bool:
        """Whether there was a file at all."""
        return self != Stamp()


def is_read_only(path: Path) -> bool:
    """Return whether an existing file cannot be replaced by saving: it, or its folder, may not be written."""
    return path.exists() and not (os.access(path, os.W_OK) and os.access(path.parent, os.W_OK))
