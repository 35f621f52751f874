"""What a device that is being built lacks before anything can be computed: the next step, not a reproach."""

from __future__ import annotations

from ashen_bridge.model.bodies import Board, Component
from ashen_bridge.model.project import Project


def still_missing(project: Project, build_id: str) -> str:
    """Return what comes next, in words; empty if all is there that a prediction needs to begin with."""
    build = next((one for one in project.builds if one.id == build_id), None)
    bodies = project.bodies_of(build)
    if not bodies:
        return (
            "Nothing here yet: start from questions (Ctrl+N), press E to draw the device, "
            "or drop a sensor log to hear what it says by itself."
        )
    if not any(isinstance(body, Board) for body in bodies):
        return "Being built: the board comes next, everything else stands on it."
    if not any(isinstance(body, Component) for body in bodies):
        return "Being built: the parts that make heat come next."
    return ""
