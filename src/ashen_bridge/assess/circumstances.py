"""Operating points changed in one respect: fan, power, or all the air."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from ashen_bridge.model.bodies import Plate
from ashen_bridge.model.project import Project

Plain = dict[str, Any]
AIR = ("ambient_c", "inlet_c", "front_air_c", "rear_air_c")


def fanned_plates(project: Project) -> list[str]:
    """Return the plates whose sink depends on a fan."""
    sinks = [body for body in project.device.bodies if isinstance(body, Plate) and body.sink is not None]
    return [body.id for body in sinks if body.sink is not None and body.sink.fanned]


def changed_point(project: Project, point_id: str, change: Callable[[Plain], None]) -> Project:
    """Return the project with one operating point changed in place."""
    data = project.model_dump(mode="json")
    change(next(point for point in data["points"] if point["id"] == point_id))
    return Project.parse(data)


def with_fan(project: Project, point_id: str, value: float) -> Project:
    """Return the project with all fans at one speed [% of rated]."""
    fans = {name: {"value": value} for name in fanned_plates(project)}
    return changed_point(project, point_id, lambda point: point["fans_percent"].update(fans))


def with_power(project: Project, point_id: str, value: float) -> Project:
    """Return the project with every power multiplied."""

    def change(point: Plain) -> None:
        for power in point["powers_w"].values():
            power["value"] *= value

    return changed_point(project, point_id, change)


def with_ambient(project: Project, point_id: str, value: float) -> Project:
    """Shift all air along with the ambient: what is warmer than the room stays warmer by as much."""

    def change(point: Plain) -> None:
        by = value - point["ambient_c"]["value"]
        for name in AIR:
            if point[name] is not None:
                point[name]["value"] += by

    return changed_point(project, point_id, change)
