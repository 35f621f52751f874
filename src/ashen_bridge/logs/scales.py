"""Readings in the units the program thinks in."""

from __future__ import annotations

from ashen_bridge.arrays import Floats
from ashen_bridge.model.records import RunChannel


def celsius(mapped: RunChannel, values: Floats) -> Floats:
    """Return temperatures in °C, whatever the logger wrote."""
    if mapped.unit == "°F":
        return (values - 32) / 1.8
    return values - 273.15 if mapped.unit == "K" else values
