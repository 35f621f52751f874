"""What each drawing tool makes of a box or a click on the plan."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from ashen_bridge.changes.boxes import Box, contains
from ashen_bridge.changes.edit import Edit
from ashen_bridge.editing import create, joining, reshape
from ashen_bridge.editing.targets import Target
from ashen_bridge.model.errors import AshenError, ProjectError

if TYPE_CHECKING:
    from ashen_bridge.desktop.stack.desk import StackDesk

PARTS = ("die", "memory", "regulator", "inductor", "other", "substrate")
PLATES = ("cooler", "lid", "backplate", "spreader", "shim", "stiffener", "case wall")
WORDS = {**create.ROLE_NAMES, "board": "Board", "landing": "Landing", "hole": "Hole", "screw": "Screw", "outline": "Pad outline"}
TIPS = {
    "landing": "Draw a landing on the chosen plate: the area that faces something, with its own step",
    "hole": "Draw a hole into the chosen body or pad",
    "screw": "Click where a screw joins a plate to the board",
    "outline": "Draw the outline of the pad on the chosen part: half cover, or over several parts",
}
_SIZES = {
    "board": (120.0, 80.0),
    "die": (20.0, 20.0),
    "memory": (12.0, 14.0),
    "regulator": (6.0, 5.0),
    "inductor": (10.0, 10.0),
    "other": (6.0, 6.0),
    "substrate": (40.0, 40.0),
    "landing": (16.0, 16.0),
    "hole": (4.0, 4.0),
    "shim": (20.0, 20.0),
    "lid": (36.0, 36.0),
}
_USUAL = (60.0, 60.0)


def draw_with(desk: StackDesk, tool: str, box: Box | None, at: tuple[float, float]) -> bool:
    """Do what a tool does with a drawn box, or (None) with a click at a place [mm]; a refusal is said in words."""
    if box is None:
        w, h = _SIZES.get(tool, _USUAL)
        box = (round(at[0] - w / 2, 3), round(at[1] - h / 2, 3), round(at[0] + w / 2, 3), round(at[1] + h / 2, 3))
    try:
        edit, path = _made(desk, tool, box, at)
    except AshenError as error:
        desk.session.refused.emit(str(error))
        return False
    if not desk.session.apply(edit):
        return False
    desk.look(replace(desk.view, tool="choose"))
    if path:
        desk.choose(path)
    return True


def _made(desk: StackDesk, tool: str, box: Box, at: tuple[float, float]) -> tuple[Edit, str]:
    project, build, side = desk.session.project, desk.session.view.build, desk.view.side
    if tool == "board":
        return create.new_board(project, box), "device.bodies.board"
    if tool in PARTS:
        return create.new_component(project, build, tool, box, side)
    if tool in PLATES:
        return create.new_plate(project, build, tool, box, side)
    if tool == "screw":
        return joining.new_fastener(project, build, *at, side)
    if tool == "landing":
        return create.new_landing(project, _plate(desk, box).id, box)
    if tool == "hole":
        return reshape.add_hole(_owner(desk, box), box), ""
    return _outline(desk, box), ""


def _plate(desk: StackDesk, box: Box) -> Target:
    """Return the plate a landing is meant for: the chosen one, or the smallest around the box."""
    chosen = [target for target in desk.chosen if target.kind == "plate"]
    around = [
        target
        for target in desk.targets()
        if target.kind == "plate" and target.side is desk.view.side and contains(target.box, box)
    ]
    found = chosen or sorted(around, key=lambda target: target.area)
    if not found:
        raise ProjectError("A landing belongs to a plate: draw it inside one, or choose the plate first.")
    return found[0]


def _owner(desk: StackDesk, box: Box) -> Target:
    chosen = [target for target in desk.chosen if target.kind in ("board", "substrate", "component", "plate", "piece")]
    if len(chosen) == 1:
        return chosen[0]
    around = [
        target
        for target in desk.targets()
        if target.kind in ("board", "plate", "substrate") and target.side in (None, desk.view.side) and contains(target.box, box)
    ]
    if not around:
        raise ProjectError("Choose the body that gets the hole, then draw the hole.")
    return min(around, key=lambda target: target.area)


def _outline(desk: StackDesk, box: Box) -> Edit:
    joint = desk.session.joint
    if joint is None or not joint.pieces:
        raise ProjectError("Choose a part that has a pad first, then draw the pad's outline.")
    return joining.outline_piece(desk.session.view.build, joint.id, joint.pieces[-1].id, box)
