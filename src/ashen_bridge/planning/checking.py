"""The quick check: some minutes of a load, held against the record by the record's own spread; opened only for a reason."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

import numpy as np
from scipy.stats import norm
from scipy.stats import t as student

from ashen_bridge.arrays import Floats
from ashen_bridge.bench.logbook import figures_of, logs_of
from ashen_bridge.bench.readings import AIR_K
from ashen_bridge.bench.spread import USUAL_FREEDOM, USUAL_K, Spread, spread_between
from ashen_bridge.logs.log import Log
from ashen_bridge.logs.mapping import propose
from ashen_bridge.logs.outcome import RunFigures
from ashen_bridge.logs.runs import figures
from ashen_bridge.model.errors import AshenError, ProjectError
from ashen_bridge.model.project import Project
from ashen_bridge.model.records import Run
from ashen_bridge.planning.checked import QuickCheck, Remembered
from ashen_bridge.planning.known import within
from ashen_bridge.predict.patterns import Pattern, Watch
from ashen_bridge.thermal.transient import Stage
from ashen_bridge.words.numbers import number

if TYPE_CHECKING:
    from ashen_bridge.predict.engine import Engine

MINUTES = 10.0
_SIGMAS = 3.0  # beyond it a difference is no chance any more
_LEAST_K = 2.0  # rounding of what people read off, and a little
_NEAR_S = 15.0  # either side of the time that is looked at


def quick_check(
    engine: Engine, project: Project, build: str | None = None, point: str | None = None, minutes: float = MINUTES
) -> QuickCheck:
    """Return the check of a build: from its last run that was long enough, else from the model with all it does not know.

    Passes of one build differ by a variance s² with f degrees of freedom (`bench.spread`), pooled with what is usual; one more
    reading differs from the mean of n of them by s²·(1 + 1/n), and by both thermometers of the air. What is over Student's t at
    three standard deviations of that is no chance any more. Raises `AshenError` for what can be neither computed nor read.
    """
    if not 0 < minutes <= 24 * 60:
        raise ProjectError(f"A check takes up to a day, not {number(minutes)} minutes.")
    here, at = project.build(build), project.point(point)
    shown, _ = engine.shown(project, here.id, at.id)
    limits = {row.id: row.limit_c for row in shown}
    labels = {row.id: row.name for row in shown}
    air = at.ambient_c.value
    for run in reversed(project.runs):
        if (run.build, run.point) != (here.id, at.id) or not run.passes:
            continue
        try:
            found, logs = figures_of(project, run.id), logs_of(project, run.id)
        except AshenError:
            continue  # its logs are not on this machine
        rises = {name: row for name in labels if (row := _at(found, logs, name, minutes, air)) is not None}
        if rises:
            spread = spread_between([np.array(list(rises.values()))])
            passes = {name: int(np.isfinite(row).sum()) for name, row in rises.items()}
            variance, freedom = _pooled(spread)
            beyond = float(student.isf(norm.sf(_SIGMAS), freedom))
            more = {
                name: max(_LEAST_K, beyond * float(np.sqrt(variance * (1 + 1 / n) + 2 * AIR_K**2))) for name, n in passes.items()
            }
            most = max(passes.values())
            source = f"as “{run.label}” showed it in {most} pass{'es' if most != 1 else ''}"
            expected = {name: air + float(np.nanmean(row)) for name, row in rises.items()}
            return _check(here.id, at.id, minutes, air, source, labels, limits, expected, more)
    expected, pm = _modelled(engine, project, here.id, at.id, minutes)
    more = {name: max(_LEAST_K, _SIGMAS * float(np.hypot(pm[name], USUAL_K))) for name in expected}
    source = "as the model expects it: no run of this build at this load is kept"
    return _check(here.id, at.id, minutes, air, source, labels, limits, expected, more)


def _pooled(spread: Spread) -> tuple[float, float]:
    """Return the variance between passes [K²] and its degrees of freedom, with what is usual: three passes alone say little."""
    if not spread.measured:
        return spread.variance, spread.freedom
    freedom = spread.freedom + USUAL_FREEDOM
    return (spread.freedom * spread.variance + USUAL_FREEDOM * USUAL_K**2) / freedom, freedom


def _check(
    build: str,
    point: str,
    minutes: float,
    air: float,
    source: str,
    labels: Mapping[str, str],
    limits: Mapping[str, float | None],
    expected: Mapping[str, float],
    more: Mapping[str, float],
) -> QuickCheck:
    rows = [Remembered(name, labels[name], value, round(more[name], 1), limits.get(name)) for name, value in expected.items()]
    rows.sort(key=lambda row: 1e3 if row.limit_c is None else row.limit_c - row.expected_c)
    return QuickCheck(build, point, minutes, air, source, tuple(rows))


def _at(run: RunFigures, logs: Sequence[Log], sensor: str, minutes: float, air: float) -> Floats | None:
    """Return the rise over the air of every pass so long after its load began [K], NaN where it was not that long."""
    column = run.column_of(sensor)
    if column is None:
        return None
    found = np.full(len(run.passes), np.nan)
    for n, (one, log) in enumerate(zip(run.passes, logs, strict=True)):
        if one.loaded_s is None or all(known.name != column for known in log.columns):
            continue
        when = one.loaded_s[0] + 60.0 * minutes
        if when > one.loaded_s[1] + _NEAR_S:
            continue
        near = np.abs(log.time_s - when) <= _NEAR_S
        values = log.column(column).values[near]
        if np.isfinite(values).any():
            found[n] = float(np.nanmean(values)) - (one.ambient_c if one.ambient_c is not None else air)
    return found if np.isfinite(found).any() else None


def _modelled(
    engine: Engine, project: Project, build: str, point: str, minutes: float
) -> tuple[dict[str, float], dict[str, float]]:
    """Return what every sensor shows so long after full power, from idle air [°C], and its standard uncertainty [K], by id."""
    pattern = Pattern(0.0, (Stage(minutes * 60.0, 1.0),))
    course = engine.transient(project, build, point, pattern, watch=Watch((minutes * 60.0,), 0.2), bring=True).asked()
    ids = {one.label: one.id for one in project.device.sensors}
    values = {ids[name]: float(value) for name, value in zip(course.sensors, course.values_c[-1], strict=True) if name in ids}
    return values, within(engine, project, build, point, tuple(values))


def readings_of_log(check: QuickCheck, project: Project, log: Log) -> dict[str, float]:
    """Return what a log shows after the check's minutes of load [°C, in the check's air], by sensor id.

    Raises `ProjectError` for a log of no sensor of this device, or one that is too short.
    """
    channels = propose(log, project.device, project.mappings)
    if all(one.sensor is None for one in channels):
        raise ProjectError("The log has no column that belongs to a sensor of this device.")
    run = Run(id="check", build=check.build, point=check.point, channels=channels, log_sha256="0" * 64)
    found = figures(run, [log], project.device)
    rises = {row.sensor: _at(found, (log,), row.sensor, check.minutes, check.air_c) for row in check.rows}
    told = {name: check.air_c + float(row[0]) for name, row in rises.items() if row is not None}
    if not told:
        raise ProjectError(f"The log does not go on for {number(check.minutes)} minutes under load.")
    return told
