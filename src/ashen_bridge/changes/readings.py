"""Changes of what was measured: instruments, readings, and numbers taken over from them."""

from __future__ import annotations

from collections.abc import Sequence

from ashen_bridge.model import paths
from ashen_bridge.model.errors import AshenError, ProjectError
from ashen_bridge.model.project import Project
from ashen_bridge.model.readings import BesideReading, FeelerReading, Instrument, NumberReading, Reading, TakenOver
from ashen_bridge.model.sharing import find, replaced
from ashen_bridge.model.ties import Tie


def set_instrument(project: Project, instrument: Instrument) -> Project:
    """Add an instrument; one with its id takes its place."""
    return replaced(project, instruments=(*(one for one in project.instruments if one.id != instrument.id), instrument))


def remove_instrument(project: Project, instrument: str) -> Project:
    """Take an instrument away. Raises `ProjectError` while a reading was taken with it."""
    find(project.instruments, instrument, "instrument")
    return replaced(project, instruments=tuple(one for one in project.instruments if one.id != instrument))


def add_readings(project: Project, readings: Sequence[Reading]) -> Project:
    """Add readings. Raises `ProjectError` for an id that is there already."""
    return replaced(project, readings=(*project.readings, *readings))


def take_reading(project: Project, reading: Reading) -> Project:
    """Take a reading: further repeats of one of the same in the same sitting, else one more. It comes last."""
    same = next((one for one in project.readings if _same(one, reading)), None)
    if same is None:
        return add_readings(project, (reading,))
    field = "values" if isinstance(same, NumberReading) else "values_mm"
    values = (*getattr(same, field), *getattr(reading, field))
    others = tuple(one for one in project.readings if one is not same)
    return replaced(project, readings=(*others, replaced(same, **{field: values})))


def take_back(project: Project) -> Project:
    """Take the last value back; its reading goes with its last one. Raises `ProjectError` where there is none."""
    if not project.readings:
        raise ProjectError("There is no reading to take back.")
    *others, last = project.readings
    field = "values" if isinstance(last, NumberReading) else "values_mm"
    values = getattr(last, field, ())
    if len(values) < 2:
        return replaced(project, readings=tuple(others))
    return replaced(project, readings=(*others, replaced(last, **{field: values[:-1]})))


def _same(one: Reading, other: Reading) -> bool:
    """Return whether two readings are repeats of each other."""
    if one.form != other.form or isinstance(one, FeelerReading | BesideReading):
        return False
    apart = {"id", "values_mm", "values", "note"}
    return one.model_dump(exclude=apart) == other.model_dump(exclude=apart)


def remove_reading(project: Project, reading: str) -> Project:
    """Forget a reading."""
    find(project.readings, reading, "reading")
    return replaced(project, readings=tuple(one for one in project.readings if one.id != reading))


def set_aside(project: Project, reading: str, aside: bool = True) -> Project:
    """Set a reading aside: it is kept and not used; or take it in again."""
    find(project.readings, reading, "reading")
    return replaced(project, readings=tuple(replaced(one, aside=aside) if one.id == reading else one for one in project.readings))


def take_over(project: Project, numbers: Sequence[TakenOver], ties: Sequence[Tie] = ()) -> Project:
    """Set numbers to what readings made of them, remembering what they were; ties of their common errors are said anew."""
    # What was taken over before starts from what it was: a reading that counts no more leaves nothing behind.
    before = before_readings(project)
    moved = paths.set_values(before, {one.path: one.now.model_dump(mode="json") for one in numbers})
    said = {one.id for one in ties}
    return replaced(moved, taken_over=tuple(numbers), ties=(*(one for one in moved.ties if one.id not in said), *ties))


def before_readings(project: Project) -> Project:
    """Return the project as it was before readings were taken over; what was changed by hand since stays as it is."""
    was = {}
    for one in project.taken_over:
        try:
            there = paths.node_at(project, one.path)
        except AshenError:
            continue  # what it spoke of is gone
        if there == one.now:
            was[one.path] = one.was.model_dump(mode="json")
    told = {one.path for one in project.taken_over}
    ties = tuple(one for one in project.ties if not (one.id.startswith(READ) and told.issuperset(one.paths)))
    bare = replaced(project, ties=ties, taken_over=()) if told else project
    return paths.set_values(bare, was) if was else bare


READ = "read_"
"""What ids of ties begin with that came of readings."""
