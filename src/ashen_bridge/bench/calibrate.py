"""Fit the model to what runs measured: every uncertain number moves as far as the readings ask and its own ± allows.

The most probable state under Gaussian priors, by Gauss–Newton: A. Tarantola, "Inverse Problem Theory", SIAM 2005, chapter 3.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from ashen_bridge.bench.runs import RunError, RunFigures
from ashen_bridge.bench.statistics import Floats
from ashen_bridge.model import paths
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.project import Project
from ashen_bridge.predict.report import Report
from ashen_bridge.thermal.steady import one_blas_thread
from ashen_bridge.uncertainty.assumptions import Assumption, assumptions

if TYPE_CHECKING:
    from ashen_bridge.predict.engine import Engine

MODEL_K = 0.3  # what the coarse field is off by, beside everything that is stated; see docs/validation.md
AIR_K = 0.3  # what the air's thermometer may be off by, alike for all sensors of a run; common practice, no source
POWER_SHARE = 0.01  # what a board's own power reading may be off by; common practice, no source
_FARTHEST = 4.0  # standard uncertainties a number may move
_ROUNDS = 8  # steps with the same slopes, corrected on the way
_TURNS = 3  # times the slopes are taken
_SETTLED = 0.1  # gain in minus twice the logarithm of the probability that is not worth another step
TOLD = 0.05  # a number of whose variance the runs take away less was not told anything
ALIKE = 0.8  # correlation from which two numbers are not told apart


@dataclass(frozen=True)
class FittedNumber:
    """One number before and after. `told`: the share of its variance that the runs took away."""

    paths: tuple[str, ...]
    field: str
    owners: tuple[str, ...]
    before: float
    before_u: float
    after: float
    after_u: float
    told: float


@dataclass(frozen=True)
class Residual:
    """One sensor of one run [°C at the operating point's ambient]: measured, with its ±, and the model before and after."""

    run: str
    sensor: str
    name: str
    measured: float
    uncertainty: float
    before: float
    after: float


@dataclass(frozen=True)
class Calibration:
    """A fit: numbers by how much they were told, readings, misfits [K, root mean square], pairs that are not told apart."""

    runs: tuple[str, ...]
    numbers: tuple[FittedNumber, ...]
    residuals: tuple[Residual, ...]
    misfit_before_k: float
    misfit_after_k: float
    not_apart: tuple[tuple[str, str, float], ...]

    def applied(self, project: Project) -> Project:
        """Return the project with the numbers the runs told something about, each marked as calibrated and from which runs."""
        note = f"from run {', '.join(self.runs)}"[:200]
        values = {
            path: {"value": one.after, "uncertainty": one.after_u, "origin": "calibrated", "note": note}
            for one in self.numbers
            if one.told >= TOLD
            for path in one.paths
        }
        return paths.set_values(project, values)


@dataclass(frozen=True)
class _Readings:
    """What was measured and how well: values (n,) and covariance (n, n); which run and sensor each is of, None for the power."""

    values: Floats
    covariance: Floats
    what: tuple[tuple[RunFigures, str | None], ...]


def calibrate(engine: Engine, project: Project, runs: Sequence[RunFigures]) -> Calibration:
    """Return the fit of a project to one or several runs. Raises `RunError` if there is nothing to fit to."""
    *_, (_, found) = calibrating(engine, project, runs)
    assert found is not None  # the last one always is
    return found


def calibrating(engine: Engine, project: Project, runs: Sequence[RunFigures]) -> Iterator[tuple[float, Calibration | None]]:
    """Yield (progress, None) while fitting, and (1, calibration) at the end."""
    readings = _readings(project, runs)
    numbers = _numbers(project, runs)
    model = _Model(engine, project, numbers, readings)
    x = np.zeros(len(numbers))
    start = told = model.at(x)
    if start is None:
        raise RunError("The project cannot be computed as it is, so there is nothing to fit.")
    assert told is not None
    slopes = np.zeros((len(start), len(numbers)))
    for turn in range(_TURNS):
        # The slopes are taken at the start and again where they led to, until that changes nothing.
        for n in range(len(numbers)):
            slopes[:, n] = model.slope(x, told, n)
            yield (turn + (n + 1) / len(numbers)) / (_TURNS + 0.1), None
        before = _worth(readings, x, told)
        x, told = _descend(model, readings, x, told, slopes)
        if before - _worth(readings, x, told) < _SETTLED:
            break
    yield 1.0, _calibration(project, runs, numbers, readings, x, start, told, slopes)


@dataclass(frozen=True)
class _Model:
    """Readings as the model gives them, by how many standard uncertainties each number is off."""

    engine: Engine
    project: Project
    numbers: tuple[Assumption, ...]
    readings: _Readings

    def moved(self, x: Floats) -> Project:
        values = {
            path: one.value + step * one.uncertainty
            for one, step in zip(self.numbers, x, strict=True)
            if step != 0
            for path in one.paths
        }
        return paths.set_values(self.project, values)

    def at(self, x: Floats) -> Floats | None:
        """Return the readings (n,) at `x`; None where the device cannot be assembled."""
        try:
            moved = self.moved(x)
            places = {(run.run.build, run.run.point): None for run, _ in self.readings.what}
            reports = {where: self.engine.predict(moved, *where, fidelity="coarse").report for where in places}
        except AshenError:
            return None
        return np.array([_reading(reports[run.run.build, run.run.point], sensor) for run, sensor in self.readings.what])

    def slope(self, x: Floats, here: Floats, n: int) -> Floats:
        """Return what one standard uncertainty more of a number does to the readings (n,); zeros where it cannot move."""
        for sign in (1.0, -1.0):
            step = x.copy()
            step[n] += sign
            there = self.at(step)
            if there is not None:
                return np.asarray(sign * (there - here))
        return np.zeros(len(here))


def _reading(report: Report, sensor: str | None) -> float:
    if sensor is None:
        return report.power_w
    return next(row.value_c for row in report.sensors if row.id == sensor)


def _descend(model: _Model, readings: _Readings, x: Floats, told: Floats, slopes: Floats) -> tuple[Floats, Floats]:
    """Go to the most probable state, halving steps that make it less probable.

    On the way every step corrects the slopes: C. G. Broyden, Mathematics of Computation 19, 1965.
    """
    worth = _worth(readings, x, told)
    slopes = slopes.copy()
    with one_blas_thread():
        for _ in range(_ROUNDS):
            spread = slopes @ slopes.T + readings.covariance
            goal = slopes.T @ np.linalg.solve(spread, readings.values - told + slopes @ x)
            step = np.clip(goal, -_FARTHEST, _FARTHEST) - x
            if not step.any():
                break
            share, gain = 1.0, 0.0
            while gain <= 0 and share > 0.1:
                there = model.at(x + share * step)
                if there is None:
                    share /= 2
                    continue
                moved = share * step
                slopes += np.outer(there - told - slopes @ moved, moved) / (moved @ moved)
                gain = worth - _worth(readings, x + moved, there)
                if gain > 0:
                    x, told, worth = x + moved, there, worth - gain
                share /= 2
            if gain < _SETTLED:
                break
    return x, told


def _worth(readings: _Readings, x: Floats, told: Floats) -> float:
    """Minus twice the logarithm of the probability, constants left out."""
    away = readings.values - told
    return float(x @ x + away @ np.linalg.solve(readings.covariance, away))


def _numbers(project: Project, runs: Sequence[RunFigures]) -> tuple[Assumption, ...]:
    """Return the uncertain numbers of the runs' predictions, without ambient: rises over the measured one are compared."""
    found: dict[tuple[str, ...], Assumption] = {}
    for run in runs:
        for one in assumptions(project, run.run.build, run.run.point):
            if one.uncertainty > 0 and one.field != "ambient_c":
                found[one.paths] = one
    return tuple(found.values())


def _readings(project: Project, runs: Sequence[RunFigures]) -> _Readings:
    values: list[float] = []
    what: list[tuple[RunFigures, str | None]] = []
    variances: list[float] = []
    air: list[int] = []
    for number, run in enumerate(runs):
        ambient = project.point(run.run.point).ambient_c.value
        for channel in run.run.channels:
            measured = [one for one in run.passes if channel.column in one.channels]
            if not measured:
                continue
            mean = float(np.mean(run.values(channel.column)))
            error = max(one.channels[channel.column].standard_error for one in measured)
            if channel.sensor is not None:
                sensor = next(one for one in project.device.sensors if one.id == channel.sensor)
                airs = [one.ambient_c if one.ambient_c is not None else ambient for one in measured]
                values.append(mean - float(np.mean(airs)) + ambient)
                variances.append(error**2 + MODEL_K**2 + sensor.offset_k.uncertainty**2)
                air.append(number)
            elif channel.role == "power" and channel.body is None and channel.unit == "W":
                values.append(mean)
                variances.append(error**2 + (POWER_SHARE * mean) ** 2)
                air.append(-1 - len(air))
            else:
                continue
            what.append((run, channel.sensor))
    if not any(sensor for _, sensor in what):
        raise RunError("None of these runs has a column that is mapped to a sensor, so there is nothing to fit to.")
    alike = np.equal.outer(air, air) & (np.array(air) >= 0)[:, None]
    return _Readings(np.array(values), np.diag(variances) + AIR_K**2 * alike, tuple(what))


def _calibration(
    project: Project,
    runs: Sequence[RunFigures],
    numbers: tuple[Assumption, ...],
    readings: _Readings,
    x: Floats,
    start: Floats,
    told: Floats,
    slopes: Floats,
) -> Calibration:
    with one_blas_thread():
        spread = slopes @ slopes.T + readings.covariance
        after = np.eye(len(x)) - slopes.T @ np.linalg.solve(spread, slopes)
    sd = np.sqrt(np.maximum(np.diag(after), 1e-9))
    fitted = [
        FittedNumber(
            one.paths,
            one.field,
            one.owners,
            one.value,
            one.uncertainty,
            one.value + float(x[n]) * one.uncertainty,
            float(sd[n]) * one.uncertainty,
            float(1 - sd[n] ** 2),
        )
        for n, one in enumerate(numbers)
    ]
    labels = {sensor.id: sensor.label for sensor in project.device.sensors}
    errors = np.sqrt(np.diag(readings.covariance))
    residuals = tuple(
        Residual(
            run.run.id,
            sensor,
            labels[sensor],
            *(float(one[n]) for one in (readings.values, errors, start, told)),
        )
        for n, (run, sensor) in enumerate(readings.what)
        if sensor is not None
    )
    misfits = [float(np.sqrt(np.mean([(get(one) - one.measured) ** 2 for one in residuals]))) for get in (_before, _after)]
    pairs = []
    moved = [n for n in range(len(x)) if fitted[n].told >= TOLD]
    for k, a in enumerate(moved):
        for b in moved[k + 1 :]:
            together = float(after[a, b] / (sd[a] * sd[b]))
            if abs(together) >= ALIKE:
                pairs.append((_label(fitted[a]), _label(fitted[b]), together))
    order = tuple(sorted(fitted, key=lambda one: -one.told))
    alike = tuple(sorted(pairs, key=lambda pair: -abs(pair[2])))
    return Calibration(tuple(run.run.id for run in runs), order, residuals, misfits[0], misfits[1], alike)


def _before(one: Residual) -> float:
    return one.before


def _after(one: Residual) -> float:
    return one.after


def _label(one: FittedNumber) -> str:
    return f"{one.owners[0]}{f' and {len(one.owners) - 1} more' if len(one.owners) > 1 else ''}: {one.field}"
