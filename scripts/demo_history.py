"""When the invented devices were opened and tested, and which joints were opened each time."""

from __future__ import annotations

from ashen_bridge.changes.closings import set_closing
from ashen_bridge.changes.records import change_run
from ashen_bridge.model.closings import Closing
from ashen_bridge.model.project import Project

_FRONT = ("cooler",)
_BOTH = ("cooler", "backplate")
_BOX = ("spreader", "wall")

# By demo: run, its day, the name of its closing, and the plates that were lifted for it; None for one that was delivered closed.
HISTORY: dict[str, tuple[tuple[str, str, str, tuple[str, ...] | None], ...]] = {
    "correlator": (
        ("stock", "2031-01-11", "As it was delivered", None),
        ("pads", "2031-02-08", "Pads changed on both sides", _BOTH),
        ("repaired", "2031-03-14", "The repair", _BOTH),
    ),
    "beamformer": (
        ("stock", "2031-04-05", "Three years in service", None),
        ("pad", "2031-04-12", "Pad in place of the paste", _FRONT),
        ("repaired", "2031-04-26", "New paste", _FRONT),
    ),
    "buoy": (
        ("stock", "2031-05-03", "As it was delivered", None),
        ("pad", "2031-05-10", "Memory pads changed", _BOX),
        ("repaired", "2031-05-24", "Pad to the case wall", _BOX),
    ),
}


def with_history(project: Project, name: str) -> Project:
    """Return the project with days and closings of its runs."""
    for run, day, words, plates in HISTORY[name]:
        project = change_run(project, run, {"taken": day})
        build = project.run(run).build
        opened = () if plates is None else tuple(one.id for one in project.build(build).joints if one.upper in plates)
        closing = Closing(id=f"closed_{run}", name=words, taken=day, builds=(build,), runs=(run,), opened=opened)
        project = set_closing(project, closing)
    return project
