"""What turns, holds and hides beside what the mechanics know: how a screw looks, case screws, plugs, and what is dangerous."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Annotated, Literal

from pydantic import Field, StringConstraints

from ashen_bridge.model.base import Frozen, Id, Name
from ashen_bridge.model.bodies import Side
from ashen_bridge.model.references import Kind, Reference
from ashen_bridge.model.units import Coordinate

Known = Literal["unknown", "yes", "no"]
Cell = Annotated[str, StringConstraints(pattern=r"^[A-Z][0-9]{1,2}$")]
"""A cell of the tray: a letter and a number, such as B3."""


class Hardware(Frozen):
    """How a screw looks, for the tray: all of it optional. `driver` is head and size as printed on drivers, such as PH1 or T6.

    `engages_mm` is how much of its thread sits in the hole as found, `spare_mm` how far its tip is from bottoming.
    """

    length_mm: float | None = Field(default=None, gt=0.0, le=200.0)
    thread: Name = ""
    head: Literal["", "pan", "flat", "button", "socket", "hex", "shoulder", "thumb"] = ""
    driver: Name = ""
    turns_in: Literal["", "metal", "plastic"] = ""
    locker: Known = "unknown"
    engages_mm: float | None = Field(default=None, gt=0.0, le=100.0)
    spare_mm: float | None = Field(default=None, ge=0.0, le=100.0)


class Screw(Frozen):
    """A screw that no computation needs: it holds a cover, a bracket, a plug."""

    id: Id
    name: Name = ""
    x_mm: Coordinate
    y_mm: Coordinate
    side: Side = Side.FRONT
    holds: Name = "cover"
    hardware: Hardware = Hardware()

    @property
    def label(self) -> str:
        """The name shown to people."""
        return self.name or self.id


class Plug(Frozen):
    """A cable between the board and something that comes off. A `hidden` one tears if that is pulled first.

    `most_a` is what its header may give, where that is written.
    """

    id: Id
    name: Name = ""
    what: Literal["fan", "light", "battery", "sensor", "reader", "motor", "display", "other"] = "other"
    x_mm: Coordinate
    y_mm: Coordinate
    side: Side = Side.FRONT
    of: Id | None = None
    hidden: bool = False
    most_a: float | None = Field(default=None, gt=0.0, le=50.0)

    @property
    def label(self) -> str:
        """The name shown to people."""
        return self.name or self.id

    def references(self) -> Iterator[Reference]:
        """Yield what it names by id."""
        if self.of is not None:
            yield Reference("Plug", self.id, "belongs to", Kind.BODY, self.of)


class Hazards(Frozen):
    """What may hurt somebody or the device, as far as it is known. What is not known is warned of."""

    mains: Known = "unknown"
    battery: Known = "unknown"
    battery_state: Literal["unknown", "sound", "swollen or pierced"] = "unknown"
    charged_parts: Known = "unknown"
    regulated: Known = "unknown"
    liquid_metal: Known = "unknown"
    sharp_fins: Known = "unknown"
    settings_in_battery: Known = "unknown"
