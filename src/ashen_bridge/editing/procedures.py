"""Edits of procedures and of the screw tray, as people make them with one key."""

from __future__ import annotations

from ashen_bridge.changes import procedures as changes
from ashen_bridge.changes.edit import Edit, edit, merging
from ashen_bridge.changes.names import fresh_id, slug
from ashen_bridge.model.procedures import Lies, Procedure, ProcedureStep
from ashen_bridge.model.project import Project
from ashen_bridge.model.sharing import find
from ashen_bridge.planning.tray import free_cells


def add_procedure(procedure: Procedure) -> Edit:
    """Add a procedure."""
    return edit(f"Procedure “{procedure.label}”", changes.set_procedure, procedure)


def remove_procedure(procedure: Procedure) -> Edit:
    """Forget a procedure."""
    return edit(f"Remove procedure “{procedure.label}”", changes.remove_procedure, procedure.id)


def tick(project: Project, procedure: str, step: str, now: str) -> Edit:
    """Tick a step; screws that it takes out get cells of the tray, in the order in which they come out."""
    said = find(find(project.procedures, procedure, "procedure").steps, step, "step")
    screws = {*(one.id for one in project.device.fasteners), *(one.id for one in project.device.screws)}
    out = [one for one in said.about if one in screws] if said.kind == "unscrew" else []
    lies = tuple(Lies(screw=one, cell=at, since=now) for one, at in zip(out, free_cells(project, len(out)), strict=True))
    return edit(f"Tick: {_short(said.text)}", changes.tick, procedure, step, now, lies)


def untick(project: Project, procedure: str, step: str) -> Edit:
    """Take a tick back."""
    said = find(find(project.procedures, procedure, "procedure").steps, step, "step")
    return edit(f"Not done: {_short(said.text)}", changes.untick, procedure, step)


def note(procedure: str, step: str, text: str) -> Edit:
    """Write a note at a step; typing on merges."""
    return merging(f"note {procedure} {step}", edit("Note at a step", changes.write_step, procedure, step, {"note": text}))


def add_step(project: Project, procedure: str, text: str, after: str | None) -> Edit:
    """Add a step of one's own."""
    said = find(project.procedures, procedure, "procedure")
    name = fresh_id(slug(text, "step"), [one.id for one in said.steps])
    return edit(f"Step: {_short(text)}", changes.add_step, procedure, ProcedureStep(id=name, text=text), after)


def remove_step(procedure: str, step: ProcedureStep) -> Edit:
    """Take a step out."""
    return edit(f"Remove step: {_short(step.text)}", changes.remove_step, procedure, step.id)


def move_step(procedure: str, step: ProcedureStep, by: int) -> Edit:
    """Move a step up (−) or down (+)."""
    return edit(f"Move step: {_short(step.text)}", changes.move_step, procedure, step.id, by)


def lay(screw: str, cell: str, now: str) -> Edit:
    """Lay a screw into a cell."""
    return edit(f"Screw into {cell}", changes.lay, screw, cell, now)


def lose(screw: str) -> Edit:
    """Say that a screw lies in no cell."""
    return edit("Screw not in the tray", changes.lose, screw)


def put_back(screw: str, back: bool = True) -> Edit:
    """Say that a screw went back in."""
    return edit("Screw back in" if back else "Screw out again", changes.put_back, screw, back)


def _short(text: str, most: int = 48) -> str:
    return text if len(text) <= most else text[: most - 1].rstrip() + "…"
