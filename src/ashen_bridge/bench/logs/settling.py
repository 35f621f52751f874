"""Whether a channel has settled, and if not what it is heading for: fits of one or two time constants with honest intervals."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from scipy.optimize import least_squares
from scipy.stats import t as student

from ashen_bridge.bench.logs.statistics import Floats, effective_count
from ashen_bridge.bench.outcome import Heading, Refusal, Throttling
from ashen_bridge.thermal.steady import one_blas_thread

SETTLED_K = 1.0  # what a window may still drift over its own length; common practice, no source
SHORTEST_S = 30.0
_NOT_SLOWING = 0.6  # slope of a window's second half over its first's: above, it is short against what still moves
_MOST_POINTS = 300


def thinned(time: Floats, values: Floats, most: int = _MOST_POINTS) -> tuple[Floats, Floats]:
    """Return a series averaged in blocks to at most `most` points, NaN left out."""
    keep = np.isfinite(values) & np.isfinite(time)
    time, values = time[keep], values[keep]
    block = max(1, math.ceil(len(time) / most))
    if block == 1:
        return time, values
    whole = len(time) // block * block
    return time[:whole].reshape(-1, block).mean(axis=1), values[:whole].reshape(-1, block).mean(axis=1)


def loaded_span(time: Floats, power: Floats | None) -> tuple[float, float]:
    """Return the longest stretch [s] in which power stays above half of what it mostly reaches; the whole log without power.

    Dips shorter than 5 s do not end a stretch.
    """
    whole = float(time[0]), float(time[-1])
    if power is None or not np.isfinite(power).any():
        return whole
    smooth = np.where(np.isfinite(power), power, np.nanmedian(power))
    loaded = time[smooth > 0.5 * np.percentile(smooth, 90)]
    if len(loaded) < 2:
        return whole
    cuts = np.flatnonzero(np.diff(loaded) > 5.0 + float(np.median(np.diff(time))))
    starts, ends = loaded[np.r_[0, cuts + 1]], loaded[np.r_[cuts, len(loaded) - 1]]
    k = int(np.argmax(ends - starts))
    return float(starts[k]), float(ends[k])


def settled_window(time: Floats, values: Floats, tolerance: float = SETTLED_K) -> tuple[float, float] | None:
    """Return the longest window to the end over which a channel drifts by less than `tolerance`; None if it still moves.

    Drift is the slope of a straight line times the window's length, judged by its upper 95 % bound so that noise does not pass
    for rest; a window must hold at least `SHORTEST_S` and a tenth of the log.
    """
    t, y = thinned(time, values)
    if len(t) < 8:
        return None
    shortest = max(SHORTEST_S, 0.1 * (t[-1] - t[0]))
    starts = np.flatnonzero(t <= t[-1] - shortest)
    for start in starts[:: max(1, len(starts) // 60)]:
        if _drift(t[start:], y[start:]) < tolerance:
            return float(t[start]), float(t[-1])
    return None


def creeps(time: Floats, values: Floats, window: tuple[float, float]) -> bool:
    """Return whether a channel surely moves within a window that passed for settled, and does not slow down on the way.

    A slow device does that while it is still far from its end: then where it heads decides.
    """
    inside = (time >= window[0]) & (time <= window[1])
    t, y = thinned(time[inside], values[inside])
    if len(t) < 8:
        return False
    slope, error = _slope(t, y)
    if (abs(slope) - 2 * error) * (t[-1] - t[0]) < 0.2 * SETTLED_K:
        return False
    half = len(t) // 2
    return _slope(t[half:], y[half:])[0] / _slope(t[:half], y[:half])[0] > _NOT_SLOWING


def _drift(t: Floats, y: Floats) -> float:
    slope, error = _slope(t, y)
    return float((abs(slope) + 2 * error) * (t[-1] - t[0]))


def _slope(t: Floats, y: Floats) -> tuple[float, float]:
    """Slope of a straight line and its standard error, the residuals' autocorrelation allowed for."""
    centred = t - t.mean()
    slope = float(centred @ (y - y.mean()) / (centred @ centred))
    rest = y - y.mean() - slope * centred
    worth = max(3.0, effective_count(rest))
    error = float(np.sqrt((rest @ rest) / len(t) * len(t) / worth / (centred @ centred)))
    return slope, error


def heading(time: Floats, values: Floats) -> Heading | Refusal:
    """Return what a channel is heading for, or why that cannot be told.

    y = end − a·exp(−t/τ), and a second constant where it halves the misfit. The 95 % interval takes the residuals'
    autocorrelation into account; where the log is shorter than a time constant, or the interval wider than the rise that is
    left, it is refused.
    """
    t, y = thinned(time, values)
    if len(t) < 12:
        return Refusal("there are too few samples", 0.0)
    t = t - t[0]
    last = max(4, len(t) // 8)
    slope = float(np.polyfit(t[-last:], y[-last:], 1)[0] * 60)
    with one_blas_thread():
        found = _fit(t, y, 1)
        # A second constant is worth looking for only where one leaves a pattern behind.
        two = _fit(t, y, 2) if found is None or found.pattern else None
    if found is None and two is None:
        return Refusal("no curve that settles fits it", slope)
    if two is not None and (found is None or two.misfit < 0.5 * found.misfit):
        found = two
    assert found is not None
    longest = max(found.constants)
    if longest > t[-1]:
        return Refusal(f"the log is shorter than its time constant of {longest / 60:.0f} min", slope)
    left = abs(found.end - float(np.mean(y[-last:])))
    if found.half_width > max(left, 2.0) * 1.5:
        return Refusal(f"its end is uncertain by ± {found.half_width:.0f}", slope)
    return Heading(found.end, found.end - found.half_width, found.end + found.half_width, found.constants, slope)


@dataclass(frozen=True)
class _Fit:
    end: float
    half_width: float
    constants: tuple[float, ...]
    misfit: float
    pattern: bool  # whether what is left follows itself


def _fit(t: Floats, y: Floats, count: int) -> _Fit | None:
    """Fit `count` time constants; end and amplitudes are linear in them, so only the constants are searched for.

    Variable projection: G. H. Golub, V. Pereyra, SIAM J. Numer. Anal. 10, 1973.
    """
    span = float(t[-1])
    low, high = math.log(max(span / 500, 1e-3)), math.log(20 * span)

    def misses(logs: Floats) -> Floats:
        shapes = _shapes(t, logs)
        return np.asarray(shapes @ np.linalg.lstsq(shapes, y, rcond=None)[0] - y)

    starts = ([0.1], [0.5]) if count == 1 else ([0.02, 0.5], [0.1, 1.0])
    answers = [
        least_squares(misses, np.log(np.array(shares) * span), bounds=([low] * count, [high] * count), max_nfev=60)
        for shares in starts
    ]
    logs = np.asarray(min(answers, key=lambda one: one.cost).x)
    shapes = _shapes(t, logs)
    linear = np.linalg.lstsq(shapes, y, rcond=None)[0]
    rest = shapes @ linear - y
    n, p = len(t), 1 + 2 * count
    # d/d(ln τ) of a·exp(−t/τ) is a·(t/τ)·exp(−t/τ).
    slopes = linear[1:] * shapes[:, 1:] * (t[:, None] / np.exp(logs))
    jacobian = np.hstack([shapes, slopes])
    scale = n / max(effective_count(rest), p + 2.0)  # samples that follow each other count less
    try:
        covariance = np.linalg.inv(jacobian.T @ jacobian) * float(rest @ rest) / (n - p) * scale
    except np.linalg.LinAlgError:
        return None
    if not np.isfinite(covariance).all() or covariance[0, 0] <= 0:
        return None
    half = float(student.ppf(0.975, max(2.0, n / scale - p)) * math.sqrt(covariance[0, 0]))
    constants = tuple(sorted(float(np.exp(one)) for one in logs))
    return _Fit(float(linear[0]), half, constants, float(rest @ rest), scale > 2.0)


def _shapes(t: Floats, logs: Floats) -> Floats:
    """One, and exp(−t/τ) for every constant given by its logarithm: (n, 1 + count)."""
    return np.hstack([np.ones((len(t), 1)), np.exp(-t[:, None] / np.exp(logs))])


def throttling(
    time: Floats, temperature: Floats, limit: float, drivers: dict[str, Floats], near: float = 2.0, least: float = 0.03
) -> Throttling | None:
    """Return throttling if a temperature stayed within `near` of its limit while a driver (power, clock) fell by `least`.

    The true temperature would have been higher than what was logged.
    """
    at_limit = np.isfinite(temperature) & (temperature > limit - near)
    if at_limit.mean() < 0.1:
        return None
    first = int(np.argmax(at_limit))
    for name, values in drivers.items():
        loaded = values > 0.5 * np.nanpercentile(values, 95)
        before = loaded & (np.arange(len(values)) <= first) & np.isfinite(values)
        after = loaded & at_limit & (np.arange(len(values)) > first) & np.isfinite(values)
        if before.sum() < 3 or after.sum() < 10:
            continue
        was, now = float(np.median(values[before])), float(np.median(values[after]))
        if was > 0 and now < (1 - least) * was:
            return Throttling(float(time[first]), name, was, now, float(np.median(temperature[after])))
    return None
