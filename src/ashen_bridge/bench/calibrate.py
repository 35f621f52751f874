"""Fit the model to what runs measured: every uncertain number moves as far as the readings ask and its own ± allows."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property, partial
from typing import TYPE_CHECKING

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.arrays.blas import one_blas_thread
from ashen_bridge.bench.judgement import TOLD, Calibration, FittedNumber, OddReading, Residual
from ashen_bridge.bench.reading_model import ReadingModel, readying
from ashen_bridge.bench.readings import Readings, readings_of, uncertain_numbers, watching
from ashen_bridge.estimate.descent import SETTLED, Goal, descending, stepping
from ashen_bridge.estimate.odd import odd_ones, standardised
from ashen_bridge.estimate.posterior import Posterior, posterior
from ashen_bridge.estimate.rows import Rows
from ashen_bridge.estimate.telling import information
from ashen_bridge.logs.outcome import RunError, RunFigures
from ashen_bridge.model.project import Project
from ashen_bridge.uncertainty.assumptions import Assumption
from ashen_bridge.uncertainty.drawing import highest, lowest
from ashen_bridge.uncertainty.together import correlation_of

if TYPE_CHECKING:
    from ashen_bridge.predict.engine import Engine

_STEPS = (1.0, 1.0, 0.3, 0.3)  # standard uncertainties by which slopes are taken, turn by turn: where a pad lets go, short ones
_MET = 1.5  # standard errors within which a reading is explained
_TRIED = 6  # states within what is left at which the slopes are tried
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
    goal = Goal(readings.values, readings.covariance, lowest(numbers), highest(numbers), correlation_of(numbers))
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
        before, there = goal.worth(x, told), x
        x, told = yield from stepping(descending(model.at, goal, x, told, slopes), partial(_shown_at, turn + 0.5))
        # What is fitted is fitted to what is shown: the reduced field leads, the fine one decides.
        model, told = (yield from stepping(model.anchoring(x), partial(_shown_at, turn + 0.7))) or (model, told)
        settled = before - goal.worth(x, told) < SETTLED or np.abs(x - there).max(initial=0.0) < near
        away = np.abs(readings.values - told)[: readings.read] / np.sqrt(np.diag(readings.covariance))[: readings.read]
        if settled and away.max() < _MET:
            break
    fit = Fit(numbers, readings, x, start, told, slopes)
    yield 1.0, fit.tried(model, goal)


def _shown_at(turn: float, progress: float) -> tuple[float, None]:
    return 0.6 + 0.4 * (turn + 0.2 * progress) / len(_STEPS), None


@dataclass(frozen=True)
class Fit:
    """Where a fit ended: its numbers at `x` (n_number,) in standard uncertainties, the readings as they were at the `start`
    and as they are `told` now (n_reading,), and how they answer to the numbers (n_reading, n_number).

    `bent_k`: by how much readings [K, root mean square] are off the straight lines of the slopes within what is left.
    """

    numbers: tuple[Assumption, ...]
    readings: Readings
    x: Floats
    start: Floats
    told: Floats
    slopes: Floats
    bent_k: float = 0.0

    @cached_property
    def estimate(self) -> Posterior:
        """What the readings say of the numbers, by the slopes where they led to."""
        read, names = self.readings.read, self.readings.labels
        slopes = self.slopes[:read]
        rows = Rows(
            self.readings.values[:read],
            self.readings.covariance[:read, :read],
            self.told[:read] - slopes @ self.x,
            slopes,
            names[:read],
            correlation_of(self.numbers),
        )
        return posterior(rows)

    @property
    def directions(self) -> Floats:
        """What the readings took of the numbers' uncertainty (n_number, n_reading): see `uncertainty.together`."""
        before = correlation_of(self.numbers)
        with one_blas_thread():
            shared = self.slopes if before is None else self.slopes @ before
            spread = self.slopes @ shared.T + self.readings.covariance
            return np.asarray(np.linalg.solve(np.linalg.cholesky(spread), shared).T)

    def tried(self, model: ReadingModel, goal: Goal) -> Fit:
        """Return the fit with how far its slopes can be trusted, by some states that are as likely as not."""
        random = np.random.default_rng(len(self.x))
        away = []
        for _ in range(_TRIED):
            drawn = np.clip(self.x + self.estimate.root @ random.standard_normal(len(self.x)), goal.low, goal.high)
            there = model.at(drawn)
            if there is not None:
                straight = self.told + self.slopes @ (drawn - self.x)
                sensors = [n for n, (_, sensor) in enumerate(self.readings.what) if sensor is not None and n < self.readings.read]
                away.append((there - straight)[sensors])
        bent = float(np.sqrt(np.mean(np.square(away)))) if away else 0.0
        return Fit(self.numbers, self.readings, self.x, self.start, self.told, self.slopes, bent)

    def calibration(self, project: Project, runs: Sequence[RunFigures]) -> Calibration:
        """Return the fit as it is shown and kept."""
        directions = self.directions
        residuals = self._residuals(project)
        misfits = [
            float(np.sqrt(np.mean([(shown - one.measured) ** 2 for one, shown in zip(residuals, values, strict=True)])))
            for values in ([one.before for one in residuals], [one.after for one in residuals])
        ]
        after = (np.eye(len(self.x)) if (shared := correlation_of(self.numbers)) is None else shared) - directions @ directions.T
        sd = np.sqrt(np.maximum(np.diag(after), 1e-9))
        fitted = [
            FittedNumber(
                one.paths,
                one.field,
                one.owners,
                one.value,
                one.uncertainty,
                one.value + float(self.x[n]) * one.uncertainty,
                float(sd[n]) * one.uncertainty,
                float(1 - sd[n] ** 2),
                tuple(float(one) for one in directions[n]),
            )
            for n, one in enumerate(self.numbers)
        ]
        return Calibration(
            tuple(run.run.id for run in runs),
            tuple(sorted(fitted, key=lambda one: -one.told)),
            residuals,
            misfits[0],
            misfits[1],
            _not_apart(fitted, after / np.outer(sd, sd)),
            self._odd(project),
            self.bent_k,
        )

    def _residuals(self, project: Project) -> tuple[Residual, ...]:
        labels = {sensor.id: sensor.label for sensor in project.device.sensors}
        errors = np.sqrt(np.diag(self.readings.covariance))
        off, tells = standardised(self.estimate), information(self.estimate)
        columns = (self.readings.values, errors, self.start, self.told, off, tells)
        return tuple(
            Residual(run.run.id, sensor, labels[sensor], *(float(one[n]) for one in columns))
            for n, (run, sensor) in enumerate(self.readings.what[: self.readings.read])
            if sensor is not None
        )

    def _odd(self, project: Project) -> tuple[OddReading, ...]:
        labels = {sensor.id: sensor.label for sensor in project.device.sensors}
        found = []
        for odd in odd_ones(self.estimate.rows):
            run, sensor = self.readings.what[odd.index]
            name = labels[sensor] if sensor is not None else "The power"
            found.append(OddReading(run.run.id, run.run.label, sensor or "", name, odd.off, odd.standardised, *odd.expected))
        return tuple(found)


def _not_apart(fitted: Sequence[FittedNumber], correlation: Floats) -> tuple[tuple[str, str, float], ...]:
    """Return pairs of numbers that the readings moved and did not tell apart, with their correlation."""
    moved = [n for n, one in enumerate(fitted) if one.told >= TOLD]
    pairs = [
        (_label(fitted[a]), _label(fitted[b]), float(correlation[a, b]))
        for k, a in enumerate(moved)
        for b in moved[k + 1 :]
        if abs(correlation[a, b]) >= ALIKE
    ]
    return tuple(sorted(pairs, key=lambda pair: -abs(pair[2])))


def _label(one: FittedNumber) -> str:
    return f"{one.owners[0]}{f' and {len(one.owners) - 1} more' if len(one.owners) > 1 else ''}: {one.field}"
