"""What conducts at a temperature: links inside and between slabs, and from faces to air."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.thermal.columns import ColumnGrid, Edges, join_edges
from ashen_bridge.thermal.cutting import Ints
from ashen_bridge.thermal.parts import Contact, Film, HeatModel, Link, cell_areas
from ashen_bridge.thermal.surfaces import GAS_REFERENCE, STEFAN_BOLTZMANN, radiation_coefficient


@dataclass(frozen=True)
class FilmCells:
    """The cells a film acts on. f : half-cell length over area [1/m]."""

    film: Film
    cells: Ints
    area: Floats
    f: Floats


@dataclass(frozen=True)
class ContactCells:
    """The links a contact became: `edges` addresses the field's edges; one entry per column it has area in.

    `under` and `over` are those to and from the sheet between its faces, of the columns numbered `sheeted`.
    """

    contact: Contact
    edges: slice
    columns: Ints  # flat index into (ny, nx)
    area: Floats
    sheeted: Ints = field(default_factory=lambda: np.zeros(0, dtype=np.intp))
    under: slice = field(default_factory=lambda: slice(0, 0))
    over: slice = field(default_factory=lambda: slice(0, 0))


class FieldState:
    """Temperature-dependent conductances of one field."""

    def __init__(self, grid: ColumnGrid, edges: Edges, films: tuple[FilmCells, ...]) -> None:
        self.grid, self.edges, self.films = grid, edges, films

    # Worked out when first asked for: who looks at one film needs none of it.

    @cached_property
    def k0_i(self) -> Floats:
        """Conductivity at 300 K at the first end of every link, along it [W/m·K]."""
        return np.where(self.edges.lateral, self.grid.in_plane[self.edges.i], self.grid.through[self.edges.i])

    @cached_property
    def k0_j(self) -> Floats:
        """The same at its second end."""
        return np.where(self.edges.lateral, self.grid.in_plane[self.edges.j], self.grid.through[self.edges.j])

    @cached_property
    def varies(self) -> Ints:
        """Cells whose conductivity depends on temperature."""
        return np.flatnonzero(self.grid.exponent)

    @cached_property
    def glows(self) -> Ints:
        """Links across which faces radiate."""
        return np.flatnonzero(self.edges.radiation)

    @cached_property
    def gassy(self) -> Ints:
        """Links across a gas."""
        return np.flatnonzero(self.edges.gas)

    @property
    def nonlinear(self) -> bool:
        """Whether anything depends on temperature."""
        lively = any(film.film.emissivity or film.film.law for film in self.films)
        return bool(len(self.varies) or len(self.glows) or len(self.gassy) or lively)

    def factor(self, temperature: Floats) -> Floats:
        """Return k(T)/k(300 K) per cell."""
        factor = np.ones(self.grid.n_cell)
        factor[self.varies] = (temperature[self.varies] / 300.0) ** self.grid.exponent[self.varies]
        return factor

    def gap(self, temperature: Floats) -> Floats:
        """Return the conductance between the half cells of every link [W/K], radiation across air included.

        A gas conducts by the mean of the temperatures on its two sides.
        """
        gap = self.edges.gap.copy()
        a = self.gassy
        warm = (temperature[self.edges.i[a]] + temperature[self.edges.j[a]]) / (2 * GAS_REFERENCE)
        gap[a] += self.edges.gas[a] * (warm ** self.edges.gas_exponent[a] - 1)
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
        (on_i, first_i, to_i), (on_j, first_j, to_j) = one.at_face(contact.faces[0]), other.at_face(contact.faces[1])
        linked = np.flatnonzero((contact.area.ravel() > 0) & (on_i.of.ravel() >= 0) & (on_j.of.ravel() >= 0))
        area = contact.area.ravel()[linked]
        nothing = np.zeros(len(linked))
        radiation, gas = (kind.ravel()[linked] if kind is not None else nothing for kind in (contact.radiation, contact.gas))
        parts.append(
            Edges(
                first_i + on_i.of.ravel()[linked],
                first_j + on_j.of.ravel()[linked],
                to_i / area,
                to_j / area,
                contact.conductance.ravel()[linked],
                radiation,
                np.zeros(len(linked), dtype=bool),
                gas,
                np.full(len(linked), contact.gas_exponent),
            )
        )
        made = ContactCells(contact, slice(at, at + len(linked)), linked, area)
        at += len(linked)
        if contact.through is not None:
            halves, sheeted = _by_sheet(grid, contact, linked)
            parts += halves
            count = len(sheeted)
            made = replace(made, sheeted=sheeted, under=slice(at, at + count), over=slice(at + count, at + 2 * count))
            at += 2 * count
        contacts.append(made)
    return join_edges(parts), tuple(contacts)


def edges_like(
    before: tuple[ColumnGrid, Edges, tuple[ContactCells, ...]], grid: ColumnGrid, model: HeatModel
) -> tuple[Edges, tuple[ContactCells, ...]]:
    """Return all links of a model that has the cells and contacts of one `before`, with other numbers: as `all_edges` does."""
    old_grid, old, known = before
    inner = join_edges([grid.inner, *(link_edges(grid, link) for link in model.links)])
    at = len(inner.i)
    fi, fj = np.concatenate([inner.fi, old.fi[at:]]), np.concatenate([inner.fj, old.fj[at:]])
    gap, gas = np.concatenate([inner.gap, old.gap[at:]]), np.concatenate([inner.gas, old.gas[at:]])
    contacts = []
    for contact, cells in zip(model.contacts, known, strict=True):
        lower, upper = (
            grid.slabs[name].at_face(face)[2] / old_grid.slabs[name].at_face(face)[2]
            for name, face in zip(contact.slabs, contact.faces, strict=True)
        )
        fi[cells.edges] *= lower
        fj[cells.edges] *= upper
        fi[cells.under] *= lower
        fj[cells.over] *= upper
        if contact.through is not None:
            middle = grid.slabs[contact.sheet].at_face(0)[2] / old_grid.slabs[contact.sheet].at_face(0)[2]
            fj[cells.under] *= middle
            fi[cells.over] *= middle
        if contact is not cells.contact:
            gap[cells.edges] = contact.conductance.ravel()[cells.columns]
        contacts.append(cells if contact is cells.contact else replace(cells, contact=contact))
    joined = replace(old, fi=fi, fj=fj, gap=gap, gas=gas, lateral=np.concatenate([inner.lateral, old.lateral[at:]]))
    return joined, tuple(contacts)


def _by_sheet(grid: ColumnGrid, contact: Contact, linked: Ints) -> tuple[list[Edges], Ints]:
    """Return the links from the lower face to a contact's sheet and from there to the upper, and which columns have them."""
    assert contact.through is not None  # who calls this looked
    sheet = grid.slabs[contact.sheet]
    on, first, to = sheet.at_face(0)
    through = contact.through.ravel()[linked]
    sheeted = np.flatnonzero((through > 0) & (on.of.ravel()[linked] >= 0))
    columns, area = linked[sheeted], contact.area.ravel()[linked[sheeted]]
    middle = first + on.of.ravel()[columns]
    parts = []
    for number, name in enumerate(contact.slabs):
        face, start, distance = grid.slabs[name].at_face(contact.faces[number])
        ends = ((start + face.of.ravel()[columns], distance / area), (middle, to / area))
        (i, fi), (j, fj) = ends if number == 0 else ends[::-1]
        nothing = np.zeros(len(columns))
        across = np.zeros(len(columns), dtype=bool)
        parts.append(Edges(i, j, fi, fj, 2 * through[sheeted], nothing, across, nothing, nothing))
    return parts, sheeted


def link_edges(grid: ColumnGrid, link: Link) -> Edges:
    """Return the links of heat pipes: between neighbouring cells along their run, as conductances of their own."""
    cells, lines = grid.slabs[link.slab], grid.lines
    number = len(cells.slab.layers) // 2
    columns = cells.columns[number]
    share = cell_areas(link.region, lines)
    column = columns.of
    if link.axis == 1:
        share, column = share.T, column.T
    size = np.diff(lines.x if link.axis == 0 else lines.y)
    wide = share / size[None, :]  # width of the region in each row of each column [m]
    both = np.minimum(wide[:, :-1], wide[:, 1:])
    a, b = column[:, :-1], column[:, 1:]
    there = (a >= 0) & (b >= 0) & (a != b) & (both > 1e-9)
    # What runs between two columns runs from the middle of one to the middle of the other.
    middle = columns.middle(link.axis)
    distance = middle[b[there]] - middle[a[there]]
    total = np.maximum(np.where((a >= 0) & (b >= 0), both, 0.0).sum(axis=0), 1e-12)
    across = np.broadcast_to(total[None, :], there.shape)[there]
    conductance = link.strength * both[there] / across / distance
    start = cells.layer(number).start
    n = int(there.sum())
    near = np.full(n, 1e-9)
    return Edges(
        (a[there] + start).astype(np.intp),
        (b[there] + start).astype(np.intp),
        near,
        near,
        conductance,
        np.zeros(n),
        np.ones(n, dtype=bool),
        np.zeros(n),
        np.zeros(n),
    )


def film_cells(grid: ColumnGrid, film: Film) -> FilmCells:
    """Return the cells a film acts on."""
    columns, first, distance = grid.slabs[film.slab].at_face(film.face)
    areas = columns.gathered(cell_areas(film.region, grid.lines))
    there = np.flatnonzero(areas > 1e-12)
    area = areas[there] * film.area_factor
    return FilmCells(film, first + there, area, distance / area)
