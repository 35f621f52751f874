"""Edits of joints, fasteners, points and builds, each with a name for the undo list."""

from __future__ import annotations

from typing import Any

from ashen_bridge.changes import builds, layers, points, screws, values
from ashen_bridge.changes.edit import Edit, edit, merging
from ashen_bridge.changes.names import fresh_id, slug
from ashen_bridge.model.joints import PieceState
from ashen_bridge.model.project import Project
from ashen_bridge.words.numbers import short


def set_values(name: str, said: dict[str, Any], merge_key: str = "") -> Edit:
    """Set values by path."""
    return merging(merge_key, edit(name, values.set_values, said))


def set_thickness(build_id: str, joints: tuple[str, ...], piece_at: int, thickness_mm: float, label: str) -> Edit:
    """Set the thickness of one layer in all of a group's joints that have a sheet there."""
    made = edit(f"{label}: pads to {short(thickness_mm)} mm", layers.set_thickness, build_id, joints, piece_at, thickness_mm)
    return merging(f"thickness:{build_id}:{joints}:{piece_at}", made)


def set_sheets(build_id: str, joints: tuple[str, ...], thickness_mm: float, label: str) -> Edit:
    """Set the first sheet of some joints to a stock thickness."""
    made = edit(f"{label}: pads to {short(thickness_mm)} mm", layers.set_sheets, build_id, joints, thickness_mm)
    return merging(f"sheets:{build_id}:{joints}", made)


def set_amount(build_id: str, joints: tuple[str, ...], piece_at: int, value: float, label: str) -> Edit:
    """Set how much was dispensed of a paste, in the way in which it is stated."""
    made = edit(f"{label}: {short(value)} of paste", layers.set_amount, build_id, joints, piece_at, value)
    return merging(f"amount:{build_id}:{joints}:{piece_at}", made)


def set_amount_kind(build_id: str, joints: tuple[str, ...], piece_at: int, kind: layers.AmountKind, label: str) -> Edit:
    """State what was dispensed in another way: the same volume."""
    return edit(f"{label}: paste stated as {kind}", layers.set_amount_kind, build_id, joints, piece_at, kind)


def set_material(project: Project, build_id: str, joints: tuple[str, ...], piece_at: int, material: str, label: str) -> Edit:
    """Set the material of one layer; between pad and paste the amount changes its kind."""
    return edit(f"{label}: {project.material(material).name}", layers.set_material, build_id, joints, piece_at, material)


def add_piece(build_id: str, joints: tuple[str, ...], label: str) -> Edit:
    """Add a pad on top of every joint of a group, of the material that is there or the first pad known."""
    return edit(f"{label}: add a pad", layers.add_pad, build_id, joints)


def remove_piece(build_id: str, joints: tuple[str, ...], piece_at: int, label: str) -> Edit:
    """Take one layer out."""
    return edit(f"{label}: take a layer out", layers.remove_layer, build_id, joints, piece_at)


def move_piece(build_id: str, joints: tuple[str, ...], piece_at: int, by: int, label: str) -> Edit:
    """Move one layer up (+1) or down (−1) in its stack."""
    return edit(f"{label}: change the order", layers.move_layer, build_id, joints, piece_at, by)


def set_state(build_id: str, joints: tuple[str, ...], piece_at: int, state: str, label: str) -> Edit:
    """Say what has become of a piece: as fitted, burned in, dried."""
    return edit(f"{label}: {state}", layers.set_state, build_id, joints, piece_at, PieceState(state))


def set_age(build_id: str, joints: tuple[str, ...], piece_at: int, days: float, label: str) -> Edit:
    """Say how long a piece has been in service."""
    made = edit(f"{label}: {short(days)} days in service", layers.set_age, build_id, joints, piece_at, days)
    return merging(f"age:{build_id}:{joints}:{piece_at}", made)


def set_stated(build_id: str, joints: tuple[str, ...], stated_mm2k_w: float | None, label: str) -> Edit:
    """State joints as a whole, as mm²·K/W in place of their pieces; None gives them up to pieces again."""
    words = "made of layers again" if stated_mm2k_w is None else f"stated as {short(stated_mm2k_w)} mm²·K/W"
    made = edit(f"{label}: {words}", layers.set_stated, build_id, joints, stated_mm2k_w)
    return merging(f"stated:{build_id}:{joints}", made)


def set_washers(build_id: str, fasteners: tuple[str, ...], washers_mm: float) -> Edit:
    """Put washers of a total thickness under some fasteners."""
    made = edit(f"Washers {short(washers_mm)} mm", screws.set_washers, build_id, fasteners, washers_mm)
    return merging(f"washers:{build_id}", made)


def set_fan(point_id: str, plates: tuple[str, ...], percent: float) -> Edit:
    """Set the fan speed of an operating point."""
    return merging(f"fan:{point_id}", edit(f"Fan {short(percent)} %", points.set_fans, point_id, plates, percent))


def new_build(project: Project, source: str, name: str) -> tuple[Edit, str]:
    """Copy a build under a new name; returns the edit and the new build's id."""
    new_id = fresh_id(slug(name, "build"), [build.id for build in project.builds])
    return edit(f"New build {name}", builds.copy_build, source, new_id, name), new_id


def as_built(project: Project, source: str) -> tuple[Edit, str]:
    """Make what was built a build of its own beside its plan; returns its id as well."""
    return new_build(project, source, f"{project.build(source).label}, as built"[:120])


def rename_build(build_id: str, name: str) -> Edit:
    """Give a build another name."""
    return edit(f"Rename build to {name}", builds.rename_build, build_id, name)


def delete_build(build_id: str) -> Edit:
    """Delete a build; the last one stays, and so does one that runs were logged of."""
    return edit("Delete build", builds.delete_build, build_id)
