"""What is inside boards, plates and pieces, put in and taken out by hand and marked assumed: vias, lands, pockets, voids."""

from __future__ import annotations

from ashen_bridge.changes import bodies, layers
from ashen_bridge.changes.bodies import Under, has_under
from ashen_bridge.changes.edit import Edit, edit
from ashen_bridge.model.bodies import Plate
from ashen_bridge.model.build import Build
from ashen_bridge.model.project import Project

_WORDS = {"vias": "Vias", "land": "Copper land"}


def put_under(project: Project, part: str, what: Under) -> Edit:
    """Put vias or a copper land under a part, as large as it (a land a little larger), or take them out again."""
    words = f"No {_WORDS[what].lower()}" if has_under(project, part, what) else _WORDS[what]
    return edit(f"{words} under it", bodies.toggle_under, part, what)


def toggle_pocket(plate: Plate) -> Edit:
    """Cut a pocket into the middle of a plate's outer face, a third as deep as the plate; or take all pockets out again."""
    return edit("No pockets" if plate.recesses else "Pocket", bodies.toggle_pocket, plate.id)


def toggle_void(build: Build, joint_id: str, piece_id: str) -> Edit:
    """Put a void into the middle of a piece, or take all of its voids out again."""
    piece = build.joint(joint_id).piece(piece_id)
    return edit("No voids" if piece.voids else "Void", layers.toggle_void, build.id, joint_id, piece_id)
