"""The search against trying everything: every plan of a card predicted on the full field, by the one door."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import product

import numpy as np

from ashen_bridge.changes.plans import add_washers
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.project import Project
from ashen_bridge.model.wishes import Wishes
from ashen_bridge.planning.choosing import search
from ashen_bridge.planning.choosing.advise import _to_fine
from ashen_bridge.planning.choosing.candidates import candidates, hopeless
from ashen_bridge.planning.choosing.limits import bounds
from ashen_bridge.planning.choosing.places import places
from ashen_bridge.planning.choosing.pool import Aim, Key, Pool, Row
from ashen_bridge.planning.choosing.tryout import Tryout
from ashen_bridge.predict.engine import Engine


@dataclass(frozen=True)
class Against:
    """What the search found against the best of all plans, both scored on the full field; it is worse by `apart_k`."""

    plans: int
    tried: int
    same: bool
    apart_k: float
    die_apart_k: float


def small_pool(engine: Engine, project: Project, each: Sequence[int], washers: Sequence[float]) -> Pool:
    """Return a pool with so many hopeful candidates in each place."""
    build, point = project.build().id, project.point().id
    found = places(engine, project, build)
    options = []
    for place, most in zip(found, each, strict=True):
        some = [one for one in candidates(project, build, place, Wishes()) if not one.refused and not hopeless(place, one)]
        keep = [one for one in some if one.kind != "keep"][: most - 1]
        options.append([*keep, *(one for one in some if one.kind == "keep")][:most])
    fills = [[one.fills for one in some] for some in options]
    tryout = Tryout(engine, project, build, point, [one.joints for one in found], fills)
    to_fine = _to_fine(engine, project, build, point, tryout.sensors)
    return Pool(project, tryout, found, options, bounds(project, point, tryout.sensors), tuple(washers), to_fine)


def full_row(engine: Engine, pool: Pool, key: Key) -> Row | None:
    """Return what comes of a plan by a whole prediction on the refined field; None where it cannot be predicted."""
    tryout = pool.tryout
    try:
        made = add_washers(tryout.project_of(key[:-1]), tryout.build, pool.washers[key[-1]])
        report = engine.predict(made, tryout.build, tryout.point, fidelity="fine").report
    except AshenError:
        return None
    shown = {row.id: row.value_c for row in report.sensors} | {row.id: row.t_max_c for row in report.components}
    row = pool.row(key)
    dies = [one.t_max_c for one in report.components if one.kind == "die"]
    margin = np.array([one.at_most_c - shown[one.sensor] for one in pool.bounds])
    warm = float(np.mean([shown[name] for name in tryout.parts]))
    return replace(row, margin=margin, die_c=max(dies), warm_c=warm)


def against_all(project: Project, each: Sequence[int], washers: Sequence[float], aim: Aim = "coolest") -> Against:
    """Let the search look with plans few enough to be tried all, and try them all."""
    engine = Engine()
    pool = small_pool(engine, project, each, washers)
    all_of, search.ALL_OF = search.ALL_OF, 0
    try:
        for _ in search.searching(pool, search.starts(pool.places, pool.options, pool), (aim,)):
            pass
    finally:
        search.ALL_OF = all_of
    tried, found = len(pool), search.best(pool, aim)
    every = [tuple(key) for key in product(*(pool.able(n) for n in range(len(pool.places))), range(len(pool.washers)))]
    rows = {key: row for key in every if (row := full_row(engine, pool, key)) is not None}
    best = min(rows, key=lambda key: pool.score_of(rows[key], aim))
    worse = pool.score_of(rows[found], aim) - pool.score_of(rows[best], aim)
    return Against(len(every), tried, best == found, float(worse), float(rows[found].die_c - rows[best].die_c))
