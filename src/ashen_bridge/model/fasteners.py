"""Fasteners between two named bodies."""

from __future__ import annotations

from typing import Literal

from pydantic import Field, model_validator

from ashen_bridge.model.base import Frozen, Id, Name
from ashen_bridge.model.quantity import Quantity, q
from ashen_bridge.model.units import Coordinate, Force, Positive, Rate, Thickness, Travel


class SpringWire(Frozen):
    """A helical spring as it is measured: rate k = G·d⁴/(8·D³·n)."""

    wire_mm: Positive
    mean_coil_mm: Positive
    active_turns: Positive
    shear_modulus_gpa: Positive = Field(default_factory=lambda: q(79.3, 2.0, "handbook"))

    @property
    def rate(self) -> float:
        """Rate [N/mm], k = G·d⁴/(8·D³·n) (Shigley, Mechanical Engineering Design, ch. 10, from memory)."""
        d, coil = self.wire_mm.value, self.mean_coil_mm.value
        return self.shear_modulus_gpa.value * 1e3 * d**4 / (8 * coil**3 * self.active_turns.value)


class Fastener(Frozen):
    """Something that holds two bodies together at one place.

    * sprung: force = rate·(travel + washers + rise over `reference_mm`), never negative, solid beyond `coil_bind_mm`;
    * shouldered, fixed: a screw of stated stiffness and preload against a seat at `seat_mm`;
    * glued, spring arm: part of the schema, not computed yet.

    Distances are between the two bodies' mounting faces: for a plate its reference plane, for the board its surface.
    """

    id: Id
    name: Name = ""
    kind: Literal["sprung", "shouldered", "fixed", "glued", "spring arm"]
    joins: tuple[Id, Id]
    x_mm: Coordinate
    y_mm: Coordinate
    rate_n_mm: Rate | None = None
    spring: SpringWire | None = None
    travel_mm: Travel | None = None
    reference_mm: Travel | None = None
    coil_bind_mm: Travel | None = None
    preload_n: Force | None = None
    seat_mm: Thickness | None = None
    stiffness_n_mm: Rate = Field(default_factory=lambda: q(2000.0, 700.0, "assumed", "screw, plate and stand-off in series"))

    @model_validator(mode="after")
    def _has_what_its_kind_needs(self) -> Fastener:
        if self.joins[0] == self.joins[1]:
            raise ValueError(f"fastener '{self.id}' joins '{self.joins[0]}' to itself")
        needed = {
            "sprung": ("travel_mm", "reference_mm"),
            "shouldered": ("preload_n", "seat_mm"),
            "fixed": ("preload_n", "seat_mm"),
        }
        missing = [name for name in needed.get(self.kind, ()) if getattr(self, name) is None]
        if self.kind == "sprung" and self.rate_n_mm is None and self.spring is None:
            missing.append("rate_n_mm")
        if missing:
            raise ValueError(f"{self.kind} fastener '{self.id}' needs {' and '.join(missing)}")
        return self

    @property
    def label(self) -> str:
        """The name shown to people."""
        return self.name or self.id


class FastenerSetting(Frozen):
    """How a build sets one fastener: washers under the head, turns, or left out."""

    fastener: Id
    washers_mm: Travel = Field(default_factory=lambda: q(0.0))
    washer_material: Literal["plastic", "steel", "other"] = "plastic"
    turns: Quantity | None = None
    fitted: bool = True
