"""Numbers and words set by their path."""

from __future__ import annotations

from typing import Any

from ashen_bridge.changes.heights import rest_mm
from ashen_bridge.model import paths
from ashen_bridge.model.bodies import Plate
from ashen_bridge.model.project import Project
from ashen_bridge.model.quantity import q
from ashen_bridge.model.sharing import replaced


def set_values(project: Project, values: dict[str, Any]) -> Project:
    """Set values by path."""
    return paths.set_values(project, values)


def set_carrier(project: Project, build: str, path: str, on: str) -> Project:
    """Say what the body at a path stands on; a plate that does not move gets the height at which it came to rest."""
    body = paths.node_at(project, path)
    height = rest_mm(project, project.build(build), body.id) or 5.0

    def change(one: Any) -> Any:
        if not isinstance(one, Plate):
            return replaced(one, on=on)
        assumed = one.height_mm or q(round(height, 3), 0.2, "assumed", "not measured yet")
        return replaced(one, on=on, height_mm=None if on == "floating" else assumed)

    return paths.changed_at(project, path, change)
