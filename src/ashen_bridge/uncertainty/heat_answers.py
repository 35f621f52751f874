"""What each uncertain number does to the coarse heat model when it moves by one standard uncertainty."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.project import Project
from ashen_bridge.model.resolve import ResolvedBuild, resolve
from ashen_bridge.predict.coarse_model import CoarseModel
from ashen_bridge.predict.readings import SensorCells
from ashen_bridge.thermal.cutting import Ints
from ashen_bridge.thermal.linearised import LinearSystem
from ashen_bridge.thermal.reduced import Change, change_between, scaled_change
from ashen_bridge.uncertainty.assumptions import Assumption
from ashen_bridge.uncertainty.directions import Base, HeatChange, bend_of, bounds_of, moved_together
from ashen_bridge.uncertainty.places import Places

_WARMER = 10.0  # [K] by which bodies are warmed to see what that changes


class HeatAnswers:
    """Finds changes of a coarse model, the joints' own links left out: those are worked out from sample to sample."""

    def __init__(self, base: Base, coarse: CoarseModel) -> None:
        self._base, self._coarse, self._system = base, coarse, coarse.system
        self._half = base.joints.half_of(coarse.system)
        self.places = Places(coarse.system, base.scene.resolved, base.build)

    @property
    def joined(self) -> Ints:
        """The links of joints, which no change holds."""
        return self._base.joints.links

    def together(self, numbers: Sequence[Assumption]) -> list[HeatChange] | None:
        """Return what each of some numbers does that share no link, moved all at once; None where that cannot be told apart."""
        places = [self.places.of(number) for number in numbers]
        if any(where is None for where in places):
            return None
        known = [where for where in places if where is not None]
        system = self._moved(numbers, 1.0)
        ups = self.places.split(self._to(system), known)
        bent = [n for n, number in enumerate(numbers) if number.plays.inverse]
        halfway = [known[n] for n in bent]
        # A resistance acts by its inverse, and part of it in series with others: a second point shows how much.
        down = self.places.split(self._to(self._moved([numbers[n] for n in bent], -0.5)), halfway) if bent else []
        if ups is None or down is None:
            return None
        bends = {n: bend_of(ups[n], one, 0.5) for n, one in zip(bent, down, strict=True)}
        halves = self._half / self._base.joints.half_of(system) - 1
        return [
            self._change(up, bends.get(n, 0.0), np.where(self.places.links(where)[self.joined], halves, 0.0))
            for n, (up, where) in enumerate(zip(ups, known, strict=True))
        ]

    def alone(self, number: Assumption) -> HeatChange:
        """Return what a number does; by moving it down where it cannot go up. Raises `AshenError` where it can do neither."""
        for sign in (1.0, -1.0):
            try:
                system = self._moved([number], sign)
            except AshenError as error:
                refusal = error
                continue
            halves = sign * (self._half / self._base.joints.half_of(system) - 1)
            if sign < 0:
                return self._change(scaled_change(self._to(system), -1.0), 0.0, halves)
            up, bend = self._to(system), 0.0
            if number.plays.inverse:
                try:
                    bend = bend_of(up, self._to(self._moved([number], -0.5)), 0.5)
                except AshenError:
                    bend = 0.0
            return self._change(up, bend, halves)
        raise refusal

    def _change(self, up: Change, bend: float, halves: Floats) -> HeatChange:
        bounds = bounds_of(up, self._system.conductance, self._system.diagonal)
        return HeatChange(up, bend, halves if np.abs(halves).max(initial=0.0) > 1e-9 else None, bounds)

    def in_project(self, project: Project) -> tuple[Change, Floats]:
        """Return what a project changes of the heat model, and by which factor the joints' half cells resist more (n_link,)."""
        resolved, point = resolve(project, self._base.build), project.point(self._base.point)
        same = _same(point, self._base.project.point(self._base.point)) and _same_bodies(resolved, self._base.scene.resolved)
        if same and self.places.same_sheets(resolved, self._base.scene.resolved):
            return self._nothing, np.ones(len(self._base.joints.links))
        system = self._coarse.of_device(resolved, point)
        return self._to(system), self._base.joints.half_of(system) / self._half

    def feedback(self) -> list[tuple[SensorCells, Change]]:
        """Return which bodies change the system by getting warmer: their cells, and the change per kelvin."""
        bodies = self._coarse.bodies()
        changes: dict[int, Change] = {}
        for group in self.places.slabs_apart():
            system = self._coarse.warmer(_WARMER, np.concatenate([bodies[n].cells for n in group]))
            whole = scaled_change(self._to(system), 1 / _WARMER)
            parts = self.places.split(whole, [frozenset((n,)) for n in group])
            changes |= zip(group, parts or [], strict=False)
        acting = [n for n, one in sorted(changes.items()) if len(one.links) or np.abs(one.diagonal).max() > 1e-9]
        return [(bodies[n], changes[n]) for n in acting]

    @property
    def _nothing(self) -> Change:
        n = self._system.n
        return Change(np.zeros(0, dtype=np.intp), np.zeros(0), np.zeros(n), np.zeros(n))

    def _to(self, system: LinearSystem) -> Change:
        change = change_between(self._system, system)
        keep = ~np.isin(change.links, self.joined)
        return Change(change.links[keep], change.conductance[keep], change.diagonal, change.right)

    def _moved(self, numbers: Sequence[Assumption], by: float) -> LinearSystem:
        """Return the system with some numbers moved by so many standard uncertainties. Raises `AshenError`."""
        project = moved_together(self._base.project, numbers, by)
        if all(number.paths[0].startswith("points.") for number in numbers):
            return self._coarse.at_point(project.point(self._base.point))
        return self._coarse.of_device(resolve(project, self._base.build))


def _same_bodies(one: ResolvedBuild, other: ResolvedBuild) -> bool:
    """Return whether two builds are made of the same bodies and materials: then they differ in joints and screws only."""
    if len(one.bodies) != len(other.bodies) or not all(map(_same, one.bodies, other.bodies)):
        return False
    names = dict.fromkeys(name for body in one.bodies for name in body.made_of)
    return all(_same(one.materials[name], other.materials[name]) for name in names)


def _same(one: object, other: object) -> bool:
    """Return whether two values are one: the same object as a rule, but not where a project came from another process."""
    return one is other or one == other
