"""Edits of joints, fasteners, points and builds: small, holding ids and values, each with a name for the undo list."""

from __future__ import annotations

import math
from typing import Any

from ashen_bridge.editing.plain import Edit, Plain, edit_build, edit_project, fresh_id, item, slug
from ashen_bridge.model import paths
from ashen_bridge.model.amounts import FilmAmount, amount_mm3
from ashen_bridge.model.build import Build
from ashen_bridge.model.errors import ProjectError
from ashen_bridge.model.joints import Piece
from ashen_bridge.model.material import DISPENSED, Material, MaterialKind
from ashen_bridge.model.project import Project


def _joints(build: Plain, wanted: tuple[str, ...]) -> list[Plain]:
    return [joint for joint in build["joints"] if joint["id"] in wanted]


def set_values(name: str, values: dict[str, Any], merge_key: str = "") -> Edit:
    """Set values by path."""
    return Edit(name, lambda project: paths.set_values(project, values), merge_key)


def set_thickness(build_id: str, joints: tuple[str, ...], piece_at: int, thickness_mm: float, label: str) -> Edit:
    """Set the thickness of one layer in all of a group's joints that have a sheet there."""

    def change(build: Plain) -> None:
        for joint in _joints(build, joints):
            if piece_at < len(joint["pieces"]) and joint["pieces"][piece_at]["thickness_mm"] is not None:
                joint["pieces"][piece_at]["thickness_mm"]["value"] = thickness_mm

    return edit_build(f"{label}: pads to {thickness_mm:g} mm", build_id, change, f"thickness:{build_id}:{joints}:{piece_at}")


AMOUNTS = {
    "volume": ("volume_mm3", "mm³"),
    "film": ("film_mm", "mm"),
    "pea": ("pea_mm", "mm"),
    "line": ("length_mm", "mm"),
    "weight": ("grams", "g"),
}
"""How a paste may be dispensed → the number that says how much, and its unit."""


def set_amount(build_id: str, joints: tuple[str, ...], piece_at: int, value: float, label: str) -> Edit:
    """Set how much was dispensed of a paste, in the way in which it is stated."""

    def change(build: Plain) -> None:
        for joint in _joints(build, joints):
            if piece_at < len(joint["pieces"]):
                piece = joint["pieces"][piece_at]
                if piece["volume_mm3"] is not None:
                    piece["volume_mm3"]["value"] = value
                elif piece["amount"] is not None:
                    piece["amount"][AMOUNTS[piece["amount"]["type"]][0]]["value"] = value

    return edit_build(f"{label}: {value:g} of paste", build_id, change, f"amount:{build_id}:{joints}:{piece_at}")


def set_amount_kind(project: Project, build_id: str, joints: tuple[str, ...], piece_at: int, kind: str, label: str) -> Edit:
    """State what was dispensed in another way: the same volume."""

    def change(build: Plain) -> None:
        for joint in _joints(build, joints):
            piece = joint["pieces"][piece_at] if piece_at < len(joint["pieces"]) else None
            if piece is None or piece["thickness_mm"] is not None:
                continue
            density = project.material(piece["material"]).density_kg_m3.value
            volume = _volume_of(project, joint, piece)
            piece["volume_mm3"], piece["amount"] = None, None
            if kind == "volume":
                piece["volume_mm3"] = {"value": volume}
            else:
                piece["amount"] = {
                    "film": {"type": "film", "film_mm": {"value": max(0.01, round(volume / _lower_area(project, joint), 3))}},
                    "pea": {"type": "pea", "pea_mm": {"value": round((6 * volume / math.pi) ** (1 / 3), 1)}},
                    "line": {"type": "line", "bead_mm": {"value": 2.0}, "length_mm": {"value": round(volume / math.pi, 1)}},
                    "weight": {"type": "weight", "grams": {"value": max(0.01, round(volume * density * 1e-6, 2))}},
                }[kind]

    return edit_build(f"{label}: paste stated as {kind}", build_id, change)


def set_material(project: Project, build_id: str, joints: tuple[str, ...], piece_at: int, material: str, label: str) -> Edit:
    """Set the material of one layer; between pad and paste the amount changes its kind."""
    kind = project.material(material).kind

    def change(build: Plain) -> None:
        for joint in _joints(build, joints):
            if piece_at < len(joint["pieces"]):
                piece = joint["pieces"][piece_at]
                piece["material"] = material
                if kind in DISPENSED and piece["thickness_mm"] is not None:
                    piece.update(thickness_mm=None, worked=None, amount={"type": "film"})
                elif kind not in DISPENSED and piece["thickness_mm"] is None:
                    sheet = {"value": _usual_sheet(project.material(material))}
                    piece.update(volume_mm3=None, amount=None, thickness_mm=sheet)

    return edit_build(f"{label}: {project.material(material).name}", build_id, change)


def _usual_sheet(material: Material) -> float:
    """Return a thickness to begin with [mm]: the middle one of the stock, else that of a usual pad."""
    stock = material.stock_thicknesses_mm
    return 1.0 if not stock or 1.0 in stock else stock[len(stock) // 2]


def _volume_of(project: Project, joint: Plain, piece: Plain) -> float:
    """Return what was dispensed [mm³]; a first guess where nothing was said."""
    known = Piece.model_validate(piece)
    if known.volume_mm3 is not None:
        return known.volume_mm3.value
    if known.amount is None:
        return _paste_for(project, joint)
    density = project.material(known.material).density_kg_m3.value
    return amount_mm3(known.amount, _lower_area(project, joint), density)


def _paste_for(project: Project, joint: Plain) -> float:
    """Return a first guess of paste [mm³]: a film as people spread it over the lower faces."""
    return round(FilmAmount().film_mm.value * _lower_area(project, joint), 1)


def _lower_area(project: Project, joint: Plain) -> float:
    area = 0.0
    for body in project.device.bodies:
        if body.id in joint["lower"]:
            x0, y0, x1, y1 = body.footprint.bounds
            area += (x1 - x0) * (y1 - y0)
    return max(area, 1.0)


def add_piece(project: Project, build_id: str, joints: tuple[str, ...], label: str) -> Edit:
    """Add a pad on top of every joint of a group, of the material that is there or the first pad known."""
    pads = [material.id for material in project.materials if material.kind is MaterialKind.PAD]

    def change(build: Plain) -> None:
        if not pads:
            raise ProjectError("The project knows no pad material yet, so no pad can be added.")
        for joint in _joints(build, joints):
            used = {piece["id"] for piece in joint["pieces"]}
            name = next(f"pad_{n}" for n in range(1, 99) if f"pad_{n}" not in used)
            there = [piece["material"] for piece in joint["pieces"] if piece["material"] in pads]
            joint["pieces"].append({"id": name, "material": there[-1] if there else pads[0], "thickness_mm": {"value": 0.5}})

    return edit_build(f"{label}: add a pad", build_id, change)


def remove_piece(build_id: str, joints: tuple[str, ...], piece_at: int, label: str) -> Edit:
    """Take one layer out."""

    def change(build: Plain) -> None:
        for joint in _joints(build, joints):
            if piece_at < len(joint["pieces"]):
                del joint["pieces"][piece_at]

    return edit_build(f"{label}: take a layer out", build_id, change)


def move_piece(build_id: str, joints: tuple[str, ...], piece_at: int, by: int, label: str) -> Edit:
    """Move one layer up (+1) or down (−1) in its stack."""

    def change(build: Plain) -> None:
        for joint in _joints(build, joints):
            to = piece_at + by
            if piece_at < len(joint["pieces"]) and 0 <= to < len(joint["pieces"]):
                joint["pieces"].insert(to, joint["pieces"].pop(piece_at))

    return edit_build(f"{label}: change the order", build_id, change)


def set_state(build_id: str, joints: tuple[str, ...], piece_at: int, state: str, label: str) -> Edit:
    """Say what has become of a piece: as fitted, burned in, dried."""

    def change(build: Plain) -> None:
        for joint in _joints(build, joints):
            if piece_at < len(joint["pieces"]):
                joint["pieces"][piece_at]["state"] = state

    return edit_build(f"{label}: {state}", build_id, change)


def set_age(build_id: str, joints: tuple[str, ...], piece_at: int, days: float, label: str) -> Edit:
    """Say how long a piece has been in service."""

    def change(build: Plain) -> None:
        for joint in _joints(build, joints):
            if piece_at < len(joint["pieces"]):
                joint["pieces"][piece_at]["age_days"] = days

    return edit_build(f"{label}: {days:g} days in service", build_id, change, f"age:{build_id}:{joints}:{piece_at}")


def set_stated(build_id: str, joints: tuple[str, ...], stated_mm2k_w: float | None, label: str) -> Edit:
    """State joints as a whole, as mm²·K/W in place of their pieces; None gives them up to pieces again."""

    def change(build: Plain) -> None:
        for joint in _joints(build, joints):
            if stated_mm2k_w is None:
                joint["stated_mm2k_w"] = None
            else:
                joint.update(pieces=[], stated_mm2k_w={"value": stated_mm2k_w, "uncertainty": round(0.2 * stated_mm2k_w, 3)})

    words = "made of layers again" if stated_mm2k_w is None else f"stated as {stated_mm2k_w:g} mm²·K/W"
    return edit_build(f"{label}: {words}", build_id, change, f"stated:{build_id}:{joints}")


def set_washers(build_id: str, fasteners: tuple[str, ...], washers_mm: float) -> Edit:
    """Put washers of a total thickness under some fasteners."""

    def change(build: Plain) -> None:
        settings = {setting["fastener"]: setting for setting in build["fastener_settings"]}
        for name in fasteners:
            setting = settings.get(name)
            if setting is None:
                setting = {"fastener": name}
                build["fastener_settings"].append(setting)
            setting["washers_mm"] = {"value": washers_mm, "uncertainty": 0.02, "origin": "assumed", "note": ""}

    return edit_build(f"Washers {washers_mm:g} mm", build_id, change, f"washers:{build_id}")


def set_fan(point_id: str, plates: tuple[str, ...], percent: float) -> Edit:
    """Set the fan speed of an operating point."""

    def change(data: Plain) -> None:
        fans = item(data["points"], point_id)["fans_percent"]
        for plate in plates:
            fans[plate] = {**fans.get(plate, {}), "value": percent}

    return edit_project(f"Fan {percent:g} %", change, f"fan:{point_id}")


def new_build(project: Project, source: str, name: str) -> tuple[Edit, str]:
    """Copy a build under a new name; returns the edit and the new build's id."""
    new_id = fresh_id(slug(name, "build"), [build.id for build in project.builds])

    def apply(current: Project) -> Project:
        copy = Build.model_validate({**dict(current.build(source)), "id": new_id, "name": name})
        return Project.parse({**dict(current), "builds": (*current.builds, copy)})

    return Edit(f"New build {name}", apply), new_id


def rename_build(build_id: str, name: str) -> Edit:
    """Give a build another name."""
    return set_values(f"Rename build to {name}", {f"builds.{build_id}.name": name})


def delete_build(build_id: str) -> Edit:
    """Delete a build; the last one stays, and so does one that runs were logged of."""

    def apply(project: Project) -> Project:
        if len(project.builds) < 2:
            raise ProjectError("This is the only build; a project keeps at least one.")
        if any(run.build == build_id for run in project.runs):
            raise ProjectError(f"Runs were logged of “{project.build(build_id).label}”, so it stays.")
        left = tuple(build for build in project.builds if build.id != build_id)
        main = project.main_build if project.main_build != build_id else left[0].id
        return Project.parse({**dict(project), "builds": left, "main_build": main})

    return Edit("Delete build", apply)
