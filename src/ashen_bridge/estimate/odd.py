"""Which reading does not fit the others (data snooping).

W. Baarda, A Testing Procedure for Use in Geodetic Networks, Delft 1968.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from scipy.special import ndtri
from scipy.stats import chi2

from ashen_bridge.arrays import Floats
from ashen_bridge.estimate.posterior import Posterior, posterior
from ashen_bridge.estimate.rows import Rows

ERROR = 0.05  # chance of naming a reading where none is wrong
_CHECKED = 1e-9  # of a reading that no other one checks
_NINE_OF_TEN, _SURE = 1.2816, 1.6449  # standard deviations that hold 90 % and 95 %, one-sided
_ONE = 1 - 1e-9  # correlation from which two readings say the same
_SAME, _TOGETHER = 1e-6, 0.3  # residuals that go together by less have not one cause


@dataclass(frozen=True)
class Odd:
    """A reading that does not fit: which, how many standard deviations off, and by how much, in its own unit.

    `expected` is what all others say it should have been, with its standard uncertainty; `without` the numbers without it.
    `alike` are readings that might as well be wrong in its place. `separable`: by how much it has to be off to be told from all
    others in nine of ten cases, in its own unit.
    """

    index: int
    label: str
    standardised: float
    off: float
    expected: tuple[float, float]
    without: Posterior
    alike: tuple[str, ...] = ()
    separable: float = 0.0


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


def separable(found: Posterior, error: float = ERROR) -> Floats:
    """Return by how much each reading has to be off to be found, and told from all others, in nine of ten cases (n_reading,).

    In its own unit; infinite for readings that nothing checks, or that another one cannot be told from. Found: its standardised
    residual passes the threshold (W. Baarda 1968). Told apart: it stays above that of the reading with which it correlates most,
    whose residual follows it by their correlation (W. Förstner, Deutsche Geodätische Kommission A 98, 1983, from memory).
    """
    size = np.diag(found.weight)
    checked = redundancy(found) > _CHECKED
    if not checked.any():
        return np.full(len(size), np.inf)
    shared = np.abs(_correlation(found))
    np.fill_diagonal(shared, 0.0)
    most = np.minimum(shared.max(axis=1, initial=0.0), 1.0)
    seen = threshold(int(checked.sum()), error) + _NINE_OF_TEN
    with np.errstate(divide="ignore"):
        apart = _SURE * np.sqrt(2 / np.maximum(1 - most, 0.0))
    told = checked & (most < _ONE)
    return np.where(told, np.maximum(seen, apart) / np.sqrt(np.where(checked, size, 1.0)), np.inf)


def _correlation(found: Posterior) -> Floats:
    """Return how the standardised residuals of all readings go together (n_reading, n_reading)."""
    size = np.sqrt(np.maximum(np.diag(found.weight), 1e-300))
    return np.asarray(np.clip(found.weight / np.outer(size, size), -1.0, 1.0))


def _alike(found: Posterior, away: Floats, n: int) -> tuple[str, ...]:
    """Return the readings whose residuals are not surely smaller than that of the odd one."""
    shared = np.abs(_correlation(found)[n])
    spread = np.sqrt(np.maximum(2 * (1 - shared), 0.0))
    near = (np.abs(away[n]) - np.abs(away) < _NINE_OF_TEN * spread + _SAME) & (np.arange(len(away)) != n) & (shared > _TOGETHER)
    return tuple(found.rows.label(int(k)) for k in np.flatnonzero(near & (away != 0)))


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
        found.append(replace(one, index=kept[one.index]))
        del kept[one.index]
        left = one.without
    return tuple(found)


def _odd(rows: Rows, n: int, away: float, found: Posterior) -> Odd:
    off = away / float(np.sqrt(found.weight[n, n]))
    alike, limit = _alike(found, standardised(found), n), float(separable(found)[n])
    without = posterior(rows.without(n))
    spread = float(np.sqrt(max(1 / found.weight[n, n] - rows.covariance[n, n], 0.0)))
    return Odd(n, rows.label(n), away, off, (float(rows.values[n]) - off, spread), without, alike, limit)
