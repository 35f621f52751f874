"""Changes of procedures and of the tray: steps ticked, added, moved, taken out; screws laid down and put back."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from ashen_bridge.model.errors import ProjectError
from ashen_bridge.model.hardware import Hazards, Plug, Screw
from ashen_bridge.model.procedures import Lies, Procedure, ProcedureStep
from ashen_bridge.model.project import Project
from ashen_bridge.model.records import Image
from ashen_bridge.model.sharing import find, replaced


def set_procedure(project: Project, procedure: Procedure) -> Project:
    """Add a procedure; one with its id takes its place. Hold points that stay are not lost by it."""
    old = next((one for one in project.procedures if one.id == procedure.id), None)
    _keeps_holds(old, procedure)
    if old is None:
        return replaced(project, procedures=(*project.procedures, procedure))
    return replaced(project, procedures=tuple(procedure if one is old else one for one in project.procedures))


def remove_procedure(project: Project, procedure: str) -> Project:
    """Forget a procedure."""
    find(project.procedures, procedure, "procedure")
    return replaced(project, procedures=tuple(one for one in project.procedures if one.id != procedure))


def tick(project: Project, procedure: str, step: str, at: str = "", lies: Sequence[Lies] = ()) -> Project:
    """Tick a step; the screws it takes out lie where `lies` says. Raises `ProjectError` past a hold point that is open."""
    said = find(project.procedures, procedure, "procedure")
    n = _place(said, step)
    held = next((one for one in said.steps[:n] if one.kind == "hold" and not one.done), None)
    if held is not None:
        raise ProjectError(f"First confirm: {held.text}")
    changed = _with_step(project, said, step, done=True, done_at=at)
    if said.steps[n].kind == "screw":
        return replaced(changed, tray=_went_back(changed.tray, said.steps[n].about, True))
    return replaced(changed, tray=_laid(changed.tray, lies)) if lies else changed


def untick(project: Project, procedure: str, step: str) -> Project:
    """Take a tick back; what the step took out lies in no cell any more."""
    said = find(project.procedures, procedure, "procedure")
    one = said.steps[_place(said, step)]
    changed = _with_step(project, said, step, done=False, done_at="")
    if one.kind == "screw":
        return replaced(changed, tray=_went_back(changed.tray, one.about, False))
    if one.kind != "unscrew":
        return changed
    return replaced(changed, tray=tuple(lies for lies in changed.tray if lies.screw not in one.about))


def write_step(project: Project, procedure: str, step: str, says: dict[str, Any]) -> Project:
    """Say something else in a step. Raises `ProjectError` where it would no longer be the hold point that stays."""
    said = find(project.procedures, procedure, "procedure")
    one = said.steps[_place(said, step)]
    if one.stays and says.keys() & {"hold", "kind"}:
        raise ProjectError(f"“{one.text}” is a hold point that stays: it can only be confirmed.")
    return _with_step(project, said, step, **says)


def add_step(project: Project, procedure: str, step: ProcedureStep, after: str | None = None) -> Project:
    """Add a step, after another one or at the end."""
    said = find(project.procedures, procedure, "procedure")
    n = len(said.steps) if after is None else _place(said, after) + 1
    return _with_steps(project, said, (*said.steps[:n], step, *said.steps[n:]))


def remove_step(project: Project, procedure: str, step: str) -> Project:
    """Take a step out. Raises `ProjectError` for a hold point that stays."""
    said = find(project.procedures, procedure, "procedure")
    one = said.steps[_place(said, step)]
    if one.stays:
        raise ProjectError(f"“{one.text}” is a hold point that stays: it can only be confirmed.")
    return _with_steps(project, said, tuple(other for other in said.steps if other is not one))


def move_step(project: Project, procedure: str, step: str, by: int) -> Project:
    """Move a step up (−) or down (+); none passes a hold point that stays."""
    said = find(project.procedures, procedure, "procedure")
    n = _place(said, step)
    to = min(max(n + by, 0), len(said.steps) - 1)
    passed = said.steps[min(n, to) : max(n, to) + 1]
    if n != to and any(one.stays for one in passed):
        raise ProjectError("Hold points for power, battery, charge and licensed work stay where they are.")
    steps = [one for one in said.steps if one.id != step]
    return _with_steps(project, said, (*steps[:to], said.steps[n], *steps[to:]))


def show_image(project: Project, procedure: str, step: str, image: Image) -> Project:
    """Show a photo at a step."""
    said = find(project.procedures, procedure, "procedure")
    known = image.id in {one.id for one in project.images}
    with_image = project if known else replaced(project, images=(*project.images, image))
    images = (*said.steps[_place(said, step)].images, image.id)
    return _with_step(with_image, said, step, images=images)


def lay(project: Project, screw: str, cell: str, since: str = "") -> Project:
    """Lay a screw into a cell of the tray."""
    return replaced(project, tray=_laid(project.tray, (replaced(Lies(screw=screw, cell="A1"), cell=cell, since=since),)))


def lose(project: Project, screw: str) -> Project:
    """Say that a screw lies in no cell."""
    return replaced(project, tray=tuple(one for one in project.tray if one.screw != screw))


def put_back(project: Project, screw: str, back: bool = True) -> Project:
    """Say that a screw went back into the device, or that it did not. Raises `ProjectError` for one that lies nowhere."""
    if screw not in {one.screw for one in project.tray}:
        raise ProjectError(f"Screw '{screw}' lies in no cell of the tray.")
    return replaced(project, tray=tuple(replaced(one, back=back) if one.screw == screw else one for one in project.tray))


def set_hazards(project: Project, hazards: Hazards) -> Project:
    """Say what is known of what may hurt."""
    return replaced(project, device=replaced(project.device, hazards=hazards))


def set_plug(project: Project, plug: Plug) -> Project:
    """Add a plug; one with its id takes its place."""
    others = tuple(one for one in project.device.plugs if one.id != plug.id)
    return replaced(project, device=replaced(project.device, plugs=(*others, plug)))


def set_screw(project: Project, screw: Screw) -> Project:
    """Add a screw that no computation needs; one with its id takes its place."""
    others = tuple(one for one in project.device.screws if one.id != screw.id)
    return replaced(project, device=replaced(project.device, screws=(*others, screw)))


def remove_plug(project: Project, plug: str) -> Project:
    """Take a plug away."""
    find(project.device.plugs, plug, "plug")
    kept = tuple(one for one in project.device.plugs if one.id != plug)
    return replaced(project, device=replaced(project.device, plugs=kept))


def remove_screw(project: Project, screw: str) -> Project:
    """Take a screw away that no computation needs, and from the tray."""
    find(project.device.screws, screw, "screw")
    kept = tuple(one for one in project.device.screws if one.id != screw)
    without = replaced(project, device=replaced(project.device, screws=kept))
    return lose(without, screw)


def _went_back(tray: Sequence[Lies], screws: Sequence[str], back: bool) -> tuple[Lies, ...]:
    return tuple(replaced(one, back=back) if one.screw in screws else one for one in tray)


def _laid(tray: Sequence[Lies], lies: Sequence[Lies]) -> tuple[Lies, ...]:
    taken = {one.cell: one.screw for one in tray if not one.back}
    for one in lies:
        if taken.get(one.cell, one.screw) != one.screw:
            raise ProjectError(f"Cell {one.cell} holds screw '{taken[one.cell]}' already.")
    moved = {one.screw for one in lies}
    return (*(one for one in tray if one.screw not in moved), *lies)


def _place(procedure: Procedure, step: str) -> int:
    return procedure.steps.index(find(procedure.steps, step, "step"))


def _keeps_holds(old: Procedure | None, new: Procedure) -> None:
    kept = {one.id for one in new.steps if one.stays}
    for one in old.steps if old is not None else ():
        if one.stays and one.id not in kept:
            raise ProjectError(f"“{one.text}” is a hold point that stays: it can only be confirmed.")


def _with_step(project: Project, procedure: Procedure, step: str, **says: Any) -> Project:
    steps = tuple(replaced(one, **says) if one.id == step else one for one in procedure.steps)
    return _with_steps(project, procedure, steps)


def _with_steps(project: Project, procedure: Procedure, steps: tuple[ProcedureStep, ...]) -> Project:
    made = replaced(procedure, steps=steps)
    return replaced(project, procedures=tuple(made if one is procedure else one for one in project.procedures))
