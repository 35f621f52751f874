"""How many passes show a difference, and what rises over power come to."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.stats import t as student


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
