"""Changes of operating points: powers, fans, air."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from ashen_bridge.model.build import OperatingPoint, Stretch
from ashen_bridge.model.errors import ProjectError
from ashen_bridge.model.project import Project
from ashen_bridge.model.quantity import Quantity, q
from ashen_bridge.model.sharing import find, replaced, with_each, with_more

AIR = ("ambient_c", "inlet_c", "front_air_c", "rear_air_c")
Numbers = Mapping[str, Quantity]


def in_point(project: Project, point: str, change: Callable[[OperatingPoint], OperatingPoint]) -> Project:
    """Return the project with one operating point changed."""
    return with_each(project, "points", change, (point,))


def fanned_plates(project: Project) -> list[str]:
    """Return the plates whose sink depends on a fan."""
    return [body.id for body in project.device.bodies if body.kind == "plate" and body.sink is not None and body.sink.fanned]


def set_fans(project: Project, point: str, plates: tuple[str, ...], percent: float) -> Project:
    """Set the fan speed of some plates [% of rated]."""

    def change(one: OperatingPoint) -> OperatingPoint:
        old = one.fans_percent
        made = {plate: replaced(old[plate], value=percent) if plate in old else q(percent) for plate in plates}
        return replaced(one, fans_percent={**old, **made})

    return in_point(project, point, change)


def set_all_fans(project: Project, point: str, percent: float) -> Project:
    """Set all fans to one speed [% of rated], without a ±."""
    fans = {name: q(percent) for name in fanned_plates(project)}
    return in_point(project, point, lambda one: replaced(one, fans_percent={**one.fans_percent, **fans}))


def multiply_powers(project: Project, point: str, factor: float) -> Project:
    """Multiply every stated power of parts; the ± of each stays."""
    return in_point(project, point, lambda one: replaced(one, powers_w=_multiplied(one.powers_w, factor)))


def _multiplied(powers: Numbers, factor: float) -> dict[str, Quantity]:
    return {name: replaced(power, value=power.value * factor) for name, power in powers.items()}


def set_ambient(project: Project, point: str, value_c: float) -> Project:
    """Set the ambient and shift all air along: what is warmer than the room stays warmer by as much."""

    def change(one: OperatingPoint) -> OperatingPoint:
        by = value_c - one.ambient_c.value
        air = {name: getattr(one, name) for name in AIR}
        return replaced(one, **{name: replaced(was, value=was.value + by) for name, was in air.items() if was is not None})

    return in_point(project, point, change)


def warm_air(project: Project, point: str, more_k: float) -> Project:
    """Make the air that reaches the device warmer than it is said to be; the room stays as it is."""

    def change(one: OperatingPoint) -> OperatingPoint:
        air = {name: getattr(one, name) or one.ambient_c for name in AIR[1:]}
        return replaced(one, **{name: replaced(was, value=was.value + more_k) for name, was in air.items()})

    return in_point(project, point, change)


def copy_point(project: Project, source: str, new: str, name: str) -> Project:
    """Copy an operating point under a new id and name."""
    copied = replaced(project.point(source), id=new, name=name)
    return with_more(project, "points", copied)


def remove_point(project: Project, point: str) -> Project:
    """Remove an operating point and the goals at it; the last one stays, and so does one that runs were logged at."""
    label = find(project.points, point, "operating point").label
    if len(project.points) < 2:
        raise ProjectError("This is the only operating point; a project keeps at least one.")
    if any(run.point == point for run in project.runs):
        raise ProjectError(f"Runs were logged at “{label}”, so it stays.")
    return replaced(
        project,
        points=tuple(one for one in project.points if one.id != point),
        goals=tuple(goal for goal in project.goals if goal.point != point),
    )


def scale_load(project: Project, point: str, factor: float, base: dict[str, float] | None = None) -> Project:
    """Multiply every power of a point, uncertainty included; `base` gives the powers that 1 stands for [W], the board's by ""."""

    def scaled(name: str, power: Quantity) -> Quantity:
        start = (base or {}).get(name, power.value)
        ratio = start * factor / power.value if power.value else 0.0
        return replaced(power, value=round(start * factor, 4), uncertainty=round(power.uncertainty * ratio, 4))

    def change(one: OperatingPoint) -> OperatingPoint:
        powers = {name: scaled(name, power) for name, power in one.powers_w.items()}
        return replaced(one, powers_w=powers, board_w=scaled("", one.board_w) if one.board_w else one.board_w)

    return in_point(project, point, change)


def state_number(
    project: Project, point: str, bodies: tuple[str, ...], table: str, number: Quantity | None, others: tuple[str, ...]
) -> Project:
    """State a number of some parts in one table of a point, or (None) not at all; the other tables forget it."""

    def change(one: OperatingPoint) -> OperatingPoint:
        tables: dict[str, dict[str, Any]] = {name: dict(getattr(one, name)) for name in {table, *others}}
        for numbers in tables.values():
            for body in bodies:
                numbers.pop(body, None)
        if number is not None:
            tables[table] |= dict.fromkeys(bodies, number)
        return replaced(one, **tables)

    return in_point(project, point, change)


def set_cycle(project: Project, point: str, cycle: tuple[Stretch, ...]) -> Project:
    """Set the stretches in which a load comes again and again; none for a steady load."""
    return in_point(project, point, lambda one: replaced(one, cycle=cycle))
