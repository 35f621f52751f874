"""Edits of what is measured, as people make them at the bench, and what a typed value is questioned about first."""

from __future__ import annotations

from typing import Any

from pydantic import TypeAdapter, ValidationError

from ashen_bridge.changes import readings as changes
from ashen_bridge.changes.edit import Edit, edit
from ashen_bridge.changes.names import fresh_id, slug
from ashen_bridge.measuring.result import Found
from ashen_bridge.model.errors import RefusedError
from ashen_bridge.model.project import Project
from ashen_bridge.model.readings import Instrument, Reading
from ashen_bridge.model.refusals import wrong_in

_READING: TypeAdapter[Reading] = TypeAdapter(Reading)
INTERVALS = {"feeler": ("goes_mm", "stops_mm"), "beside": ("least_mm", "most_mm")}
"""Forms that read an interval, and their fields."""
USUAL = Instrument(id="caliper", name="Caliper", kind="caliper")


def take(
    project: Project, form: str, of: dict[str, Any], value: float | tuple[float, float], instrument: str, sitting: str
) -> Edit:
    """Take one value [mm, a number in its own unit], or an interval for forms that read one; a repeat of the last of its kind
    adds to that one. Raises `RefusedError` in a sentence.
    """
    what = next(iter(of.values()), "").rpartition(".")[0].rpartition(".")[2] if form == "number" else next(iter(of.values()), "")
    name = fresh_id(slug(f"{form} {what}", form), [one.id for one in project.readings])
    said = {"form": form, "id": name, "instrument": instrument, "sitting": sitting, "taken": sitting, **of}
    if form in INTERVALS:
        low, high = value if isinstance(value, tuple) else (value, value)
        said |= dict(zip(INTERVALS[form], (low, high), strict=True))
    else:
        said |= {"values" if form == "number" else "values_mm": [value]}
    if form == "depth":
        said.setdefault("placement", f"straight edge, {sitting}")
        said |= {key: float(said[key]) for key in ("x_mm", "y_mm")}
    try:
        reading = _READING.validate_python(said)
    except ValidationError as error:
        raise RefusedError(*wrong_in(error, said)) from error
    return edit(f"Reading of {what}", changes.take_reading, reading)


def take_worked_out(project: Project, path: str, value: float, uncertainty: float, note: str, day: str) -> Edit:
    """Take a number that was worked out of several readings, with its standard uncertainty, in its own unit."""
    what = path.rpartition(".")[0].rpartition(".")[2]
    name = fresh_id(slug(f"number {what}", "number"), [one.id for one in project.readings])
    said = {"form": "number", "id": name, "path": path, "values": [value], "uncertainty": uncertainty, "note": note, "taken": day}
    try:
        reading = _READING.validate_python(said)
    except ValidationError as error:
        raise RefusedError(*wrong_in(error, said)) from error
    return edit(f"Reading of {what}", changes.take_reading, reading)


def take_back(project: Project) -> Edit:
    """Take the last value back."""
    del project
    return edit("Take the reading back", changes.take_back)


def set_aside(reading: str, aside: bool) -> Edit:
    """Set a reading aside, or take it in again."""
    return edit("Set a reading aside" if aside else "Take a reading in again", changes.set_aside, reading, aside)


def add_instrument(instrument: Instrument) -> Edit:
    """Add an instrument, or say anew what one is like."""
    return edit(f"Instrument {instrument.label}", changes.set_instrument, instrument)


def take_over(found: Found) -> Edit:
    """Set every number that readings moved to what they made of it."""
    count = len(found.numbers)
    return edit(f"Take {count} numbers over from readings", changes.take_over, found.numbers, found.ties)


_INCH, _NEAR = 25.4, 0.12  # relative
_FAR_MM, _FAR = 0.3, 6.0  # [mm], and standard uncertainties


def questioned(value: float, expected: float, sd: float) -> str:
    """Return what to ask about a value before it is taken [mm]; empty where it is plausible. It is never refused."""
    away = abs(value - expected)
    if away <= max(_FAR_MM, _FAR * sd):
        return ""
    for factor, words in (
        (_INCH, "in inches"),
        (1 / _INCH, "in inches taken for mm"),
        (10.0, "ten times off"),
        (0.1, "ten times off"),
    ):
        if expected and abs(value * factor / expected - 1) < _NEAR:
            return f"{value:g} mm where {expected:.2f} is expected: read {words}? Enter again takes it."
    if expected * value < 0 and abs(value + expected) < max(_FAR_MM, _FAR * sd):
        return f"{value:g} mm where {expected:.2f} is expected: the other way round? Enter again takes it."
    return f"{value:g} mm where {expected:.2f} ± {sd:.2f} is expected: the right place? Enter again takes it."
