"""What can be chosen and changed in plan: bodies, landings, holes, pieces with an outline of their own, fasteners.

A target is named by its path in the model, so that choosing, editing, scripts and undo all speak of the same thing.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

from ashen_bridge.changes.boxes import Box
from ashen_bridge.model.bodies import Board, Plate, Side
from ashen_bridge.model.project import Project

Kind = Literal["board", "substrate", "component", "plate", "landing", "hole", "piece", "fastener"]


@dataclass(frozen=True)
class Target:
    """One thing that can be chosen. `box` is its extent [mm] (a fastener's is a point); `side` None is on both sides.

    `owner` is the path of the body, or of the joint, that it belongs to; `id` the id of body, fastener or joint's lower body.
    """

    path: str
    kind: Kind
    id: str
    label: str
    box: Box
    side: Side | None
    owner: str = ""

    @property
    def area(self) -> float:
        """Area of its extent [mm²]."""
        return (self.box[2] - self.box[0]) * (self.box[3] - self.box[1])


def targets(project: Project, build_id: str) -> tuple[Target, ...]:
    """Return everything that can be chosen in a build, fasteners last."""
    if not any(build.id == build_id for build in project.builds):
        return tuple(_bodies(project, None)) + tuple(_fasteners(project))
    return (*_bodies(project, build_id), *_pieces(project, build_id), *_fasteners(project))


def body_path(project: Project, build_id: str | None, body_id: str) -> str:
    """Return the path of a body, be it the device's or one that the build adds; `KeyError` if there is none."""
    if any(body.id == body_id for body in project.device.bodies):
        return f"device.bodies.{body_id}"
    if build_id and any(body.id == body_id for body in project.build(build_id).added):
        return f"builds.{build_id}.added.{body_id}"
    raise KeyError(body_id)


def find(found: Sequence[Target], path: str) -> Target | None:
    """Return the target of that path."""
    return next((target for target in found if target.path == path), None)


def under(found: Sequence[Target], x: float, y: float, side: Side, reach: float) -> list[Target]:
    """Return what lies at a place [mm] on a side, smallest first; fasteners are caught within `reach`."""
    hits = []
    for target in found:
        if target.side not in (None, side):
            continue
        grow = reach if target.kind == "fastener" else 0.0
        x0, y0, x1, y1 = target.box
        if x0 - grow <= x <= x1 + grow and y0 - grow <= y <= y1 + grow:
            hits.append(target)
    return sorted(hits, key=lambda target: target.area)


def within(found: Sequence[Target], box: Box, side: Side) -> list[Target]:
    """Return what lies wholly inside a box [mm], the board and what belongs to another found body left out."""
    inside = [
        target
        for target in found
        if target.side in (None, side)
        and target.kind not in ("board", "piece")
        and box[0] <= target.box[0]
        and box[1] <= target.box[1]
        and target.box[2] <= box[2]
        and target.box[3] <= box[3]
    ]
    paths = {target.path for target in inside}
    return [target for target in inside if target.owner not in paths]


def _bodies(project: Project, build_id: str | None) -> Iterator[Target]:
    build = project.build(build_id) if build_id else None
    listed = [(f"device.bodies.{body.id}", body) for body in project.device.bodies]
    listed += [(f"builds.{build.id}.added.{body.id}", body) for body in build.added] if build else []
    for path, body in listed:
        if build and body.id in build.removed:
            continue
        side = None if isinstance(body, Board) else body.side
        yield Target(path, body.kind, body.id, body.label, body.footprint.bounds, side)
        for n, hole in enumerate(body.footprint.holes):
            yield Target(f"{path}.footprint.holes.{n}", "hole", body.id, f"Hole in {body.label}", hole.bounds, side, path)
        for landing in body.landings if isinstance(body, Plate) else ():
            label = landing.name or landing.id
            yield Target(f"{path}.landings.{landing.id}", "landing", body.id, label, landing.area.bounds, side, path)


def _pieces(project: Project, build_id: str) -> Iterator[Target]:
    build = project.build(build_id)
    bodies = project.bodies_known(build)
    for joint in build.joints:
        upper = bodies[joint.upper]
        side = None if isinstance(upper, Board) else upper.side
        for piece in joint.pieces:
            if piece.footprint is not None:
                path = f"builds.{build.id}.joints.{joint.id}"
                label = f"Piece of {joint.label}"
                yield Target(f"{path}.pieces.{piece.id}", "piece", joint.lower[0], label, piece.footprint.bounds, side, path)


def _fasteners(project: Project) -> Iterator[Target]:
    bodies = {body.id: body for body in project.device.bodies}
    for fastener in project.device.fasteners:
        sides = {getattr(bodies.get(end), "side", None) for end in fastener.joins} - {None}
        side = next(iter(sides)) if len(sides) == 1 else None
        place = (fastener.x_mm, fastener.y_mm, fastener.x_mm, fastener.y_mm)
        yield Target(f"device.fasteners.{fastener.id}", "fastener", fastener.id, fastener.label, place, side)
