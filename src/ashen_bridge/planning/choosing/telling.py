"""Advice in words: what is recommended, what cannot be told, what kills all plans, what may be done without opening."""

from __future__ import annotations

import numpy as np

from ashen_bridge.model.project import Project
from ashen_bridge.planning.choosing.chances import Chances
from ashen_bridge.planning.choosing.pool import Pool
from ashen_bridge.planning.choosing.result import Advice, Closed, Plan, Undecided
from ashen_bridge.predict.engine import Engine
from ashen_bridge.thermal.steady import RunawayError
from ashen_bridge.words.numbers import number, percent

_SURE = 1.64  # standard uncertainties that leave one in twenty to one side


def undecided(pool: Pool, chances: Chances, told: Advice) -> tuple[Undecided, ...]:
    """Return the places where the gap's ± reaches further than the plan bears, with the number that would settle it."""
    found = []
    tolerated = told.plans[0].tolerated if told.plans else ()
    for place, one in zip(pool.places, tolerated, strict=False):
        reach = _SURE * one.pm_mm
        side = [
            (limit, said)
            for limit, said in ((one.less_mm, one.less_says), (one.more_mm, one.more_says))
            if limit is not None and limit < reach
        ]
        widest = chances.widest(place)
        if not side or widest is None or place.thin:
            continue
        limit, said = min(side)
        field = widest.field.rsplit(".", 1)[-1].removesuffix("_mm").replace("_", " ")
        owner = ", ".join(dict.fromkeys(widest.owners[:2])) + (" and its like" if len(set(widest.owners)) > 2 else "")
        found.append(
            Undecided(
                place.id,
                place.label,
                f"Cannot tell: the gap is {number(one.gap_mm, 2)} mm ± {number(one.pm_mm, 2)} mm, and "
                f"{number(limit, 2)} mm more or less would already matter. {said}",
                widest.paths[0],
                f"Measure the {field} of {owner}: it makes most of that ±.",
            )
        )
    return tuple(found)


def closed(engine: Engine, project: Project, pool: Pool, build: str, point: str) -> Closed | None:
    """Return what could be done without opening: rises go with the power, so the share of it at which every limit holds."""
    try:
        report = engine.predict(project, build, point, fidelity="fine").report
    except RunawayError:
        return Closed(None, None, "As it is the heat runs away at full power: without opening only less power helps.")
    shown = {row.id: row.value_c for row in report.sensors} | {row.id: row.t_max_c for row in report.components}
    known = [(one, shown[one.sensor], spare) for one, spare in zip(pool.bounds, pool.spare_k, strict=True) if one.sensor in shown]
    if not known:
        return None
    ambient = report.ambient_c
    shares = [(one.at_most_c - spare - ambient) / max(value - ambient, 0.1) for one, value, spare in known]
    share, warmest = min(shares), max(value + spare - one.at_most_c for one, value, spare in known)
    if share >= 1:
        return Closed(None, None, "Every limit holds as it is: it need not be opened for them.")
    if share <= 0.05:
        return Closed(None, None, "Without opening no power limit helps: the air itself is too warm.")
    return Closed(
        share,
        float(warmest),
        f"Without opening: at {percent(share)} of the power, or with air cooler by {number(float(warmest))} K, "
        "every limit would hold.",
    )


def says(told: Advice, pool: Pool) -> str:
    """Return the whole of it in a few sentences."""
    if not told.plans:
        return "No plan was found."
    first = told.plans[0]
    if first.broken:
        return f"Nothing holds. The least bad, {first.name.lower()}: {first.broken[0]} {_takes(told, first)}"
    missing = [one for one in first.outlooks if one.chance is not None and one.chance < told.chance]
    if missing:
        worst = min(missing, key=lambda one: one.chance or 0.0)
        return (
            f"No plan holds every limit with {percent(told.chance)}. The best, {first.name.lower()}, keeps {worst.label} below "
            f"{number(worst.at_most_c)} °C with a chance of {percent(worst.chance or 0.0)}. {_takes(told, first)}"
        )
    fewer = "" if len(told.plans) >= 3 else " " + _few(told, pool)
    changed = ", ".join(f"{one.says} on {one.label}" for one in first.chosen if one.changed)
    return f"{first.name}: {changed or 'nothing is changed'}.{fewer}"


def _few(told: Advice, pool: Pool) -> str:
    many = int(np.prod([len(pool.able(n)) for n in range(len(pool.places))])) * len(pool.washers)
    if many <= 2:
        return f"There {'is' if len(told.plans) == 1 else 'are'} only so many plans: {many} in all."
    return "Fewer than three plans are shown: every other one is worse than these in all that is compared."


def _takes(told: Advice, plan: Plan) -> str:
    """Return what it would take where nothing holds."""
    over = [one for one in plan.outlooks if one.value_c > one.at_most_c or (one.chance is not None and one.chance < told.chance)]
    if not over:
        return "It would take other pads or springs than there are to choose from."
    most = max((one.worst_c or one.value_c) - one.at_most_c for one in over)
    return f"It would take {number(max(most, 0.1))} K less: less power, more air, or another cooler."
