"""What a run says: its logs cleaned and kept, its settled window, figures per channel, climbing and throttling in words."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from ashen_bridge.arrays import Floats
from ashen_bridge.logs.log import Log
from ashen_bridge.logs.outcome import Channel, PassFigures, RunFigures, Throttling
from ashen_bridge.logs.scales import celsius
from ashen_bridge.logs.settling import at_rest, last_step, loaded_span, throttling
from ashen_bridge.logs.statistics import channel
from ashen_bridge.model.device import Device
from ashen_bridge.model.records import Run, RunChannel


def figures(run: Run, logs: Sequence[Log], device: Device, slowest_s: float | None = None) -> RunFigures:
    """Return the figures of a run's passes.

    Only what was logged under load counts, where a power channel tells it. The settled window is that set by hand, else where all
    mapped temperatures have come to rest; where one still climbs, the last fifth is measured, where it heads is told apart.
    `slowest_s` is about how slow the device is by its model, within a factor of three; it only says how slow a tail may be.
    """
    passes = [_pass(run, log, device, slowest_s) for log in logs]
    return _with_spots(run, passes, device)


def _with_spots(run: Run, passes: list[PassFigures], device: Device) -> RunFigures:
    """Put in what was read by hand: the same in every pass, or a pass of its own where nothing was logged."""
    if not run.spots:
        return RunFigures(run, tuple(passes))
    labels = {sensor.id: sensor.label for sensor in device.sensors}
    logged = {one.sensor for one in run.channels if one.sensor}
    spots = [spot for spot in run.spots if spot.sensor not in logged]
    names = {spot.sensor: f"{labels.get(spot.sensor, spot.sensor)}, by hand" for spot in spots}
    read = {
        names[spot.sensor]: Channel(v := spot.value_c.value, 0.0, spot.value_c.uncertainty, v, v, 1, 1.0, 0) for spot in spots
    }
    air = run.ambient_c.value if run.ambient_c is not None else None
    whole = passes or [PassFigures((0.0, 0.0), {}, {}, None, air)]
    channels = [RunChannel(column=name, unit="°C", sensor=sensor, role="temperature") for sensor, name in names.items()]
    grown = run.model_copy(update={"channels": (*run.channels, *channels)})
    return RunFigures(grown, tuple(replace(one, channels=one.channels | read) for one in whole))


def _pass(run: Run, log: Log, device: Device, slowest_s: float | None) -> PassFigures:
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
    since = last_step(time, load[under] if load is not None else None)
    standing = {one.column: at_rest(time, series[one.column][under], since, slowest_s) for one in warm}
    climbing = {name: one.ahead for name, one in standing.items() if one.window is None and one.ahead is not None}
    start = max((one.window[0] for one in standing.values() if one.window is not None), default=None)
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
    limits = device.limits_c()
    for one in run.channels:
        if one.sensor in limits and one.column in series:
            found = throttling(log.time_s, series[one.column], limits[one.sensor], drivers)
            if found is not None:
                return found
    return None
