"""One curve through runs at different powers: how much hotter each sensor gets per watt, and what air that implies.

Along the model's own curve, since a fanless rise goes as about the 0.8th power of the heat; its height is fitted, and the
temperature without any. Two unknowns by generalised least squares, readings that do not fit named by data snooping (`estimate`).
"""

from __future__ import annotations

import statistics
from collections.abc import Sequence
from typing import TYPE_CHECKING

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.bench.power_curve_result import CurveMisfit, PowerCurve, SensorCurve
from ashen_bridge.bench.power_model import Modelled, modelled, powered
from ashen_bridge.bench.readings import AIR_K, POWER_SHARE
from ashen_bridge.bench.spread import USUAL_K
from ashen_bridge.estimate.odd import odd_ones
from ashen_bridge.estimate.posterior import Posterior, posterior
from ashen_bridge.estimate.rows import Rows
from ashen_bridge.logs.outcome import Refusal, RunError, RunFigures
from ashen_bridge.model.project import Project
from ashen_bridge.words.numbers import number

if TYPE_CHECKING:
    from ashen_bridge.predict.engine import Engine

_LEAST_SPAN = 0.05  # share by which powers must differ at least
_OTHERS = 0.2  # what the heat of parts that did not change may be off by; common practice, no source
_95 = 1.96


def power_curve(engine: Engine, project: Project, runs: Sequence[RunFigures]) -> PowerCurve:
    """Return the curve through some runs of one build.

    Raises `RunError` for fewer than two runs, runs of several builds, without power, or at one power.
    """
    if len(runs) < 2:
        raise RunError("A curve needs at least two runs at different powers.")
    builds = {run.run.build for run in runs}
    if len(builds) > 1:
        raise RunError(f"A curve is of one build; these runs are of {len(builds)}: {', '.join(sorted(builds))}.")
    shown = modelled(engine, project, runs)
    watts = _watts(runs) if shown is None else np.array([one.watts for one in shown])
    if watts.max() - watts.min() < _LEAST_SPAN * watts.max():
        raise RunError(
            f"All runs were made at nearly the same power, {number(float(watts.min()), 1)} to {number(float(watts.max()), 1)} W; "
            "a curve needs powers that differ by a tenth or so."
        )
    rooms = [room for run in runs for one in run.passes if (room := one.ambient_c) is not None]
    ambient = statistics.fmean(rooms) if rooms else project.point(runs[0].run.point).ambient_c.value
    found, bent = [], False
    for sensor in project.device.sensors:
        read = [(n, end) for n, run in enumerate(runs) if (end := _end(run, sensor.id, ambient)) is not None]
        if len(read) < 2 or np.ptp(watts[[n for n, _ in read]]) < _LEAST_SPAN * watts.max():
            continue
        curve, own_bent = _fitted(sensor.id, sensor.label, runs, watts, read, shown, ambient)
        found.append(curve)
        bent = bent or own_bent
    if not found:
        raise RunError("These runs have no sensor in common that settled at two different powers.")
    along = "the model's own curve in power" if bent else "a straight line: the model's curvature is below what can be read"
    if shown is None:
        along = "a straight line: the device cannot be computed as it stands"
    cautions = _cautions(project, runs)
    return PowerCurve(tuple(run.run.id for run in runs), along, ambient, float(watts.mean()), tuple(found), cautions)


def _watts(runs: Sequence[RunFigures]) -> Floats:
    measured = [powered(run) for run in runs]
    return np.array([sum(one.parts_w.values()) if one.board_w is None else one.board_w for one in measured])


def _end(run: RunFigures, sensor: str, ambient: float) -> tuple[float, float] | None:
    """Return what a sensor settled to at the mean ambient [°C], and its standard uncertainty [K]."""
    column = run.column_of(sensor)
    ends, errors = [], []
    for one in run.passes:
        ahead = one.climbing.get(column or "")
        if column is None or column not in one.channels or isinstance(ahead, Refusal):
            continue
        room = one.ambient_c if one.ambient_c is not None else ambient
        ends.append((one.channels[column].mean if ahead is None else ahead.end) - room + ambient)
        errors.append(one.channels[column].standard_error if ahead is None else (ahead.high - ahead.low) / 4)
    if not ends:
        return None
    own = statistics.stdev(ends) if len(ends) > 1 else USUAL_K
    # Three passes know their spread badly: the usual one stands in where they happen to agree.
    return statistics.fmean(ends), float(np.hypot(max(own, USUAL_K) / np.sqrt(len(ends)), max(errors)))


def _fitted(
    sensor: str,
    name: str,
    runs: Sequence[RunFigures],
    watts: Floats,
    read: Sequence[tuple[int, tuple[float, float]]],
    shown: Sequence[Modelled] | None,
    ambient: float,
) -> tuple[SensorCurve, bool]:
    """Return a sensor's curve, and whether it is bent by more than can be read."""
    at = [n for n, _ in read]
    power = watts[at]
    values = np.array([value for _, (value, _) in read])
    others = np.zeros(len(at)) if shown is None else np.array([shown[n].others.get(sensor, 0.0) for n in at])
    curve = power.copy() if shown is None else np.array([shown[n].rises.get(sensor, np.nan) for n in at]) - others
    if not np.isfinite(curve).all() or np.ptp(curve) <= 0:
        curve = power.copy()
    slope = float(np.polyfit(power, curve, 1)[0])
    errors = np.array([np.hypot(error, AIR_K) for _, (_, error) in read])
    rough = float(np.polyfit(curve, values - others, 1)[0])
    errors = np.hypot(errors, POWER_SHARE * power * abs(rough * slope))
    straight = np.polyval(np.polyfit(power, curve, 1), power)
    bent = bool(np.any(np.abs(rough * (curve - straight)) > errors))
    if not bent:
        curve = power.copy()
    rows = Rows(
        values - others,
        np.diag(errors**2),
        np.zeros(len(at)),
        np.column_stack([np.ones(len(at)), curve]),
        tuple(runs[n].run.label for n in at),
        free=np.ones(2, dtype=bool),
    )
    odd = odd_ones(rows) if len(at) > 2 else ()
    misfits = tuple(
        CurveMisfit(runs[at[one.index]].run.id, one.label, one.off, one.standardised, float(power[one.index])) for one in odd
    )
    fit = odd[-1].without if odd else posterior(rows)
    height, height_u = _widened(fit, np.array([0.0, 1.0]))
    start, start_u = _widened(fit, np.array([1.0, 0.0]))
    middle = float(power.mean())
    per_w = float(np.interp(middle, *_sorted(power, curve))) / middle if bent else 1.0
    air_u = float(np.hypot(start_u, _OTHERS * others.mean()))
    told = others + fit.mean[0] + fit.mean[1] * curve
    readings = tuple(
        (runs[n].run.id, float(watts[n]), float(value), float(now)) for n, value, now in zip(at, values, told, strict=True)
    )
    k, u = height * per_w, height_u * abs(per_w)
    return (
        SensorCurve(
            sensor, name, k, k - _95 * u, k + _95 * u, start, start - _95 * air_u, start + _95 * air_u, misfits, readings
        ),
        bent,
    )


def _widened(fit: Posterior, target: Floats) -> tuple[float, float]:
    """Return a fitted number and its standard uncertainty, wider where readings scatter more than they should.

    R. T. Birge, Physical Review 40, 1932.
    """
    value, u = fit.of(target)
    freedom = fit.rows.n_reading - fit.rows.n_number
    return value, u * max(1.0, float(np.sqrt(fit.misfit / freedom)) if freedom > 0 else 1.0)


def _sorted(power: Floats, curve: Floats) -> tuple[Floats, Floats]:
    order = np.argsort(power)
    return power[order], curve[order]


def _cautions(project: Project, runs: Sequence[RunFigures]) -> tuple[str, ...]:
    found = [
        f"Run “{run.run.label}” throttled: its power is what it was held to."
        for run in runs
        if any(p.throttled for p in run.passes)
    ]
    fans = {tuple(sorted((k, v.value) for k, v in project.point(run.run.point).fans_percent.items())) for run in runs}
    if len(fans) > 1:
        found.append("The fans turned at different speeds in these runs, so one number per watt does not describe them all.")
    bare = [run.run.label for run in runs if all(one.ambient_c is None for one in run.passes)]
    if bare:
        found.append(f"Nobody measured the air in {', '.join(f'“{one}”' for one in bare)}: it is taken as in the others.")
    measured = [powered(run) for run in runs]
    if not any(one.parts_w for one in measured):
        found.append("Only the power of the whole board was measured: what changed is taken to be the die's.")
    return tuple(found)
