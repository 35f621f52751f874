"""Plate fins under forced air: what they take from the fan, what they resist, and where the two meet."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.optimize import brentq

from ashen_bridge.library.air import Air, air_at
from ashen_bridge.model.errors import AssemblyError
from ashen_bridge.model.sinks import Fan
from ashen_bridge.thermal.natural import FinArray, fin_efficiency
from ashen_bridge.words.numbers import short

_M3H = 1 / 3600.0


def nusselt_plate_fins_teertstra(velocity: float, array: FinArray, air: Air) -> float:
    """Return Nu of isothermal channels on their width b and inlet air, developing and developed flow blended.

    Nu = [(Re*·Pr/2)^−3 + (0.664·√Re*·Pr^⅓·√(1 + 3.65/√Re*))^−3]^(−⅓), Re* = (V·b/ν)·(b/L), V [m/s] between the fins.
    Source: P. Teertstra, M. M. Yovanovich, J. R. Culham, "Analytical forced convection modeling of plate fin heat sinks",
    J. Electronics Manufacturing 10(4), 2000; 0.1 < Re* < 100.
    """
    b = array.spacing
    re = velocity * b / air.viscosity * b / array.length
    developed = re * air.prandtl / 2
    developing = 0.664 * math.sqrt(re) * air.prandtl ** (1 / 3) * math.sqrt(1 + 3.65 / math.sqrt(re))
    return float((developed**-3 + developing**-3) ** (-1 / 3))


def friction_muzychka(velocity: float, array: FinArray, air: Air) -> float:
    """Return the apparent Fanning factor times Re on √A of a rectangular channel, entrance included.

    f·Re = √[(3.44/√L⁺)² + (12/(√ε·(1+ε)·(1 − 192ε/π⁵·tanh(π/2ε))))²], L⁺ = L/(√A·Re), ε the aspect below 1.
    Source: Y. S. Muzychka, M. M. Yovanovich, "Pressure drop in laminar developing flow in noncircular ducts: a scaling and
    modeling approach", J. Fluids Engineering 131, 2009.
    """
    b, h = sorted((array.spacing, array.height))
    root = math.sqrt(b * h)
    aspect = b / h
    re = velocity * root / air.viscosity
    developing = 3.44 / math.sqrt(array.length / (root * re))
    series = 1 - 192 * aspect / math.pi**5 * math.tanh(math.pi / (2 * aspect))
    developed = 12 / (math.sqrt(aspect) * (1 + aspect) * series)
    return math.hypot(developing, developed)


def pressure_drop(velocity: float, array: FinArray, air: Air) -> float:
    """Return the pressure [Pa] to drive air through the fins at `velocity` [m/s] between them.

    Friction, and contraction and expansion K_c = 0.42·(1 − σ²), K_e = (1 − σ²)², σ the open share of the front (Kays & London,
    Compact Heat Exchangers, from memory).
    """
    if velocity <= 0:
        return 0.0
    b, h = array.spacing, array.height
    re = velocity * math.sqrt(b * h) / air.viscosity
    friction = friction_muzychka(velocity, array, air) / re
    open_share = 1 - array.count * array.thickness / array.width
    ends = 0.42 * (1 - open_share**2) + (1 - open_share**2) ** 2
    diameter = 2 * b * h / (b + h)
    return (4 * friction * array.length / diameter + ends) * air.density * velocity**2 / 2


@dataclass(frozen=True)
class FanPointFound:
    """Where fans and fins meet: flow through the fins [m³/s], pressure [Pa], velocity between the fins [m/s]."""

    flow: float
    pressure: float
    velocity: float


def fan_flow(fans: Sequence[Fan], pressure: float, speed: float) -> float:
    """Return the flow [m³/s] of fans side by side against `pressure` [Pa] at a share of rated speed: q ∝ n, Δp ∝ n².

    Only what is ducted to the fins counts. A fan whose curve ends below the pressure gives nothing.
    """
    total = 0.0
    for fan in fans:
        if not fan.curve:
            continue
        flows = np.array([point.flow_m3_h for point in fan.curve])
        pressures = np.array([point.pressure_pa for point in fan.curve])
        at = pressure / speed**2
        if at >= pressures[0]:
            continue
        total += fan.count * fan.ducted.value * speed * float(np.interp(-at, -pressures, flows)) * _M3H
    return total


def operating_point(fans: Sequence[Fan], array: FinArray, air: Air, speed: float) -> FanPointFound:
    """Return where the fans' curve meets what the fins resist. Raises `AssemblyError` if the fans move no air through them."""
    front = array.spacing * array.height * (array.count - 1)
    shut = max((fan.curve[0].pressure_pa * speed**2 for fan in fans if fan.curve), default=0.0)
    if shut <= 0 or front <= 0:
        raise AssemblyError("The fans of this sink move no air through its fins.")

    def surplus(pressure: float) -> float:
        return pressure - pressure_drop(fan_flow(fans, pressure, speed) / front, array, air)

    # At no pressure the fans blow hardest and the fins resist most; at the shut-off pressure nothing flows.
    pressure = float(brentq(surplus, 0.0, shut, xtol=1e-9))
    flow = fan_flow(fans, pressure, speed)
    return FanPointFound(flow, pressure, flow / front)


def resistance_plate_fins(array: FinArray, found: FanPointFound, air: Air) -> float:
    """Return the resistance [K/W] from an isothermal base to inlet air: 1/(η·h·A) over both walls of all channels.

    The Nusselt number of `nusselt_plate_fins_teertstra` is on inlet air, so the air's own rise is in it: for long fins its first
    limit makes R = 1/(ṁ·c). The base between the fins is left out, which is on the safe side.
    """
    film = nusselt_plate_fins_teertstra(found.velocity, array, air) * air.conductivity / array.spacing
    return 1 / (film * fin_efficiency(film, array) * 2 * (array.count - 1) * array.length * array.height)


def check_array(array: FinArray, what: str) -> FinArray:
    """Return the array if its fins leave room for air; raise `AssemblyError` else."""
    if array.spacing <= 0:
        raise AssemblyError(
            f"The fins of '{what}' leave no room for air: {array.count} × {short(array.thickness * 1e3)} mm on "
            f"{short(array.width * 1e3)} mm.",
            (what,),
        )
    return array


def air_of(inlet: float) -> Air:
    """Return air for a sink whose inlet is at `inlet` [K]; properties some kelvins above it."""
    return air_at(inlet + 10.0)
