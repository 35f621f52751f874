"""Photographs of the record: small enough for a paper, inside it as data; what is gone from this machine is said."""

from __future__ import annotations

import base64
import io
from collections.abc import Iterator
from typing import Any

from PIL import Image as Pictures
from PIL import UnidentifiedImageError

from ashen_bridge.files.blobs import BlobStore, default_folder
from ashen_bridge.model.errors import AshenError
from ashen_bridge.report.record.blocks import Block, picture, words

_WIDE_PX, _QUALITY = 1000, 80
_MOST_PX = 120_000_000  # beyond it a picture is not opened


def photos_chapter(known: Any) -> Iterator[Block]:
    """Yield every photograph that the project keeps."""
    shown_at = {image: step.text for procedure in known.project.procedures for step in procedure.steps for image in step.images}
    for image in known.project.images:
        caption = image.name or image.id
        if image.id in shown_at:
            caption += f": {shown_at[image.id]}"
        data = embedded(image.sha256)
        yield picture(data, caption) if data else words(f"“{caption}” is not on this machine.", quiet=True)


def embedded(sha256: str) -> str:
    """Return a stored picture as data, made smaller; empty for one that is not there or cannot be read."""
    try:
        content = BlobStore(default_folder()).get(sha256)
    except (OSError, AshenError):
        return ""
    try:
        with Pictures.open(io.BytesIO(content)) as opened:
            if opened.width * opened.height > _MOST_PX:
                return ""
            opened.draft("RGB", (_WIDE_PX, _WIDE_PX))
            small = opened.convert("RGB")
            small.thumbnail((_WIDE_PX, _WIDE_PX))
    except (OSError, UnidentifiedImageError, ValueError, Pictures.DecompressionBombError):
        return ""
    made = io.BytesIO()
    small.save(made, "JPEG", quality=_QUALITY)
    return f"data:image/jpeg;base64,{base64.b64encode(made.getvalue()).decode()}"
