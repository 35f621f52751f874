"""Fit the model to what runs measured: every uncertain number moves as far as the readings ask and its own ± allows.

The most probable state under Gaussian priors, by Gauss–Newton: A. Tarantola, "Inverse Problem Theory", SIAM 2005, chapter 3.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.arrays.blas import one_blas_thread
from ashen_bridge.bench.judgement import TOLD, Calibration, FittedNumber, Residual
from ashen_bridge.bench.reading_model import ReadingModel, readying
from ashen_bridge.bench.readings import Readings, readings_of, uncertain_numbers, watching
from ashen_bridge.logs.outcome import RunError, RunFigures
from ashen_bridge.model.project import Project
from ashen_bridge.uncertainty.assumptions import Assumption
from ashen_bridge.uncertainty.drawing import highest, lowest

if TYPE_CHECKING:
    from ashen_bridge.predict.engine import Engine

_ROUNDS = 8  # steps with the same slopes, corrected on the way
_STEPS = (1.0, 1.0, 0.3)  # standard uncertainties by which slopes are taken, turn by turn: where a pad lets go, short ones
_MET = 1.5  # standard errors within which a reading is explained
_SETTLED = 0.1  # gain in minus twice the logarithm of the probability that is not worth another step
ALIKE = 0.8  # correlation from which two numbers are not told apart


def calibrate(engine: Engine, project: Project, runs: Sequence[RunFigures]) -> Calibration:
    """Return the fit of a project to one or several runs. Raises `RunError` if there is nothing to fit to."""
    *_, (_, found) = calibrating(engine, project, runs)
    assert found is not None  # the last one always is
    return found


def calibrating(engine: Engine, project: Project, runs: Sequence[RunFigures]) -> Iterator[tuple[float, Calibration | None]]:
    """Yield (progress, None) while fitting, and (1, calibration) at the end; all uncertain numbers may move."""
    for progress, fit in fitting(engine, project, runs, uncertain_numbers(project, runs)):
        yield progress, None if fit is None else fit.calibration(project, runs)


def fitting(
    engine: Engine,
    project: Project,
    runs: Sequence[RunFigures],
    numbers: tuple[Assumption, ...],
    watch: Sequence[str] = (),
    near: float = 0.0,
) -> Iterator[tuple[float, Fit | None]]:
    """Yield (progress, None) while fitting some numbers, and (1, fit) at the end.

    What the numbers do to the sensors in `watch` is found too, though nobody read them. Slopes are taken anew where they led to
    while a reading is not explained, or a number moved by more than `near` of its standard uncertainties.
    """
    readings = watching(readings_of(project, runs, engine), watch)
    x = np.zeros(len(numbers))
    anchored: tuple[ReadingModel, Floats] | None = None
    for progress, ready in readying(engine, project, numbers, readings):
        yield 0.6 * progress, None
        anchored = ready.anchored(x) if ready is not None else None
    if anchored is None:
        raise RunError("The project cannot be computed as it is, so there is nothing to fit.")
    model, start = anchored
    told = start
    slopes = np.zeros((len(start), len(numbers)))
    for turn in range(len(_STEPS)):
        # The slopes are taken at the start and again where they led to, until that changes nothing.
        for progress, found in model.sloping(x, told, _STEPS[turn]):
            slopes = slopes if found is None else found
            yield 0.6 + 0.4 * (turn + 0.5 * progress) / len(_STEPS), None
        before, there = _worth(readings, x, told), x
        x, told = _descend(model, readings, x, told, slopes)
        # What is fitted is fitted to what is shown: the reduced field leads, the fine one decides.
        model, told = model.anchored(x) or (model, told)
        yield 0.6 + 0.4 * (turn + 0.7) / len(_STEPS), None
        x, told = _descend(model, readings, x, told, slopes)
        model, told = model.anchored(x) or (model, told)
        settled = before - _worth(readings, x, told) < _SETTLED or np.abs(x - there).max(initial=0.0) < near
        away = np.abs(readings.values - told)[: readings.read] / np.sqrt(np.diag(readings.covariance))[: readings.read]
        if settled and away.max() < _MET:
            break
    yield 1.0, Fit(numbers, readings, x, start, told, slopes)


@dataclass(frozen=True)
class Fit:
    """Where a fit ended: its numbers at `x` (n_number,) in standard uncertainties, the readings as they were at the `start`
    and as they are `told` now (n_reading,), and how they answer to the numbers (n_reading, n_number).
    """

    numbers: tuple[Assumption, ...]
    readings: Readings
    x: Floats
    start: Floats
    told: Floats
    slopes: Floats

    def calibration(self, project: Project, runs: Sequence[RunFigures]) -> Calibration:
        """Return the fit as it is shown and kept."""
        return _calibration(project, runs, self)

    @property
    def directions(self) -> Floats:
        """What the readings took of the numbers' uncertainty (n_number, n_reading): see `uncertainty.together`."""
        with one_blas_thread():
            spread = self.slopes @ self.slopes.T + self.readings.covariance
            return np.asarray(np.linalg.solve(np.linalg.cholesky(spread), self.slopes).T)


def _worth(readings: Readings, x: Floats, told: Floats) -> float:
    """Minus twice the logarithm of the probability, constants left out."""
    away = readings.values - told
    return float(x @ x + away @ np.linalg.solve(readings.covariance, away))


def descend_to(numbers: Sequence[Assumption], readings: Readings, start: Floats, slopes: Floats) -> Floats:
    """Return the most probable state (n_number,) by one step along slopes taken at the start, where readings are `start`."""
    with one_blas_thread():
        spread = slopes @ slopes.T + readings.covariance
        step = slopes.T @ np.linalg.solve(spread, readings.values - start)
    return np.clip(step, lowest(numbers), highest(numbers))


def _descend(model: ReadingModel, readings: Readings, x: Floats, told: Floats, slopes: Floats) -> tuple[Floats, Floats]:
    """Go to the most probable state, halving steps that make it less probable.

    On the way every step corrects the slopes: C. G. Broyden, Mathematics of Computation 19, 1965.
    """
    worth = _worth(readings, x, told)
    slopes = slopes.copy()
    low, high = lowest(model.numbers), highest(model.numbers)
    with one_blas_thread():
        for _ in range(_ROUNDS):
            spread = slopes @ slopes.T + readings.covariance
            goal = slopes.T @ np.linalg.solve(spread, readings.values - told + slopes @ x)
            step = np.clip(goal, low, high) - x
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


def _calibration(project: Project, runs: Sequence[RunFigures], fit: Fit) -> Calibration:
    readings, x = fit.readings, fit.x
    with one_blas_thread():
        told = fit.directions
        after = np.eye(len(x)) - told @ told.T
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
            tuple(float(one) for one in told[n]),
        )
        for n, one in enumerate(fit.numbers)
    ]
    labels = {sensor.id: sensor.label for sensor in project.device.sensors}
    errors = np.sqrt(np.diag(readings.covariance))
    residuals = tuple(
        Residual(
            run.run.id,
            sensor,
            labels[sensor],
            *(float(one[n]) for one in (readings.values, errors, fit.start, fit.told)),
        )
        for n, (run, sensor) in enumerate(readings.what)
        if sensor is not None and n < readings.read
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
