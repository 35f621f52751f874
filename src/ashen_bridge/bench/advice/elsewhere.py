"""A measured result under other circumstances: warmer air, another fan speed or noise, another power.

What was measured moves as the model moves, once by adding the model's change and once by scaling the rise with the model's; the
middle counts, and how far the two differ is part of the uncertainty.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from ashen_bridge.bench.advice.verdicts import Transfer, TransferredSensor
from ashen_bridge.bench.readings import readings_of
from ashen_bridge.changes.points import fanned_plates, multiply_powers, set_all_fans, set_ambient
from ashen_bridge.logs.outcome import RunError, RunFigures
from ashen_bridge.model.project import Project
from ashen_bridge.words.numbers import number, percent, plus_minus, short

if TYPE_CHECKING:
    from ashen_bridge.predict.engine import Engine


@dataclass(frozen=True)
class Circumstances:
    """What is different there: the air around and inside is warmer by `warmer_k`, fans at `fan` and power at `power` times here.

    `noise_db` says the fans' change in decibels instead: 50·log10 of the speed ratio.
    """

    warmer_k: float = 0.0
    fan: float = 1.0
    power: float = 1.0
    noise_db: float = 0.0

    @property
    def speed(self) -> float:
        """How much faster the fans turn."""
        return float(self.fan * 10 ** (self.noise_db / 50))

    def applied(self, project: Project, point: str) -> Project:
        """Return the project with one operating point so changed."""
        there = project
        if self.warmer_k:
            there = set_ambient(there, point, project.point(point).ambient_c.value + self.warmer_k)
        if self.power != 1:
            there = multiply_powers(there, point, self.power)
        plates = fanned_plates(project)
        if self.speed != 1:
            if not plates:
                raise RunError("No sink of this device depends on a fan, so another fan speed changes nothing.")
            speeds = project.point(point).fans_percent
            now = next((speeds[name].value for name in plates if name in speeds), 100.0)
            there = set_all_fans(there, point, now * self.speed)
        return there

    def words(self) -> str:
        """Return it as words."""
        said = []
        if self.warmer_k:
            said.append(f"air {short(abs(self.warmer_k))} K {'warmer' if self.warmer_k > 0 else 'cooler'}")
        if self.speed != 1:
            said.append(f"fans at {percent(self.speed)} ({number(50 * math.log10(self.speed), 1, sign=True)} dB)")
        if self.power != 1:
            said.append(f"power at {percent(self.power)}")
        return ", ".join(said) or "the same circumstances"


def transfer(engine: Engine, project: Project, run: RunFigures, there: Circumstances) -> Transfer:
    """Return what a run would have shown elsewhere. Raises `RunError` where it holds nothing to go by."""
    build, point = run.run.build, run.run.point
    readings = readings_of(project, [run], engine)
    ambient = project.point(point).ambient_c.value
    other = there.applied(project, point)
    here_rows, there_rows = (
        {row.id: row.value_c for row in engine.predict(one, build, point, fidelity="coarse").report.sensors}
        for one in (project, other)
    )
    air = other.point(point).ambient_c.value
    limits = project.device.limits_c()
    labels = {sensor.id: sensor.label for sensor in project.device.sensors}
    rows = []
    for n, (_, sensor) in enumerate(readings.what):
        if sensor is None:
            continue
        measured, error = float(readings.values[n]), float(np.sqrt(readings.covariance[n, n]))
        added = measured + there_rows[sensor] - here_rows[sensor]
        scaled = air + (measured - ambient) * (there_rows[sensor] - air) / max(here_rows[sensor] - ambient, 1.0)
        middle, form = (added + scaled) / 2, abs(added - scaled) / 2
        rows.append(TransferredSensor(sensor, labels[sensor], measured, middle, math.hypot(error, form), limits.get(sensor)))
    rows.sort(key=lambda row: (row.limit_c is None, (row.limit_c or 0.0) - row.there_c))
    throttling = {
        body
        for body, limit in other.point(point).throttle_at_c.items()
        for sensor in project.device.sensors
        if sensor.body == body and there_rows.get(sensor.id, -300.0) > limit.value - 0.1
    }
    return Transfer(run.run.id, there.words(), tuple(rows), _text(rows, there, project, throttling))


def _text(rows: list[TransferredSensor], there: Circumstances, project: Project, throttling: set[str]) -> str:
    first = rows[0]
    becomes = f"{number(first.here_c)} °C here becomes {number(first.there_c, 1)} {plus_minus(first.uncertainty)} °C"
    said = f"With {there.words()}, {first.name} at {becomes}"
    if first.limit_c is None:
        return f"{said}."
    body = project.device.sensor(first.sensor).body
    if body in throttling:
        return f"{said} there: it will throttle."
    if first.over:
        return f"{said} there: past its limit of {number(first.limit_c)} °C."
    return f"{said} there, {number(first.limit_c - first.there_c)} K below its limit."
