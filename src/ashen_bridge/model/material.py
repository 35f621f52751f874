"""Materials: how they conduct, store heat, yield and limit; each with its source."""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated, Any

from pydantic import Field, model_validator

from ashen_bridge.model.base import Frozen, Id, Name
from ashen_bridge.model.handling import Handling
from ashen_bridge.model.plays import Beside, Heat, Mechanics, Plays, Resists, When
from ashen_bridge.model.quantity import Quantity, q
from ashen_bridge.model.units import (
    AreaResistance,
    Celsius,
    Conductivity,
    Fraction,
    NonNegative,
    Positive,
    Pressure,
)


class MaterialKind(StrEnum):
    """What a material is for."""

    SOLID = "solid"
    GAS = "gas"
    PAD = "pad"
    PASTE = "paste"
    PUTTY = "putty"
    PHASE_CHANGE = "phase change"
    LIQUID_METAL = "liquid metal"
    GRAPHITE = "graphite"
    SOLDER = "solder"
    ADHESIVE = "adhesive"
    FILM = "film"


DISPENSED = frozenset({MaterialKind.PASTE, MaterialKind.PUTTY, MaterialKind.LIQUID_METAL})
"""Kinds that come as a volume and fill what gap there is; all others come as a sheet of a thickness."""

EITHER = frozenset({MaterialKind.LIQUID_METAL, MaterialKind.GAS})
"""Kinds that may come as a volume or as a layer of a thickness: a coat of liquid metal; a gas fills whatever gap there is."""

LAYERS = frozenset(MaterialKind) - {MaterialKind.SOLID}
"""Kinds that a piece of a joint may be made of; a solid only as a shim between two of them."""


_LOSES = "old ones lose 20 to 60 % of their conductance in three years; common practice, no source"
AGEING_PER_YEAR = {
    MaterialKind.PAD: q(0.22, 0.12, "assumed", _LOSES),
    MaterialKind.PASTE: q(
        0.27, 0.14, "assumed", "pumps out or dries by about 40 % in two to three years; common practice, no source"
    ),
    MaterialKind.PUTTY: q(0.1, 0.08, "assumed", "bleeds and stiffens slower than a pad; common practice, no source"),
}
"""What a layer's resistance grows by in a year where its data say nothing, by kind; others keep theirs."""


class CurvePoint(Frozen):
    """One point of a pressure/deflection curve."""

    strain: float = Field(ge=0.0, lt=1.0)
    pressure_kpa: float = Field(ge=0.0, le=1e6)


class Compression(Frozen):
    """Pressure over strain of a pad sample, with the sample's size, from which the shape factor follows.

    `relaxed_share` is what a day of creep leaves of the pressure.
    """

    points: tuple[CurvePoint, ...] = Field(min_length=2, max_length=64)
    sample_thickness_mm: Mechanics[Positive]
    sample_area_mm2: Mechanics[Positive]
    shape_coefficient: Mechanics[NonNegative] = Field(default_factory=lambda: q(0.02, 0.01, "assumed"))
    relative_uncertainty: Beside[Fraction] = Field(default_factory=lambda: q(0.2, 0.0, "assumed"))
    relaxed_share: Annotated[Fraction, Plays(mechanics=True, when=When.SERVED)] = Field(default_factory=lambda: q(1.0))

    @model_validator(mode="after")
    def _must_rise(self) -> Compression:
        first = self.points[0]
        if first.strain != 0 or first.pressure_kpa != 0:
            raise ValueError("the compression curve must start at strain 0 and pressure 0")
        for low, high in zip(self.points, self.points[1:], strict=False):
            if high.strain <= low.strain or high.pressure_kpa <= low.pressure_kpa:
                raise ValueError(f"the compression curve must rise everywhere; it does not at strain {high.strain:g}")
        return self


class Flow(Frozen):
    """How a paste or putty yields: its yield stress and largest filler grain; the largest gap it bridges, if that is stated."""

    yield_stress_kpa: Mechanics[Positive]
    filler_um: Mechanics[NonNegative]
    bridges_mm: Beside[Positive | None] = None


class Source(Frozen):
    """Where the figures of a material come from."""

    text: Name
    method: Name = ""
    claimed: bool = False


class Material(Frozen):
    """One material. Conductivity at 300 K; `temperature_exponent` n makes it k·(T/300 K)^n.

    A conductivity that is only claimed, without a test method, counts `claim_factor` times. The contact resistance of a face is
    that at `contact_reference_kpa`; it falls with pressure to the power `contact_exponent`, and wetting lives in it.
    `ageing_per_year` is by how much of itself a layer's resistance grows in a year of service; left out, as usual for its kind.
    """

    id: Id
    name: Name
    kind: MaterialKind
    conductivity_w_mk: Resists[Conductivity]
    in_plane_conductivity_w_mk: Resists[Conductivity | None] = None
    temperature_exponent: float = Field(default=0.0, ge=-3.0, le=3.0)
    density_kg_m3: Beside[Positive]
    specific_heat_j_kgk: Beside[Positive]
    claim_factor: Annotated[Fraction, Plays(heat=True, when=When.CLAIMED)] = Field(
        default_factory=lambda: q(0.7, 0.15, "assumed", "claims without a method; no source")
    )
    contact_mm2k_w: Resists[AreaResistance] = Field(default_factory=lambda: q(0.0))
    contact_reference_kpa: Heat[Positive] = Field(default_factory=lambda: q(100.0))
    contact_exponent: Resists[Fraction] = Field(default_factory=lambda: q(0.0))
    ageing_per_year: Annotated[NonNegative, Plays(heat=True, when=When.SERVED)] = Field(default_factory=lambda: q(0.0))
    microhardness_gpa: Annotated[Positive | None, Plays(heat=True, when=When.BARE_METAL)] = None
    compression: Compression | None = None
    flow: Flow | None = None
    youngs_modulus_gpa: Annotated[Positive | None, Plays(mechanics=True, when=When.BENT)] = None
    poisson_ratio: Annotated[Fraction | None, Plays(mechanics=True, when=When.BENT)] = None
    max_pressure_kpa: Beside[Pressure | None] = None
    max_temperature_c: Beside[Celsius | None] = None
    least_thickness_mm: Beside[Positive | None] = None
    contains_gallium: bool = False
    attacked_by_gallium: bool = False
    electrically_conductive: bool = False
    stock_thicknesses_mm: tuple[float, ...] = ()
    price_per_cm2: Beside[Quantity | None] = None
    handling: Handling = Handling()
    sources: tuple[Source, ...] = Field(min_length=1)

    @property
    def label(self) -> str:
        """The name shown to people."""
        return self.name or self.id

    @model_validator(mode="before")
    @classmethod
    def _ages_as_its_kind_does(cls, data: Any) -> Any:
        if isinstance(data, dict) and data.get("ageing_per_year") is None and data.get("kind") in tuple(AGEING_PER_YEAR):
            return {**data, "ageing_per_year": AGEING_PER_YEAR[MaterialKind(data["kind"])]}
        return data

    @model_validator(mode="after")
    def _has_what_its_kind_needs(self) -> Material:
        if self.kind is MaterialKind.PAD and self.compression is None:
            raise ValueError(f"pad material '{self.id}' needs a compression curve")
        if self.kind is MaterialKind.GRAPHITE and self.compression is None:
            raise ValueError(f"graphite material '{self.id}' needs a compression curve")
        if self.kind in (MaterialKind.PASTE, MaterialKind.PUTTY, MaterialKind.PHASE_CHANGE) and self.flow is None:
            raise ValueError(f"{self.kind} material '{self.id}' needs flow data (yield stress and largest filler grain)")
        if any(not 0 < t <= 50 for t in self.stock_thicknesses_mm):
            raise ValueError(f"stock thicknesses of '{self.id}' must be between 0 and 50 mm")
        return self

    @property
    def only_claimed(self) -> bool:
        """Whether its conductivity is a claim without any method behind it."""
        return any(one.claimed for one in self.sources) and not any(one.method for one in self.sources)

    @property
    def effective_w_mk(self) -> float:
        """Conductivity to count on [W/m·K]: as stated, or derated where it is only claimed."""
        return self.conductivity_w_mk.value * (self.claim_factor.value if self.only_claimed else 1.0)

    @property
    def capacity_j_m3k(self) -> float:
        """Heat stored per volume and kelvin, ρc [J/m³·K]."""
        return self.density_kg_m3.value * self.specific_heat_j_kgk.value

    @property
    def in_plane_w_mk(self) -> float:
        """Conductivity along the layer [W/m·K]."""
        return (self.in_plane_conductivity_w_mk or self.conductivity_w_mk).value
