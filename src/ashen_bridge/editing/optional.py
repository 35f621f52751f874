"""Parts of an object that may be missing: put in with typical numbers, or taken out."""

from __future__ import annotations

from typing import Any

from ashen_bridge.editing.create import quantity
from ashen_bridge.editing.plain import Edit, Plain, edit_project
from ashen_bridge.model.errors import ProjectError
from ashen_bridge.model.paths import descend


def _spring(_: Plain) -> Any:
    # Of the size of a small cooler's springs: k = G·d⁴/(8·D³·n) comes to about 12 N/mm.
    numbers = {"wire_mm": (1.0, 0.02), "mean_coil_mm": (5.5, 0.1), "active_turns": (5.0, 0.25)}
    return {name: {"value": value, "uncertainty": spread, "origin": "assumed"} for name, (value, spread) in numbers.items()}


def _sink(_: Plain) -> Any:
    return {"fixed_k_w": quantity("sink_fixed_k_w"), "convective_k_w": quantity("sink_convective_k_w")}


def _outline(owner: Plain) -> Any:
    outline = owner.get("footprint")
    if outline is None:
        raise ProjectError("There is nothing yet that this outline could follow; draw it in the plan.")
    return outline


def _spot(_: Plain) -> Any:
    raise ProjectError("A spot needs a place: set it by its path.")


def _flow(_: Plain) -> Any:
    return {"yield_stress_kpa": {"value": 0.1, "uncertainty": 0.05}, "filler_um": {"value": 20.0, "uncertainty": 5.0}}


def _compression(_: Plain) -> Any:
    return {
        "points": [{"strain": 0.0, "pressure_kpa": 0.0}, {"strain": 0.3, "pressure_kpa": 140.0}],
        "sample_thickness_mm": {"value": 1.0},
        "sample_area_mm2": {"value": 645.0},
    }


_PARTS = {
    "spring": _spring,
    "sink": _sink,
    "footprint": _outline,
    "spot": _spot,
    "flow": _flow,
    "compression": _compression,
}


def put_part(path: str) -> Edit:
    """Put a missing part in at a path, every number assumed; the edit may refuse in words."""
    name = path.rsplit(".", 1)[1]

    def change(data: Plain) -> None:
        owner = descend(data, path.rsplit(".", 1)[0])
        carrier = descend(data, path.rsplit(".", 2)[0]) if path.endswith(".sink.footprint") else owner
        owner[name] = _PARTS[name](carrier)
        if name == "spring":
            owner["rate_n_mm"] = None  # a spring that is measured says its rate itself

    return edit_project(f"Add {name}", change)


def take_part(path: str) -> Edit:
    """Take an optional part out again."""

    def change(data: Plain) -> None:
        descend(data, path.rsplit(".", 1)[0])[path.rsplit(".", 1)[1]] = None

    return edit_project(f"Remove {path.rsplit('.', 1)[1]}", change)
