"""The device as the calibration in use says it is."""

from __future__ import annotations

from typing import Any

from ashen_bridge.model import paths
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.project import Project
from ashen_bridge.model.quantity import Quantity


def told(project: Project) -> dict[str, tuple[float, ...]]:
    """Return what the calibration in use was told of each number, by path, for a project that holds its numbers (`in_force`).

    A number that was changed since it was fitted is not among them.
    """
    used = next((one for one in project.calibrations if one.id == project.calibration), None)
    found: dict[str, tuple[float, ...]] = {}
    for number in used.numbers if used is not None else ():
        try:
            present = paths.node_at(project, number.path)
        except AshenError:
            continue
        if isinstance(present, Quantity) and (present.value, present.origin) == (number.now.value, number.now.origin):
            found[number.path] = number.told
    return found


def in_force(project: Project) -> Project:
    """Return the project with the numbers of the calibration in use; doing it twice changes nothing more.

    A number that was changed since it was fitted, or is no longer there, stays as it stands: what somebody said later counts.
    """
    used = next((one for one in project.calibrations if one.id == project.calibration), None)
    if used is None:
        return project
    values: dict[str, Any] = {}
    for number in used.numbers:
        try:
            present = paths.node_at(project, number.path)
        except AshenError:
            continue
        if isinstance(present, Quantity) and abs(present.value - number.was) <= 1e-9 * max(1.0, abs(number.was)):
            values[number.path] = number.now
    return paths.set_values(project, values)
