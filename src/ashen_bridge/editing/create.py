"""New bodies, landings and sensors by hand, with typical numbers that are marked assumed."""

from __future__ import annotations

from typing import Any

from ashen_bridge.changes import bodies
from ashen_bridge.changes.boxes import Box, area, contains, outline_of, rect_of
from ashen_bridge.changes.edit import Edit, edit
from ashen_bridge.changes.names import fresh_id, fresh_name, slug
from ashen_bridge.geometry.stacking import Stacking
from ashen_bridge.library.typical import copper_layers, typical
from ashen_bridge.model.bodies import (
    Attach,
    Board,
    Body,
    Component,
    ComponentRole,
    DieMakeUp,
    Landing,
    MakeUp,
    PackageMakeUp,
    Plate,
    PlateRole,
    Side,
    SolidMakeUp,
    Substrate,
)
from ashen_bridge.model.build import Build
from ashen_bridge.model.device import Limit, Sensor
from ashen_bridge.model.errors import ProjectError
from ashen_bridge.model.project import Project
from ashen_bridge.model.quantity import q
from ashen_bridge.model.resolve import resolve
from ashen_bridge.model.sinks import RatedSink

ROLE_NAMES = {
    "die": "Die",
    "memory": "Memory",
    "regulator": "Regulator",
    "inductor": "Inductor",
    "other": "Part",
    "substrate": "Substrate",
    "cooler": "Cooler base",
    "lid": "Lid",
    "backplate": "Backplate",
    "spreader": "Spreader",
    "shim": "Shim",
    "stiffener": "Stiffener",
    "case wall": "Case wall",
}
_PLATE_MATERIAL = {"cooler": "copper", "lid": "copper", "shim": "copper", "stiffener": "steel"}
_SENSED = {"die": "Die", "memory": "Memory", "regulator": "Regulators"}
SOLID = {"regulator": "power_stage", "inductor": "ferrite_coil", "other": "power_stage"}


def new_board(project: Project, box: Box) -> Edit:
    """Add the board."""
    board = Board(
        id=fresh_id("board", [body.id for body in project.device.bodies]),
        name="Board",
        footprint=outline_of(box),
        thickness_mm=typical("board_thickness_mm"),
        material="laminate_glass",
        copper=copper_layers(6),
    )
    return edit("Add the board", bodies.add_board, board)


def carrier_of(project: Project, build: Build | None, box: Box, side: Side) -> str:
    """Return what a part in `box` stands on: the smallest substrate around it, else the board. Raises `ProjectError`."""
    holders = [
        body
        for body in project.bodies_of(build)
        if isinstance(body, Board) or (isinstance(body, Substrate) and body.side is side and contains(body.footprint.bounds, box))
    ]
    if not holders:
        raise ProjectError("Draw the board first: everything else stands on it.")
    return min(holders, key=lambda body: area(body.footprint.bounds)).id


def new_component(project: Project, build_id: str, role: str, box: Box, side: Side) -> tuple[Edit, str]:
    """Add a component (or a substrate) and, where its kind usually has one, its sensor; returns the edit and its path."""
    on = carrier_of(project, project.build(build_id), box, side)
    name = fresh_name(ROLE_NAMES[role], [body.name for body in project.device.bodies])
    new_id = fresh_id(slug(name, "part"), [body.id for body in project.all_bodies])
    outline = outline_of(box)
    path = f"device.bodies.{new_id}"
    common: dict[str, Any] = {"id": new_id, "name": name, "on": on, "side": side, "footprint": outline}
    if role == "substrate":
        attach = Attach(resistance_mm2k_w=typical("substrate_attach_mm2k_w"))
        thickness = typical("substrate_thickness_mm")
        body: Body = Substrate(**common, thickness_mm=thickness, material="substrate_organic", attach=attach)
        return edit(f"Add {name}", bodies.add_body, body, ("substrate_organic",)), path
    key = {"die": "die_attach_mm2k_w", "memory": "package_attach_mm2k_w"}.get(role, "part_attach_mm2k_w")
    body = Component(
        **common,
        role=ComponentRole(role),
        height_mm=typical(f"{role}_height_mm"),
        make_up=make_up(role, outline.rects[0].w_mm, outline.rects[0].h_mm),
        attach=Attach(resistance_mm2k_w=typical(key)),
    )
    needed = "silicon" if role in ("die", "memory") else SOLID[role]
    sensors, limits = _sensor(project, new_id, name, role) if role in _SENSED else ((), ())
    power = typical(f"{role}_power_w")
    return edit(f"Add {name}", bodies.add_body, body, (needed,), power, None, sensors, limits), path


def make_up(role: str, w_mm: float, h_mm: float) -> MakeUp:
    """Return what a component of a role and size is made of inside."""
    if role == "die":
        return DieMakeUp(material="silicon")
    if role == "memory":
        return PackageMakeUp(
            active_material="silicon",
            active_w_mm=round(w_mm * 0.72, 3),
            active_h_mm=round(h_mm * 0.72, 3),
            active_thickness_mm=q(0.2, 0.05, "assumed", "silicon in the package"),
            ball_thickness_mm=q(0.3, 0.05, "assumed", "ball layer"),
            junction_to_case_k_w=typical("memory_junction_to_case_k_w"),
            junction_to_board_k_w=typical("memory_junction_to_board_k_w"),
        )
    return SolidMakeUp(material=SOLID[role])


def _sensor(project: Project, body: str, name: str, role: str) -> tuple[tuple[Sensor, ...], tuple[Limit, ...]]:
    used = _sensed_ids(project)
    sensor = Sensor(id=fresh_id(f"s_{body}"[:44], used), name=name, body=body, reads="max", group=_SENSED[role])
    limit = fresh_id(f"l_{body}"[:44], [*used, sensor.id])
    return (sensor,), (Limit(id=limit, name=f"{name} limit", sensor=sensor.id, max_c=typical(f"{role}_limit_c")),)


def _sensed_ids(project: Project) -> list[str]:
    return [one.id for one in project.device.sensors] + [one.id for one in project.device.limits]


def add_sensor(project: Project, body_id: str, limit_c: float | None = None) -> Edit:
    """Let a body have a sensor that reads its hottest point, with a limit if one is given."""
    body = project.body(body_id)
    used = _sensed_ids(project)
    name = fresh_name(body.label, [one.name for one in project.device.sensors])
    sensor = Sensor(id=fresh_id(f"s_{body_id}"[:44], used), name=name, body=body_id, reads="max")
    limit = fresh_id(f"l_{body_id}"[:44], [*used, sensor.id])
    limits = () if limit_c is None else (Limit(id=limit, sensor=sensor.id, max_c=q(limit_c)),)
    return edit(f"Sensor on {body.label}", bodies.add_sensor, sensor, limits)


def new_plate(project: Project, build_id: str, role: str, box: Box, side: Side) -> tuple[Edit, str]:
    """Add a plate; a cooler comes with a rated sink; a case wall stands still. Returns the edit and its path."""
    name = fresh_name(ROLE_NAMES[role], [body.name for body in project.device.bodies])
    material = _PLATE_MATERIAL.get(role, "aluminium_alloy")
    still: dict[str, Any] = {}
    if role == "case wall":
        stacking = Stacking(resolve(project, build_id))
        here = (body for body in project.bodies_of(project.build(build_id)) if getattr(body, "side", None) is side)
        height = round(max([3.0, *(stacking.top(body.id) for body in here)]) + 3.0, 2)
        still = {"on": "case", "height_mm": q(height, 0.3, "assumed", "not measured yet")}
    plate = Plate(
        id=fresh_id(slug(name, "plate"), [body.id for body in project.all_bodies]),
        name=name,
        role=PlateRole(role),
        side=side,
        footprint=outline_of(box),
        thickness_mm=typical(f"{role.replace(' ', '_')}_thickness_mm"),
        material=material,
        sink=_first_sink(role) if role in ("cooler", "case wall") else None,
        **still,
    )
    fan = q(100.0) if role == "cooler" else None
    return edit(f"Add {name}", bodies.add_body, plate, (material,), None, fan), f"device.bodies.{plate.id}"


def _first_sink(role: str) -> RatedSink:
    cooler = role == "cooler"
    return RatedSink(
        base_reference="source_spot" if cooler else "mean_base",
        fixed_k_w=typical("sink_fixed_k_w"),
        convective_k_w=typical("sink_convective_k_w" if cooler else "case_convective_k_w"),
        exponent=q(0.7 if cooler else 0.0, 0.1),
    )


def new_landing(project: Project, plate_id: str, box: Box) -> tuple[Edit, str]:
    """Add a landing to a plate of the device; returns the edit and its path."""
    plate = next((body for body in project.device.bodies if body.id == plate_id), None)
    if not isinstance(plate, Plate):
        raise ProjectError("Draw a landing on a plate: choose the plate it belongs to first.")
    landing = Landing(
        id=fresh_id("landing_1", [landing.id for landing in plate.landings]),
        name=fresh_name("Landing 1", [landing.name for landing in plate.landings]),
        area=rect_of(box),
        step_mm=typical("landing_step_mm"),
    )
    path = f"device.bodies.{plate_id}.landings.{landing.id}"
    return edit(f"Landing on {plate.label}", bodies.add_landing, plate_id, landing), path
