"""A plan as it is shown in the end: on the full field, with what the rules find in it."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from ashen_bridge.changes.plans import make_plan
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.project import Project
from ashen_bridge.planning.choosing.chances import Outlook
from ashen_bridge.planning.choosing.pool import Key, Pool
from ashen_bridge.planning.choosing.result import Plan
from ashen_bridge.predict.engine import Engine

TRIAL = "a_plan_as_it_is_tried"


def applied(project: Project, build: str, plan: Plan, new: str = TRIAL, name: str = "") -> Project:
    """Return the project with a plan as a build of its own."""
    return make_plan(project, build, new, name or plan.name, "", plan.fillings, plan.washers_mm)


def settled(engine: Engine, project: Project, at: tuple[str, str], plan: Plan, key: Key, outlook: Outlook, pool: Pool) -> Plan:
    """Return a plan with the temperatures of the full field, its draws moved along."""
    build, point = at
    try:
        if plan.fillings or plan.washers_mm:
            report = engine.predict(applied(project, build, plan), TRIAL, point, fidelity="fine").report
        else:
            report = engine.predict(project, build, point, fidelity="fine").report
    except AshenError as error:
        return replace(plan, broken=(*plan.broken, str(error)), settled="full")
    shown = {row.id: row.value_c for row in report.sensors} | {row.id: row.t_max_c for row in report.components}
    sensors = pool.tryout.sensors
    tried = pool.to_fine(pool.tried(key).sensors)[0]
    by = np.array([shown.get(name, tried[n]) - tried[n] for n, name in enumerate(sensors)])
    moved = outlook.moved(by)
    each, every = moved.chance(pool.bounds, sensors)
    seen = tuple(
        replace(
            one,
            value_c=one.value_c + float(by[sensors.index(one.id)]),
            chance=float(each[n]),
            worst_c=None if one.worst_c is None else one.worst_c + float(by[sensors.index(one.id)]),
        )
        for n, one in enumerate(plan.outlooks)
    )
    dies = {low for place in pool.places if place.role == "die" for low in place.lowers}
    hottest = max((row.t_max_c for row in report.components if row.id in dies), default=plan.hottest_die_c)
    pressed = min((row.pressure_kpa.mean for row in report.joints if row.lower in dies), default=plan.die_kpa)
    shut = tuple(f"{row.name} will not close over it." for row in report.closing if not row.closes)
    over = tuple(
        f"{one.label} comes to {one.value_c:.1f} °C; it shall stay below {one.at_most_c:g} °C."
        for one in seen
        if one.value_c > one.at_most_c
    )
    mechanical = tuple(said for said in plan.broken if not said.endswith(" K over"))
    return replace(
        plan,
        outlooks=seen,
        chance=every,
        hottest_die_c=hottest,
        die_kpa=pressed,
        broken=(*mechanical, *shut, *over),
        settled="full",
    )
