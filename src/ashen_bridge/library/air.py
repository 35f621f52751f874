"""Properties of air over temperature."""

from __future__ import annotations

import json
from dataclasses import dataclass
from functools import lru_cache
from importlib import resources

import numpy as np


@dataclass(frozen=True)
class Air:
    """Dry air at atmospheric pressure: density [kg/m³], specific heat [J/kg·K], kinematic viscosity [m²/s], k [W/m·K], Pr."""

    density: float
    specific_heat: float
    viscosity: float
    conductivity: float
    prandtl: float


@lru_cache(maxsize=1)
def _table() -> np.ndarray:
    content = json.loads(resources.files("ashen_bridge.library").joinpath("air.json").read_text(encoding="utf-8"))
    return np.array(content["rows"]).T


def air_at(temperature_k: float) -> Air:
    """Return air at a temperature [K]; outside 250 to 500 K its end values.

    >>> air_at(325.0).conductivity
    0.02815
    """
    temperatures, *columns = _table()
    return Air(*(round(float(np.interp(temperature_k, temperatures, column)), 12) for column in columns))
