"""Changes of what lies between two faces: the layers of some joints of one build."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any, Literal

from ashen_bridge.changes.boxes import Box, rect_of
from ashen_bridge.model.amounts import BondLineAmount, FilmAmount, LineAmount, PeaAmount, WeightAmount, amount_mm3
from ashen_bridge.model.build import Build
from ashen_bridge.model.errors import ProjectError
from ashen_bridge.model.footprint import Footprint
from ashen_bridge.model.joints import Joint, Piece, PieceState, Void
from ashen_bridge.model.material import DISPENSED, Material, MaterialKind
from ashen_bridge.model.project import Project
from ashen_bridge.model.quantity import q
from ashen_bridge.model.sharing import replaced, with_each, with_part

Joints = tuple[str, ...]
AmountKind = Literal["volume", "film", "pea", "line", "weight", "bond line"]
AMOUNTS: dict[str, tuple[str, str]] = {
    "volume": ("volume_mm3", "mm³"),
    "film": ("film_mm", "mm"),
    "pea": ("pea_mm", "mm"),
    "line": ("length_mm", "mm"),
    "weight": ("grams", "g"),
    "bond line": ("bond_line_um", "µm"),
}
"""How a paste may be dispensed → the number that says how much, and its unit."""
USUAL_BOND_LINE_UM = (40.0, 10.0)
"""A paste's bond line under a good mount, and its ± [µm]; common practice, no source."""


STOCK_MM = (0.5, 0.75, 1.0, 1.25, 1.5, 2.0, 2.5, 3.0)
"""Thicknesses in which pads are usually sold [mm]; common practice, no source."""


def stock_of(project: Project, build: str, joints: Joints) -> tuple[float, ...]:
    """Return the stock thicknesses [mm] of the sheets in some joints, else the usual steps."""
    for joint in project.build(build).joints:
        for piece in joint.pieces if joint.id in joints else ():
            stock = project.material(piece.material).stock_thicknesses_mm
            if piece.thickness_mm is not None and stock:
                return stock
    return STOCK_MM


def in_build(project: Project, build: str, change: Callable[[Build], Build]) -> Project:
    """Return the project with one build changed."""
    return with_each(project, "builds", change, (build,))


def in_joints(project: Project, build: str, joints: Joints, change: Callable[[Joint], Joint]) -> Project:
    """Return the project with some joints of a build changed; those of a group that the build has not are left out."""
    here = {joint.id for joint in project.build(build).joints}
    there = [name for name in joints if name in here]
    if joints and not there:
        raise ProjectError(f"Build '{build}' has no joint '{joints[0]}' any more.")
    return in_build(project, build, lambda one: with_each(one, "joints", change, there))


def in_layers(project: Project, build: str, joints: Joints, at: int, change: Callable[[Piece], Piece]) -> Project:
    """Return the project with the layer at a place of some joints changed, where there is one; counted from below."""

    def inside(joint: Joint) -> Joint:
        return with_each(joint, "pieces", change, (joint.pieces[at].id,)) if 0 <= at < len(joint.pieces) else joint

    return in_joints(project, build, joints, inside)


def set_thickness(project: Project, build: str, joints: Joints, at: int, thickness_mm: float) -> Project:
    """Set the thickness of one layer [mm] in all of a group's joints that have a sheet there."""
    return in_layers(project, build, joints, at, lambda piece: _of_thickness(piece, thickness_mm))


def set_sheets(project: Project, build: str, joints: Joints, thickness_mm: float) -> Project:
    """Set the first sheet of each of some joints to one thickness [mm]: what a click on a stock thickness does."""
    return _each_sheet(project, build, joints, lambda _: thickness_mm)


def thicken_sheets(project: Project, build: str, joints: Joints, more_mm: float) -> Project:
    """Make the first sheet of each of some joints thicker [mm]."""
    return _each_sheet(project, build, joints, lambda old: old + more_mm)


def thicken_all_sheets(project: Project, build: str, joints: Joints, more_mm: float) -> Project:
    """Make every sheet of some joints thicker [mm]."""

    def change(piece: Piece) -> Piece:
        return piece if piece.thickness_mm is None else _of_thickness(piece, piece.thickness_mm.value + more_mm)

    return in_joints(project, build, joints, lambda joint: with_each(joint, "pieces", change))


def _each_sheet(project: Project, build: str, joints: Joints, rule: Callable[[float], float]) -> Project:
    def change(piece: Piece) -> Piece:
        return piece if piece.thickness_mm is None else _of_thickness(piece, rule(piece.thickness_mm.value))

    def inside(joint: Joint) -> Joint:
        return joint if joint.sheet_at is None else with_each(joint, "pieces", change, (joint.pieces[joint.sheet_at].id,))

    return in_joints(project, build, joints, inside)


def _of_thickness(piece: Piece, thickness_mm: float) -> Piece:
    if piece.thickness_mm is None:
        return piece
    return with_part(piece, "thickness_mm", lambda old: replaced(old, value=thickness_mm))


def set_amount(project: Project, build: str, joints: Joints, at: int, value: float) -> Project:
    """Set how much was dispensed of a paste, in the way in which it is stated."""

    def change(piece: Piece) -> Piece:
        if piece.volume_mm3 is not None:
            return with_part(piece, "volume_mm3", lambda old: replaced(old, value=value))
        if piece.amount is not None:
            field = AMOUNTS[piece.amount.type][0]
            return with_part(piece, "amount", lambda old: with_part(old, field, lambda number: replaced(number, value=value)))
        return piece

    return in_layers(project, build, joints, at, change)


def set_amount_kind(project: Project, build: str, joints: Joints, at: int, kind: AmountKind) -> Project:
    """State what was dispensed in another way: the same volume. A bond line instead begins with that of a good mount."""

    def inside(joint: Joint) -> Joint:
        if at >= len(joint.pieces) or joint.pieces[at].thickness_mm is not None:
            return joint
        area = _lower_area(project, joint)
        volume = _volume_of(project, area, joint.pieces[at])
        density = project.material(joint.pieces[at].material).density_kg_m3.value
        said: dict[str, Any] = {"volume_mm3": q(volume), "amount": None}
        if kind != "volume":
            said = {"volume_mm3": None, "amount": _amount(kind, volume, area, density)}
        return with_each(joint, "pieces", lambda piece: replaced(piece, **said), (joint.pieces[at].id,))

    return in_joints(project, build, joints, inside)


def _amount(kind: str, volume: float, area: float, density: float) -> Any:
    if kind == "film":
        return FilmAmount(film_mm=q(max(0.01, round(volume / area, 3))))
    if kind == "pea":
        return PeaAmount(pea_mm=q(round((6 * volume / math.pi) ** (1 / 3), 1)))
    if kind == "line":
        return LineAmount(bead_mm=q(2.0), length_mm=q(round(volume / math.pi, 1)))
    if kind == "bond line":
        return BondLineAmount(bond_line_um=q(*USUAL_BOND_LINE_UM, "assumed", "under a good mount; common practice"))
    return WeightAmount(grams=q(max(0.01, round(volume * density * 1e-6, 2))))


def _volume_of(project: Project, area: float, piece: Piece) -> float:
    """Return what was dispensed [mm³]; where nothing was said, a film as people spread it."""
    if piece.volume_mm3 is not None:
        return piece.volume_mm3.value
    if piece.amount is None or piece.bond_line_um is not None:
        return round(FilmAmount().film_mm.value * area, 1)
    return amount_mm3(piece.amount, area, project.material(piece.material).density_kg_m3.value)


def _lower_area(project: Project, joint: Joint) -> float:
    boxes = [body.footprint.bounds for body in project.device.bodies if body.id in joint.lower]
    return max(sum((x1 - x0) * (y1 - y0) for x0, y0, x1, y1 in boxes), 1.0)


def set_material(project: Project, build: str, joints: Joints, at: int, material: str) -> Project:
    """Set the material of one layer; between pad and paste the amount changes its kind."""
    made_of = project.material(material)

    def change(piece: Piece) -> Piece:
        more: dict[str, Any] = {}
        if made_of.kind in DISPENSED and piece.thickness_mm is not None:
            more = {"thickness_mm": None, "worked": None, "amount": FilmAmount()}
        elif made_of.kind not in DISPENSED and piece.thickness_mm is None:
            more = {"volume_mm3": None, "amount": None, "thickness_mm": q(_usual_sheet(made_of))}
        return replaced(piece, material=material, **more)

    return in_layers(project, build, joints, at, change)


def _usual_sheet(material: Material) -> float:
    """Return a thickness to begin with [mm]: the middle one of the stock, else that of a usual pad."""
    stock = material.stock_thicknesses_mm
    return 1.0 if not stock or 1.0 in stock else stock[len(stock) // 2]


def add_pad(project: Project, build: str, joints: Joints) -> Project:
    """Add a pad on top of some joints, of the pad material that is there or the first one known."""
    pads = [material.id for material in project.materials if material.kind is MaterialKind.PAD]
    if not pads:
        raise ProjectError("The project knows no pad material yet, so no pad can be added.")

    def inside(joint: Joint) -> Joint:
        used = {piece.id for piece in joint.pieces}
        name = next(f"pad_{n}" for n in range(1, 99) if f"pad_{n}" not in used)
        there = [piece.material for piece in joint.pieces if piece.material in pads]
        pad = Piece(id=name, material=there[-1] if there else pads[0], thickness_mm=q(0.5))
        return replaced(joint, pieces=(*joint.pieces, pad))

    return in_joints(project, build, joints, inside)


def remove_layer(project: Project, build: str, joints: Joints, at: int) -> Project:
    """Take one layer out of some joints."""
    return in_joints(project, build, joints, lambda joint: replaced(joint, pieces=joint.pieces[:at] + joint.pieces[at + 1 :]))


def move_layer(project: Project, build: str, joints: Joints, at: int, by: int) -> Project:
    """Move one layer up (+1) or down (−1) in its stack."""

    def inside(joint: Joint) -> Joint:
        pieces = list(joint.pieces)
        if at < len(pieces) and 0 <= at + by < len(pieces):
            pieces.insert(at + by, pieces.pop(at))
        return replaced(joint, pieces=tuple(pieces))

    return in_joints(project, build, joints, inside)


def set_state(project: Project, build: str, joints: Joints, at: int, state: PieceState) -> Project:
    """Say what has become of a layer: as fitted, burned in, dried."""
    return in_layers(project, build, joints, at, lambda piece: replaced(piece, state=state))


def set_age(project: Project, build: str, joints: Joints, at: int, days: float) -> Project:
    """Say how long a layer has been in service [days]."""
    return in_layers(project, build, joints, at, lambda piece: replaced(piece, age_days=days))


def set_stated(project: Project, build: str, joints: Joints, stated_mm2k_w: float | None) -> Project:
    """State joints as a whole [mm²·K/W] in place of their layers; None gives them up to layers again."""
    said: dict[str, Any] = {"stated_mm2k_w": None}
    if stated_mm2k_w is not None:
        said = {"pieces": (), "stated_mm2k_w": q(stated_mm2k_w, round(0.2 * stated_mm2k_w, 3))}
    return in_joints(project, build, joints, lambda joint: replaced(joint, **said))


def set_outline(project: Project, build: str, joint: str, piece: str, box: Box | None) -> Project:
    """Give a piece an outline of its own [mm], or (None) let it cover its lower faces again."""
    outline = Footprint(rects=(rect_of(box),)) if box else None
    return in_piece(project, build, joint, piece, lambda one: replaced(one, footprint=outline))


def toggle_void(project: Project, build: str, joint: str, piece: str) -> Project:
    """Put a void into the middle of a piece, or take all of its voids out again."""
    lower = project.body(project.build(build).joint(joint).lower[0])

    def change(one: Piece) -> Piece:
        x0, y0, x1, y1 = (one.footprint or lower.footprint).bounds
        middle = (x0 + (x1 - x0) / 3, y0 + (y1 - y0) / 3, x1 - (x1 - x0) / 3, y1 - (y1 - y0) / 3)
        return replaced(one, voids=() if one.voids else (Void(id="void", area=rect_of(middle)),))

    return in_piece(project, build, joint, piece, change)


def in_piece(project: Project, build: str, joint: str, piece: str, change: Callable[[Piece], Piece]) -> Project:
    """Return the project with one piece of one joint changed."""
    return in_joints(project, build, (joint,), lambda one: with_each(one, "pieces", change, (piece,)))
