"""Changes of when things were done, and of what shares a cause."""

from __future__ import annotations

from ashen_bridge.model.closings import Closing
from ashen_bridge.model.project import Project
from ashen_bridge.model.sharing import find, replaced
from ashen_bridge.model.ties import Tie


def set_closing(project: Project, closing: Closing) -> Project:
    """Add a closing; one with its id takes its place, and runs it names leave the others."""
    others = (one for one in project.closings if one.id != closing.id)
    kept = tuple(replaced(one, runs=tuple(run for run in one.runs if run not in closing.runs)) for one in others)
    at = next((n for n, one in enumerate(project.closings) if one.id == closing.id), len(kept))
    return replaced(project, closings=(*kept[:at], closing, *kept[at:]))


def remove_closing(project: Project, closing: str) -> Project:
    """Forget a closing."""
    find(project.closings, closing, "closing")
    return replaced(project, closings=tuple(one for one in project.closings if one.id != closing))


def tie(project: Project, made: Tie) -> Project:
    """Say that numbers share a cause; a tie with the same id is said anew."""
    return replaced(project, ties=(*(one for one in project.ties if one.id != made.id), made))


def untie(project: Project, name: str) -> Project:
    """Say that numbers share nothing after all."""
    find(project.ties, name, "tie")
    return replaced(project, ties=tuple(one for one in project.ties if one.id != name))
