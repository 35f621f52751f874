"""What if: some numbers elsewhere, and what sensors then show, by the difference of two first looks."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import TYPE_CHECKING

from ashen_bridge.changes.points import fanned_plates
from ashen_bridge.model import paths
from ashen_bridge.model.bodies import Component, Plate
from ashen_bridge.model.project import Project

if TYPE_CHECKING:
    from ashen_bridge.predict.engine import Engine
    from ashen_bridge.predict.report import Report


@dataclass(frozen=True)
class Slider:
    """A number that may be slid: its path, what it is called, its unit, where it is now, and between what it may be."""

    path: str
    words: str
    unit: str
    now: float
    low: float
    high: float


@dataclass(frozen=True)
class SlidSensor:
    """A sensor where the numbers are now and where they were slid to [°C], and its limit."""

    id: str
    name: str
    now_c: float
    then_c: float
    limit_c: float | None


@dataclass(frozen=True)
class Slid:
    """The answer: mechanics computed anew, heat by the coarse field's difference laid on the refined prediction."""

    sensors: tuple[SlidSensor, ...]
    die_now_c: float | None
    die_then_c: float | None


def sliders(project: Project, build: str, point: str) -> tuple[Slider, ...]:
    """Return the numbers that people slide: air, fans, powers, conductivities of what lies in joints, steps and heights."""
    at, found = project.point(point), []
    found.append(Slider(f"points.{point}.ambient_c", "air around it", "°C", at.ambient_c.value, 0.0, 60.0))
    for plate in fanned_plates(project):
        speed = at.fans_percent[plate].value if plate in at.fans_percent else 100.0
        found.append(
            Slider(f"points.{point}.fans_percent.{plate}", f"fan on {project.body(plate).label}", "%", speed, 20.0, 150.0)
        )
    bodies = project.bodies_known(project.build(build))
    for name, power in sorted(at.powers_w.items(), key=lambda item: -item[1].value):
        if power.value > 0 and name in bodies:
            path = f"points.{point}.powers_w.{name}"
            found.append(Slider(path, f"power of {bodies[name].label}", "W", power.value, 0.0, 2 * power.value))
    used = dict.fromkeys(piece.material for joint in project.build(build).joints for piece in joint.pieces)
    for name in used:
        k = project.material(name).conductivity_w_mk.value
        path = f"materials.{name}.conductivity_w_mk"
        found.append(Slider(path, f"conductivity of {project.material(name).name}", "W/m·K", k, 0.3 * k, 2.5 * k))
    for body in bodies.values():
        root = f"device.bodies.{body.id}"
        if isinstance(body, Plate) and body.id not in {one.id for one in project.build(build).added}:
            for landing in body.landings:
                step = landing.step_mm.value
                words = f"step {landing.id} of {body.label}"
                found.append(Slider(f"{root}.landings.{landing.id}.step_mm", words, "mm", step, step - 0.3, step + 0.3))
        elif isinstance(body, Component):
            height = body.height_mm.value
            found.append(Slider(f"{root}.height_mm", f"height of {body.label}", "mm", height, 0.7 * height, 1.3 * height))
    return tuple(found)


def slid(engine: Engine, project: Project, build: str, point: str, values: Mapping[str, float]) -> Iterator[tuple[float, Slid]]:
    """Yield (1, what the sensors show with other values by path). Raises `AshenError` for values that cannot be."""
    from ashen_bridge.assess.glance import glance_at, keep_for_glances

    moved = paths.set_numbers(project, dict(values))
    report = engine.predict(project, build, point, fidelity="fine").report
    here = glance_at(engine, project, build, point)
    if here is None:
        keep_for_glances(engine, project, engine.predict(project, build, point, fidelity="fine"))
        here = glance_at(engine, project, build, point)
    there = glance_at(engine, moved, build, point) if here is not None else None
    if here is None or there is None:
        here, there = (engine.predict(one, build, point, fidelity="coarse") for one in (project, moved))
    yield 1.0, _answer(report, here.report, there.report)


def _answer(report: Report, here: Report, there: Report) -> Slid:
    was, now = ({row.id: row.value_c for row in one.sensors} for one in (here, there))
    sensors = tuple(
        SlidSensor(row.id, row.name, row.value_c, row.value_c + now[row.id] - was[row.id], row.limit_c)
        for row in report.sensors
        if row.id in now and row.id in was
    )
    dies = [{row.id: row.t_max_c for row in one.components if row.kind == "die"} for one in (report, here, there)]
    moved = [dies[0][name] + dies[2][name] - dies[1][name] for name in dies[0] if name in dies[1] and name in dies[2]]
    return Slid(sensors, max(dies[0].values(), default=None), max(moved, default=None))
