"""Heights above the board's surface that follow from parts and pieces, before any equilibrium: for defaults and sketches [mm]."""

from __future__ import annotations

from ashen_bridge.model.bodies import Board, Body, Plate
from ashen_bridge.model.build import Build
from ashen_bridge.model.project import Project

_PASTE_MM = 0.04
_PAD_LEFT = 0.85  # of a pad's thickness once it is closed


def rest_mm(project: Project, build: Build, plate_id: str) -> float | None:
    """Return about where a plate's reference plane comes to rest, None if nothing lies under it."""
    return _rest(project.bodies_known(build), build, plate_id, frozenset())


def _top(bodies: dict[str, Body], build: Build, name: str, seen: frozenset[str]) -> float:
    body = bodies.get(name)
    if body is None or isinstance(body, Board) or name in seen:
        return 0.0
    if isinstance(body, Plate):
        under = body.height_mm.value if body.height_mm else _rest(bodies, build, name, seen | {name}) or 0.0
        return under + body.thickness_mm.value
    return _top(bodies, build, body.on, seen | {name}) + body.height_mm.value


def _rest(bodies: dict[str, Body], build: Build, plate_id: str, seen: frozenset[str]) -> float | None:
    plate = bodies.get(plate_id)
    if not isinstance(plate, Plate):
        return None
    found: list[tuple[bool, float]] = []
    for joint in build.joints:
        if joint.upper != plate_id:
            continue
        for low in joint.lower:
            stack = sum(_PAD_LEFT * p.thickness_mm.value if p.thickness_mm else _PASTE_MM for p in joint.pieces)
            soft = any(piece.thickness_mm is not None for piece in joint.pieces)
            found.append((soft, _top(bodies, build, low, seen | {plate_id}) + stack - _step(plate, bodies.get(low))))
    if not found:
        return None
    hard = [height for soft, height in found if not soft]
    return max(hard) if hard else sum(height for _, height in found) / len(found)


def _step(plate: Plate, lower: Body | None) -> float:
    if lower is None:
        return 0.0
    x, y = lower.footprint.centre
    for landing in plate.landings:
        x0, y0, x1, y1 = landing.area.bounds
        if x0 <= x <= x1 and y0 <= y <= y1:
            return landing.step_mm.value
    return 0.0
