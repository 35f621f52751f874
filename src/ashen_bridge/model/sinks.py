"""Heatsinks, fans and heat pipes: how a plate hands its heat on."""

from __future__ import annotations

from typing import Annotated, Any, Literal, Self

from pydantic import Discriminator, Field, Tag, model_validator

from ashen_bridge.model.base import Frozen, Id, Name
from ashen_bridge.model.footprint import Footprint, Rect
from ashen_bridge.model.plays import Beside, Heat, Resists
from ashen_bridge.model.quantity import q
from ashen_bridge.model.units import (
    Conductivity,
    Decibel,
    Fraction,
    Length,
    NonNegative,
    Positive,
    Power,
    Resistance,
    Thickness,
)


class FanPoint(Frozen):
    """One point of a fan's curve at rated speed."""

    flow_m3_h: float = Field(ge=0.0, le=1e5)
    pressure_pa: float = Field(ge=0.0, le=1e5)


class Fan(Frozen):
    """A fan, or several alike: noise and current of one at rated speed, its curve, and the share of its air that cools."""

    id: Id
    name: Name = ""
    count: int = Field(default=1, ge=1, le=16)
    noise_db: Beside[Decibel]
    curve: tuple[FanPoint, ...] = Field(default=(), max_length=64)
    rated_rpm: Heat[Positive | None] = None
    current_a: float | None = Field(default=None, gt=0.0, le=20.0)
    ducted: Heat[Fraction] = Field(default_factory=lambda: q(1.0, 0.0, "assumed"))

    @model_validator(mode="after")
    def _curve_falls(self) -> Fan:
        if len(self.curve) == 1:
            raise ValueError(f"the curve of fan '{self.id}' needs at least two points, or none")
        for one, other in zip(self.curve, self.curve[1:], strict=False):
            if other.flow_m3_h <= one.flow_m3_h or other.pressure_pa >= one.pressure_pa:
                raise ValueError(f"the curve of fan '{self.id}' must fall: more flow at less pressure, from point to point")
        if self.ducted.value <= 0:
            raise ValueError(f"none of the air of fan '{self.id}' is said to cool anything (ducted = 0)")
        return self


class _Sink(Frozen):
    """`air_lost`: the share of the fans' air that leaks beside, or goes to another part, compared with the rating."""

    air_lost: Heat[Fraction] = Field(default_factory=lambda: q(0.0))
    heat_capacity_j_k: Beside[NonNegative] = Field(default_factory=lambda: q(0.0))
    footprint: Footprint | None = None
    fans: tuple[Fan, ...] = Field(default=(), max_length=8)

    @model_validator(mode="after")
    def _some_air_is_left(self) -> Self:
        if self.air_lost.value > 0.9:
            raise ValueError("more than 90 % of a sink's air is said to be lost: no rating says anything about that")
        return self


class _Spotted(_Sink):
    """A sink with a base that may be rated from the spot that heats it: then spreading in the base is in the rating.

    Without a size the spot is as large as what lies under the base here: the die, or the lid on it.
    """

    base_reference: Literal["mean_base", "source_spot"] = "source_spot"
    spot_w_mm: Length | None = None
    spot_h_mm: Length | None = None

    @model_validator(mode="after")
    def _spot_has_two_sides(self) -> Self:
        if (self.spot_w_mm is None) != (self.spot_h_mm is None):
            raise ValueError("the spot a sink is rated from needs both sides (spot_w_mm and spot_h_mm), or none")
        return self


class RatedSink(_Spotted):
    """A heatsink by its rated point: R = R_fixed + R_conv·(n/n₀)^−x, with what the rating refers to said in full."""

    type: Literal["rated"] = "rated"
    fixed_k_w: Resists[NonNegative]
    convective_k_w: Resists[Resistance]
    exponent: Resists[NonNegative] = Field(default_factory=lambda: q(0.7, 0.1, "assumed"))
    air_reference: Literal["inlet", "mean"] = "inlet"
    air_rise_k_w: Resists[NonNegative] = Field(default_factory=lambda: q(0.0))

    @property
    def fanned(self) -> bool:
        """Whether its resistance depends on a fan's speed."""
        return self.exponent.value > 0


class FinSink(_Sink):
    """Straight plate fins of the plate's own material under forced air: computed from geometry and the fans' curves."""

    type: Literal["fins"] = "fins"
    count: int = Field(ge=2, le=500)
    fin_thickness_mm: Heat[Thickness]
    fin_height_mm: Heat[Thickness]
    runs: Literal["x", "y"] = "y"
    fanned: Literal[True] = True

    @model_validator(mode="after")
    def _has_a_fan(self) -> FinSink:
        if not any(fan.curve for fan in self.fans):
            raise ValueError("a fin sink under forced air needs a fan with a curve")
        return self


class NaturalSink(_Sink):
    """A face, bare or with straight fins, cooled by rising air and by radiation."""

    type: Literal["natural"] = "natural"
    count: int = Field(default=0, ge=0, le=500)
    fin_thickness_mm: Heat[Thickness] = Field(default_factory=lambda: q(1.5))
    fin_height_mm: Heat[Thickness] = Field(default_factory=lambda: q(20.0))
    runs: Literal["x", "y"] = "y"
    fanned: Literal[False] = False


class LiquidSink(_Spotted):
    """A liquid loop: block and radiator in series, the coolant's own rise between them; each falls with its own flow."""

    type: Literal["liquid"] = "liquid"
    block_k_w: Resists[Resistance]
    block_exponent: Resists[NonNegative] = Field(default_factory=lambda: q(0.4, 0.1, "assumed"))
    flow_l_min: Heat[Positive]
    rated_flow_l_min: Heat[Positive]
    coolant_j_l_k: Heat[Positive] = Field(default_factory=lambda: q(4100.0, 100.0, "handbook", "water"))
    radiator_k_w: Resists[Resistance]
    radiator_exponent: Resists[NonNegative] = Field(default_factory=lambda: q(0.6, 0.1, "assumed"))

    @property
    def fanned(self) -> bool:
        """Whether its resistance depends on a fan's speed."""
        return self.radiator_exponent.value > 0


def _type_of(data: Any) -> Any:
    # A sink that does not say what it is is a rated one: files and scripts may leave that out.
    return data.get("type", "rated") if isinstance(data, dict) else getattr(data, "type", None)


Sink = Annotated[
    Annotated[RatedSink, Tag("rated")]
    | Annotated[FinSink, Tag("fins")]
    | Annotated[NaturalSink, Tag("natural")]
    | Annotated[LiquidSink, Tag("liquid")],
    Discriminator(_type_of),
]


class HeatPipes(Frozen):
    """Heat pipes let into a plate along one direction: what they conduct, and how much they can carry.

    `max_w` is one pipe's limit lying level; lifting heat against gravity by `lift_mm` (evaporator above condenser) takes it
    down to nothing at `max_lift_mm`.
    """

    id: Id
    name: Name = ""
    area: Rect
    runs: Literal["x", "y"] = "x"
    count: int = Field(ge=1, le=32)
    diameter_mm: Heat[Thickness]
    conductivity_w_mk: Resists[Conductivity] = Field(default_factory=lambda: q(15_000.0, 5_000.0, "assumed"))
    max_w: Beside[Power]
    lift_mm: Beside[NonNegative] = Field(default_factory=lambda: q(0.0))
    max_lift_mm: Beside[Positive] = Field(default_factory=lambda: q(250.0, 50.0, "assumed"))

    @property
    def limit_w(self) -> float:
        """What all of them can carry together at their tilt [W]."""
        derating = max(0.0, 1 - self.lift_mm.value / self.max_lift_mm.value)
        return self.count * self.max_w.value * derating


class Connector(Frozen):
    """A place where cables or an edge connector lead heat out of the board to ambient."""

    id: Id
    name: Name = ""
    area: Rect
    conductance_w_k: Heat[NonNegative]
