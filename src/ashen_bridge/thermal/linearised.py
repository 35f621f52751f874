"""A heat model at given temperatures as a plain linear system, whose parts can be changed one by one."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.thermal.columns import ColumnGrid, Edges, make_grid
from ashen_bridge.thermal.conductances import ContactCells, FieldState, FilmCells, all_edges, edges_like, film_cells
from ashen_bridge.thermal.cutting import Ints
from ashen_bridge.thermal.heating import Sources
from ashen_bridge.thermal.parts import Film, Heat, HeatModel


@dataclass(frozen=True)
class InsideNode:
    """Air in a case as one unknown of the system: vented to ambient [K] with some conductance [W/K], 0 if sealed."""

    ambient: float
    vent: float


@dataclass(frozen=True)
class LinearSystem:
    """Links i–j with their conductance [W/K], boundary terms on the diagonal [W/K], right side [W]; unknowns are rises [K].

    half : conductance of the half cells at both ends of the first links [W/K]. The air inside a case, if it is an unknown, is the
    last one.
    """

    i: Ints
    j: Ints
    conductance: Floats
    diagonal: Floats
    right: Floats
    half: tuple[Floats, Floats]
    contacts: tuple[ContactCells, ...]
    grid: ColumnGrid
    edges: Edges
    films: tuple[FilmCells, ...]
    sources: Sources
    heats: tuple[Heat, ...]

    @property
    def n(self) -> int:
        """Number of unknowns."""
        return len(self.diagonal)


def linearised(
    model: HeatModel,
    temperature: Floats,
    reference: float,
    inside: InsideNode | None = None,
    grid: ColumnGrid | None = None,
    like: LinearSystem | None = None,
) -> LinearSystem:
    """Return the linear system of a model whose properties are those at `temperature` [K]; rises count from `reference` [K].

    `grid` is the model's own, if it is known; `like` a system of the same cells and contacts. Temperature-dependent power is in
    it to first order, so that its solution at those temperatures is exact.
    """
    if grid is None and like is not None and _same_slabs(like.grid, model):
        grid = like.grid
    grid = grid or make_grid(model.slabs, model.lines)
    edges, contacts = all_edges(grid, model) if like is None else edges_like((like.grid, like.edges, like.contacts), grid, model)
    acting = [film for film in model.films if film.region]
    films = tuple(film_cells(grid, film) for film in acting) if like is None else _films_like(like, grid, acting)
    state = FieldState(grid, edges, films)
    heats = tuple(model.heats)
    same = like is not None and grid is like.grid and heats == like.heats
    sources = like.sources if like is not None and same else Sources(grid, model)
    made, slope = sources.at(temperature[: grid.n_cell])
    extra = 1 if inside is not None else 0
    diagonal, right = np.zeros(grid.n_cell + extra), np.zeros(grid.n_cell + extra)
    right[: grid.n_cell] = made - slope * (temperature[: grid.n_cell] - reference)
    diagonal[: grid.n_cell] -= slope
    links = [(edges.i, edges.j, state.conductance(temperature[: grid.n_cell]))]
    surfaces = [_surface(state, film, temperature[: grid.n_cell]) for film in films]
    for film, g in zip(films, state.outward(temperature[: grid.n_cell], surfaces), strict=True):
        if inside is not None and film.film.inside:
            links.append((film.cells, np.full(len(film.cells), grid.n_cell), g))
        else:
            np.add.at(diagonal, film.cells, g)
            np.add.at(right, film.cells, g * (film.film.air - reference))
    if inside is not None:
        diagonal[-1] += inside.vent
        right[-1] += inside.vent * (inside.ambient - reference)
    i, j, conductance = (np.concatenate([link[n] for link in links]) for n in range(3))
    half = state.half(temperature[: grid.n_cell])
    return LinearSystem(i, j, conductance, diagonal, right, half, contacts, grid, edges, films, sources, heats)


def _same_slabs(grid: ColumnGrid, model: HeatModel) -> bool:
    """Return whether a grid is that of a model's very slabs."""
    known = grid.slabs.values()
    return (
        grid.lines is model.lines
        and len(known) == len(model.slabs)
        and all(cells.slab is slab for cells, slab in zip(known, model.slabs, strict=True))
    )


def _films_like(like: LinearSystem, grid: ColumnGrid, acting: Sequence[Film]) -> tuple[FilmCells, ...]:
    """Return the cells of films, those taken over that act where one did before: only how far cells are from the face moves."""
    if len(acting) != len(like.films):
        return tuple(film_cells(grid, film) for film in acting)
    found = []
    for film, known in zip(acting, like.films, strict=True):
        was = known.film
        place = film.slab, film.face, film.area_factor
        if place == (was.slab, was.face, was.area_factor) and film.region == was.region:
            now, before = (one.slabs[film.slab].at_face(film.face)[2] for one in (grid, like.grid))
            found.append(replace(known, film=film, f=known.f if now == before else known.f * (now / before)))
        else:
            found.append(film_cells(grid, film))
    return tuple(found)


def _surface(state: FieldState, film: object, temperature: Floats) -> Floats:
    """Return the temperature of a film's face [K], by one fixed-point pass from the cells' own."""
    at = temperature[film.cells]  # type: ignore[attr-defined]
    return state.surface(film, temperature, state.film_conductance(film, temperature, at))  # type: ignore[arg-type]
