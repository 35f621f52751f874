"""A hash of everything a prediction depends on, the version of the physics included."""

from __future__ import annotations

import hashlib
import json

from ashen_bridge.model.project import Project
from ashen_bridge.model.resolve import ResolvedBuild, resolve
from ashen_bridge.predict.report import PHYSICS_VERSION

_LABELS = {"name", "note", "notes", "sources", "source", "price_per_cm2", "stock_thicknesses_mm", "uncertainty", "origin"}


def input_hash(project: Project, build_id: str | None, point_id: str | None) -> str:
    """Return the hash of what `predict` would compute from; labels and sources do not count."""
    return resolved_hash(resolve(project, build_id), project.point(point_id).model_dump(mode="json"))


def resolved_hash(resolved: ResolvedBuild, point: dict[str, object]) -> str:
    """Return the hash for a build that is already resolved."""
    content = {
        "physics": PHYSICS_VERSION,
        "build": resolved.build.id,
        "bodies": [body.model_dump(mode="json") for body in resolved.bodies],
        "fasteners": [[f.model_dump(mode="json"), s.model_dump(mode="json")] for f, s in resolved.fasteners],
        "joints": [joint.model_dump(mode="json") for joint in resolved.joints],
        "materials": {name: material.model_dump(mode="json") for name, material in sorted(resolved.materials.items())},
        "sensors": [sensor.model_dump(mode="json") for sensor in resolved.device.sensors],
        "limits": [limit.model_dump(mode="json") for limit in resolved.device.limits],
        "point": point,
    }
    return hashlib.sha256(json.dumps(_bare(content), sort_keys=True).encode()).hexdigest()


def _bare(node: object) -> object:
    if isinstance(node, dict):
        return {key: _bare(value) for key, value in node.items() if key not in _LABELS}
    if isinstance(node, list | tuple):
        return [_bare(value) for value in node]
    return node
