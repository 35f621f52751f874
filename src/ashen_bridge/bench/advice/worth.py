"""Is it worth opening? What perfect joints could gain at most, against what is needed and what a test can show."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ashen_bridge.assess.dominant import rank_layers
from ashen_bridge.assess.result import LayerGain
from ashen_bridge.bench.advice.planner import resolution_for, spread_of
from ashen_bridge.bench.advice.verdicts import Worth
from ashen_bridge.bench.readings import readings_of
from ashen_bridge.logs.outcome import RunError, RunFigures
from ashen_bridge.model.project import Project
from ashen_bridge.thermal.names import facing
from ashen_bridge.words.numbers import number

if TYPE_CHECKING:
    from ashen_bridge.predict.engine import Engine


def weighing(engine: Engine, project: Project, run: RunFigures) -> Iterator[tuple[float, Worth | None]]:
    """Yield (progress, None), and (1, verdict) at the end, for the sensor that has least to spare of those that matter."""
    readings = readings_of(project, [run], engine)
    values = {sensor: float(readings.values[n]) for n, (_, sensor) in enumerate(readings.what) if sensor is not None}
    aims = {sensor: limit for sensor, limit in project.device.limits_c().items() if sensor in values}
    aims |= {goal.sensor: goal.at_most_c.value for goal in project.goals if goal.sensor in values}
    matter = [one for one in values if not project.aims.sensors or one in project.aims.sensors] or list(values)
    worst = max(matter, key=lambda one: values[one] - aims[one] if one in aims else values[one] - 1e6)
    needed = values[worst] - aims[worst] if worst in aims else None
    ranked: tuple[LayerGain, ...] = ()
    for share, so_far in rank_layers(engine, project, run.run.build, run.run.point, worst):
        ranked = so_far
        yield 0.9 * share, None
    joints = [one for one in ranked if one.kind == "joint"]
    if not joints:
        raise RunError("This build has no joint that a repair could make better.")
    base = engine.predict(project, run.run.build, run.run.point, fidelity="coarse").report
    names = [facing(row.id, row.lower, row.upper) for row in base.joints]
    before = next(row.value_c for row in base.sensors if row.id == worst)
    after, _ = engine.shown(project, run.run.build, run.run.point, names)
    best = before - next(row.value_c for row in after if row.id == worst)
    first = max(joints, key=lambda one: one.gain_k)
    best = max(best, first.gain_k)  # what is better elsewhere can warm this one
    resolution = resolution_for(len(run.passes), spread_of([run])[0])
    label = project.device.sensor(worst).label
    if any(one.throttled is not None for one in run.passes):
        needed = None  # what it would be at full power was not seen
    opened, text = _verdict(project, label, needed, best, first.label, first.gain_k, resolution)
    yield 1.0, Worth(worst, label, needed, best, first.label, first.gain_k, resolution, opened, text)


def _verdict(
    project: Project, name: str, needed: float | None, best: float, joint: str, gain: float, resolution: float
) -> tuple[bool, str]:
    most = f"even perfect joints everywhere would gain {name} {number(best, 1)} K"
    if project.aims.opening == "never":
        return False, f"Leave it alone: it is not to be opened. ({most[0].upper()}{most[1:]}.)"
    if best < resolution:
        return False, f"Leave it alone: {most}, less than the {number(resolution, 1)} K this test can show."
    if needed is not None and needed <= 0:
        easy = " and it was to be opened gladly" if project.aims.opening == "gladly" else ""
        if easy:
            return (
                True,
                (
                    f"{name} keeps its aim by {number(-needed, 1)} K. A repair could gain at most "
                    f"{number(best, 1)} K, {joint} most of it."
                ),
            )
        return False, f"Leave it alone: {name} keeps its aim by {number(-needed, 1)} K; {most}."
    if needed is not None and needed > best:
        return False, (
            f"Opening cannot do it: {number(needed, 1)} K are needed and {most}. Only more air, less power or another cooler can."
        )
    wanted = f"{number(needed, 1)} K are needed" if needed is not None else "how much is needed was not seen"
    return True, f"Worth opening: {wanted}, and {joint} alone could give up to {number(gain, 1)} K."
