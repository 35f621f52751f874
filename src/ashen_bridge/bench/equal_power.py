"""Runs at equal power: what each sensor of a pass would have shown had the die made more or less, by the model."""

from __future__ import annotations

from ashen_bridge.bench.response import PowerResponse
from ashen_bridge.model.bodies import Component, ComponentRole
from ashen_bridge.model.build import OperatingPoint
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.project import Project
from ashen_bridge.model.records import Run
from ashen_bridge.predict.engine import Engine
from ashen_bridge.predict.transient import unthrottled

_STEP = 0.05  # of the die's power, by which it is turned


def power_response(engine: Engine, project: Project, build: str, point: str) -> PowerResponse | None:
    """Return how the sensors of a build answer the die's power, by two coarse fields; None where it cannot be computed."""
    ambient = project.point(point).ambient_c.value
    try:
        low, watts = engine.shown(_at(project, point, 1.0), build, point)
        high, more = engine.shown(_at(project, point, 1.0 + _STEP), build, point)
    except AshenError:
        return None
    if more - watts < 1e-6:
        return None
    return PowerResponse(
        watts,
        {row.id: row.value_c - ambient for row in low},
        {a.id: (b.value_c - a.value_c) / (more - watts) for a, b in zip(low, high, strict=True)},
    )


def _at(project: Project, point_id: str, factor: float) -> Project:
    """Return a project whose die makes a multiple of its power at a point at which nothing throttles."""

    def turned(point: OperatingPoint) -> OperatingPoint:
        free = unthrottled(point)
        powers = {n: w.model_copy(update={"value": w.value * factor}) for n, w in free.powers_w.items() if n in dies}
        if powers:
            return free.model_copy(update={"powers_w": {**free.powers_w, **powers}})
        if free.board_w is None:
            return free
        return free.model_copy(update={"board_w": free.board_w.model_copy(update={"value": free.board_w.value * factor})})

    dies = {body.id for body in project.device.bodies if isinstance(body, Component) and body.role is ComponentRole.DIE}
    points = tuple(turned(one) if one.id == point_id else one for one in project.points)
    return project.model_copy(update={"points": points})


def responses(project: Project, before: Run, after: Run) -> tuple[PowerResponse | None, PowerResponse | None] | None:
    """Return how the builds of two runs answer power; None where either cannot be computed."""
    engine = Engine()
    found = [power_response(engine, project, run.build, run.point) for run in (before, after)]
    return (found[0], found[1]) if None not in found else None
