"""Every plan that was tried, each once: choices per place and washers, what came of it, and how well it serves an aim."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Literal

import numpy as np

from ashen_bridge.arrays import Floats, Ints
from ashen_bridge.model.project import Project
from ashen_bridge.planning.choosing.bill import Need, cost, needs
from ashen_bridge.planning.choosing.candidate import KEPT, Candidate
from ashen_bridge.planning.choosing.candidates import hopeless, known_materials
from ashen_bridge.planning.choosing.constraints import Broken, Constraints
from ashen_bridge.planning.choosing.limits import Bound, margins
from ashen_bridge.planning.choosing.places import Place
from ashen_bridge.planning.choosing.practice import practice
from ashen_bridge.planning.choosing.tryout import Tried, Tryout
from ashen_bridge.planning.quiet import FanCurve

Key = tuple[int, ...]
"""Number of the candidate of every place, and at the end the number of the washers."""
Aim = Literal["coolest", "safest", "least work", "cheapest", "quietest", "longest"]
AIMS: tuple[Aim, ...] = ("coolest", "safest", "least work", "cheapest", "quietest", "longest")

_WASHER = 0.5  # kelvins that a millimetre of washers must be worth
_BROKEN, _OVER, _OTHER = 400.0, 20.0, 0.05  # what a broken bound, a kelvin over a limit, a kelvin elsewhere weigh
_COMFORT = 0.35  # share of a constraint's bound from which it is no longer a worry


@dataclass(frozen=True)
class Row:
    """What came of one plan: shares by which constraints are broken, margins [K] as they are seen, die [°C], what it takes."""

    key: Key
    over: Floats
    margin: Floats
    die_c: float
    warm_c: float
    minutes: float
    changed: int
    cost: float | None
    years: float

    @property
    def holds(self) -> bool:
        """Whether nothing is broken and no limit passed."""
        return bool((self.over <= 0).all() and (self.margin >= 0).all())


class Pool:
    """Plans tried so far. `margin_k` is what every bound needs for its chance: set once its ± is known."""

    def __init__(
        self,
        project: Project,
        tryout: Tryout,
        places: Sequence[Place],
        options: Sequence[Sequence[Candidate]],
        found: Sequence[Bound],
        washers: Sequence[float],
        to_fine: Callable[[Floats], Floats],
        find_curve: Callable[[], FanCurve | None] = lambda: None,
    ) -> None:
        self._find_curve = find_curve
        self.project, self.tryout, self.places, self.options = project, tryout, places, options
        self.bounds, self.washers = tuple(found), tuple(washers)
        self.constraints = Constraints(project, tryout, places, options)
        self.unsure_mm: Mapping[str, float] = {}
        self.spare_k = np.zeros(len(self.bounds))
        self.to_fine = to_fine
        self._known = known_materials(project)
        self._rows: dict[Key, tuple[Row, Tried]] = {}
        self._batches: list[tuple[list[Key], Tried]] = []
        self._dies = [
            n for n, name in enumerate(tryout.parts) if name in {low for p in places if p.role == "die" for low in p.lowers}
        ]

    def __len__(self) -> int:
        return len(self._rows)

    def able(self, place: int) -> list[int]:
        """Return which candidates of a place may be chosen at all."""
        some = self.options[place]
        fit = [n for n, one in enumerate(some) if not one.refused and (place, n) not in self.tryout.refused]
        hopeful = [n for n in fit if not hopeless(self.places[place], some[n])]
        return hopeful or fit

    def keys_beside(self, key: Key, at: int) -> list[Key]:
        """Return the plans that differ from one in one place, or in its washers (the last)."""
        many = range(len(self.washers)) if at == len(self.places) else self.able(at)
        return [(*key[:at], n, *key[at + 1 :]) for n in many]

    def ensure(self, keys: Iterable[Key]) -> None:
        """Try those plans that were not tried yet."""
        new = [key for key in dict.fromkeys(keys) if key not in self._rows]
        if not new:
            return
        choices = np.array([key[:-1] for key in new])
        tried = self.tryout.tried(choices, np.array([self.washers[key[-1]] for key in new]))
        over = self.constraints.over(choices, tried, self.unsure_mm)
        self._batches.append((new, tried))
        over = np.hstack([over, np.where(tried.rests, -1.0, 10.0)[:, None], self._overspent(new)])
        shown = self.to_fine(tried.sensors)
        margin = np.nan_to_num(margins(self.bounds, self.tryout.sensors, shown), nan=-1e3)
        for n, key in enumerate(new):
            one = tried.rows(slice(n, n + 1))
            self._rows[key] = self._row(key, over[n], margin[n], one), one

    def reckon(self, unsure_mm: Mapping[str, float]) -> None:
        """Weigh all plans again with what is not known of the gaps [mm]."""
        self.unsure_mm = unsure_mm
        for keys, tried in self._batches:
            over = self.constraints.over(np.array([key[:-1] for key in keys]), tried, unsure_mm)
            for key, now in zip(keys, over, strict=True):
                row, one = self._rows[key]
                self._rows[key] = replace(row, over=np.append(now, row.over[-2:])), one

    def tried(self, key: Key) -> Tried:
        """Return what becomes of a plan (one row)."""
        self.ensure([key])
        return self._rows[key][1]

    def row(self, key: Key) -> Row:
        """Return what came of a plan, its margins less what the wanted chance needs."""
        self.ensure([key])
        row = self._rows[key][0]
        return replace(row, margin=row.margin - self.spare_k)

    def rows(self) -> list[Row]:
        """Return all of them."""
        return [self.row(key) for key in self._rows]

    def score(self, key: Key, aim: Aim) -> float:
        """Return how badly a plan serves an aim: what is broken first, then limits, then the aim itself."""
        return self.score_of(self.row(key), aim)

    def score_of(self, row: Row, aim: Aim) -> float:
        """Return how badly what came of a plan serves an aim."""
        bad = _BROKEN * float(np.maximum(row.over, 0.0).sum()) + _OVER * float(np.maximum(-row.margin, 0.0).sum())
        least = float(row.margin.min(initial=50.0))
        cool = row.die_c + _OTHER * row.warm_c - 0.5 * min(least, 20.0) + _WASHER * self.washers[row.key[-1]]
        match aim:
            case "coolest":
                return bad + cool
            case "safest":
                worry = float(np.maximum(row.over + _COMFORT, 0.0).sum()) / _COMFORT
                return bad + 30 * worry + 0.2 * cool
            case "least work":
                return bad + row.minutes + 2 * row.changed + 0.1 * cool
            case "cheapest":
                return bad + (row.cost if row.cost is not None else row.changed) + 0.05 * row.minutes + 0.1 * cool
            case "quietest":
                return bad - 3 * self._quieter_db(row) + 0.1 * cool
            case "longest":
                return bad - 8 * row.years + 0.3 * cool

    def needs(self, key: Key) -> tuple[Need, ...]:
        """Return what has to be bought or taken from the stock for a plan."""
        filled = []
        for place, some, n in zip(self.places, self.options, key, strict=False):
            one = some[n]
            if one.kind in KEPT:
                continue
            for pieces in one.fills.values():
                filled += [(piece, place.area_mm2 / len(place.joints)) for piece in pieces]
        return needs(filled, self._known)

    def broken(self, key: Key, choices: Ints, tried: Tried, unsure_mm: Mapping[str, float]) -> list[Broken]:
        """Return what one plan breaks, in words: its mechanics and materials, and what may be spent."""
        found = self.constraints.broken(choices, tried, unsure_mm)
        budget, spent = self.project.aims.budget, cost(self.project, self.needs(key))[0]
        if budget is not None and spent is not None and spent > budget:
            unit = f" {self.project.currency}" if self.project.currency else ""
            said = f"It costs {spent:.2f}{unit}; {budget:.2f}{unit} may be spent."
            found.append(Broken("over budget", _share_over(spent, budget), said))
        return found

    def _overspent(self, keys: Sequence[Key]) -> Floats:
        """Return by which share plans cost more than may be spent (n, 1); what has no price is not held against a plan."""
        budget = self.project.aims.budget
        if budget is None:
            return np.full((len(keys), 1), -1.0)
        spent = [cost(self.project, self.needs(key))[0] for key in keys]
        over = [-1.0 if one is None or one <= budget else _share_over(one, budget) for one in spent]
        return np.array(over)[:, None]

    def quieter_db(self, key: Key) -> float:
        """Return by how many decibels fans may be quieter under a plan until the first limit is reached; 0 without fans."""
        return self._quieter_db(self.row(key))

    def _quieter_db(self, row: Row) -> float:
        curve = self.fan_curve
        if curve is None:
            return 0.0
        each = zip(self.bounds, row.margin, strict=True)
        return min((curve.less(bound.sensor, float(left)) for bound, left in each), default=0.0)

    @cached_property
    def fan_curve(self) -> FanCurve | None:
        """How much warmer sensors get where fans are quieter."""
        return self._find_curve()

    def _row(self, key: Key, over: Floats, margin: Floats, tried: Tried) -> Row:
        p = practice()
        chosen = [some[n] for some, n in zip(self.options, key, strict=False)]
        changed = [one for one in chosen if one.kind != "keep"]
        joints = [(one, len(place.joints)) for one, place in zip(chosen, self.places, strict=True)]
        minutes = sum(p.minutes[one.kind] * count for one, count in joints) + p.minutes["clean"] * len(changed)
        minutes += (p.minutes["open"] if changed or key[-1] else 0.0) + (
            p.minutes["washer"] * int(self.tryout.washers.sum()) if key[-1] else 0
        )
        parts = np.nan_to_num(tried.parts[0], nan=500.0)
        die = float(parts[self._dies].max()) if self._dies else float(parts.max(initial=0.0))
        spent, _ = cost(self.project, self.needs(key))
        years = min((p.years[one.kind] for one in chosen if one.fills and any(one.fills.values())), default=20.0)
        return Row(key, over, margin, die, float(parts.mean()), minutes, len(changed) + bool(key[-1]), spent, years)


def _share_over(spent: float, budget: float) -> float:
    return spent / budget - 1 if budget > 0 else 1.0
