"""Fasteners between two named bodies."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Annotated, Literal

from pydantic import Field, model_validator

from ashen_bridge.model.base import Frozen, Id, Name
from ashen_bridge.model.hardware import Hardware
from ashen_bridge.model.plays import Beside, Mechanics, Plays, When
from ashen_bridge.model.quantity import q
from ashen_bridge.model.references import Kind, Reference
from ashen_bridge.model.units import Coordinate, Force, Positive, Rate, Thickness, Travel, Turns


class SpringWire(Frozen):
    """A helical spring as it is measured: rate k = G·d⁴/(8·D³·n)."""

    wire_mm: Mechanics[Positive]
    mean_coil_mm: Mechanics[Positive]
    active_turns: Mechanics[Positive]
    shear_modulus_gpa: Mechanics[Positive] = Field(default_factory=lambda: q(79.3, 2.0, "handbook"))

    @property
    def rate(self) -> float:
        """Rate [N/mm], k = G·d⁴/(8·D³·n) (Shigley, Mechanical Engineering Design, ch. 10, from memory)."""
        d, coil = self.wire_mm.value, self.mean_coil_mm.value
        return self.shear_modulus_gpa.value * 1e3 * d**4 / (8 * coil**3 * self.active_turns.value)


class SpringArm(Frozen):
    """A flat spring arm clamped at one end and pressing with the other: rate k = E·b·t³/(4·L³)."""

    length_mm: Mechanics[Positive]
    width_mm: Mechanics[Positive]
    thickness_mm: Mechanics[Positive]
    youngs_modulus_gpa: Mechanics[Positive] = Field(default_factory=lambda: q(193.0, 10.0, "handbook", "spring steel"))

    @property
    def rate(self) -> float:
        """Rate [N/mm] of a cantilever, k = 3·E·I/L³ with I = b·t³/12 (Timoshenko, Strength of Materials, from memory)."""
        b, t = self.width_mm.value, self.thickness_mm.value
        return self.youngs_modulus_gpa.value * 1e3 * b * t**3 / (4 * self.length_mm.value**3)


class Fastener(Frozen):
    """Something that holds two bodies together at one place.

    * sprung: force = rate·(travel + washers + rise over `reference_mm`), never negative, solid beyond `coil_bind_mm`;
    * spring arm: the same with the rate of a flat arm;
    * shouldered, fixed: a screw of stated stiffness and preload against a seat at `seat_mm`; a plain screw's preload may be
      said as turns or torque by the build, see `preload_of`;
    * glued: a bond of stated stiffness that pulls and pushes, `seat_mm` thick.

    Distances are between the two bodies' mounting faces: for a plate its reference plane, for the board its surface.
    """

    id: Id
    name: Name = ""
    kind: Literal["sprung", "shouldered", "fixed", "glued", "spring arm"]
    hardware: Hardware = Hardware()
    joins: tuple[Id, Id]
    x_mm: Coordinate
    y_mm: Coordinate
    rate_n_mm: Mechanics[Rate | None] = None
    spring: SpringWire | None = None
    arm: SpringArm | None = None
    travel_mm: Mechanics[Travel | None] = None
    reference_mm: Mechanics[Travel | None] = None
    coil_bind_mm: Beside[Travel | None] = None
    preload_n: Mechanics[Force | None] = None
    seat_mm: Mechanics[Thickness | None] = None
    pitch_mm: Annotated[Positive | None, Plays(mechanics=True, when=When.TURNED)] = None
    diameter_mm: Annotated[Positive | None, Plays(mechanics=True, when=When.TORQUED)] = None
    nut_factor: Annotated[Positive, Plays(mechanics=True, when=When.TORQUED)] = Field(
        default_factory=lambda: q(0.2, 0.06, "assumed", "dry steel; common practice, no source")
    )
    stiffness_n_mm: Mechanics[Rate] = Field(
        default_factory=lambda: q(2000.0, 700.0, "assumed", "screw, plate and stand-off in series")
    )

    @model_validator(mode="after")
    def _has_what_its_kind_needs(self) -> Fastener:
        if self.joins[0] == self.joins[1]:
            raise ValueError(f"fastener '{self.id}' joins '{self.joins[0]}' to itself")
        needed = {
            "sprung": ("travel_mm", "reference_mm"),
            "spring arm": ("travel_mm", "reference_mm"),
            "glued": ("seat_mm",),
            "shouldered": ("preload_n", "seat_mm"),
            "fixed": ("preload_n", "seat_mm"),
        }
        missing = [name for name in needed.get(self.kind, ()) if getattr(self, name) is None]
        if self.kind == "sprung" and self.rate_n_mm is None and self.spring is None:
            missing.append("rate_n_mm")
        if self.kind == "spring arm" and self.rate_n_mm is None and self.arm is None:
            missing.append("rate_n_mm")
        if missing:
            raise ValueError(f"{self.kind} fastener '{self.id}' needs {' and '.join(missing)}")
        return self

    @property
    def label(self) -> str:
        """The name shown to people."""
        return self.name or self.id

    @property
    def rate(self) -> float:
        """Rate of its spring [N/mm]: as stated, or from its wire or arm."""
        if self.rate_n_mm is not None:
            return self.rate_n_mm.value
        source = self.arm if self.kind == "spring arm" else self.spring
        assert source is not None  # checked when it was made
        return source.rate

    def references(self) -> Iterator[Reference]:
        """Yield what it names by id."""
        for end in self.joins:
            yield Reference("Fastener", self.id, "joins", Kind.HELD_END, end)


class FastenerSetting(Frozen):
    """How a build sets one fastener: washers under the head, turns, or left out."""

    fastener: Id
    washers_mm: Mechanics[Travel] = Field(default_factory=lambda: q(0.0))
    washer_material: Literal["plastic", "steel", "other"] = "plastic"
    turns: Mechanics[Turns | None] = None
    torque_nm: Mechanics[Positive | None] = None
    fitted: bool = True

    @model_validator(mode="after")
    def _one_way_of_saying_it(self) -> FastenerSetting:
        if self.turns is not None and self.torque_nm is not None:
            raise ValueError(f"fastener '{self.fastener}' is set by turns and by torque; say only one")
        return self


def preload_of(fastener: Fastener, setting: FastenerSetting) -> float:
    """Return the preload [N] of a screw against its seat: as stated, or by the turns or torque of the build.

    Turns beyond first contact stretch the joint by a pitch each: F = stiffness·pitch·turns. Torque: F = T/(K·d), the nut-factor
    equation (Shigley, Mechanical Engineering Design, ch. 8, from memory); K alone leaves ± 30 %. Raises `ValueError` where the
    screw does not say its pitch or diameter.
    """
    if setting.turns is not None:
        if fastener.pitch_mm is None:
            raise ValueError(f"fastener '{fastener.id}' is set by turns, so it needs pitch_mm")
        return fastener.stiffness_n_mm.value * fastener.pitch_mm.value * setting.turns.value
    if setting.torque_nm is not None:
        if fastener.diameter_mm is None:
            raise ValueError(f"fastener '{fastener.id}' is set by torque, so it needs diameter_mm")
        return setting.torque_nm.value / (fastener.nut_factor.value * fastener.diameter_mm.value * 1e-3)
    return fastener.preload_n.value if fastener.preload_n else 0.0


def travel_of(fastener: Fastener, setting: FastenerSetting) -> float:
    """Return how far a spring is compressed with its plate at the reference height [mm], washers included.

    Turns count from where the spring first pushes, and then stand in place of the stated travel.
    """
    stated = fastener.travel_mm.value if fastener.travel_mm else 0.0
    if setting.turns is not None:
        if fastener.pitch_mm is None:
            raise ValueError(f"fastener '{fastener.id}' is set by turns, so it needs pitch_mm")
        stated = fastener.pitch_mm.value * setting.turns.value
    return stated + setting.washers_mm.value
