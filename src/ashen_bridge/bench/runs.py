"""What a run says: its logs cleaned and kept, its settled window, figures per channel, climbing and throttling in words."""

from __future__ import annotations

from collections.abc import Sequence

from ashen_bridge.bench.log import Log
from ashen_bridge.bench.outcome import PassFigures, RunFigures, Throttling
from ashen_bridge.bench.scales import celsius
from ashen_bridge.bench.settling import heading, loaded_span, settled_window, throttling
from ashen_bridge.bench.statistics import Floats, channel
from ashen_bridge.model.device import Device
from ashen_bridge.model.records import Run


def figures(run: Run, logs: Sequence[Log], device: Device) -> RunFigures:
    """Return the figures of a run's passes.

    Only what was logged under load counts, where a power channel tells it. The settled window is that set by hand, else where all
    mapped temperatures have come to rest; where one still climbs, the last fifth is measured, where it heads is told apart.
    """
    return RunFigures(run, tuple(_pass(run, log, device) for log in logs))


def _pass(run: Run, log: Log, device: Device) -> PassFigures:
    columns = {one.name: one.values for one in log.columns}
    mapped = [one for one in run.channels if one.column in columns and one.role != "other"]
    warm = [one for one in mapped if one.role == "temperature"]
    series = {
        one.column: celsius(one, columns[one.column]) if one.role in ("temperature", "ambient") else columns[one.column]
        for one in mapped
    }
    load = next((series[one.column] for one in mapped if one.role == "power"), None)
    first, last = loaded_span(log.time_s, load)
    under = (log.time_s >= first) & (log.time_s <= last)
    time = log.time_s[under]
    windows = {one.column: settled_window(time, series[one.column][under]) for one in warm}
    climbing = {name: heading(time, series[name][under]) for name, window in windows.items() if window is None}
    start = max((window[0] for window in windows.values() if window is not None), default=None)
    settled = None if climbing or start is None else (start, last)
    window = run.settled_s or settled or (last - 0.2 * (last - first), last)
    inside = (log.time_s >= window[0]) & (log.time_s <= window[1])
    found = {name: stats for name, values in series.items() if (stats := channel(values[inside])) is not None}
    air = next((found[one.column].mean for one in mapped if one.role == "ambient" and one.column in found), None)
    if air is None and run.ambient_c is not None:
        air = run.ambient_c.value
    return PassFigures(run.settled_s or settled, found, climbing, _throttled(run, log, series, device), air, (first, last))


def _throttled(run: Run, log: Log, series: dict[str, Floats], device: Device) -> Throttling | None:
    drivers = {one.column: series[one.column] for one in run.channels if one.role in ("power", "clock") and one.column in series}
    limits = {limit.sensor: limit.max_c.value for limit in device.limits if limit.sensor}
    for one in run.channels:
        if one.sensor in limits and one.column in series:
            found = throttling(log.time_s, series[one.column], limits[one.sensor], drivers)
            if found is not None:
                return found
    return None
