"""Where in the coarse heat model each uncertain number acts, so that those that share no link are moved together.

What each did is told apart by place: A. R. Curtis, M. J. D. Powell, J. K. Reid, IMA Journal of Applied Mathematics 13, 1974.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ashen_bridge.model.resolve import ResolvedBuild
from ashen_bridge.thermal.linearised import LinearSystem
from ashen_bridge.thermal.names import read_name
from ashen_bridge.thermal.reduced import Change
from ashen_bridge.uncertainty.assumptions import Assumption

Mask = np.ndarray
_SAME = 1e-9  # of the largest: what counts as no change outside the places that were named
_NO_HEAT = ("device.fasteners.", "device.sensors.")


class Places:
    """The slabs of a heat model, which of them meet, and which of them a number of a build can change."""

    def __init__(self, system: LinearSystem, resolved: ResolvedBuild, build: str) -> None:
        self._build = build
        self._slabs = {str(name): n for n, name in enumerate(system.grid.slabs)}
        of_cell = np.full(system.n, -1)
        for n, slab in enumerate(system.grid.slabs.values()):
            of_cell[slab.cells] = n
        self._i, self._j, self._of_cell = of_cell[system.i], of_cell[system.j], of_cell
        count = len(self._slabs)
        self._meet = np.eye(count, dtype=bool)
        both = (self._i >= 0) & (self._j >= 0)
        self._meet[self._i[both], self._j[both]] = self._meet[self._j[both], self._i[both]] = True
        self._of_material: dict[str, set[str]] = {}
        for body in resolved.bodies:
            for material in body.made_of:
                self._of_material.setdefault(material, set()).add(body.id)
        pieces = {(joint.id, piece.id): piece for joint in resolved.joints for piece in joint.pieces}
        self._sheets: dict[tuple[str, str], str] = {}
        for name in self._slabs:
            if name.startswith("sheet:"):
                joint, piece = read_name(name).ids
                self._sheets[joint, piece] = name
                self._of_material.setdefault(pieces[joint, piece].material, set()).add(name)

    def of(self, number: Assumption) -> frozenset[int] | None:
        """Return the slabs that a number can change: none for what acts in joints alone; None where it may be any."""
        found: set[str] = set()
        for path in number.paths:
            where = self._of_path(path)
            if where is None:
                return None
            found |= where
        return frozenset(self._slabs[name] for name in found if name in self._slabs)

    def _of_path(self, path: str) -> set[str] | None:
        parts = path.split(".")
        if path.startswith(_NO_HEAT):
            return set()
        if path.startswith("device.bodies."):
            return {parts[2]}
        if path.startswith(f"builds.{self._build}.added."):
            return {parts[3]}
        if path.startswith(f"builds.{self._build}.joints."):
            return {name for (joint, _), name in self._sheets.items() if joint == parts[3]}
        if path.startswith("materials."):
            return self._of_material.get(parts[1], set())
        return None

    def same_sheets(self, one: ResolvedBuild, other: ResolvedBuild) -> bool:
        """Return whether two builds have the same sheets between faces: those of their joints that conduct along themselves."""
        pieces = [
            {(joint.id, piece.id): (piece, build.materials[piece.material]) for joint in build.joints for piece in joint.pieces}
            for build in (one, other)
        ]
        return all(pieces[0].get(key) == pieces[1].get(key) for key in self._sheets)

    def apart(self, numbers: Sequence[Assumption]) -> list[list[int]]:
        """Return groups of numbers, by their place in the list, of which no two act on the same links; those that act on none
        are in no group.
        """
        everywhere = frozenset(self._slabs.values())
        return self._apart([everywhere if where is None else where for where in map(self.of, numbers)])

    def slabs_apart(self) -> list[list[int]]:
        """Return groups of slabs of which no two meet."""
        return self._apart([frozenset((n,)) for n in self._slabs.values()])

    def _apart(self, each: Sequence[frozenset[int]]) -> list[list[int]]:
        groups: list[tuple[Mask, list[int]]] = []  # with all slabs that its members, or who meets them, take
        for n, where in enumerate(each):
            own = self._mask(where)[:-1]
            if not own.any():
                continue
            near = self._meet[own].any(axis=0)
            for taken, members in groups:
                if not (taken & own).any():
                    taken |= near
                    members.append(n)
                    break
            else:
                groups.append((near, [n]))
        return [members for _, members in groups]

    def links(self, where: frozenset[int]) -> Mask:
        """Return which links have an end in some slabs (n_link,)."""
        mask = self._mask(where)
        return np.asarray(mask[self._i] | mask[self._j])

    def split(self, change: Change, each: Sequence[frozenset[int]]) -> list[Change] | None:
        """Return the part of a change that is in the places of each; None where some of it is elsewhere."""
        found = []
        left, rest, right = change.conductance.copy(), change.diagonal.copy(), change.right.copy()
        for where in each:
            on, cells = self.links(where)[change.links], self._mask(where)[self._of_cell]
            found.append(Change(change.links[on], change.conductance[on], change.diagonal * cells, change.right * cells))
            left[on], rest[cells], right[cells] = 0.0, 0.0, 0.0
        for more, whole in ((left, change.conductance), (rest, change.diagonal), (right, change.right)):
            if np.abs(more).max(initial=0.0) > _SAME * np.abs(whole).max(initial=0.0):
                return None
        return found

    def _mask(self, where: frozenset[int]) -> Mask:
        """Return which slabs these are, with one place more for cells of none (-1)."""
        mask = np.zeros(len(self._slabs) + 1, dtype=bool)
        mask[list(where)] = True
        return mask
