"""What is looked at in all workspaces alike; what one of them alone looks at is a class of its own there."""

from __future__ import annotations

from dataclasses import dataclass

from ashen_bridge.model.bodies import Component
from ashen_bridge.model.project import Project


@dataclass(frozen=True)
class View:
    """What is looked at; never part of undo. `selected` is the id of a body or a joint.

    Of a joint the `whole_group` is meant, or it alone. `run` is looked at `against` an earlier one.
    """

    build: str
    point: str
    selected: str = ""
    whole_group: bool = True
    workspace: str = "stack"
    run: str = ""
    against: str = ""


def first_view(project: Project) -> View:
    """Return what is looked at when a project is opened: the main build, and the joints edited first."""
    build = project.build().id if project.builds else ""
    point = project.point().id if project.points else ""
    dies = [body for body in project.device.bodies if isinstance(body, Component) and body.role == "die"]
    groups = [group for group in project.groups if project.builds and any(j.id in group.joints for j in project.build().joints)]
    return View(build, point, selected=groups[0].joints[0] if groups else dies[0].id if dies else "")
