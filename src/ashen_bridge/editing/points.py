"""Operating points: copied, renamed, removed, scaled; powers and fans added where there are none."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from typing import Any

from ashen_bridge.changes import points
from ashen_bridge.changes.edit import Edit, edit, merging
from ashen_bridge.changes.names import fresh_id, slug
from ashen_bridge.model.bodies import Component
from ashen_bridge.model.build import OperatingPoint, Stretch
from ashen_bridge.model.errors import ProjectError
from ashen_bridge.model.project import Project
from ashen_bridge.model.quantity import Quantity
from ashen_bridge.model.refusals import validated
from ashen_bridge.predict.patterns import PatternError, read_pattern
from ashen_bridge.words.numbers import short


def new_point(project: Project, source: str, name: str) -> tuple[Edit, str]:
    """Copy an operating point under a new name; returns the edit and the new id."""
    new_id = fresh_id(slug(name, "point"), [point.id for point in project.points])
    return edit(f"New operating point {name}", points.copy_point, source, new_id, name), new_id


def remove_point(project: Project, point_id: str) -> Edit:
    """Remove an operating point; the last one stays, and so does one that runs were logged at."""
    points.remove_point(project, point_id)
    return edit(f"Remove operating point {project.point(point_id).label}", points.remove_point, point_id)


def scale_load(point_id: str, factor: float, base: dict[str, float] | None = None) -> Edit:
    """Multiply every power of a point, uncertainty included; `base` gives the powers that 1 stands for [W], the board's by "".

    Raises `ProjectError` for a factor that is not from 0 to 10.
    """
    if not 0 <= factor <= 10:
        raise ProjectError(f"{short(factor)} is not a load: it must be from 0 to 10 times the present one.")
    return merging(f"load:{point_id}", edit(f"Load × {factor:.3g}", points.scale_load, point_id, factor, base))


@dataclass(frozen=True)
class Way:
    """One way of stating a number of a part at an operating point: the table it is kept in, its unit there, how many make one."""

    table: str
    unit: str
    per_one: float = 1.0


POWER_WAYS = (Way("powers_w", "W"), Way("split", "% of board", 100.0))
FAN_WAYS = (Way("fans_percent", "%"), Way("fans_rpm", "rpm"))


def alike(project: Project, point: OperatingPoint, apart: Collection[str] = ()) -> tuple[tuple[Component, ...], ...]:
    """Return the parts in rows: those of one role whose power is said alike are one row, but for those wanted `apart`."""
    rows: dict[Any, list[Component]] = {}
    for body in project.device.bodies:
        if isinstance(body, Component):
            said = tuple(str(table.get(body.id)) for table in (point.powers_w, point.split))
            rows.setdefault((body.role, body.id if body.id in apart else "", said), []).append(body)
    return tuple(tuple(row) for row in rows.values())


def row_words(row: Sequence[Component]) -> str:
    """Return what a row of parts is called: by the part's name, several by what they do and how many there are."""
    return row[0].label if len(row) == 1 else f"{str(row[0].role).capitalize()} ×{len(row)}"


def set_stated(
    point_id: str, label: str, ways: Sequence[Way], way: Way, bodies: Sequence[str], quantity: dict[str, Any] | None
) -> Edit:
    """State a number of parts one way (`quantity` in the way's unit), or (None) not at all; every other way forgets it."""
    number = None
    if quantity is not None:
        kept = {key: quantity[key] / way.per_one for key in ("value", "uncertainty")}
        number = validated(Quantity, label, **{**quantity, **kept})
    return edit(label, points.state_number, point_id, tuple(bodies), way.table, number, tuple(one.table for one in ways))


def cycle_words(point: OperatingPoint) -> str:
    """Return the cycle of a point as it is typed; empty where the load is steady.

    >>> cycle_words(OperatingPoint(id="p", cycle=({"share": 1, "seconds": 10}, {"share": 0.2, "seconds": 90})))
    '1 10s, 0.2 90s'
    """
    return ", ".join(f"{one.share:g} {one.seconds:g}s" for one in point.cycle)


def set_cycle(point_id: str, text: str) -> Edit:
    """Set the cycle of a load from what is typed, shares with their times: `1 10s, 0.2 5min`. Raises `ProjectError` in words."""
    try:
        stages = read_pattern(f"stages {text}").stages if text.strip() else ()
    except PatternError as error:
        raise ProjectError(
            f"“{text}” is no cycle; write shares of the load with their times, for example 1 10s, 0.2 5min."
        ) from error
    cycle = tuple(validated(Stretch, "cycle", share=one.factor, seconds=one.seconds) for one in stages)
    return edit("Load over time", points.set_cycle, point_id, cycle)
