"""What conducts at a temperature: links inside and between slabs, and from faces to air."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ashen_bridge.geometry.region import Floats
from ashen_bridge.thermal.columns import ColumnGrid, Edges, Ints, join_edges
from ashen_bridge.thermal.parts import Contact, Film, HeatModel, Link, cell_areas
from ashen_bridge.thermal.surfaces import STEFAN_BOLTZMANN, radiation_coefficient


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


class FieldState:
    """Temperature-dependent conductances of one field."""

    def __init__(self, grid: ColumnGrid, edges: Edges, films: tuple[FilmCells, ...]) -> None:
        self.grid, self.edges, self.films = grid, edges, films
        self.k0_i = np.where(edges.lateral, grid.in_plane[edges.i], grid.through[edges.i])
        self.k0_j = np.where(edges.lateral, grid.in_plane[edges.j], grid.through[edges.j])
        self.varies = np.flatnonzero(grid.exponent)
        self.glows = np.flatnonzero(edges.radiation)
        self.nonlinear = bool(len(self.varies) or len(self.glows) or any(film.film.emissivity or film.film.law for film in films))

    def factor(self, temperature: Floats) -> Floats:
        """Return k(T)/k(300 K) per cell."""
        factor = np.ones(self.grid.n_cell)
        factor[self.varies] = (temperature[self.varies] / 300.0) ** self.grid.exponent[self.varies]
        return factor

    def gap(self, temperature: Floats) -> Floats:
        """Return the conductance between the half cells of every link [W/K], radiation across air included."""
        gap = self.edges.gap.copy()
        g = self.glows
        mean = (temperature[self.edges.i[g]] + temperature[self.edges.j[g]]) / 2
        gap[g] += self.edges.radiation[g] * 4 * STEFAN_BOLTZMANN * mean**3
        return gap

    def half(self, temperature: Floats) -> tuple[Floats, Floats]:
        """Return the conductance of the half cells at both ends of every link [W/K]."""
        factor = self.factor(temperature)
        with np.errstate(divide="ignore"):
            return self.k0_i * factor[self.edges.i] / self.edges.fi, self.k0_j * factor[self.edges.j] / self.edges.fj

    def conductance(self, temperature: Floats) -> Floats:
        """Return the conductance of every link [W/K]."""
        half_i, half_j = self.half(temperature)
        return 1 / (1 / half_i + 1 / np.maximum(self.gap(temperature), 1e-30) + 1 / half_j)

    def outward(self, temperature: Floats, surface: list[Floats]) -> list[Floats]:
        """Return the conductance to air [W/K] of every cell under every film."""
        return [self.film_conductance(film, temperature, at) for film, at in zip(self.films, surface, strict=True)]

    def film_conductance(self, film: FilmCells, temperature: Floats, surface: Floats) -> Floats:
        """Return cell-to-air conductance [W/K] with radiation at the present surface temperature."""
        convected = film.film.coefficient
        if film.film.law is not None and len(film.area):
            convected = film.film.law(float(surface @ film.area / film.area.sum()) - film.film.air)
        total = convected + radiation_coefficient(surface, film.film.air, film.film.emissivity)
        k = self.grid.through[film.cells] * (temperature[film.cells] / 300.0) ** self.grid.exponent[film.cells]
        if convected <= 0 and film.film.emissivity <= 0:
            return np.zeros(len(film.cells))
        return np.asarray(1 / (film.f / k + 1 / (total * film.area)))

    def surface(self, film: FilmCells, temperature: Floats, conductance: Floats) -> Floats:
        """Return the temperature of the face under a film [K], half a cell beyond the cell's middle."""
        k = self.grid.through[film.cells] * (temperature[film.cells] / 300.0) ** self.grid.exponent[film.cells]
        return np.asarray(temperature[film.cells] - conductance * (temperature[film.cells] - film.film.air) * film.f / k)


def all_edges(grid: ColumnGrid, model: HeatModel) -> tuple[Edges, tuple[ContactCells, ...]]:
    """Return all links of a model, those inside the slabs first, and where each contact's are among them."""
    parts = [grid.inner, *(link_edges(grid, link) for link in model.links)]
    contacts = []
    at = sum(len(part.i) for part in parts)
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


def link_edges(grid: ColumnGrid, link: Link) -> Edges:
    """Return the links of heat pipes: between neighbouring cells along their run, as conductances of their own."""
    cells, lines = grid.slabs[link.slab], grid.lines
    share = cell_areas(link.region, lines)
    column = cells.column
    if link.axis == 1:
        share, column = share.T, column.T
    middle = (lines.x[1:] + lines.x[:-1]) / 2 if link.axis == 0 else (lines.y[1:] + lines.y[:-1]) / 2
    size = np.diff(lines.x if link.axis == 0 else lines.y)
    wide = share / size[None, :]  # width of the region in each row of each column [m]
    both = np.minimum(wide[:, :-1], wide[:, 1:])
    a, b = column[:, :-1], column[:, 1:]
    there = (a >= 0) & (b >= 0) & (both > 1e-9)
    total = np.maximum(np.where(there, both, 0.0).sum(axis=0), 1e-12)
    conductance = link.strength * both / total[None, :] / np.diff(middle)[None, :]
    start = cells.layer(len(cells.slab.layers) // 2).start
    n = int(there.sum())
    near = np.full(n, 1e-9)
    return Edges(
        (a[there] + start).astype(np.intp),
        (b[there] + start).astype(np.intp),
        near,
        near,
        conductance[there],
        np.zeros(n),
        np.ones(n, dtype=bool),
    )


def film_cells(grid: ColumnGrid, film: Film) -> FilmCells:
    """Return the cells a film acts on."""
    slab = grid.slabs[film.slab]
    areas = np.where(slab.column >= 0, cell_areas(film.region, grid.lines), 0.0)
    there = areas > 1e-12
    cells, layer = slab.at_face(film.face)
    area = areas[there] * film.area_factor
    return FilmCells(film, cells.start + slab.column[there], area, layer.thickness / 2 / area)
