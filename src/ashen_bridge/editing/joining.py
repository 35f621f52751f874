"""What holds and fills: fasteners, joints and their pieces by hand, with typical numbers that are marked assumed."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Literal

from ashen_bridge.editing.boxes import Box, area, contains, hull, meet, rect_of
from ashen_bridge.editing.create import ROLE_NAMES, bodies_of, quantity, use_materials
from ashen_bridge.editing.heights import rest_mm
from ashen_bridge.editing.plain import Edit, Plain, edit_build, edit_project, fresh_id, fresh_name, item, slug
from ashen_bridge.editing.references import drop_dangling
from ashen_bridge.model.bodies import Board, Component, Plate, Side, Substrate
from ashen_bridge.model.errors import ProjectError
from ashen_bridge.model.material import MaterialKind
from ashen_bridge.model.project import Project

Feel = Literal["soft", "normal", "hard"]


def new_fastener(project: Project, build_id: str, x: float, y: float, side: Side, feel: Feel = "normal") -> tuple[Edit, str]:
    """Add a screw: sprung from a cooler to the board, fixed from any other plate; returns the edit and its path."""
    build = project.build(build_id)
    bodies = bodies_of(project, build)
    board = next((body for body in bodies if isinstance(body, Board)), None)
    plates = [
        body
        for body in bodies
        if isinstance(body, Plate)
        and (body.side, body.on) == (side, "floating")
        and contains(body.footprint.bounds, (x, y, x, y))
    ]
    if board is None or not plates:
        raise ProjectError("A screw joins a plate to the board: put it where a plate is.")
    plate = max(plates, key=lambda body: area(body.footprint.bounds))
    used = [fastener.id for fastener in project.device.fasteners]
    sprung = plate.role == "cooler"
    name = fresh_name("Spring screw 1" if sprung else "Screw 1", [fastener.name for fastener in project.device.fasteners])
    new_id = fresh_id(slug(name, "screw"), used)
    height = rest_mm(project, build, plate.id)
    rest = quantity("seat_mm")
    if height:
        rest.update(value=round(height, 3), note="from the heights under the plate")
    fastener: Plain = {"id": new_id, "name": name, "joins": [plate.id, board.id], "x_mm": round(x, 3), "y_mm": round(y, 3)}
    if sprung:
        fastener.update(kind="sprung", travel_mm=quantity("spring_travel_mm"), coil_bind_mm=quantity("spring_coil_bind_mm"))
        fastener.update(rate_n_mm=quantity(f"spring_{feel}_n_mm"), reference_mm=rest)
    else:
        fastener.update(kind="fixed", preload_n=quantity(f"screw_{feel}_n"), seat_mm=rest)
        fastener["stiffness_n_mm"] = quantity("screw_stiffness_n_mm")

    def change(data: Plain) -> None:
        data["device"]["fasteners"].append(fastener)

    return edit_project(f"Add {name}", change), f"device.fasteners.{new_id}"


def set_feel(fasteners: Sequence[str], feel: Feel) -> Edit:
    """Say how springs or screws feel; their rate or preload becomes the typical one, marked assumed."""

    def change(data: Plain) -> None:
        for fastener in data["device"]["fasteners"]:
            if fastener["id"] in fasteners:
                if fastener["kind"] == "sprung":
                    fastener.update(rate_n_mm=quantity(f"spring_{feel}_n_mm"), spring=None)
                elif fastener["kind"] in ("fixed", "shouldered"):
                    fastener["preload_n"] = quantity(f"screw_{feel}_n")

    return edit_project(f"Screws feel {feel}", change)


def new_joint(project: Project, build_id: str, lower: Sequence[str], what: Literal["pad", "paste"]) -> Edit:
    """Put a pad or paste on each of some faces, up to the plate that is over it. Raises `ProjectError` if there is none."""
    build = project.build(build_id)
    bodies = {body.id: body for body in bodies_of(project, build)}
    kind = MaterialKind.PAD if what == "pad" else MaterialKind.PASTE
    known = [material.id for material in project.materials if material.kind is kind]
    chosen = known[0] if known else ("pad_medium" if what == "pad" else "paste_filled")
    pairs = [(name, _plate_over(bodies, name)) for name in lower]
    label = bodies[lower[0]].label if len(lower) == 1 else f"{len(lower)} parts"

    def change(data: Plain) -> None:
        use_materials(data, [chosen])
        target = item(data["builds"], build_id)
        for name, plate in pairs:
            used = [joint["id"] for joint in target["joints"]]
            joint_id = fresh_id(f"{'pad' if what == 'pad' else 'paste'}_{name}"[:44], used)
            joint = {
                "id": joint_id,
                "name": f"{what.capitalize()} on {bodies[name].label}",
                "upper": plate,
                "lower": [name],
                "pieces": [_piece(what, chosen, bodies[name])],
            }
            target["joints"].append(joint)
            if what == "pad":
                _into_group(data, build_id, joint_id, bodies[name])

    return edit_project(f"{what.capitalize()} on {label}", change)


def _piece(what: str, material: str, lower: Board | Substrate | Component | Plate) -> Plain:
    if what == "pad":
        return {"id": "pad", "material": material, "thickness_mm": {"value": 1.0, "uncertainty": 0.05}}
    return {"id": "paste", "material": material, "amount": {"type": "film"}}


def _plate_over(bodies: dict[str, Any], name: str) -> str:
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


def _into_group(data: Plain, build_id: str, joint_id: str, lower: Board | Substrate | Component | Plate) -> None:
    """Pads on parts of one kind on one side are edited together."""
    if not isinstance(lower, Component):
        return
    build = item(data["builds"], build_id)
    bodies = {body["id"]: body for body in (*data["device"]["bodies"], *build["added"])}
    alike = {
        joint["id"]
        for joint in build["joints"]
        if joint["id"] != joint_id
        and all(
            (bodies[low].get("role"), bodies[low].get("side")) == (lower.role.value, lower.side.value) for low in joint["lower"]
        )
    }
    for group in data["groups"]:
        if alike & set(group["joints"]):
            group["joints"].append(joint_id)
            return
    name = f"{ROLE_NAMES[lower.role.value]}, {lower.side.value}"
    used = [group["id"] for group in data["groups"]]
    data["groups"].append({"id": fresh_id(slug(name, "group"), used), "name": name, "joints": [joint_id]})


def remove_joints(build_id: str, joints: Sequence[str], label: str) -> Edit:
    """Take whole joints out of a build; groups forget them where no other build has them."""

    def change(data: Plain) -> None:
        build = item(data["builds"], build_id)
        build["joints"] = [joint for joint in build["joints"] if joint["id"] not in joints]
        drop_dangling(data)

    return edit_project(f"{label}: nothing between", change)


def outline_piece(build_id: str, joint_id: str, piece_id: str, box: Box | None) -> Edit:
    """Give a piece an outline of its own, or (None) let it cover its lower faces again."""

    def change(build: Plain) -> None:
        piece = item(item(build["joints"], joint_id)["pieces"], piece_id)
        piece["footprint"] = {"rects": [rect_of(box)], "holes": []} if box else None

    return edit_build("Outline of a piece", build_id, change)


def span_joint(project: Project, build_id: str, joint_ids: Sequence[str]) -> Edit:
    """Make one piece lie over all lower faces of several joints: one pad over several parts."""
    build = project.build(build_id)
    joints = [build.joint(name) for name in joint_ids]
    if len(joints) < 2 or len({joint.upper for joint in joints}) > 1:
        raise ProjectError("Choose two or more parts under the same plate, each with its pad, to join their pads.")
    bodies = {body.id: body for body in bodies_of(project, build)}
    lower = tuple(dict.fromkeys(name for joint in joints for name in joint.lower))
    box = hull([bodies[name].footprint.bounds for name in lower])

    def change(data: Plain) -> None:
        target = item(data["builds"], build_id)
        first = item(target["joints"], joint_ids[0])
        first["lower"] = list(lower)
        for piece in first["pieces"]:
            piece["footprint"] = {"rects": [rect_of(box)], "holes": []}
        target["joints"] = [joint for joint in target["joints"] if joint["id"] not in joint_ids[1:]]
        drop_dangling(data)

    return edit_project(f"One pad over {len(lower)} parts", change)
