"""What is inside boards, plates and pieces, put in and taken out by hand and marked assumed: vias, lands, pockets, voids."""

from __future__ import annotations

from typing import Any, Literal

from ashen_bridge.editing.boxes import Box, rect_of
from ashen_bridge.editing.plain import Edit, Plain, all_bodies, edit_build, edit_project, item
from ashen_bridge.model.bodies import Board, Plate
from ashen_bridge.model.build import Build
from ashen_bridge.model.errors import ProjectError
from ashen_bridge.model.project import Project

Under = Literal["vias", "land"]
_WORDS = {"vias": "Vias", "land": "Copper land"}
_LAND_MM = 3.0  # by how much a land is larger than its part on every side


def has_under(project: Project, part: str, what: Under) -> bool:
    """Return whether the board has vias or a land that were put under a part."""
    return any(
        region.id == _region_id(part, what)
        for body in project.device.bodies
        if isinstance(body, Board)
        for region in body.regions
    )


def put_under(project: Project, part: str, what: Under) -> Edit:
    """Put vias or a copper land under a part, as large as it (a land a little larger), or take them out again."""
    there = has_under(project, part, what)

    def change(data: Plain) -> None:
        board = next((body for body in all_bodies(data) if body["kind"] == "board"), None)
        if board is None:
            raise ProjectError("There is no board: draw it first.")
        kept = [region for region in board["regions"] if region["id"] != _region_id(part, what)]
        if not there:
            body = item(all_bodies(data), part)
            grown = _LAND_MM if what == "land" else 0.0
            area = rect_of(_within(_grown(_box(body), grown), _box(board)))
            says: Plain = {"vias": {}} if what == "vias" else {"land_cover": _assumed(1.0, 0.05)}
            kept.append(
                {"id": _region_id(part, what), "name": f"{_WORDS[what]} under {body['name'] or part}", "area": area, **says}
            )
        board["regions"] = kept

    return edit_project(f"{'No ' + _WORDS[what].lower() if there else _WORDS[what]} under it", change)


def toggle_pocket(plate: Plate) -> Edit:
    """Cut a pocket into the middle of a plate's outer face, a third as deep as the plate; or take all pockets out again."""

    def change(data: Plain) -> None:
        body = item(all_bodies(data), plate.id)
        depth = _assumed(round(plate.thickness_mm.value / 3, 3), 0.05)
        body["recesses"] = [] if plate.recesses else [{"id": "pocket", "area": rect_of(_middle(_box(body))), "depth_mm": depth}]

    return edit_project("No pockets" if plate.recesses else "Pocket", change)


def toggle_void(project: Project, build: Build, joint_id: str, piece_id: str) -> Edit:
    """Put a void into the middle of a piece, or take all of its voids out again."""
    joint = build.joint(joint_id)
    piece = next(one for one in joint.pieces if one.id == piece_id)
    lower = next(body for body in (*project.device.bodies, *build.added) if body.id == joint.lower[0])
    box = (piece.footprint or lower.footprint).bounds

    def change(data: Plain) -> None:
        target = item(item(data["joints"], joint_id)["pieces"], piece_id)
        target["voids"] = [] if piece.voids else [{"id": "void", "area": rect_of(_middle(box))}]

    return edit_build("No voids" if piece.voids else "Void", build.id, change)


def _assumed(value: float, spread: float) -> Plain:
    return {"value": value, "uncertainty": spread, "origin": "assumed"}


def _region_id(part: str, what: Under) -> str:
    return f"{what}_{part}"[:48]


def _box(body: dict[str, Any]) -> Box:
    rects = body["footprint"]["rects"]
    return (
        min(one["x_mm"] for one in rects),
        min(one["y_mm"] for one in rects),
        max(one["x_mm"] + one["w_mm"] for one in rects),
        max(one["y_mm"] + one["h_mm"] for one in rects),
    )


def _grown(box: Box, by: float) -> Box:
    return box[0] - by, box[1] - by, box[2] + by, box[3] + by


def _within(box: Box, outer: Box) -> Box:
    return max(box[0], outer[0]), max(box[1], outer[1]), min(box[2], outer[2]), min(box[3], outer[3])


def _middle(box: Box) -> Box:
    x0, y0, x1, y1 = box
    return x0 + (x1 - x0) / 3, y0 + (y1 - y0) / 3, x1 - (x1 - x0) / 3, y1 - (y1 - y0) / 3
