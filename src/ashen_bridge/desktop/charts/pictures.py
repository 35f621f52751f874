"""Arrays as images through a colour ramp."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from PyQt6.QtGui import QColor, QImage

Ramp = Callable[[float], QColor]


def ramp_table(ramp: Ramp) -> np.ndarray:
    """Return a ramp as 256 RGBA entries (uint8)."""
    table = np.empty((256, 4), dtype=np.uint8)
    for at in range(256):
        colour = ramp(at / 255)
        table[at] = (colour.red(), colour.green(), colour.blue(), 255)
    return table


def ramp_image(values: np.ndarray, low: float, high: float, table: np.ndarray) -> QImage:
    """Return values (rows from low y to high y) as an image with y up; NaN is transparent."""
    known = np.isfinite(values)
    share = np.clip((np.where(known, values, low) - low) / max(high - low, 1e-12), 0, 1)
    rgba = table[(share * 255).astype(np.intp)]
    rgba[~known, 3] = 0
    flipped = np.ascontiguousarray(rgba[::-1]).tobytes()
    height, width = values.shape
    return QImage(flipped, width, height, 4 * width, QImage.Format.Format_RGBA8888).copy()


def even_raster(picture: np.ndarray, x_lines: np.ndarray, y_lines: np.ndarray, nx: int, ny: int) -> np.ndarray:
    """Return a picture on graded grid lines as an even raster (ny, nx) over the same extent."""
    x = x_lines[0] + (np.arange(nx) + 0.5) / nx * (x_lines[-1] - x_lines[0])
    y = y_lines[0] + (np.arange(ny) + 0.5) / ny * (y_lines[-1] - y_lines[0])
    i = np.clip(np.searchsorted(x_lines, x) - 1, 0, picture.shape[1] - 1)
    j = np.clip(np.searchsorted(y_lines, y) - 1, 0, picture.shape[0] - 1)
    return picture[np.ix_(j, i)]
