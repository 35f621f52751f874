"""Operating points: copied, renamed, removed, scaled; powers and fans added where there are none."""

from __future__ import annotations

from typing import Any

from ashen_bridge.editing.plain import Edit, Plain, edit_project, fresh_id, item, slug
from ashen_bridge.model.errors import ProjectError
from ashen_bridge.model.project import Project

AIR = ("ambient_c", "inlet_c", "front_air_c", "rear_air_c", "film_front_w_m2k", "film_rear_w_m2k")


def new_point(project: Project, source: str, name: str) -> tuple[Edit, str]:
    """Copy an operating point under a new name; returns the edit and the new id."""
    new_id = fresh_id(slug(name, "point"), [point.id for point in project.points])

    def change(data: Plain) -> None:
        copied = {**item(data["points"], source), "id": new_id, "name": name}
        data["points"].append(copied)

    return edit_project(f"New operating point {name}", change), new_id


def remove_point(project: Project, point_id: str) -> Edit:
    """Remove an operating point; the last one stays, and so does one that runs were logged at."""
    label = project.point(point_id).label
    if len(project.points) < 2:
        raise ProjectError("This is the only operating point; a project keeps at least one.")
    if any(run.point == point_id for run in project.runs):
        raise ProjectError(f"Runs were logged at “{label}”, so it stays.")

    def change(data: Plain) -> None:
        data["points"] = [point for point in data["points"] if point["id"] != point_id]
        data["goals"] = [goal for goal in data["goals"] if goal["point"] != point_id]

    return edit_project(f"Remove operating point {label}", change)


def scale_load(project: Project, point_id: str, factor: float, base: dict[str, float] | None = None) -> Edit:
    """Multiply every power of a point, uncertainty included; `base` gives the powers that 1 stands for [W].

    Raises `ProjectError` for a factor that is not from 0 to 10.
    """
    if not 0 <= factor <= 10:
        raise ProjectError(f"{factor:g} is not a load: it must be from 0 to 10 times the present one.")

    def change(data: Plain) -> None:
        for name, power in item(data["points"], point_id)["powers_w"].items():
            start = (base or {}).get(name, power["value"])
            ratio = start * factor / power["value"] if power["value"] else 0.0
            power.update(value=round(start * factor, 4), uncertainty=round(power["uncertainty"] * ratio, 4))

    return edit_project(f"Load × {factor:.3g}", change, f"load:{point_id}")


def set_power(point_id: str, body: str, quantity: Plain | None) -> Edit:
    """Give a part a power at a point, or (None) none."""
    return edit_project("Power", lambda data: _put(item(data["points"], point_id)["powers_w"], body, quantity))


def set_air(point_id: str, name: str, quantity: Plain | None) -> Edit:
    """Set an air temperature or film of a point by field name; None is "as the ambient"."""

    def change(data: Plain) -> None:
        item(data["points"], point_id)[name] = quantity

    return edit_project("Air", change, f"air:{point_id}:{name}")


def _put(holder: dict[str, Any], key: str, quantity: Plain | None) -> None:
    if quantity is None:
        holder.pop(key, None)
    else:
        holder[key] = quantity
