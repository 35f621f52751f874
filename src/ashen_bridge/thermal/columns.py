"""The column grid: in every column of the plan an ordered list of cells of the slabs that are really there.

Lateral links join cells of one layer of one slab only; faces of different slabs meet through contacts. A slab's own edges
need no grid line: a cell is the part of the slab inside its column, with its exact area and extents. Each layer has columns as
wide as it may, so layers of one slab meet where their columns overlap.
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
import numpy.typing as npt

from ashen_bridge.arrays import Floats
from ashen_bridge.thermal.cutting import Columns, Ints, columns_of, neighbours, shared_area
from ashen_bridge.thermal.lines import Lines
from ashen_bridge.thermal.parts import Layer, Slab, cell_areas


@dataclass(frozen=True)
class SlabCells:
    """The cells of one slab, layer by layer. `columns` are those of each layer, `starts` (n_layer + 1,) where its cells begin."""

    slab: Slab
    columns: tuple[Columns, ...]
    starts: tuple[int, ...]

    @property
    def cells(self) -> slice:
        """All cells of the slab."""
        return slice(self.starts[0], self.starts[-1])

    @property
    def n_cell(self) -> int:
        """Cells of the slab."""
        return self.starts[-1] - self.starts[0]

    @property
    def volume(self) -> Floats:
        """Volume of every cell (n_cell,) [m³]."""
        layers = zip(self.columns, self.slab.layers, strict=True)
        return np.concatenate([columns.area * layer.thickness for columns, layer in layers])

    def layer(self, number: int) -> slice:
        """Return the cells of one layer, in the order of its columns; −1 is the layer at face 1."""
        number %= len(self.slab.layers)
        return slice(self.starts[number], self.starts[number + 1])

    def at_face(self, face: int) -> tuple[Columns, int, float]:
        """Return the columns next to face 0 or 1, the first cell there, and how far temperatures are from the face [m]."""
        number = -1 if face else 0
        layer = self.slab.layers[number]
        return self.columns[number], self.layer(number).start, layer.above if face else layer.below

    def picture(self, number: int, field: Floats) -> Floats:
        """Return a field (of all cells) in one layer as a picture (ny, nx), NaN where the slab is not."""
        return self.columns[number].image(field[self.layer(number)])


@dataclass(frozen=True)
class Edges:
    """Links between cells: G = 1/(fi/ki + 1/g + fj/kj), k of the axis the link runs along.

    i, j : cells. fi, fj : half-cell lengths over area [1/m]. gap : conductance in between [W/K], inf inside a slab.
    radiation : area times effective emissivity across an air gap [m²]. lateral : whether k is the in-plane one. gas : what of the
    conductance in between is that of a gas [W/K], going with T to the power `gas_exponent`.
    """

    i: Ints
    j: Ints
    fi: Floats
    fj: Floats
    gap: Floats
    radiation: Floats
    lateral: npt.NDArray[np.bool_]
    gas: Floats
    gas_exponent: Floats


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


@dataclass(frozen=True, eq=False)
class _Part:
    """One slab by itself: columns of each layer, where their cells begin, what they conduct and store, links between them."""

    columns: tuple[Columns, ...]
    starts: Ints
    in_plane: Floats
    through: Floats
    exponent: Floats
    capacity: Floats
    inner: Edges


def make_grid(slabs: tuple[Slab, ...], lines: Lines) -> ColumnGrid:
    """Return the column grid of `slabs` on `lines`."""
    placed: dict[str, SlabCells] = {}
    parts, begins = [], []
    first = 0
    for slab in slabs:
        part = _part(slab, lines)
        placed[slab.id] = SlabCells(slab, part.columns, tuple(int(start) for start in first + part.starts))
        parts.append(part)
        begins.append(first)
        first += int(part.starts[-1])
    names = ("in_plane", "through", "exponent", "capacity")
    in_plane, through, exponent, capacity = (np.concatenate([getattr(part, name) for part in parts]) for name in names)
    inner = _joined([part.inner for part in parts], begins)
    return ColumnGrid(lines, placed, first, in_plane, through, exponent, capacity, inner)


def _joined(parts: Sequence[Edges], begins: Sequence[int]) -> Edges:
    """Return the links of parts together, their cells counted from where each part begins."""
    joined = join_edges(parts)
    more = np.repeat(np.array(begins, dtype=joined.i.dtype), [len(part.i) for part in parts])
    return replace(joined, i=joined.i + more, j=joined.j + more)


@lru_cache(maxsize=128)
def _part(slab: Slab, lines: Lines) -> _Part:
    """Return a slab's own part of a grid, with cells counted from 0; kept, so not to be written to."""
    columns = tuple(columns_of(slab.region, lines, layer.sizes) for layer in slab.layers)
    starts = np.cumsum([0, *(one.n for one in columns)])
    in_plane, through, exponent, capacity = (np.zeros(int(starts[-1])) for _ in range(4))
    for number, (layer, under) in enumerate(zip(slab.layers, columns, strict=True)):
        at = slice(int(starts[number]), int(starts[number + 1]))
        share = _inlay_share(under, layer, lines)
        _, in_k, through_k, in_c = layer.inlay or (None, layer.in_plane, layer.through, layer.capacity)
        in_plane[at] = layer.in_plane + share * (in_k - layer.in_plane)
        through[at] = layer.through + share * (through_k - layer.through)
        capacity[at] = (layer.capacity + share * (in_c - layer.capacity)) * layer.thickness * under.area
        exponent[at] = layer.exponent
        for inlay in layer.inlays:
            part = np.minimum(under.gathered(cell_areas(inlay.region, lines)) / under.area, 1.0)
            in_plane[at] += part * (inlay.in_plane - in_plane[at])
            through[at] += part * (inlay.through - through[at])
            capacity[at] += part * (inlay.capacity * layer.thickness * under.area - capacity[at])
    alone = SlabCells(slab, columns, tuple(int(start) for start in starts))
    inner = join_edges([*_lateral(alone, lines), *_vertical(alone, lines)])
    return _Part(columns, starts, in_plane, through, exponent, capacity, inner)


def _inlay_share(columns: Columns, layer: Layer, lines: Lines) -> Floats:
    if layer.inlay is None:
        return np.zeros(columns.n)
    return np.asarray(np.minimum(columns.gathered(cell_areas(layer.inlay[0], lines)) / columns.area, 1.0))


def _lateral(cells: SlabCells, lines: Lines) -> list[Edges]:
    edges = []
    for number, layer in enumerate(cells.slab.layers):
        start = cells.layer(number).start
        for a, b, half_a, half_b in neighbours(cells.slab.region, lines, layer.sizes):
            edges.append(_edges(a + start, b + start, half_a / layer.thickness, half_b / layer.thickness, lateral=True))
    return edges


def _vertical(cells: SlabCells, lines: Lines) -> list[Edges]:
    edges = []
    areas = cell_areas(cells.slab.region, lines)
    layers = cells.slab.layers
    for number, (low, high) in enumerate(itertools.pairwise(layers)):
        below, above = cells.columns[number], cells.columns[number + 1]
        if below is above:
            i, j, area = np.arange(below.n), np.arange(below.n), below.area
        else:
            i, j, area = shared_area(below, above, areas)
        first, second = cells.layer(number).start, cells.layer(number + 1).start
        edges.append(_edges(i + first, j + second, low.above / area, high.below / area, lateral=False))
    return edges


def _edges(i: Ints, j: Ints, fi: Floats, fj: Floats, lateral: bool) -> Edges:
    n = len(i)
    return Edges(i, j, fi, fj, np.full(n, np.inf), np.zeros(n), np.full(n, lateral), np.zeros(n), np.zeros(n))


def join_edges(edges: Sequence[Edges]) -> Edges:
    """Return many sets of links as one."""
    names = ("i", "j", "fi", "fj", "gap", "radiation", "lateral", "gas", "gas_exponent")
    return Edges(*(np.concatenate([getattr(part, name) for part in edges]) for name in names))
