"""Builds (complete states of the device) and operating points."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Annotated, Literal

from pydantic import Field, model_validator

from ashen_bridge.model.base import Frozen, Id, Name
from ashen_bridge.model.bodies import Body
from ashen_bridge.model.fasteners import FastenerSetting
from ashen_bridge.model.joints import Joint
from ashen_bridge.model.plays import Beside, Heat, Plays, Resists
from ashen_bridge.model.quantity import q
from ashen_bridge.model.references import Kind, Reference
from ashen_bridge.model.sharing import find
from ashen_bridge.model.units import Celsius, Decibel, Film, Fraction, Percent, Positive, Power, Resistance


class Build(Frozen):
    """One complete state of the device: which bodies are there, what lies between them, how the screws are set."""

    id: Id
    name: Name = ""
    notes: Name = ""
    removed: tuple[Id, ...] = ()
    added: tuple[Body, ...] = ()
    joints: tuple[Joint, ...] = ()
    fastener_settings: tuple[FastenerSetting, ...] = ()
    overrides: dict[str, float] = Field(default_factory=dict)

    @property
    def label(self) -> str:
        """The name shown to people."""
        return self.name or self.id

    def joint(self, joint_id: str) -> Joint:
        """Return the joint of that id. Raises `ProjectError` if there is none."""
        return find(self.joints, joint_id, "joint")

    def setting_of(self, fastener_id: str) -> FastenerSetting:
        """Return how a fastener is set, as it comes where the build says nothing."""
        said = (one for one in self.fastener_settings if one.fastener == fastener_id)
        return next(said, FastenerSetting(fastener=fastener_id))

    def references(self) -> Iterator[Reference]:
        """Yield what it and its parts name by id."""
        for removed in self.removed:
            yield Reference("Build", self.id, "removes body", Kind.DEVICE_BODY, removed)
        here = f" of build '{self.id}'"
        for part in (*self.added, *self.joints):
            for one in part.references():
                yield one._replace(of=here)
        for setting in self.fastener_settings:
            yield Reference("Build", self.id, "sets fastener", Kind.FASTENER, setting.fastener)


class Stretch(Frozen):
    """A stretch of a load that comes again and again: so much of the stated powers for so long."""

    share: float = Field(ge=0.0, le=10.0)
    seconds: float = Field(gt=0.0, le=86_400.0)


class OperatingPoint(Frozen):
    """Powers, fans and air. Air that is not given is at ambient.

    `board_w` is what the whole board takes, if that is what is known: what `powers_w` leaves of it goes by `split` (shares) to
    parts, and what these leave to the board itself. A `cycle` of stretches is predicted at its mean. Fans run at a share of
    rated speed or at rpm; where `noise_db` is stated, they are turned together until they are, with the room, as loud.

    `convection` says whether bare faces lose heat by the stated film coefficients, by rising air as the `orientation` lets it, or
    (none) not at all, not by radiation either: they are adiabatic. `inside`: whether the air inside is given, or finds its
    temperature: in a case that is vented with `vent_k_w` (air rise per watt), or sealed, where heat leaves through the case
    walls only. Power above `power_limits_w` is not made; a component that would get hotter than `throttle_at_c` makes as much
    as keeps it there.
    """

    id: Id
    name: Name = ""
    powers_w: Annotated[dict[Id, Power], Plays(heat=True, each="power_w")] = Field(default_factory=dict)
    board_w: Heat[Power | None] = None
    split: Annotated[dict[Id, Fraction], Plays(heat=True, each="share_of_board")] = Field(default_factory=dict)
    cycle: tuple[Stretch, ...] = Field(default=(), max_length=50)
    ambient_c: Heat[Celsius] = Field(default_factory=lambda: q(25.0, 1.0))
    inlet_c: Heat[Celsius | None] = None
    front_air_c: Heat[Celsius | None] = None
    rear_air_c: Heat[Celsius | None] = None
    fans_percent: Annotated[dict[Id, Percent], Plays(heat=True, each="fan_percent")] = Field(default_factory=dict)
    fans_rpm: Annotated[dict[Id, Positive], Plays(heat=True, each="fan_rpm")] = Field(default_factory=dict)
    noise_db: Heat[Decibel | None] = None
    film_front_w_m2k: Heat[Film] = Field(default_factory=lambda: q(15.0, 5.0, "assumed", "forced spill air over the front"))
    film_rear_w_m2k: Heat[Film] = Field(default_factory=lambda: q(6.0, 2.0, "assumed", "still air behind the board"))
    orientation: Literal["flat", "upright", "hanging"] = "flat"
    convection: Literal["stated", "natural", "none"] = "stated"
    inside: Literal["given", "vented", "sealed"] = "given"
    vent_k_w: Resists[Resistance | None] = None
    power_limits_w: Annotated[dict[Id, Power], Plays(heat=True, each="power_limit_w")] = Field(default_factory=dict)
    throttle_at_c: Annotated[dict[Id, Celsius], Plays(heat=True, each="throttle_at_c")] = Field(default_factory=dict)
    room_noise_db: Beside[Decibel] = Field(default_factory=lambda: q(25.0, 3.0, "assumed", "a quiet room"))

    @model_validator(mode="after")
    def _fits_together(self) -> OperatingPoint:
        if self.inside == "vented" and self.vent_k_w is None:
            raise ValueError(f"the inside air of operating point '{self.id}' is vented, so it needs vent_k_w")
        if self.inside != "given" and self.convection == "none":
            raise ValueError(
                f"nothing heats the inside air of operating point '{self.id}' (convection none), so it can only be given"
            )
        total = sum(share.value for share in self.split.values())
        if total > 1 + 1e-9:
            raise ValueError(f"the split of operating point '{self.id}' adds up to {total:.3g}; it must not exceed 1")
        if self.split and self.board_w is None:
            raise ValueError(f"operating point '{self.id}' splits the board's power, so it needs board_w")
        for name in self.split.keys() & self.powers_w.keys():
            raise ValueError(f"operating point '{self.id}' gives '{name}' both a power and a share of the board's")
        for name in self.fans_rpm.keys() & self.fans_percent.keys():
            raise ValueError(f"operating point '{self.id}' sets the fan of '{name}' both in per cent and in rpm")
        return self

    @property
    def mean_share(self) -> float:
        """What the cycle leaves of the stated powers on average; 1 without a cycle."""
        whole = sum(one.seconds for one in self.cycle)
        return sum(one.share * one.seconds for one in self.cycle) / whole if whole else 1.0

    @property
    def label(self) -> str:
        """The name shown to people."""
        return self.name or self.id

    def references(self) -> Iterator[Reference]:
        """Yield what it names by id."""
        tables = {
            "gives power to": self.powers_w,
            "gives a share of the board's power to": self.split,
            "sets the fan of": {**self.fans_percent, **self.fans_rpm},
            "limits": {**self.power_limits_w, **self.throttle_at_c},
        }
        for does, table in tables.items():
            for body in table:
                yield Reference("Operating point", self.id, does, Kind.BODY, body)
