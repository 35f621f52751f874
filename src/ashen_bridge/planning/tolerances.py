"""Tolerances backwards: how wide the ± of each chosen number may be for all limits to hold with a wanted chance.

What is not chosen keeps its ±. The chosen ones are as wide as they can be at the least cost, each costing its weight over its
width (half the width costs twice as much). Where one limit binds, closed forms: statistically u ∝ (w/a²)^(1/3), in the worst
case u ∝ (w/a)^(1/2), for slopes a and weights w (Lagrange multipliers; reciprocal cost as in M. F. Spotts, Trans. ASME 1973,
from memory). Where slopes do not hold, all are made narrower alike until draws through the model hold.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from typing import Any

import numpy as np
from scipy.optimize import minimize
from scipy.special import ndtri

from ashen_bridge.arrays import Floats
from ashen_bridge.model.errors import AssemblyError
from ashen_bridge.model.project import Project
from ashen_bridge.planning.allowed import Allowed, Tolerances
from ashen_bridge.planning.choosing.limits import Bound, bounds, margins
from ashen_bridge.predict.engine import Engine
from ashen_bridge.uncertainty.assumptions import Assumption
from ashen_bridge.uncertainty.drawing import draw
from ashen_bridge.uncertainty.preparation import Preparation, preparing

SPAN = 2.0
"""A stated tolerance of ± t is two standard uncertainties wide."""
_WIDEST, _TIGHTEST = 4.0, 0.02  # times the present one: wider than the first nothing is asked about, tighter nothing can be made
_DRAWS, _FEW, _SEED = 4000, 1500, 5_113
_HALVINGS = 6
_ASKED = frozenset(
    {
        *("height_mm", "thickness_mm", "step_mm", "depth_mm", "crown_um", "seat_mm", "reference_mm", "travel_mm", "washers_mm"),
        *("preload_n", "rate_n_mm", "wire_mm", "mean_coil_mm"),
    }
)
_LITTLE = 0.02  # share of the variance at its limit below which tightening a number is not worth it


def is_chosen(number: Assumption) -> bool:
    """Return whether a number is one that somebody can ask for: a length, a thickness of a sheet, a force or a rate."""
    field = number.field.rsplit(".", 1)[-1]
    return number.plays.mechanics and number.uncertainty > 0 and field in _ASKED


def allotted(
    slopes: Floats, fixed: Floats, margin: Floats, factor: float, weights: Floats, worst_case: bool = False
) -> Floats | None:
    """Return by which factors (n,) standard uncertainties may be multiplied at the least cost; None where nothing helps.

    slopes : (n, m) [K] per standard uncertainty. fixed : (m,) [K] what the rest makes of each bound. margin : (m,) [K] to each.
    factor : standard uncertainties that must fit in (statistical), or that a tolerance is wide (worst case).
    """
    room = margin / factor
    left = room**2 - fixed**2 if not worst_case else room - fixed
    if (left <= 0).any():
        return None
    size = slopes**2 if not worst_case else np.abs(slopes)
    power = 2 if not worst_case else 1

    def slack(logs: Floats) -> Floats:
        return np.asarray(1 - (np.exp(power * logs) @ size) / left)

    def slack_slopes(logs: Floats) -> Floats:
        return np.asarray(-(power * np.exp(power * logs)[:, None] * size / left).T)

    start = np.full(len(slopes), 0.5 * np.log(min(1.0, float((left / np.maximum(size.sum(axis=0), 1e-12)).min()))) - 0.1)
    found: Any = minimize(
        lambda logs: float(weights @ np.exp(-logs)),
        np.clip(start, np.log(_TIGHTEST), np.log(_WIDEST)),
        jac=lambda logs: -weights * np.exp(-logs),
        bounds=[(np.log(_TIGHTEST), np.log(_WIDEST))] * len(slopes),
        constraints={"type": "ineq", "fun": slack, "jac": slack_slopes},
        method="SLSQP",
        options={"maxiter": 300, "ftol": 1e-10},
    )  # type: ignore[call-overload]
    if not found.success or (slack(found.x) < -1e-6).any():
        return None
    return np.asarray(np.exp(found.x))


def tolerating(
    engine: Engine, project: Project, build: str, point: str, chance: float, weights: Mapping[str, float] | None = None
) -> Iterator[tuple[float, Tolerances | None]]:
    """Yield (progress, None) and at the end (1, how wide every chosen ± may be); `weights` by path: what is dear to tighten."""
    ready: Preparation | None = None
    for progress, found in preparing(engine, project, build, point):
        ready = found
        yield 0.8 * progress, None
    assert ready is not None  # the last one always is
    limited = bounds(project, point, ready.sensors)
    chosen = [n for n, one in enumerate(ready.numbers) if is_chosen(one)]
    if not limited or not chosen:
        raise AssemblyError("No limit is stated, or nothing that could be made to a tolerance: there is nothing to allot.")
    yield 1.0, _tolerances(ready, limited, chosen, chance, weights or {})


def _tolerances(
    ready: Preparation, limited: Sequence[Bound], chosen: Sequence[int], chance: float, weights: Mapping[str, float]
) -> Tolerances:
    at = [ready.sensors.index(one.sensor) for one in limited]
    every = ready.slopes()[:, at]
    slopes, rest = every[chosen], np.delete(every, chosen, axis=0)
    fixed = np.sqrt((rest**2).sum(axis=0))
    margin = margins(limited, ready.sensors, ready.nominal[None])[0]
    each = chance ** (1 / len(limited))  # of all together, as if they were independent: on the safe side
    dear = np.array([weights.get(ready.numbers[n].paths[0], 1.0) for n in chosen])
    factors = allotted(slopes, fixed, margin, float(ndtri(each)), dear)
    if factors is not None:
        factors = _held(ready, limited, chosen, factors, chance)
    worst = allotted(slopes, np.abs(rest).sum(axis=0), margin, SPAN, dear, worst_case=True)
    z = margin / np.sqrt(fixed**2 + (slopes**2).sum(axis=0))
    binding = int(np.argmin(z))
    share = slopes[:, binding] ** 2 / max(float((every[:, binding] ** 2).sum()), 1e-12)
    now = _drawn(ready, limited, chosen, np.ones(len(chosen)))
    rows = [
        _row(ready.numbers[n], 1.0 if factors is None else factors[k], None if worst is None else worst[k], share[k])
        for k, n in enumerate(chosen)
    ]
    rows.sort(key=lambda row: -row.share)
    drawn = now if factors is None else _drawn(ready, limited, chosen, factors)
    says = _says(limited[binding], margin[binding], fixed[binding], rows, chance, now, drawn, factors is not None)
    return Tolerances(chance, tuple(rows), limited[binding].label, now, drawn, worst is not None, says)


def _held(ready: Preparation, limited: Sequence[Bound], chosen: Sequence[int], factors: Floats, chance: float) -> Floats:
    """Return factors made smaller alike until draws hold with the wanted chance: slopes do not tell where a pad lets go."""
    low, high = 0.0, 1.0
    if (
        _drawn(ready, limited, chosen, factors, _FEW) >= chance
        or _drawn(ready, limited, chosen, _TIGHTEST * factors, _FEW) < chance
    ):
        return factors
    for _ in range(_HALVINGS):
        middle = (low + high) / 2
        if _drawn(ready, limited, chosen, middle * factors, _FEW) >= chance:
            low = middle
        else:
            high = middle
    return np.asarray(max(low, _TIGHTEST) * factors)


def _row(number: Assumption, factor: float, worst: float | None, share: float) -> Allowed:
    owners = list(dict.fromkeys(number.owners))
    whose = ", ".join(owners[:2]) + (f" and {len(owners) - 2} more" if len(owners) > 2 else "")
    name, unit = _spoken(number.field.rsplit(".", 1)[-1])
    words = f"{name} of {whose}"
    advice = "tighten" if factor < 0.95 else "may be wider" if factor > 1.05 else "as it is"
    advice = "not worth tightening" if share < _LITTLE and factor < 1.05 else advice
    now = SPAN * number.uncertainty
    return Allowed(number.paths[0], words, unit, now, now * factor, None if worst is None else now * worst, float(share), advice)


def _spoken(field: str) -> tuple[str, str]:
    """Return a field in words, and its unit."""
    for ending, unit in (("_n_mm", "N/mm"), ("_mm", "mm"), ("_um", "µm"), ("_n", "N")):
        if field.endswith(ending):
            return field.removesuffix(ending).replace("_", " "), unit
    return field.replace("_", " "), ""


def _drawn(ready: Preparation, limited: Sequence[Bound], chosen: Sequence[int], factors: Floats, count: int = _DRAWS) -> float:
    """Return the chance of all limits together with other ± of the chosen numbers, by draws through the model itself."""
    z = draw(ready.numbers, count, _SEED)
    z[:, list(chosen)] *= factors
    shown, rests = ready.temperatures(z)
    holds = (margins(limited, ready.sensors, shown) >= 0).all(axis=1)
    return float(holds.sum() / len(rests))


def _says(
    bound: Bound, margin: float, fixed: float, rows: Sequence[Allowed], chance: float, now: float, drawn: float, possible: bool
) -> str:
    if margin <= 0:
        return f"{bound.label} passes its limit by {-margin:.1f} K as it is: no tolerance helps."
    if not possible:
        return (
            f"What cannot be chosen alone makes ± {fixed:.1f} K of {bound.label}, which has {margin:.1f} K to spare: "
            f"{chance:.0%} cannot be reached by tolerances."
        )
    tight = [row.words for row in rows if row.advice == "tighten"]
    first = (
        f"Tighten {', '.join(tight[:3])}" + (f" and {len(tight) - 3} more" if len(tight) > 3 else "")
        if tight
        else "Nothing need be tightened"
    )
    return f"{first}; then all limits hold with {drawn:.0%} (now {now:.0%}, wanted {chance:.0%})."
