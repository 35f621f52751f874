"""The column grid: in every column of the plan an ordered list of cells of the slabs that are really there.

Lateral links join cells of one layer of one slab only; faces of different slabs meet through contacts. A slab's own edges
need no grid line: a cell is the part of the slab inside its column, with its exact area and extents.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import numpy.typing as npt

from ashen_bridge.geometry.region import Floats, Region
from ashen_bridge.thermal.lines import Lines
from ashen_bridge.thermal.parts import Layer, Slab, cell_areas, cell_extents

Ints = npt.NDArray[np.intp]
_SLIVER = 1e-4  # of a column's area: less is left out


@dataclass(frozen=True)
class SlabCells:
    """The cells of one slab. `column` maps (ny, nx) to 0…n_column−1, −1 where the slab is not; cells count layer by layer."""

    slab: Slab
    first: int
    column: Ints
    area: Floats  # (n_column,) [m²]
    lx: Floats  # extents of the slab in each column [m]
    ly: Floats

    @property
    def n_column(self) -> int:
        """Columns in which the slab is present."""
        return len(self.area)

    @property
    def n_cell(self) -> int:
        """Cells of the slab."""
        return self.n_column * len(self.slab.layers)

    def layer(self, number: int) -> slice:
        """Return the cells of one layer, in column order; −1 is the layer at face 1."""
        number %= len(self.slab.layers)
        return slice(self.first + number * self.n_column, self.first + (number + 1) * self.n_column)

    def at_face(self, face: int) -> tuple[slice, Layer]:
        """Return the cells and the layer next to face 0 or 1."""
        number = -1 if face else 0
        return self.layer(number), self.slab.layers[number]

    def image(self, values: Floats) -> Floats:
        """Return values per column as a picture (ny, nx), NaN where the slab is not."""
        picture = np.full(self.column.shape, np.nan)
        there = self.column >= 0
        picture[there] = values[self.column[there]]
        return picture


@dataclass(frozen=True)
class Edges:
    """Links between cells: G = 1/(fi/ki + 1/g + fj/kj), k of the axis the link runs along.

    i, j : cells. fi, fj : half-cell lengths over area [1/m]. gap : conductance in between [W/K], inf inside a slab.
    radiation : area times effective emissivity across an air gap [m²]. lateral : whether k is the in-plane one.
    """

    i: Ints
    j: Ints
    fi: Floats
    fj: Floats
    gap: Floats
    radiation: Floats
    lateral: npt.NDArray[np.bool_]


@dataclass(frozen=True)
class ColumnGrid:
    """All cells of all slabs with what they conduct and store; links inside the slabs. Independent of joints and films."""

    lines: Lines
    slabs: dict[str, SlabCells]
    n_cell: int
    in_plane: Floats  # (n_cell,) [W/m·K] at 300 K
    through: Floats
    exponent: Floats
    capacity: Floats  # [J/K]
    inner: Edges


def make_grid(slabs: tuple[Slab, ...], lines: Lines) -> ColumnGrid:
    """Return the column grid of `slabs` on `lines`."""
    placed: dict[str, SlabCells] = {}
    first = 0
    for slab in slabs:
        placed[slab.id] = _place(slab, lines, first)
        first += placed[slab.id].n_cell
    in_plane, through, exponent, capacity = (np.zeros(first) for _ in range(4))
    edges: list[Edges] = []
    for cells in placed.values():
        for number, layer in enumerate(cells.slab.layers):
            at = cells.layer(number)
            share = _inlay_share(cells, layer, lines)
            _, in_k, through_k, in_c = layer.inlay or (None, layer.in_plane, layer.through, layer.capacity)
            in_plane[at] = layer.in_plane + share * (in_k - layer.in_plane)
            through[at] = layer.through + share * (through_k - layer.through)
            capacity[at] = (layer.capacity + share * (in_c - layer.capacity)) * layer.thickness * cells.area
            exponent[at] = layer.exponent
        edges += [*_lateral(cells, lines), *_vertical(cells)]
    return ColumnGrid(lines, placed, first, in_plane, through, exponent, capacity, join_edges(edges))


def _place(slab: Slab, lines: Lines, first: int) -> SlabCells:
    return SlabCells(slab, first, *_columns(slab.region, lines))


@lru_cache(maxsize=1024)
def _columns(region: Region, lines: Lines) -> tuple[Ints, Floats, Floats, Floats]:
    """Return which columns a region is in, numbered, its area in them and its extents; kept, so not to be written to."""
    areas = cell_areas(region, lines)
    column_area = np.diff(lines.y)[:, None] * np.diff(lines.x)[None, :]
    there = areas > _SLIVER * column_area
    column = np.full(lines.shape, -1, dtype=np.intp)
    column[there] = np.arange(there.sum())
    x0, y0, x1, y1 = cell_extents(region, lines)
    return column, areas[there], (x1 - x0)[there], (y1 - y0)[there]


def _inlay_share(cells: SlabCells, layer: Layer, lines: Lines) -> Floats:
    if layer.inlay is None:
        return np.zeros(cells.n_column)
    there = cells.column >= 0
    return np.asarray(np.minimum(cell_areas(layer.inlay[0], lines)[there] / cells.area, 1.0))


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
def _neighbours(region: Region, lines: Lines) -> tuple[tuple[Ints, Ints, Floats, Floats], ...]:
    """Return for both axes which columns are linked, a to b, and half their extents over the width of the link."""
    column, _, lx, ly = _columns(region, lines)
    found = []
    for axis, size in ((0, lx), (1, ly)):
        turned = column if axis == 0 else column.T
        along, across = (lines.y, lines.x) if axis == 0 else (lines.x, lines.y)
        if len(across) < 3:
            continue
        width = _crossing(region, along, across, axis)
        a, b = turned[:, :-1], turned[:, 1:]
        linked = (a >= 0) & (b >= 0) & (width > 1e-9)
        a, b, width = a[linked], b[linked], width[linked]
        found.append((a, b, size[a] / 2 / width, size[b] / 2 / width))
    return tuple(found)


def _lateral(cells: SlabCells, lines: Lines) -> list[Edges]:
    edges = []
    for a, b, half_a, half_b in _neighbours(cells.slab.region, lines):
        for number, layer in enumerate(cells.slab.layers):
            start = cells.layer(number).start
            edges.append(_edges(a + start, b + start, half_a / layer.thickness, half_b / layer.thickness, lateral=True))
    return edges


def _vertical(cells: SlabCells) -> list[Edges]:
    edges = []
    columns = np.arange(cells.n_column)
    for number, (low, high) in enumerate(zip(cells.slab.layers, cells.slab.layers[1:], strict=False)):
        i, j = columns + cells.layer(number).start, columns + cells.layer(number + 1).start
        edges.append(_edges(i, j, low.thickness / 2 / cells.area, high.thickness / 2 / cells.area, lateral=False))
    return edges


def _edges(i: Ints, j: Ints, fi: Floats, fj: Floats, lateral: bool) -> Edges:
    n = len(i)
    return Edges(i, j, fi, fj, np.full(n, np.inf), np.zeros(n), np.full(n, lateral))


def join_edges(edges: list[Edges]) -> Edges:
    """Return many sets of links as one."""
    names = ("i", "j", "fi", "fj", "gap", "radiation", "lateral")
    return Edges(*(np.concatenate([getattr(part, name) for part in edges]) for name in names))
