"""Where things go when they are aligned, distributed, put in rows or around something. Plain boxes in, moves out [mm]."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

from ashen_bridge.changes.boxes import Box, hull

Edge = Literal["left", "right", "top", "bottom", "middle", "centre"]
Move = tuple[float, float]


def align(boxes: Sequence[Box], edge: Edge) -> list[Move]:
    """Return the moves that line the boxes up at an edge of their hull; `middle` is level, `centre` upright."""
    x0, y0, x1, y1 = hull(boxes)

    def move(box: Box) -> Move:
        match edge:
            case "left":
                return x0 - box[0], 0.0
            case "right":
                return x1 - box[2], 0.0
            case "bottom":
                return 0.0, y0 - box[1]
            case "top":
                return 0.0, y1 - box[3]
            case "centre":
                return (x0 + x1 - box[0] - box[2]) / 2, 0.0
            case "middle":
                return 0.0, (y0 + y1 - box[1] - box[3]) / 2

    return [move(box) for box in boxes]


def distribute(boxes: Sequence[Box], axis: Literal["x", "y"]) -> list[Move]:
    """Return the moves that make the gaps between the boxes equal; the outermost two stay."""
    at = 0 if axis == "x" else 1
    order = sorted(range(len(boxes)), key=lambda n: (boxes[n][at] + boxes[n][at + 2], n))
    moves: list[Move] = [(0.0, 0.0)] * len(boxes)
    if len(boxes) < 3:
        return moves
    first, last = boxes[order[0]], boxes[order[-1]]
    inner = [boxes[n] for n in order[1:-1]]
    gap = (last[at] - first[at + 2] - sum(b[at + 2] - b[at] for b in inner)) / (len(boxes) - 1)
    edge = first[at + 2]
    for n in order[1:-1]:
        by = edge + gap - boxes[n][at]
        moves[n] = (by, 0.0) if axis == "x" else (0.0, by)
        edge += gap + boxes[n][at + 2] - boxes[n][at]
    return moves


def row(count: int, pitch_x: float, pitch_y: float) -> list[Move]:
    """Return where the further members of a row of `count` stand, relative to the first."""
    return [(n * pitch_x, n * pitch_y) for n in range(1, count)]


def around(
    box: Box, size: tuple[float, float], counts: tuple[int, int, int, int], gap: float, between: float
) -> list[tuple[str, Box]]:
    """Return places around `box`: `counts` on the left, top, right and bottom, each with the side it stands on.

    `size` is width and height of a part as it stands at the left or right; on top and bottom it is turned by a quarter.
    """
    x0, y0, x1, y1 = box
    cx, cy = (x0 + x1) / 2, (y0 + y1) / 2
    w, h = size
    places: list[tuple[str, Box]] = []
    for side, count in zip(("left", "top", "right", "bottom"), counts, strict=True):
        upright = side in ("left", "right")
        wide, high = (w, h) if upright else (h, w)
        step = (high if upright else wide) + between
        for n in range(count):
            along = (n - (count - 1) / 2) * step
            x, y = {
                "left": (x0 - gap - wide / 2, cy + along),
                "right": (x1 + gap + wide / 2, cy + along),
                "top": (cx + along, y1 + gap + high / 2),
                "bottom": (cx + along, y0 - gap - high / 2),
            }[side]
            places.append((side, (x - wide / 2, y - high / 2, x + wide / 2, y + high / 2)))
    return places
