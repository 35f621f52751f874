"""What holds and fills: fasteners, joints and their pieces by hand, with typical numbers that are marked assumed."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any, Literal

from ashen_bridge.changes import joints, layers, screws
from ashen_bridge.changes.boxes import Box, area, contains, meet
from ashen_bridge.changes.edit import Edit, edit
from ashen_bridge.changes.heights import rest_mm
from ashen_bridge.changes.names import fresh_id, fresh_name, slug
from ashen_bridge.changes.screws import Feel
from ashen_bridge.editing.create import ROLE_NAMES
from ashen_bridge.library.typical import typical
from ashen_bridge.model.amounts import FilmAmount
from ashen_bridge.model.bodies import Board, Body, Component, Plate, Side
from ashen_bridge.model.errors import ProjectError
from ashen_bridge.model.fasteners import Fastener
from ashen_bridge.model.joints import Joint, Piece
from ashen_bridge.model.material import MaterialKind
from ashen_bridge.model.project import Project
from ashen_bridge.model.quantity import q
from ashen_bridge.model.sharing import replaced


def new_fastener(project: Project, build_id: str, x: float, y: float, side: Side, feel: Feel = "normal") -> tuple[Edit, str]:
    """Add a screw: sprung from a cooler to the board, fixed from any other plate; returns the edit and its path."""
    build = project.build(build_id)
    here = project.bodies_of(build)
    board = next((body for body in here if isinstance(body, Board)), None)
    plates = [
        body
        for body in here
        if isinstance(body, Plate)
        and (body.side, body.on) == (side, "floating")
        and contains(body.footprint.bounds, (x, y, x, y))
    ]
    if board is None or not plates:
        raise ProjectError("A screw joins a plate to the board: put it where a plate is.")
    plate = max(plates, key=lambda body: area(body.footprint.bounds))
    sprung = plate.role == "cooler"
    name = fresh_name("Spring screw 1" if sprung else "Screw 1", [one.name for one in project.device.fasteners])
    height = rest_mm(project, build, plate.id)
    rest = typical("seat_mm")
    if height:
        rest = replaced(rest, value=round(height, 3), note="from the heights under the plate")
    held: dict[str, Any] = {"kind": "fixed", "preload_n": typical(f"screw_{feel}_n"), "seat_mm": rest}
    held["stiffness_n_mm"] = typical("screw_stiffness_n_mm")
    if sprung:
        held = {"kind": "sprung", "rate_n_mm": typical(f"spring_{feel}_n_mm"), "reference_mm": rest}
        held |= {"travel_mm": typical("spring_travel_mm"), "coil_bind_mm": typical("spring_coil_bind_mm")}
    fastener = Fastener(
        id=fresh_id(slug(name, "screw"), [one.id for one in project.device.fasteners]),
        name=name,
        joins=(plate.id, board.id),
        x_mm=round(x, 3),
        y_mm=round(y, 3),
        **held,
    )
    return edit(f"Add {name}", screws.add_fastener, fastener), f"device.fasteners.{fastener.id}"


def set_feel(fasteners: Sequence[str], feel: Feel) -> Edit:
    """Say how springs or screws feel; their rate or preload becomes the typical one, marked assumed."""
    return edit(f"Screws feel {feel}", screws.set_feel, tuple(fasteners), feel)


def new_joint(project: Project, build_id: str, lower: Sequence[str], what: Literal["pad", "paste"]) -> Edit:
    """Put a pad or paste on each of some faces, up to the plate that is over it. Raises `ProjectError` if there is none."""
    build = project.build(build_id)
    bodies = {body.id: body for body in project.bodies_of(build)}
    kind = MaterialKind.PAD if what == "pad" else MaterialKind.PASTE
    known = [material.id for material in project.materials if material.kind is kind]
    chosen = known[0] if known else ("pad_medium" if what == "pad" else "paste_filled")
    used = {joint.id for joint in build.joints}
    made = []
    for name in lower:
        joint = Joint(
            id=fresh_id(f"{what}_{name}"[:44], used),
            name=f"{what.capitalize()} on {bodies[name].label}"[:200],
            upper=_plate_over(bodies, name),
            lower=(name,),
            pieces=(_piece(what, chosen),),
        )
        used.add(joint.id)
        made.append(joint)
    label = bodies[lower[0]].label if len(lower) == 1 else f"{len(lower)} parts"
    kinds = tuple(_kind_of(bodies[name]) for name in lower) if what == "pad" else ()
    return edit(f"{what.capitalize()} on {label}", joints.add_joints, build_id, tuple(made), chosen, kinds)


def _piece(what: str, material: str) -> Piece:
    if what == "pad":
        return Piece(id="pad", material=material, thickness_mm=q(1.0, 0.05))
    return Piece(id="paste", material=material, amount=FilmAmount())


def _kind_of(lower: Body) -> str:
    """Return what a group of pads on parts of this kind is called; empty if they form none."""
    return f"{ROLE_NAMES[lower.role.value]}, {lower.side.value}" if isinstance(lower, Component) else ""


def _plate_over(bodies: Mapping[str, Body], name: str) -> str:
    lower = bodies[name]
    side = getattr(lower, "side", Side.FRONT)
    plates = [
        body
        for body in bodies.values()
        if isinstance(body, Plate)
        and body.id != name
        and body.side is side
        and meet(body.footprint.bounds, lower.footprint.bounds)
    ]
    if isinstance(lower, Plate):
        plates = [
            plate for plate in plates if plate.on != "floating" or area(plate.footprint.bounds) > area(lower.footprint.bounds)
        ]
    if not plates:
        raise ProjectError(f"No plate is over '{lower.label}': add a cooler, lid or backplate there first.")
    return min(plates, key=lambda plate: area(plate.footprint.bounds)).id


def remove_joints(build_id: str, gone: Sequence[str], label: str) -> Edit:
    """Take whole joints out of a build; groups forget them where no other build has them."""
    return edit(f"{label}: nothing between", joints.remove_joints, build_id, tuple(gone))


def outline_piece(build_id: str, joint_id: str, piece_id: str, box: Box | None) -> Edit:
    """Give a piece an outline of its own, or (None) let it cover its lower faces again."""
    return edit("Outline of a piece", layers.set_outline, build_id, joint_id, piece_id, box)


def span_joint(project: Project, build_id: str, joint_ids: Sequence[str]) -> Edit:
    """Make one piece lie over all lower faces of several joints: one pad over several parts. Raises `ProjectError`."""
    spanned = joints.span_joint(project, build_id, tuple(joint_ids)).build(build_id).joint(joint_ids[0])
    return edit(f"One pad over {len(spanned.lower)} parts", joints.span_joint, build_id, tuple(joint_ids))
