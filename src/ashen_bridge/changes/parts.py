"""Parts of a device with all that belongs to them, as they are copied, kept on the clipboard and put in again."""

from __future__ import annotations

from typing import Literal

from pydantic import ValidationError

from ashen_bridge.model.base import Frozen, Id
from ashen_bridge.model.bodies import Body
from ashen_bridge.model.device import Limit, Sensor
from ashen_bridge.model.fasteners import Fastener
from ashen_bridge.model.joints import Joint
from ashen_bridge.model.material import Material
from ashen_bridge.model.quantity import Quantity

MARK = "ashen-bridge parts"


class Parts(Frozen):
    """Bodies and fasteners, the joints, sensors and limits that are theirs alone, their powers by point, groups by joint."""

    what: Literal["ashen-bridge parts"] = "ashen-bridge parts"
    bodies: tuple[Body, ...] = ()
    fasteners: tuple[Fastener, ...] = ()
    joints: tuple[Joint, ...] = ()
    sensors: tuple[Sensor, ...] = ()
    limits: tuple[Limit, ...] = ()
    powers_w: dict[Id, dict[Id, Quantity]] = {}
    groups: dict[Id, Id] = {}
    materials: tuple[Material, ...] = ()

    @property
    def count(self) -> int:
        """How many parts a person would count."""
        return len(self.bodies) + len(self.fasteners)


def read_parts(text: str) -> Parts | None:
    """Return the parts in a text (of the clipboard), None if something else is there."""
    if text.lstrip()[:1] != "{" or MARK not in text:
        return None
    try:
        found = Parts.model_validate_json(text)
    except ValidationError:
        return None
    return found if found.count else None
