"""Rising air: film coefficients of plates and of plate-fin arrays that depend on how warm they are."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache
from typing import Literal

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.library.air import air_at
from ashen_bridge.thermal.surfaces import STEFAN_BOLTZMANN

GRAVITY = 9.80665
Lie = Literal["up", "down", "vertical"]
"""How a warm face lies: looking up, looking down, or upright."""
_LEAST = 0.05  # [K]: below this excess the law is that of this excess
_GRID = np.concatenate([[_LEAST], np.geomspace(0.2, 400.0, 60)])


def nusselt_free_plate(lie: Lie, grashof: float, prandtl: float) -> float:
    """Return Nu of a warm plate in still air.

    Upright by Churchill & Chu (length = height), flat by McAdams, looking up or down (length = area over perimeter); both
    as the heat-transfer library `ht` has them.
    """
    import ht

    if lie == "vertical":
        return float(ht.Nu_vertical_plate_Churchill(prandtl, grashof))
    return float(ht.Nu_horizontal_plate_McAdams(prandtl, grashof, buoyancy=lie == "up"))


def grashof(excess: float, length: float, film_temperature: float) -> float:
    """Return g·β·ΔT·L³/ν² of air, β = 1/T at the film temperature [K]."""
    air = air_at(film_temperature)
    return GRAVITY / film_temperature * excess * length**3 / air.viscosity**2


def film_free_plate(lie: Lie, excess: float, length: float, air_temperature: float) -> float:
    """Return the mean film coefficient [W/m²·K] of a plate `excess` [K] warmer than air at `air_temperature` [K]."""
    if excess <= 0:
        return 0.0
    mean = air_temperature + excess / 2
    air = air_at(mean)
    return nusselt_free_plate(lie, grashof(excess, length, mean), air.prandtl) * air.conductivity / length


def nusselt_channel_bar_cohen(elenbaas: float) -> float:
    """Return Nu of a channel between two isothermal upright plates, on its width S and the air coming in.

    Nu = [576/El² + 2.873/√El]^(−1/2), El = g·β·ΔT·S⁴/(α·ν·L). Source: A. Bar-Cohen, W. M. Rohsenow, "Thermally optimum spacing of
    vertical, natural convection cooled, parallel plates", J. Heat Transfer 106, 1984.

    >>> round(nusselt_channel_bar_cohen(54.3), 2)  # at the best spacing of symmetric isothermal plates
    1.31
    """
    return float((576 / elenbaas**2 + 2.873 / math.sqrt(elenbaas)) ** -0.5)


@dataclass(frozen=True)
class FinArray:
    """Straight fins on a base: fins along `length` [m] on a base `width` [m] across; all lengths in m, k in W/m·K."""

    width: float
    length: float
    count: int
    thickness: float
    height: float
    conductivity: float

    @property
    def spacing(self) -> float:
        """Clear width of a channel [m]."""
        return (self.width - self.count * self.thickness) / (self.count - 1)


def fin_efficiency(film: float, array: FinArray) -> float:
    """Return tanh(mH)/(mH), m = √(2h/(k·t)), of a straight fin with an insulated tip.

    Source: Incropera & DeWitt, Fundamentals of Heat and Mass Transfer, section 3.6.

    >>> round(fin_efficiency(40.0, FinArray(0.05, 0.05, 10, 1e-3, 0.03, 180.0)), 3)
    0.885
    """
    m = math.sqrt(2 * film / (array.conductivity * array.thickness))
    return math.tanh(m * array.height) / (m * array.height) if m > 0 else 1.0


def film_natural_fins(array: FinArray, excess: float, air_temperature: float, emissivity: float) -> float:
    """Return the film coefficient over the base [W/m²·K] of upright fins: their channels, and radiation of their envelope."""
    if excess <= 0:
        return 0.0
    mean = air_temperature + excess / 2
    air = air_at(mean)
    spacing = array.spacing
    elenbaas = grashof(excess, spacing, mean) * air.prandtl * spacing / array.length
    film = nusselt_channel_bar_cohen(elenbaas) * air.conductivity / spacing
    channels = 2 * (array.count - 1) * array.length
    walls = channels * array.height * fin_efficiency(film, array) + (array.count - 1) * spacing * array.length
    around = array.width * array.length + 2 * array.height * (array.width + array.length)
    hot = air_temperature + excess
    radiation = emissivity * STEFAN_BOLTZMANN * (hot**2 + air_temperature**2) * (hot + air_temperature)
    return (film * walls + radiation * around) / (array.width * array.length)


@dataclass(frozen=True)
class FilmLaw:
    """A film coefficient over the excess of a face's mean temperature, tabulated; values, so that equal faces share it.

    air : temperature [K] at which its properties are taken. fins : the array on the face, if it has one that air can rise
    through; `emissivity` is then counted in here.
    """

    lie: Lie
    length: float
    air: float
    fins: FinArray | None = None
    emissivity: float = 0.0

    def __call__(self, excess: float) -> float:
        """Return the coefficient [W/m²·K] of a face that is `excess` [K] warmer than air; a colder one is taken as a warm one."""
        return float(np.interp(abs(excess), _GRID, _tabulated(self)))


@lru_cache(maxsize=512)
def _tabulated(law: FilmLaw) -> Floats:
    if law.fins is not None:
        return np.array([film_natural_fins(law.fins, float(excess), law.air, law.emissivity) for excess in _GRID])
    return np.array([film_free_plate(law.lie, float(excess), law.length, law.air) for excess in _GRID])
