"""Photos kept with steps and statements: read, put among the project's pictures, or refused in a sentence."""

from __future__ import annotations

from pathlib import Path

from ashen_bridge.changes.names import fresh_id, slug
from ashen_bridge.files.blobs import BlobStore, default_folder
from ashen_bridge.files.errors import FileError
from ashen_bridge.model.project import Project
from ashen_bridge.model.records import Image

PATTERN = "Picture (*.png *.jpg *.jpeg)"
_MOST_BYTES = 60 << 20


def photo(project: Project, path: Path) -> Image:
    """Return a photo from a file as a picture of the project, its content kept. Raises `FileError` in a sentence."""
    try:
        if path.stat().st_size > _MOST_BYTES:
            raise FileError(f"“{path.name}” is larger than a photo can be ({_MOST_BYTES >> 20} MB).")
        content = path.read_bytes()
    except OSError as error:
        raise FileError(f"“{path.name}” cannot be read: {error.strerror}.") from error
    suffix = "png" if content[:4] == b"\x89PNG" else "jpg" if content[:2] == b"\xff\xd8" else ""
    if not suffix:
        raise FileError(f"“{path.name}” is no picture: only PNG and JPEG can be kept.")
    digest = BlobStore(default_folder()).put(content)
    known = next((one for one in project.images if one.sha256 == digest), None)
    taken = [one.id for one in project.images]
    name = fresh_id(slug(path.stem, "photo"), taken)
    return known or Image.model_validate({"id": name, "name": path.name[:200], "sha256": digest, "suffix": suffix})


def is_there(project: Project, name: str) -> bool:
    """Return whether the content of a picture is on this machine."""
    image = next((one for one in project.images if one.id == name), None)
    return image is not None and BlobStore(default_folder()).has(image.sha256)
