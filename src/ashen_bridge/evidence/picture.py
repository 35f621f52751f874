"""Pictures of contact made straight: an image file as colours over the rectangle whose corners are known."""

from __future__ import annotations

import io
import warnings
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass

import numpy as np
from PIL import Image, ImageFile, ImageOps, UnidentifiedImageError

from ashen_bridge.arrays import Floats
from ashen_bridge.model.errors import AshenError

MOST_PIXELS = 60_000_000
MOST_BYTES = 100 << 20
_PER_MM, _MOST_SIDE, _LEAST_SIDE = 8.0, 480, 24
MARGIN = 0.35
"""How much is looked at around the rectangle, as a share of its sides: the bare film there shows how the light falls."""
Corners = Sequence[tuple[float, float]]


class FilmError(AshenError, ValueError):
    """A picture that shows nothing that can be read, in one sentence."""


@dataclass(frozen=True)
class Straight:
    """Colours (ny, nx, 3), 0 to 1, row 0 lowest, over a rectangle and a margin around it.

    x_mm, y_mm : places (nx,), (ny,) from the middle of the rectangle. inside : (ny, nx) within the rectangle. known : (ny, nx)
    within the picture.
    """

    colours: Floats
    x_mm: Floats
    y_mm: Floats
    inside: np.ndarray
    known: np.ndarray


def opened(content: bytes) -> Image.Image:
    """Return an image as it is meant to be seen. Raises `FilmError` for what is no picture, is damaged or too large."""
    if len(content) > MOST_BYTES:
        raise FilmError(f"That picture takes {len(content) >> 20} MB; {MOST_BYTES >> 20} MB can be read.")
    try:
        with warnings.catch_warnings(), _whole_pictures():
            warnings.simplefilter("ignore")
            made = Image.open(io.BytesIO(content), formats=("PNG", "JPEG"))
            if made.width * made.height > MOST_PIXELS:
                raise FilmError(
                    f"That picture has {made.width} × {made.height} pixels; {MOST_PIXELS // 10**6} million can be read."
                )
            return ImageOps.exif_transpose(made).convert("RGB")
    except UnidentifiedImageError as error:
        raise FilmError("That is no picture: only PNG and JPEG can be read.") from error
    except FilmError:
        raise
    except Exception as error:
        # Opening files is one of the places that may catch everything: damaged pictures fail in many ways.
        raise FilmError(
            f"That picture is damaged or cut off: {str(error).splitlines()[0] if str(error) else 'nothing in it'}."
        ) from error


@contextmanager
def _whole_pictures() -> Iterator[None]:
    """Refuse pictures that are cut off, whatever another library in this process has asked for."""
    before = ImageFile.LOAD_TRUNCATED_IMAGES
    ImageFile.LOAD_TRUNCATED_IMAGES = False
    try:
        yield
    finally:
        ImageFile.LOAD_TRUNCATED_IMAGES = before


def straightened(image: Image.Image, corners: Corners, w_mm: float, h_mm: float, margin: float = MARGIN) -> Straight:
    """Return the colours over a rectangle of w × h [mm], its corners in pixels: lower left, lower right, upper right, upper left.

    The perspective is that of four points: x = (a·u + b·v + c)/(g·u + h·v + 1), y alike (R. Hartley and A. Zisserman, Multiple
    View Geometry, 2003, ch. 2, from memory). Raises `FilmError` where corners cross, lie outside or too close together.
    """
    quad = np.array(corners, dtype=float)
    _check(quad, image.width, image.height)
    per_mm = min(_PER_MM, _MOST_SIDE / max(w_mm, h_mm))
    per_mm = max(per_mm, _LEAST_SIDE / min(w_mm, h_mm))
    nx, ny = (round(side * (1 + 2 * margin) * per_mm) for side in (w_mm, h_mm))
    # Made coarser first, so that grain is averaged and not picked out.
    shorter = min(np.linalg.norm(quad - np.roll(quad, 1, axis=0), axis=1))
    by = max(int(shorter / (2 * min(w_mm, h_mm) * per_mm)), 1)
    image, quad = (image.reduce(by), quad / by) if by > 1 else (image, quad)
    u, v = (np.arange(n, dtype=np.float64) + 0.5 for n in (nx, ny))
    x, y = np.asarray(u / per_mm - w_mm * (0.5 + margin)), np.asarray(v / per_mm - h_mm * (0.5 + margin))
    # Of the picture that is made, row 0 uppermost, to the one that there is.
    target = np.array([[-w_mm, -h_mm], [w_mm, -h_mm], [w_mm, h_mm], [-w_mm, h_mm]]) / 2
    made = np.stack([(target[:, 0] + w_mm * (0.5 + margin)) * per_mm, (h_mm * (0.5 + margin) - target[:, 1]) * per_mm], axis=1)
    flat = image.transform((nx, ny), Image.Transform.PERSPECTIVE, tuple(perspective(made, quad)), Image.Resampling.BILINEAR)
    known = Image.new("L", image.size, 255).transform(
        (nx, ny), Image.Transform.PERSPECTIVE, tuple(perspective(made, quad)), Image.Resampling.NEAREST
    )
    inside = (np.abs(y)[:, None] <= h_mm / 2) & (np.abs(x)[None, :] <= w_mm / 2)
    colours = np.asarray(flat, dtype=float)[::-1] / 255
    return Straight(colours, x, y, inside, np.asarray(known)[::-1] > 127)


def perspective(of: Floats, to: Floats) -> Floats:
    """Return the eight numbers that lead four points (4, 2) to four others."""
    rows, right = [], []
    for (u, v), (x, y) in zip(of, to, strict=True):
        rows += [[u, v, 1, 0, 0, 0, -x * u, -x * v], [0, 0, 0, u, v, 1, -y * u, -y * v]]
        right += [x, y]
    return np.asarray(np.linalg.solve(np.array(rows), np.array(right)))


def _check(quad: Floats, width: int, height: int) -> None:
    if quad.shape != (4, 2) or not np.isfinite(quad).all():
        raise FilmError("Four corners are needed, each as x,y in pixels.")
    if (quad < -1).any() or (quad[:, 0] > width + 1).any() or (quad[:, 1] > height + 1).any():
        raise FilmError(f"A corner lies outside the picture, which has {width} × {height} pixels.")
    ahead, back = np.roll(quad, -1, axis=0) - quad, quad - np.roll(quad, 1, axis=0)
    turns = back[:, 0] * ahead[:, 1] - back[:, 1] * ahead[:, 0]
    if not ((turns > 0).all() or (turns < 0).all()):
        raise FilmError("The corners cross, or three lie in a line: go round the film, from its lower left one to the right.")
    if min(np.linalg.norm(ahead, axis=1)) < _LEAST_SIDE:
        raise FilmError("The corners are too close together: fewer than two dozen pixels lie along one side.")
