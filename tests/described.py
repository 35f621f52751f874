"""What somebody would answer who has an invented device on the bench, with what they read off it; and what they then change.

The device itself is never shown to the questions: sizes as a ruler gives them, counts, feels, and temperatures of the device's
own field, rounded and with the errors of a reading by eye.
"""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass
from statistics import median
from typing import Any

import numpy as np

from ashen_bridge.guided.answers import Answers, DeviceKind
from ashen_bridge.guided.check import check
from ashen_bridge.library import materials
from ashen_bridge.model.project import Project
from ashen_bridge.predict.engine import Engine
from ashen_bridge.simulated.devices import KINDS, device

Data = dict[str, Any]
_KIND = {"card": DeviceKind.CARD, "lidded": DeviceKind.LIDDED, "fanless": DeviceKind.BOX}
_HOTTEST_K = 80.0
_READ_K = 1.0  # what a reading by eye is off by


@dataclass(frozen=True)
class Truth:
    """One invented device: its project, as plain data too, and its kind."""

    seed: int
    kind: str
    data: Data

    @property
    def project(self) -> Project:
        """The device as it is."""
        return Project.parse(self.data)

    def changed(self, what: str) -> Project:
        """Return the device after a change that was not fitted."""
        data = Project.parse(self.data).model_dump(mode="json")
        change(data, "now", "load", what)
        return Project.parse(data)


def truth(seed: int) -> Truth:
    """Return an invented device, the kinds in turn."""
    kind = KINDS[seed % len(KINDS)]
    data = device(seed, kind)
    memory = [one["id"] for one in data["device"]["bodies"] if one.get("role") == "memory"]
    sensors = data["device"]["sensors"]
    if memory:
        sensors.append({"id": "memory_hot", "body": memory[0], "also": memory[1:], "reads": "max"})
    if kind == "fanless":
        sensors.append({"id": "skin", "body": "wall", "also": ["back"], "reads": "skin"})
    # A device that would burn is run at less power, as its own control would.
    rows = Engine().predict(Project.parse(data), "now", "load", fidelity="coarse").report.sensors
    room = data["points"][0]["ambient_c"]["value"]
    hottest = max(row.value_c for row in rows) - room
    for power in data["points"][0]["powers_w"].values():
        power["value"] = round(power["value"] * min(1.0, _HOTTEST_K / hottest), 3)
    return Truth(seed, kind, data)


def shown(engine: Engine, project: Project, build: str, die: str) -> dict[str, float]:
    """Return what decides: the die's hot spot (by its sensor's id) and the hottest memory, on the refined field [°C]."""
    rows = {row.id: row.value_c for row in engine.predict(project, build, "load").report.sensors}
    return {name: rows[one] for name, one in (("die", die), ("memory", "memory_hot")) if one in rows}


def answers(engine: Engine, of: Truth) -> Answers:
    """Return what somebody would answer."""
    rows = {row.id: row.value_c for row in engine.predict(of.project, "now", "load").report.sensors}
    random = np.random.default_rng(of.seed + 5000)
    seen = {name: round(value + _READ_K * float(random.standard_normal())) for name, value in rows.items()}
    point, bodies = of.data["points"][0], {one["id"]: one for one in of.data["device"]["bodies"]}
    die = bodies["die"]["footprint"]["rects"][0]
    watts = point["powers_w"]["die"]["value"]
    given: Data = {
        "kind": _KIND[of.kind],
        "die_w_mm": round(2 * die["w_mm"]) / 2,
        "die_h_mm": round(2 * die["h_mm"]) / 2,
        "watts": round(watts * float(random.normal(1.0, 0.02)), 0 if watts > 20 else 1),
        "room_c": round(point["ambient_c"]["value"]),
        "core_c": seen["s_die_mean"],
        "memory_c": seen.get("memory_hot"),
    }
    return check(given | {"card": _card, "lidded": _lidded, "fanless": _fanless}[of.kind](of.data, bodies, seen))


def _card(data: Data, bodies: Data, seen: Data) -> Data:
    joints = {one["id"]: one for one in data["builds"][0]["joints"]}
    cx, cy = _centre(bodies["die"])
    sides = Counter(_side(_centre(one), (cx, cy)) for one in bodies.values() if one["id"].startswith("mem_"))
    pads = [one["pieces"][0] for name, one in joints.items() if name.startswith("pad_")]
    rear = [one for one in bodies if one.startswith("rear_")]
    plate = bodies.get("backplate")
    spread = joints["die_joint"]["pieces"][0]["volume_mm3"]["value"] / _area(bodies["die"])
    return {
        "hot_c": max(seen["s_die_max"], seen["s_die_mean"]),
        "around": tuple(min(sides[side], 12) for side in ("left", "top", "right", "bottom")),
        "regulators": sum(name.startswith("pad_reg_") for name in joints),
        "pad_now_mm": median(one["thickness_mm"]["value"] for one in pads) if pads else None,
        "pad_feel": _feel(pads),
        "rear_plate": "none" if plate is None else "metal" if plate["material"] == "aluminium_alloy" else "plastic",
        "rear_meets": "pads" if any(name.startswith("pad_rear") for name in joints) else "air" if plate else None,
        "rear": len(rear),
        "paste": "thin" if spread < 0.14 else "usual",
        "fan_percent": data["points"][0]["fans_percent"]["cooler"]["value"],
    }


def _lidded(data: Data, bodies: Data, seen: Data) -> Data:
    lid = bodies["lid"]["footprint"]["rects"][0]
    under = data["builds"][0]["joints"][0]["pieces"][0]["material"]
    return {
        "memory_c": None,
        "lid_w_mm": lid["w_mm"],
        "lid_h_mm": lid["h_mm"],
        "under_lid": {"solder_indium": "solder", "paste_general": "paste", "liquid_metal": "liquid metal"}[under],
        "fan_percent": data["points"][0]["fans_percent"]["cooler"]["value"],
    }


def _fanless(data: Data, bodies: Data, seen: Data) -> Data:
    joints = {one["id"]: one for one in data["builds"][0]["joints"]}
    wall, back, plate = bodies["wall"], bodies["back"], bodies["spreader"]["footprint"]["rects"][0]
    outer = wall["footprint"]["rects"][0]
    thick = sum(one["thickness_mm"]["value"] + one["height_mm"]["value"] for one in (wall, back)) + 1.6
    right = sum(name.startswith("mem_") for name in bodies)
    return {
        "around": (0, 0, right, 0),
        "memory_c": seen.get("memory_hot"),
        "skin_c": seen["skin"],
        "cover": "metal" if wall["material"] == "aluminium_alloy" else "plastic",
        "cover_mm": round(wall["thickness_mm"]["value"], 1),
        "device_w_mm": round(outer["w_mm"]),
        "device_h_mm": round(outer["h_mm"]),
        "device_t_mm": round(thick, 1),
        "spreader_w_mm": plate["w_mm"],
        "spreader_h_mm": plate["h_mm"],
        "on_chip": "pad",
        "over_memory": "air",
        "pad_now_mm": joints["die_pad"]["pieces"][0]["thickness_mm"]["value"],
        "pad_feel": _feel([joints["die_pad"]["pieces"][0]]),
        "reach": "pad" if "wall_pad" in joints else "air",
    }


# ---- changes


def changes(of: Truth) -> tuple[str, ...]:
    """Return what somebody might change next, that no reading was fitted to."""
    if of.kind == "fanless":
        return ("pads",)
    padded = any(one["id"].startswith("pad_") for one in of.data["builds"][0]["joints"])
    return ("pads", "paste", "fan") if of.kind == "card" and padded else ("paste", "fan")


def change(data: Data, build: str, point: str, what: str) -> None:
    """Make a change to a project as plain data: the same to a device as it is and as it was described."""
    (joints,) = (one["joints"] for one in data["builds"] if one["id"] == build)
    match what:
        case "fan":
            (there,) = (one for one in data["points"] if one["id"] == point)
            there["fans_percent"]["cooler"]["value"] *= 0.6
        case "paste":
            over = "lid_joint" if any(one["id"] == "lid_joint" for one in joints) else "die_joint"
            (joint,) = (one for one in joints if one["id"] == over)
            joint["pieces"] = [{"id": "paste", "material": "paste_general", "amount": {"type": "film"}}]
        case "pads":
            for joint in joints:
                for piece in joint["pieces"]:
                    if piece["material"].startswith("pad_"):
                        piece["material"] = "pad_soft" if piece["material"] != "pad_soft" else "pad_medium"
                        piece["bare_share"] = {"value": 0.0, "uncertainty": 0.02, "origin": "assumed"}
    known = {one["id"] for one in data["materials"]}
    data["materials"] += [one.model_dump(mode="json") for name, one in materials().items() if name not in known]


# ---- what a ruler and a thumb say


def _centre(body: Data) -> tuple[float, float]:
    box = body["footprint"]["rects"][0]
    return box["x_mm"] + box["w_mm"] / 2, box["y_mm"] + box["h_mm"] / 2


def _area(body: Data) -> float:
    box = body["footprint"]["rects"][0]
    return float(box["w_mm"] * box["h_mm"])


def _side(of: tuple[float, float], die: tuple[float, float]) -> str:
    dx, dy = of[0] - die[0], of[1] - die[1]
    if abs(dx) > abs(dy):
        return "left" if dx < 0 else "right"
    return "bottom" if dy < 0 else "top"


def _feel(pads: list[Data]) -> str | None:
    feels = Counter(one["material"].removeprefix("pad_") for one in pads)
    return feels.most_common(1)[0][0] if feels else None
