"""Steady temperature field of a heat model: linear solves inside a fixed-point loop over everything that depends on T."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np
from scipy.sparse import csr_matrix
from threadpoolctl import threadpool_limits

from ashen_bridge.geometry.region import Floats
from ashen_bridge.model.errors import AshenError, AssemblyError, Cancelled
from ashen_bridge.thermal.columns import ColumnGrid, Edges, Ints, join_edges, make_grid
from ashen_bridge.thermal.parts import Contact, Film, HeatModel, cell_areas
from ashen_bridge.thermal.solver import Pattern, Preconditioner, make_pattern, solve_linear
from ashen_bridge.thermal.surfaces import STEFAN_BOLTZMANN, radiation_coefficient

MAX_PASSES = 40
TOLERANCE = 1e-8  # relative residual of the last linear solve; earlier passes need less
_LOOSE = 1e-5
SETTLED = 1.5e-3  # [K] change between passes; what is left to change is about a tenth of it


class NotSettledError(AshenError, ArithmeticError):
    """The loop over temperature-dependent properties did not settle."""


@dataclass(frozen=True)
class FilmCells:
    """The cells a film acts on. f : half-cell length over area [1/m]."""

    film: Film
    cells: Ints
    area: Floats
    f: Floats


@dataclass(frozen=True)
class ContactCells:
    """The links a contact became: `edges` addresses the field's edges; one entry per column it has area in."""

    contact: Contact
    edges: slice
    columns: Ints  # flat index into (ny, nx)
    area: Floats


@dataclass(frozen=True)
class HeatField:
    """Result of a steady solve.

    temperature : (n_cell,) [K]. film_power : heat leaving by each film [W], recomputed from temperatures.
    energy_rel : heat made minus heat leaving, over heat made (or over the heat passing through, if none is made).
    """

    grid: ColumnGrid
    temperature: Floats
    edges: Edges
    conductance: Floats
    half: tuple[Floats, Floats]  # conductance of the half cells at both ends of every edge [W/K]
    contacts: tuple[ContactCells, ...]
    films: tuple[FilmCells, ...]
    film_power: Floats
    power: float
    energy_rel: float
    iterations: int
    passes: int
    gap_conductance: Floats = field(repr=False, default_factory=lambda: np.empty(0))


@dataclass
class SteadySolver:
    """Keeps grid, pattern, hierarchy and last field of one mesh, so that a changed joint costs only a warm solve."""

    grid: ColumnGrid | None = None
    _pattern_key: bytes = b""
    _pattern: Pattern | None = None
    _preconditioner: Preconditioner = field(default_factory=Preconditioner)
    _last: Floats | None = None
    solves: int = 0

    def solve(
        self,
        model: HeatModel,
        *,
        tolerance: float = TOLERANCE,
        settled: float = SETTLED,
        cancelled: Callable[[], bool] = lambda: False,
    ) -> HeatField:
        """Return the steady field of `model`.

        Raises
        ------
        AssemblyError
            If heat has no way out of some body.
        NotSettledError, HeatSolverError
            If the loop or the linear solver does not converge.
        """
        # More BLAS threads than one only get in each other's way on vectors of this size.
        with threadpool_limits(limits=1):
            return self._solve(model, tolerance, settled, cancelled)

    def _solve(self, model: HeatModel, tolerance: float, settled: float, cancelled: Callable[[], bool]) -> HeatField:
        if (
            self.grid is None
            or self.grid.lines is not model.lines
            or [c.slab for c in self.grid.slabs.values()] != [*model.slabs]
        ):
            self.grid = make_grid(model.slabs, model.lines)
            self._last = None
            self._preconditioner = Preconditioner()
        grid = self.grid
        edges, contacts = _all_edges(grid, model)
        films = tuple(_film_cells(grid, film) for film in model.films if film.region)
        source = _sources(grid, model)
        pattern = self._pattern_for(grid, edges)
        _check_way_out(grid, edges, films)
        rise = self._last if self._last is not None else np.zeros(grid.n_cell)
        temperature = rise + model.reference
        state = _State(grid, edges, films)
        total = 0
        surface = [temperature[film.cells] for film in films]
        target = max(tolerance, _LOOSE) if state.nonlinear else tolerance
        passes = 0
        while passes < MAX_PASSES:
            passes += 1
            if cancelled():
                raise Cancelled
            outward = [state.film_conductance(film, temperature, at) for film, at in zip(films, surface, strict=True)]
            matrix, right = _system(pattern, state, model, source, films, temperature, outward)
            rise, count = solve_linear(matrix, right, rise, self._preconditioner, target)
            total += count
            change = float(np.abs(rise + model.reference - temperature).max(initial=0.0))
            temperature = rise + model.reference
            surface = [state.surface(film, temperature, g) for film, g in zip(films, outward, strict=True)]
            if target <= tolerance and (change < settled or not state.nonlinear):
                break
            target = max(tolerance, target / 100)
        else:
            raise NotSettledError(f"The temperatures did not settle within {MAX_PASSES} passes (last change {change:.2g} K).")
        self._last = rise
        self.solves += 1
        left = np.array(
            [
                float((state.film_conductance(film, temperature, at) * (temperature[film.cells] - film.film.air)).sum())
                for film, at in zip(films, surface, strict=True)
            ]
        )
        power = float(source.sum())
        scale = max(power, float(np.abs(left).sum()) / 2, 1e-9)
        return HeatField(
            grid,
            temperature,
            edges,
            state.conductance(temperature),
            state.half(temperature),
            contacts,
            films,
            left,
            power,
            abs(power - float(left.sum())) / scale,
            total,
            passes,
            state.gap(temperature),
        )

    def _pattern_for(self, grid: ColumnGrid, edges: Edges) -> Pattern:
        key = edges.i.tobytes() + edges.j.tobytes()
        if self._pattern is None or key != self._pattern_key:
            self._pattern = make_pattern(grid.n_cell, edges.i, edges.j)
            self._pattern_key = key
            self._preconditioner = Preconditioner()
        return self._pattern


def linear_system(model: HeatModel) -> tuple[csr_matrix, Floats]:
    """Return matrix [W/K] and right side [W] of the rises over the model's reference, properties taken at the reference."""
    grid = make_grid(model.slabs, model.lines)
    edges, _ = _all_edges(grid, model)
    films = tuple(_film_cells(grid, film) for film in model.films if film.region)
    temperature = np.full(grid.n_cell, model.reference)
    state = _State(grid, edges, films)
    outward = [state.film_conductance(film, temperature, temperature[film.cells]) for film in films]
    pattern = make_pattern(grid.n_cell, edges.i, edges.j)
    return _system(pattern, state, model, _sources(grid, model), films, temperature, outward)


def _system(
    pattern: Pattern,
    state: _State,
    model: HeatModel,
    source: Floats,
    films: tuple[FilmCells, ...],
    temperature: Floats,
    outward: list[Floats],
) -> tuple[csr_matrix, Floats]:
    diagonal, right = np.zeros(state.grid.n_cell), source.copy()
    for film, g in zip(films, outward, strict=True):
        np.add.at(diagonal, film.cells, g)
        np.add.at(right, film.cells, g * (film.film.air - model.reference))
    return pattern.matrix(state.conductance(temperature), diagonal, state.edges.i, state.edges.j), right


class _State:
    """Temperature-dependent conductances of one field."""

    def __init__(self, grid: ColumnGrid, edges: Edges, films: tuple[FilmCells, ...]) -> None:
        self.grid, self.edges = grid, edges
        self.k0_i = np.where(edges.lateral, grid.in_plane[edges.i], grid.through[edges.i])
        self.k0_j = np.where(edges.lateral, grid.in_plane[edges.j], grid.through[edges.j])
        self.varies = np.flatnonzero(grid.exponent)
        self.glows = np.flatnonzero(edges.radiation)
        self.nonlinear = bool(len(self.varies) or len(self.glows) or any(film.film.emissivity for film in films))

    def factor(self, temperature: Floats) -> Floats:
        """Return k(T)/k(300 K) per cell."""
        factor = np.ones(self.grid.n_cell)
        factor[self.varies] = (temperature[self.varies] / 300.0) ** self.grid.exponent[self.varies]
        return factor

    def gap(self, temperature: Floats) -> Floats:
        gap = self.edges.gap.copy()
        g = self.glows
        mean = (temperature[self.edges.i[g]] + temperature[self.edges.j[g]]) / 2
        gap[g] += self.edges.radiation[g] * 4 * STEFAN_BOLTZMANN * mean**3
        return gap

    def half(self, temperature: Floats) -> tuple[Floats, Floats]:
        factor = self.factor(temperature)
        with np.errstate(divide="ignore"):
            return self.k0_i * factor[self.edges.i] / self.edges.fi, self.k0_j * factor[self.edges.j] / self.edges.fj

    def conductance(self, temperature: Floats) -> Floats:
        half_i, half_j = self.half(temperature)
        return 1 / (1 / half_i + 1 / np.maximum(self.gap(temperature), 1e-30) + 1 / half_j)

    def film_conductance(self, film: FilmCells, temperature: Floats, surface: Floats) -> Floats:
        """Return cell-to-air conductance [W/K] with radiation at the present surface temperature."""
        total = film.film.coefficient + radiation_coefficient(surface, film.film.air, film.film.emissivity)
        k = self.grid.through[film.cells] * (temperature[film.cells] / 300.0) ** self.grid.exponent[film.cells]
        if film.film.coefficient <= 0 and film.film.emissivity <= 0:
            return np.zeros(len(film.cells))
        return np.asarray(1 / (film.f / k + 1 / (total * film.area)))

    def surface(self, film: FilmCells, temperature: Floats, conductance: Floats) -> Floats:
        k = self.grid.through[film.cells] * (temperature[film.cells] / 300.0) ** self.grid.exponent[film.cells]
        return np.asarray(temperature[film.cells] - conductance * (temperature[film.cells] - film.film.air) * film.f / k)


def _all_edges(grid: ColumnGrid, model: HeatModel) -> tuple[Edges, tuple[ContactCells, ...]]:
    parts = [grid.inner]
    contacts = []
    at = len(grid.inner.i)
    for contact in model.contacts:
        one, other = grid.slabs[contact.slabs[0]], grid.slabs[contact.slabs[1]]
        linked = np.flatnonzero((contact.area.ravel() > 0) & (one.column.ravel() >= 0) & (other.column.ravel() >= 0))
        area = contact.area.ravel()[linked]
        (cells_i, layer_i), (cells_j, layer_j) = one.at_face(contact.faces[0]), other.at_face(contact.faces[1])
        radiation = contact.radiation.ravel()[linked] if contact.radiation is not None else np.zeros(len(linked))
        parts.append(
            Edges(
                cells_i.start + one.column.ravel()[linked],
                cells_j.start + other.column.ravel()[linked],
                layer_i.thickness / 2 / area,
                layer_j.thickness / 2 / area,
                contact.conductance.ravel()[linked],
                radiation,
                np.zeros(len(linked), dtype=bool),
            )
        )
        contacts.append(ContactCells(contact, slice(at, at + len(linked)), linked, area))
        at += len(linked)
    return join_edges(parts), tuple(contacts)


def _film_cells(grid: ColumnGrid, film: Film) -> FilmCells:
    slab = grid.slabs[film.slab]
    areas = np.where(slab.column >= 0, cell_areas(film.region, grid.lines), 0.0)
    there = areas > 1e-12
    cells, layer = slab.at_face(film.face)
    area = areas[there] * film.area_factor
    return FilmCells(film, cells.start + slab.column[there], area, layer.thickness / 2 / area)


def _sources(grid: ColumnGrid, model: HeatModel) -> Floats:
    source = np.zeros(grid.n_cell)
    for heat in model.heats:
        slab = grid.slabs[heat.slab]
        there = slab.column >= 0
        area = slab.area if heat.region is None else cell_areas(heat.region, grid.lines)[there]
        thickness = np.array([slab.slab.layers[number].thickness for number in heat.layers])
        for number, share in zip(heat.layers, thickness / thickness.sum(), strict=True):
            source[slab.layer(number)] += heat.power * share * area / area.sum()
    return source


def _check_way_out(grid: ColumnGrid, edges: Edges, films: tuple[FilmCells, ...]) -> None:
    """Raise for a body from which no chain of links leads to air."""
    names = list(grid.slabs)
    owner = (
        np.concatenate([np.full(cells.n_cell, at) for at, cells in enumerate(grid.slabs.values())]) if names else np.empty(0, int)
    )
    reached = {
        names[owner[film.cells[0]]]
        for film in films
        if len(film.cells) and (film.film.coefficient > 0 or film.film.emissivity > 0)
    }
    crossing = np.flatnonzero((owner[edges.i] != owner[edges.j]) & ((edges.gap > 0) | (edges.radiation > 0)))
    pairs = {
        (names[a], names[b])
        for a, b in set(zip(owner[edges.i[crossing]].tolist(), owner[edges.j[crossing]].tolist(), strict=True))
    }
    while True:
        more = {b for a, b in pairs if a in reached} | {a for a, b in pairs if b in reached}
        if more <= reached:
            break
        reached |= more
    for name in names:
        if name not in reached and grid.slabs[name].n_cell:
            raise AssemblyError(f"Heat has no way out of '{name}': give it a joint, a sink or air to lose heat to.", (name,))
