"""Whether a file on disk is still the one that was read or written here."""

from __future__ import annotations

import hashlib
import os
from dataclasses import dataclass
from pathlib import Path


@dataclass(frozen=True)
class Stamp:
    """What tells one state of a file from another; all zero where there is no file.

    modified_ns can be set to anything by whoever writes; changed_ns cannot, but turns with names and rights as well, so where
    it alone differs the content decides.
    """

    size: int = 0
    modified_ns: int = 0
    inode: int = 0
    changed_ns: int = 0
    digest: str = ""

    @classmethod
    def of(cls, path: Path) -> Stamp:
        """Return the stamp of a file as it is now."""
        try:
            found = path.stat()
            return cls(found.st_size, found.st_mtime_ns, found.st_ino, found.st_ctime_ns, _digest(path))
        except OSError:
            return cls()

    @property
    def exists(self) -> bool:
        """Whether there was a file at all."""
        return self != Stamp()

    def holds(self, path: Path) -> bool:
        """Return whether a file is still as it was."""
        try:
            now = path.stat()
            if (now.st_size, now.st_mtime_ns, now.st_ino) != (self.size, self.modified_ns, self.inode):
                return False
            return now.st_ctime_ns == self.changed_ns or _digest(path) == self.digest
        except OSError:
            return not self.exists


def _digest(path: Path) -> str:
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def is_read_only(path: Path) -> bool:
    """Return whether an existing file cannot be replaced by saving: it, or its folder, may not be written."""
    return path.exists() and not (os.access(path, os.W_OK) and os.access(path.resolve().parent, os.W_OK))
