"""What is cut for a build: one piece after another with its outline, its holes, the sheet it comes from, and what to mind."""

from __future__ import annotations

import json
from collections.abc import Iterator
from dataclasses import dataclass, replace
from functools import cache
from importlib import resources
from typing import Any

from ashen_bridge.model.bodies import Body, Side
from ashen_bridge.model.build import Build
from ashen_bridge.model.errors import ProjectError
from ashen_bridge.model.footprint import Footprint
from ashen_bridge.model.joints import Joint, Piece
from ashen_bridge.model.material import Material, MaterialKind
from ashen_bridge.model.project import Project
from ashen_bridge.planning.choosing.bill import sheet_mm
from ashen_bridge.planning.choosing.practice import way
from ashen_bridge.words.numbers import short

Box = tuple[float, float, float, float]
"""Left, lower, right and upper edge [mm]."""
_METALS = (MaterialKind.SOLID,)
_NOT_CUT = (MaterialKind.SOLDER, MaterialKind.ADHESIVE, MaterialKind.GAS)
_SAME_MM = 0.05


@dataclass(frozen=True)
class Cut:
    """One piece: its number, where it goes, and what it is cut from.

    `size_mm` is how wide and high it is cut; `outline` are its rectangles and `holes` what is cut out of it, both from its own
    lower left corner, `place` where that corner goes on the board. `sheet_mm` is how thick the sheet is, `thickness_mm` the piece
    as it is placed. `turns`: it may be cut turned. `notes` are what to mind, `wrong` what is wrong with it.
    """

    number: int
    joint: str
    lower: str
    label: str
    side: Side
    material: str
    name: str
    sheet_mm: float
    thickness_mm: float
    size_mm: tuple[float, float]
    outline: tuple[Box, ...]
    holes: tuple[Box, ...]
    place: tuple[float, float]
    turns: bool = True
    metal: bool = False
    notes: tuple[str, ...] = ()
    wrong: tuple[str, ...] = ()

    @property
    def area_mm2(self) -> float:
        """How much of a sheet its bounds take."""
        return self.size_mm[0] * self.size_mm[1]


@cache
def figures() -> dict[str, Any]:
    """Return the figures that ship; common practice, no source."""
    found: dict[str, Any] = json.loads(resources.files(__package__).joinpath("cutting.json").read_text("utf-8"))
    return found


def pieces(project: Project, build: str | None = None) -> tuple[Cut, ...]:
    """Return everything that is cut for a build, by material and thickness, then as one reads the board; numbered from 1.

    Raises `ProjectError` for a build that is not there.
    """
    one = project.build(build)
    found = [cut for joint in one.joints for piece in joint.pieces for cut in _of_piece(project, one, joint, piece)]
    found.sort(key=_as_one_reads)
    return tuple(replace(cut, number=n) for n, cut in enumerate(found, 1))


def _as_one_reads(cut: Cut) -> tuple[bool, str, float, bool, float, float]:
    return cut.metal, cut.material, cut.sheet_mm, cut.side is Side.REAR, -round(cut.place[1], 1), cut.place[0]


def _of_piece(project: Project, build: Build, joint: Joint, piece: Piece) -> Iterator[Cut]:
    if sheet_mm(piece) is None or project.material(piece.material).kind in _NOT_CUT:
        return
    bodies = project.bodies_known(build)
    if piece.footprint is not None:
        lower = _under(piece.footprint, [bodies[name] for name in joint.lower])
        yield _cut(project, build, joint, piece, lower, piece.footprint)
        return
    for name in joint.lower:
        yield _cut(project, build, joint, piece, bodies[name], bodies[name].footprint)


def _under(own: Footprint, lowers: list[Body]) -> Body:
    return max(lowers, key=lambda body: _shared(own.bounds, body.footprint.bounds))


def _shared(a: Box, b: Box) -> float:
    return max(min(a[2], b[2]) - max(a[0], b[0]), 0.0) * max(min(a[3], b[3]) - max(a[1], b[1]), 0.0)


def _cut(project: Project, build: Build, joint: Joint, piece: Piece, lower: Body, footprint: Footprint) -> Cut:
    material, sheet = project.material(piece.material), sheet_mm(piece)
    over = _over(project, material)
    boxes = [(x0 - over, y0 - over, x1 + over, y1 + over) for x0, y0, x1, y1 in (rect.bounds for rect in footprint.rects)]
    voids = [void.area.bounds for void in piece.voids] + [rect.bounds for rect in footprint.holes]
    through = [*voids, *_passed_through(project, build, boxes)]
    x0, y0 = min(box[0] for box in boxes), min(box[1] for box in boxes)
    x1, y1 = max(box[2] for box in boxes), max(box[3] for box in boxes)
    if x1 <= x0 or y1 <= y0:
        raise ProjectError(f"The piece on {lower.label} has no size.")
    assert piece.thickness_mm is not None  # only sheets are cut
    assert sheet is not None
    shrunk = _shrunk(piece)
    notes, wrong = _notes(piece, material, over, len(boxes)), _wrong(boxes, over, [lower], joint, project.bodies_known(build))
    return Cut(
        0,
        joint.id,
        lower.id,
        lower.label,
        getattr(lower, "side", Side.FRONT),
        material.id,
        material.name,
        sheet,
        piece.thickness_mm.value,
        (round((x1 - x0) * shrunk, 2), round((y1 - y0) * shrunk, 2)),
        tuple(_from(box, x0, y0, shrunk) for box in boxes),
        tuple(_from(box, x0, y0, shrunk) for box in through),
        (x0, y0),
        turns=material.kind is not MaterialKind.GRAPHITE,
        metal=material.kind in _METALS,
        notes=notes,
        wrong=wrong,
    )


def _from(box: Box, x0: float, y0: float, shrunk: float) -> Box:
    a, b, c, d = ((box[0] - x0) * shrunk, (box[1] - y0) * shrunk, (box[2] - x0) * shrunk, (box[3] - y0) * shrunk)
    return round(a, 3), round(b, 3), round(c, 3), round(d, 3)


def _shrunk(piece: Piece) -> float:
    """Return by which factor a piece is cut smaller than it is placed: stretching keeps its volume."""
    if piece.worked is None or piece.thickness_mm is None or piece.worked.how != "stretched":
        return 1.0
    return float((piece.thickness_mm.value / piece.worked.from_mm.value) ** 0.5)


def _over(project: Project, material: Material) -> float:
    """Return by how much a piece is cut over its part [mm]: only where the material wants it, or the school says so."""
    wanted = float(figures()["over_mm"].get(material.kind.value, 0.0))
    by_eye = way(project.aims.wishes, "cut") == "over" and material.kind is MaterialKind.PAD
    return max(wanted, float(figures()["by_eye_mm"]) if by_eye else 0.0)


def _passed_through(project: Project, build: Build, boxes: list[Box]) -> Iterator[Box]:
    """Yield a hole for every screw that passes through a piece, a little larger than the screw."""
    fitted = [one for one in project.device.fasteners if build.setting_of(one.id).fitted and one.kind != "glued"]
    screws = [(one.x_mm, one.y_mm, one.diameter_mm.value if one.diameter_mm else None) for one in fitted]
    screws += [(one.x_mm, one.y_mm, None) for one in project.device.screws]
    for x, y, diameter in screws:
        half = ((diameter or figures()["screw_mm"]) + figures()["hole_over_mm"]) / 2
        if any(x0 - half < x < x1 + half and y0 - half < y < y1 + half for x0, y0, x1, y1 in boxes):
            yield x - half, y - half, x + half, y + half


def _notes(piece: Piece, material: Material, over: float, count: int) -> tuple[str, ...]:
    said = []
    usual = figures()["notes"].get(material.kind.value)
    if usual:
        said.append(usual)
    if over:
        said.append(f"cut {short(over)} mm over on every side")
    if piece.worked is not None and piece.thickness_mm is not None:
        free, thick = short(piece.worked.from_mm.value), short(piece.thickness_mm.value)
        how = "stretched, cut smaller" if piece.worked.how == "stretched" else "shaved"
        said.append(f"from {free} to {thick} mm: {how}")
    if count > 1:
        said.append("cut to its outline after it is off the sheet")
    return tuple(said)


def _wrong(boxes: list[Box], over: float, lowers: list[Body], joint: Joint, bodies: dict[str, Body]) -> tuple[str, ...]:
    """Return what is wrong with an outline: larger than the parts it lies on, without the material asking for it."""
    faces = [bodies[name].footprint.bounds for name in joint.lower] or [one.footprint.bounds for one in lowers]
    x0, y0 = min(box[0] for box in faces), min(box[1] for box in faces)
    x1, y1 = max(box[2] for box in faces), max(box[3] for box in faces)
    reach = max(x0 - boxes[0][0], y0 - boxes[0][1], boxes[-1][2] - x1, boxes[-1][3] - y1)
    by = reach - over
    if by <= _SAME_MM:
        return ()
    return (f"It reaches {short(by)} mm beyond its part: that disturbs neighbours and eats the screws' force.",)
