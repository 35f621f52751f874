"""A simulated device: the model in the background, with a logger's noise, a room that wanders, and throttling.

It stands in for a real device on the bench. Load steps add up: the response to a step of full power is worked out once, and every
change of load adds its share of it, which leaves out that films change with temperature. Where a component throttles, the
response to its own power is told apart, since only that is taken back.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from typing import TYPE_CHECKING

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.changes.points import fanned_plates, set_all_fans
from ashen_bridge.geometry.checks import assembly_problems
from ashen_bridge.logs.log import Column, Log
from ashen_bridge.model import paths
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.project import Project
from ashen_bridge.model.resolve import resolve
from ashen_bridge.predict.course import Course
from ashen_bridge.predict.patterns import read_pattern
from ashen_bridge.uncertainty.assumptions import assumptions

if TYPE_CHECKING:
    from ashen_bridge.predict.engine import Engine

_FULL_CLOCK_MHZ = 1800.0
_STEP_DOWN = 0.01  # share of power a throttling device gives up in a second; common practice, no source


_FAN_LAG = 0.03  # of the way in a second; common practice, no source


@dataclass(frozen=True)
class FanRule:
    """Fans that follow the hottest sensor: `slowest` of the point's speed up to `from_c` [°C], all of it from `full_c` on."""

    slowest: float = 0.5
    from_c: float = 55.0
    full_c: float = 95.0

    def share(self, hottest: float) -> float:
        """Return how far the fans are from slowest (0) to full (1) once they have followed."""
        return min(max((hottest - self.from_c) / (self.full_c - self.from_c), 0.0), 1.0)


@dataclass(frozen=True)
class Habits:
    """How a device and its logger behave.

    `noise_k` scatter of a reading, each following the one before by `follows`; `resolution_k` its last digit. The room wanders by
    about `wander_k` and is `warmer_k` above the operating point's. Between passes everything shifts by `remount_k`. `idle_s` at
    `idle_share` of the power come before the load. `limits_c`: sensors, by id, at whose temperature power is taken back.
    `offsets_k`: what sensors, by id, read too much. `fan`: the rule of its fans, which stay at the
    point's speed without one. `cycle_s`: load and pause again and again; load for ever where it is nothing.
    """

    noise_k: float = 0.15
    follows: float = 0.6
    resolution_k: float = 0.1
    power_noise: float = 0.01
    wander_k: float = 0.3
    warmer_k: float = 0.0
    remount_k: float = 0.2
    idle_s: float = 60.0
    idle_share: float = 0.1
    limits_c: dict[str, float] = field(default_factory=dict)
    offsets_k: dict[str, float] = field(default_factory=dict)
    fan: FanRule | None = None
    cycle_s: tuple[float, float] = (0.0, 0.0)

    def wanted(self, second: float) -> float:
        """Return the share of the power that is asked for at a time."""
        if second < self.idle_s:
            return self.idle_share
        on, off = self.cycle_s
        return 1.0 if not on or (second - self.idle_s) % (on + off) < on else 0.0


@dataclass(frozen=True)
class SimulatedDevice:
    """A device under one load: its response to full power, and its habits."""

    course: Course
    steady: Course  # without the power of what throttles; the same where nothing does
    sensors: tuple[str, ...]  # ids, in the order of the course's first columns
    room_c: float
    habits: Habits
    fan_percent: float | None = None  # the operating point's; None without fans
    slow: Course | None = None  # with the fans at their slowest, where they follow a rule

    def readings(self, seed: int) -> Iterator[tuple[float, dict[str, float]]]:
        """Yield (second, readings by column with its unit) for ever, one a second."""
        chance = np.random.default_rng(seed)
        habits, count = self.habits, len(self.sensors)
        watched = [(self.sensors.index(name), limit) for name, limit in habits.limits_c.items()]
        offsets = np.array([habits.offsets_k.get(name, 0.0) for name in self.sensors])
        loads: list[tuple[float, float]] = [(-1e9, habits.idle_share)]
        cuts: list[tuple[float, float]] = [(-1e9, 0.0)]
        share, room, noise = habits.idle_share, 0.0, np.zeros(count)
        loads_at, cut = share, 0.0
        fresh = (1 - habits.follows**2) ** 0.5
        shift = offsets + chance.normal(0.0, habits.remount_k)
        start = self.course.values_c[0, :count] - self.room_c  # the air inside a case is warmer than the room
        second, blown = 0.0, 1.0 if self.slow is None else 0.0
        while True:
            rises = start + self._rises(self.course, loads, second)
            if self.slow is not None and habits.fan is not None:
                # Between two speeds the response is taken as lying between; that the sink's heat lags is in the fans' lag.
                rises += (1 - blown) * (self._rises(self.slow, loads, second) - self._rises(self.course, loads, second))
            if len(cuts) > 1:
                rises += self._rises(self.course, cuts, second) - self._rises(self.steady, cuts, second)
            if habits.fan is not None:
                hottest = float(np.max(rises)) + self.room_c + habits.warmer_k + room
                blown += _FAN_LAG * (habits.fan.share(hottest) - blown)
            room += chance.normal(0.0, 0.02 * habits.wander_k) - 0.0002 * room
            air = self.room_c + habits.warmer_k + room
            wanted = habits.wanted(second)
            if wanted < 1.0:
                now = wanted
            elif any(air + rises[k] > limit for k, limit in watched):
                now = max(share - _STEP_DOWN, 0.3)
            elif all(air + rises[k] < limit - 1.0 for k, limit in watched):
                now = min(share + _STEP_DOWN, wanted) if watched and share > 0.3 else wanted
            else:
                now = share
            if wanted != loads_at:
                loads.append((second, wanted - loads_at))
                loads_at = wanted
            if now - wanted != cut:
                cuts.append((second, now - wanted - cut))
                cut = now - wanted
            share = now
            noise = habits.follows * noise + fresh * chance.normal(0.0, habits.noise_k, count)
            shown = np.round((air + rises + shift + noise) / habits.resolution_k) * habits.resolution_k
            kept = float(self.steady.power_w.max())
            power = wanted * kept + share * (float(self.course.power_w.max()) - kept)
            power *= 1 + chance.normal(0.0, habits.power_noise)
            row = {f"{name} [°C]": round(float(value), 3) for name, value in zip(self.course.sensors, shown, strict=False)}
            clock = _FULL_CLOCK_MHZ * share ** (1 / 3) if wanted == 1.0 else 0.2 * _FULL_CLOCK_MHZ
            row |= {"Board power [W]": round(power, 2), "Clock [MHz]": round(clock), "Room [°C]": round(air, 1)}
            if self.fan_percent is not None:
                slowest = habits.fan.slowest if habits.fan is not None else 1.0
                row["Fan [%]"] = round(self.fan_percent * (slowest + blown * (1 - slowest)), 1)
            yield second, row
            second += 1.0

    def record(self, seconds: float, seed: int) -> Log:
        """Return a log of some seconds."""
        rows, times = [], []
        for second, row in self.readings(seed):
            if second > seconds:
                break
            times.append(second)
            rows.append(row)
        columns = []
        for heading in rows[0]:
            name, _, unit = heading.removesuffix("]").rpartition(" [")
            columns.append(Column(name, unit, np.array([row[heading] for row in rows])))
        return Log(np.array(times), tuple(columns))

    def _rises(self, course: Course, changes: list[tuple[float, float]], second: float) -> Floats:
        """Return the rises over the room [K], (n_sensor,): every change of load adds its share of the step response."""
        ages = np.array([second - when for when, _ in changes])
        shares = np.array([by for _, by in changes])
        count = len(self.sensors)
        rise = course.values_c[:, :count] - course.values_c[0, :count]
        ends = course.steady_c[:count] - course.values_c[0, :count]
        responses = np.array([np.interp(ages, course.time_s, rise[:, k]) for k in range(count)])
        responses[:, ages > 1e8] = ends[:, None]  # on for ever
        return np.asarray(responses @ shares)


def simulated_device(
    engine: Engine, project: Project, build: str, point: str, habits: Habits | None = None, *, minutes: float = 60.0
) -> SimulatedDevice:
    """Return the device that a project's build at an operating point would be, true to the model in every number.

    It takes power back where the operating point says a component does, at that component's hottest sensor, besides the habits'.
    """
    pattern = read_pattern(f"step {minutes:g}min")
    found = engine.transient(project, build, point, pattern)
    labels = {sensor.label: sensor.id for sensor in project.device.sensors}
    sensors = tuple(labels[name] for name in found.sensors if name in labels)
    where, own = project.point(point), habits or Habits()
    hottest = {one.body: one.id for one in project.device.sensors if one.reads == "max" and one.id in sensors}
    limits = {hottest[body]: limit.value for body, limit in where.throttle_at_c.items() if body in hottest}
    limits |= own.limits_c
    giving = {one.body for one in project.device.sensors if one.id in limits} & set(where.powers_w)
    steady = found
    if giving:
        still = {f"points.{point}.powers_w.{body}": 0.0 for body in sorted(giving)}
        steady = engine.transient(paths.set_values(project, still), build, point, pattern)
    plates = fanned_plates(project)
    speed = where.fans_percent[plates[0]].value if plates and plates[0] in where.fans_percent else 100.0 if plates else None
    slow = None
    if own.fan is not None and speed is not None:
        slow = engine.transient(set_all_fans(project, point, speed * own.fan.slowest), build, point, pattern)
    habits = replace(own, limits_c=limits)
    return SimulatedDevice(found, steady, sensors, where.ambient_c.value, habits, speed, slow)


def another_device(project: Project, build: str, point: str, seed: int) -> Project:
    """Return a device as it may really be: every uncertain number drawn from its ±, at most twice that away.

    Where numbers drawn like that cannot be together, all stay nearer to what is said, so that it can always be built.
    """
    chance = np.random.default_rng(seed)
    said: dict[str, float] = {}
    drawn: dict[str, float] = {}
    for one in assumptions(project, build, point):
        if one.uncertainty > 0 and one.field != "ambient_c":
            said.update(dict.fromkeys(one.paths, one.value))
            drawn.update(dict.fromkeys(one.paths, one.value + float(np.clip(chance.normal(), -2, 2)) * one.uncertainty))
    for share in (1.0, 0.7, 0.5, 0.3, 0.1):
        try:
            found = paths.set_values(project, {path: said[path] + share * (drawn[path] - said[path]) for path in said})
            if next(assembly_problems(resolve(found, build)), None) is None:
                return found
        except AshenError:
            continue
    return project
