"""What can be wrong with a file."""

from __future__ import annotations

from ashen_bridge.model.errors import AshenError


class FileError(AshenError, ValueError):
    """A file that is not a project, or cannot be read or written; one sentence."""
