"""Numbers worked out of several readings: a spring by two weights or by its wire, a paste by weight; each with its ±.

Uncertainties go by the law of propagation (JCGM 100:2008, 5.1.2) for independent readings.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from ashen_bridge.model.errors import ProjectError
from ashen_bridge.words.numbers import short

G = 9.80665
"""Standard gravity [m/s²] (3rd CGPM, 1901); it differs by up to 0.3 % over the earth."""
_G_SHARE = 0.002
_STEEL_GPA, _STEEL_U = 79.3, 2.0  # shear modulus of spring steel, as `SpringWire` has it


@dataclass(frozen=True)
class WorkedOut:
    """A number in its own unit with its standard uncertainty, and what it was worked out of."""

    value: float
    uncertainty: float
    note: str


def rate_by_weights(
    light_g: float, heavy_g: float, light_mm: float, heavy_mm: float, scale_g: float = 1.0, caliper_mm: float = 0.02
) -> WorkedOut:
    """Return a spring's rate [N/mm] from its length under two weights. Raises `ProjectError` where they say nothing.

    >>> round(rate_by_weights(200, 500, 9.0, 8.2).value, 2)
    3.68
    """
    load_g, way_mm = heavy_g - light_g, light_mm - heavy_mm
    if load_g <= 0 or light_g < 0:
        raise ProjectError("The second weight has to be heavier than the first, and neither below nothing.")
    if way_mm <= 0:
        raise ProjectError("Under the heavier weight the spring has to be shorter.")
    value = load_g * 1e-3 * G / way_mm
    share = math.sqrt(2 * (scale_g / load_g) ** 2 + 2 * (caliper_mm / way_mm) ** 2 + _G_SHARE**2)
    note = f"by {short(light_g)} and {short(heavy_g)} g at {short(light_mm, 4)} and {short(heavy_mm, 4)} mm"
    return WorkedOut(value, value * share, note)


def rate_by_wire(wire_mm: float, outer_mm: float, turns: float, caliper_mm: float = 0.02) -> WorkedOut:
    """Return the rate [N/mm] of a round-wire spring, k = G·d⁴ / (8·D³·n) with D its mean coil, by usual steel.

    As in `model.fasteners.SpringWire`. Raises `ProjectError`.

    >>> round(rate_by_wire(0.8, 6.0, 5.0).value, 2)
    5.78
    """
    if not 0 < wire_mm < outer_mm / 2:
        raise ProjectError("The wire is thinner than half of the coil's outside.")
    if turns <= 0:
        raise ProjectError("A spring has active turns: those that do not lie on each other.")
    coil = outer_mm - wire_mm
    value = _STEEL_GPA * 1e3 * wire_mm**4 / (8 * coil**3 * turns)
    # The wire is in the coil too: d ln k = (4/d + 3/D) dd − 3/D dD.
    by_wire = (4 / wire_mm + 3 / coil) * caliper_mm
    share = math.sqrt(by_wire**2 + (3 * caliper_mm / coil) ** 2 + (0.25 / turns) ** 2 + (_STEEL_U / _STEEL_GPA) ** 2)
    note = f"by wire {short(wire_mm)} mm, outside {short(outer_mm)} mm, {short(turns)} active turns of steel"
    return WorkedOut(value, value * share, note)


def paste_by_weight(before_g: float, after_g: float, density_kg_m3: float, scale_g: float = 0.01) -> WorkedOut:
    """Return a volume of paste or putty [mm³] from its tube before and after, or from a part without and with it.

    Raises `ProjectError` where nothing was used.

    >>> round(paste_by_weight(12.40, 12.25, 2500.0).value, 1)
    60.0
    """
    used = abs(before_g - after_g)
    if used <= 0:
        raise ProjectError("Both weights are the same: nothing was used, as far as the scale can tell.")
    if density_kg_m3 <= 0:
        raise ProjectError("A density is above nothing; pastes have 1,000 to 5,000 kg/m³.")
    value = used * 1e-3 / density_kg_m3 * 1e9
    share = math.sqrt(2 * (scale_g / used) ** 2 + 0.05**2)  # densities of pastes are known to some 5 %
    return WorkedOut(value, value * share, f"by {short(used, 3)} g at {short(density_kg_m3)} kg/m³")
