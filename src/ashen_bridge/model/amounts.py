"""How a paste is dispensed: as a film, pea, line or weight, which come to a volume; or as much as its bond line takes."""

from __future__ import annotations

import math
from typing import Annotated, Literal

from pydantic import Field

from ashen_bridge.model.base import Frozen
from ashen_bridge.model.plays import Both, Mechanics
from ashen_bridge.model.quantity import q
from ashen_bridge.model.units import Positive, Thickness


class FilmAmount(Frozen):
    """Spread as a film of a mean thickness over the faces that it joins; people spread 0.2 ± 0.1 mm (common practice)."""

    type: Literal["film"] = "film"
    film_mm: Mechanics[Thickness] = Field(default_factory=lambda: q(0.2, 0.1, "assumed", "common practice"))


class PeaAmount(Frozen):
    """One drop, or several alike, as round as they leave the nozzle."""

    type: Literal["pea"] = "pea"
    pea_mm: Mechanics[Thickness]
    count: int = Field(default=1, ge=1, le=200)


class LineAmount(Frozen):
    """A bead as round as it leaves the nozzle."""

    type: Literal["line"] = "line"
    bead_mm: Mechanics[Thickness]
    length_mm: Mechanics[Positive]


class WeightAmount(Frozen):
    """Weighed on the tube, before and after."""

    type: Literal["weight"] = "weight"
    grams: Mechanics[Positive]


class BondLineAmount(Frozen):
    """As much as it takes, at a bond line that is known: measured, kept by spacers, or cured.

    It stays that thick whatever presses on it, and fills the gap where something else holds the faces further apart.
    """

    type: Literal["bond line"] = "bond line"
    bond_line_um: Both[Positive]


Amount = Annotated[FilmAmount | PeaAmount | LineAmount | WeightAmount | BondLineAmount, Field(discriminator="type")]


def amount_mm3(amount: Amount, area_mm2: float, density_kg_m3: float) -> float:
    """Return the volume of an amount [mm³] over an area of faces [mm²], of a paste of a density [kg/m³].

    >>> round(amount_mm3(PeaAmount(pea_mm=q(5.0)), 100.0, 2600.0), 1)
    65.4
    >>> round(amount_mm3(WeightAmount(grams=q(0.13)), 100.0, 2600.0), 1)
    50.0
    """
    match amount:
        case FilmAmount():
            return amount.film_mm.value * area_mm2
        case PeaAmount():
            return amount.count * math.pi / 6 * amount.pea_mm.value**3
        case LineAmount():
            return math.pi / 4 * amount.bead_mm.value**2 * amount.length_mm.value
        case WeightAmount():
            return amount.grams.value / density_kg_m3 * 1e6
        case BondLineAmount():
            return amount.bond_line_um.value * 1e-3 * area_mm2
