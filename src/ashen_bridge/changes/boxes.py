"""Boxes in plan: left, lower, right and upper edge [mm]."""

from __future__ import annotations

from collections.abc import Sequence

from ashen_bridge.model.errors import ProjectError
from ashen_bridge.model.footprint import Footprint, Rect
from ashen_bridge.model.refusals import validated
from ashen_bridge.words.numbers import short

Box = tuple[float, float, float, float]
"""Left, lower, right and upper edge [mm]."""

SMALLEST_MM = 0.05
_DIGITS = 4


def hull(boxes: Sequence[Box]) -> Box:
    """Return the box around all boxes."""
    return min(b[0] for b in boxes), min(b[1] for b in boxes), max(b[2] for b in boxes), max(b[3] for b in boxes)


def shifted(box: Box, dx: float, dy: float) -> Box:
    """Return a box moved by dx, dy [mm]."""
    return box[0] + dx, box[1] + dy, box[2] + dx, box[3] + dy


def contains(outer: Box, inner: Box) -> bool:
    """Return whether `inner` lies in `outer`, touching edges included."""
    return outer[0] <= inner[0] and outer[1] <= inner[1] and inner[2] <= outer[2] and inner[3] <= outer[3]


def meet(a: Box, b: Box) -> bool:
    """Return whether two boxes share more than an edge."""
    return a[0] < b[2] and b[0] < a[2] and a[1] < b[3] and b[1] < a[3]


def area(box: Box) -> float:
    """Return the area of a box [mm²]."""
    return (box[2] - box[0]) * (box[3] - box[1])


def rect_of(box: Box) -> Rect:
    """Return a box as a rectangle of the model. Raises `ProjectError` if it is too small to be meant."""
    x0, y0, x1, y1 = box
    if x1 - x0 < SMALLEST_MM or y1 - y0 < SMALLEST_MM:
        raise ProjectError(f"That is too small: draw it at least {short(SMALLEST_MM)} mm wide and high.")
    x, y, w, h = (round(value, _DIGITS) for value in (x0, y0, x1 - x0, y1 - y0))
    return validated(Rect, "rectangle", x_mm=x, y_mm=y, w_mm=w, h_mm=h)


def outline_of(box: Box) -> Footprint:
    """Return a box as an outline of one rectangle. Raises `ProjectError` if it is too small to be meant."""
    return Footprint(rects=(rect_of(box),))
