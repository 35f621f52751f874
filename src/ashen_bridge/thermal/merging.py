"""Columns of a slab that are wider than the grid: where no flux turns, many of the grid's cells are one.

The grid's lines run through the whole device, since tensor grids cannot stop; what they are close for is often far away, or in
another body. Each slab therefore cuts its own plan in two, again and again, until every column is as narrow as is wanted there.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from ashen_bridge.arrays import Floats
from ashen_bridge.thermal.lines import GROWTH, Feature, Lines

Labels = npt.NDArray[np.intp]
_SLACK, _ALIKE = 1 + 1e-6, 1e-6  # lengths that differ by rounding only are the same


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
        wanted = least.over(j0 - top, j1 - top, i0 - first, i1 - first) * _SLACK
        wide, deep = lines.x[i1] - lines.x[i0], lines.y[j1] - lines.y[j0]
        can_x, can_y = (i1 - i0 > 1) & (wide > wanted), (j1 - j0 > 1) & (deep > wanted)
        # Squares are cut both ways, so that a device that is turned or mirrored is cut alike.
        by_x = can_x & ((wide * _SLACK >= deep) | ~can_y)
        by_y = can_y & ((deep * _SLACK >= wide) | ~can_x)
        done = ~(by_x | by_y)
        leaves.append(np.stack([j0[done], j1[done], i0[done], i1[done]], axis=1))
        left, which = _halves(lines.x, i0, i1, by_x, np.flatnonzero(~done))
        low, again = _halves(lines.y, j0[which], j1[which], by_y[which], np.arange(len(which)))
        i0, i1 = left[again].T
        j0, j1 = low.T
    labels = np.zeros(lines.shape, dtype=np.intp)
    for number, (low_j, high_j, low_i, high_i) in enumerate(np.concatenate(leaves).tolist()):
        labels[low_j:high_j, low_i:high_i] = number
    return labels


def _halves(lines: Floats, start: Labels, end: Labels, cut: npt.NDArray[np.bool_], kept: Labels) -> tuple[Labels, Labels]:
    """Return intervals of lines (n, 2) into which those of `kept` are cut, or not, and of which each is a part.

    An interval is cut at the inner line nearest its middle; at both where two are as near, so that it is the same from both ends.
    """
    whole, halved = kept[~cut[kept]], kept[cut[kept]]
    a, b = start[halved], end[halved]
    middle = (lines[a] + lines[b]) / 2
    after = np.clip(np.searchsorted(lines, middle), a + 1, b - 1)
    before = np.maximum(after - 1, a + 1)
    to_before, to_after = np.abs(middle - lines[before]), np.abs(lines[after] - middle)
    alike = np.abs(to_before - to_after) < _ALIKE * (lines[b] - lines[a])
    first = np.where(alike | (to_before < to_after), before, after)
    last = np.where(alike | (to_after < to_before), after, before)
    between = first < last
    parts = [(start[whole], end[whole], whole), (a, first, halved), (last, b, halved)]
    parts.append((first[between], last[between], halved[between]))
    found = [np.concatenate(column) for column in zip(*parts, strict=True)]
    return np.stack(found[:2], axis=1), found[2]


class _RangeMinimum:
    """The least of a picture over many rectangles at once, from tables of the least over squares of powers of two."""

    def __init__(self, values: Floats) -> None:
        ny, nx = values.shape
        table = np.zeros((ny.bit_length(), nx.bit_length(), ny, nx))
        table[0, 0] = values
        for k in range(1, len(table)):
            half = 2 ** (k - 1)
            table[k, 0, :-half] = np.minimum(table[k - 1, 0, :-half], table[k - 1, 0, half:])
        for k in range(1, table.shape[1]):
            half = 2 ** (k - 1)
            table[:, k, :, :-half] = np.minimum(table[:, k - 1, :, :-half], table[:, k - 1, :, half:])
        self._table = table

    def over(self, j0: Labels, j1: Labels, i0: Labels, i1: Labels) -> Floats:
        """Return the least value over rows j0 to j1 and columns i0 to i1, ends left out, for many of them."""
        log_j, log_i = np.frexp(j1 - j0)[1] - 1, np.frexp(i1 - i0)[1] - 1
        last_j, last_i = j1 - 2**log_j, i1 - 2**log_i
        table = self._table
        corners = (table[log_j, log_i, j, i] for j in (j0, last_j) for i in (i0, last_i))
        return np.asarray(np.minimum.reduce([*corners]))
