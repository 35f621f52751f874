"""What stands for an answer that was left open: the usual of its kind of device, common practice without a source."""

from __future__ import annotations

from typing import Any

from ashen_bridge.guided.answers import Answers, DeviceKind
from ashen_bridge.model.inner import BaseKind

_USUAL: dict[str, Any] = {
    "paste": "usual",
    "under_lid": "solder",
    "around": (3, 2, 3, 0),
    "regulators": 0,
    "pad_now_mm": 1.0,
    "pad_feel": "medium",
    "rear_plate": "metal",
    "rear_meets": "air",
    "rear": 0,
    "base": BaseKind.SOLID,
    "screws": 4,
    "screw_feel": "normal",
    "fan_percent": 100.0,
    "cover": "metal",
    "device_w_mm": 180.0,
    "device_h_mm": 120.0,
    "device_t_mm": 10.0,
    "spreader": "plate",
    "on_chip": "paste",
    "over_memory": "air",
    "reach": "air",
    "room_c": 25.0,
    "changed": "nothing",
    "worse": "nothing",
}
_DIE_MM = {DeviceKind.CARD: 20.0, DeviceKind.LIDDED: 13.0, DeviceKind.BOX: 12.0, DeviceKind.OTHER: 15.0}
_WATTS = {DeviceKind.CARD: 150.0, DeviceKind.LIDDED: 90.0, DeviceKind.BOX: 6.0, DeviceKind.OTHER: 40.0}
_COVER_MM = {"metal": 1.0, "plastic": 2.0}
_AROUND = {DeviceKind.BOX: (1, 0, 1, 0), DeviceKind.OTHER: (0, 0, 0, 0)}
LID_RIM_MM, SPREADER_RIM_MM = 14.0, 24.0  # how much a lid or spreader is larger than the die, in all


def usual(answers: Answers, field: str) -> Any:
    """Return what stands for an answer that was left open; None where nothing does.

    >>> usual(Answers(kind=DeviceKind.LIDDED), "die_w_mm"), usual(Answers(), "core_c")
    (13.0, None)
    """
    kind = answers.kind
    match field:
        case "die_w_mm" | "die_h_mm":
            other = answers.die_h_mm if field == "die_w_mm" else answers.die_w_mm
            return other if other is not None else _DIE_MM[kind]
        case "watts":
            return _WATTS[kind]
        case "lid_w_mm" | "lid_h_mm":
            return min(value_of(answers, field.replace("lid", "die")) + LID_RIM_MM, 80.0)
        case "spreader_w_mm" | "spreader_h_mm":
            # One that reaches over what stands around the die, as far as the device goes.
            there = value_of(answers, field.replace("spreader", "die")) + SPREADER_RIM_MM + 16.0
            return min(there, value_of(answers, field.replace("spreader", "device")) - 8.0)
        case "cover_mm":
            return _COVER_MM[value_of(answers, "cover")]
        case "around" if kind in _AROUND:
            return _AROUND[kind]
        case "pad_now_mm" if kind is DeviceKind.BOX:
            return 0.5
        case "screws" if kind is DeviceKind.BOX:
            return 4
        case "rear_plate" if kind is DeviceKind.OTHER:
            return "none"
    return _USUAL.get(field)


def value_of(answers: Answers, field: str) -> Any:
    """Return what was answered, else what is usual."""
    said = getattr(answers, field)
    return said if said is not None else usual(answers, field)
