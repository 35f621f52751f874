"""Which fault explains what runs measured? Hypotheses fitted one by one and weighed against each other and against none.

Readings are weighed by all that is uncertain anyway (measurement and every stated ±), so that a fault is only named where those
do not explain it. Each hypothesis pays two for its number (H. Akaike, IEEE Trans. Autom. Control 19, 1974), and twice the
logarithm of how many there are for having been picked among them, which is a uniform prior.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field
from typing import TYPE_CHECKING

import numpy as np
from scipy.optimize import minimize_scalar
from scipy.stats import chi2

from ashen_bridge.arrays import Floats
from ashen_bridge.arrays.blas import one_blas_thread
from ashen_bridge.bench.hypotheses import Hypothesis, hypotheses
from ashen_bridge.bench.judgement import Diagnosis, Suspect
from ashen_bridge.bench.reading_model import ReadingModel, readying
from ashen_bridge.bench.readings import readings_of, uncertain_numbers
from ashen_bridge.logs.outcome import RunError, RunFigures
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.project import Project
from ashen_bridge.words.numbers import number, percent

if TYPE_CHECKING:
    from ashen_bridge.predict.engine import Engine

_FITTED = 6  # hypotheses that are fitted in full, those whose first try promises most
_TRY = 0.4  # of the way from healthy to worst: the first try
UNLIKELY = 1e-3  # chance below which readings are not explained
UNDECIDED = 2.0  # times as likely as the next: below, it is not decided


def diagnose(engine: Engine, project: Project, runs: Sequence[RunFigures]) -> Diagnosis:
    """Return the diagnosis. Raises `RunError` where runs are of several builds or hold nothing to go by."""
    *_, (_, found) = diagnosing(engine, project, runs)
    assert found is not None  # the last one always is
    return found


def diagnosing(engine: Engine, project: Project, runs: Sequence[RunFigures]) -> Iterator[tuple[float, Diagnosis | None]]:
    """Yield (progress, None) while hypotheses are tried, and (1, diagnosis) at the end."""
    for share, trial in Trial.preparing(engine, project, runs):
        yield 0.6 * share, None
        if trial is not None:
            for judged, found in trial.judging(runs):
                yield 0.6 + 0.4 * judged, found


@dataclass(frozen=True)
class _Tried:
    """A hypothesis with its readings (n,) at its first try; None where it cannot be."""

    hypothesis: Hypothesis
    readings: Floats


@dataclass(frozen=True)
class Trial:
    """What does not depend on what was measured: the model's readings, their slopes, and every hypothesis' first try.

    `known`: readings worked out while fitting, by hypothesis and hundredths of its range; runs judged later need them too.
    """

    model: ReadingModel
    told: Floats
    slopes: Floats
    tried: tuple[_Tried, ...]
    known: dict[tuple[str, int], Floats | None] = field(default_factory=dict, compare=False)

    @classmethod
    def preparing(cls, engine: Engine, project: Project, runs: Sequence[RunFigures]) -> Iterator[tuple[float, Trial | None]]:
        """Yield (progress, None), and (1, trial) at the end. Raises `RunError` where runs are of several builds."""
        places = {(run.run.build, run.run.point) for run in runs}
        if len(places) != 1:
            raise RunError("A diagnosis is of one build at one operating point; these runs are of several.")
        build, point = places.pop()
        readings = readings_of(project, runs, engine)
        numbers = uncertain_numbers(project, runs)
        model = ReadingModel(engine, project, numbers, readings)
        nowhere = np.zeros(len(numbers))
        for progress, ready in readying(engine, project, numbers, readings):
            yield 0.5 * progress, None
            model = ready or model
        model, told = model.anchored(nowhere) or (model, model.of(project))
        slopes = model.slopes(nowhere, told)
        listed = hypotheses(project, build, point)
        tried = []
        for n, one in enumerate(listed):
            there = _readings(model, told, one, one.healthy + _TRY * (one.worst - one.healthy))
            if there is not None:
                tried.append(_Tried(one, there))
            yield 0.5 + 0.5 * (n + 1) / (len(listed) + 1), None
        yield 1.0, cls(model, told, slopes, tuple(tried))

    def judging(self, runs: Sequence[RunFigures]) -> Iterator[tuple[float, Diagnosis | None]]:
        """Yield (progress, None) while the likeliest are fitted to the runs, and (1, diagnosis) at the end."""
        readings = readings_of(self.model.project, runs, self.model.engine)
        with one_blas_thread():
            weight = np.asarray(np.linalg.inv(self.slopes @ self.slopes.T + readings.covariance), dtype=np.float64)
        away = readings.values - self.told

        def misfit(there: Floats) -> float:
            rest = readings.values - there
            return float(rest @ weight @ rest)

        healthy = misfit(self.told)
        promising = sorted(self.tried, key=lambda one: -_promise(away, one.readings - self.told, weight))[:_FITTED]
        price = 2 + 2 * math.log(max(len(self.tried), 1))
        sensors = [n for n, (_, sensor) in enumerate(readings.what) if sensor is not None]
        found: list[tuple[float, float, Hypothesis, float, float]] = []
        for n, one in enumerate(promising):
            value, there = self._fitted(one, misfit)
            rest = (readings.values - there)[sensors]
            found.append((misfit(there) + price, misfit(there), one.hypothesis, value, float(np.sqrt(np.mean(rest**2)))))
            yield (n + 1) / (len(promising) + 1), None
        lowest = min([healthy, *(one[0] for one in found)])
        beliefs = [math.exp(-(one[0] - lowest) / 2) for one in found]
        none = math.exp(-(healthy - lowest) / 2)
        total = none + sum(beliefs)
        rows = sorted(zip(found, beliefs, strict=True), key=lambda pair: pair[0][0])
        suspects = tuple(
            Suspect(h.id, h.title, h.says(value), h.about, h.confirm, value, rms, criterion, belief / total)
            for (criterion, _, h, value, rms), belief in rows
        )
        best = rows[0][0][1] if rows else healthy
        named, verdict = _verdict(suspects, healthy, none / total, best, len(away))
        rest = away[sensors]
        ids = tuple(run.run.id for run in runs)
        yield 1.0, Diagnosis(ids, suspects, float(np.sqrt(np.mean(rest**2))), none / total, verdict, named)

    def _fitted(self, one: _Tried, misfit: Callable[[Floats], float]) -> tuple[float, Floats]:
        """Return the number of a hypothesis that explains most, and the readings there."""
        h = one.hypothesis
        if h.all_or_nothing:
            full = _readings(self.model, self.told, h, h.worst)
            return h.worst, one.readings if full is None else full
        seen = {h.healthy: self.told, h.healthy + _TRY * (h.worst - h.healthy): one.readings}

        def at(share: float) -> float:
            step = round(100 * share)  # finer than that is not told apart
            value = h.healthy + step / 100 * (h.worst - h.healthy)
            if (h.id, step) not in self.known:
                self.known[h.id, step] = _readings(self.model, self.told, h, value)
            there = self.known[h.id, step]
            if there is None:
                return 1e9
            seen[value] = there
            return misfit(there)

        minimize_scalar(at, bounds=(0.0, 1.0), method="bounded", options={"maxiter": 7, "xatol": 0.01})
        best = min(seen, key=lambda value: misfit(seen[value]))
        return best, seen[best]


def _readings(model: ReadingModel, told: Floats, one: Hypothesis, value: float) -> Floats | None:
    if one.sensor:
        reads = [sensor == one.sensor for _, sensor in model.readings.what]
        return told + value * np.array(reads, dtype=float) if any(reads) else None
    try:
        return model.of(one.applied(model.project, value))
    except AshenError:
        return None


def _promise(away: Floats, direction: Floats, weight: Floats) -> float:
    """By how much a step along a direction, forwards only, can lower the misfit."""
    along = float(direction @ weight @ away)
    size = float(direction @ weight @ direction)
    return along**2 / size if along > 0 and size > 0 else 0.0


def _verdict(suspects: tuple[Suspect, ...], healthy: float, none: float, best: float, count: int) -> tuple[str | None, str]:
    if not suspects or none >= suspects[0].weight:
        if chi2.sf(healthy, count) < UNLIKELY:
            return None, "None of the usual faults explains these readings; something else is wrong, or a number is far off."
        return None, "The readings fit the device as it is said to be; no fault is needed to explain them."
    first = suspects[0]
    if chi2.sf(best, max(count - 1, 1)) < UNLIKELY:
        return None, f"None explains it: even the best, “{first.title}”, leaves {number(first.misfit_k, 1)} K."
    beside = max([("nothing is wrong", none), *((one.title, one.weight) for one in suspects[1:])], key=lambda pair: pair[1])
    if first.weight < UNDECIDED * beside[1]:
        told = f"Undecided: “{first.title}” ({percent(first.weight)}) or “{beside[0]}” ({percent(beside[1])})."
        return first.id, f"{told} {first.confirm}"
    rivals = [one for one in suspects[1:] if one.weight > 0.1]
    undecided = f" Not ruled out: {'; '.join(one.title for one in rivals)}." if rivals else ""
    return first.id, f"{first.title}, {first.says} (belief {percent(first.weight)}). {first.confirm}{undecided}"
