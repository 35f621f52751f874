"""What runs measured, and how well."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.logs.outcome import PassFigures, Refusal, RunError, RunFigures
from ashen_bridge.model.project import Project
from ashen_bridge.uncertainty.assumptions import Assumption, assumptions

if TYPE_CHECKING:
    from ashen_bridge.predict.engine import Engine

MODEL_K = 0.3  # what the mesh leaves, beside everything that is stated; see docs/validation.md
AIR_K = 0.3  # what the air's thermometer may be off by, alike for all sensors of a run; common practice, no source
_UNREAD_K = 1e5
POWER_SHARE = 0.01  # what a board's own power reading may be off by; common practice, no source


@dataclass(frozen=True)
class Readings:
    """What was measured and how well: values (n,) and covariance (n, n); which run and sensor each is of, None for the power.

    Those from `read` on were read by nobody: they are watched, and say nothing.
    """

    values: Floats
    covariance: Floats
    what: tuple[tuple[RunFigures, str | None], ...]
    read: int

    @property
    def labels(self) -> tuple[str, ...]:
        """Where each comes from, in words."""
        return tuple(f"{sensor or 'the power'} of “{run.run.label}”" for run, sensor in self.what)


def uncertain_numbers(project: Project, runs: Sequence[RunFigures]) -> tuple[Assumption, ...]:
    """Return the uncertain numbers of the runs' predictions, without ambient: rises over the measured one are compared."""
    found: list[Assumption] = []
    seen: set[str] = set()
    for run in runs:
        for one in assumptions(project, run.run.build, run.run.point):
            # Builds may put alike numbers together differently; none may move twice.
            fresh = tuple(path for path in one.paths if path not in seen)
            if fresh and one.uncertainty > 0 and one.field != "ambient_c":
                seen.update(fresh)
                found.append(replace(one, paths=fresh))
    return tuple(found)


def readings_of(project: Project, runs: Sequence[RunFigures], engine: Engine) -> Readings:
    """Return what runs measured: sensors at their operating point's ambient [°C], and a board's own power [W].

    A channel that had not settled counts with what it was heading for; one whose end cannot be told does not count. A sensor at
    an unknown place may be off by what the temperature varies there, by the model. Raises `RunError` if no column is mapped to a
    sensor.
    """
    places = _places(project, runs, engine)
    values: list[float] = []
    what: list[tuple[RunFigures, str | None]] = []
    variances: list[float] = []
    air: list[int] = []  # readings of one run share its thermometer; a power has none
    for number, run in enumerate(runs):
        ambient = project.point(run.run.point).ambient_c.value
        for channel in run.run.channels:
            board_power = channel.role == "power" and channel.body is None and channel.unit == "W"
            if channel.sensor is None and not board_power:
                continue
            ends = [end for one in run.passes if (end := _end(one, channel.column)) is not None]
            if not ends:
                continue
            mean, error = float(np.mean([end for end, _, _ in ends])), max(error for _, error, _ in ends)
            if channel.sensor is not None:
                sensor = project.device.sensor(channel.sensor)
                rooms = [room if room is not None else ambient for _, _, room in ends]
                values.append(mean - float(np.mean(rooms)) + ambient)
                place = places.get((run.run.id, sensor.id), 0.0)
                variances.append(error**2 + MODEL_K**2 + place**2)
                air.append(number)
            else:
                values.append(mean)
                variances.append(error**2 + (POWER_SHARE * mean) ** 2)
                air.append(-1)
            what.append((run, channel.sensor))
    if not any(sensor for _, sensor in what):
        raise RunError("None of these runs has a settled column that is mapped to a sensor, so there is nothing to fit to.")
    alike = np.equal.outer(air, air) & (np.array(air) >= 0)[:, None]
    return Readings(np.array(values), np.diag(variances) + AIR_K**2 * alike, tuple(what), len(what))


def watching(readings: Readings, sensors: Sequence[str]) -> Readings:
    """Return readings with sensors of the first run that nobody read, in all vagueness."""
    run = readings.what[0][0]
    more = [sensor for sensor in sensors if (run, sensor) not in readings.what]
    variances = np.concatenate([np.zeros(readings.read), np.full(len(more), _UNREAD_K**2)])
    grown = np.diag(variances)
    grown[: readings.read, : readings.read] = readings.covariance
    values = np.concatenate([readings.values, np.zeros(len(more))])
    return replace(readings, values=values, covariance=grown, what=(*readings.what, *((run, sensor) for sensor in more)))


def _places(project: Project, runs: Sequence[RunFigures], engine: Engine) -> dict[tuple[str, str], float]:
    """Return by how much sensors at unknown places may be off [K], by (run, sensor)."""
    vague = {one.id for one in project.device.sensors if one.reads in ("somewhere", "edge")}
    found: dict[tuple[str, str], float] = {}
    for run in runs:
        if vague & {channel.sensor for channel in run.run.channels}:
            sensors, _ = engine.shown(project, run.run.build, run.run.point)
            found.update({(run.run.id, row.id): row.place_k for row in sensors})
    return found


def _end(one: PassFigures, column: str) -> tuple[float, float, float | None] | None:
    """Return what a channel settled to, its standard error, and the air around the device; None if that cannot be told."""
    ahead = one.climbing.get(column)
    if column not in one.channels or isinstance(ahead, Refusal):
        return None
    if ahead is not None:
        return ahead.end, (ahead.high - ahead.low) / 4, one.ambient_c
    return one.channels[column].mean, one.channels[column].standard_error, one.ambient_c
