"""Whether a channel under load has settled, from when on, and whether it was throttled."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.logs.heading import heading, thinned, without_spikes
from ashen_bridge.logs.outcome import Heading, Refusal, Throttling
from ashen_bridge.logs.statistics import effective_count

STEP = 0.05  # of the load's level: a change that starts a settling of its own
SETTLED_K = 1.0  # what a window may still drift over its own length; common practice, no source
SHORTEST_S = 30.0


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


def last_step(time: Floats, power: Floats | None) -> float:
    """Return when the load last took a step [s]; the beginning where it took none.

    A step is a change of its level by more than `STEP` for good: between the medians of the stretches before and after.
    """
    if power is None or len(time) < 24 or not np.isfinite(power).any():
        return float(time[0])
    t, p = thinned(time, power, 240)
    side = max(4, len(p) // 24)
    level = float(np.median(np.abs(p))) or 1.0
    for at in range(len(p) - side, side, -1):
        before, after = float(np.median(p[at - side : at])), float(np.median(p[at : at + side]))
        if abs(after - before) > STEP * level:
            # The place of the greatest change within the two sides.
            near = slice(max(at - side, 1), min(at + side, len(p)))
            return float(t[near][int(np.argmax(np.abs(np.diff(p))[near.start - 1 : near.stop - 1]))])
    return float(time[0])


def settled_window(time: Floats, values: Floats, tolerance: float = SETTLED_K) -> tuple[float, float] | None:
    """Return the longest window to the end over which a channel drifts by less than `tolerance`; None if it still moves.

    Drift is the slope of a straight line times the window's length, judged by its upper 95 % bound so that noise does not pass
    for rest; a window must hold at least `SHORTEST_S` and a tenth of the log. That a window drifts little does not say that
    the channel has settled, see `at_rest`.
    """
    t, y = thinned(time, without_spikes(values))
    if len(t) < 8:
        return None
    shortest = max(SHORTEST_S, 0.1 * (t[-1] - t[0]))
    starts = np.flatnonzero(t <= t[-1] - shortest)
    for start in starts[:: max(1, len(starts) // 60)]:
        if _drift(t[start:], y[start:]) < tolerance:
            return float(t[start]), float(t[-1])
    return None


@dataclass(frozen=True)
class Rest:
    """How a channel stands: its settled window, None while it moves; where it is heading, or why that cannot be told.

    `ahead` is None where a window drifts so little that it was not asked.
    """

    window: tuple[float, float] | None
    ahead: Heading | Refusal | None


def at_rest(time: Floats, values: Floats, since: float | None = None, slowest_s: float | None = None) -> Rest:
    """Return how a channel under load stands.

    It has settled only if the whole interval of where it is heading lies within `SETTLED_K` of its window's mean, or if its
    window drifts so little that the whole stretch under load would drift by less. A refusal to say where it is heading is never
    rest. `since` is when the load last took a step [s]: everything is judged from then on.
    """
    inside = time >= (time[0] if since is None else since)
    after, shown = time[inside], values[inside]
    window = settled_window(after, shown)
    if window is None:
        return Rest(None, heading(after, shown, slowest_s))
    t, y = thinned(after, without_spikes(shown))
    within = t >= window[0]
    slope, error = _slope(t[within], y[within])
    if (abs(slope) + 2 * error) * (t[-1] - t[0]) < SETTLED_K:
        return Rest(window, None)
    ahead = heading(after, shown, slowest_s)
    return Rest(_about(t, y, window, ahead), ahead)


def _about(t: Floats, y: Floats, window: tuple[float, float], ahead: Heading | Refusal) -> tuple[float, float] | None:
    """Return the longest part of a window, to its end, whose mean is where the channel is heading; None if there is none."""
    if not isinstance(ahead, Heading):
        return None
    shortest = max(SHORTEST_S, 0.1 * (t[-1] - t[0]))
    starts = np.flatnonzero((t >= window[0]) & (t <= t[-1] - shortest))
    for start in starts[:: max(1, len(starts) // 30)]:
        mean = float(np.mean(y[start:]))
        if mean - SETTLED_K <= ahead.low and ahead.high <= mean + SETTLED_K:
            return float(t[start]), window[1]
    return None


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
