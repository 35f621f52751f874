"""Snapping in plan: edges and middles of what is moved find edges and middles of what stays, and the grid. All in millimetres."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Literal

from ashen_bridge.changes.boxes import Box


@dataclass(frozen=True)
class Guide:
    """A line that something snapped to: `axis` x is a vertical line at `at`, from `low` to `high` along the other axis [mm]."""

    axis: Literal["x", "y"]
    at: float
    low: float
    high: float


@dataclass(frozen=True)
class Snapped:
    """How far to move in all [mm], and the guides to show."""

    dx: float
    dy: float
    guides: tuple[Guide, ...] = ()


def snap_move(box: Box, dx: float, dy: float, others: Sequence[Box], reach: float, grid: float = 0.0) -> Snapped:
    """Return a move of `box` near (dx, dy) that lines an edge or the middle up with `others`, else puts it on the grid.

    Neither component differs from what was asked by more than `reach` (or half a grid step).
    """
    moved = box[0] + dx, box[1] + dy, box[2] + dx, box[3] + dy
    by_x, line_x = _nearest(_lines(moved, 0), [(v, b) for b in others for v in _lines(b, 0)], reach)
    by_y, line_y = _nearest(_lines(moved, 1), [(v, b) for b in others for v in _lines(b, 1)], reach)
    if line_x is None:
        by_x = _to_grid(moved[0], grid)
    if line_y is None:
        by_y = _to_grid(moved[1], grid)
    final = moved[0] + by_x, moved[1] + by_y, moved[2] + by_x, moved[3] + by_y
    return Snapped(dx + by_x, dy + by_y, (*_guide("x", line_x, final), *_guide("y", line_y, final)))


def snap_value(value: float, axis: Literal["x", "y"], others: Iterable[Box], reach: float, grid: float = 0.0) -> float:
    """Return the coordinate of one dragged edge, lined up with an edge or middle of `others`, else on the grid."""
    at = 0 if axis == "x" else 1
    by, line = _nearest((value,), [(v, b) for b in others for v in _lines(b, at)], reach)
    return value + (by if line is not None else _to_grid(value, grid))


def _lines(box: Box, at: int) -> tuple[float, float, float]:
    return box[at], (box[at] + box[at + 2]) / 2, box[at + 2]


def _nearest(mine: Sequence[float], theirs: Sequence[tuple[float, Box]], reach: float) -> tuple[float, tuple[float, Box] | None]:
    best, line = reach, None
    by = 0.0
    for here in mine:
        for there, box in theirs:
            if abs(there - here) <= best and (line is None or abs(there - here) < abs(by) - 1e-12):
                best, by, line = abs(there - here), there - here, (there, box)
    return by, line


def _to_grid(value: float, grid: float) -> float:
    return round(value / grid) * grid - value if grid > 0 else 0.0


def _guide(axis: Literal["x", "y"], line: tuple[float, Box] | None, box: Box) -> tuple[Guide, ...]:
    if line is None:
        return ()
    across = 1 if axis == "x" else 0
    return (Guide(axis, line[0], min(box[across], line[1][across]), max(box[across + 2], line[1][across + 2])),)
