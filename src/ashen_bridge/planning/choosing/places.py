"""What is decided together: joints of one kind whose gaps are alike, and what is known of them before anything is chosen."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import TYPE_CHECKING, Literal

from ashen_bridge.changes.plans import Filling, fill_joints
from ashen_bridge.model.bodies import Component, ComponentRole, Plate, PlateRole, Side
from ashen_bridge.model.build import Build
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.joints import Joint
from ashen_bridge.model.material import MaterialKind
from ashen_bridge.model.project import Project

if TYPE_CHECKING:
    from ashen_bridge.predict.engine import Engine

Role = Literal["die", "memory", "regulator", "plate", "wall", "other"]
_ROLES: dict[ComponentRole, Role] = {
    ComponentRole.DIE: "die",
    ComponentRole.MEMORY: "memory",
    ComponentRole.REGULATOR: "regulator",
    ComponentRole.INDUCTOR: "regulator",
}
_ALIKE_MM = 0.2  # gaps of one group within this are decided together
_HOLDS = frozenset({MaterialKind.SOLDER, MaterialKind.ADHESIVE})


@dataclass(frozen=True)
class Place:
    """Joints that get the same: over which parts, how wide their gaps are [mm], over which area in all [mm²]."""

    id: str
    label: str
    role: Role
    joints: tuple[str, ...]
    lowers: tuple[str, ...]
    rear: bool
    gap_mm: float
    area_mm2: float
    sensed: bool

    @property
    def thin(self) -> bool:
        """Whether it is pressed together until a film is left, so that a paste belongs there."""
        return self.gap_mm < 0.2


def places(engine: Engine, project: Project, build: str) -> tuple[Place, ...]:
    """Return what can be decided in a build, in the order of its joints. Raises `AshenError` for one that cannot be computed."""
    one = project.build(build)
    gaps = gaps_to_fill(engine, project, build)
    found = []
    for label, joints in _together(project, one):
        for role, some in _split(project, one, joints, gaps).items():
            found.append(_place(project, one, label if len(some) == len(joints) else "", role[0], some, gaps))
    order = {joint.id: n for n, joint in enumerate(one.joints)}
    return tuple(sorted(found, key=lambda place: order[place.joints[0]]))


def open_joints(project: Project, build: str) -> tuple[str, ...]:
    """Return the joints that hold nothing up when they are empty: all but those over dies, and what is soldered or stated."""
    one = project.build(build)
    return tuple(
        joint.id for joint in one.joints if _changes(project, joint) and _role(project, one, joint) not in ("die", "plate")
    )


def gaps_to_fill(engine: Engine, project: Project, build: str) -> dict[str, float]:
    """Return the mean gap of every joint [mm] where no pad holds the plates up: what there is to fill.

    Where plates do not come to rest without their pads, the gaps as they are now.
    """
    emptied = fill_joints(project, build, (Filling(joints=open_joints(project, build)),))
    try:
        half = engine.rest(emptied, build, None)
    except AshenError:
        half = engine.rest(project, build, None)
    found: dict[str, list[float]] = {}
    for row in half.joints:
        found.setdefault(row.joint, []).append(row.gap_mm)
    return {name: sum(some) / len(some) for name, some in found.items()}


def _together(project: Project, build: Build) -> Iterator[tuple[str, list[Joint]]]:
    free = [joint for joint in build.joints if _changes(project, joint)]
    for group in project.groups:
        members = [joint for joint in free if joint.id in group.joints]
        if members:
            yield group.label, members
    grouped = {name for group in project.groups for name in group.joints}
    for joint in free:
        if joint.id not in grouped:
            yield joint.label, [joint]


def _changes(project: Project, joint: Joint) -> bool:
    """Return whether what lies in a joint can be chosen: not where it is soldered, glued, or stated as a whole."""
    kinds = {project.material(piece.material).kind for piece in joint.pieces}
    return joint.stated_mm2k_w is None and not kinds & _HOLDS


def _split(
    project: Project, build: Build, joints: list[Joint], gaps: dict[str, float]
) -> dict[tuple[Role, str, int], list[Joint]]:
    found: dict[tuple[Role, str, int], list[Joint]] = {}
    heads: dict[tuple[Role, str], list[float]] = {}
    for joint in sorted(joints, key=lambda one: gaps.get(one.id, 0.0)):
        kind = _role(project, build, joint), joint.upper
        gap = gaps.get(joint.id, 0.0)
        starts = heads.setdefault(kind, [])
        if not starts or gap > starts[-1] + _ALIKE_MM:
            starts.append(gap)
        found.setdefault((*kind, len(starts)), []).append(joint)
    order = {joint.id: n for n, joint in enumerate(build.joints)}
    return {key: sorted(some, key=lambda one: order[one.id]) for key, some in found.items()}


def _role(project: Project, build: Build, joint: Joint) -> Role:
    bodies = project.bodies_known(build)
    upper, lower = bodies[joint.upper], bodies[joint.lower[0]]
    if isinstance(upper, Plate) and upper.role is PlateRole.CASE_WALL:
        return "wall"
    if isinstance(lower, Plate):
        return "plate"
    return _ROLES.get(lower.role, "other") if isinstance(lower, Component) else "other"


def _place(project: Project, build: Build, label: str, role: Role, joints: list[Joint], gaps: dict[str, float]) -> Place:
    bodies = project.bodies_known(build)
    lowers = tuple(dict.fromkeys(name for joint in joints for name in joint.lower))
    boxes = [bodies[name].footprint.bounds for name in lowers]
    upper = bodies[joints[0].upper]
    read = {name for sensor in project.device.sensors for name in (sensor.body, *sensor.also)}
    said = label or ", ".join(joint.label for joint in joints[:3]) + (f" and {len(joints) - 3} more" if len(joints) > 3 else "")
    known = [gaps[joint.id] for joint in joints if joint.id in gaps]
    return Place(
        joints[0].id,
        said,
        role,
        tuple(joint.id for joint in joints),
        lowers,
        getattr(upper, "side", Side.FRONT) is Side.REAR,
        sum(known) / len(known) if known else 0.0,
        sum((x1 - x0) * (y1 - y0) for x0, y0, x1, y1 in boxes),
        bool(read & set(lowers)),
    )
