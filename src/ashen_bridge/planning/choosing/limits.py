"""Which temperatures must not be passed: the goals of the user where there are some, else the limits of the device."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.model.project import Project
from ashen_bridge.thermal.names import skin


@dataclass(frozen=True)
class Bound:
    """A sensor, or a skin, and what it must not pass [°C]."""

    sensor: str
    label: str
    at_most_c: float


def bounds(project: Project, point: str, sensors: Sequence[str]) -> tuple[Bound, ...]:
    """Return what binds those sensors that matter, all if none is named; of several for one, the lowest."""
    wanted: dict[str, float] = {}
    for goal in project.goals:
        if goal.point in (None, point):
            wanted[goal.sensor] = min(goal.at_most_c.value, wanted.get(goal.sensor, np.inf))
    for limit in project.device.limits:
        name = limit.sensor or (str(skin(limit.body)) if limit.place == "skin" and limit.body else "")
        if name:
            wanted[name] = min(limit.max_c.value, wanted.get(name, np.inf))
    touch = project.aims.skin_c
    labels = {one.id: one.label for one in project.device.sensors}
    labels |= {str(skin(limit.body)): limit.name or limit.id for limit in project.device.limits if limit.body}
    if touch is not None:
        wanted |= {
            name: min(touch.value, was) for name, was in wanted.items() if name not in {one.id for one in project.device.sensors}
        }
    matter = set(project.aims.sensors)
    return tuple(
        Bound(name, labels.get(name, name), most)
        for name, most in wanted.items()
        if name in sensors and (not matter or name in matter or name not in {one.id for one in project.device.sensors})
    )


def margins(found: Sequence[Bound], sensors: Sequence[str], temperatures: Floats) -> Floats:
    """Return how far every bound is from being passed (s, n_bound) [K]; negative where it is."""
    at = [sensors.index(one.sensor) for one in found]
    return np.array([one.at_most_c for one in found]) - temperatures[:, at]
