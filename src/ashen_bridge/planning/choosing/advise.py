"""Advice: plans are searched, bettered once their ± is known, drawn, and shown on the full field; each step is told at once."""

from __future__ import annotations

from collections.abc import Callable, Generator, Iterator, Sequence
from dataclasses import replace

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.changes.plans import Filling
from ashen_bridge.model import paths
from ashen_bridge.model.errors import AshenError, AssemblyError
from ashen_bridge.model.project import Project
from ashen_bridge.model.wishes import Wishes
from ashen_bridge.planning.choosing.bill import cost
from ashen_bridge.planning.choosing.candidate import Candidate
from ashen_bridge.planning.choosing.candidates import candidates, hopeless, known_materials
from ashen_bridge.planning.choosing.chances import Chances, Outlook, needed
from ashen_bridge.planning.choosing.front import NAMES, front
from ashen_bridge.planning.choosing.limits import bounds
from ashen_bridge.planning.choosing.places import Place, places
from ashen_bridge.planning.choosing.pool import AIMS, Aim, Key, Pool
from ashen_bridge.planning.choosing.practice import checked, practice
from ashen_bridge.planning.choosing.result import Advice, Chosen, Plan, SensorOutlook
from ashen_bridge.planning.choosing.robustness import tolerated
from ashen_bridge.planning.choosing.search import Walker, best, searching, starts, walked
from ashen_bridge.planning.choosing.settled import applied, settled
from ashen_bridge.planning.choosing.telling import closed, says, undecided
from ashen_bridge.planning.choosing.tryout import Tryout
from ashen_bridge.planning.choosing.why_not import why_not
from ashen_bridge.planning.quiet import fan_curve
from ashen_bridge.predict.engine import Engine
from ashen_bridge.thermal.steady import RUNAWAY, RunawayError
from ashen_bridge.uncertainty.preparation import Preparation, preparing

Step = tuple[float, Advice | None]
_FILM_MM = 0.02  # of what is pressed thin
_PROPORTION_K = 1.0  # rises below which there is no proportion


def advising(engine: Engine, project: Project, build: str, point: str, wishes: Wishes | None = None) -> Iterator[Step]:
    """Yield (progress, advice as far as it has come). Raises `AshenError` where nothing can be chosen or computed."""
    wanted = project.aims.wishes if wishes is None else wishes
    checked(wanted)
    here = paths.set_values(project, {f"points.{point}.throttle_at_c": {}}) if project.point(point).throttle_at_c else project
    pool = yield from _prepared(engine, here, build, point, wanted)
    begin = starts(pool.places, pool.options, pool)
    told = Advice(build, point, wanted.chance, (), currency=project.currency)
    for progress in searching(pool, begin, AIMS[:1]):
        yield 0.15 + 0.1 * progress, None
    told = replace(told, plans=_plans(pool, [("coolest", best(pool, "coolest"))], {}), tried=len(pool))
    yield 0.25, told
    for progress in searching(pool, [best(pool, "coolest"), *begin]):
        yield 0.25 + 0.1 * progress, None
    told = replace(told, plans=_plans(pool, front(pool), {}), tried=len(pool))
    yield 0.35, told
    chances = yield from _bettered(engine, here, pool, (build, point), wanted.chance)
    picked = front(pool)
    outlooks: dict[Key, Outlook] = {}
    for n, (_, key) in enumerate(picked):
        outlooks[key] = chances.outlook(key)
        told = replace(told, plans=_plans(pool, picked, outlooks), tried=len(pool))
        yield 0.6 + 0.1 * (n + 1) / len(picked), told
    order = _order(told.plans, wanted.chance)  # before anything is told about the first
    picked = [picked[n] for n in order]
    told = replace(told, plans=tuple(told.plans[n] for n in order))
    present = as_it_is(pool)
    if present is not None:
        outlooks[present] = chances.outlook(present)
        told = replace(
            told, present=replace(_plan(pool, "coolest", present, outlooks[present]), name="As it is", why="nothing is changed")
        )
    first = picked[0][1]
    unsure = chances.gaps()
    told = replace(told, why_not=why_not(pool, first, unsure))
    yield 0.72, told
    told = replace(
        told,
        plans=tuple(
            replace(one, tolerated=tolerated(pool, key, unsure)) for one, (_, key) in zip(told.plans, picked, strict=True)
        ),
    )
    told = replace(told, undecided=undecided(pool, chances, told), closed=closed(engine, here, pool, build, point))
    yield 0.75, told
    if present is not None and told.present is not None:
        told = replace(told, present=settled(engine, here, (build, point), told.present, present, outlooks[present], pool))
    for n, (_, key) in enumerate(picked):
        plan = settled(engine, here, (build, point), told.plans[n], key, outlooks[key], pool)
        told = replace(told, plans=(*told.plans[:n], plan, *told.plans[n + 1 :]))
        yield 0.75 + 0.24 * (n + 1) / len(picked), told
    # Straight lines know no heat that runs away: what the full field says of it goes.
    stays = [n for n, one in enumerate(told.plans) if RUNAWAY not in one.broken]
    if not stays:
        raise RunawayError(f"Whatever may lie there: {RUNAWAY[0].lower()}{RUNAWAY[1:]}")
    picked, told = [picked[n] for n in stays], replace(told, plans=tuple(told.plans[n] for n in stays))
    if told.present is not None and RUNAWAY in told.present.broken:
        told = replace(told, present=replace(told.present, chance=0.0, hottest_die_c=None, outlooks=()))
    order = _order(told.plans, wanted.chance)  # the full field may find another one first
    told = replace(told, plans=tuple(told.plans[n] for n in order), complete=True)
    if order[0] != 0:
        told = replace(told, why_not=why_not(pool, picked[order[0]][1], unsure))
        told = replace(told, undecided=undecided(pool, chances, told))
    yield 1.0, replace(told, says=says(told, pool))


def advise(
    engine: Engine, project: Project, build: str | None = None, point: str | None = None, wishes: Wishes | None = None
) -> Advice:
    """Return complete advice; see `advising`."""
    *_, (_, found) = advising(engine, project, project.build(build).id, project.point(point).id, wishes)
    assert found is not None  # the last one always is
    return found


def as_it_is(pool: Pool) -> Key | None:
    """Return the plan that changes nothing; None where a place cannot be computed as it is."""
    keep = [
        next((n for n, one in enumerate(some) if one.kind == "keep" and (g, n) not in pool.tryout.refused), None)
        for g, some in enumerate(pool.options)
    ]
    known = [n for n in keep if n is not None]
    return (*known, 0) if len(known) == len(keep) else None


def _order(plans: Sequence[Plan], chance: float) -> list[int]:
    return sorted(range(len(plans)), key=lambda n: (bool(plans[n].broken), _misses(plans[n], chance)))


def _misses(plan: Plan, chance: float) -> bool:
    return any(one.chance is not None and one.chance < chance for one in plan.outlooks)


def _prepared(engine: Engine, project: Project, build: str, point: str, wishes: Wishes) -> Generator[Step, None, Pool]:
    found = places(engine, project, build)
    if not found:
        raise AssemblyError("There is no joint in this build of which anything could be chosen.")
    yield 0.03, None
    listed = [candidates(project, build, place, wishes) for place in found]
    options = [likely_first(place, some) for place, some in zip(found, listed, strict=True)]
    for place, some in zip(found, options, strict=True):
        if all(one.refused for one in some):
            raise AssemblyError(f"Nothing may lie in “{place.label}”: {some[0].refused}")
    try:
        tryout = _tryout(engine, project, (build, point), found, options)
    except RunawayError:
        # As it is it would not even stay anywhere, which is why advice is asked for: something else lies there first.
        options = [_coolest_first(project, place, some) for place, some in zip(found, options, strict=True)]
        tryout = _tryout(engine, project, (build, point), found, options)
    yield 0.12, None
    wanted = bounds(project, point, tryout.sensors)
    washers = practice().washers_mm if wishes.washers and tryout.washers.any() else (0.0,)
    to_fine = _to_fine(engine, _that_stays(engine, project, tryout), build, point, tryout.sensors)
    yield 0.15, None
    return Pool(project, tryout, found, options, wanted, washers, to_fine, lambda: fan_curve(engine, project, build, point))


def _tryout(
    engine: Engine, project: Project, at: tuple[str, str], found: Sequence[Place], options: Sequence[Sequence[Candidate]]
) -> Tryout:
    fills = [[one.fills for one in some] for some in options]
    pairs = zip(found, options, strict=True)
    likely = [[n for n, one in enumerate(some) if not one.refused and not hopeless(place, one)] for place, some in pairs]
    return Tryout(engine, project, *at, [one.joints for one in found], fills, likely)


def _coolest_first(project: Project, place: Place, some: Sequence[Candidate]) -> list[Candidate]:
    """Return candidates with that one first which resists least, layer by layer, the gap alone being looked at."""
    known = known_materials(project)

    def resists(one: Candidate) -> float:
        if one.refused or not one.materials:
            return np.inf
        thick = place.gap_mm if one.thickness_mm is None else min(one.thickness_mm, place.gap_mm)
        return max(thick, _FILM_MM) / min(known[name].conductivity_w_mk.value for name in one.materials)

    return sorted(some, key=resists)


def _that_stays(engine: Engine, project: Project, tryout: Tryout) -> Project:
    """Return the project as it is, or, where heat runs away in it, with the plan around which everything is linearised."""
    try:
        engine.predict(project, tryout.build, tryout.point, fidelity="coarse")
    except RunawayError:
        return tryout.project_of(tryout.first)
    return project


def likely_first(place: Place, some: Sequence[Candidate]) -> list[Candidate]:
    """Return candidates with one first around which everything may be linearised: a layer that reaches."""
    fit = [one for one in some if not one.refused] or list(some)
    wanted = 1.2 * place.gap_mm

    def unlikely(one: Candidate) -> tuple[bool, bool, float]:
        pieces = [piece for some in one.fills.values() for piece in some]
        own = any(piece.footprint is not None or piece.voids for piece in pieces)
        return not pieces, own, 0.0 if place.thin else abs((one.thickness_mm or wanted) - wanted)

    likely = min(fit, key=unlikely)
    return [likely, *(one for one in some if one is not likely)]


def _to_fine(engine: Engine, project: Project, build: str, point: str, sensors: Sequence[str]) -> Callable[[Floats], Floats]:
    """Return what brings temperatures of the coarse field [°C] to the refined one: in the present state's proportion."""
    report = engine.predict(project, build, point, fidelity="fine").report
    rough = engine.predict(project, build, point, fidelity="coarse").report
    shown = [{row.id: row.value_c for row in one.sensors} for one in (report, rough)]
    hot = [{row.id: row.t_max_c for row in one.components} for one in (report, rough)]
    ratio = np.ones(len(sensors))
    for n, name in enumerate(sensors):
        fine, coarse = (shown[k].get(name, hot[k].get(name)) for k in (0, 1))
        if fine is not None and coarse is not None and abs(coarse - report.ambient_c) > _PROPORTION_K:
            ratio[n] = (fine - report.ambient_c) / (coarse - report.ambient_c)
    return lambda coarse: np.asarray(report.ambient_c + ratio * (coarse - report.ambient_c))


def _bettered(engine: Engine, project: Project, pool: Pool, at: tuple[str, str], chance: float) -> Generator[Step, None, Chances]:
    """Find out what is not known, and search again with what every bound then needs for its chance."""
    ready: Preparation | None = None
    try:
        for progress, found in preparing(engine, _that_stays(engine, project, pool.tryout), *at):
            ready = found
            yield 0.35 + 0.15 * progress, None
    except AshenError:
        ready = None  # what cannot be prepared cannot be drawn: then what is bought alone makes the ±
    chances = Chances(pool, ready)
    yield 0.52, None
    pool.reckon(chances.gaps())
    pool.spare_k = needed(chances.outlook(best(pool, "coolest")), pool.bounds, pool.tryout.sensors, chance)
    for progress in walked(pool, [Walker(aim, best(pool, aim)) for aim in AIMS]):
        yield 0.53 + 0.07 * progress, None
    return chances


def _plans(pool: Pool, picked: Sequence[tuple[Aim, Key]], outlooks: dict[Key, Outlook]) -> tuple[Plan, ...]:
    return tuple(_plan(pool, aim, key, outlooks.get(key)) for aim, key in picked)


def _plan(pool: Pool, aim: Aim, key: Key, outlook: Outlook | None) -> Plan:
    row, tryout = pool.row(key), pool.tryout
    tried = pool.tried(key)
    shown = pool.to_fine(tried.sensors)[0]
    each, every = outlook.chance(pool.bounds, tryout.sensors) if outlook is not None else (None, None)
    seen = []
    for n, bound in enumerate(pool.bounds):
        at = tryout.sensors.index(bound.sensor)
        drawn = None if outlook is None else outlook.drawn[outlook.rests, at]
        seen.append(
            SensorOutlook(
                bound.sensor,
                bound.label,
                float(shown[at]),
                None if outlook is None else outlook.pm(at),
                bound.at_most_c,
                None if each is None else float(each[n]),
                None if drawn is None or not len(drawn) else float(np.quantile(drawn, 0.95)),
            )
        )
    chosen, fillings = [], []
    for place, some, n in zip(pool.places, pool.options, key, strict=False):
        one = some[n]
        chosen.append(Chosen(place.id, place.label, one.id, one.says, one.kind, one.kind != "keep"))
        if one.kind != "keep":
            fillings.append(Filling(joints=place.joints, pieces=one.fills[place.joints[0]]))
    spent, unpriced = cost(pool.project, pool.needs(key))
    dies = [n for n, (_, low) in enumerate(tryout.joints) if any(p.role == "die" and low in p.lowers for p in pool.places)]
    name, why = NAMES[aim]
    broken = pool.broken(key, np.array([key[:-1]]), tried, pool.unsure_mm)
    over = [f"{b.label}: {m:.1f} K over" for b, m in zip(pool.bounds, -(row.margin + pool.spare_k), strict=True) if m > 0]
    return Plan(
        id=f"{aim} {' '.join(map(str, key))}",
        name=name,
        why=why,
        chosen=tuple(chosen),
        washers_mm=pool.washers[key[-1]],
        fillings=tuple(fillings),
        outlooks=tuple(seen),
        chance=every,
        hottest_die_c=row.die_c if tried.rests[0] else None,
        die_kpa=float(np.nanmin(tried.joints.pressure[0, dies]) * 1e-3) if dies and tried.rests[0] else None,
        cost=spent,
        unpriced=unpriced,
        pieces=sum(len(filling.joints) * len(filling.pieces) for filling in fillings),
        minutes=row.minutes,
        years=row.years,
        quieter_db=pool.quieter_db(key) if outlook is not None and pool.fan_curve is not None else None,
        broken=(*(one.says for one in broken), *over),
        settled="fast" if outlook is None else "drawn",
    )


__all__ = ["advise", "advising", "applied"]
