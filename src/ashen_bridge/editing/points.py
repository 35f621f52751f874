"""Operating points: copied, renamed, removed, scaled; powers and fans added where there are none."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ashen_bridge.editing.plain import Edit, Plain, edit_project, fresh_id, item, slug
from ashen_bridge.model.build import OperatingPoint
from ashen_bridge.model.errors import ProjectError
from ashen_bridge.model.project import Project
from ashen_bridge.predict.patterns import PatternError, read_pattern


def new_point(project: Project, source: str, name: str) -> tuple[Edit, str]:
    """Copy an operating point under a new name; returns the edit and the new id."""
    new_id = fresh_id(slug(name, "point"), [point.id for point in project.points])

    def change(data: Plain) -> None:
        copied = {**item(data["points"], source), "id": new_id, "name": name}
        data["points"].append(copied)

    return edit_project(f"New operating point {name}", change), new_id


def remove_point(project: Project, point_id: str) -> Edit:
    """Remove an operating point; the last one stays, and so does one that runs were logged at."""
    label = project.point(point_id).label
    if len(project.points) < 2:
        raise ProjectError("This is the only operating point; a project keeps at least one.")
    if any(run.point == point_id for run in project.runs):
        raise ProjectError(f"Runs were logged at “{label}”, so it stays.")

    def change(data: Plain) -> None:
        data["points"] = [point for point in data["points"] if point["id"] != point_id]
        data["goals"] = [goal for goal in data["goals"] if goal["point"] != point_id]

    return edit_project(f"Remove operating point {label}", change)


def scale_load(project: Project, point_id: str, factor: float, base: dict[str, float] | None = None) -> Edit:
    """Multiply every power of a point, uncertainty included; `base` gives the powers that 1 stands for [W], the board's by "".

    Raises `ProjectError` for a factor that is not from 0 to 10.
    """
    if not 0 <= factor <= 10:
        raise ProjectError(f"{factor:g} is not a load: it must be from 0 to 10 times the present one.")

    def change(data: Plain) -> None:
        point = item(data["points"], point_id)
        board = {"": point["board_w"]} if point["board_w"] else {}
        for name, power in (point["powers_w"] | board).items():
            start = (base or {}).get(name, power["value"])
            ratio = start * factor / power["value"] if power["value"] else 0.0
            power.update(value=round(start * factor, 4), uncertainty=round(power["uncertainty"] * ratio, 4))

    return edit_project(f"Load × {factor:.3g}", change, f"load:{point_id}")


@dataclass(frozen=True)
class Way:
    """One way of stating a number of a part at an operating point: the table it is kept in, its unit there, how many make one."""

    table: str
    unit: str
    per_one: float = 1.0


POWER_WAYS = (Way("powers_w", "W"), Way("split", "% of board", 100.0))
FAN_WAYS = (Way("fans_percent", "%"), Way("fans_rpm", "rpm"))


def set_stated(point_id: str, label: str, ways: Sequence[Way], way: Way, body: str, quantity: Plain | None) -> Edit:
    """State a number of a part one way (`quantity` in the way's unit), or (None) not at all; every other way forgets it."""

    def change(data: Plain) -> None:
        point = item(data["points"], point_id)
        for other in ways:
            point[other.table].pop(body, None)
        if quantity is not None:
            kept = {key: quantity[key] / way.per_one for key in ("value", "uncertainty")}
            point[way.table][body] = {**quantity, **kept}

    return edit_project(label, change)


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
    cycle = [{"share": one.factor, "seconds": one.seconds} for one in stages]

    def change(data: Plain) -> None:
        item(data["points"], point_id)["cycle"] = cycle

    return edit_project("Load over time", change)
