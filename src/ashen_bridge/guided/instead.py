"""What reaches the goal without opening anything: the fan, less power, cooler air."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import TYPE_CHECKING

from ashen_bridge.changes.points import multiply_powers, set_all_fans
from ashen_bridge.guided.answers import Answers
from ashen_bridge.guided.goal import goal_c
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.project import Project
from ashen_bridge.words.numbers import number, percent

if TYPE_CHECKING:
    from ashen_bridge.predict.engine import Engine

_LESS, _SLOWER = 0.7, 0.6
_COOLEST_AIR_K, _LEAST_SHARE = 15.0, 0.2
_BELOW_LIMIT_K = 5.0


Shows = Callable[[Project], float]


def aim_c(project: Project, answers: Answers, sensor: str) -> float:
    """Return what is wanted of a sensor at most [°C]: the goal, else a little below its limit."""
    if any(goal.sensor == sensor for goal in project.goals):
        return goal_c(answers)
    return project.device.limits_c()[sensor] - _BELOW_LIMIT_K


def without_opening(engine: Engine, project: Project, sensor: str, now: float, aim: float) -> tuple[str, ...]:
    """Return in sentences what brings a sensor from `now` to its aim [°C], or how far it goes; each is a change of its own."""

    def shown(moved: Project) -> float:
        rows = engine.shown(moved, "as_found", "load")[0]
        return next(row.value_c for row in rows if row.id == sensor)

    offset = now - shown(project)

    def shows(moved: Project) -> float:
        return shown(moved) + offset

    name = project.device.sensor(sensor).label
    try:
        if now <= aim:
            said = [f"{name} is at {number(now)} °C, not above the {number(aim)} °C wanted: nothing needs to be opened for that."]
            return (*said, *_quieter(project, shows, aim))
        said = []
        slope = (now - shows(multiply_powers(project, "load", _LESS))) / (1 - _LESS)
        share = 1 - (now - aim) / slope
        if share > _LEAST_SHARE:
            said.append(f"{percent(1 - share)} less power brings {name} to {number(aim)} °C.")
        if now - aim <= _COOLEST_AIR_K:
            said.append(f"Air that is {number(math.ceil(now - aim))} K cooler does the same.")
        said += _faster(project, shows, aim, now)
    except AshenError:
        return ()
    return tuple(said) or (f"Neither power, fan nor air alone brings {name} from {number(now)} to {number(aim)} °C.",)


def _faster(project: Project, shows: Shows, aim: float, now: float) -> list[str]:
    fans = project.point("load").fans_percent
    fan = min((one.value for one in fans.values()), default=100.0)
    if not fans:
        return []
    if fan >= 99.0:
        return ["The fan runs at full speed already."]
    full = shows(set_all_fans(project, "load", 100.0))
    there = "which is enough" if full <= aim else "which is not enough"
    return [f"The fan at full speed brings it from {number(now)} to {number(full)} °C, {there}."]


def _quieter(project: Project, shows: Shows, aim: float) -> list[str]:
    fans = project.point("load").fans_percent
    fan = min((one.value for one in fans.values()), default=0.0)
    if fan < 30.0:
        return []
    slow = fan * _SLOWER
    there = shows(set_all_fans(project, "load", slow))
    fits = "still below the goal" if there <= aim else "above the goal"
    return [f"With the fan at {number(slow)} % it would be at {number(there)} °C, {fits}."]
