"""A small invented device with everything that readings speak of, and what they would be without any error."""

from __future__ import annotations

from typing import Any

from ashen_bridge.model.project import Project
from devices import Card, Part, linear_pad, project

MODULUS_KPA = 1000.0


def card(pad: float = 1.0, readings: tuple[dict[str, Any], ...] = (), parts: int = 4) -> Project:
    """Return a card whose heights and steps are uncertain: a die in the middle, packages around it, a caliper beside it."""
    places = ((12.0, 12.0), (56.0, 12.0), (12.0, 56.0), (56.0, 56.0))[:parts]
    made = project(
        Card(
            parts=tuple(Part(x, y, 1.2, pad, pad_material="linear_pad") for x, y in places),
            extra_materials=(linear_pad(MODULUS_KPA),),
        )
    )
    data = made.model_dump(mode="json")
    for body in data["device"]["bodies"]:
        if body["kind"] == "component":
            body["height_mm"] = {"value": body["height_mm"]["value"], "uncertainty": 0.05, "origin": "assumed", "note": ""}
    for joint in data["builds"][0]["joints"]:
        for piece in joint["pieces"]:
            if piece.get("thickness_mm"):
                piece["thickness_mm"]["uncertainty"] = 0.03
    data["closings"] = [{"id": "first", "builds": ["now"], "runs": [], "opened": None}]
    data["instruments"] = [{"id": "caliper", "kind": "caliper", "zero_mm": 0.02, "calibration_mm": 0.005}]
    data["readings"] = list(readings)
    return Project.parse(data)


def height(name: str, body: str, *values: float, sitting: str = "today") -> dict[str, Any]:
    """Return a reading of a body's height above the board."""
    return {
        **{"form": "height", "id": name, "body": body, "above": "board", "values_mm": list(values)},
        **{"instrument": "caliper", "sitting": sitting},
    }


def imprint(name: str, part: int, *values: float) -> dict[str, Any]:
    """Return a reading inside an old pad's imprint."""
    return {
        **{"form": "imprint", "id": name, "closing": "first", "joint": f"pad_{part}", "lower": f"part_{part}"},
        **{"values_mm": list(values), "instrument": "caliper", "sitting": "today"},
    }
