"""A long series as few enough points for the pixels there are, with every peak kept."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QPolygonF

from ashen_bridge.arrays import Floats


def thinned(time_s: Floats, values: Floats, start: float, end: float, pixels: int) -> tuple[Floats, Floats]:
    """Return what to draw between two times: the samples, or lowest and highest of each pixel's share of them.

    Samples that are NaN are left out.

    >>> times = np.arange(10000.0)
    >>> t, v = thinned(times, np.where(times == 5000, 9.0, 1.0), 0.0, 9999.0, 100)
    >>> len(t) <= 202, float(v.max())
    (True, 9.0)
    """
    first = max(int(np.searchsorted(time_s, start)) - 1, 0)
    last = min(int(np.searchsorted(time_s, end, side="right")) + 1, len(time_s))
    t, v = time_s[first:last], values[first:last]
    block = len(t) // max(pixels, 1)
    if block < 3:
        there = np.isfinite(v)
        return t[there], v[there]
    cuts = np.arange(0, len(t), block)
    low, high = np.fmin.reduceat(v, cuts), np.fmax.reduceat(v, cuts)
    times = np.repeat(t[cuts], 2)
    both = np.empty(2 * len(cuts))
    # The nearer end first, so that the line does not jump back and forth more than the series does.
    rising = v[cuts] <= (low + high) / 2
    both[0::2], both[1::2] = np.where(rising, low, high), np.where(rising, high, low)
    there = np.isfinite(both)
    return times[there], both[there]


def polygon(x: Floats, y: Floats) -> QPolygonF:
    """Return points as a polygon, without a Python call for each."""
    made = QPolygonF()
    if len(x) == 0:
        return made
    made.fill(QPointF(), len(x))
    memory = made.data()
    if memory is None:
        return QPolygonF([QPointF(a, b) for a, b in zip(x, y, strict=True)])
    memory.setsize(len(x) * 16)
    points = np.frombuffer(memory, dtype=np.float64).reshape(-1, 2)  # type: ignore[call-overload]
    points[:, 0], points[:, 1] = x, y
    return made
