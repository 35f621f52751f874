"""Edits of procedures and of the screw tray, as people make them with one key."""

from __future__ import annotations

from ashen_bridge.changes import procedures as changes
from ashen_bridge.changes.edit import Edit, edit, merging
from ashen_bridge.changes.names import fresh_id, fresh_name, slug
from ashen_bridge.model.bodies import Side
from ashen_bridge.model.hardware import Plug, Screw
from ashen_bridge.model.procedures import Lies, Procedure, ProcedureStep
from ashen_bridge.model.project import Project
from ashen_bridge.model.sharing import find, replaced
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


def add_plug(project: Project, x_mm: float, y_mm: float, side: Side) -> Edit:
    """Put a plug on the board, to be said what it is."""
    name = fresh_id("plug", [one.id for one in project.device.plugs])
    label = fresh_name("Plug", [one.label for one in project.device.plugs])
    return edit(f"{label} on the board", changes.set_plug, Plug(id=name, name=label, x_mm=x_mm, y_mm=y_mm, side=side))


def add_screw(project: Project, x_mm: float, y_mm: float, side: Side) -> Edit:
    """Put a screw on the board that no computation needs: it holds a cover, a bracket."""
    taken = [*(one.id for one in project.device.screws), *(one.id for one in project.device.fasteners)]
    label = fresh_name("Cover screw", [one.label for one in project.device.screws])
    made = Screw(id=fresh_id("cover_screw", taken), name=label, x_mm=x_mm, y_mm=y_mm, side=side)
    return edit(f"{label} on the board", changes.set_screw, made)


def belongs(plug: Plug, plate: str | None) -> Edit:
    """Say with what a plug comes off."""
    return edit("What a plug belongs to", changes.set_plug, replaced(plug, of=plate))


def remove_found(path: str) -> Edit:
    """Take a plug or a screw away that no computation needs, by its path."""
    name = path.rpartition(".")[2]
    if path.startswith("device.plugs."):
        return edit("Remove a plug", changes.remove_plug, name)
    return edit("Remove a screw", changes.remove_screw, name)


def _short(text: str, most: int = 48) -> str:
    return text if len(text) <= most else text[: most - 1].rstrip() + "…"
