"""The device as the calibration in use says it is."""

from __future__ import annotations

from ashen_bridge.model import paths
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.project import Project


def in_force(project: Project) -> Project:
    """Return the project with the numbers of the calibration in use, and none in use any more.

    A number that was changed since it was fitted, or is no longer there, stays as it stands: what somebody said later counts.
    """
    used = next((one for one in project.calibrations if one.id == project.calibration), None)
    if used is None:
        return project
    data = project.model_dump(mode="json") | {"calibration": None}
    for number in used.numbers:
        try:
            present = paths.descend(data, number.path)
        except AshenError:
            continue
        if paths.is_quantity(present) and abs(present["value"] - number.was) <= 1e-9 * max(1.0, abs(number.was)):
            paths.assign(data, number.path, number.now.model_dump(mode="json"))
    return Project.parse(data)
