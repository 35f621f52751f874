"""Which readings narrow the verdict: ranked from draws by what they take of the variance of the worst margin, per minute of work.

Draws, not straight lines, since a margin answers to a gap by a cliff: a pad that lets go, a bond line that opens.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.changes.readings import before_readings
from ashen_bridge.estimate.next_reading import left_by_draws
from ashen_bridge.measuring.gauging import Gauging, gauging
from ashen_bridge.measuring.practice import practice
from ashen_bridge.measuring.result import Route, Stop
from ashen_bridge.measuring.route import Candidate, candidates, error_of
from ashen_bridge.model.project import Project
from ashen_bridge.model.readings import Instrument
from ashen_bridge.uncertainty.drawing import highest, lowest
from ashen_bridge.uncertainty.preparation import Preparation, preparing

if TYPE_CHECKING:
    from ashen_bridge.predict.engine import Engine

_DRAWS, _SHOWN, _LEAST = 500, 8, 0.02  # draws, stops of a route, and the share of the variance that each must take
_CHANGE_MM = 60.0  # what another instrument in hand is worth in moves
_USUAL = Instrument(id="usual")
Place = tuple[float, float]


def routing(
    engine: Engine, project: Project, build: str | None = None, point: str | None = None
) -> Iterator[tuple[float, Route | None]]:
    """Yield (progress, None) and at the end (1, what to read in which order). Raises `AshenError` where it cannot be computed."""
    project = before_readings(project)
    gauged: Gauging | None = None
    for progress, found in gauging(engine, project, build):
        gauged = found
        yield 0.3 * progress, None
    assert gauged is not None  # the last one always is
    ready: Preparation | None = None
    for progress, prepared in preparing(engine, project, gauged.build, point, numbers=gauged.numbers):
        ready = prepared
        yield 0.3 + 0.5 * progress, None
    assert ready is not None  # the last one always is
    listed = candidates(project, gauged)
    x = _draws(gauged)
    temperatures, fine = ready.temperatures(x)
    yield 0.95, None
    name, target = _worst(project, ready, temperatures)
    yield 1.0, route_of(project, listed, x[fine], target, name, gauged)


def route_of(project: Project, listed: Sequence[Candidate], x: Floats, target: Floats, name: str, gauged: Gauging) -> Route:
    """Return the route that narrows a target (n_draw,) [K], given in draws x (n_draw, n_number), the most worth first."""
    mean = gauged.found.mean[: len(gauged.numbers)]
    instrument = next(iter(project.instruments), _USUAL)
    kept = [one for one in listed if one.slopes.any()]
    now = float(target.std())
    if not kept or not now > 0:
        return Route(name, now, ())
    reads = np.stack([one.value + (x - mean) @ one.slopes for one in kept], axis=1)
    errors = np.array([error_of(one.form, instrument) for one in kept])
    left = left_by_draws(target, reads, errors)
    minutes = [practice().forms[one.form].minutes for one in kept]
    ranked = sorted(range(len(kept)), key=lambda n: -(now**2 - left[n]) / minutes[n])
    chosen = [n for n in ranked if now**2 - left[n] > _LEAST * now**2][:_SHOWN]
    stops = [
        Stop(kept[n].form, tuple(kept[n].of.items()), kept[n].words, minutes[n], math.sqrt(max(float(left[n]), 0.0)))
        for n in chosen
    ]
    return Route(name, now, tuple(_in_few_moves(project, stops)))


def _draws(gauged: Gauging) -> Floats:
    """Return the numbers as readings left them (n_draw, n_number), within what is believed of them."""
    count = len(gauged.numbers)
    root = gauged.found.root[:count]
    drawn = gauged.found.mean[:count] + np.random.default_rng(4).standard_normal((_DRAWS, root.shape[1])) @ root.T
    return np.clip(drawn, lowest(gauged.numbers), highest(gauged.numbers))


def _worst(project: Project, ready: Preparation, temperatures: Floats) -> tuple[str, Floats]:
    """Return what is to be decided and its draws: the worst margin of the sensors that matter, else the hottest of them."""
    matter = set(project.aims.sensors) or set(ready.sensors)
    columns = [n for n, one in enumerate(ready.sensors) if one in matter] or list(range(len(ready.sensors)))
    limits = project.device.limits_c()
    limited = [n for n in columns if ready.sensors[n] in limits]
    if limited:
        margins = np.stack([limits[ready.sensors[n]] - temperatures[:, n] for n in limited], axis=1)
        first = limited[int(np.bincount(margins.argmin(axis=1)).argmax())]
        return f"margin of {ready.names[ready.sensors[first]]}", np.asarray(margins.min(axis=1))
    hottest = columns[int(temperatures[:, columns].mean(axis=0).argmax())]
    return ready.names[ready.sensors[hottest]], temperatures[:, hottest]


def _in_few_moves(project: Project, stops: Sequence[Stop]) -> Iterator[Stop]:
    """Yield the most worth first, then always the nearest, with what is in hand where it can be."""
    left = list(stops)
    at: Stop | None = None
    while left:
        here = at or left[0]
        at = min(left, key=lambda one: _way(project, here, one))
        left.remove(at)
        yield at


def _way(project: Project, one: Stop, other: Stop) -> float:
    (x, y), (u, v) = _place(project, one), _place(project, other)
    return math.hypot(u - x, v - y) + (0.0 if one.form == other.form else _CHANGE_MM)


def _place(project: Project, stop: Stop) -> Place:
    of = dict(stop.of)
    name = of.get("body") or of.get("lower") or of.get("plate", "")
    for body in project.all_bodies:
        if body.id == name:
            landing = next((one for one in getattr(body, "landings", ()) if one.id == of.get("landing")), None)
            x0, y0, x1, y1 = landing.area.bounds if landing is not None else body.footprint.bounds
            return (x0 + x1) / 2, (y0 + y1) / 2
    return 0.0, 0.0
