"""Content-hashed store on disk: logs and pictures are kept once, by their SHA-256, shared by saves, undo and recovery."""

from __future__ import annotations

import contextlib
import hashlib
from dataclasses import dataclass
from pathlib import Path

import platformdirs

from ashen_bridge.files.atomic import write_atomically
from ashen_bridge.files.errors import FileError


def default_folder() -> Path:
    """Return the user's blob folder."""
    return Path(platformdirs.user_data_dir("ashen-bridge")) / "blobs"


@dataclass(frozen=True)
class BlobStore:
    """Blobs under `folder`, each in a file named by its hash."""

    folder: Path

    def put(self, content: bytes) -> str:
        """Store `content` and return its hash; storing it again costs nothing."""
        digest = hashlib.sha256(content).hexdigest()
        path = self._path(digest)
        if not path.exists():
            path.parent.mkdir(parents=True, exist_ok=True)
            write_atomically(path, content)
        self._used(path)
        return digest

    def has(self, digest: str) -> bool:
        """Return whether content is there, without reading it."""
        return self._path(digest).exists()

    def get(self, digest: str) -> bytes:
        """Return a blob. Raises `FileError` if it is missing or damaged."""
        path = self._path(digest)
        try:
            content = path.read_bytes()
        except OSError as error:
            raise FileError(f"The blob {digest[:12]}… is not in the store.") from error
        if hashlib.sha256(content).hexdigest() != digest:
            raise FileError(f"The blob {digest[:12]}… is damaged: its content does not match its hash.")
        self._used(path)
        return content

    @staticmethod
    def _used(path: Path) -> None:
        # When it was last wanted says when it may be taken away.
        with contextlib.suppress(OSError):
            path.touch()

    def _path(self, digest: str) -> Path:
        return self.folder / digest[:2] / digest
