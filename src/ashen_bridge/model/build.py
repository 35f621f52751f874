"""Builds (complete states of the device) and operating points."""

from __future__ import annotations

from typing import Literal

from pydantic import Field, model_validator

from ashen_bridge.model.base import Frozen, Id, Name
from ashen_bridge.model.bodies import Body
from ashen_bridge.model.fasteners import FastenerSetting
from ashen_bridge.model.joints import Joint
from ashen_bridge.model.quantity import q
from ashen_bridge.model.units import Celsius, Decibel, Film, Percent, Power, Resistance


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
        """Return the joint of that id; `KeyError` if there is none."""
        for joint in self.joints:
            if joint.id == joint_id:
                return joint
        raise KeyError(joint_id)


class OperatingPoint(Frozen):
    """Powers, fans and air. Air that is not given is at ambient.

    `convection` says whether bare faces lose heat by the stated film coefficients or by rising air, as the `orientation` lets
    it. `inside`: whether the air inside is given, or finds its temperature: in a case that is vented with `vent_k_w` (air
    rise per watt), or sealed, where heat leaves through the case walls only. Power above `power_limits_w` is not made; a
    component that would get hotter than `throttle_at_c` makes as much as keeps it there.
    """

    id: Id
    name: Name = ""
    powers_w: dict[Id, Power] = Field(default_factory=dict)
    ambient_c: Celsius = Field(default_factory=lambda: q(25.0, 1.0))
    inlet_c: Celsius | None = None
    front_air_c: Celsius | None = None
    rear_air_c: Celsius | None = None
    fans_percent: dict[Id, Percent] = Field(default_factory=dict)
    film_front_w_m2k: Film = Field(default_factory=lambda: q(15.0, 5.0, "assumed", "forced spill air over the front"))
    film_rear_w_m2k: Film = Field(default_factory=lambda: q(6.0, 2.0, "assumed", "still air behind the board"))
    orientation: Literal["flat", "upright", "hanging"] = "flat"
    convection: Literal["stated", "natural"] = "stated"
    inside: Literal["given", "vented", "sealed"] = "given"
    vent_k_w: Resistance | None = None
    power_limits_w: dict[Id, Power] = Field(default_factory=dict)
    throttle_at_c: dict[Id, Celsius] = Field(default_factory=dict)
    room_noise_db: Decibel = Field(default_factory=lambda: q(25.0, 3.0, "assumed", "a quiet room"))

    @model_validator(mode="after")
    def _vent_is_given(self) -> OperatingPoint:
        if self.inside == "vented" and self.vent_k_w is None:
            raise ValueError(f"the inside air of operating point '{self.id}' is vented, so it needs vent_k_w")
        return self

    @property
    def label(self) -> str:
        """The name shown to people."""
        return self.name or self.id
