"""The proof of a repair: what was predicted, what the calibrated model predicted, and what was measured, sensor by sensor.

The model is fitted to the baseline run alone; with those numbers it predicts the run of the build as it was built. Both
predictions carry the spread of all uncertain numbers, before and after the fit (linear propagation, JCGM 100:2008).
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.arrays.blas import one_blas_thread
from ashen_bridge.bench.beside import beside
from ashen_bridge.bench.judgement import Proof, ProvedSensor
from ashen_bridge.bench.reading_model import ReadingModel, readying
from ashen_bridge.bench.readings import Readings, readings_of, uncertain_numbers
from ashen_bridge.estimate.descent import Goal
from ashen_bridge.estimate.posterior import posterior
from ashen_bridge.estimate.rows import Rows
from ashen_bridge.logs.outcome import RunError, RunFigures
from ashen_bridge.model.project import Project
from ashen_bridge.uncertainty.drawing import highest, lowest
from ashen_bridge.uncertainty.together import correlation_of

if TYPE_CHECKING:
    from ashen_bridge.predict.engine import Engine


def proving(engine: Engine, project: Project, before: RunFigures, after: RunFigures) -> Iterator[tuple[float, Proof | None]]:
    """Yield (progress, None) while working, and (1, proof) at the end. Raises `RunError` if there is nothing to go by."""
    both = readings_of(project, [before, after], engine)
    numbers = uncertain_numbers(project, [before, after])
    nowhere = np.zeros(len(numbers))
    anchored: tuple[ReadingModel, Floats] | None = None
    for progress, ready in readying(engine, project, numbers, both):
        yield 0.8 * progress, None
        anchored = ready.anchored(nowhere) if ready is not None else None
    if anchored is None:
        raise RunError("The project cannot be computed as it is, so there is nothing to prove.")
    model, start = anchored
    slopes = np.zeros((len(start), len(numbers)))
    for progress, found in model.sloping(nowhere, start):
        slopes = slopes if found is None else found
        yield 0.8 + 0.1 * progress, None
    first = np.array([run is before for run, _ in both.what])
    baseline = _rows(both, first)
    if not first.any() or first.all():
        raise RunError("One of the two runs has no settled column that is mapped to a sensor.")
    prior = correlation_of(numbers)
    goal = Goal(baseline.values, baseline.covariance, lowest(numbers), highest(numbers), prior)
    moved = goal.aim(nowhere, start[first], slopes[first])
    there = model.anchored(moved)
    # Where the fit leads to what cannot be assembled, the slopes say.
    told, moved_project = (there[1], model.moved(moved)) if there else (start + slopes @ moved, project)
    report = engine.predict(moved_project, after.run.build, after.run.point).report
    skin = tuple((row.name, row.value_c) for row in report.sensors if row.reads == "skin")
    yield 0.95, None
    rows = Rows(baseline.values, baseline.covariance, start[first], slopes[first], baseline.labels, prior)
    with one_blas_thread():
        plain = np.sqrt(np.einsum("ij,jk,ik->i", slopes, rows.prior_covariance, slopes))
        fitted = np.linalg.norm(slopes @ posterior(rows).root, axis=1)
    yield 1.0, replace(_proof(project, before, after, both, _Shown((start, plain), (told, fitted))), skin=skin)


def _rows(readings: Readings, wanted: np.ndarray) -> Readings:
    at = np.flatnonzero(wanted)
    return Readings(readings.values[at], readings.covariance[np.ix_(at, at)], tuple(readings.what[int(n)] for n in at), len(at))


@dataclass(frozen=True)
class _Shown:
    """What the model shows for every reading, with its standard uncertainty: as it was predicted and as it was calibrated."""

    predicted: tuple[Floats, Floats]
    calibrated: tuple[Floats, Floats]


def _proof(project: Project, before: RunFigures, after: RunFigures, both: Readings, shown: _Shown) -> Proof:
    labels = {sensor.id: sensor for sensor in project.device.sensors}
    limits = project.device.limits_c()
    goals = {goal.sensor: goal.at_most_c.value for goal in project.goals if goal.point in (None, after.run.point)}
    was = {sensor: n for n, (run, sensor) in enumerate(both.what) if run is before}
    errors = np.sqrt(np.diag(both.covariance))
    rows = []
    for n, (run, sensor) in enumerate(both.what):
        if run is not after or sensor is None:
            continue
        earlier = was.get(sensor)
        rows.append(
            ProvedSensor(
                sensor,
                labels[sensor].label,
                labels[sensor].body,
                float(both.values[earlier]) if earlier is not None and before.run.point == after.run.point else None,
                (float(shown.predicted[0][n]), float(shown.predicted[1][n])),
                (float(shown.calibrated[0][n]), float(shown.calibrated[1][n])),
                (float(both.values[n]), float(errors[n])),
                goals.get(sensor),
                limits.get(sensor),
                labels[sensor].offset_k.uncertainty,
            )
        )
    if not rows:
        raise RunError("None of these runs has a settled column that is mapped to a sensor, so there is nothing to prove.")
    return Proof(before.run.id, after.run.id, tuple(rows), beside=beside(before, after))
