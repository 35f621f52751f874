"""Materials of a project: taken from the library, made new, copied, removed; compression curves typed or pasted."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Any

from ashen_bridge.changes import materials as changes
from ashen_bridge.changes.edit import Edit, edit, merging
from ashen_bridge.changes.names import fresh_id, fresh_name, slug
from ashen_bridge.editing.typed import TypedError, read_number
from ashen_bridge.library import materials
from ashen_bridge.model.material import CurvePoint, Material, MaterialKind
from ashen_bridge.model.project import Project
from ashen_bridge.model.refusals import validated
from ashen_bridge.model.sharing import replaced

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
    material = Material.model_validate(
        {
            "id": new_id,
            "name": label,
            "kind": kind,
            "conductivity_w_mk": {"value": k, "uncertainty": round(0.3 * k, 4), "origin": "assumed", "note": "not known yet"},
            "density_kg_m3": {"value": 2500.0, "uncertainty": 500.0},
            "specific_heat_j_kgk": {"value": 1000.0, "uncertainty": 200.0},
            "sources": [{"text": "entered by hand", "claimed": kind is not MaterialKind.SOLID}],
            **_NEW.get(kind, {}),
        }
    )
    return edit(f"New material {label}", changes.add_material, material), new_id


def copy_material(project: Project, material_id: str) -> tuple[Edit, str]:
    """Add a copy of a material under a new name; returns the edit and its id."""
    name = fresh_name(project.material(material_id).name, [material.name for material in project.materials])
    new_id = fresh_id(slug(name, "material"), [material.id for material in project.materials])
    copied = replaced(project.material(material_id), id=new_id, name=name)
    return edit(f"Copy {name}", changes.add_material, copied), new_id


def from_library(material_id: str) -> Edit:
    """Take a material of the shipped library into the project."""
    return edit(f"Take {materials()[material_id].name} from the library", changes.take_from_library, material_id)


def remove_material(project: Project, material_id: str) -> Edit:
    """Remove a material. Raises `ProjectError` that says where it is used, if it is."""
    changes.remove_material(project, material_id)
    return edit(f"Remove material {project.material(material_id).name}", changes.remove_material, material_id)


def set_source(material_id: str, text: str, method: str, claimed: bool) -> Edit:
    """Say where the figures of a material come from and how its conductivity was measured."""
    made = edit("Source of a material", changes.set_source, material_id, text, method, claimed)
    return merging(f"source:{material_id}", made)


def set_curve(material_id: str, curve: Sequence[tuple[float, float]]) -> Edit:
    """Give a pad material another pressure curve. Raises `ProjectError` for points that are none."""
    points = tuple(validated(CurvePoint, "curve", strain=strain, pressure_kpa=pressure) for strain, pressure in curve)
    return edit("Compression curve", changes.set_curve, material_id, points)


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
