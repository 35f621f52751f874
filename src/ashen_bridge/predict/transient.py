"""What the sensors show over time for a load pattern, and how long a test must run."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.geometry.scene import Scene
from ashen_bridge.model.build import OperatingPoint
from ashen_bridge.model.quantity import q
from ashen_bridge.predict.course import SOAKED_K, Course
from ashen_bridge.predict.course_columns import Reader, columns_of_course, shown, stored_in_fins, stored_in_joints
from ashen_bridge.predict.operating import Operating, come_about
from ashen_bridge.predict.patterns import Pattern, Watch
from ashen_bridge.thermal.krylov import MOST_CELLS, KrylovMarch, scales_of
from ashen_bridge.thermal.parts import HeatModel
from ashen_bridge.thermal.steady import Accuracy, HeatField, SteadySolver
from ashen_bridge.thermal.surfaces import KELVIN
from ashen_bridge.thermal.transient import Body, InsideAir, Moment, Stage, Steps, march

if TYPE_CHECKING:
    from ashen_bridge.thermal.resolution import Frame

_ACCURACY = Accuracy(residual=1e-6, settled=1e-2, energy=1e-4)
FEW_K = 0.05
"""Who allows a step to be off by less than this [K] has every step taken on the whole field."""


def course(
    scene: Scene,
    point: OperatingPoint,
    model_of: Callable[[OperatingPoint, float | None], HeatModel],
    frame: Frame,
    pattern: Pattern,
    watch: Watch | None = None,
) -> Iterator[tuple[float, Course | None]]:
    """Yield (progress, None) while the course of all sensors for a load pattern is worked out, and (1, course) at the end.

    `model_of` gives the heat model of an operating point with its powers and inside air. What lies in joints stores heat, half of
    it at each face, unless it has cells of its own. A sink's fins are lumped on its base. Powers are made as told: a component
    that would throttle shows how hot it would get.
    """
    watch = watch or Watch()
    pattern = pattern.at(point)
    told = unthrottled(point)
    active = frame.slabs.active
    solver = SteadySolver()

    def settled(factor: float) -> Operating:
        def solve(actual: OperatingPoint, inside: float | None) -> HeatField:
            return solver.solve(model_of(actual, inside), _ACCURACY)

        return come_about(scene, _scaled(told, factor), active, solve)

    full = settled(1.0)
    model = model_of(full.point, full.inside)
    steady = full.field
    if pattern.start_c is None:
        begin = settled(pattern.before).field.temperature
    else:
        begin = np.full(steady.grid.n_cell, pattern.start_c + KELVIN)
    columns = columns_of_course(scene)
    reader = Reader(scene, steady.grid, columns, active)
    times, rows, powers = [], [], []
    worst = 0.0
    body = Body(model, steady, stored_in_fins(scene, steady) + stored_in_joints(scene, frame, steady), _inside_air(point))
    few = watch.tolerance >= FEW_K and steady.grid.n_cell <= MOST_CELLS
    basis = KrylovMarch(body, begin, scales_of(pattern.seconds)) if few else None

    def marched(stages: Sequence[Stage], stops: Sequence[float] = ()) -> Iterator[Moment]:
        if basis is not None:
            return basis.march(stages, stops)
        return march(body, begin, stages, Steps(watch.tolerance, stops=tuple(stops)))

    idle = None
    if pattern.start_c is not None:
        # What it would do without power: only what is above that is brought to another field.
        seen_idle = [(one.time, reader.read(one.temperature)) for one in marched((Stage(pattern.seconds, 0.0),))]
        idle = np.array([time for time, _ in seen_idle]), np.array([row for _, row in seen_idle])
    for moment in marched(pattern.stages, watch.times):
        yield 0.98 * moment.time / pattern.seconds, None
        times.append(moment.time)
        powers.append(moment.power)
        rows.append(reader.read(moment.temperature))
        worst = max(worst, moment.error)
    names = columns.names
    values = np.array(rows).reshape(len(times), len(names))
    final = np.array(reader.read(steady.temperature))
    first = columns.n_sensor
    soak = None
    if len(pattern.stages) == 1:
        # What a constant load comes to in the end: full power, or none.
        factor = pattern.stages[0].factor
        end = steady if factor == 1.0 else settled(factor).field
        soak = _soak(np.array(times), values[:, :first], np.array(reader.read(end.temperature))[:first])
    yield (
        1.0,
        Course(
            np.array(times),
            names[:first],
            values[:, :first],
            np.array(powers),
            final[:first],
            soak,
            others=names[first:],
            others_c=values[:, first:],
            others_steady_c=final[first:],
            output_s=tuple(time for time in watch.times if time <= pattern.seconds + 1e-9),
            step_error_k=worst,
            idle_c=None if idle is None else np.stack([np.interp(times, idle[0], column) for column in idle[1].T], axis=1),
        ),
    )


def _scaled(point: OperatingPoint, factor: float) -> OperatingPoint:
    """Return an operating point with all that is told multiplied."""
    powers = {name: q(power.value * factor) for name, power in point.powers_w.items()}
    board = q(point.board_w.value * factor) if point.board_w is not None else None
    return point.model_copy(update={"powers_w": powers, "board_w": board})


def unthrottled(point: OperatingPoint) -> OperatingPoint:
    """Return an operating point at its full power at which nothing throttles: what would shows how hot it would get."""
    return point.model_copy(update={"throttle_at_c": {}, "cycle": ()})


def brought_to(found: Course, scene: Scene, steady: HeatField, active: dict[str, tuple[int, ...]], ambient_c: float) -> Course:
    """Return a course of a coarse field with its rises brought to what a finer one settles to, column by column."""
    fine = np.array(shown(scene, steady, columns_of_course(scene), active))
    first = len(found.sensors)
    values = np.hstack([found.values_c, found.others_c])
    coarse = np.concatenate([found.steady_c, found.others_steady_c])
    little = np.abs(coarse - ambient_c) < 1.0  # too little to make a proportion of
    ratio = np.where(little, 1.0, (fine - ambient_c) / np.where(little, 1.0, coarse - ambient_c))
    without = found.idle_c if found.idle_c is not None else ambient_c
    values, ends = without + (values - without) * ratio, ambient_c + (coarse - ambient_c) * ratio
    return replace(
        found,
        values_c=values[:, :first],
        steady_c=ends[:first],
        others_c=values[:, first:],
        others_steady_c=ends[first:],
    )


def _inside_air(point: OperatingPoint) -> InsideAir | None:
    if point.inside == "given":
        return None
    vent = 1 / point.vent_k_w.value if point.inside == "vented" and point.vent_k_w else 0.0
    return InsideAir(point.ambient_c.value + KELVIN, vent)


def _soak(times: Floats, values: Floats, heading: Floats) -> tuple[float, ...]:
    """Return when each sensor comes, and stays, within 1 K of what it is heading for; infinite if not by the end."""
    found = []
    for column, end in zip(values.T, heading, strict=True):
        away = np.abs(column - end)
        outside = np.flatnonzero(away > SOAKED_K)
        if not len(outside):
            found.append(0.0)
        elif outside[-1] + 1 == len(times):
            found.append(float("inf"))
        else:
            a, b = outside[-1], outside[-1] + 1
            share = (away[a] - SOAKED_K) / max(away[a] - away[b], 1e-12)
            found.append(float(times[a] + share * (times[b] - times[a])))
    return tuple(found)
