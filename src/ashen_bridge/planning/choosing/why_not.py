"""For every place all of its candidates, with everything else as in one plan, and why each was not taken."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.planning.choosing.bill import cost
from ashen_bridge.planning.choosing.limits import margins
from ashen_bridge.planning.choosing.pool import Key, Pool
from ashen_bridge.planning.choosing.result import CandidateRow, WhyNot
from ashen_bridge.planning.choosing.tryout import Tried
from ashen_bridge.words.numbers import number


def why_not(pool: Pool, key: Key, unsure_mm: Mapping[str, float]) -> tuple[WhyNot, ...]:
    """Return the table of candidates of every place."""
    return tuple(_of_place(pool, key, n, unsure_mm) for n in range(len(pool.places)))


def _of_place(pool: Pool, key: Key, at: int, unsure_mm: Mapping[str, float]) -> WhyNot:
    place, some, tryout = pool.places[at], pool.options[at], pool.tryout
    fit = [n for n in range(len(some)) if (at, n) not in tryout.refused]
    choices = np.array([(*key[:at], n, *key[at + 1 : -1]) for n in fit])
    tried = tryout.tried(choices, np.full(len(fit), pool.washers[key[-1]]))
    shown = pool.to_fine(tried.sensors)
    left = margins(pool.bounds, tryout.sensors, shown) - pool.spare_k
    mine = [n for n, (joint, _) in enumerate(tryout.joints) if joint in place.joints]
    dies = [n for n, name in enumerate(tryout.parts) if name in {low for p in pool.places if p.role == "die" for low in p.lowers}]
    chosen_row = fit.index(key[at])
    rows = []
    for n, one in enumerate(some):
        if n not in fit:
            rows.append(CandidateRow(one.id, one.says, False, "", None, None, None, None, None, None, tryout.refused[at, n]))
            continue
        row = fit.index(n)
        variant = tried.rows(slice(row, row + 1))
        beside = (*key[:at], n, *key[at + 1 :])
        worst = int(np.argmin(left[row])) if pool.bounds and tried.rests[row] else None
        refusal = one.refused or _refusal(pool, beside, variant, left[row], left[chosen_row], unsure_mm)
        if not refusal and n != key[at]:
            refusal = _less_good(left[row], left[chosen_row], tried.parts[row, dies], tried.parts[chosen_row, dies])
        squeezed = variant.joints.compression[0, mine]
        rows.append(
            CandidateRow(
                one.id,
                one.says,
                n == key[at],
                pool.bounds[worst].label if worst is not None else "",
                float(pool.bounds[worst].at_most_c - left[row, worst] - pool.spare_k[worst]) if worst is not None else None,
                float(left[row, worst]) if worst is not None else None,
                float(tried.parts[row, dies].max()) if dies and tried.rests[row] else None,
                float(np.nansum(variant.joints.force[0, mine])) if tried.rests[row] else None,
                float(np.nanmean(squeezed)) if np.isfinite(squeezed).any() else None,
                cost(pool.project, pool.needs(beside))[0],
                refusal,
            )
        )
    pm = max((unsure_mm.get(name, 0.0) for name in place.joints), default=0.0)
    return WhyNot(place.id, place.label, place.gap_mm, pm, tuple(rows))


def _refusal(pool: Pool, key: Key, variant: Tried, left: Floats, best: Floats, unsure_mm: Mapping[str, float]) -> str:
    broken = pool.broken(key, np.array([key[:-1]]), variant, unsure_mm)
    if broken:
        return broken[0].says
    # A limit that the chosen one passes as well is no reason against another.
    new = np.where(best >= 0, left, np.inf) if left.size else left
    if new.size and new.min() < 0:
        worst = int(np.argmin(new))
        bound = pool.bounds[worst]
        missing = number(-float(left[worst]), 1)
        return f"{bound.label} would not stay below {number(bound.at_most_c)} °C with the wanted chance: {missing} K are missing."
    return ""


def _less_good(left: Floats, best: Floats, die: Floats, best_die: Floats) -> str:
    """Return why a candidate that holds was not taken: what it costs against the one that was."""
    if die.size:
        hotter = float(die.max() - best_die.max())
        if hotter > 0.15:
            return f"The die gets {number(hotter, 1)} K hotter."
    if left.size:
        less = float(best.min() - left.min())
        if less > 0.15:
            return f"{number(less, 1)} K less to spare at the hottest limit."
    return "As good: no clear difference."
