"""Builds changed in one respect, to ask the physics "what if"."""

from __future__ import annotations

from collections.abc import Callable, Iterable

from ashen_bridge.model.build import Build
from ashen_bridge.model.joints import Joint
from ashen_bridge.model.material import Material
from ashen_bridge.model.project import Project
from ashen_bridge.model.quantity import Quantity

_LIMP = 1e-3  # of a pad's pressure: it still conducts, but no longer pushes


def _with_build(project: Project, changed: Build) -> Project:
    builds = [changed if build.id == changed.id else build for build in project.builds]
    return Project.parse({**dict(project), "builds": tuple(builds)})


def with_limp_pads(project: Project) -> Project:
    """Return the project with pads that conduct as they do but push back with next to nothing."""
    materials = tuple(_limp(material) for material in project.materials)
    return Project.parse({**dict(project), "materials": materials})


def _limp(material: Material) -> Material:
    if material.compression is None:
        return material
    points = [{"strain": point.strain, "pressure_kpa": point.pressure_kpa * _LIMP} for point in material.compression.points]
    compression = {**dict(material.compression), "points": points}
    return Material.model_validate({**dict(material), "compression": compression})


def with_pad_thickness(project: Project, build_id: str, joints: Iterable[str], thickness_mm: float) -> Project:
    """Return the project with the sheets of some joints set to one thickness (of a stack, the first sheet)."""
    return _each_pad(project, build_id, joints, lambda _: thickness_mm)


def with_more_pad(project: Project, build_id: str, joints: Iterable[str], more_mm: float) -> Project:
    """Return the project with the first sheet of some joints thicker by `more_mm`."""
    return _each_pad(project, build_id, joints, lambda old: old + more_mm)


def _each_pad(project: Project, build_id: str, joints: Iterable[str], rule: Callable[[float], float]) -> Project:
    wanted = set(joints)
    build = project.build(build_id)
    changed = tuple(_thicker(joint, rule) if joint.id in wanted else joint for joint in build.joints)
    return _with_build(project, Build.model_validate({**dict(build), "joints": changed}))


def _thicker(joint: Joint, rule: Callable[[float], float]) -> Joint:
    pieces = []
    done = False
    for piece in joint.pieces:
        if piece.thickness_mm is not None and not done:
            value = rule(piece.thickness_mm.value)
            pieces.append({**dict(piece), "thickness_mm": Quantity.model_validate({**dict(piece.thickness_mm), "value": value})})
            done = True
        else:
            pieces.append(dict(piece))
    return Joint.model_validate({**dict(joint), "pieces": pieces})
