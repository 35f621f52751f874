"""A device made the template of its kind: what was measured, run and photographed on one device is left out."""

from __future__ import annotations

from ashen_bridge.model.base import Name
from ashen_bridge.model.project import Project
from ashen_bridge.model.sharing import replaced

_OF_ONE_DEVICE = (
    "runs", "readings", "taken_over", "images", "tracings", "calibrations", "closings", "signs", "evidence", "pictures", "tray",
    "ties", "conclusions", "history",
)  # fmt: skip


def as_kind(project: Project, name: Name) -> Project:
    """Return the project as a template: its parts, builds, aims and procedures stay, without ticks, photographs and notes."""
    steps = tuple(
        replaced(
            one,
            steps=tuple(replaced(step, done=False, done_at="", note="", images=()) for step in one.steps),
        )
        for one in project.procedures
    )
    empty = dict.fromkeys(_OF_ONE_DEVICE, ())
    return replaced(project, name=name, calibration=None, procedures=steps, **empty)
