"""Working out the first minutes: the healthy course, its ±, and the course of everything that may go wrong in closing."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.bench.diagnosis.priors import priors_of
from ashen_bridge.bench.first_power.result import Expected, FaultCourse
from ashen_bridge.bench.first_power.shapes import Shapes, course_of
from ashen_bridge.model.project import Project
from ashen_bridge.predict.engine import Engine
from ashen_bridge.uncertainty.preparation import Preparation, preparing
from ashen_bridge.uncertainty.sampling import draw_samples

_SAMPLES = 400
_TELLS_K = 1.0  # what moves no sensor by that within the time is not looked for
Step = tuple[float, Expected | None]


def expecting(engine: Engine, project: Project, build: str, point: str) -> Iterator[Step]:
    """Yield (progress, None) and at the end (1, what is expected). Raises `AshenError` for what cannot be computed.

    The healthy course is brought to what the refined field settles to; what faults add to it is that of the coarse field. A fault
    is tried half and wholly where it comes in sizes.
    """
    ready: Preparation | None = None
    for progress, found in preparing(engine, project, build, point):
        ready = found
        yield 0.3 * progress, None
    assert ready is not None  # the last one always is
    healthy = course_of(engine, project, build, point, bring=True)
    rough = course_of(engine, project, build, point, bring=False)
    ambient = project.point(point).ambient_c.value
    names = _known(project, ready)
    columns = [healthy.sensors.index(label) for _, label in names]
    shown = healthy.values_c[:, columns]
    ends = healthy.steady_c[columns]
    share = np.clip((shown - ambient) / np.maximum(ends - ambient, 1e-6), 0.0, 1.2)
    # By samples, not slopes: where a pad may let go, what is not known spreads further than any slope says.
    drawn = draw_samples(ready, _SAMPLES)
    place = {name: n for n, name in enumerate(drawn.sensors)}
    columns = [place[name] for name, _ in names]
    apart = drawn.values_c[:, columns] - np.median(drawn.values_c[:, columns], axis=0)
    slopes = apart / np.sqrt(len(apart))
    pm = np.sqrt(((slopes[:, None, :] * share[None]) ** 2).sum(axis=0))
    shapes = Shapes(engine, project, build, point, [label for _, label in names], rough)
    cases: list[FaultCourse] = []
    odds = priors_of(project)
    for n, one in enumerate(shapes.listed):
        shifts = shapes.shifts(one)
        if len(shifts) and float(np.abs(shifts).max()) >= _TELLS_K:
            weight = odds[one.kind].of(True) if one.kind in odds else 0.005
            cases.append(FaultCourse(one.id, one.title, one.confirm, weight, shown + shifts))
        yield 0.35 + 0.64 * (n + 1) / len(shapes.listed), None
    limits = {limit.sensor: limit.max_c.value for limit in project.device.limits if limit.sensor}
    yield (
        1.0,
        Expected(
            build,
            point,
            ambient,
            np.asarray(healthy.time_s),
            tuple(name for name, _ in names),
            tuple(label for _, label in names),
            shown,
            pm,
            slopes,
            share,
            np.array([limits.get(name, np.inf) for name, _ in names]),
            tuple(cases),
        ),
    )


def expect(engine: Engine, project: Project, build: str | None = None, point: str | None = None) -> Expected:
    """Return what is expected; see `expecting`."""
    *_, (_, found) = expecting(engine, project, project.build(build).id, project.point(point).id)
    assert found is not None  # the last one always is
    return found


def _known(project: Project, ready: Preparation) -> list[tuple[str, str]]:
    """Return the sensors that both courses and slopes speak of: id and label."""
    labels = {one.id: one.label for one in project.device.sensors}
    return [(name, labels[name]) for name in ready.sensors if name in labels]


def at_time(expected: Expected, values: Floats, at_s: float) -> Floats:
    """Return rows of a course (…, n, n_sensor) [°C] at a time between those that were worked out; as it began at the start."""
    return _between(expected, values, at_s, expected.ambient_c + expected.start_k)


def grown(expected: Expected, values: Floats, at_s: float) -> Floats:
    """Return rows (…, n, n_sensor) of what is nothing at the start, at a time between those that were worked out."""
    return _between(expected, values, at_s, 0.0)


def _between(expected: Expected, values: Floats, at_s: float, first: Floats | float) -> Floats:
    times = np.concatenate([[0.0], expected.times_s])
    whole = np.concatenate([np.broadcast_to(first, (*values.shape[:-2], 1, values.shape[-1])), values], axis=-2)
    n = int(np.clip(np.searchsorted(times, at_s, side="right") - 1, 0, len(times) - 2))
    part = float(np.clip((at_s - times[n]) / (times[n + 1] - times[n]), 0.0, 1.0))
    return np.asarray((1 - part) * whole[..., n, :] + part * whole[..., n + 1, :])
