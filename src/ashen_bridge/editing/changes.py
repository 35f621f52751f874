"""One value set by path, with what must change along so that the result makes sense: a screw's kind, how a plate stands."""

from __future__ import annotations

from typing import Any

from ashen_bridge.changes import bodies, optional, screws, values
from ashen_bridge.changes.edit import Edit, edit
from ashen_bridge.editing.create import make_up
from ashen_bridge.editing.edits import set_values
from ashen_bridge.model import paths
from ashen_bridge.model.bodies import Component
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.project import Project
from ashen_bridge.words.numbers import short


def change_value(build_id: str, path: str, value: Any, label: str) -> Edit:
    """Return the edit that sets one value, and what its new state needs where nothing is stated yet; `label` names it."""
    owner, _, field = path.rpartition(".")
    if path.startswith("device.fasteners.") and field == "kind":
        return edit(f"Screw is {value}", screws.set_kind, owner, str(value))
    if path.startswith("device.fasteners.") and field == "rate_n_mm" and value is not None:
        return set_values(label, {path: value, f"{owner}.spring": None})
    if field == "on" and value in ("floating", "case", "ground"):
        return edit("How the plate stands", values.set_carrier, build_id, owner, str(value))
    return set_values(label, {path: value})


def put_part(path: str) -> Edit:
    """Put a missing part in at a path, every number assumed."""
    return edit(f"Add {path.rpartition('.')[2]}", optional.put_part, path)


def take_part(path: str) -> Edit:
    """Take an optional part out again."""
    return edit(f"Remove {path.rpartition('.')[2]}", optional.take_part, path)


def change_sink(path: str, kind: str) -> Edit:
    """Make the sink at a path one of another kind, every number of it assumed."""
    return edit("Kind of heatsink", optional.change_sink, path, kind)


def change_make_up(component: Component, path: str, kind: str) -> Edit:
    """Describe a component as a bare die, a package or one solid block, with typical numbers."""
    x0, y0, x1, y1 = component.footprint.bounds
    role = {"die": "die", "package": "memory"}.get(kind, "other")
    inside = make_up(role, x1 - x0, y1 - y0)
    material = "power_stage" if role == "other" else "silicon"
    return edit(f"Inside of {component.label}", bodies.set_make_up, path, inside, (material,))


def said(project: Project, path: str, label: str, old: Any, new: Any, unit: str) -> str:
    """Return what a change is called in the list of what was done: of what, which number, from what to what.

    >>> said(Project(), "device.bodies.die.height_mm", "Height", 0.8, {"value": 0.85}, "mm")
    'Height 0.8 → 0.85 mm'
    """
    owner = _owner(project, path)
    before, after = _bare(old), _bare(new)
    change = f" {before} → {after}" if before and after else f" {after}" if after else ""
    return f"{owner}{label}{change}{f' {unit}' if unit and change else ''}"[:200]


def _owner(project: Project, path: str) -> str:
    steps = path.split(".")
    for length in range(len(steps) - 1, 1, -1):
        try:
            label = getattr(paths.node_at(project, ".".join(steps[:length])), "label", "")
        except AshenError:
            continue
        if label:
            return f"{label}: "
    return ""


def _bare(value: Any) -> str:
    found = value.get("value") if isinstance(value, dict) else getattr(value, "value", value)
    if isinstance(found, bool) or found is None:
        return ""
    return short(found, 4) if isinstance(found, int | float) else f"“{found}”" if isinstance(found, str) else ""
