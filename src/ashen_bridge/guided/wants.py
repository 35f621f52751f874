"""What is read, allowed, wanted and seen of a described device: sensors, limits, operating point, goals, a run."""

from __future__ import annotations

import math

from ashen_bridge.guided.answers import DeviceKind
from ashen_bridge.guided.facts import Facts, Plain, assumed, guess, typed
from ashen_bridge.guided.goal import goal_c, touch_c, wanted_sensor
from ashen_bridge.library.typical import typical
from ashen_bridge.model.quantity import q

_READ_K = {"core_c": 1.0, "hot_c": 1.0, "memory_c": 1.5, "skin_c": 1.5}
"""What a reading by eye may be off by: the highest of a while, not quite settled; common practice, no source."""
SENSORS = {"core_c": "core", "hot_c": "hot_spot", "memory_c": "memory_hot", "skin_c": "skin"}


def sensors(facts: Facts) -> list[Plain]:
    """Return the chip's two figures, the hottest memory and each package, and the skin of a fanless case."""
    made: list[Plain] = [
        {"id": "hot_spot", "name": "Hot spot", "body": "die", "reads": "max", "group": "Die"},
        {"id": "core", "name": "Core", "body": "die", "reads": "mean", "group": "Die"},
    ]
    if facts.all_memory:
        first, *rest = facts.all_memory
        made.append(
            {"id": "memory_hot", "name": "Memory, hottest", "body": first, "also": rest, "reads": "max", "group": "Memory"}
        )
    labels = {n: label for n, (label, _, _) in facts.memory.items()} | {n: label for n, (label, _) in facts.rear.items()}
    for name, label in labels.items():
        made.append({"id": f"s_{name}", "name": f"Memory {label}", "body": name, "reads": "max", "group": "Memory"})
    if facts.regulators:
        first, *rest = facts.regulators
        words = {"id": "regulators", "name": "Regulators, hottest", "group": "Regulators"}
        made.append(words | {"body": first, "also": rest, "reads": "max"})
    if facts.box:
        made.append(
            {"id": "skin", "name": "Case, hottest", "body": "case_wall", "also": ["case_back"], "reads": "skin", "group": "Case"}
        )
    return made


def limits(facts: Facts) -> list[Plain]:
    """Return the usual limits on them."""
    made: list[Plain] = [{"id": "l_die", "name": "Hot-spot limit", "sensor": "hot_spot", "max_c": assumed("die_limit_c")}]
    if facts.all_memory:
        made.append({"id": "l_memory", "name": "Memory limit", "sensor": "memory_hot", "max_c": assumed("memory_limit_c")})
    if facts.regulators:
        made.append(
            {"id": "l_regulators", "name": "Regulator limit", "sensor": "regulators", "max_c": assumed("regulator_limit_c")}
        )
    if facts.box:
        made.append({"id": "l_skin", "name": "Touch limit", "sensor": "skin", "max_c": _touch(facts)})
    return made


def goals(facts: Facts) -> list[Plain]:
    """Return the wish as a goal."""
    sensor = wanted_sensor(facts.answers)
    if sensor is None or (sensor == "memory_hot" and not facts.all_memory) or (sensor == "skin" and not facts.box):
        return []
    return [{"id": "goal", "sensor": sensor, "at_most_c": {"value": goal_c(facts.answers)}, "note": str(facts.answers.wish)}]


def aims(facts: Facts) -> Plain:
    """Return what is wanted as the project keeps it."""
    wish = facts.answers.wish
    return {"complaint": f"Wanted: {wish.value}.", "sensors": [one["sensor"] for one in goals(facts)]} if wish else {}


def _touch(facts: Facts) -> Plain:
    note = f"{facts.of('cover')} held for 10 s to a minute, IEC 62368-1:2018"
    return q(touch_c(facts.answers), 0.0, "handbook", note).model_dump(mode="json")


# ---- heat


def heat_w(facts: Facts) -> float:
    """Return the heat that goes into the cooler, about [W]."""
    watts = float(facts.of("watts"))
    if facts.answers.watts_of == "device" and facts.said("watts"):
        return watts
    return watts + sum(float(each["value"]) for each in _part_powers(facts).values())


def _part_powers(facts: Facts) -> dict[str, Plain]:
    """Return powers of memory and regulators, less where the whole device makes little."""
    watts, count = float(facts.of("watts")), max(len(facts.all_memory), 1)
    made: dict[str, Plain] = {}
    for names, key, most in ((facts.all_memory, "memory_power_w", 0.3), (tuple(facts.regulators), "regulator_power_w", 0.15)):
        usual = typical(key)
        share = min(1.0, most * watts / (count * usual.value))
        each = guess(share * usual.value, share * usual.uncertainty * (1.0 if share == 1.0 else 1.6), usual.note)
        made |= dict.fromkeys(names, each)
    return made


def least_rise_k(facts: Facts) -> float | None:
    """Return by how much the chip was seen above the room [K]; None if it was not."""
    seen = [one for one in (facts.answers.core_c, facts.answers.hot_c) if one is not None]
    return max(min(seen) - float(facts.of("room_c")), 2.0) if seen else None


def point(facts: Facts) -> Plain:
    """Return the operating point: powers and air as answered, else as usual."""
    watts = float(facts.of("watts"))
    made: Plain = {"id": "load", "name": "Full load", "ambient_c": air(facts), "powers_w": _part_powers(facts)}
    if facts.said("watts") and facts.answers.watts_of == "device":
        made["board_w"] = typed(watts, round(0.04 * watts, 2))
        made["split"] = {"die": guess(0.9, 0.06, "what conversion leaves; common practice, no source")}
    else:
        die = typed(watts, round(0.04 * watts, 2)) if facts.said("watts") else guess(watts, 0.3 * watts, "usual, not answered")
        made["powers_w"] = {"die": die, **made["powers_w"]}
    if facts.box:
        return made | {"convection": "natural", "inside": "sealed", "orientation": "upright"}
    room = float(facts.of("room_c"))
    near = guess(room + 10.0, 5.0, "warmer than the room")
    fan = float(facts.of("fan_percent"))
    speed = typed(fan, 2.0) if facts.said("fan_percent") else guess(fan, 5.0, "usual, not answered")
    return made | {"front_air_c": near, "rear_air_c": near, "fans_percent": {"cooler": speed}}


def air(facts: Facts) -> Plain:
    """Return the room's air."""
    room = float(facts.of("room_c"))
    return typed(room, 1.0) if facts.said("room_c") else guess(room, 3.0, "usual, not answered")


# ---- what was seen


def runs(facts: Facts) -> list[Plain]:
    """Return what was seen as a run of typed readings, none where nothing was."""
    air_k = 1.0 if facts.said("room_c") else 3.0
    spots = [
        {
            "sensor": sensor,
            "value_c": typed(value, round(math.hypot(_READ_K[field], air_k), 2), "seen before anything was changed"),
            "how": "the device's own figure" if field != "skin_c" else "at the case",
        }
        for field, sensor in SENSORS.items()
        if (value := getattr(facts.answers, field)) is not None and _has(facts, field)
    ]
    if not spots:
        return []
    room = float(facts.of("room_c"))
    return [
        {
            "id": "seen",
            "name": "Seen before",
            "build": "as_found",
            "point": "load",
            "ambient_c": guess(room, air_k, "room"),
            "spots": spots,
        }
    ]


def _has(facts: Facts, field: str) -> bool:
    if field == "memory_c":
        return bool(facts.all_memory)
    return field != "skin_c" or facts.kind is DeviceKind.BOX
