"""The device as the calibration in use says it is."""

from __future__ import annotations

from typing import Any

from ashen_bridge.model import paths
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.project import Project
from ashen_bridge.model.quantity import Quantity
from ashen_bridge.model.sharing import replaced


def in_force(project: Project) -> Project:
    """Return the project with the numbers of the calibration in use, and none in use any more.

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
    return replaced(paths.set_values(project, values), calibration=None)
