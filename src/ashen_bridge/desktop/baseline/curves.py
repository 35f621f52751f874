"""Which curves of a run are drawn and how: of many sensors those that were chosen, else the hottest of each group."""

from __future__ import annotations

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.desktop.charts.tints import groups_of, tints
from ashen_bridge.desktop.charts.trace_picture import Trace, TracePicture
from ashen_bridge.logs.log import Log
from ashen_bridge.logs.outcome import RunFigures
from ashen_bridge.logs.scales import celsius
from ashen_bridge.model.device import Device
from ashen_bridge.model.records import RunChannel

_MOST = 6
_WARM = ("temperature", "ambient")


def label_of(channel: RunChannel, device: Device) -> str:
    """Return what to call a column: the sensor it is, else its own name."""
    return next((sensor.label for sensor in device.sensors if sensor.id == channel.sensor), channel.column)


def _series(log: Log, channel: RunChannel) -> Floats | None:
    column = next((one for one in log.columns if one.name == channel.column), None)
    if column is None:
        return None
    return celsius(channel, column.values) if channel.role in _WARM else column.values


def shown_columns(found: RunFigures, number: int, device: Device, chosen: tuple[str, ...]) -> tuple[str, ...]:
    """Return the columns that are drawn in colour, hottest first."""
    figures = found.passes[number].channels
    warm = [one for one in found.run.channels if one.role == "temperature" and one.column in figures]
    order = sorted(warm, key=lambda one: -figures[one.column].mean)
    wanted = [one.column for one in order if one.column in chosen]
    if wanted:
        return tuple(wanted[:_MOST])
    groups = {sensor.id: sensor.group for sensor in device.sensors}
    first: dict[str, str] = {}
    for one in order:
        first.setdefault(groups.get(one.sensor or "", one.column if one.sensor else ""), one.column)
    air = [one.column for one in found.run.channels if one.role == "ambient" and one.column in figures]
    return (*list(first.values())[: _MOST - 1], *air[:1])


def run_picture(found: RunFigures, number: int, log: Log, device: Device, chosen: tuple[str, ...]) -> TracePicture:
    """Return the curves of one pass with its settled window."""
    coloured = shown_columns(found, number, device, chosen)
    groups = {sensor.id: sensor.group for sensor in device.sensors}
    by_column = {one.column: one for one in found.run.channels}
    shown = [by_column[name] for name in coloured]
    shades = tints(
        groups_of(device), [None if one.role == "ambient" else groups.get(one.sensor or "", one.column) for one in shown]
    )
    upper = []
    for one in found.run.channels:
        values = _series(log, one) if one.role in _WARM else None
        if values is not None:
            shade = shades[coloured.index(one.column)] if one.column in coloured else None
            upper.append(Trace(label_of(one, device), "°C", log.time_s, values, shade))
    wanted = {one.sensor for one in found.run.channels if one.column in coloured and one.sensor}
    limits = tuple(limit for sensor, limit in device.limits_c().items() if sensor in wanted)
    return TracePicture(
        tuple(upper),
        _below(found, log, chosen),
        found.passes[number].window_s,
        found.run.settled_s is not None,
        limits,
        movable=True,
    )


def _below(found: RunFigures, log: Log, chosen: tuple[str, ...]) -> tuple[Trace, ...]:
    """The chosen column that is no temperature, else power, clock or fan, whichever there is."""
    others = [one for one in found.run.channels if one.role not in _WARM and any(c.name == one.column for c in log.columns)]
    wanted = [one for one in others if one.column in chosen]
    by_role = [one for role in ("rate", "power", "clock", "fan", "noise") for one in others if one.role == role]
    for one in [*wanted, *by_role][:1]:
        values = _series(log, one)
        if values is not None:
            return (Trace(one.column, one.unit, log.time_s, values, 4),)
    return ()


def beside_picture(
    pairs: list[tuple[RunFigures, Log, tuple[float, float] | None]], sensor: str, device: Device, over_air: bool
) -> TracePicture:
    """Return one sensor in two runs, both from the start of their load on; the first one dashed."""
    label = next((one.label for one in device.sensors if one.id == sensor), sensor)
    upper, lower = [], []
    for n, (found, log, load) in enumerate(pairs):
        start = load[0] if load is not None else float(log.time_s[0])
        column = found.column_of(sensor)
        channel = next((one for one in found.run.channels if one.column == column), None)
        values = _series(log, channel) if channel is not None else None
        if values is None:
            continue
        air = found.passes[0].ambient_c if over_air else None
        shifted = values - (air or 0.0)
        keep = log.time_s >= start - 30
        name = found.run.label
        unit = "K over the air" if over_air else "°C"
        tint = 1 - n  # before in steel, after in ember
        upper.append(Trace(name, unit, log.time_s[keep] - start, np.asarray(shifted[keep]), tint, dashed=n == 0))
        power = next((one for one in found.run.channels if one.role == "power"), None)
        watts = _series(log, power) if power is not None else None
        if power is not None and watts is not None:
            lower.append(Trace(found.run.label, power.unit, log.time_s[keep] - start, watts[keep], tint, dashed=n == 0))
    return TracePicture(tuple(upper), tuple(lower), title=label)
