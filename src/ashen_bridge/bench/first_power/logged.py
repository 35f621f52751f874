"""A log of the first minutes, judged as it goes: the first stop counts."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from ashen_bridge.bench.first_power.beginning import from_start, power_on
from ashen_bridge.bench.first_power.judging import judge
from ashen_bridge.bench.first_power.result import Expected, Judged
from ashen_bridge.logs.log import Log
from ashen_bridge.logs.mapping import propose
from ashen_bridge.logs.reading import read_log
from ashen_bridge.logs.scales import celsius
from ashen_bridge.model.errors import ProjectError
from ashen_bridge.model.project import Project

_EVERY_S, _MEAN_S = 10.0, 5.0


def judge_log(expected: Expected, project: Project, path: Path) -> Judged:
    """Return what a log says: at the first stop, else at its end. Raises `AshenError` for one that cannot be read."""
    log = read_log(path)
    start = power_on(log, project, expected.point)
    if start is None:
        raise ProjectError("In this log the device never gets under load, so there are no first minutes in it.")
    return judge_course(from_start(expected, log, project, start), *columns_of(project, log, start))


def columns_of(project: Project, log: Log, start_s: float) -> tuple[np.ndarray, dict[str, np.ndarray]]:
    """Return seconds since the load began, and the temperatures of every sensor that the log maps to from then on [°C]."""
    mapped = {one.sensor: one for one in propose(log, project.device, project.mappings) if one.sensor is not None}
    if not mapped:
        raise ProjectError("The log has no column that belongs to a sensor of this device.")
    late = log.time_s >= start_s
    values = {name: celsius(one, log.column(one.column).values[late]) for name, one in mapped.items()}
    return log.time_s[late] - start_s, values


def judge_course(expected: Expected, seconds: np.ndarray, columns: dict[str, np.ndarray]) -> Judged:
    """Return what courses of sensors say, looked at every ten seconds, each the mean of the last few."""
    told: Judged | None = None
    until = min(float(seconds[-1]), float(expected.times_s[-1]))
    for at in np.arange(_EVERY_S, until + 1e-6, _EVERY_S):
        inside = (seconds > at - _MEAN_S) & (seconds <= at)
        readings = {
            name: float(np.nanmean(values[inside]))
            for name, values in columns.items()
            if name in expected.sensors and inside.any() and np.isfinite(values[inside]).any()
        }
        if readings:
            told = judge(expected, float(at), readings)
            if told.stop:
                return told
    if told is None:
        raise ProjectError("The log is too short, or none of its sensors is one of this device.")
    return told
