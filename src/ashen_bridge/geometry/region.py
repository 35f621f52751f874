"""Regions in plan: sets of disjoint axis-parallel rectangles with exact areas [m]."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import numpy.typing as npt

from ashen_bridge.arrays import Floats
from ashen_bridge.model.footprint import Footprint, Rect

Box = tuple[float, float, float, float]
MM = 1e-3
_EPS = 1e-9  # a nanometre: nothing drawn in millimetres is thinner


@dataclass(frozen=True)
class Region:
    """Disjoint rectangles `(x0, y0, x1, y1)` [m]."""

    boxes: tuple[Box, ...]

    @property
    def area(self) -> float:
        """Area [m²]."""
        return float(sum((x1 - x0) * (y1 - y0) for x0, y0, x1, y1 in self.boxes))

    @property
    def bounds(self) -> Box:
        """Left, lower, right and upper edge [m]; raises `ValueError` for an empty region."""
        if not self.boxes:
            raise ValueError("an empty region has no bounds")
        x0, y0, x1, y1 = zip(*self.boxes, strict=True)
        return min(x0), min(y0), max(x1), max(y1)

    @property
    def centre(self) -> tuple[float, float]:
        """Centroid [m]."""
        area = self.area
        cx = sum((x1 - x0) * (y1 - y0) * (x0 + x1) / 2 for x0, y0, x1, y1 in self.boxes) / area
        cy = sum((x1 - x0) * (y1 - y0) * (y0 + y1) / 2 for x0, y0, x1, y1 in self.boxes) / area
        return float(cx), float(cy)

    def __bool__(self) -> bool:
        return bool(self.boxes)

    def __and__(self, other: Region) -> Region:
        """Return the intersection."""
        found = []
        for ax0, ay0, ax1, ay1 in self.boxes:
            for bx0, by0, bx1, by1 in other.boxes:
                if ax0 < bx1 and bx0 < ax1 and ay0 < by1 and by0 < ay1:
                    found.append((max(ax0, bx0), max(ay0, by0), min(ax1, bx1), min(ay1, by1)))
        return Region(tuple(box for box in found if box[2] - box[0] > _EPS and box[3] - box[1] > _EPS))

    def __sub__(self, other: Region) -> Region:
        """Return what is left of this region outside `other`."""
        rest = list(self.boxes)
        for hole in other.boxes:
            x0, y0, x1, y1 = hole
            # Most boxes lie beside a hole; only those under it are cut.
            under = [box for box in rest if box[0] < x1 and x0 < box[2] and box[1] < y1 and y0 < box[3]]
            if under:
                cut = set(under)
                rest = [part for box in rest for part in (_cut(box, hole) if box in cut else (box,))]
        return Region(tuple(rest))

    def __or__(self, other: Region) -> Region:
        """Return the union."""
        return Region(self.boxes + (other - self).boxes)

    def covers(self, x: Floats, y: Floats) -> npt.NDArray[np.bool_]:
        """Return which of the points lie inside [m]."""
        inside = np.zeros(np.broadcast(x, y).shape, dtype=bool)
        for x0, y0, x1, y1 in self.boxes:
            inside |= (x >= x0) & (x <= x1) & (y >= y0) & (y <= y1)
        return inside

    @lru_cache(maxsize=4096)  # noqa: B019 - regions are values, shared by all predictions of one layout
    def points(self, n_across: int) -> tuple[Floats, Floats, Floats]:
        """Return points x, y [m] and weights [m²] of a product rule, about `n_across` × `n_across` over the whole region.

        Gauss-Lobatto points lie in the corners and close to the edges, where tilted faces come nearest to each other and laws
        are steepest; smooth ones they integrate far better than evenly spaced points do.
        """
        if not self.boxes:
            return np.empty(0), np.empty(0), np.empty(0)
        bx0, by0, bx1, by1 = self.bounds
        hx, hy = (bx1 - bx0) / n_across, (by1 - by0) / n_across
        xs, ys, ws = [], [], []
        for x0, y0, x1, y1 in self.boxes:
            nx, ny = max(1, round((x1 - x0) / hx)), max(1, round((y1 - y0) / hy))
            (tx, wx), (ty, wy) = lobatto(nx), lobatto(ny)
            mx, my = np.meshgrid(x0 + tx * (x1 - x0), y0 + ty * (y1 - y0))
            xs.append(mx.ravel())
            ys.append(my.ravel())
            ws.append(np.outer(wy * (y1 - y0), wx * (x1 - x0)).ravel())
        return np.concatenate(xs), np.concatenate(ys), np.concatenate(ws)


@lru_cache(maxsize=64)
def lobatto(count: int) -> tuple[Floats, Floats]:
    """Return points and weights of the Gauss-Lobatto rule on 0 to 1, ends included; the midpoint for a single one.

    Abramowitz & Stegun, 25.4.32: the inner points are where the derivative of the Legendre polynomial vanishes.

    >>> [round(float(w), 4) for w in lobatto(3)[1]]
    [0.1667, 0.6667, 0.1667]
    """
    if count < 2:
        return np.array([0.5]), np.array([1.0])
    legendre = np.polynomial.legendre.Legendre.basis(count - 1)
    points = np.concatenate([[-1.0], np.sort(legendre.deriv().roots().real), [1.0]])
    weights = 2 / (count * (count - 1) * legendre(points) ** 2)
    return (points + 1) / 2, weights / 2


def _cut(box: Box, hole: Box) -> Iterable[Box]:
    x0, y0, x1, y1 = box
    hx0, hy0, hx1, hy1 = max(x0, hole[0]), max(y0, hole[1]), min(x1, hole[2]), min(y1, hole[3])
    if hx1 - hx0 <= _EPS or hy1 - hy0 <= _EPS:
        yield box
        return
    if hy0 - y0 > _EPS:
        yield (x0, y0, x1, hy0)
    if y1 - hy1 > _EPS:
        yield (x0, hy1, x1, y1)
    if hx0 - x0 > _EPS:
        yield (x0, hy0, hx0, hy1)
    if x1 - hx1 > _EPS:
        yield (hx1, hy0, x1, hy1)


EMPTY = Region(())


def region_of_rect(rect: Rect) -> Region:
    """Return a rectangle of the model as a region."""
    x0, y0, x1, y1 = rect.bounds
    return Region(((x0 * MM, y0 * MM, x1 * MM, y1 * MM),))


@lru_cache(maxsize=4096)
def region_of(footprint: Footprint) -> Region:
    """Return a footprint of the model as a region; overlapping rectangles count once."""
    region = EMPTY
    for rect in footprint.rects:
        region = region | region_of_rect(rect)
    for hole in footprint.holes:
        region = region - region_of_rect(hole)
    return region
