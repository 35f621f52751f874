"""How far passes of one build lie apart, and which differences of two builds stand out of that, over many sensors at once."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.stats import t as student

from ashen_bridge.arrays import Floats
from ashen_bridge.bench.judgement import Difference, Verdict

USUAL_K = 0.4
"""What passes of one build differ by where it was not measured; common practice, no source."""
USUAL_FREEDOM = 8.0
"""How well that is known, in degrees of freedom."""
_LEVEL = 0.05


@dataclass(frozen=True)
class Spread:
    """Variance of one pass's reading [K²] and its degrees of freedom; `measured` or the usual one."""

    variance: float
    freedom: float
    measured: bool


@dataclass(frozen=True)
class Passes:
    """One sensor in two runs: rises per pass, and the largest standard error of one [K]."""

    before: Sequence[float]
    after: Sequence[float]
    error_before: float = 0.0
    error_after: float = 0.0


def spread_between(runs: Sequence[Floats]) -> Spread:
    """Return the spread between passes, pooled over runs and sensors.

    Each run is (n_sensor, n_pass), NaN where a pass does not count. A pass moves all sensors together (room, mount of the
    thermometer) and each by itself: the variance of both parts is told apart as in a two-way table (Montgomery, Design and
    Analysis of Experiments, random effects), and the degrees of freedom of their sum are Satterthwaite's. Where fewer than two
    are left, the usual spread stands in unless what was seen is larger.
    """
    own = common = own_freedom = common_freedom = weight = 0.0
    for table in runs:
        rows = table[(~np.isnan(table)).sum(axis=1) > 1]
        if not len(rows):
            continue
        rest = rows - np.nanmean(rows, axis=1, keepdims=True)
        counted = ~np.isnan(rest).all(axis=0)
        shared = np.nanmean(rest[:, counted], axis=0)
        alone = rest[:, counted] - shared
        passes, cells = int(counted.sum()), int((~np.isnan(alone)).sum())
        common += float(shared @ shared)
        common_freedom += passes - 1
        own += float(np.nansum(alone**2))
        own_freedom += max(cells - len(rows) - (passes - 1), 0)
        weight = max(weight, 1 - 1 / len(rows))
    if not common_freedom:
        return Spread(USUAL_K**2, USUAL_FREEDOM, measured=False)
    parts = [(common / common_freedom, common_freedom)]
    if own_freedom:
        parts.append((weight * own / own_freedom, own_freedom))
    variance = sum(part for part, _ in parts)
    freedom = variance**2 / sum(part**2 / df for part, df in parts) if variance > 0 else common_freedom
    if freedom < 2 and variance < USUAL_K**2:
        return Spread(USUAL_K**2, USUAL_FREEDOM, measured=False)
    return Spread(variance, freedom, measured=True)


def differences(sensors: Sequence[Passes], spread: Spread) -> tuple[Difference, ...]:
    """Return what stands out at each sensor, with false verdicts over all of them together held to 5 %.

    S. Holm, "A simple sequentially rejective multiple test procedure", Scand. J. Statist. 6, 1979. Intervals are those of the
    step at which a sensor was decided, so that an interval without zero and a verdict are one thing.
    """
    found = [_one(sensor, spread) for sensor in sensors]
    order = sorted(range(len(found)), key=lambda n: -abs(found[n][0]) / max(found[n][1], 1e-12))
    verdicts: dict[int, Difference] = {}
    left, open_ = len(found), True
    for n in order:
        difference, error = found[n]
        half = float(student.isf(_LEVEL / left / 2, spread.freedom)) * error
        open_ = open_ and abs(difference) > half
        left -= open_ and left > 1
        verdict: Verdict = "no difference that this test can show"
        if open_:
            verdict = "worse" if difference > 0 else "better"
        half = half if open_ else max(half, abs(difference))
        means = (float(np.mean(sensors[n].before)), float(np.mean(sensors[n].after)))
        verdicts[n] = Difference(*means, difference, difference - half, difference + half, verdict)
    return tuple(verdicts[n] for n in range(len(found)))


def _one(sensor: Passes, spread: Spread) -> tuple[float, float]:
    """Return a difference of means and its standard error [K]."""
    variance = sum(
        max(spread.variance, inner**2) / len(values)
        for values, inner in ((sensor.before, sensor.error_before), (sensor.after, sensor.error_after))
    )
    return float(np.mean(sensor.after) - np.mean(sensor.before)), math.sqrt(variance)
