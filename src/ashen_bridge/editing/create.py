"""New bodies, landings and sensors by hand, with typical numbers that are marked assumed."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from ashen_bridge.editing.boxes import Box, area, contains, rect_of
from ashen_bridge.editing.plain import Edit, Plain, edit_project, fresh_id, fresh_name, item, slug
from ashen_bridge.geometry.stacking import Stacking
from ashen_bridge.library import materials
from ashen_bridge.library.typical import copper_layers, typical
from ashen_bridge.model.bodies import Board, Component, Plate, Side, Substrate, body_side
from ashen_bridge.model.build import Build
from ashen_bridge.model.errors import ProjectError
from ashen_bridge.model.project import Project
from ashen_bridge.model.resolve import resolve

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
SOLID = {"regulator": "power_stage", "inductor": "ferrite_coil", "other": "power_stage"}


def quantity(key: str) -> Plain:
    """Return a typical value as plain data."""
    return typical(key).model_dump(mode="json")


def bodies_of(project: Project, build: Build | None) -> list[Board | Substrate | Component | Plate]:
    """Return the bodies of a build that are there."""
    listed = [*project.device.bodies, *(build.added if build else ())]
    return [body for body in listed if build is None or body.id not in build.removed]


def use_materials(data: Plain, names: Sequence[str]) -> None:
    """See that the project knows these library materials."""
    known = {material["id"] for material in data["materials"]}
    library = materials()
    data["materials"] += [library[n].model_dump(mode="json") for n in dict.fromkeys(names) if n not in known]


def new_board(box: Box) -> Edit:
    """Add the board."""

    def change(data: Plain) -> None:
        if any(body["kind"] == "board" for body in data["device"]["bodies"]):
            raise ProjectError("The device has its board already; change its size instead.")
        use_materials(data, ["laminate_glass"])
        board = {
            "kind": "board",
            "id": fresh_id("board", [body["id"] for body in data["device"]["bodies"]]),
            "name": "Board",
            "footprint": {"rects": [rect_of(box)]},
            "thickness_mm": quantity("board_thickness_mm"),
            "material": "laminate_glass",
            "copper": copper_layers(6),
        }
        data["device"]["bodies"].insert(0, board)
        if not data["builds"]:
            data["builds"].append({"id": "as_found", "name": "As found", **_EMPTY_BUILD})
        if not data["points"]:
            data["points"].append({"id": "load", "name": "Full load", "powers_w": {}, "fans_percent": {}})

    return edit_project("Add the board", change)


_EMPTY_BUILD: dict[str, Any] = {"removed": [], "added": [], "joints": [], "fastener_settings": [], "overrides": {}}


def all_ids(project: Project) -> list[str]:
    """Return the ids of all bodies, those that builds add included."""
    return [body.id for body in project.device.bodies] + [body.id for build in project.builds for body in build.added]


def carrier_of(project: Project, build: Build | None, box: Box, side: Side) -> str:
    """Return what a part in `box` stands on: the smallest substrate around it, else the board. Raises `ProjectError`."""
    holders = [
        body
        for body in bodies_of(project, build)
        if isinstance(body, Board) or (isinstance(body, Substrate) and body.side is side and contains(body.footprint.bounds, box))
    ]
    if not holders:
        raise ProjectError("Draw the board first: everything else stands on it.")
    return min(holders, key=lambda body: area(body.footprint.bounds)).id


def new_component(project: Project, build_id: str, role: str, box: Box, side: Side) -> tuple[Edit, str]:
    """Add a component (or a substrate) and, where its kind usually has one, its sensor; returns the edit and its path."""
    build = project.build(build_id)
    on = carrier_of(project, build, box, side)
    used = all_ids(project)
    name = fresh_name(ROLE_NAMES[role], [body.name for body in project.device.bodies])
    new_id = fresh_id(slug(name, "part"), used)
    rect = rect_of(box)
    body: Plain = {
        "kind": "component",
        "role": role,
        "id": new_id,
        "name": name,
        "on": on,
        "side": side.value,
        "footprint": {"rects": [rect]},
    }
    if role == "substrate":
        del body["role"]
        body.update(kind="substrate", thickness_mm=quantity("substrate_thickness_mm"), material="substrate_organic")
        body["attach"] = {"resistance_mm2k_w": quantity("substrate_attach_mm2k_w")}
        needed = ["substrate_organic"]
    else:
        body.update(height_mm=quantity(f"{role}_height_mm"), make_up=make_up(role, rect["w_mm"], rect["h_mm"]))
        attach = {"die": "die_attach_mm2k_w", "memory": "package_attach_mm2k_w"}.get(role, "part_attach_mm2k_w")
        body["attach"] = {"resistance_mm2k_w": quantity(attach)}
        needed = ["silicon"] if role in ("die", "memory") else [SOLID[role]]

    def change(data: Plain) -> None:
        use_materials(data, needed)
        data["device"]["bodies"].append(body)
        if role != "substrate":
            for point in data["points"]:
                point["powers_w"][new_id] = quantity(f"{role}_power_w")
        if role in ("die", "memory", "regulator"):
            _sensor(data, new_id, name, role)

    return edit_project(f"Add {name}", change), f"device.bodies.{new_id}"


def make_up(role: str, w_mm: float, h_mm: float) -> Plain:
    """Return what a component of a role and size is made of inside, as plain data."""
    if role == "die":
        return {"type": "die", "material": "silicon"}
    if role == "memory":
        return {
            "type": "package",
            "active_material": "silicon",
            "active_w_mm": round(w_mm * 0.72, 3),
            "active_h_mm": round(h_mm * 0.72, 3),
            "active_thickness_mm": {"value": 0.2, "uncertainty": 0.05, "origin": "assumed", "note": "silicon in the package"},
            "ball_thickness_mm": {"value": 0.3, "uncertainty": 0.05, "origin": "assumed", "note": "ball layer"},
            "junction_to_case_k_w": quantity("memory_junction_to_case_k_w"),
            "junction_to_board_k_w": quantity("memory_junction_to_board_k_w"),
        }
    return {"type": "solid", "material": SOLID[role]}


def _sensor(data: Plain, body_id: str, name: str, role: str) -> None:
    device = data["device"]
    used = [one["id"] for one in (*device["sensors"], *device["limits"])]
    sensor = fresh_id(f"s_{body_id}"[:44], used)
    group = {"die": "Die", "memory": "Memory", "regulator": "Regulators"}[role]
    device["sensors"].append({"id": sensor, "name": name, "body": body_id, "reads": "max", "group": group})
    limit = fresh_id(f"l_{body_id}"[:44], [*used, sensor])
    device["limits"].append({"id": limit, "name": f"{name} limit", "sensor": sensor, "max_c": quantity(f"{role}_limit_c")})


def add_sensor(project: Project, body_id: str, limit_c: float | None = None) -> Edit:
    """Let a body have a sensor that reads its hottest point, with a limit if one is given."""
    listed: list[Any] = [*bodies_of(project, None), *(body for build in project.builds for body in build.added)]
    body = next(body for body in listed if body.id == body_id)
    used = [one.id for one in project.device.sensors] + [one.id for one in project.device.limits]
    sensor = fresh_id(f"s_{body_id}"[:44], used)
    name = fresh_name(body.label, [one.name for one in project.device.sensors])

    def change(data: Plain) -> None:
        data["device"]["sensors"].append({"id": sensor, "name": name, "body": body_id, "reads": "max", "group": ""})
        if limit_c is not None:
            limit = fresh_id(f"l_{body_id}"[:44], [*used, sensor])
            data["device"]["limits"].append({"id": limit, "sensor": sensor, "max_c": {"value": limit_c}})

    return edit_project(f"Sensor on {body.label}", change)


def new_plate(project: Project, build_id: str, role: str, box: Box, side: Side) -> tuple[Edit, str]:
    """Add a plate; a cooler comes with a rated sink; a case wall stands still. Returns the edit and its path."""
    used = all_ids(project)
    name = fresh_name(ROLE_NAMES[role], [body.name for body in project.device.bodies])
    new_id = fresh_id(slug(name, "plate"), used)
    material = _PLATE_MATERIAL.get(role, "aluminium_alloy")
    key = role.replace(" ", "_")
    plate: Plain = {
        "kind": "plate",
        "role": role,
        "id": new_id,
        "name": name,
        "side": side.value,
        "footprint": {"rects": [rect_of(box)]},
        "thickness_mm": quantity(f"{key}_thickness_mm"),
        "material": material,
    }
    if role == "case wall":
        stacking = Stacking(resolve(project, build_id))
        tops = (stacking.top(body.id) for body in bodies_of(project, project.build(build_id)) if body_side(body) is side)
        height = {"value": round(max([3.0, *tops]) + 3.0, 2), "uncertainty": 0.3, "origin": "assumed", "note": "not measured yet"}
        plate.update(on="case", height_mm=height)
    if role in ("cooler", "case wall"):
        plate["sink"] = {
            "base_reference": "source_spot" if role == "cooler" else "mean_base",
            "fixed_k_w": quantity("sink_fixed_k_w"),
            "convective_k_w": quantity("sink_convective_k_w" if role == "cooler" else "case_convective_k_w"),
            "exponent": {"value": 0.7 if role == "cooler" else 0.0, "uncertainty": 0.1, "origin": "assumed", "note": ""},
        }

    def change(data: Plain) -> None:
        use_materials(data, [material])
        data["device"]["bodies"].append(plate)
        if role == "cooler":
            for point in data["points"]:
                point["fans_percent"][new_id] = {"value": 100.0}

    return edit_project(f"Add {name}", change), f"device.bodies.{new_id}"


def new_landing(project: Project, plate_id: str, box: Box) -> tuple[Edit, str]:
    """Add a landing to a plate of the device; returns the edit and its path."""
    plate = next((body for body in project.device.bodies if body.id == plate_id and isinstance(body, Plate)), None)
    if plate is None:
        raise ProjectError("Draw a landing on a plate: choose the plate it belongs to first.")
    new_id = fresh_id("landing_1", [landing.id for landing in plate.landings])
    name = fresh_name("Landing 1", [landing.name for landing in plate.landings])
    landing = {"id": new_id, "name": name, "area": rect_of(box), "step_mm": quantity("landing_step_mm")}

    def change(data: Plain) -> None:
        item(data["device"]["bodies"], plate_id)["landings"].append(landing)

    return edit_project(f"Landing on {plate.label}", change), f"device.bodies.{plate_id}.landings.{new_id}"
