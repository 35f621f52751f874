"""Sink models: from what a heatsink is rated for to a film coefficient over its footprint."""

from __future__ import annotations

import math
from dataclasses import dataclass

from ashen_bridge.model.errors import AssemblyError
from ashen_bridge.model.sinks import RatedSink
from ashen_bridge.thermal.spreading import spreading_lee
from ashen_bridge.words.numbers import number, percent, short

SLOWEST = 0.05  # of rated speed: below it the speed law does not hold


def rated_resistance(sink: RatedSink, speed: float) -> float:
    """Return the resistance [K/W] between the sink's reference base and inlet air at `speed` (1 = rated).

    R = R_fixed + R_conv·(n/n₀)^−x. A rating against mean air gains half the air's own rise, which goes as 1/flow.
    """
    if speed < SLOWEST:
        raise AssemblyError(
            f"Fan speed {percent(speed)} of rated is below {percent(SLOWEST)}: the rated point says nothing about a standing fan."
        )
    resistance = sink.fixed_k_w.value + sink.convective_k_w.value * float(speed**-sink.exponent.value)
    if sink.air_reference == "mean":
        resistance += sink.air_rise_k_w.value / speed / 2
    return resistance


@dataclass(frozen=True)
class Base:
    """What a sink stands on: area [m²], thickness [m], conductivity along and through [W/m·K]; the spot that heats it [m²]."""

    area: float
    thickness: float
    along: float
    through: float
    spot: float


def film_from_base(resistance: float, base: Base, from_spot: bool) -> float:
    """Return the film coefficient [W/m²·K] over a base that reproduces a rated resistance to air [K/W].

    A rating from a source spot contains the base's conduction and spreading from that spot; both are taken out again, since
    the column grid computes them. What spreads along another way than through is treated as isotropic by stretching the
    thickness by √(k along / k through).

    Raises
    ------
    AssemblyError
        If the rating is smaller than the spreading it must contain.
    """
    film = 1 / (resistance * base.area)
    if not from_spot:
        return film
    stretch = math.sqrt(base.along / base.through)
    mean, thickness = math.sqrt(base.along * base.through), base.thickness * stretch
    straight = base.thickness / (base.through * base.area)
    for _ in range(60):
        rest = resistance - straight - spreading_lee(base.spot, base.area, thickness, mean, film)
        if rest <= 0:
            raise AssemblyError(
                f"The sink's rating of {short(resistance, 3)} K/W from a spot of {number(base.spot * 1e6)} mm² is less than its "
                "own base already takes; check spot size, base thickness and conductivity."
            )
        updated = 1 / (rest * base.area)
        if abs(updated - film) < 1e-9 * film:
            return updated
        film = updated
    return film
