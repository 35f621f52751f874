"""What a modder is asked, and what may be answered. Whatever is None is not known; `usual` says what stands for it then."""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated, Literal

from pydantic import Field

from ashen_bridge.model.base import Frozen, Name
from ashen_bridge.model.inner import BaseKind


class DeviceKind(StrEnum):
    """What is on the bench."""

    CARD = "card with a big cooler"
    LIDDED = "lidded processor under a cooler"
    BOX = "thin fanless device"
    OTHER = "something else"


class Wish(StrEnum):
    """What is wanted in the end."""

    MEMORY = "cooler memory"
    DIE = "a cooler die"
    SKIN = "a case cooler to touch"
    QUIET = "less noise"
    CHECK = "to know if all is well"


Count = Annotated[int, Field(ge=0, le=12)]
Celsius = Annotated[float, Field(ge=-20.0, le=150.0, allow_inf_nan=False)]
Pad = Annotated[float, Field(gt=0.0, le=6.0)]
Size = Annotated[float, Field(ge=1.0, le=80.0)]
Outer = Annotated[float, Field(ge=20.0, le=600.0)]
Feel = Literal["soft", "medium", "firm"]


class Answers(Frozen):
    """All answers. `around` counts the memory packages left, above, right and below of the die.

    `watts_of` says whether the watts are the chip's own or those of the whole device. `worse` is what became worse when
    something was `changed` before. In a fanless device `on_chip` and `over_memory` lie under the spreader, `reach` is what lies
    between what is inside and the cover.
    """

    name: Name = ""
    kind: DeviceKind = DeviceKind.CARD
    wish: Wish | None = None
    goal_c: Celsius | None = None
    die_w_mm: Size | None = None
    die_h_mm: Size | None = None
    watts: Annotated[float, Field(gt=0.0, le=1000.0)] | None = None
    watts_of: Literal["chip", "device"] = "chip"
    paste: Literal["thin", "usual", "generous"] | None = None
    under_lid: Literal["solder", "paste", "liquid metal"] | None = None
    lid_w_mm: Size | None = None
    lid_h_mm: Size | None = None
    around: tuple[Count, Count, Count, Count] | None = None
    regulators: Annotated[int, Field(ge=0, le=24)] | None = None
    pad_now_mm: Pad | None = None
    pad_feel: Feel | None = None
    pad_wanted_mm: Pad | None = None
    rear_plate: Literal["metal", "plastic", "none"] | None = None
    rear_meets: Literal["air", "pads", "touching"] | None = None
    rear: Count | None = None
    base: BaseKind | None = None
    screws: Annotated[int, Field(ge=2, le=12)] | None = None
    screw_feel: Literal["soft", "normal", "hard"] | None = None
    fan_percent: Annotated[float, Field(ge=5.0, le=100.0)] | None = None
    cover: Literal["metal", "plastic"] | None = None
    cover_mm: Annotated[float, Field(ge=0.3, le=10.0)] | None = None
    device_w_mm: Outer | None = None
    device_h_mm: Outer | None = None
    device_t_mm: Annotated[float, Field(ge=3.0, le=100.0)] | None = None
    spreader: Literal["plate", "none"] | None = None
    spreader_w_mm: Outer | None = None
    spreader_h_mm: Outer | None = None
    on_chip: Literal["paste", "pad"] | None = None
    over_memory: Literal["pads", "air"] | None = None
    reach: Literal["air", "pad"] | None = None
    core_c: Celsius | None = None
    hot_c: Celsius | None = None
    memory_c: Celsius | None = None
    skin_c: Celsius | None = None
    room_c: Annotated[float, Field(ge=-20.0, le=60.0)] | None = None
    changed: Literal["nothing", "pads", "paste", "pads and paste"] | None = None
    worse: Literal["nothing", "memory", "the die", "both"] | None = None
