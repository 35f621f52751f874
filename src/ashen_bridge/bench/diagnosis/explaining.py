"""How well a fault of unknown size explains readings: its evidence against none, over all sizes it may have.

The evidence of a fault is the mean of its likelihood over what it may be beforehand (H. Jeffreys, Theory of Probability, 1961,
chapter 5), so a fault that could be anything is believed less than one that says what is seen.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace

import numpy as np
from scipy.interpolate import PchipInterpolator

from ashen_bridge.arrays import Floats

_GRID = np.linspace(0.02, 1.0, 50)
_SMALLER = 2.0  # small faults are commoner: odds of a size fall by e twice over its range; common practice, no source
_AS_MUCH, _HANGS = np.geomspace(0.4, 2.5, 9), 0.4  # common practice, no source
_SENSOR_K = 3.0  # how far off a sensor is that is not trimmed, one standard deviation; common practice, no source


@dataclass(frozen=True)
class Explained:
    """How a fault explains readings: the logarithm of its evidence, its likeliest share of the worst, the misfit that is left
    there (chi-square) and what it does to the readings (n,).
    """

    evidence: float
    share: float
    misfit: float
    response: Floats


@dataclass(frozen=True)
class Misfit:
    """Readings less what the device as said shows (n,), and the inverse of the covariance of that (n, n).

    width : half the logarithm of its determinant.
    """

    away: Floats
    weight: Floats
    width: float = 0.0

    @property
    def evidence(self) -> float:
        """The logarithm of the evidence that nothing is wrong, but for what all hypotheses have in common."""
        return self.width - self.none / 2

    def of(self, response: Floats) -> Floats:
        """Return the chi-square (…,) of responses (…, n)."""
        rest = self.away - response
        return np.asarray(np.einsum("...i,ij,...j->...", rest, self.weight, rest))

    @property
    def none(self) -> float:
        """The chi-square without any fault."""
        return float(self.of(np.zeros(len(self.away))))

    def apart(self, one: Floats, other: Floats) -> float:
        """Return how far two responses are apart, in standard deviations of what is uncertain."""
        rest = one - other
        return math.sqrt(max(float(rest @ self.weight @ rest), 0.0))


def explained(misfit: Misfit, known: Mapping[float, Floats]) -> Explained:
    """Return how a fault explains readings whose response (n,) is known at some shares of its worst; at 0 it is nothing."""
    shares = np.array(sorted({0.0, *known}))
    zero = np.zeros(len(misfit.away))
    points = np.stack([known.get(float(share), zero) for share in shares])
    if len(shares) == 2:
        curve: Callable[[Floats], Floats] = lambda at: np.outer(at / shares[1], points[1])  # noqa: E731
        grid = _GRID[max(2.5 * shares[1], 0.02) >= _GRID]
    else:
        grid, curve = _GRID[shares[-1] >= _GRID], PchipInterpolator(shares, points, axis=0)
    responses = np.asarray(curve(grid))
    odds = np.exp(-_SMALLER * grid)
    return _over(misfit, grid, responses, odds / np.exp(-_SMALLER * _GRID).sum())


def explained_whole(misfit: Misfit, response: Floats) -> Explained:
    """Return how a fault explains readings that is there altogether or not at all.

    What it does hangs on the device's own numbers more than along straight lines, so it may do half or twice as much.
    """
    more = np.log(_AS_MUCH)
    odds = np.exp(-0.5 * (more / _HANGS) ** 2)
    found = _over(misfit, _AS_MUCH, np.outer(_AS_MUCH, response), odds / odds.sum())
    return replace(found, share=1.0)


def explained_sensor(misfit: Misfit, unit: Floats, worst_k: float) -> Explained:
    """Return how a sensor explains readings that is off to one side, its `unit` response (n,) being one kelvin that way."""
    shares = (np.arange(len(_GRID)) + 0.5) / len(_GRID)
    sizes = abs(worst_k) * shares
    odds = np.exp(-0.5 * (sizes / _SENSOR_K) ** 2)
    return _over(misfit, shares, np.outer(sizes, unit), odds / odds.sum())


def _over(misfit: Misfit, shares: Floats, responses: Floats, odds: Floats) -> Explained:
    found = misfit.of(responses)
    gains = misfit.width - found / 2 + np.log(odds)
    best = int(np.argmax(gains))
    top = float(gains[best])
    evidence = top + math.log(float(np.exp(gains - top).sum()))
    return Explained(evidence, float(shares[best]), float(found[best]), responses[best])
