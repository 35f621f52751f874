"""The search over everything together: exchange of one place after another from several starts, for several aims."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import product

from ashen_bridge.planning.choosing.candidate import Candidate
from ashen_bridge.planning.choosing.places import Place
from ashen_bridge.planning.choosing.pool import AIMS, Aim, Key, Pool

ALL_OF = 240  # plans up to which simply all are tried
_SWEEPS, _MOST = 3, 1400
NAIVE_OVER = 1.2
"""The trade's rule: a fifth more than the gap, then the next stock step, each joint by itself; common practice, no source."""


def starts(places: Sequence[Place], options: Sequence[Sequence[Candidate]], pool: Pool) -> list[Key]:
    """Return plans to begin from: the trade's rule in the softest pad there is, what is there, putty or paste everywhere."""
    ways = [[_naive(place, some, pool.able(n)) for n, (place, some) in enumerate(zip(places, options, strict=True))]]
    ways.append([0 if 0 in pool.able(n) else ways[0][n] for n in range(len(places))])
    filler = [next((m for m in pool.able(n) if some[m].kind in ("putty", "paste")), ways[0][n]) for n, some in enumerate(options)]
    ways.append(filler)
    thin = [
        next((m for m in pool.able(n) if some[m].kind in ("phase change", "pad")), ways[0][n]) for n, some in enumerate(options)
    ]
    ways.append(thin)
    return list(dict.fromkeys((*way, 0) for way in ways))


def naive(places: Sequence[Place], options: Sequence[Sequence[Candidate]]) -> list[int]:
    """Return the plan by the trade's rule, whatever else speaks for or against its candidates."""
    return [_naive(place, some, range(len(some))) for place, some in zip(places, options, strict=True)]


def _naive(place: Place, some: Sequence[Candidate], able: Sequence[int]) -> int:
    pads = [n for n in able if some[n].kind == "pad" and (some[n].thickness_mm or 0.0) >= NAIVE_OVER * place.gap_mm - 1e-9]
    if pads and not place.thin:
        least = min(some[n].thickness_mm or 0.0 for n in pads)
        return next(n for n in pads if some[n].thickness_mm == least)
    films = [n for n in able if some[n].kind in ("paste", "phase change", "keep")]
    return next(iter(films or able), 0)


def searching(pool: Pool, begin: Sequence[Key], aims: Sequence[Aim] = AIMS) -> Iterator[float]:
    """Try plans, yielding how much of the work is done; what was found is in the pool."""
    many = math.prod(len(pool.able(n)) for n in range(len(pool.places))) * len(pool.washers)
    if many <= ALL_OF:
        every = [list(pool.able(n)) for n in range(len(pool.places))]
        keys = [tuple(key) for key in product(*every, range(len(pool.washers)))]
        for at in range(0, len(keys), 60):
            pool.ensure(keys[at : at + 60])
            yield min(1.0, (at + 60) / len(keys))
        return
    pool.ensure(begin)
    walkers = [Walker(aims[0], key) for key in begin]
    walkers += [Walker(aim, min(begin, key=lambda one: pool.score(one, aim))) for aim in aims[1:]]
    yield from walked(pool, walkers)


@dataclass
class Walker:
    """A plan on its way to a better one for an aim."""

    aim: Aim
    key: Key
    still: int = 0  # places in a row at which nothing got better


def walked(pool: Pool, walkers: Sequence[Walker]) -> Iterator[float]:
    """Better plans place by place until nothing betters them any more, all in step so that what they try goes in one batch."""
    places, before = len(pool.places) + (len(pool.washers) > 1), len(pool)
    for turn in range(_SWEEPS * places):
        going = [one for one in walkers if one.still < places]
        if not going or len(pool) - before > _MOST:  # every walk has its own share
            break
        at = turn % places
        pool.ensure([key for one in going for key in (one.key, *pool.keys_beside(one.key, at))])
        for one in going:
            better = min([one.key, *pool.keys_beside(one.key, at)], key=lambda key: pool.score(key, one.aim))
            one.still = one.still + 1 if better == one.key else 0
            one.key = better
        yield (turn + 1) / (_SWEEPS * places)
    yield 1.0


def best(pool: Pool, aim: Aim) -> Key:
    """Return the plan among those that were tried that serves an aim best."""
    return min((row.key for row in pool.rows()), key=lambda one: pool.score(one, aim))
