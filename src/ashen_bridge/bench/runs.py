"""What a run says: its logs cleaned and kept, its settled window, figures per channel, climbing and throttling in words."""

from __future__ import annotations

import gzip
import io
import zlib
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
import pandas as pd

from ashen_bridge.bench.reading import Column, Log
from ashen_bridge.bench.settling import Heading, Refusal, Throttling, heading, loaded_span, settled_window, throttling
from ashen_bridge.bench.statistics import Channel, Floats, channel
from ashen_bridge.model.device import Device
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.records import Run, RunChannel


class RunError(AshenError, ValueError):
    """A run that cannot say what it is asked for."""


def table(log: Log) -> pd.DataFrame:
    """Return a log as a table: elapsed seconds, one column each with its unit, `-` where it has none."""
    columns = {"time [s]": np.round(log.time_s, 3)}
    return pd.DataFrame(columns | {f"{one.name} [{one.unit or '-'}]": one.values for one in log.columns})


def as_csv(log: Log) -> str:
    """Return a log as clean CSV; see `table`."""
    return str(table(log).to_csv(index=False, float_format="%.6g"))


def pack_log(log: Log) -> bytes:
    """Return a log as compressed clean CSV, equal bytes for equal logs."""
    return gzip.compress(as_csv(log).encode(), mtime=0)


def unpack_log(content: bytes) -> Log:
    """Return the log that was packed. Raises `RunError` if it is not one."""
    try:
        read = pd.read_csv(io.BytesIO(gzip.decompress(content)), low_memory=False)
        columns = [_column(str(name), read[name].to_numpy(dtype=float)) for name in read.columns[1:]]
        return Log(read.iloc[:, 0].to_numpy(dtype=float), tuple(columns))
    except (OSError, EOFError, ValueError, IndexError, zlib.error, pd.errors.ParserError) as error:
        raise RunError(f"A run's log is damaged ({type(error).__name__}).") from error


def _column(heading: str, values: Floats) -> Column:
    name, _, unit = heading.removesuffix("]").rpartition(" [")
    return Column(name, "" if unit == "-" else unit, values)


@dataclass(frozen=True)
class PassFigures:
    """One pass: its settled window [s] (None if it still climbs) and the figures of every mapped channel by column."""

    window_s: tuple[float, float] | None
    channels: dict[str, Channel]
    climbing: dict[str, Heading | Refusal]
    throttled: Throttling | None
    ambient_c: float | None


@dataclass(frozen=True)
class RunFigures:
    """All passes of a run."""

    run: Run
    passes: tuple[PassFigures, ...]

    def values(self, column: str) -> list[float]:
        """Return what counts of a channel, one value per pass: the run's own statistic."""
        found = [one.channels[column] for one in self.passes if column in one.channels]
        return [{"mean": c.mean, "maximum": c.maximum, "p99": c.p99}[self.run.statistic] for c in found]

    def column_of(self, sensor: str) -> str | None:
        """Return the column that is mapped to a sensor."""
        return next((channel.column for channel in self.run.channels if channel.sensor == sensor), None)


def celsius(mapped: RunChannel, values: Floats) -> Floats:
    """Return temperatures in °C, whatever the logger wrote."""
    if mapped.unit == "°F":
        return (values - 32) / 1.8
    return values - 273.15 if mapped.unit == "K" else values


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
    return PassFigures(run.settled_s or settled, found, climbing, _throttled(run, log, series, device), air)


def _throttled(run: Run, log: Log, series: dict[str, Floats], device: Device) -> Throttling | None:
    drivers = {one.column: series[one.column] for one in run.channels if one.role in ("power", "clock") and one.column in series}
    limits = {limit.sensor: limit.max_c.value for limit in device.limits if limit.sensor}
    for one in run.channels:
        if one.sensor in limits and one.column in series:
            found = throttling(log.time_s, series[one.column], limits[one.sensor], drivers)
            if found is not None:
                return found
    return None


def in_words(found: RunFigures, device: Device) -> list[str]:
    """Return what there is to say of a run, one sentence each."""
    labels = {sensor.id: sensor.label for sensor in device.sensors}
    names = {one.column: labels.get(one.sensor or "", one.column) for one in found.run.channels}
    said = []
    for n, one in enumerate(found.passes, start=1):
        head = f"Pass {n}: " if len(found.passes) > 1 else ""
        said += [head + sentence for sentence in _pass_in_words(one, names)]
    return said


def _pass_in_words(one: PassFigures, names: dict[str, str]) -> Iterator[str]:
    if one.window_s is not None:
        yield f"settled from {one.window_s[0] / 60:.1f} to {one.window_s[1] / 60:.1f} min."
    for column, ahead in one.climbing.items():
        way = "falling" if ahead.slope_per_min < 0 else "climbing"
        moving = f"{names[column]} is still {way} at {abs(ahead.slope_per_min):.1f} K/min"
        if isinstance(ahead, Heading):
            yield f"{moving}, heading for {ahead.end:.1f} ± {(ahead.high - ahead.low) / 2:.1f} °C."
        else:
            yield f"{moving}; its end cannot be told: {ahead.reason}."
    if one.throttled is not None:
        t = one.throttled
        fell = f"{t.channel} fell from {t.before:.0f} to {t.after:.0f} while a temperature sat at {t.at_c:.0f} °C"
        yield f"throttled: {fell}. The true temperature would have been higher."
    spiky = sum(stats.spikes for stats in one.channels.values())
    if spiky:
        yield f"{spiky} single sample{'s stand' if spiky > 1 else ' stands'} out and {'were' if spiky > 1 else 'was'} set apart."
