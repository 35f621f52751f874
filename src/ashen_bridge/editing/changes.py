"""One value set by path, with what must change along so that the result makes sense: a screw's kind, how a plate stands."""

from __future__ import annotations

from typing import Any

from ashen_bridge.editing.create import make_up, quantity, use_materials
from ashen_bridge.editing.edits import set_values
from ashen_bridge.editing.heights import rest_mm
from ashen_bridge.editing.plain import Edit, Plain, edit_project
from ashen_bridge.model.bodies import Component
from ashen_bridge.model.paths import descend
from ashen_bridge.model.project import Project

_NEEDED: dict[str, dict[str, str]] = {
    "sprung": {
        "rate_n_mm": "spring_normal_n_mm",
        "travel_mm": "spring_travel_mm",
        "reference_mm": "seat_mm",
        "coil_bind_mm": "spring_coil_bind_mm",
    },
    "fixed": {"preload_n": "screw_normal_n", "seat_mm": "seat_mm"},
    "shouldered": {"preload_n": "screw_normal_n", "seat_mm": "seat_mm"},
}


def change_value(project: Project, build_id: str, path: str, value: Any, label: str) -> Edit:
    """Return the edit that sets one value, and what its new state needs where nothing is stated yet."""
    steps = path.split(".")
    if path.startswith("device.fasteners.") and steps[-1] == "kind":
        return _fastener_kind(path, str(value))
    if path.startswith("device.fasteners.") and steps[-1] == "rate_n_mm" and value is not None:
        return set_values(label, {path: value, f"{path.rsplit('.', 1)[0]}.spring": None})
    if steps[-1] == "on" and value in ("floating", "case", "ground"):
        return _standing(project, build_id, path, str(value))
    return set_values(label, {path: value})


def _fastener_kind(path: str, kind: str) -> Edit:
    def change(data: Plain) -> None:
        fastener = descend(data, path.rsplit(".", 1)[0])
        fastener["kind"] = kind
        for name, key in _NEEDED.get(kind, {}).items():
            given = fastener[name] is not None or (name == "rate_n_mm" and fastener["spring"] is not None)
            if not given:
                fastener[name] = quantity(key)
        # Where the plate comes to rest is known from either kind.
        if kind != "sprung" and fastener["reference_mm"] is not None:
            fastener["seat_mm"] = {**fastener["reference_mm"]}

    return edit_project(f"Screw is {kind}", change)


def _standing(project: Project, build_id: str, path: str, on: str) -> Edit:
    body_id = path.split(".")[-2]
    height = rest_mm(project, project.build(build_id), body_id) or 5.0

    def change(data: Plain) -> None:
        plate = descend(data, path.rsplit(".", 1)[0])
        plate["on"] = on
        if "height_mm" in plate and plate["kind"] == "plate":
            assumed = {"value": round(height, 3), "uncertainty": 0.2, "origin": "assumed", "note": "not measured yet"}
            plate["height_mm"] = None if on == "floating" else plate["height_mm"] or assumed

    return edit_project("How the plate stands", change)


def change_make_up(component: Component, path: str, kind: str) -> Edit:
    """Describe a component as a bare die, a package or one solid block, with typical numbers."""
    x0, y0, x1, y1 = component.footprint.bounds
    role = {"die": "die", "package": "memory"}.get(kind, "other")
    inside = make_up(role, x1 - x0, y1 - y0)

    def change(data: Plain) -> None:
        descend(data, path)["make_up"] = inside
        use_materials(data, ["power_stage" if role == "other" else "silicon"])

    return edit_project(f"Inside of {component.label}", change)
