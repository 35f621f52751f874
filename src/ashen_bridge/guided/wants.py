"""What is read, allowed, wanted and known of a described device: sensors, limits, operating point, goals, measurements."""

from __future__ import annotations

from ashen_bridge.guided.answers import DeviceKind, Wish
from ashen_bridge.guided.facts import Facts, Plain, assumed, typed
from ashen_bridge.library.touch import touch_limits
from ashen_bridge.library.typical import typical
from ashen_bridge.model.quantity import q

_GOAL_BELOW_LIMIT_K = 5.0


def sensors(facts: Facts) -> list[Plain]:
    """Return a sensor for the die, each package and, in a box, the case wall."""
    sensors = [{"id": "die_hot", "name": "Die hot spot", "body": "die", "reads": "max", "group": "Die"}]
    labels = {n: label for n, (label, _, _) in facts.memory.items()} | {n: label for n, (label, _) in facts.rear.items()}
    for name, label in labels.items():
        group = "Memory rear" if name in facts.rear else "Memory front"
        sensors.append({"id": f"s_{name}", "name": f"Memory {label}", "body": name, "reads": "max", "group": group})
    return sensors


def limits(facts: Facts) -> list[Plain]:
    """Return the usual limits on them."""
    limits = [{"id": "l_die", "name": "Die limit", "sensor": "die_hot", "max_c": assumed("die_limit_c")}]
    if facts.kind is DeviceKind.BOX:
        held = q(touch_limits("metal")["10_s_to_1_min"], 0.0, "handbook", "metal held for 10 s to a minute, IEC 62368-1:2018")
        limits.append({"id": "l_skin", "name": "Touch limit", "body": "case_wall", "place": "skin", "max_c": held.model_dump()})
    return limits + [
        {"id": f"l_{name}", "name": "Memory limit", "sensor": f"s_{name}", "max_c": assumed("memory_limit_c")}
        for name in (*facts.memory, *facts.rear)
    ]


def point(facts: Facts) -> Plain:
    """Return the operating point: powers by kind of device, air by the room."""
    power = {DeviceKind.LIDDED: "processor_power_w", DeviceKind.BOX: "fanless_power_w"}.get(facts.kind, "die_power_w")
    scale = 0.2 if facts.kind is DeviceKind.BOX else 1.0
    memory = assumed("memory_power_w")
    memory.update(value=memory["value"] * scale, uncertainty=memory["uncertainty"] * scale)
    room = facts.answers.room_c
    air = q(room + 10.0, 5.0, "assumed", "warmer than the room").model_dump(mode="json")
    point: Plain = {
        "id": "load",
        "name": "Full load",
        "powers_w": {"die": assumed(power), **dict.fromkeys((*facts.memory, *facts.rear), memory)},
        "ambient_c": typed(room, 1.5),
        "front_air_c": air,
        "rear_air_c": air,
    }
    if facts.kind is not DeviceKind.BOX:
        point["fans_percent"] = {facts.plate_id: q(100.0, 5.0, "assumed", "full fan").model_dump(mode="json")}
    return point


def goals(facts: Facts) -> list[Plain]:
    """Return what the wish means as goals, a little below the limits."""
    wish = facts.answers.wish
    aims = {
        Wish.MEMORY: [(f"s_{name}", "memory_limit_c") for name in (*facts.memory, *facts.rear)],
        Wish.DIE: [("die_hot", "die_limit_c")],
    }.get(wish, [])
    return [
        {
            "id": f"goal_{sensor}",
            "sensor": sensor,
            "at_most_c": {"value": typical(key).value - _GOAL_BELOW_LIMIT_K},
            "note": wish.value,
        }
        for sensor, key in aims
    ]


def measurements(facts: Facts) -> list[Plain]:
    """Return the temperatures that were seen."""
    seen = [("die_hot", facts.answers.die_seen_c)]
    if facts.memory or facts.rear:
        seen.append((f"s_{next(iter((*facts.memory, *facts.rear)))}", facts.answers.memory_seen_c))
    return [
        {
            "id": f"seen_{sensor}",
            "about": f"device.sensors.{sensor}",
            "value": typed(value, 2.0, "seen before anything was changed"),
            "unit": "c",
            "method": "seen",
        }
        for sensor, value in seen
        if value is not None
    ]
