"""Which reading does not fit the others (data snooping).

W. Baarda, A Testing Procedure for Use in Geodetic Networks, Delft 1968.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.special import ndtri
from scipy.stats import chi2

from ashen_bridge.arrays import Floats
from ashen_bridge.estimate.posterior import Posterior, posterior
from ashen_bridge.estimate.rows import Rows

ERROR = 0.05  # chance of naming a reading where none is wrong
_CHECKED = 1e-9  # of a reading that no other one checks


@dataclass(frozen=True)
class Odd:
    """A reading that does not fit: which, how many standard deviations off, and by how much, in its own unit.

    `expected` is what all others say it should have been, with its standard uncertainty; `without` the numbers without it.
    """

    index: int
    label: str
    standardised: float
    off: float
    expected: tuple[float, float]
    without: Posterior


def standardised(found: Posterior) -> Floats:
    """Return by how many standard deviations each reading is off what all others say (n_reading,), with its sign.

    Zero for readings that no other one, and no number known beforehand, checks.
    """
    pull = found.weight @ (found.rows.values - found.rows.start)
    size = np.diag(found.weight)
    checked = redundancy(found) > _CHECKED
    return np.where(checked, pull / np.sqrt(np.where(checked, size, 1.0)), 0.0)


def redundancy(found: Posterior) -> Floats:
    """Return which share of each reading's error shows in its residual (n_reading,): 0 checked by nothing, 1 altogether.

    One less this is its leverage, where readings are independent.
    """
    if not found.rows.n_reading:
        return np.zeros(0)
    return np.asarray(np.diag(found.weight) / np.diag(np.linalg.inv(found.rows.covariance)))


def threshold(count: int, error: float = ERROR) -> float:
    """Return from how many standard deviations on a reading is odd, the largest of `count` by chance staying below.

    Two-sided, by Z. Šidák, Journal of the American Statistical Association 62, 1967.
    """
    return float(ndtri(1 - (1 - (1 - error) ** (1 / max(count, 1))) / 2))


def contradict(found: Posterior, error: float = ERROR) -> bool:
    """Return whether readings, taken together, are further from what was expected than chance makes them."""
    freedom = found.rows.n_reading - (0 if found.rows.free is None else int(found.rows.free.sum()))
    return freedom > 0 and float(chi2.sf(found.misfit, freedom)) < error


def odd_one(found: Posterior, error: float = ERROR) -> Odd | None:
    """Return the reading that is furthest off, if it is further than chance makes the furthest of so many."""
    away = standardised(found)
    if not len(away):
        return None
    n = int(np.argmax(np.abs(away)))
    checked = int((redundancy(found) > _CHECKED).sum())
    if abs(away[n]) <= threshold(checked, error):
        return None
    return _odd(found.rows, n, float(away[n]), found)


def odd_ones(rows: Rows, most: int = 3) -> tuple[Odd, ...]:
    """Return readings that do not fit, the worst first, each found without the ones before it."""
    found: list[Odd] = []
    left, kept = posterior(rows), list(range(rows.n_reading))
    while len(found) < most and (one := odd_one(left)) is not None:
        found.append(Odd(kept[one.index], one.label, one.standardised, one.off, one.expected, one.without))
        del kept[one.index]
        left = one.without
    return tuple(found)


def _odd(rows: Rows, n: int, away: float, found: Posterior) -> Odd:
    off = away / float(np.sqrt(found.weight[n, n]))
    without = posterior(rows.without(n))
    spread = float(np.sqrt(max(1 / found.weight[n, n] - rows.covariance[n, n], 0.0)))
    return Odd(n, rows.label(n), away, off, (float(rows.values[n]) - off, spread), without)
