"""The operating point that comes about: throttled powers and the air inside a case are found together with the field."""

from __future__ import annotations

import dataclasses
from collections.abc import Callable, Mapping
from dataclasses import dataclass

import numpy as np

from ashen_bridge.geometry.scene import Scene
from ashen_bridge.model.build import OperatingPoint
from ashen_bridge.model.errors import AshenError, AssemblyError
from ashen_bridge.predict.powers import powers_at, with_powers
from ashen_bridge.predict.readings import active_extremes
from ashen_bridge.thermal.steady import HeatField, RunawayError
from ashen_bridge.thermal.surfaces import KELVIN
from ashen_bridge.words.numbers import short

MOST_PASSES = 40
Solve = Callable[[OperatingPoint, float | None], HeatField]
"""(operating point with its powers, inside air [K]) → field."""


class OperatingError(AshenError, ArithmeticError):
    """Throttling or the inside air did not settle."""


@dataclass(frozen=True)
class Reached:
    """What a search on one grid came to, for another grid to start from: see `Operating`."""

    inside: float | None
    factors: dict[str, float]
    air_slope: float | None


@dataclass(frozen=True)
class Operating:
    """What came about: the field, the point with its real powers, and the air inside [K].

    told : powers by the operating point alone [W]; wanted : those left by its power limits, before throttling. factors : shares
    of their power that throttling leaves; air_slope : by how much the inside air's surplus of heat falls per kelvin [W/K].
    """

    field: HeatField
    point: OperatingPoint
    inside: float | None
    wanted: dict[str, float]
    told: dict[str, float]
    factors: dict[str, float] = dataclasses.field(default_factory=dict)
    air_slope: float | None = None

    @property
    def reached(self) -> Reached:
        """What another grid may start from."""
        return Reached(self.inside, self.factors, self.air_slope)


def come_about(
    scene: Scene,
    point: OperatingPoint,
    active: Mapping[str, tuple[int, ...]],
    solve: Solve,
    *,
    close_k: float = 0.01,
    start: Reached | None = None,
) -> Operating:
    """Return the operating point that comes about; `start` is what came about on another grid.

    Raises `OperatingError` if it does not settle within `close_k` [K].
    """
    throttles = {name: limit.value for name, limit in point.throttle_at_c.items() if name in active}
    wanted = powers_at(scene, point)
    told = powers_at(scene, point.model_copy(update={"power_limits_w": {}}))
    if not throttles and point.inside == "given":
        actual = with_powers(point, wanted)
        return Operating(solve(actual, None), actual, None, wanted, told)
    ambient = point.ambient_c.value + KELVIN
    air = _Secant(ambient + 5.0, ambient) if point.inside != "given" else None
    factors = {name: _Factor(limit, point.ambient_c.value) for name, limit in throttles.items()}
    if start is not None:
        if air is not None and start.inside is not None:
            air = _Secant(start.inside, ambient, start.air_slope)
        for name, factor in factors.items():
            factor.value = start.factors.get(name, 1.0)
    for _ in range(MOST_PASSES):
        actual = with_powers(point, powers_at(scene, point, {name: one.value for name, one in factors.items()}))
        try:
            found = solve(actual, air.at if air else None)
        except RunawayError:
            # At full power the heat would run away; what throttles does not let it come to that.
            left = [factor.retreat() for factor in factors.values()]
            if not any(left):
                raise
            continue
        off = 0.0
        for name, factor in factors.items():
            off = max(off, factor.improve(active_extremes(found, name, active[name])[0]))
        if air is not None:
            off = max(off, air.improve(*_inside_balance(found, point, ambient, air.at)))
        if off < close_k:
            reached = {name: factor.value for name, factor in factors.items()}
            return Operating(found, actual, air.at if air else None, wanted, told, reached, air.slope if air else None)
    raise OperatingError(f"The operating point did not settle within {MOST_PASSES} passes (still {short(off, 2)} K off).")


def _inside_balance(field: HeatField, point: OperatingPoint, ambient: float, air: float) -> tuple[float, float]:
    """Return what heats the inside air more than it loses [W], and at least by how much that falls per kelvin [W/K]."""
    given = sum(float(w) for film, w in zip(field.films, field.film_power, strict=True) if film.film.inside)
    out = [film for film in field.films if not film.film.inside and film.film.air <= ambient + 1e-9]
    if point.inside == "sealed" and not out:
        raise AssemblyError("Heat has no way out of the sealed case: it needs a case wall whose outside loses heat to ambient.")
    vent = 1 / point.vent_k_w.value if point.inside == "vented" and point.vent_k_w else 0.0
    touched = sum(
        float(w) / max(abs(float(field.temperature[film.cells].mean()) - air), 0.5)
        for film, w in zip(field.films, np.abs(field.film_power), strict=True)
        if film.film.inside and len(film.cells)
    )
    return given - vent * (air - ambient), vent + 0.3 * touched + 1e-6


class _Secant:
    """One unknown temperature whose surplus of heat falls as it rises."""

    def __init__(self, start: float, floor: float, slope: float | None = None) -> None:
        self.at, self._floor, self.slope = start, floor, slope
        self._before: tuple[float, float] | None = None

    def improve(self, surplus: float, slope: float) -> float:
        """Take a step; returns how far it was [K]."""
        if self._before is not None and abs(self.at - self._before[0]) > 1e-9:
            found = -(surplus - self._before[1]) / (self.at - self._before[0])
            self.slope = found if found > 1e-9 else self.slope
        slope = self.slope or slope
        step = float(np.clip(surplus / slope, -60.0, 60.0))
        self._before = self.at, surplus
        self.at = max(self._floor - 40.0, self.at + step)
        return abs(step)


class _Factor:
    """The share of its power that keeps a component at its limit; 1 as long as it stays below."""

    def __init__(self, limit: float, cold: float) -> None:
        self.value, self._limit, self._cold = 1.0, limit, cold
        self._before: tuple[float, float] | None = None

    def retreat(self) -> bool:
        """Start over from less power; returns whether there is any left to take."""
        self.value, self._before = 0.7 * self.value, None
        return self.value > 0.02

    def improve(self, hottest: float) -> float:
        """Take a step; returns by how much the hottest point misses what is wanted [K]."""
        miss = hottest - self._limit
        if (self.value >= 1.0 and miss <= 0) or (self.value <= 0.0 and miss >= 0):
            return 0.0
        if self._before is not None and abs(self.value - self._before[0]) > 1e-9:
            slope = (hottest - self._before[1]) / (self.value - self._before[0])
        else:
            slope = (hottest - self._cold) / max(self.value, 1e-6)
        self._before = self.value, hottest
        self.value = float(np.clip(self.value - miss / slope if slope > 1e-9 else 0.0, 0.0, 1.0))
        return abs(miss)
