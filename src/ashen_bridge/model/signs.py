"""Units in one table: how the name of a field ends, the sign people read, and how a units library spells it."""

from __future__ import annotations

from typing import NamedTuple


class Unit(NamedTuple):
    """One unit. Without a `spelling` it is not converted from others: levels and temperatures are no multiples of a unit."""

    ending: str
    sign: str
    spelling: str


UNITS = (
    Unit("_w_mk", "W/m·K", "watt/(meter*kelvin)"),
    Unit("_mm2k_w", "mm²·K/W", "millimeter**2*kelvin/watt"),
    Unit("_w_m2k", "W/m²·K", "watt/(meter**2*kelvin)"),
    Unit("_gpa_mm", "GPa/mm", "gigapascal/millimeter"),
    Unit("_n_mm", "N/mm", "newton/millimeter"),
    Unit("_um_n", "µm/N", "micrometer/newton"),
    Unit("_kg_m3", "kg/m³", "kilogram/meter**3"),
    Unit("_j_kgk", "J/kg·K", "joule/(kilogram*kelvin)"),
    Unit("_j_k", "J/K", "joule/kelvin"),
    Unit("_k_w", "K/W", "kelvin/watt"),
    Unit("_mm3", "mm³", "millimeter**3"),
    Unit("_mm2", "mm²", "millimeter**2"),
    Unit("_kpa", "kPa", "kilopascal"),
    Unit("_gpa", "GPa", "gigapascal"),
    Unit("_db", "dB", ""),
    Unit("_m3_h", "m³/h", "meter**3/hour"),
    Unit("_nm", "N·m", "newton*meter"),
    Unit("_l_min", "l/min", "liter/minute"),
    Unit("_days", "days", "day"),
    Unit("_percent", "%", "percent"),
    Unit("_per_cm2", "per cm²", "1/centimeter**2"),
    Unit("_mm", "mm", "millimeter"),
    Unit("_um", "µm", "micrometer"),
    Unit("_n", "N", "newton"),
    Unit("_w", "W", "watt"),
    Unit("_c", "°C", ""),
    Unit("_k", "K", "kelvin"),
)
"""Longer endings stand before those that they end with."""


def unit_of(name: str) -> str:
    """Return the sign of the unit that a field's name ends with; empty if it has none.

    >>> unit_of("rate_n_mm"), unit_of("height_mm"), unit_of("exponent")
    ('N/mm', 'mm', '')
    """
    return next((unit.sign for unit in UNITS if f"_{name}".endswith(unit.ending)), "")


def without_unit(name: str) -> str:
    """Return a field's name without the unit it ends with.

    >>> without_unit("thickness_mm"), without_unit("exponent")
    ('thickness', 'exponent')
    """
    ending = next((unit.ending for unit in UNITS if name.endswith(unit.ending)), "")
    return name.removesuffix(ending)


def spelling_of(sign: str) -> str:
    """Return how a units library spells the unit of a sign; empty for plain numbers and what is not converted."""
    return next((unit.spelling for unit in UNITS if unit.sign == sign), "")
