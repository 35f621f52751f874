"""How the gaps of one build answer to every number by itself, by its own equilibrium, many states in one batch.

Alike numbers are moved together once and told apart by the contacts that are theirs.
"""

from __future__ import annotations

import hashlib
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.mechanics.assembly import Assembly
from ashen_bridge.mechanics.contact_state import contact_state
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.project import Project
from ashen_bridge.predict.fingerprint import shown_hash
from ashen_bridge.uncertainty.assumptions import Assumption, assumptions
from ashen_bridge.uncertainty.directions import Base, Directions, Moved, moved_by, side_by_side, still
from ashen_bridge.uncertainty.resting import at_rest
from ashen_bridge.uncertainty.variants import drawn_variants

if TYPE_CHECKING:
    from ashen_bridge.predict.engine import Engine

Key = tuple[str, str]
"""A joint, and the lower body it reaches."""
_CHUNK = 250


@dataclass(frozen=True)
class Shapes:
    """Gaps in some states (s, n_gap) [mm]: their means, by how much the right edge is wider than the left and the upper than the
    lower, how thick the sheets in them are before they are squashed, the share of each that is pressed, and where the centre of
    pressure is from its middle (0 where nothing presses).
    """

    gap_mm: Floats
    across_x_mm: Floats
    across_y_mm: Floats
    free_mm: Floats
    pressed: Floats
    centre_x_mm: Floats
    centre_y_mm: Floats


class Pushed:
    """The gaps of one build in states of its numbers."""

    def __init__(self, engine: Engine, project: Project, build: str, numbers: Sequence[Assumption]) -> None:
        half = engine.rest(project, build, None)
        self._base = Base(project, build, "", half.scene, half.assembly, half.coordinates)
        self._numbers = {one.paths[0]: n for n, one in enumerate(numbers)}
        # A device of which nothing is uncertain has one number that does nothing.
        self._count = max(len(numbers), 1)
        point = project.points[0].id if project.points else ""
        self._alike = [one for one in assumptions(project, build, point) if set(one.paths) & self._numbers.keys()]
        self._of: dict[Key, list[int]] = {}
        for n, contact in enumerate(half.assembly.contacts):
            if contact.facing.joint is not None:
                self._of.setdefault((contact.facing.joint, contact.facing.lower), []).append(n)
        for key, members in self._of.items():
            self._of[key] = [n for n in members if half.assembly.contacts[n].pieces] or members

    @classmethod
    def preparing(
        cls, engine: Engine, project: Project, build: str, numbers: Sequence[Assumption]
    ) -> Iterator[tuple[float, Pushed | None]]:
        """Yield (progress, None) and at the end (1, the gaps of a build, ready); one that was kept comes at once."""
        said = repr([(one.paths, one.value, one.uncertainty, one.shares) for one in numbers])
        point = project.points[0].id if project.points else None
        key = f"pushed {shown_hash(project, build, point)} {hashlib.sha1(said.encode(), usedforsecurity=False).hexdigest()}"
        made = engine.workings.get(key)
        if not isinstance(made, cls):
            made = cls(engine, project, build, numbers)
            for progress in made.prepare():
                yield progress, None
            engine.workings.keep(key, made)
        yield 1.0, made

    @property
    def size(self) -> float:
        """About what it takes [bytes]."""
        return 8.0 * self._count * (len(self._base.assembly.x) + 2000) + 1e6

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
        return self.shapes(x).gap_mm

    def shapes(self, x: Floats) -> Shapes:
        """Return gaps, how they change across, and what thickness lies in them, in states of the numbers (s, n_number)."""
        a = self._base.assembly
        x = x if x.shape[1] else np.zeros((len(x), self._count))
        found = np.full((7, len(x), len(self._of)), np.nan)
        flats = [_flat(a, members) for members in self._of.values()]
        for first in range(0, len(x), _CHUNK):
            drawn = x[first : first + _CHUNK]
            made = drawn_variants(a, self._answers, drawn)
            coordinates, fine = at_rest(self._base, made.variants, made.shift, np.asarray(made.stacks.softness))
            shift, stacks = made.shift[fine], made.stacks.rows(fine)
            rows = np.flatnonzero(fine) + first
            for k, members in enumerate(self._of.values()):
                moments, free, pressed = (
                    np.zeros((3, len(coordinates))),
                    np.zeros(len(coordinates)),
                    np.zeros((4, len(coordinates))),
                )
                for n, flat in zip(members, flats[k], strict=True):
                    part = a.contacts[n].points
                    mounted = a.free_gap[part] + coordinates @ a.jacobian[part].T + shift[:, part]
                    state = contact_state(a.contacts[n], mounted, stacks.of(n))
                    moments += flat @ state.gap.T
                    weight = a.weight[part]
                    pressed += np.stack(
                        [
                            np.asarray(state.touching, dtype=float) @ weight,
                            state.pressure @ weight,
                            state.pressure @ (weight * a.x[part]),
                            state.pressure @ (weight * a.y[part]),
                        ]
                    )
                    sheets = sum(one.thickness_mm.value for one in a.contacts[n].pieces if one.thickness_mm is not None)
                    scale = np.broadcast_to(np.asarray(stacks.of(n).scale), (len(coordinates), 1))[:, 0]
                    free += sheets * scale * float(a.weight[part].sum())
                area, middle = _middle(a, members)
                found[:3, rows, k] = 1e3 * moments
                found[3, rows, k] = free / area
                found[4, rows, k] = pressed[0] / area
                force = np.maximum(pressed[1], 1e-12)
                for way in (0, 1):
                    off = np.where(pressed[1] > 0, pressed[2 + way] / force - middle[way], 0.0)
                    found[5 + way, rows, k] = 1e3 * off
        return Shapes(*found)


def _middle(a: Assembly, members: Sequence[int]) -> tuple[float, tuple[float, float]]:
    """Return the area of some contacts together [m²], and their middle [m]."""
    parts = [a.contacts[n].points for n in members]
    area = sum(float(a.weight[part].sum()) for part in parts)
    x, y = (sum(float(a.weight[part] @ one[part]) for part in parts) / area for one in (a.x, a.y))
    return area, (x, y)


def _flat(a: Assembly, members: Sequence[int]) -> list[Floats]:
    """Return for each contact of a gap what turns gaps at its points into their mean and how they change across (3, n_point).

    It is the plane that fits best, weighed by area, over the widths that the contacts have together.
    """
    parts = [a.contacts[n].points for n in members]
    x, y, weight = (np.concatenate([np.asarray(one[part]) for part in parts]) for one in (a.x, a.y, a.weight))
    area = weight.sum()
    across = [one - float(weight @ one) / area for one in (x, y)]
    widths = [max(float(np.ptp(one)), 1e-9) for one in (x, y)]
    columns = np.stack([np.ones(len(x)), *(one / width for one, width in zip(across, widths, strict=True))], axis=1)
    fit = np.linalg.pinv(columns * np.sqrt(weight)[:, None]) * np.sqrt(weight)
    fit[0] = weight / area
    ends = np.cumsum([0, *(part.stop - part.start for part in parts)])
    return [fit[:, ends[n] : ends[n + 1]] for n in range(len(parts))]


def _adds_up(parts: Sequence[Moved], together: Moved) -> bool:
    for name in ("gap", "scale", "firmness", "softness", "ramp_shift", "ramp_scale", "stiffness"):
        whole = np.asarray(getattr(together, name))
        left = whole - sum(np.asarray(getattr(part, name)) for part in parts)
        if np.abs(left).max(initial=0.0) > 1e-9 * np.abs(whole).max(initial=0.0):
            return False
    return True
