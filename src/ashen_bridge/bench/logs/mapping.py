"""Propose what the columns of a log are: sensors by their words, power, clock, fan, noise and air by words and units."""

from __future__ import annotations

import re
from collections.abc import Sequence

from ashen_bridge.bench.logs.log import Column, Log
from ashen_bridge.model.bodies import Component, ComponentRole
from ashen_bridge.model.device import Device, Sensor
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.records import RunChannel

_ALIKE = {
    "gpu": "die", "cpu": "die", "core": "die", "processor": "die", "chip": "die", "asic": "die", "package": "die",
    "junction": "hot", "hotspot": "hot", "spot": "hot", "max": "hot", "peak": "hot",
    "avg": "mean", "average": "mean", "edge": "mean",
    "mem": "memory", "vram": "memory", "ram": "memory", "dram": "memory", "speicher": "memory",
    "vrm": "regulator", "mosfet": "regulator", "phase": "regulator", "regler": "regulator",
    "temperatur": "temperature", "temp": "temperature", "leistung": "power", "takt": "clock", "lüfter": "fan", "luefter": "fan",
    "umgebung": "ambient", "room": "ambient", "raum": "ambient", "raumluft": "ambient", "air": "ambient", "luft": "ambient",
    "zimmer": "ambient", "chiptemp": "die", "lautstärke": "noise", "schall": "noise", "regulators": "regulator",
    "w": "power", "watt": "power", "watts": "power", "mhz": "clock", "ghz": "clock", "rpm": "fan",
    "fans": "fan", "intake": "ambient", "inlet": "ambient",
}  # fmt: skip
_TEMPERATURE_UNITS = {"°C", "°F", "K"}


class MappingError(AshenError, ValueError):
    """A column mapping that leads nowhere."""


def words_of(text: str) -> set[str]:
    """Return the words of a name, alike ones as one.

    >>> sorted(words_of("GPU Hot-Spot Temp"))
    ['die', 'hot', 'temperature']
    """
    parts = re.findall(r"[a-zäöü]+|\d+", text.lower().replace("hot spot", "hotspot").replace("hot-spot", "hotspot"))
    return {_ALIKE.get(part, part) for part in parts}


def propose(log: Log, device: Device, remembered: Sequence[RunChannel] = ()) -> tuple[RunChannel, ...]:
    """Return one channel per column: as it was mapped before where the column's name is known, else the best guess.

    A sensor is proposed for one column at most, the one whose words fit best.
    """
    here = {column.name for column in log.columns}
    known = {channel.column: channel for channel in remembered if channel.column in here}
    roles = {column.name: _role(column) for column in log.columns}
    scored = sorted(
        (
            (_fit(column, sensor, device), column.name, sensor.id)
            for column in log.columns
            if column.name not in known and roles[column.name] == "temperature"
            for sensor in device.sensors
        ),
        reverse=True,
    )
    sensors: dict[str, str] = {}
    taken = {channel.sensor for channel in known.values() if channel.sensor}
    for score, column_name, sensor_id in scored:
        if score >= 1.5 and column_name not in sensors and sensor_id not in taken:
            sensors[column_name] = sensor_id
            taken.add(sensor_id)
    found = []
    for column in log.columns:
        if column.name in known:
            found.append(known[column.name])
            continue
        role = roles[column.name]
        sensor = sensors.get(column.name)
        body = _powered(column, device) if role == "power" else None
        found.append(RunChannel(column=column.name, unit=column.unit, sensor=sensor, role=role, body=body))
    return tuple(found)


def _role(column: Column) -> str:
    words = words_of(column.name)
    if column.unit in _TEMPERATURE_UNITS or ("temperature" in words and column.unit == ""):
        return "ambient" if "ambient" in words else "temperature"
    if column.unit in ("W", "mW") or "power" in words:
        return "power"
    if column.unit in ("MHz", "GHz") or "clock" in words:
        return "clock"
    if column.unit in ("rpm", "1/min") or "fan" in words:
        return "fan"
    if column.unit == "dB" or "noise" in words:
        return "noise"
    return "ambient" if "ambient" in words else "other"


def _fit(column: Column, sensor: Sensor, device: Device) -> float:
    """How well a column's words fit a sensor's: shared words, a hit on what it reads, numbers that agree."""
    here = words_of(column.name)
    body = next((one for one in device.bodies if one.id == sensor.body), None)
    there = words_of(f"{sensor.label} {sensor.id} {sensor.group}") | (words_of(body.label) if body else set())
    role = body.role if isinstance(body, Component) else None
    if role is ComponentRole.DIE:
        there.add("die")
    elif role is not None:
        there.add(role.value)
    score = float(len((here & there) - {"temperature", "s", "1", "0"}))
    if column.name.strip().lower() == sensor.label.strip().lower():
        score += 2.0
    if (sensor.reads == "max" and "hot" in here) or (sensor.reads == "mean" and "mean" in here):
        score += 1.0
    if (sensor.reads == "mean" and "hot" in here) or (sensor.reads == "max" and "mean" in here):
        score -= 1.0
    if sensor.reads == "mean" and not here & {"hot", "mean"}:
        score += 0.5  # a plain "die temperature" is the average as a rule; common practice, no source
    numbers = {word for word in here if word.isdigit()}, {word for word in there if word.isdigit()}
    if numbers[0] and numbers[1]:
        score += 0.6 if numbers[0] & numbers[1] else -0.8
    return score


def _powered(column: Column, device: Device) -> str | None:
    words = words_of(column.name)
    dies = [body.id for body in device.bodies if isinstance(body, Component) and body.role is ComponentRole.DIE]
    return dies[0] if dies and "die" in words else None


def apply_mappings(channels: Sequence[RunChannel], wanted: Sequence[str], device: Device) -> tuple[RunChannel, ...]:
    """Return channels with some set by hand, each as `COLUMN=SENSOR`, or `COLUMN=power`, `=ambient`, `=other` and so on.

    Raises `MappingError` for a column or target that is not there.
    """
    by_name = {channel.column: channel for channel in channels}
    sensors = {sensor.id for sensor in device.sensors}
    roles = ("power", "clock", "fan", "noise", "ambient", "other", "temperature")
    for text in wanted:
        column, equals, target = text.partition("=")
        column, target = column.strip(), target.strip()
        if not equals or column not in by_name:
            raise MappingError(
                f"“{text}”: there is no column “{column}” in this log; there are: {', '.join(list(by_name)[:12])}."
            )
        if target in sensors:
            by_name[column] = by_name[column].model_copy(update={"sensor": target, "role": "temperature"})
        elif target in roles:
            by_name[column] = by_name[column].model_copy(update={"sensor": None, "role": target})
        else:
            raise MappingError(
                f"“{text}”: there is no sensor “{target}”; there are: {', '.join(sorted(sensors))}, or {', '.join(roles)}."
            )
    twice = [channel.sensor for channel in by_name.values() if channel.sensor]
    for sensor in twice:
        if twice.count(sensor) > 1:
            raise MappingError(f"Two columns are mapped to sensor “{sensor}”; set one of them to other.")
    return tuple(by_name.values())
