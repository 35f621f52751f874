"""What a climbing channel is heading for, with an interval that is as wide as the data leave it."""

from __future__ import annotations

import itertools
import math
from dataclasses import dataclass
from functools import cached_property, lru_cache

import numpy as np
import numpy.typing as npt
from scipy.special import ndtr

from ashen_bridge.arrays import Floats
from ashen_bridge.arrays.blas import one_blas_thread
from ashen_bridge.logs.outcome import Heading, Refusal
from ashen_bridge.logs.statistics import effective_count, spikes

KNOWN_K = 3.0
"""Half width [K] beyond which an end is not known: it says nothing a repair could be judged by."""
_MOST_POINTS = 300
_FASTEST, _SLOWEST = 0.006, 3.0  # of the length of the log: time constants that are looked for
_STEPS = {1: 1440, 2: 90, 3: 28}  # time constants tried, evenly on a logarithmic scale, by how many there are at once
_LONG = 0.5  # of the length of the log: time constants above are slow ones
_LARGE, _LARGE_SLOW, _LARGE_ALONE = (
    1.5,
    0.1,
    4.0,
)  # about how large amplitudes are, of the range that was seen; common practice, no source
_FLOOR_K, _OF_LEFT = 0.2, 0.1  # what no sum of exponentials says: of any end, and of the way that is left
_FACTOR = 3.0  # by which a stated slowest time constant may be off


def thinned(time: Floats, values: Floats, most: int = _MOST_POINTS) -> tuple[Floats, Floats]:
    """Return a series averaged in blocks to at most `most` points, NaN left out."""
    keep = np.isfinite(values) & np.isfinite(time)
    time, values = time[keep], values[keep]
    block = max(1, math.ceil(len(time) / most))
    if block == 1:
        return time, values
    whole = len(time) // block * block
    return time[:whole].reshape(-1, block).mean(axis=1), values[:whole].reshape(-1, block).mean(axis=1)


def without_spikes(values: Floats) -> Floats:
    """Return a series in which single samples that stand alone are NaN."""
    found = values.copy()
    known = np.flatnonzero(np.isfinite(values))
    found[known[spikes(values[known])]] = np.nan
    return found


def heading(time: Floats, values: Floats, slowest_s: float | None = None) -> Heading | Refusal:
    """Return what a channel is heading for, or why that cannot be told.

    y = end + Σ a·exp(−t/τ) with one to three time constants, every set of a grid weighed by how well it explains the data
    (Bayes; amplitudes up to the range that was seen, constants alike on a logarithmic scale, or about `slowest_s` within a factor
    of three for the slowest). Residuals that follow each other count as the fewer samples they are worth. The 95 % interval
    spans all that remains possible; wider than ± 3 K it is a refusal.
    """
    t, y = thinned(time, without_spikes(values))
    if len(t) < 12:
        return Refusal("there are too few samples", 0.0)
    last = max(4, len(t) // 8)
    slope = float(np.polyfit(t[-last:] - t[-1], y[-last:], 1)[0] * 60)
    with one_blas_thread():
        found = _weighed(t - t[0], y, slowest_s)
    low, high = found.quantile(0.025), found.quantile(0.975)
    if (high - low) / 2 > KNOWN_K:
        return Refusal(f"its end is uncertain by ± {(high - low) / 2:.0f} K", slope)
    return Heading(found.quantile(0.5), low, high, found.constants, slope)


@dataclass(frozen=True)
class _Ends:
    """Possible ends [K] with their spreads and weights, and the most probable time constants [s]."""

    mean: Floats
    spread: Floats
    weight: Floats
    constants: tuple[float, ...]

    def quantile(self, share: float) -> float:
        """Return the end below which `share` of all that is possible lies."""
        low = float((self.mean - 8 * self.spread).min())
        high = float((self.mean + 8 * self.spread).max())
        for _ in range(40):
            middle = (low + high) / 2
            if float(self.weight @ ndtr((middle - self.mean) / self.spread)) < share:
                low = middle
            else:
                high = middle
        return (low + high) / 2


def _weighed(t: Floats, y: Floats, slowest_s: float | None) -> _Ends:
    """Weigh all sets of one, two and three time constants of a grid, whose end and amplitudes follow by least squares."""
    n = len(t)
    centre, range_k = float(y[-1]), max(float(np.ptp(y)), 1.0)
    # What the noise is worth says how much the amplitudes' own likelihood counts.
    rough = _tried(t, y - centre, 2, 0.0)
    rest = _rest(t, y, _constants([rough], int(np.argmin(rough.misfit))))
    worth = min(max(effective_count(rest), 6.0), n - 7.0)
    variance = max(float(rest @ rest) / (n - 7.0), 1e-6)
    tried = [_tried(t, y - centre, count, variance * n / worth / range_k**2) for count in _STEPS]
    end, end_variance, misfit, slow = (
        np.concatenate([getattr(one, name) for one in tried]) for name in ("end", "end_variance", "misfit", "slow")
    )
    counts = np.repeat(list(_STEPS), [len(one.end) for one in tried])
    # The likelihood of n samples that are worth fewer, and as much less for every number that was fitted.
    log = -0.5 * misfit / variance * (worth / n) - counts * math.log(worth)
    log -= np.log(np.repeat([len(one.end) for one in tried], [len(one.end) for one in tried]))
    if slowest_s is not None:
        log -= 0.5 * (np.log(slow / slowest_s) / math.log(_FACTOR)) ** 2
    weight = np.exp(log - log.max())
    weight /= weight.sum()
    keep = weight > 1e-6
    left = np.abs(end[keep] + centre - float(np.mean(y[-max(4, n // 12) :])))
    spread = np.sqrt(end_variance[keep] * variance * n / worth + _FLOOR_K**2 + (_OF_LEFT * left) ** 2)
    kept = weight[keep] / weight[keep].sum()
    return _Ends(end[keep] + centre, spread, kept, _constants(tried, int(np.argmax(weight))))


@dataclass(frozen=True)
class _Tried:
    """All sets of some number of time constants (n, count) [s]: end, its variance over that of one sample, misfit, slowest."""

    constants: Floats
    end: Floats
    end_variance: Floats
    misfit: Floats

    @property
    def slow(self) -> Floats:
        """The slowest of each set [s]."""
        return np.asarray(self.constants.max(axis=1))


def _tried(t: Floats, y: Floats, count: int, noise: float) -> _Tried:
    """Solve for every set; `noise` is the variance of an independent sample over the square of the range that was seen."""
    sets = _sets(t.tobytes(), count)
    target, total = (sets.shapes.T @ y)[sets.chosen], float(y @ y)
    inverse = sets.inverse(noise) if noise else sets.noiseless
    answer = np.einsum("nij,nj->ni", inverse, target)
    misfit = np.maximum(total - np.einsum("ni,ni->n", answer, target), 0.0)
    return _Tried(sets.grid[sets.chosen[:, 1:] - 1], answer[:, 0], inverse[:, 0, 0], misfit)


@dataclass(frozen=True)
class _Sets:
    """What all sets of so many time constants are over given times, whatever was measured: the same for all channels of a log.

    grid [s]; shapes (n_time, 1 + n_grid), the constant one first; chosen (n, 1 + count) of its columns; products (n, 1 + count,
    1 + count) of those with each other; largest (n_grid,) amplitudes, of the range that was seen.
    """

    grid: Floats
    shapes: Floats
    chosen: npt.NDArray[np.intp]
    products: Floats
    largest: Floats

    def inverse(self, noise: float) -> Floats:
        """Return the inverse of the products, with what is known of the amplitudes beforehand."""
        ridge = np.concatenate([[0.0], noise / self.largest**2 + 1e-12])
        at = np.arange(self.chosen.shape[1])
        own = self.products.copy()
        own[:, at, at] += ridge[self.chosen]
        return np.asarray(np.linalg.inv(own), dtype=np.float64)

    @cached_property
    def noiseless(self) -> Floats:
        """The same without any noise."""
        return self.inverse(0.0)


@lru_cache(maxsize=6)
def _sets(times: bytes, count: int) -> _Sets:
    t = np.frombuffer(times)
    grid = np.geomspace(_FASTEST, _SLOWEST, _STEPS[count]) * t[-1]
    shapes = np.column_stack([np.ones(len(t)), np.exp(-t[:, None] / grid)])
    largest = np.where(grid > _LONG * t[-1], _LARGE_SLOW if count > 1 else _LARGE_ALONE, _LARGE)
    return _Sets(grid, shapes, chosen := _choices(count), _products(shapes, chosen), largest)


def _products(shapes: Floats, chosen: npt.NDArray[np.intp]) -> Floats:
    """Return the products of the columns of every set with each other (n, count + 1, count + 1)."""
    if chosen.shape[1] > 2:
        return np.asarray((shapes.T @ shapes)[chosen[:, :, None], chosen[:, None, :]])
    single: Floats = shapes[:, chosen[:, 1]]
    total, square = np.sum(single, axis=0), np.sum(single * single, axis=0)
    return np.stack([np.stack([np.full_like(total, len(shapes)), total]), np.stack([total, square])]).transpose(2, 0, 1).copy()


def _constants(tried: list[_Tried], at: int) -> tuple[float, ...]:
    """Return the time constants of one of all sets."""
    for one in tried:
        if at < len(one.end):
            return tuple(float(tau) for tau in one.constants[at])
        at -= len(one.end)
    raise IndexError(at)


def _rest(t: Floats, y: Floats, constants: tuple[float, ...]) -> Floats:
    shapes = np.column_stack([np.ones(len(t)), *(np.exp(-t / tau) for tau in constants)])
    return np.asarray(y - shapes @ np.linalg.lstsq(shapes, y, rcond=None)[0])


@lru_cache(maxsize=3)
def _choices(count: int) -> npt.NDArray[np.intp]:
    """Return the columns of all sets of `count` time constants, the constant one first: (n, 1 + count)."""
    return np.array([(0, *one) for one in itertools.combinations(range(1, _STEPS[count] + 1), count)], dtype=np.intp)
