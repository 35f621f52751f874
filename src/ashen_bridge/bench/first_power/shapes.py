"""How what a fault adds grows with time: its end by a field at rest, its growth by the course of one of its like.

A pad that misses lets its part warm by itself, a bond line that opened the die. Parts alike warm alike: one course for each
kind of part says how fast, each fault's own end how far.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.bench.diagnosis.hypotheses import Hypothesis, hypotheses
from ashen_bridge.model.bodies import Component, ComponentRole
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.project import Project
from ashen_bridge.predict.course import Course
from ashen_bridge.predict.engine import Engine
from ashen_bridge.predict.patterns import Pattern, Watch
from ashen_bridge.thermal.transient import Stage

MINUTES = 5.0
TIMES_S = (10.0, 20.0, 30.0, 45.0, 60.0, 90.0, 120.0, 180.0, 240.0, 300.0)
KINDS = ("touch", "worn", "film", "loose", "held", "oneside", "thick", "fan")
"""What can go wrong while a device is closed: kinds of the diagnosis; a fan that is not plugged in is one that hardly turns."""
_MOVED_K, _TOLERANCE_K = 0.5, 0.2  # ends below which nothing is learnt of a growth; error of a step


def course_of(engine: Engine, project: Project, build: str, point: str, *, bring: bool) -> Course:
    """Return the first minutes at full power from idle air, at the times that are looked at."""
    pattern = Pattern(0.0, (Stage(MINUTES * 60.0, 1.0),))
    return engine.transient(project, build, point, pattern, watch=Watch(TIMES_S, _TOLERANCE_K), bring=bring).asked()


class Shapes:
    """What faults add to the healthy course of some sensors (by label), on the coarse field."""

    def __init__(self, engine: Engine, project: Project, build: str, point: str, labels: Sequence[str], healthy: Course) -> None:
        self._engine, self._project, self._at = engine, project, (build, point)
        self._labels, self._healthy = list(labels), healthy
        self._column = [healthy.sensors.index(label) for label in labels]
        sensors = {one.label: one for one in project.device.sensors}
        self._sensors = [sensors[label] for label in labels]
        self._ends = self._shown(project)
        rises = healthy.values_c[:, self._column] - healthy.values_c[0, self._column].min()
        whole = healthy.steady_c[self._column] - healthy.values_c[0, self._column].min()
        self._usual: Floats = np.clip(rises / np.maximum(whole, 1e-6), 0.0, 1.0)
        self.listed: tuple[Hypothesis, ...] = tuple(one for one in hypotheses(project, build, point) if one.kind in KINDS)
        self._grown: dict[str, tuple[Floats, Floats]] = {}
        here = project.build(build)
        bodies = project.bodies_known(here)
        self._lower = {joint.id: joint.lower for joint in here.joints}
        self._dies = {one.id for one in bodies.values() if isinstance(one, Component) and one.role is ComponentRole.DIE}

    def shifts(self, one: Hypothesis) -> Floats:
        """Return by how much sensors would show more (n_size, n_time, n_sensor) [K]; no sizes where it cannot be computed."""
        found = []
        own = self._own(one)
        mine, others = self._growth(one)
        growth = np.where(own, mine[:, None], np.maximum(others, 0.0))
        for value in _sizes(one):
            try:
                ends = self._shown(one.applied(self._project, value)) - self._ends
            except AshenError:
                continue
            found.append(growth * ends)
        return np.array(found)

    def _shown(self, project: Project) -> Floats:
        rows = {row.name: row.value_c for row in self._engine.shown(project, *self._at)[0]}
        return np.array([rows[label] for label in self._labels])

    def _own(self, one: Hypothesis) -> np.ndarray:
        """Return which sensors sit on what warms by itself: the part under the joint, else the die."""
        joint = one.about.rpartition(".")[2] if ".joints." in one.about else ""
        parts = set(self._lower.get(joint, ())) or self._dies
        return np.array([sensor.body in parts for sensor in self._sensors])

    def _growth(self, one: Hypothesis) -> tuple[Floats, Floats]:
        """Return how what it adds grows to its end: on its own part (n_time,), and elsewhere (n_time, n_sensor)."""
        like = self._kind_of(one)
        if like not in self._grown:
            self._grown[like] = self._learnt(one)
        return self._grown[like]

    def _kind_of(self, one: Hypothesis) -> str:
        if one.kind == "fan":
            return one.id
        if one.kind in ("touch", "film"):
            joint = one.about.rpartition(".")[2]
            group = self._project.group_of(joint)
            return f"part {group.id if group is not None else joint}"
        return "die"

    def _learnt(self, one: Hypothesis) -> tuple[Floats, Floats]:
        """Return the growth by a whole course with the fault; the healthy one where it tells nothing."""
        usual = self._usual.mean(axis=1), self._usual
        try:
            moved = course_of(self._engine, one.applied(self._project, one.worst), *self._at, bring=False)
        except AshenError:
            return usual
        ends = (moved.steady_c - self._healthy.steady_c)[self._column]
        grown = (moved.values_c - self._healthy.values_c)[:, self._column]
        share = np.where(np.abs(ends) > _MOVED_K, grown / np.where(np.abs(ends) > _MOVED_K, ends, 1.0), self._usual)
        share = np.clip(share, 0.0, 1.0)
        own = self._own(one) & (np.abs(ends) > _MOVED_K)
        return (share[:, own].mean(axis=1) if own.any() else usual[0]), share


def _sizes(one: Hypothesis) -> tuple[float, ...]:
    if one.all_or_nothing:
        return (one.worst,)
    if one.healthy > 0 and one.worst > one.healthy:  # a factor: half of the way is its root
        return float(np.sqrt(one.healthy * one.worst)), one.worst
    return (one.healthy + one.worst) / 2, one.worst
