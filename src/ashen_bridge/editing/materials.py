"""Materials of a project: taken from the library, made new, copied, removed; compression curves typed or pasted."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Any

from ashen_bridge.editing.plain import Edit, Plain, edit_project, fresh_id, fresh_name, item, slug
from ashen_bridge.editing.typed import TypedError, read_number
from ashen_bridge.library import materials
from ashen_bridge.model.bodies import Component
from ashen_bridge.model.errors import ProjectError
from ashen_bridge.model.material import MaterialKind
from ashen_bridge.model.project import Project

Curve = tuple[tuple[float, float], ...]
"""Points of strain (0 to 1) and pressure [kPa], from (0, 0) upwards."""

_PRESSURE_UNITS = {"kpa": 1.0, "mpa": 1e3, "n/mm²": 1e3, "n/mm2": 1e3, "psi": 6.894757, "bar": 100.0, "pa": 1e-3}
_FLOW = {"yield_stress_kpa": {"value": 0.1, "uncertainty": 0.05}, "filler_um": {"value": 20.0, "uncertainty": 5.0}}
_CURVE = {
    "points": [{"strain": 0.0, "pressure_kpa": 0.0}, {"strain": 0.3, "pressure_kpa": 140.0}],
    "sample_thickness_mm": {"value": 1.0},
    "sample_area_mm2": {"value": 645.0},
}
_NEW: dict[MaterialKind, dict[str, Any]] = {
    MaterialKind.PAD: {"compression": _CURVE, "stock_thicknesses_mm": [0.5, 1.0, 1.5, 2.0, 2.5, 3.0]},
    MaterialKind.GRAPHITE: {"compression": _CURVE, "stock_thicknesses_mm": [0.1, 0.2], "electrically_conductive": True},
    MaterialKind.PASTE: {"flow": _FLOW},
    MaterialKind.PUTTY: {"flow": {**_FLOW, "yield_stress_kpa": {"value": 6.0, "uncertainty": 3.0}}},
    MaterialKind.PHASE_CHANGE: {"flow": _FLOW, "stock_thicknesses_mm": [0.2, 0.25]},
    MaterialKind.LIQUID_METAL: {"electrically_conductive": True, "contains_gallium": True},
    MaterialKind.GAS: {"density_kg_m3": {"value": 1.2, "uncertainty": 0.3}, "temperature_exponent": 0.86},
    MaterialKind.FILM: {"stock_thicknesses_mm": [0.05, 0.1]},
    MaterialKind.SOLDER: {"electrically_conductive": True, "stock_thicknesses_mm": [0.2, 0.3, 0.5]},
}
_TYPICAL_K = {
    MaterialKind.SOLID: 100.0,
    MaterialKind.GAS: 0.026,
    MaterialKind.PAD: 5.0,
    MaterialKind.PASTE: 4.0,
    MaterialKind.PUTTY: 6.0,
    MaterialKind.PHASE_CHANGE: 4.0,
    MaterialKind.LIQUID_METAL: 30.0,
    MaterialKind.GRAPHITE: 10.0,
    MaterialKind.SOLDER: 50.0,
    MaterialKind.ADHESIVE: 1.5,
    MaterialKind.FILM: 0.2,
}


def new_material(project: Project, kind: MaterialKind, name: str) -> tuple[Edit, str]:
    """Add a material of a kind, every number assumed with a wide ±; returns the edit and its id."""
    label = fresh_name(name.strip() or f"New {kind.value}", [material.name for material in project.materials])
    new_id = fresh_id(slug(label, "material"), [material.id for material in project.materials])
    k = _TYPICAL_K[kind]
    material: Plain = {
        "id": new_id,
        "name": label,
        "kind": kind.value,
        "conductivity_w_mk": {"value": k, "uncertainty": round(0.3 * k, 4), "origin": "assumed", "note": "not known yet"},
        "density_kg_m3": {"value": 2500.0, "uncertainty": 500.0},
        "specific_heat_j_kgk": {"value": 1000.0, "uncertainty": 200.0},
        "sources": [{"text": "entered by hand", "claimed": kind is not MaterialKind.SOLID}],
        **_NEW.get(kind, {}),
    }
    return edit_project(f"New material {label}", lambda data: data["materials"].append(material)), new_id


def copy_material(project: Project, material_id: str) -> tuple[Edit, str]:
    """Add a copy of a material under a new name; returns the edit and its id."""
    source = project.material(material_id).model_dump(mode="json")
    source["name"] = fresh_name(source["name"], [material.name for material in project.materials])
    source["id"] = fresh_id(slug(source["name"], "material"), [material.id for material in project.materials])
    return edit_project(f"Copy {source['name']}", lambda data: data["materials"].append(source)), source["id"]


def from_library(material_id: str) -> Edit:
    """Take a material of the shipped library into the project."""
    material = materials()[material_id]

    def change(data: Plain) -> None:
        if any(one["id"] == material_id for one in data["materials"]):
            raise ProjectError(f"The project has '{material.name}' already.")
        data["materials"].append(material.model_dump(mode="json"))

    return edit_project(f"Take {material.name} from the library", change)


def remove_material(project: Project, material_id: str) -> Edit:
    """Remove a material. Raises `ProjectError` that says where it is used, if it is."""
    used = where_used(project, material_id)
    name = project.material(material_id).name
    if used:
        more = f" and {len(used) - 3} more" if len(used) > 3 else ""
        raise ProjectError(f"'{name}' is in use: {', '.join(used[:3])}{more}. Choose another material there first.")

    def change(data: Plain) -> None:
        data["materials"] = [one for one in data["materials"] if one["id"] != material_id]
        data["stock"] = [one for one in data["stock"] if one["material"] != material_id]

    return edit_project(f"Remove material {name}", change)


def where_used(project: Project, material_id: str) -> list[str]:
    """Return what is made of a material, in words."""
    found = []
    for body in (*project.device.bodies, *(body for build in project.builds for body in build.added)):
        inner: Any = body.make_up if isinstance(body, Component) else body
        if material_id in (getattr(inner, "material", None), getattr(inner, "active_material", None)):
            found.append(body.label)
    found += [
        f"{joint.label} ({build.label})"
        for build in project.builds
        for joint in build.joints
        if any(piece.material == material_id for piece in joint.pieces)
    ]
    return found


def set_source(material_id: str, text: str, method: str, claimed: bool) -> Edit:
    """Say where the figures of a material come from and how its conductivity was measured."""

    def change(data: Plain) -> None:
        material = item(data["materials"], material_id)
        material["sources"][0] = {"text": text, "method": method, "claimed": claimed}

    return edit_project("Source of a material", change, f"source:{material_id}")


def set_curve(material_id: str, curve: Sequence[tuple[float, float]]) -> Edit:
    """Give a pad material another pressure curve."""
    points = [{"strain": strain, "pressure_kpa": pressure} for strain, pressure in curve]

    def change(data: Plain) -> None:
        item(data["materials"], material_id)["compression"]["points"] = points

    return edit_project("Compression curve", change)


def read_curve(text: str) -> Curve:
    """Return the curve in pasted or typed lines of deflection and pressure.

    Columns may be parted by tabs, semicolons or spaces; deflection is a share or, if any is above 1 or has a %, a
    percentage; pressure is in kPa unless a heading or a value names another unit. Raises `TypedError` that names the line.

    >>> read_curve("0 0\\n10 % 32\\n20 % 76")
    ((0.0, 0.0), (0.1, 32.0), (0.2, 76.0))
    """
    factor, percent = 1.0, "%" in text
    rows: list[tuple[float, float]] = []
    for n, line in enumerate(text.splitlines(), start=1):
        if not line.strip():
            continue
        if not rows and not re.search(r"\d", re.sub(r"mm[²2]", "", line)):  # a heading
            factor = _unit_in(line) or factor
            continue
        cells = _cells(line)
        if len(cells) != 2:
            raise TypedError(f"Line {n} of the curve needs two numbers, deflection and pressure; it has {len(cells)}.")
        own = _unit_in(line)
        try:
            strain, pressure = (read_number(re.sub(r"[^\d.,eE+\-−]", "", cell)) for cell in cells)
        except TypedError as error:
            raise TypedError(f"Line {n} of the curve: {error}") from error
        rows.append((strain, pressure * (own or factor)))
    if len(rows) < 2:
        raise TypedError("A curve needs at least two points, the first at 0 and 0.")
    if percent or max(strain for strain, _ in rows) > 1:
        rows = [(strain / 100, pressure) for strain, pressure in rows]
    if rows[0] != (0.0, 0.0):
        rows.insert(0, (0.0, 0.0))
    return tuple((round(strain, 6), round(pressure, 6)) for strain, pressure in rows)


def _cells(line: str) -> list[str]:
    for mark in ("\t", ";", "|"):
        if mark in line:
            return [cell for cell in line.split(mark) if cell.strip()]
    if re.search(r",\s", line):
        return [cell for cell in re.split(r",\s+", line) if cell.strip()]
    words = re.findall(r"[−+-]?\d[\d.,eE]*", line)
    if len(words) == 1 and line.count(",") == 1:
        return line.split(",")
    return words


def _unit_in(line: str) -> float | None:
    lowered = line.lower()
    for unit in sorted(_PRESSURE_UNITS, key=len, reverse=True):
        if re.search(rf"(?<![a-z/]){re.escape(unit)}(?![a-z])", lowered):
            return _PRESSURE_UNITS[unit]
    return None
