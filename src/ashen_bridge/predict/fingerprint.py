"""A hash of everything a prediction depends on, the version of the physics included."""

from __future__ import annotations

import hashlib
import json
from functools import lru_cache

from ashen_bridge.model.base import Frozen
from ashen_bridge.model.project import Project
from ashen_bridge.model.resolve import ResolvedBuild, resolve
from ashen_bridge.predict.report import PHYSICS_VERSION

_LABELS = {
    "name",
    "note",
    "notes",
    "sources",
    "source",
    "price_per_cm2",
    "stock_thicknesses_mm",
    "uncertainty",
    "origin",
    "hardware",
}


def input_hash(project: Project, build_id: str | None, point_id: str | None) -> str:
    """Return the hash of what `predict` would compute from; labels and sources do not count."""
    return resolved_hash(resolve(project, build_id), project.point(point_id).model_dump(mode="json"))


def shown_hash(project: Project, build_id: str | None, point_id: str | None) -> str:
    """Return the hash of what `predict` would show: what it would compute from, and what everything is called in it."""
    resolved = resolve(project, build_id)
    groups = [(group.name, group.joints) for group in project.groups]
    names = [
        (one.id, one.name) for one in (*resolved.bodies, *resolved.joints, *(fastener for fastener, _ in resolved.fasteners))
    ]
    names += [(sensor.id, f"{sensor.group}/{sensor.name}") for sensor in resolved.device.sensors]
    names += [(limit.id, limit.name) for limit in resolved.device.limits]
    names += [(material.id, material.name) for material in resolved.materials.values()]
    point = project.point(point_id)
    called = hashlib.sha256(repr((names, groups, resolved.build.name, point.name)).encode()).hexdigest()
    return f"{resolved_hash(resolved, point.model_dump(mode='json'))[:32]}{called[:32]}"


def resolved_hash(resolved: ResolvedBuild, point: dict[str, object]) -> str:
    """Return the hash for a build that is already resolved."""
    content = {
        "physics": PHYSICS_VERSION,
        "build": resolved.build.id,
        "bodies": [_digest(body) for body in resolved.bodies],
        "fasteners": [[_digest(fastener), _digest(setting)] for fastener, setting in resolved.fasteners],
        "joints": [_digest(joint) for joint in resolved.joints],
        "materials": {name: _digest(material) for name, material in sorted(resolved.materials.items())},
        "sensors": [_digest(sensor) for sensor in resolved.device.sensors],
        "limits": [_digest(limit) for limit in resolved.device.limits],
        "point": _bare(point),
    }
    return hashlib.sha256(json.dumps(content, sort_keys=True).encode()).hexdigest()


@lru_cache(maxsize=4096)
def _digest(item: Frozen) -> str:
    return hashlib.sha256(json.dumps(_bare(item.model_dump(mode="json")), sort_keys=True).encode()).hexdigest()


def _bare(node: object) -> object:
    if isinstance(node, dict):
        return {key: _bare(value) for key, value in node.items() if key not in _LABELS}
    if isinstance(node, list | tuple):
        return [_bare(value) for value in node]
    return node
