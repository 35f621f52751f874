"""Propose what the columns of a log are: sensors by their words, power, clock, fan, noise and air by words and units."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Sequence

import numpy as np

from ashen_bridge.logs.log import Column, Log
from ashen_bridge.model.bodies import Component, ComponentRole
from ashen_bridge.model.device import Device, Sensor
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.records import RunChannel

_ALIKE = {
    "gpu": "die", "cpu": "die", "core": "die", "processor": "die", "chip": "die", "asic": "die", "package": "die", "soc": "die",
    "kern": "die", "coeur": "die", "nucleo": "die", "puce": "die", "processeur": "die", "procesador": "die", "prozessor": "die",
    "junction": "hot", "hotspot": "hot", "spot": "hot", "max": "hot", "peak": "hot", "hottest": "hot", "chaud": "hot",
    "caliente": "hot", "heissester": "hot", "heisster": "hot", "tjmax": "hot",
    "avg": "mean", "average": "mean", "edge": "mean", "mittel": "mean", "mittelwert": "mean", "moyenne": "mean", "media": "mean",
    "mem": "memory", "vram": "memory", "ram": "memory", "dram": "memory", "memoire": "memory", "memoria": "memory",
    "vrm": "regulator", "mosfet": "regulator", "phase": "regulator", "regulators": "regulator", "regulateur": "regulator",
    "regulador": "regulator", "spannungswandler": "regulator",
    "temp": "temperature", "tmp": "temperature", "temperatura": "temperature", "temperatur": "temperature",
    "puissance": "power", "potencia": "power", "watt": "power", "watts": "power", "w": "power", "consumption": "power",
    "takt": "clock", "frequenz": "clock", "freq": "clock", "frequency": "clock", "frequence": "clock", "frecuencia": "clock",
    "mhz": "clock", "ghz": "clock", "clk": "clock", "reloj": "clock", "horloge": "clock",
    "rpm": "fan", "fans": "fan", "ventilateur": "fan", "ventilador": "fan", "drehzahl": "fan", "tach": "fan",
    "room": "ambient", "raum": "ambient", "raumluft": "ambient", "air": "ambient", "luft": "ambient", "zimmer": "ambient",
    "ambiante": "ambient", "ambiente": "ambient", "salle": "ambient", "sala": "ambient", "intake": "ambient", "inlet": "ambient",
    "score": "rate", "fps": "rate", "frames": "rate", "throughput": "rate", "hashrate": "rate", "hashes": "rate", "jobs": "rate",
    "bildrate": "rate", "debit": "rate", "punkte": "rate",
    "lautstaerke": "noise", "schall": "noise", "bruit": "noise", "ruido": "noise",
}  # fmt: skip
_BEGIN = {
    "umgebung": "ambient", "luefter": "fan", "leistung": "power", "speicher": "memory", "memoire": "memory",
    "regler": "regulator", "chiptemp": "die", "kerntemp": "die", "ventil": "fan",
}  # fmt: skip
"""Beginnings of words that are put together."""
_OF_OTHERS = {"memory", "regulator", "ambient", "fan"}
"""Words that say whose a temperature is: with one of them a column is no other's."""
_SPELT = str.maketrans({"ä": "ae", "ö": "oe", "ü": "ue", "ß": "ss", "œ": "oe"})
_RATE_UNITS = {"fps", "frames/s", "jobs/s", "it/s", "h/s", "kh/s", "mh/s", "gh/s", "ops/s", "pts", "score", "1/s"}
_TEMPERATURE_UNITS = {"°C", "°F", "K"}


class MappingError(AshenError, ValueError):
    """A column mapping that leads nowhere."""


def words_of(text: str) -> set[str]:
    """Return the words of a name, alike ones as one, without accents.

    >>> sorted(words_of("GPU Hot-Spot Temp")), sorted(words_of("Température mémoire"))
    (['die', 'hot', 'temperature'], ['memory', 'temperature'])
    """
    plain = text.lower().translate(_SPELT)
    plain = "".join(sign for sign in unicodedata.normalize("NFKD", plain) if not unicodedata.combining(sign))
    parts = re.findall(r"[^\W\d_]+|\d+", re.sub(r"hot[ _-]spot", "hotspot", plain))
    return {_ALIKE.get(part) or next((word for begin, word in _BEGIN.items() if part.startswith(begin)), part) for part in parts}


def propose(log: Log, device: Device, remembered: Sequence[RunChannel] = ()) -> tuple[RunChannel, ...]:
    """Return one channel per column: as it was mapped before where the column's name is known, else the best guess.

    A sensor is proposed for one column at most, the one whose words fit best.
    """
    here = {column.name for column in log.columns}
    known = {channel.column: channel for channel in remembered if channel.column in here}
    roles = {column.name: _role(column) for column in log.columns}
    for name in _steady_powers(log, {name for name, role in roles.items() if role == "power"}, device):
        roles[name] = "other"
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
    if column.unit.lower() in _RATE_UNITS or "rate" in words:
        return "rate"
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
    same = column.name.strip().lower() == sensor.label.strip().lower()
    if here & _OF_OTHERS != there & _OF_OTHERS and not same:
        return 0.0  # a word that says whose it is excludes all others
    score = float(len((here & there) - {"temperature", "s", "1", "0"}))
    if same:
        score += 2.0
    if (sensor.reads == "max" and "hot" in here) or (sensor.reads == "mean" and "mean" in here):
        score += 1.0
    if (sensor.reads == "mean" and "hot" in here) or (sensor.reads == "max" and "mean" in here):
        score -= 1.0
    if sensor.also and here & there & _OF_OTHERS:
        score += 1.0  # one column for a whole group is the hottest of it, or its mean
    if sensor.reads == "mean" and not here & {"hot", "mean"}:
        score += 0.5  # a plain "die temperature" is the average as a rule; common practice, no source
    numbers = {word for word in here if word.isdigit()}, {word for word in there if word.isdigit()}
    if numbers[0] and numbers[1]:
        score += 0.6 if numbers[0] & numbers[1] else -0.8
    return score


def guessed(log: Log) -> dict[str, str]:
    """Return which columns are hot, core, memory, power, clock, fan and ambient by their words alone, without a device.

    Of several for one thing the hottest counts; of powers the one that changes most with the load.
    """
    roles = {column.name: _role(column) for column in log.columns if np.isfinite(column.values).any()}
    late = {column.name: float(np.nanpercentile(column.values, 90)) for column in log.columns if column.name in roles}
    found: dict[str, str] = {}

    def put(what: str, name: str, rank: float) -> None:
        if what not in found or rank > ranks[what]:
            found[what], ranks[what] = name, rank

    ranks: dict[str, float] = {}
    for column in log.columns:
        name, words = column.name, words_of(column.name)
        role, others = roles.get(name), words & _OF_OTHERS
        if role == "temperature" and others == {"memory"}:
            put("memory", name, late[name])
        elif role == "temperature" and not others and ("hot" in words or words & {"die", "mean"}):
            put("hot" if "hot" in words else "core", name, late[name])
        elif role == "power":
            put("power", name, float(np.ptp(np.nanpercentile(column.values, (5, 95)))) + 1e-3 * late[name])
        elif role in ("clock", "fan", "ambient") and not (role == "clock" and "memory" in words):
            put(role, name, late[name])
    return found


def _steady_powers(log: Log, powers: set[str], device: Device) -> set[str]:
    """Return the powers of the whole that are not its own: all but the one that changes most with the load."""
    swings = {
        column.name: float(np.ptp(np.nanpercentile(column.values, (5, 95))))
        for column in log.columns
        if column.name in powers and np.isfinite(column.values).any() and _powered(column, device) is None
    }
    most = max(swings, key=lambda name: swings[name], default=None)
    return {name for name in swings if name != most}


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
    roles = ("rate", "power", "clock", "fan", "noise", "ambient", "other", "temperature")
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
