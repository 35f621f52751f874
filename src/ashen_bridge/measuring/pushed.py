"""How the gaps of one build answer to every number by itself, by its own equilibrium, many states in one batch.

Alike numbers are moved together once and told apart by the contacts that are theirs.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.mechanics.contact_state import contact_state
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.project import Project
from ashen_bridge.uncertainty.assumptions import Assumption, assumptions
from ashen_bridge.uncertainty.directions import Base, Directions, Moved, moved_by, side_by_side, still
from ashen_bridge.uncertainty.resting import at_rest
from ashen_bridge.uncertainty.variants import drawn_variants

if TYPE_CHECKING:
    from ashen_bridge.predict.engine import Engine

Key = tuple[str, str]
"""A joint, and the lower body it reaches."""
_CHUNK = 250


class Pushed:
    """The gaps of one build in states of its numbers."""

    def __init__(self, engine: Engine, project: Project, build: str, numbers: Sequence[Assumption]) -> None:
        half = engine.rest(project, build, None)
        self._base = Base(project, build, "", half.scene, half.assembly, half.coordinates)
        self._numbers = {one.paths[0]: n for n, one in enumerate(numbers)}
        self._count = len(numbers)
        point = project.points[0].id if project.points else ""
        self._alike = [one for one in assumptions(project, build, point) if set(one.paths) & self._numbers.keys()]
        self._of: dict[Key, list[int]] = {}
        for n, contact in enumerate(half.assembly.contacts):
            if contact.facing.joint is not None:
                self._of.setdefault((contact.facing.joint, contact.facing.lower), []).append(n)
        for key, members in self._of.items():
            self._of[key] = [n for n in members if half.assembly.contacts[n].pieces] or members

    @property
    def keys(self) -> tuple[Key, ...]:
        """The gaps, in the order of `gaps`."""
        return tuple(self._of)

    def prepare(self) -> Iterator[float]:
        """Find out what every number does, yielding progress."""
        moved = [still(self._base) for _ in range(self._count)]
        for at, one in enumerate(self._alike):
            yield at / len(self._alike)
            for path, part in self._parts(one):
                if path in self._numbers:
                    moved[self._numbers[path]] = part
        self._answers: Directions = side_by_side(self._base, moved, {})

    def _parts(self, one: Assumption) -> list[tuple[str, Moved]]:
        """Return what each path of an assumption does."""
        try:
            together = moved_by(self._base, one)
        except AshenError:
            return []
        if len(one.paths) == 1:
            return [(one.paths[0], together)]
        parts = [(path, self._part(together, path)) for path in one.paths]
        if _adds_up([part for _, part in parts], together):
            return parts
        # What is shared in ways that contacts do not show: each by itself.
        found = []
        for path in one.paths:
            try:
                found.append((path, moved_by(self._base, replace(one, paths=(path,)))))
            except AshenError:
                continue
        return found

    def _part(self, together: Moved, path: str) -> Moved:
        """Return what is of one path among alike ones."""
        a = self._base.assembly
        own = np.array([self._owns(path, n) for n in range(len(a.contacts))], dtype=bool)
        ramps = np.array([f".{a.fasteners[ramp.fastener]}." in path for ramp in a.ramps], dtype=bool)
        volume = {key: more for key, more in together.volume.items() if f".joints.{key[0]}." in path}
        return Moved(
            np.where(own[a.point_patch], together.gap, 0.0),
            [],
            np.where(own, together.scale, 0.0),
            np.where(own, together.firmness, 0.0),
            np.where(own, together.softness, 0.0),
            np.where(ramps, together.ramp_shift, 0.0),
            np.where(ramps, together.ramp_scale, 0.0),
            np.zeros_like(together.stiffness),
            volume,
        )

    def _owns(self, path: str, n: int) -> bool:
        """Return whether a contact is the business of a number: its joint, its landing, or what stands on its body."""
        contact, steps = self._base.assembly.contacts[n], path.split(".")
        if "landings" in steps:
            return contact.patch.landing == steps[steps.index("landings") + 1]
        if "joints" in steps:
            return contact.facing.joint == steps[steps.index("joints") + 1]
        if steps[:2] == ["device", "bodies"] or "added" in steps:
            body = steps[steps.index("added") + 1] if "added" in steps else steps[2]
            return body == contact.facing.upper or body in self._carriers(contact.facing.lower)
        return False

    def _carriers(self, body: str) -> Iterator[str]:
        """Yield a body and what it stands on."""
        while body in self._base.scene.bodies:
            yield body
            body = self._base.scene.bodies[body].model.on

    def gaps(self, x: Floats) -> Floats:
        """Return the gaps (s, n_gap) [mm] in states of the numbers (s, n_number), NaN where one does not come to rest."""
        a = self._base.assembly
        found = np.full((len(x), len(self._of)), np.nan)
        for first in range(0, len(x), _CHUNK):
            drawn = x[first : first + _CHUNK]
            made = drawn_variants(a, self._answers, drawn)
            coordinates, fine = at_rest(self._base, made.variants, made.shift, np.asarray(made.stacks.softness))
            shift, stacks = made.shift[fine], made.stacks.rows(fine)
            for k, members in enumerate(self._of.values()):
                total = np.zeros(len(coordinates))
                for n in members:
                    part = a.contacts[n].points
                    mounted = a.free_gap[part] + coordinates @ a.jacobian[part].T + shift[:, part]
                    total += contact_state(a.contacts[n], mounted, stacks.of(n)).gap @ a.weight[part]
                area = sum(float(a.weight[a.contacts[n].points].sum()) for n in members)
                found[np.flatnonzero(fine) + first, k] = 1e3 * total / area
        return found


def _adds_up(parts: Sequence[Moved], together: Moved) -> bool:
    for name in ("gap", "scale", "firmness", "softness", "ramp_shift", "ramp_scale", "stiffness"):
        whole = np.asarray(getattr(together, name))
        left = whole - sum(np.asarray(getattr(part, name)) for part in parts)
        if np.abs(left).max(initial=0.0) > 1e-9 * np.abs(whole).max(initial=0.0):
            return False
    return True
