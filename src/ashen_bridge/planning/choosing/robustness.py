"""How far the gap of each place may be off, either way, before something goes wrong."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.planning.choosing.drawn import Drawn
from ashen_bridge.planning.choosing.limits import margins
from ashen_bridge.planning.choosing.pool import Key, Pool
from ashen_bridge.planning.choosing.result import Tolerated
from ashen_bridge.words.numbers import number

_STEPS_MM = np.array([0.03, 0.06, 0.1, 0.15, 0.2, 0.3, 0.4, 0.6])


def tolerated(pool: Pool, key: Key, unsure_mm: Mapping[str, float]) -> tuple[Tolerated, ...]:
    """Return for every place of a plan between which gaps it still holds; each by itself, all of its joints alike."""
    tryout, by = pool.tryout, np.concatenate([-_STEPS_MM, _STEPS_MM])
    count = len(by) * len(pool.places)
    shift = np.zeros((count, len(tryout.assembly.contacts)))
    for n, place in enumerate(pool.places):
        at = [m for m, one in enumerate(tryout.assembly.contacts) if one.facing.joint in place.joints]
        shift[n * len(by) : (n + 1) * len(by), at] = by[:, None] * 1e-3
    still = Drawn(shift, np.zeros((count, len(tryout.assembly.ramps))), np.ones((count, len(tryout.assembly.ramps))), {})
    choices = np.tile(np.array(key[:-1]), (count, 1))
    tried = tryout.tried(choices, np.full(count, pool.washers[key[-1]]), still)
    over = pool.constraints.over(choices, tried, {})
    left = margins(pool.bounds, tryout.sensors, pool.to_fine(tried.sensors))
    # What is wrong already is no news.
    as_is = pool.tried(key)
    well = pool.constraints.over(choices[:1], as_is, {})[0] <= 0
    below = margins(pool.bounds, tryout.sensors, pool.to_fine(as_is.sensors))[0] >= 0
    over, left = np.where(well, over, -1.0), np.where(below, left, 1.0)
    wrong = {name for name, fine in zip(pool.constraints.names, well, strict=True) if not fine}
    found = []
    for n, place in enumerate(pool.places):
        rows = slice(n * len(by), (n + 1) * len(by))
        some = tried.rows(rows)
        bad = (over[rows] > 0).any(axis=1) | (left[rows] < 0).any(axis=1) | ~some.rests

        def says(row: int, first: int = n * len(by)) -> str:
            one = tried.rows(slice(first + row, first + row + 1))
            broken = [said for said in pool.constraints.broken(choices[:1], one, {}) if said.name not in wrong]
            if broken:
                return broken[0].says
            worst = int(np.argmin(left[first + row]))
            return f"{pool.bounds[worst].label} passes {number(pool.bounds[worst].at_most_c)} °C."

        half = len(_STEPS_MM)
        less, more = _first(bad[:half]), _first(bad[half:])
        found.append(
            Tolerated(
                place.id,
                place.label,
                place.gap_mm,
                _pm(unsure_mm, place.joints),
                None if less is None else float(_STEPS_MM[less]),
                None if more is None else float(_STEPS_MM[more]),
                "" if less is None else says(less),
                "" if more is None else says(half + more),
            )
        )
    return tuple(found)


def _first(bad: np.ndarray) -> int | None:
    at = np.flatnonzero(bad)
    return int(at[0]) if len(at) else None


def _pm(unsure_mm: Mapping[str, float], joints: tuple[str, ...]) -> float:
    known: Floats = np.array([unsure_mm.get(name, 0.0) for name in joints])
    return float(known.max(initial=0.0))
