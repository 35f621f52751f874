"""Heat at surfaces: radiation, and conduction and radiation across a gap of air."""

from __future__ import annotations

import numpy as np

from ashen_bridge.arrays import Floats

KELVIN = 273.15
STEFAN_BOLTZMANN = 5.670374419e-8  # [W/m²·K⁴], CODATA 2018
GAS_REFERENCE = 316.0  # [K] at which gases in gaps are counted before their temperature is known
AIR_EXPONENT = 0.86  # of k over T: 0.0263, 0.0300, 0.0338 W/m·K at 300, 350, 400 K; Incropera et al., table A.4 (from memory)
AIR_CONDUCTIVITY = 0.0275  # [W/m·K] at that temperature, by the same table


def radiation_coefficient(surface: Floats, surroundings: Floats | float, emissivity: Floats | float) -> Floats:
    """Return the linear radiation coefficient εσ(T²+T₀²)(T+T₀) [W/m²·K] of a small grey surface in large surroundings."""
    return emissivity * STEFAN_BOLTZMANN * (surface**2 + surroundings**2) * (surface + surroundings)


def effective_emissivity(one: float, other: float) -> float:
    """Return the effective emissivity between two large parallel grey plates, 1/(1/ε₁ + 1/ε₂ − 1).

    >>> round(effective_emissivity(0.9, 0.9), 3)
    0.818
    """
    if one <= 0 or other <= 0:
        return 0.0
    return 1 / (1 / one + 1 / other - 1)


def air_gap_conductance(gap: Floats) -> Floats:
    """Return the conductance per area k/gap [W/m²·K] of still air; a gap below 1 µm counts as 1 µm of air."""
    return np.asarray(AIR_CONDUCTIVITY / np.maximum(gap, 1e-6))
