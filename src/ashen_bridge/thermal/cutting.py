"""One layer of a slab cut into columns: the grid's own cells, or rectangles of them where no finer ones are needed."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import numpy.typing as npt

from ashen_bridge.arrays import Floats
from ashen_bridge.geometry.region import Region
from ashen_bridge.thermal.lines import Lines
from ashen_bridge.thermal.merging import CellSizes, merged_cells
from ashen_bridge.thermal.parts import cell_areas, cell_extents

Ints = npt.NDArray[np.intp]
_SLIVER = 1e-4  # of a column's area: less is left out


@dataclass(frozen=True, eq=False)
class Columns:
    """The columns of one layer. `of` maps cells of the grid (ny, nx) to 0…n−1, −1 where the layer is not.

    Several cells of the grid may be of one column.
    """

    of: Ints
    area: Floats  # (n,) [m²]
    box: Floats  # (4, n) left, lower, right and upper edge of the layer in each column [m]

    @property
    def n(self) -> int:
        """How many there are."""
        return len(self.area)

    def middle(self, axis: int) -> Floats:
        """Return where the middle of each column is along x (0) or y (1) [m]."""
        return np.asarray(self.box[axis] + self.box[axis + 2]) / 2

    def gathered(self, values: Floats) -> Floats:
        """Return what cells of the grid (ny, nx) hold, summed by column (n,)."""
        there = self.of >= 0
        return _summed(self.of[there], values[there], self.n)

    def image(self, values: Floats) -> Floats:
        """Return values per column as a picture (ny, nx), NaN where the layer is not."""
        picture = np.full(self.of.shape, np.nan)
        there = self.of >= 0
        picture[there] = values[self.of[there]]
        return picture


@lru_cache(maxsize=1024)
def columns_of(region: Region, lines: Lines, sizes: CellSizes | None = None) -> Columns:
    """Return the columns of a region, with its area in them and its extents; kept, so not to be written to."""
    areas = cell_areas(region, lines)
    grid_area = np.diff(lines.y)[:, None] * np.diff(lines.x)[None, :]
    there = areas > _SLIVER * grid_area
    box = np.stack([edge[there] for edge in cell_extents(region, lines)])
    column = np.full(lines.shape, -1, dtype=np.intp)
    if sizes is None:
        column[there] = np.arange(there.sum())
        return Columns(column, areas[there], box)
    rows, across = (np.flatnonzero(there.any(axis=axis)) for axis in (1, 0))
    part = (int(rows[0]), int(rows[-1]) + 1, int(across[0]), int(across[-1]) + 1) if len(rows) else None
    _, own = np.unique(merged_cells(lines, sizes, part)[there], return_inverse=True)
    column[there] = own
    n = int(own.max(initial=-1)) + 1
    whole = np.stack([np.full(n, bound) for bound in (np.inf, np.inf, -np.inf, -np.inf)])
    for edge, of_cells in zip(whole[:2], box[:2], strict=True):
        np.minimum.at(edge, own, of_cells)
    for edge, of_cells in zip(whole[2:], box[2:], strict=True):
        np.maximum.at(edge, own, of_cells)
    return Columns(column, _summed(own, areas[there], n), whole)


def _crossing(region: Region, along: Floats, across: Floats, axis: int) -> Floats:
    """Return for every inner line of `across` the width of `region` on it, per interval of `along`: (n_along, n_line)."""
    left = np.zeros((len(along) - 1, len(across) - 2))
    right = np.zeros_like(left)
    inner = across[1:-1]
    for box in region.boxes:
        c0, c1 = (box[0], box[2]) if axis == 0 else (box[1], box[3])
        a0, a1 = (box[1], box[3]) if axis == 0 else (box[0], box[2])
        width = np.maximum(np.minimum(along[1:], a1) - np.maximum(along[:-1], a0), 0.0)[:, None]
        left += width * ((c0 < inner - 1e-12) & (inner <= c1 + 1e-12))[None, :]
        right += width * ((c0 <= inner + 1e-12) & (inner < c1 - 1e-12))[None, :]
    return np.asarray(np.minimum(left, right))


@lru_cache(maxsize=1024)
def neighbours(region: Region, lines: Lines, sizes: CellSizes | None = None) -> tuple[tuple[Ints, Ints, Floats, Floats], ...]:
    """Return for both axes which columns are linked, a to b, and half their extents over the width of the link."""
    columns = columns_of(region, lines, sizes)
    found = []
    for axis in (0, 1):
        size = columns.box[axis + 2] - columns.box[axis]
        turned = columns.of if axis == 0 else columns.of.T
        along, across = (lines.y, lines.x) if axis == 0 else (lines.x, lines.y)
        if len(across) < 3:
            continue
        width = _crossing(region, along, across, axis)
        a, b = turned[:, :-1], turned[:, 1:]
        linked = (a >= 0) & (b >= 0) & (a != b) & (width > 1e-9)
        a, b, width = summed_pairs(a[linked], b[linked], width[linked])
        found.append((a, b, size[a] / 2 / width, size[b] / 2 / width))
    return tuple(found)


def shared_area(low: Columns, high: Columns, areas: Floats) -> tuple[Ints, Ints, Floats]:
    """Return which columns of two layers lie over each other and with how much area [m²], that of the grid's cells given."""
    there = (low.of >= 0) & (high.of >= 0)
    return summed_pairs(low.of[there], high.of[there], areas[there])


def summed_pairs(a: Ints, b: Ints, values: Floats) -> tuple[Ints, Ints, Floats]:
    """Return every pair once, with the sum of its values."""
    base = int(b.max(initial=0)) + 1
    pairs, which = np.unique(a * base + b, return_inverse=True)
    return (*np.divmod(pairs, base), _summed(which, values, len(pairs)))


def _summed(at: Ints, values: Floats, count: int) -> Floats:
    # Of no values at all the library would make whole numbers.
    return np.asarray(np.bincount(at, values, minlength=count), dtype=np.float64)
