"""Edits of when the stack was closed, of what is measured with, and of what numbers share."""

from __future__ import annotations

from collections.abc import Sequence

from ashen_bridge.changes import closings as changes
from ashen_bridge.changes import readings as of_readings
from ashen_bridge.changes.edit import Edit, edit
from ashen_bridge.changes.names import fresh_id, fresh_name, slug
from ashen_bridge.model.closings import Closing
from ashen_bridge.model.project import Project
from ashen_bridge.model.readings import Instrument
from ashen_bridge.model.sharing import find, replaced
from ashen_bridge.model.ties import Tie


def close_build(project: Project, build: str, taken: str = "") -> Edit:
    """Say that a build was closed; its runs that no closing has yet belong to that."""
    label = project.build(build).label
    name = fresh_id(slug(f"closed {build}", "closing"), [one.id for one in project.closings])
    made = Closing(id=name, name=f"“{label}” closed", taken=taken, builds=(build,))
    return edit(f"“{label}” was closed", changes.set_closing, made)


def cover(project: Project, closing: str, build: str, covered: bool) -> Edit:
    """Say that a closing covers a build, or that it does not."""
    said = find(project.closings, closing, "closing")
    builds = tuple(one for one in said.builds if one != build) + ((build,) if covered else ())
    return edit("What a closing covers", changes.set_closing, replaced(said, builds=builds))


def remove_closing(closing: str) -> Edit:
    """Forget a closing."""
    return edit("Forget a closing", changes.remove_closing, closing)


def new_instrument(project: Project) -> Edit:
    """Add an instrument, to be said what it is like."""
    name = fresh_id("instrument", [one.id for one in project.instruments])
    label = fresh_name("Instrument", [one.label for one in project.instruments])
    return edit(f"Instrument {label}", of_readings.set_instrument, Instrument(id=name, name=label))


def remove_instrument(instrument: str) -> Edit:
    """Take an instrument away. Refused while a reading was taken with it."""
    return edit("Remove an instrument", of_readings.remove_instrument, instrument)


def tie_numbers(project: Project, name: str, paths: Sequence[str], share: float, tie: str = "") -> Edit:
    """Say that numbers, by their paths, share a cause that makes so much of each one's variance; `tie` is said anew."""
    known = [one.id for one in project.ties]
    made = Tie(id=tie or fresh_id(slug(name, "cause"), known), name=name, paths=tuple(dict.fromkeys(paths)), share=share)
    return edit(f"Shared cause: {name or made.id}", changes.tie, made)


def untie(tie: str) -> Edit:
    """Say that numbers share nothing after all."""
    return edit("No shared cause", changes.untie, tie)
