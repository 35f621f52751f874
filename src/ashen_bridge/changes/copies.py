"""Copies of chosen parts with all that belongs to them (joints, sensors, powers, materials), and putting them in again."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Any, Literal

from ashen_bridge.changes.boxes import Box
from ashen_bridge.changes.dangling import settled
from ashen_bridge.changes.insertion import Insertion
from ashen_bridge.changes.parts import Parts
from ashen_bridge.changes.places import Place, shifting
from ashen_bridge.model import paths
from ashen_bridge.model.bodies import Component, DieMakeUp, PackageMakeUp, Plate, SolidMakeUp
from ashen_bridge.model.fasteners import Fastener
from ashen_bridge.model.project import Project

Axis = Literal["x", "y"]


def parts_of(project: Project, build: str, chosen: Sequence[str]) -> Parts:
    """Return the bodies and fasteners at some paths, and what belongs to them alone."""
    here = project.build(build)
    nodes = [paths.node_at(project, path) for path in chosen]
    names = {node.id for node in nodes if hasattr(node, "footprint") and hasattr(node, "on")}
    bodies = project.bodies_known(here).values()
    while more := {body.id for body in bodies if body.on in names} - names:
        names |= more
    taken = tuple(body for body in bodies if body.id in names)
    joints = tuple(joint for joint in here.joints if set(joint.lower) <= names)
    sensors = tuple(sensor for sensor in project.device.sensors if sensor.body in names)
    read = {sensor.id for sensor in sensors}
    used = {piece.material for joint in joints for piece in joint.pieces} | {name for body in taken for name in _materials(body)}
    return Parts(
        bodies=taken,
        fasteners=tuple(node for node in nodes if isinstance(node, Fastener)),
        joints=joints,
        sensors=sensors,
        limits=tuple(one for one in project.device.limits if one.sensor in read or one.body in names),
        powers_w={point.id: {n: v for n, v in point.powers_w.items() if n in names} for point in project.points},
        groups={joint.id: group.id for joint in joints for group in project.groups if joint.id in group.joints},
        materials=tuple(material for material in project.materials if material.id in used),
    )


def _materials(body: Any) -> Iterator[str]:
    if isinstance(body, Component):
        if isinstance(body.make_up, SolidMakeUp | DieMakeUp):
            yield body.make_up.material
        elif isinstance(body.make_up, PackageMakeUp):
            yield body.make_up.active_material
        return
    yield body.material
    if isinstance(body, Plate) and body.foil is not None:
        yield body.foil.material


def paste(project: Project, build: str, parts: Parts, dx: float, dy: float) -> Project:
    """Put copied parts in, moved by dx, dy [mm]."""
    return _inserted(project, build, parts, [shifting(dx, dy)])


def repeat(project: Project, build: str, chosen: tuple[str, ...], offsets: tuple[tuple[float, float], ...]) -> Project:
    """Copy what was chosen once per offset [mm]: a row, a ring, a second one beside the first."""
    return _inserted(project, build, parts_of(project, build, chosen), [shifting(dx, dy) for dx, dy in offsets])


def mirror(project: Project, build: str, chosen: tuple[str, ...], axis: Axis, at: float) -> Project:
    """Add a copy of what was chosen, mirrored left to right (`x`) or bottom to top (`y`) at a line [mm]."""
    return _inserted(project, build, parts_of(project, build, chosen), [lambda box: mirrored(box, axis, at)])


def ring(project: Project, build: str, chosen: tuple[str, ...], old: Box, places: tuple[Box, ...]) -> Project:
    """Copy a part that is in a box to every other place; where that is as wide as it is high, it stands turned by a quarter."""
    wanted = [box for box in places if max(abs(a - b) for a, b in zip(box, old, strict=True)) > 1e-6]
    return _inserted(project, build, parts_of(project, build, chosen), [_fitting(old, box) for box in wanted])


def _inserted(project: Project, build: str, parts: Parts, places: Sequence[Place]) -> Project:
    loose = project
    for place in places:
        loose = Insertion(loose, build, place).of(parts)
    return settled(project, loose)


def mirrored(box: Box, axis: Axis, at: float) -> Box:
    """Return a box mirrored left to right (`x`) or bottom to top (`y`) at a line."""
    x0, y0, x1, y1 = box
    return (2 * at - x1, y0, 2 * at - x0, y1) if axis == "x" else (x0, 2 * at - y1, x1, 2 * at - y0)


def _fitting(old: Box, new: Box) -> Place:
    """Place a rectangle of the old box in the new one: as it is if the sizes agree, turned by a quarter otherwise."""
    turned = abs((new[2] - new[0]) - (old[2] - old[0])) > 1e-6

    def place(rect: Box) -> Box:
        a0, b0, a1, b1 = rect[0] - old[0], rect[1] - old[1], rect[2] - old[0], rect[3] - old[1]
        if turned:
            a0, b0, a1, b1 = b0, a0, b1, a1
        return new[0] + a0, new[1] + b0, new[0] + a1, new[1] + b1

    return place
