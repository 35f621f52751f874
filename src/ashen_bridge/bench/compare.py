"""Two builds by their runs: is it better, worse, or can this test not tell?"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.stats import t as student

from ashen_bridge.bench.judgement import Difference, Verdict


def welch(before: Sequence[float], after: Sequence[float], *, se_before: float = 0.0, se_after: float = 0.0) -> Difference:
    """Return the difference of two sets of passes with Welch's interval.

    B. L. Welch, "The generalization of Student's problem", Biometrika 34, 1947; degrees of freedom by Welch and Satterthwaite.
    A single pass has no spread of its own: its standard error within the run stands in, which leaves out the spread from run
    to run.
    """
    a, b = np.asarray(before, dtype=float), np.asarray(after, dtype=float)
    parts = []
    for values, inner in ((a, se_before), (b, se_after)):
        if len(values) > 1:
            # Passes that happen to agree are not known better than each of them.
            parts.append((max(float(values.var(ddof=1)), inner**2) / len(values), len(values) - 1.0))
        else:
            parts.append((inner**2, 30.0))
    total = sum(variance for variance, _ in parts)
    difference = float(b.mean() - a.mean())
    if total <= 0:
        half = 0.0
    else:
        freedom = total**2 / sum(variance**2 / df for variance, df in parts if variance > 0)
        half = float(student.ppf(0.975, freedom) * math.sqrt(total))
    low, high = difference - half, difference + half
    verdict: Verdict = "better" if high < 0 else "worse" if low > 0 else "no difference that this test can show"
    return Difference(float(a.mean()), float(b.mean()), difference, low, high, verdict)


def passes_for(resolution: float, spread: float) -> int:
    """Return how many passes of each build show a difference of `resolution` [K] where passes differ by `spread` [K].

    The 95 % half width t·s·√(2/n) must not exceed it.
    """
    for n in range(2, 100):
        if float(student.ppf(0.975, 2 * n - 2)) * spread * math.sqrt(2 / n) <= resolution:
            return n
    return 100


@dataclass(frozen=True)
class Resistance:
    """Rise over power as a straight line: K/W with its 95 % interval, and which readings do not fit."""

    k_w: float
    low: float
    high: float
    outside: tuple[int, ...]


def rise_over_power(power: Sequence[float], rise: Sequence[float]) -> Resistance | None:
    """Return rise = R·power through the origin by least squares; None for fewer than three readings.

    A reading does not fit if its studentised residual is beyond the 99 % bound.
    """
    p, r = np.asarray(power, dtype=float), np.asarray(rise, dtype=float)
    if len(p) < 3 or not (p > 0).any():
        return None
    slope = float(p @ r / (p @ p))
    rest = r - slope * p
    freedom = len(p) - 1
    variance = float(rest @ rest) / freedom
    error = math.sqrt(variance / float(p @ p))
    half = float(student.ppf(0.975, freedom)) * error
    hat = p**2 / (p @ p)
    with np.errstate(invalid="ignore", divide="ignore"):
        # Without the reading itself, so that one bad reading does not hide behind the spread it makes.
        others = (freedom * variance - rest**2 / (1 - hat)) / max(freedom - 1, 1)
        studentised = rest / np.sqrt(np.maximum(others, 1e-12) * (1 - hat))
    bound = float(student.ppf(0.995, max(freedom - 1, 1)))
    return Resistance(slope, slope - half, slope + half, tuple(int(k) for k in np.flatnonzero(np.abs(studentised) > bound)))
