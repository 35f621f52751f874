"""What is inside boards and plates: copper layers, vias and lands, foils, recesses, and what a sink's base is made of."""

from __future__ import annotations

from enum import StrEnum
from typing import Self

from pydantic import Field, model_validator

from ashen_bridge.model.base import Frozen, Id, Name
from ashen_bridge.model.footprint import Rect
from ashen_bridge.model.plays import Both, Heat, Resists
from ashen_bridge.model.quantity import Quantity, q
from ashen_bridge.model.units import Conductivity, Fraction, Positive, Thickness


class CopperLayer(Frozen):
    """One copper layer of a board: its thickness, and the share of the area that it covers."""

    thickness_um: Both[Positive] = Field(default_factory=lambda: q(35.0, 5.0, "assumed", "usual foil"))
    cover: Both[Fraction] = Field(default_factory=lambda: q(0.55, 0.2, "assumed", "not known"))

    @model_validator(mode="after")
    def _is_a_foil(self) -> Self:
        if self.thickness_um.value > 500:
            raise ValueError(f"a copper layer of {self.thickness_um.value:g} µm is no layer of a board (at most 500 µm)")
        return self


class Vias(Frozen):
    """A field of plated holes: their distance, the drill, and the plating's thickness."""

    pitch_mm: Heat[Positive] = Field(default_factory=lambda: q(1.0, 0.2, "assumed"))
    drill_mm: Heat[Positive] = Field(default_factory=lambda: q(0.3, 0.05, "assumed"))
    plating_um: Heat[Positive] = Field(default_factory=lambda: q(25.0, 5.0, "assumed", "usual plating"))

    @model_validator(mode="after")
    def _fit(self) -> Self:
        if self.drill_mm.value >= self.pitch_mm.value:
            raise ValueError(f"vias of {self.drill_mm.value:g} mm do not fit at a pitch of {self.pitch_mm.value:g} mm")
        if 2 * self.plating_um.value * 1e-3 > self.drill_mm.value:
            raise ValueError("the plating of the vias is thicker than their holes are wide")
        return self


class BoardRegion(Frozen):
    """A part of a board in plan that conducts otherwise: through vias or a stated conductivity, or along a copper land.

    `land_cover` is the share of the outermost copper layers there.
    """

    id: Id
    name: Name = ""
    area: Rect
    through_w_mk: Resists[Conductivity | None] = None
    vias: Vias | None = None
    land_cover: Heat[Fraction | None] = None

    @model_validator(mode="after")
    def _says_something(self) -> Self:
        if self.through_w_mk is not None and self.vias is not None:
            raise ValueError(f"region '{self.id}' states both vias and a conductivity through the board: one of them is enough")
        if self.through_w_mk is None and self.vias is None and self.land_cover is None:
            raise ValueError(f"region '{self.id}' says nothing: it needs vias, through_w_mk or land_cover")
        return self


class Foil(Frozen):
    """A foil laminated on a plate's outer or near face."""

    material: Id
    thickness_mm: Heat[Thickness]
    face: str = Field(default="outer", pattern="^(outer|near)$")


class Recess(Frozen):
    """A pocket in a plate's outer face."""

    id: Id
    area: Rect
    depth_mm: Both[Thickness]


class BaseKind(StrEnum):
    """How a plate spreads heat along itself."""

    SOLID = "solid"
    HEAT_PIPES = "heat pipes"
    VAPOUR_CHAMBER = "vapour chamber"


SPREADS_W_MK: dict[BaseKind, Quantity] = {
    BaseKind.HEAT_PIPES: q(1200.0, 600.0, "assumed", "base with pipes pressed in, along it; common practice, no source"),
    BaseKind.VAPOUR_CHAMBER: q(8000.0, 3200.0, "assumed", "vapour chamber along its plane; common practice, no source"),
}
CHAMBER_THROUGH_W_MK = 150.0
"""Through a vapour chamber: walls, wicks and vapour in series; common practice, no source."""
