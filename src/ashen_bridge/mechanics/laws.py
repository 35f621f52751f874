"""Thickness of a single layer under pressure, and force laws of springs. All SI."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from scipy.interpolate import PchipInterpolator

from ashen_bridge.arrays import Floats
from ashen_bridge.model.material import Compression, Flow

PRASHER_C = 0.131e-3  # [m]
PRASHER_M = 0.166
_TABLE = 400


def bond_line_prasher(pressure: Floats, yield_stress: float, filler: float) -> Floats:
    """Return the bond line [m] of a paste pressed at `pressure` [Pa]: BLT = c·(τy/p)^m, never thinner than its filler.

    `yield_stress` τy [Pa], `filler` [m] the largest grain. Holds for p ≥ τy; below that it is an extrapolation whose force is
    negligible. Source: R. Prasher, Proc. IEEE 94(8), 2006, scaling bond-line law, c = 0.131 mm, m = 0.166.

    >>> round(float(bond_line_prasher(np.array(3e5), 100.0, 0.0)) * 1e6, 1)
    34.7
    """
    with np.errstate(divide="ignore"):
        law = PRASHER_C * (yield_stress / pressure) ** PRASHER_M
    return np.maximum(law, filler)


def paste_thickness(pressure: Floats, flow: Flow) -> Floats:
    """Return the bond line [m] of a paste of the library at `pressure` [Pa]."""
    return bond_line_prasher(pressure, flow.yield_stress_kpa.value * 1e3, flow.filler_um.value * 1e-6)


def squeeze_film_thickness(pressure: Floats, yield_stress: float, radius: float) -> Floats:
    """Return the thickness [m] at which a Bingham putty stops being squeezed out between discs of `radius` [m].

    Mean pressure p = 2·τy·R/(3·h): the slowest limit of the squeeze film of a yield-stress fluid (J. D. Sherwood, D. Durban,
    "Squeeze flow of a power-law viscoplastic solid", J. Non-Newtonian Fluid Mech. 62, 1996, plastic limit; from memory).

    >>> round(float(squeeze_film_thickness(np.array(50e3), 10e3, 7e-3)) * 1e3, 2)
    0.93
    """
    with np.errstate(divide="ignore"):
        return np.asarray(2 * yield_stress * radius / (3 * pressure))


def shape_factor(area: float, perimeter: float, thickness: float) -> float:
    """Return loaded area over free side area of a pad, the shape factor of elastomer blocks (all lengths in one unit)."""
    return area / (perimeter * thickness)


def shape_stiffening(compression: Compression, area: float, perimeter: float, thickness: float) -> float:
    """Return by how much a pad of this size is firmer than its data-sheet sample: (1 + βS²)/(1 + βS₀²).

    `area` [m²], `perimeter` [m], `thickness` [m]. The form is that of Gent & Lindley, Proc. IMechE 173, 1959, for bonded
    blocks (there β = 2 times a material factor); β is stated per material, since pad faces slip. The sample is taken as square.
    """
    beta = compression.shape_coefficient.value
    side = compression.sample_area_mm2.value**0.5
    sample = shape_factor(side * side, 4 * side, compression.sample_thickness_mm.value)
    own = shape_factor(area, perimeter, thickness)
    return float((1 + beta * own**2) / (1 + beta * sample**2))


def pad_pressure(strain: Floats, compression: Compression) -> Floats:
    """Return the pressure [Pa] of a pad of its sample's shape at `strain` (0 to below 1); 0 for negative strain.

    Monotone cubic through the data sheet's points; beyond the last one the slope s grows as s·((1−ε₁)/(1−ε))².

    >>> from ashen_bridge.model.material import CurvePoint
    >>> curve = Compression(points=(CurvePoint(strain=0, pressure_kpa=0), CurvePoint(strain=.5, pressure_kpa=300)),
    ...                     sample_thickness_mm=1, sample_area_mm2=645)
    >>> float(pad_pressure(np.array(.5), curve))
    300000.0
    """
    spline, last, top, slope = _pad_spline(compression.points)
    inside = spline(np.clip(strain, 0.0, last))
    beyond = top + slope * (1 - last) * ((1 - last) / (1 - np.minimum(strain, 0.999)) - 1)
    return np.asarray(np.where(strain > last, beyond, inside))


@lru_cache(maxsize=1)
def _strain_grid() -> Floats:
    return np.concatenate([np.linspace(0, 0.9, _TABLE), 1 - np.geomspace(0.1, 0.001, _TABLE)[1:]])


@lru_cache(maxsize=256)
def strain_table(compression: Compression) -> tuple[Floats, Floats]:
    """Return strains and the pressures [Pa] of a pad of its sample's shape at them, both rising."""
    return _strain_grid(), pad_pressure(_strain_grid(), compression)


@lru_cache(maxsize=256)
def _pad_spline(points: tuple[object, ...]) -> tuple[PchipInterpolator, float, float, float]:
    strain = np.array([point.strain for point in points])  # type: ignore[attr-defined]
    pressure = np.array([point.pressure_kpa for point in points]) * 1e3  # type: ignore[attr-defined]
    spline = PchipInterpolator(strain, pressure)
    end_slope = float(spline.derivative()(strain[-1]))
    # A curve that flattens at its end must still stiffen beyond it.
    secant = float((pressure[-1] - pressure[-2]) / (strain[-1] - strain[-2]))
    return spline, float(strain[-1]), float(pressure[-1]), max(end_slope, secant)
