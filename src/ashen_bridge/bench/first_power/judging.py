"""Judging the first minutes as they go: as planned, or stop, and what it looks like."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from scipy.special import logsumexp
from scipy.stats import multivariate_t

from ashen_bridge.bench.first_power.expecting import at_time, grown
from ashen_bridge.bench.first_power.result import Expected, Judged, Suspected
from ashen_bridge.model.errors import ProjectError
from ashen_bridge.words.numbers import number, percent

_NOISE_K, _COURSE = 1.0, 0.06  # a reading's own error, and how far a course over time may be off, as a share of the rise
_TAILS = 5
_STOP, _WARN = 0.9, 0.5  # beliefs from which it is told to stop, and to look
_NEAR_K = 4.0  # a sensor that comes that near to its limit stops the run, whatever is believed
_FROM_S = 20.0  # before that nothing is said but a limit
_MOST = 6


def judge(expected: Expected, at_s: float, readings: Mapping[str, float], ambient_c: float | None = None) -> Judged:
    """Return what readings of some sensors [°C] at a time [s] after full power say.

    Evidence of each fault is its likelihood against nothing being wrong, averaged over its sizes, times its odds from practice;
    what is not known of the device widens both alike. Raises `ProjectError` where no sensor that is read is known.
    """
    known = [n for n, name in enumerate(expected.sensors) if name in readings]
    if not known:
        raise ProjectError("None of the sensors that were read is one of this device.")
    by = 0.0 if ambient_c is None else ambient_c - expected.ambient_c
    read = np.array([readings[expected.sensors[n]] for n in known]) - by
    healthy = at_time(expected, expected.healthy_c, at_s)[known]
    share = grown(expected, expected.share, at_s)[known]
    moved = expected.slopes_k[:, known] * share
    rise = np.maximum(healthy - expected.ambient_c, 0.0)
    spread = moved.T @ moved + np.diag(_NOISE_K**2 + (0.3 * _COURSE * rise) ** 2) + np.outer(_COURSE * rise, _COURSE * rise)
    near = _nearest(expected, readings, known)
    if at_s < _FROM_S:
        return near or Judged(at_s, False, "Too early to tell: go on.", 1.0, ())
    weights, ids = [0.0], [""]
    rest = read - healthy
    # Heavier tails than a normal: of what may happen to a device, the model knows not all.
    likely = multivariate_t(loc=np.zeros(len(known)), shape=spread * (_TAILS - 2) / _TAILS, df=_TAILS, allow_singular=True)
    none = float(likely.logpdf(rest))
    for one in expected.cases:
        each = at_time(expected, one.shown_c, at_s)[:, known] - healthy
        logs = np.array([float(likely.logpdf(rest - shift)) for shift in each])
        weights.append(float(logsumexp(logs) - np.log(len(logs)) + np.log(one.odds) - none))
        ids.append(one.id)
    belief = np.exp(np.array(weights) - logsumexp(weights))
    cases = {one.id: one for one in expected.cases}
    order = np.argsort(belief[1:])[::-1][:_MOST]
    suspects = tuple(
        Suspected(ids[n + 1], cases[ids[n + 1]].title, cases[ids[n + 1]].confirm, float(belief[n + 1])) for n in order
    )
    well = float(belief[0])
    if near is not None:
        return Judged(at_s, True, near.says, well, suspects)
    odd = float(rest @ np.linalg.solve(spread, rest)) / len(known)
    if 1 - well >= _STOP and suspects:
        first = suspects[0]
        return Judged(at_s, True, f"Stop: looks like “{first.title}” ({percent(first.belief)}). {first.confirm}", well, suspects)
    if 1 - well >= _WARN and suspects:
        first = suspects[0]
        said = f"Watch it: perhaps “{first.title}” ({percent(first.belief)}); nothing has to be stopped yet."
        return Judged(at_s, False, said, well, suspects)
    far = f" The readings lie {number(odd**0.5, 1)} standard uncertainties from what was expected." if odd > 4 else ""
    return Judged(at_s, False, f"As planned.{far}", well, suspects)


def _nearest(expected: Expected, readings: Mapping[str, float], known: list[int]) -> Judged | None:
    """Return a stop where a sensor is near its limit."""
    for n in known:
        left = float(expected.limits_c[n]) - readings[expected.sensors[n]]
        if left < _NEAR_K:
            said = f"{number(left, 1)} K below" if left >= 0 else f"{number(-left, 1)} K above"
            return Judged(0.0, True, f"Stop: {expected.names[n]} is {said} its limit.", 0.0, ())
    return None
