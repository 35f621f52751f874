"""What the sensors show over time for a load pattern, and how long a test must run."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

import numpy as np

from ashen_bridge.geometry.region import Floats
from ashen_bridge.geometry.scene import Scene
from ashen_bridge.model.bodies import Plate
from ashen_bridge.model.build import OperatingPoint
from ashen_bridge.model.device import Sensor
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.quantity import q
from ashen_bridge.predict.course import SOAKED_K, Course
from ashen_bridge.predict.ledger import skin
from ashen_bridge.predict.operating import Operating, come_about
from ashen_bridge.predict.readings import read_sensor
from ashen_bridge.thermal.parts import HeatModel
from ashen_bridge.thermal.steady import Accuracy, HeatField, SteadySolver
from ashen_bridge.thermal.surfaces import KELVIN
from ashen_bridge.thermal.transient import InsideAir, Stage, march

if TYPE_CHECKING:
    from ashen_bridge.thermal.resolution import Frame

_ACCURACY = Accuracy(residual=1e-6, settled=1e-2, energy=1e-4)
_MOST_S = 7 * 86400.0
_UNITS = {"s": 1.0, "sec": 1.0, "min": 60.0, "h": 3600.0}
_TIME = r"(\d+(?:\.\d+)?)\s*(s|sec|min|h)"


class PatternError(AshenError, ValueError):
    """A load pattern that cannot be read."""


@dataclass(frozen=True)
class Pattern:
    """A load over time: the share of power the device is soaked at before, then stages."""

    before: float
    stages: tuple[Stage, ...]

    @property
    def seconds(self) -> float:
        """How long all of it takes."""
        return sum(stage.seconds for stage in self.stages)


def read_pattern(text: str) -> Pattern:
    """Return the pattern that is written.

    `step 60min` full power from rest; `cool 30min` none, from full power; `burst 30s in 10min` full power for a while, then
    none; `duty 10s/20s 30min` on and off again and again; `stages 0.5 10min, 1.0 60min` any shares in turn.

    >>> read_pattern("burst 30s in 10min").stages
    (Stage(seconds=30.0, factor=1.0), Stage(seconds=570.0, factor=0.0))
    """
    words = " ".join(text.lower().split())
    if found := re.fullmatch(rf"(step|cool) {_TIME}", words):
        seconds = _seconds(found[2], found[3])
        pattern = Pattern(*((0.0, (Stage(seconds, 1.0),)) if found[1] == "step" else (1.0, (Stage(seconds, 0.0),))))
    elif found := re.fullmatch(rf"burst {_TIME} in {_TIME}", words):
        on, total = _seconds(found[1], found[2]), _seconds(found[3], found[4])
        if on >= total:
            raise PatternError(f"“{text}”: the burst must be shorter than the whole.")
        pattern = Pattern(0.0, (Stage(on, 1.0), Stage(total - on, 0.0)))
    elif found := re.fullmatch(rf"duty {_TIME}/{_TIME} {_TIME}", words):
        on, off, total = (_seconds(found[n], found[n + 1]) for n in (1, 3, 5))
        count = round(total / (on + off))
        if not 1 <= count <= 500:
            raise PatternError(f"“{text}” has {count} cycles; from 1 to 500 can be computed.")
        pattern = Pattern(0.0, (Stage(on, 1.0), Stage(off, 0.0)) * count)
    elif re.fullmatch(rf"stages (?:\d+(?:\.\d+)? {_TIME}(?:, )?)+", words):
        parts = re.findall(rf"(\d+(?:\.\d+)?) {_TIME}", words)
        pattern = Pattern(0.0, tuple(Stage(_seconds(time, unit), float(share)) for share, time, unit in parts))
    else:
        raise PatternError(
            f"“{text}” is not a load pattern; write for example: step 60min, cool 30min, burst 30s in 10min, "
            "duty 10s/20s 30min, stages 0.5 10min, 1.0 60min."
        )
    if not 0 < pattern.seconds <= _MOST_S or any(stage.seconds <= 0 or stage.factor > 10 for stage in pattern.stages):
        raise PatternError(f"“{text}” must last from above 0 to 7 days, at up to ten times the power.")
    return pattern


def _seconds(number: str, unit: str) -> float:
    return float(number) * _UNITS[unit]


def course(
    scene: Scene,
    point: OperatingPoint,
    model_of: Callable[[OperatingPoint, float | None], HeatModel],
    frame: Frame,
    pattern: Pattern,
) -> Iterator[tuple[float, Course | None]]:
    """Yield (progress, None) while the course of all sensors for a load pattern is worked out, and (1, course) at the end.

    `model_of` gives the heat model of an operating point with its powers and inside air. Mass of pads and pastes is left out: it
    is small beside that of plates and parts. A sink's fins are lumped on its base. Powers are made as told: a component that
    would throttle shows how hot it would get.
    """
    told = unthrottled(point)
    active = frame.slabs.active
    solver = SteadySolver()

    def settled(factor: float) -> Operating:
        scaled = {name: q(power.value * factor) for name, power in told.powers_w.items()}

        def solve(actual: OperatingPoint, inside: float | None) -> HeatField:
            return solver.solve(model_of(actual, inside), _ACCURACY)

        return come_about(scene, told.model_copy(update={"powers_w": scaled}), active, solve)

    begin, full = settled(pattern.before), settled(1.0)
    model = model_of(full.point, full.inside)
    steady = full.field
    sensors = _sensors(scene)
    times, rows, powers = [], [], []
    for moment in march(
        model,
        steady,
        begin.field.temperature,
        pattern.stages,
        extra_capacity=_fins(scene, steady),
        inside=_inside_air(point),
    ):
        yield 0.98 * moment.time / pattern.seconds, None
        seen = replace(steady, temperature=moment.temperature)
        times.append(moment.time)
        powers.append(moment.power)
        rows.append(_shown(scene, seen, sensors, active))
    names = (*(one.label for one in sensors), *(f"Skin of {row.name}" for row in skin(scene, steady)))
    values = np.array(rows).reshape(len(times), len(names))
    final = np.array(_shown(scene, steady, sensors, active))
    soak = None
    if len(pattern.stages) == 1:
        # What a constant load comes to in the end: full power, or none.
        end = settled(pattern.stages[0].factor).field
        soak = _soak(np.array(times), values, np.array(_shown(scene, end, sensors, active)))
    yield 1.0, Course(np.array(times), names, values, np.array(powers), final, soak)


def unthrottled(point: OperatingPoint) -> OperatingPoint:
    """Return an operating point at which nothing throttles: what would shows how hot it would get."""
    return point.model_copy(update={"throttle_at_c": {}})


def brought_to(found: Course, scene: Scene, steady: HeatField, active: dict[str, tuple[int, ...]], ambient_c: float) -> Course:
    """Return a course of a coarse field with its rises brought to what a finer one settles to, sensor by sensor."""
    fine = np.array(_shown(scene, steady, _sensors(scene), active)) - ambient_c
    coarse = found.steady_c - ambient_c
    little = np.abs(coarse) < 1.0  # too little to make a proportion of
    ratio = np.where(little, 1.0, fine / np.where(little, 1.0, coarse))
    return replace(found, values_c=ambient_c + (found.values_c - ambient_c) * ratio, steady_c=ambient_c + coarse * ratio)


def _sensors(scene: Scene) -> list[Sensor]:
    return [one for one in scene.resolved.device.sensors if one.body in scene.bodies]


def _shown(scene: Scene, field: HeatField, sensors: list[Sensor], active: dict[str, tuple[int, ...]]) -> list[float]:
    """Return what sensors show, and skins that can be touched [°C]."""
    return [*(read_sensor(field, one, active) for one in sensors), *(row.t_max_c for row in skin(scene, field))]


def _inside_air(point: OperatingPoint) -> InsideAir | None:
    if point.inside == "given":
        return None
    vent = 1 / point.vent_k_w.value if point.inside == "vented" and point.vent_k_w else 0.0
    return InsideAir(point.ambient_c.value + KELVIN, vent)


def _fins(scene: Scene, field: HeatField) -> Floats:
    """Return the heat capacity of sinks' fins on the cells under them [J/K]."""
    extra = np.zeros(field.grid.n_cell)
    for film in field.films:
        body = scene.bodies.get(film.film.slab)
        if body is not None and isinstance(body.model, Plate) and body.model.sink and film.film.name == f"sink:{body.id}":
            extra[film.cells] += body.model.sink.heat_capacity_j_k.value * film.area / film.area.sum()
    return extra


def _soak(times: Floats, values: Floats, heading: Floats) -> tuple[float, ...]:
    """Return when each sensor comes, and stays, within 1 K of what it is heading for; infinite if not by the end."""
    found = []
    for column, end in zip(values.T, heading, strict=True):
        away = np.abs(column - end)
        outside = np.flatnonzero(away > SOAKED_K)
        if not len(outside):
            found.append(0.0)
        elif outside[-1] + 1 == len(times):
            found.append(float("inf"))
        else:
            a, b = outside[-1], outside[-1] + 1
            share = (away[a] - SOAKED_K) / max(away[a] - away[b], 1e-12)
            found.append(float(times[a] + share * (times[b] - times[a])))
    return tuple(found)
