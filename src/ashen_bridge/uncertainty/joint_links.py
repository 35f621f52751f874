"""The links that joints and air gaps make in a heat grid, for many mechanical variants at once."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.geometry.scene import Scene
from ashen_bridge.mechanics.assembly import Assembly, ContactPatch
from ashen_bridge.mechanics.contact_state import Stacks, contact_state, gap_rows, mounted_gap
from ashen_bridge.predict.joint_heat import JointNumbers, dispensed, dispensed_piece, joint_numbers, patch_heat
from ashen_bridge.thermal.conductances import ContactCells
from ashen_bridge.thermal.cutting import Ints
from ashen_bridge.thermal.from_scene import facing_name, patch_cells
from ashen_bridge.thermal.linearised import LinearSystem
from ashen_bridge.thermal.names import Name, read_name

_CARRIES = 0.003  # share of all heat from which a gap of air is drawn
_ENOUGH = 8  # places across a gap of air


@dataclass(frozen=True)
class PatchLinks:
    """One patch on the grid: its contact, the places [m] where it is looked at, and which links it adds to.

    `area` [m²] and `link` are per cell of the grid; `place` says which of the places stands for each.
    """

    contact: ContactPatch
    at: int  # number of the contact in the assembly
    x: Floats
    y: Floats
    area: Floats
    link: Ints
    place: Ints
    gap: Floats  # [m] with all coordinates 0
    rows: Floats  # (n_place, n_dof) d gap / d coordinate
    half: int = 0  # how far behind its link that of the other half of the way is, of what goes by a sheet; 0 else


@dataclass(frozen=True)
class Rests:
    """Variants at rest: coordinates (s, n_dof), what is added to the gap at the sample points (s, n_point) and at the columns of
    every patch (s, n_place) [m], and how their stacks differ.
    """

    coordinates: Floats
    points: Floats
    columns: list[Floats]
    stacks: Stacks


class JointLinks:
    """All links that joints make in a linear system, and air gaps that carry heat, with what they conduct in variants.

    `groups` are those of one facing each, numbers into `links`.
    """

    def __init__(self, scene: Scene, assembly: Assembly, system: LinearSystem, rises: Floats) -> None:
        self.scene, self.assembly = scene, assembly
        contacts = {one.contact.name: one for one in system.contacts if one.contact.name is not None}
        joined = [n for n, one in enumerate(assembly.contacts) if _counts(one, contacts, system, rises)]
        names = list(dict.fromkeys(facing_name(assembly.contacts[n].facing) for n in joined))
        kept = [_all_links(contacts[name]) for name in names]
        self.links = np.concatenate(kept).astype(np.intp) if kept else np.zeros(0, dtype=np.intp)
        starts = np.cumsum([0, *(len(one) for one in kept)])
        first = dict(zip(names, starts, strict=False))
        self.groups = [np.arange(start, start + len(one)) for start, one in zip(starts, kept, strict=False)]
        self._of_sheet = {name: _piece_of(one.contact.sheet) for name, one in contacts.items()}
        self.patches: list[PatchLinks] = []
        for n in joined:
            contact = assembly.contacts[n]
            there, area, x, y = patch_cells(contact.patch.region, system.grid.lines)
            columns = contacts[facing_name(contact.facing)].columns
            flat = np.ravel_multi_index(there, system.grid.lines.shape)
            place = np.searchsorted(columns, flat)
            known = (place < len(columns)) & (columns[np.minimum(place, len(columns) - 1)] == flat)
            x, y, standing = _places(contact, x[known], y[known])
            gap = mounted_gap(scene, assembly, contact, np.zeros(assembly.n_dof), x, y)
            matrix = gap_rows(scene, assembly, contact, x, y)
            start, cells = first[facing_name(contact.facing)], contacts[facing_name(contact.facing)]
            column, area = place[known], area[known]
            direct = np.ones(len(column), dtype=bool)
            if self._by_sheet(contact):
                # Both halves of its way, each of twice the conductance, stand behind the direct links; a piece that reaches
                # further than the sheet's cells goes straight across there.
                turn = np.full(len(cells.columns), -1)
                turn[cells.sheeted] = np.arange(len(cells.sheeted))
                direct = turn[column] < 0
                by = ~direct
                link = start + len(cells.columns) + turn[column[by]]
                self._add(PatchLinks(contact, n, x, y, area[by], link, standing[by], gap, matrix, len(cells.sheeted)))
            if direct.any():
                self._add(PatchLinks(contact, n, x, y, area[direct], column[direct] + start, standing[direct], gap, matrix))
        self._half = self.half_of(system)
        self.glow = np.concatenate([_glow(contacts[name], system) for name in names]) if names else np.zeros(0)

    def _add(self, patch: PatchLinks) -> None:
        if len(patch.link):
            self.patches.append(patch)

    def _by_sheet(self, contact: ContactPatch) -> bool:
        """Return whether a patch's heat goes by way of a sheet of cells between its faces."""
        sheet = self._of_sheet[facing_name(contact.facing)]
        return bool(sheet) and any(piece.id == sheet for piece in contact.pieces)

    def half_of(self, system: LinearSystem) -> Floats:
        """Return the resistance of the half cells at both ends of every link [K/W] in a system of the same shape."""
        return np.asarray(1 / system.half[0][self.links] + 1 / system.half[1][self.links])

    def conductance(
        self,
        rests: Rests,
        coverage: Mapping[tuple[str, str], Floats],
        numbers: JointNumbers,
        halves: Floats | float = 1.0,
    ) -> Floats:
        """Return what every link conducts (s, n_link) [W/K].

        Parameters
        ----------
        rests : of the variants. coverage : by (joint, piece), (s, 1). numbers : of the joints, as drawn. halves : factor
        (s, n_link) on the resistance of the cells at both ends.
        """
        total = np.zeros((len(rests.coordinates), len(self.links))) + self.glow
        for patch, shift in zip(self.patches, rests.columns, strict=True):
            mounted = patch.gap + rests.coordinates @ patch.rows.T + shift
            self.lead(total, patch, mounted, rests.stacks.of(patch.at), coverage, numbers)
        return self.through(total, halves)

    def lead(
        self,
        total: Floats,
        patch: PatchLinks,
        mounted: Floats,
        stacks: Stacks,
        coverage: Mapping[tuple[str, str], Floats],
        numbers: JointNumbers,
    ) -> None:
        """Add what one patch conducts to every link (s, n_link) [W/K], where it is mounted at `mounted` (s, n_place) [m]."""
        state = contact_state(patch.contact, mounted, stacks)
        per_area = patch_heat(self.scene, patch.contact, state, coverage, numbers).conductance
        conducts = per_area[:, patch.place] * patch.area  # a patch has each link once
        if patch.half:
            total[:, patch.link] += 2 * conducts
            total[:, patch.link + patch.half] += 2 * conducts
        else:
            total[:, patch.link] += conducts

    def through(self, total: Floats, halves: Floats | float = 1.0) -> Floats:
        """Return what links conduct (s, n_link) [W/K] whose joints conduct `total`, the half cells at both ends in series."""
        return np.asarray(1 / (self._half * halves + 1 / np.maximum(total, 1e-30)))

    def conductance_in(
        self, scene: Scene, assembly: Assembly, coordinates: Floats, coverage: Mapping[tuple[str, str], float], halves: Floats
    ) -> Floats:
        """Return what every link conducts (n_link,) [W/K] in another scene of the same plan, at rest at its `coordinates`."""
        numbers = joint_numbers(scene.resolved)
        total = np.zeros(len(self.links)) + self.glow
        for patch in self.patches:
            contact = assembly.contacts[patch.at]
            gap = scene.free_gap(contact.facing, contact.patch, patch.x, patch.y) + patch.rows @ coordinates
            per_area = patch_heat(scene, contact, contact_state(contact, gap), coverage, numbers).conductance
            conducts = per_area[patch.place] * patch.area  # a patch has each link once
            if patch.half:
                total[patch.link] += 2 * conducts
                total[patch.link + patch.half] += 2 * conducts
            else:
                total[patch.link] += conducts
        return np.asarray(1 / (self._half * halves + 1 / np.maximum(total, 1e-30)))

    def coverage(self, rests: Rests, volume: Mapping[tuple[str, str], Floats]) -> dict[tuple[str, str], Floats]:
        """Return the share of its area that each dispensed volume fills, by (joint, piece): (s, 1).

        `volume` holds factors (s,) on what was dispensed.
        """
        needed: dict[tuple[str, str], Floats] = {}
        there = dispensed(self.scene)
        for n, contact in enumerate(self.assembly.contacts):
            key, at = dispensed_piece(contact)
            if key not in there:
                continue
            part = contact.points
            gap = self.assembly.free_gap[part] + rests.coordinates @ self.assembly.jacobian[part].T
            state = contact_state(contact, gap + rests.points[:, part], rests.stacks.of(n))
            needed[key] = needed.get(key, 0.0) + state.piece_thickness[at] @ self.assembly.weight[part]
        return {
            key: np.minimum(1.0, there[key] * volume.get(key, 1.0) / np.maximum(need, 1e-18))[:, None]
            for key, need in needed.items()
        }


def _piece_of(sheet: str) -> str:
    return read_name(sheet).ids[1] if sheet else ""


def _counts(contact: ContactPatch, contacts: Mapping[Name, ContactCells], system: LinearSystem, rises: Floats) -> bool:
    """Return whether a patch is drawn: of a joint always, of mere air where its facing carries heat worth the name."""
    if contact.facing.joint is not None:
        return True
    part = contacts[facing_name(contact.facing)].edges
    flow = system.conductance[part] * (rises[system.i[part]] - rises[system.j[part]])
    return float(np.abs(flow).sum()) > _CARRIES * float(np.abs(system.right).sum())


def _all_links(contact: ContactCells) -> Ints:
    """Return the direct links of a contact, then those to its sheet, then those from there on."""
    parts = (contact.edges, contact.under, contact.over)
    return np.concatenate([np.arange(part.start, part.stop) for part in parts]).astype(np.intp)


def _places(contact: ContactPatch, x: Floats, y: Floats) -> tuple[Floats, Floats, Ints]:
    """Return where a patch is looked at [m], and which place stands for each of the points x, y.

    Joints are looked at in every cell; wide gaps of air, where nothing bends the law, at some places only.
    """
    if contact.facing.joint is not None or len(x) <= _ENOUGH**2:
        return x, y, np.arange(len(x))
    at_x, at_y, _ = contact.patch.region.points(_ENOUGH)
    nearest = np.argmin((x[:, None] - at_x) ** 2 + (y[:, None] - at_y) ** 2, axis=1)
    return at_x, at_y, nearest


def _glow(contact: ContactCells, system: LinearSystem) -> Floats:
    """Return what radiation, and warmer air, add to every link of a facing at the base's temperatures [W/K]."""
    given = contact.contact
    more = np.zeros(2 * len(contact.sheeted))
    if given.radiation is None or given.gas is None:
        return np.concatenate([np.zeros(len(contact.columns)), more])
    airy = (given.radiation + given.gas).ravel()[contact.columns] > 0
    half = 1 / system.half[0][contact.edges] + 1 / system.half[1][contact.edges]
    across = 1 / np.maximum(1 / system.conductance[contact.edges] - half, 1e-30)
    beside = across - given.conductance.ravel()[contact.columns]
    return np.concatenate([np.where(airy, beside, 0.0), more])
