"""Plans beside each other as plain values: a column each, a row for every place and figure, what differs marked."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ashen_bridge.planning.choosing.result import Advice, Plan, SensorOutlook
from ashen_bridge.words.numbers import number, percent, plus_minus


@dataclass(frozen=True)
class Cell:
    """What stands in a row of a plan: words, and whether they differ from how it is now, or warn."""

    words: str
    differs: bool = False
    warns: bool = False


@dataclass(frozen=True)
class Column:
    """One plan: its name, the large figure and what that is, a line below, whether it falls short, and a cell for every row."""

    name: str
    answer: str
    under: str
    short: bool
    cells: tuple[Cell, ...]
    present: bool
    tip: str = ""


@dataclass(frozen=True)
class PlanPicture:
    """`rows` are the heads of rows: words, and the place whose candidates a click shows (empty for a figure)."""

    rows: tuple[tuple[str, str], ...]
    columns: tuple[Column, ...]


def plan_picture(advice: Advice, plans: Sequence[Plan]) -> PlanPicture:
    """Return the picture of some plans."""
    if not plans:
        return PlanPicture((), ())
    places = [(one.label, one.place) for one in plans[0].chosen]
    washers = any(plan.washers_mm for plan in plans)
    figures = ["Hottest die", "Nearest to its limit", "Die pressure", "Work", "Lasts about"]
    priced = any(plan.cost is not None and plan is not advice.present for plan in plans)
    quiet = any((plan.quieter_db or 0.0) >= 0.5 for plan in plans)
    rows = [
        *places,
        *([("Washers", "")] if washers else []),
        *((one, "") for one in figures),
        *([("Fans may be", "")] if quiet else []),
        *([("To be bought", "")] if priced else []),
    ]
    columns = tuple(_column(advice, plan, (washers, quiet, priced)) for plan in plans)
    return PlanPicture(tuple(rows), columns)


def nearest(plan: Plan) -> SensorOutlook | None:
    """Return the sensor that comes nearest to what it must not pass: least likely to hold, else the least margin."""
    return min(
        plan.outlooks, key=lambda one: (one.chance if one.chance is not None else 1.0, one.at_most_c - one.value_c), default=None
    )


def _column(advice: Advice, plan: Plan, extra: tuple[bool, bool, bool]) -> Column:
    washers, quiet, priced = extra
    worst = nearest(plan)
    cells = [Cell(_sheet(one.says), one.changed) for one in plan.chosen]
    if washers:
        cells.append(Cell(f"{plan.washers_mm:g} mm more" if plan.washers_mm else "as they are", bool(plan.washers_mm)))
    cells.append(Cell("–" if plan.hottest_die_c is None else f"{number(plan.hottest_die_c, 1)} °C"))
    cells.append(_nearest_cell(worst, plan.broken))
    cells.append(Cell("–" if plan.die_kpa is None else f"{number(plan.die_kpa)} kPa"))
    cells.append(Cell("none" if plan is advice.present else _work(plan)))
    cells.append(Cell(f"{plan.years:g} years" if plan is not advice.present else "–"))
    if quiet:
        by = plan.quieter_db
        cells.append(Cell("–" if by is None else "no quieter" if by < 0.5 else f"{number(by)} dB quieter"))
    if priced:
        money = "–" if plan.cost is None else f"{plan.cost:g} {advice.currency}".strip()
        cells.append(Cell(money + (" + ?" if plan.unpriced else "")))
    short = bool(plan.broken) or (worst is not None and worst.chance is not None and worst.chance < advice.chance)
    answer = "…" if plan.chance is None else percent(min(plan.chance, 0.99))
    under = "every limit holds" if plan.chance is not None else "chance is being drawn"
    tip = "; ".join(plan.broken) or plan.why
    return Column(plan.name, answer, under, short, tuple(cells), plan is advice.present, tip)


def _nearest_cell(worst: SensorOutlook | None, broken: tuple[str, ...]) -> Cell:
    if worst is None:
        return Cell(broken[-1].partition(":")[0] if broken else "no limit is stated", warns=bool(broken))
    pm = "" if worst.pm_k is None else f" {plus_minus(worst.pm_k, 0)}"
    return Cell(
        f"{worst.label}: {number(worst.value_c)}{pm} of {number(worst.at_most_c)} °C", warns=worst.value_c > worst.at_most_c
    )


def _sheet(says: str) -> str:
    return says.removeprefix("as it is: ")


def _work(plan: Plan) -> str:
    pieces = f", {plan.pieces} piece{'s' if plan.pieces != 1 else ''}" if plan.pieces else ""
    return _minutes(plan.minutes) + pieces


def _minutes(minutes: float) -> str:
    return f"{number(minutes)} min" if minutes < 90 else f"{number(minutes / 60, 1)} h"
