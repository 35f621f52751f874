"""What each uncertain number does to the coarse heat model when it moves by one standard uncertainty."""

from __future__ import annotations

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.project import Project
from ashen_bridge.model.resolve import ResolvedBuild, resolve
from ashen_bridge.predict.coarse_model import CoarseModel
from ashen_bridge.predict.readings import SensorCells
from ashen_bridge.thermal.linearised import LinearSystem
from ashen_bridge.thermal.reduced import Change, change_between, scaled_change
from ashen_bridge.uncertainty.assumptions import Assumption
from ashen_bridge.uncertainty.directions import Base, HeatChange, bend_of, bounds_of, moved_project

_WARMER = 10.0  # [K] by which bodies are warmed to see what that changes


class HeatAnswers:
    """Finds changes of a coarse model, the joints' own links left out: those are worked out from sample to sample."""

    def __init__(self, base: Base, coarse: CoarseModel) -> None:
        self._base, self._coarse, self._system = base, coarse, coarse.system
        self._half = base.joints.half_of(coarse.system)

    def of(self, number: Assumption, project: Project, sign: float) -> HeatChange:
        """Return what a number does that `project` has moved by its uncertainty, upwards for a `sign` of 1.

        Raises `AshenError` for what cannot be computed so.
        """
        system = self._moved(number, project)
        halves = sign * (self._half / self._base.joints.half_of(system) - 1)
        up = self._to(system)
        if sign < 0:
            down = scaled_change(up, -1.0)
            return HeatChange(down, 0.0, halves, bounds_of(down, self._system.conductance, self._system.diagonal))
        bend = 0.0
        if number.plays.inverse:
            # A resistance acts by its inverse, and part of it in series with others: a second point shows how much.
            try:
                half = self._moved(number, moved_project(self._base.project, number, -0.5))
                bend = bend_of(up, self._to(half), 0.5)
            except AshenError:
                bend = 0.0
        bounds = bounds_of(up, self._system.conductance, self._system.diagonal)
        return HeatChange(up, bend, halves if np.abs(halves).max(initial=0.0) > 1e-9 else None, bounds)

    def in_project(self, project: Project) -> tuple[Change, Floats]:
        """Return what a project changes of the heat model, and by which factor the joints' half cells resist more (n_link,)."""
        resolved, point = resolve(project, self._base.build), project.point(self._base.point)
        if _same(point, self._base.project.point(self._base.point)) and _same_bodies(resolved, self._base.scene.resolved):
            return self._nothing, np.ones(len(self._base.joints.links))
        system = self._coarse.of_device(resolved, point)
        return self._to(system), self._base.joints.half_of(system) / self._half

    def feedback(self) -> list[tuple[SensorCells, Change]]:
        """Return which bodies change the system by getting warmer: their cells, and the change per kelvin."""
        found = []
        for cells, system in self._coarse.warmer(_WARMER):
            change = scaled_change(self._to(system), 1 / _WARMER)
            if len(change.links) or np.abs(change.diagonal).max() > 1e-9:
                found.append((cells, change))
        return found

    @property
    def _nothing(self) -> Change:
        n = self._system.n
        return Change(np.zeros(0, dtype=np.intp), np.zeros(0), np.zeros(n), np.zeros(n))

    def _to(self, system: LinearSystem) -> Change:
        change = change_between(self._system, system)
        keep = ~np.isin(change.links, self._base.joints.links)
        return Change(change.links[keep], change.conductance[keep], change.diagonal, change.right)

    def _moved(self, number: Assumption, project: Project) -> LinearSystem:
        if number.paths[0].startswith("points."):
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
