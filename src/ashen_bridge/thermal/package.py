"""Resolved packages: effective conductivities of mould cap and ball layer that reproduce the stated resistances."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
from scipy.optimize import brentq
from scipy.sparse.linalg import splu

from ashen_bridge.arrays import Floats
from ashen_bridge.geometry.region import Region
from ashen_bridge.model.errors import AssemblyError
from ashen_bridge.thermal.columns import ColumnGrid, Edges, make_grid
from ashen_bridge.thermal.conductances import FilmCells, film_cells
from ashen_bridge.thermal.cutting import Ints
from ashen_bridge.thermal.heating import sources
from ashen_bridge.thermal.layering import BALLS, CAP, layered
from ashen_bridge.thermal.lines import Lines
from ashen_bridge.thermal.merging import CellSizes
from ashen_bridge.thermal.parts import Film, Heat, HeatModel, Layer, Slab
from ashen_bridge.thermal.solver import Pattern, Preconditioner, make_pattern, solve_linear
from ashen_bridge.words.numbers import short

_ISOTHERMAL = 1e9  # [W/m²·K]: a face held at the temperature of its air
_CLOSE = 2e-6  # relative miss of a resistance
_DIRECT = 6000  # cells up to which a direct solve is quicker
_TURNS, _SETTLED = 4, 1e-3
_RANGE = (math.log(1e-3), math.log(2e3))


@dataclass(frozen=True)
class PackageShape:
    """Sizes [m] and the active layer's conductivity [W/m·K] of one kind of package."""

    width: float
    depth: float
    active_width: float
    active_depth: float
    balls: float
    active: float
    cap: float
    active_conductivity: float


@dataclass(frozen=True)
class PackageFit:
    """Effective conductivities [W/m·K]."""

    mould: float
    balls: float


@dataclass(frozen=True)
class PackageMesh:
    """The mesh a package is fitted on: lines from its lower-left corner, widths of columns, halvings of its layers.

    It is that of the package in its device, so that what the mesh costs is inside the fit: at every fineness the package shows
    the resistances it is said to have.
    """

    lines: Lines
    sizes: CellSizes
    halvings: int


@lru_cache(maxsize=256)
def fit_package(shape: PackageShape, junction_to_case: float, junction_to_board: float, mesh: PackageMesh) -> PackageFit:
    """Return the conductivities with which a fully covered package shows both resistances [K/W], hottest junction point.

    Raises
    ------
    AssemblyError
        If no conductivity between 0.001 and 2000 W/m·K does.
    """
    active = shape.active_width * shape.active_depth
    mould, balls = shape.cap / (active * junction_to_case), shape.balls / (active * junction_to_board)

    def to_case(k: float) -> float:
        return _alone(shape, mesh, True).resistance(k, balls)

    def to_board(k: float) -> float:
        return _alone(shape, mesh, False).resistance(mould, k)

    # Each spreads a little of the other's heat, so they are found in turn.
    for _ in range(_TURNS):
        mould = _find(to_case, junction_to_case, "junction-to-case", mould)
        before, balls = balls, _find(to_board, junction_to_board, "junction-to-board", balls)
        if abs(math.log(balls / before)) < _SETTLED:
            break
    return PackageFit(mould, balls)


def _find(resistance: Callable[[float], float], wanted: float, what: str, guess: float) -> float:
    def miss(log_k: float) -> float:
        return math.log(resistance(math.exp(log_k)) / wanted)

    low, high = _RANGE
    found = _secant(miss, math.log(guess), low, high)
    if found is not None:
        return math.exp(found)
    if miss(low) < 0 or miss(high) > 0:
        raise AssemblyError(
            f"A {what} resistance of {short(wanted)} K/W cannot be had from a package of this size "
            f"({short(resistance(math.exp(high)), 2)} to {short(resistance(math.exp(low)), 2)} K/W can)."
        )
    return math.exp(float(brentq(miss, low, high, xtol=1e-5)))


def _secant(miss: Callable[[float], float], start: float, low: float, high: float) -> float | None:
    """Return where a function that falls about like −x vanishes; None if a secant does not get there between the bounds."""
    before, at = start, start + miss(start)
    miss_before = at - start
    for _ in range(10):
        if not low < at < high:
            return None
        now = miss(at)
        if abs(now) < _CLOSE or abs(at - before) < 1e-5:
            return at
        if now == miss_before:
            return None
        before, at, miss_before = at, at - now * (at - before) / (now - miss_before), now
    return None


@dataclass(frozen=True, eq=False)
class _Alone:
    """A package alone on its mesh, one face held at the temperature of its air, a watt in its active layer.

    Its cells conduct by `base` + `mould`·k + `balls`·k, each (2, n_cell) in plane and through.
    """

    base: Floats
    mould: Floats
    balls: Floats
    edges: Edges
    pattern: Pattern
    film: FilmCells
    made: Floats
    active: Ints

    def resistance(self, mould: float, balls: float) -> float:
        """Return junction to face [K/W], at the hottest point of the junction."""
        in_plane, through = self.base + mould * self.mould + balls * self.balls
        one, lateral = self.edges, self.edges.lateral
        k_i, k_j = (np.where(lateral, in_plane[end], through[end]) for end in (one.i, one.j))
        conductance = 1 / (one.fi / k_i + 1 / one.gap + one.fj / k_j)
        held, diagonal = self.film, np.zeros(len(through))
        np.add.at(diagonal, held.cells, 1 / (held.f / through[held.cells] + 1 / (_ISOTHERMAL * held.area)))
        matrix = self.pattern.matrix(conductance, diagonal, one.i, one.j)
        # Nothing in it depends on temperature. Where it is small a direct solve is quickest; refined ones it would take minutes.
        if len(self.made) > _DIRECT:
            rise, _ = solve_linear(matrix, self.made, None, Preconditioner(), 1e-9)
        else:
            rise = splu(matrix.tocsc()).solve(self.made)
        return float(rise[self.active].max())


@lru_cache(maxsize=128)
def _alone(shape: PackageShape, mesh: PackageMesh, top: bool) -> _Alone:
    """Return a package of some shape alone on its mesh."""
    region = Region(((0.0, 0.0, shape.width, shape.depth),))

    def conducts(mould: float, balls: float) -> tuple[Floats, ColumnGrid]:
        bare, _ = package_slab("package", region, shape, PackageFit(mould, balls), (0.0, 0.0), mesh.halvings)
        slab = replace(bare, layers=tuple(replace(layer, sizes=mesh.sizes) for layer in bare.layers))
        grid = make_grid((slab,), mesh.lines)
        return np.stack([grid.in_plane, grid.through]), grid

    base, grid = conducts(0.0, 0.0)
    slab, active = package_slab("package", region, shape, PackageFit(1.0, 1.0), (0.0, 0.0), mesh.halvings)
    inlay = slab.layers[active[0]].inlay
    assert inlay is not None  # package_slab always makes one
    heat = Heat("package", active, 1.0, inlay[0])
    film = film_cells(grid, Film("package", 1 if top else 0, region, _ISOTHERMAL, 0.0))
    made = sources(grid, HeatModel(mesh.lines, tuple(one.slab for one in grid.slabs.values()), (), (), (heat,), reference=0.0))
    cells = grid.slabs["package"]
    at = np.concatenate([np.arange(cells.layer(number).start, cells.layer(number).stop) for number in active])
    mould, balls = conducts(1.0, 0.0)[0] - base, conducts(0.0, 1.0)[0] - base
    pattern = make_pattern(grid.n_cell, grid.inner.i, grid.inner.j)
    return _Alone(base, mould, balls, grid.inner, pattern, film, made, at)


def package_slab(
    name: str, region: Region, shape: PackageShape, fit: PackageFit, capacity: tuple[float, float], halvings: int = 0
) -> tuple[Slab, tuple[int, ...]]:
    """Return a package as a slab, and which of its layers make the heat: balls, active layer with its own outline, mould cap.

    capacity : ρc [J/m³·K] of mould and of the active material. Every layer is halved `halvings` times.
    """
    cx, cy = region.centre
    half_w, half_d = shape.active_width / 2, shape.active_depth / 2
    inlay = Region(((cx - half_w, cy - half_d, cx + half_w, cy + half_d),))
    k = shape.active_conductivity
    mould, active = capacity
    below = [Layer(cut.thickness, fit.balls, fit.balls, mould) for cut in layered(shape.balls, BALLS, halvings, faces=False)]
    within = [
        Layer(cut.thickness, fit.mould, fit.mould, mould, inlay=(inlay, k, k, active))
        for cut in layered(shape.active, (1.0,), halvings, faces=False)
    ]
    above = [Layer(cut.thickness, fit.mould, fit.mould, mould) for cut in layered(shape.cap, CAP, halvings, faces=False)]
    return Slab(name, region, (*below, *within, *above)), tuple(range(len(below), len(below) + len(within)))
