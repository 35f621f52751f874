"""What may be otherwise than said around a device: air, power, fans, and the sensors that tell of it."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

from ashen_bridge.bench.diagnosis.hypothesis import Hypothesis
from ashen_bridge.changes import faults, points
from ashen_bridge.model.bodies import Component, ComponentRole
from ashen_bridge.model.paths import set_numbers
from ashen_bridge.model.project import Project
from ashen_bridge.words.numbers import number, percent

OFFSET_K = 25.0
"""How far off a sensor is tried at most."""


def of_circumstances(project: Project, build: str, point: str) -> Iterator[Hypothesis]:
    """Yield what belongs to the place and the load."""
    about = f"points.{point}"
    yield Hypothesis(
        "air",
        "The air in the case is warmer than said",
        about,
        0.0,
        25.0,
        lambda more: f"by {number(more)} K",
        "Hold a thermometer where the fan draws its air.",
        partial(_warmer, point=point),
    )
    yield Hypothesis(
        "room",
        "The room is warmer than its thermometer says",
        about,
        0.0,
        8.0,
        lambda more: f"by {number(more, 1)} K",
        "Hold the thermometer beside the device, out of its own warm air.",
        partial(_warmer_room, point=point),
    )
    yield Hypothesis(
        "power",
        "The device makes more power than said",
        about,
        1.0,
        1.6,
        lambda factor: f"{percent(factor - 1)} more",
        "Read the board's own power, or measure what it draws at the supply.",
        partial(_stronger, point=point),
    )
    powers = project.point(point).powers_w
    parts = [body for body in project.bodies_of(project.build(build)) if isinstance(body, Component) and body.id in powers]
    for role in dict.fromkeys(part.role for part in parts if part.role is not ComponentRole.DIE):
        names = tuple(part.id for part in parts if part.role is role)
        yield Hypothesis(
            f"parts-{role.value}",
            f"The {role.value} parts make more heat than said",
            about,
            1.0,
            2.5,
            lambda factor: f"{number(factor, 1)} times as much",
            "Measure what they draw, or compare their rise with a load that leaves them alone.",
            partial(_more_of, point=point, names=names),
        )
    for plate, speed in project.point(point).fans_percent.items():
        yield Hypothesis(
            f"fan-{plate}",
            f"The fan of {plate} turns slower than said",
            about,
            1.0,
            0.35,
            lambda share, speed=speed.value: f"at {number(share * speed)} % of its rated speed",  # type: ignore[misc]
            "Read its speed, or look whether it turns freely.",
            partial(_slower, point=point, plate=plate),
        )


def of_sensors(project: Project) -> Iterator[Hypothesis]:
    """Yield what may be wrong with what was read."""
    for sensor in project.device.sensors:
        for worst in (OFFSET_K, -OFFSET_K):
            yield Hypothesis(
                f"offset-{sensor.id}-{'high' if worst > 0 else 'low'}",
                f"Sensor {sensor.label} reads too {'high' if worst > 0 else 'low'}",
                f"device.sensors.{sensor.id}",
                0.0,
                worst,
                lambda more: f"by {number(abs(more), 1)} K",
                "Compare it with its neighbours after a night without power.",
                _unchanged,
                sensor.id,
            )


def _warmer(project: Project, more: float, point: str) -> Project:
    return points.warm_air(project, point, more)


def _warmer_room(project: Project, more: float, point: str) -> Project:
    return faults.warm_room(project, point, more)


def _stronger(project: Project, factor: float, point: str) -> Project:
    return points.multiply_powers(project, point, factor)


def _more_of(project: Project, factor: float, point: str, names: tuple[str, ...]) -> Project:
    powers = project.point(point).powers_w
    return set_numbers(project, {f"points.{point}.powers_w.{name}": powers[name].value * factor for name in names})


def _slower(project: Project, share: float, point: str, plate: str) -> Project:
    speed = project.point(point).fans_percent[plate].value
    return set_numbers(project, {f"points.{point}.fans_percent.{plate}": speed * share})


def _unchanged(project: Project, _: float) -> Project:
    return project
