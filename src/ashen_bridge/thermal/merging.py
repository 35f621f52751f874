"""Columns of a slab that are wider than the grid: where no flux turns, many of the grid's cells are one.

The grid's lines run through the whole device, since tensor grids cannot stop; what they are close for is often far away, or in
another body. Each slab therefore cuts its own plan in two, again and again, until every column is as narrow as is wanted there.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from ashen_bridge.geometry.region import Floats
from ashen_bridge.thermal.lines import GROWTH, Feature, Lines

Labels = npt.NDArray[np.intp]


@dataclass(frozen=True)
class CellSizes:
    """How wide the columns of a layer may be [m]: by features, else `widest`."""

    features: tuple[Feature, ...]
    widest: float


def wanted_sizes(lines: Lines, sizes: CellSizes) -> Floats:
    """Return the width wanted in every cell of the grid (ny, nx) [m]: small at features, growing with the distance from them."""
    x, y = (lines.x[1:] + lines.x[:-1])[None, :] / 2, (lines.y[1:] + lines.y[:-1])[:, None] / 2
    wanted = np.full(lines.shape, sizes.widest)
    for feature in sizes.features:
        x0, y0, x1, y1 = feature.box
        out_x, out_y = np.maximum(np.maximum(x0 - x, x - x1), 0.0), np.maximum(np.maximum(y0 - y, y - y1), 0.0)
        beside = np.sqrt(out_x**2 + out_y**2)
        if np.isfinite(feature.inside):
            wanted = np.minimum(wanted, feature.inside + GROWTH * beside)
        if np.isfinite(feature.edge):
            depth = np.minimum(np.minimum(x - x0, x1 - x), np.minimum(y - y0, y1 - y))
            wanted = np.minimum(wanted, feature.edge + GROWTH * np.where(beside > 0, beside, np.maximum(depth, 0.0)))
    return wanted


def merged_cells(lines: Lines, sizes: CellSizes, part: tuple[int, int, int, int] | None = None) -> Labels:
    """Return for every cell of the grid (ny, nx) the number of the column it belongs to.

    `part` : first and end row, first and end column of the grid's cells that matter; the rest is column 0.
    """
    top, bottom, first, last = part or (0, lines.shape[0], 0, lines.shape[1])
    least = _RangeMinimum(wanted_sizes(lines, sizes)[top:bottom, first:last])
    j0, j1, i0, i1 = (np.array([edge]) for edge in (top, bottom, first, last))
    leaves = []
    while len(j0):
        wanted = least.over(j0 - top, j1 - top, i0 - first, i1 - first)
        wide, deep = lines.x[i1] - lines.x[i0], lines.y[j1] - lines.y[j0]
        can_x, can_y = (i1 - i0 > 1) & (wide > wanted), (j1 - j0 > 1) & (deep > wanted)
        by_x = can_x & ((wide >= deep) | ~can_y)
        by_y = can_y & ~by_x
        done = ~(by_x | by_y)
        leaves.append(np.stack([j0[done], j1[done], i0[done], i1[done]], axis=1))
        cut_x, cut_y = _middle(lines.x, i0[by_x], i1[by_x]), _middle(lines.y, j0[by_y], j1[by_y])
        j0, j1, i0, i1 = (
            np.concatenate([j0[by_x], j0[by_x], j0[by_y], cut_y]),
            np.concatenate([j1[by_x], j1[by_x], cut_y, j1[by_y]]),
            np.concatenate([i0[by_x], cut_x, i0[by_y], i0[by_y]]),
            np.concatenate([cut_x, i1[by_x], i1[by_y], i1[by_y]]),
        )
    labels = np.zeros(lines.shape, dtype=np.intp)
    for number, (low, high, left, right) in enumerate(np.concatenate(leaves).tolist()):
        labels[low:high, left:right] = number
    return labels


def _middle(lines: Floats, start: Labels, end: Labels) -> Labels:
    """Return the inner lines nearest the middles of intervals of lines."""
    middle = (lines[start] + lines[end]) / 2
    cut = np.clip(np.searchsorted(lines, middle), start + 1, end - 1)
    before = np.maximum(cut - 1, start + 1)
    return np.asarray(np.where(middle - lines[before] < lines[cut] - middle, before, cut))


class _RangeMinimum:
    """The least of a picture over many rectangles at once, from tables of the least over squares of powers of two."""

    def __init__(self, values: Floats) -> None:
        ny, nx = values.shape
        tables = [[values]]
        for k in range(1, ny.bit_length()):
            before, half = tables[-1][0], 2 ** (k - 1)
            tables.append([np.minimum(before[:-half], before[half:])])
        for row in tables:
            for k in range(1, nx.bit_length()):
                before, half = row[-1], 2 ** (k - 1)
                row.append(np.minimum(before[:, :-half], before[:, half:]))
        self._table = np.zeros((len(tables), len(tables[0]), ny, nx))
        for row, of_row in zip(self._table, tables, strict=True):
            for place, one in zip(row, of_row, strict=True):
                place[: one.shape[0], : one.shape[1]] = one

    def over(self, j0: Labels, j1: Labels, i0: Labels, i1: Labels) -> Floats:
        """Return the least value over rows j0 to j1 and columns i0 to i1, ends left out, for many of them."""
        log_j, log_i = np.frexp(j1 - j0)[1] - 1, np.frexp(i1 - i0)[1] - 1
        last_j, last_i = j1 - 2**log_j, i1 - 2**log_i
        table = self._table
        corners = (table[log_j, log_i, j, i] for j in (j0, last_j) for i in (i0, last_i))
        return np.minimum.reduce([*corners])
