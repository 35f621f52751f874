"""A short front of really different plans: coolest, most forgiving, least work, cheapest, longest lasting."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ashen_bridge.planning.choosing.pool import AIMS, Aim, Key, Pool, Row

MOST = 5
NAMES: dict[Aim, tuple[str, str]] = {
    "coolest": ("Coolest", "the lowest temperatures of all that hold"),
    "safest": ("Most forgiving", "furthest from everything that could go wrong"),
    "least work": ("Least intervention", "the fewest places touched"),
    "cheapest": ("Cheapest", "the least to buy"),
    "quietest": ("Quietest", "the slowest fans at which every limit still holds"),
    "longest": ("Longest lasting", "the longest until it is due again"),
}
_ENOUGH_K, _ENOUGH_MINUTES, _ENOUGH_DB, _FELT_MM = 0.3, 1.0, 1.0, 0.1  # differences below which two plans are alike in it


def front(pool: Pool) -> list[tuple[Aim, Key]]:
    """Return up to five plans, one for each aim, none of them worse than another in everything that is compared.

    Plans that hold come first; where none does, the least bad by each aim. Any two differ in a material, a thickness or a global
    choice, since they are different plans.
    """
    rows = pool.rows()
    if any(row.holds for row in rows):
        rows = [row for row in rows if row.holds]
    else:
        least = min(_badness(row) for row in rows)
        rows = [row for row in rows if _badness(row) <= 1.5 * least + 0.5]
    priced = bool(pool.project.shop)
    picked: list[tuple[Aim, Key]] = []
    for aim in AIMS:
        if aim == "cheapest" and not priced:
            continue  # without prices nobody can tell which is cheapest
        if aim == "quietest" and not _worth_hearing(pool, rows, [key for _, key in picked]):
            continue
        if aim == "longest" and picked and max(row.years for row in rows) <= max(pool.row(key).years for _, key in picked):
            continue
        for key in sorted((row.key for row in rows), key=lambda one: pool.score(one, aim))[:8]:
            if all(_unlike(pool, key, other) for _, other in picked) and not _dominated(
                pool, key, [o for _, o in picked], priced
            ):
                picked.append((aim, key))
                break
    kept = [
        one
        for n, one in enumerate(picked)
        if not _dominated(pool, one[1], [o for m, (_, o) in enumerate(picked) if m != n], priced)
    ]
    return (kept or picked)[:MOST]


def _worth_hearing(pool: Pool, rows: Sequence[Row], picked: Sequence[Key]) -> bool:
    """Return whether some plan lets fans be quieter than those that were picked do."""
    if pool.fan_curve is None:
        return False
    most = max((pool.quieter_db(key) for key in picked), default=0.0)
    return max(pool.quieter_db(row.key) for row in rows) > most + _ENOUGH_DB


def _badness(row: Row) -> float:
    return 20 * float(np.maximum(row.over, 0.0).sum()) + float(np.maximum(-row.margin, 0.0).sum())


def _compared(pool: Pool, row: Row, priced: bool) -> tuple[float, ...]:
    worry = float(np.maximum(row.over + 0.35, 0.0).sum())
    money = row.cost if priced and row.cost is not None else 0.0
    quiet = pool.quieter_db(row.key)
    return (
        round(row.die_c / _ENOUGH_K),
        -round(float(row.margin.min(initial=50.0)) / _ENOUGH_K),
        round(row.minutes / _ENOUGH_MINUTES),
        round(worry, 1),
        -row.years,
        -round(quiet / _ENOUGH_DB),
        round(money, 2),
    )


def _dominated(pool: Pool, key: Key, others: Sequence[Key], priced: bool) -> bool:
    """Return whether another is at least as good in everything that is compared."""
    mine = _compared(pool, pool.row(key), priced)
    return any(all(a <= b for a, b in zip(_compared(pool, pool.row(other), priced), mine, strict=True)) for other in others)


def _unlike(pool: Pool, one: Key, other: Key) -> bool:
    """Return whether two plans differ in a material, in a thickness that can be felt, or in their washers."""
    if one[-1] != other[-1]:
        return True
    for some, n, m in zip(pool.options, one, other, strict=False):
        a, b = some[n], some[m]
        if (a.kind, a.materials) != (b.kind, b.materials) or abs((a.thickness_mm or 0.0) - (b.thickness_mm or 0.0)) >= _FELT_MM:
            return True
    return False
