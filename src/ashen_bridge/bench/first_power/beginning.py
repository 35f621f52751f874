"""When the load of a log began, and what is to be expected of a device that began as that log has it. Light to import."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from ashen_bridge.bench.first_power.result import Expected
from ashen_bridge.logs.log import Log
from ashen_bridge.logs.mapping import propose
from ashen_bridge.logs.scales import celsius
from ashen_bridge.model.project import Project

_MEAN_S = 5.0
_ROSE_K, _STILL_K, _WARM_K = 5.0, 1.0, 15.0


def power_on(log: Log, project: Project, point: str) -> float | None:
    """Return when the load of a log began [s of the log], None while it has not.

    Where power is logged, it is when that first stays above half of the operating point's. Else it is when a sensor began to
    rise; a log that begins warm began under load.
    """
    channels = propose(log, project.device, project.mappings)
    at = project.point(point)
    wanted = 0.5 * (at.board_w.value if at.board_w is not None else sum(one.value for one in at.powers_w.values()))
    power = next((one.column for one in channels if one.role == "power" and one.body is None and one.unit == "W"), None)
    if power is not None and wanted > 0:
        on = log.column(power).values >= wanted
        stays = on & np.append(on[1:], on[-1:])  # one reading alone is a slip
        return float(log.time_s[np.argmax(stays)]) if stays.any() else None
    temperatures = [celsius(one, log.column(one.column).values) for one in channels if one.sensor is not None]
    if not temperatures:
        return float(log.time_s[0])
    values = np.array(temperatures)
    first = np.nanmedian(values[:, :3], axis=1, keepdims=True)
    risen = np.flatnonzero(np.nanmax(values - first, axis=0) > _ROSE_K)
    if len(risen):
        still = np.flatnonzero(np.nanmax(values - first, axis=0)[: risen[0]] < _STILL_K)
        return float(log.time_s[still[-1] if len(still) else 0])
    warm = float(np.nanmax(first)) > at.ambient_c.value + _WARM_K
    return float(log.time_s[0]) if warm else None


def from_start(expected: Expected, log: Log, project: Project, start_s: float) -> Expected:
    """Return what is to be expected of a device that began as a log has it: warm from idling, in a room of its own.

    What it was warmer than the air fades as a step of load grows (the system is linear and the same); a warmer room stays.
    """
    channels = propose(log, project.device, project.mappings)
    before = (log.time_s <= start_s) & (log.time_s >= start_s - _MEAN_S)
    room = next((celsius(one, log.column(one.column).values) for one in channels if one.role == "ambient"), None)
    air = float(np.nanmean(room[before])) if room is not None and np.isfinite(room[before]).any() else expected.ambient_c
    excess = np.zeros(len(expected.sensors))
    for one in channels:
        if one.sensor in expected.sensors:
            values = celsius(one, log.column(one.column).values)[before]
            if np.isfinite(values).any():
                excess[expected.sensors.index(one.sensor)] = float(np.nanmean(values)) - air
    moved = excess * (1.0 - expected.share) + (air - expected.ambient_c)
    cases = tuple(replace(one, shown_c=one.shown_c + moved) for one in expected.cases)
    start = excess + (air - expected.ambient_c)
    return replace(expected, healthy_c=expected.healthy_c + moved, cases=cases, start_k=start)
