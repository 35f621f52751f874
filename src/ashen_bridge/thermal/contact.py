"""Heat through two bare faces pressed together, and how a layer's own faces get better under pressure."""

from __future__ import annotations

import math

import numpy as np

from ashen_bridge.arrays import Floats

WETTING = 10e3  # [Pa] by which a tacky face clings without load: keeps R_c finite at no pressure; common practice, no source


def asperity_slope(roughness: float) -> float:
    """Return the mean slope of a surface's asperities from its roughness σ [m]: m = 0.125·(σ·10⁶)^0.402.

    Source: V. W. Antonetti, T. D. Whittle, R. E. Simons, "An approximate thermal contact conductance correlation", ASME J.
    Electron. Packag. 115, 1993 (from memory); for σ up to 1.6 µm.
    """
    return float(0.125 * (roughness * 1e6) ** 0.402)


def bare_contact_cooper(pressure: Floats, conductivity: float, roughness: float, slope: float, hardness: float) -> Floats:
    """Return the conductance [W/m²·K] of bare contact: h = 1.25·(k·m/σ)·(p/H)^0.95.

    pressure [Pa]; conductivity k [W/m·K] the harmonic mean of both; roughness σ [m] and slope m of both together (root of the sum
    of squares); hardness H [Pa] of the softer. Source: M. G. Cooper, B. B. Mikic, M. M. Yovanovich, "Thermal contact
    conductance", Int. J. Heat Mass Transfer 12, 1969, with Yovanovich's coefficients of 1982 (from memory).

    >>> round(float(bare_contact_cooper(np.array(1e6), 200.0, 1e-6, 0.1, 1e9)))
    35313
    """
    return np.asarray(1.25 * conductivity * slope / roughness * (np.maximum(pressure, 0.0) / hardness) ** 0.95)


def gap_thickness(pressure: Floats, roughness: float, hardness: float) -> Floats:
    """Return the mean distance [m] of the planes of two rough faces: Y = 1.53·σ·(p/H)^−0.097 (Yovanovich, from memory)."""
    load = np.clip(np.asarray(pressure) / hardness, 1e-6, 1.0)
    return np.asarray(1.53 * roughness * load**-0.097)


def pair(one: tuple[float, float], other: tuple[float, float]) -> tuple[float, float]:
    """Return roughness [m] and slope of two faces together from (roughness, slope) of each."""
    return math.hypot(one[0], other[0]), math.hypot(one[1], other[1])


def face_resistance(
    pressure: Floats, at_reference: Floats | float, reference: Floats | float, exponent: Floats | float
) -> Floats:
    """Return the contact resistance of one face of a layer [m²·K/W] under `pressure` [Pa].

    R_c = R₀·((p₀ + p_w)/(p + p_w))^n, R₀ at the reference pressure p₀ [Pa]; p_w is what wetting alone presses it with.

    >>> float(face_resistance(np.array(100e3), 2e-5, 100e3, 0.5))
    2e-05
    """
    if not np.any(exponent) or not np.any(at_reference):
        return np.broadcast_to(at_reference, np.shape(pressure))
    return np.asarray(at_reference * ((reference + WETTING) / (np.maximum(pressure, 0.0) + WETTING)) ** exponent)
