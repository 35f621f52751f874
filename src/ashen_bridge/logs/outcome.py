"""What a run comes to: figures per channel, what still climbs, what throttled. Plain results, nothing computed here."""

from __future__ import annotations

import math
import statistics
from dataclasses import dataclass

from ashen_bridge.model.device import Device
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.records import Run


class RunError(AshenError, ValueError):
    """A run that cannot say what it is asked for."""


@dataclass(frozen=True)
class Channel:
    """Figures of one channel over a window. `effective` is how many independent samples its `count` are worth."""

    mean: float
    sd: float
    standard_error: float
    maximum: float
    p99: float
    count: int
    effective: float
    spikes: int


@dataclass(frozen=True)
class Heading:
    """What a climbing channel is heading for: end with its 95 % interval, time constants [s], present slope per minute."""

    end: float
    low: float
    high: float
    constants_s: tuple[float, ...]
    slope_per_min: float


@dataclass(frozen=True)
class Refusal:
    """Why no end can be told from the data."""

    reason: str
    slope_per_min: float


@dataclass(frozen=True)
class Throttling:
    """A temperature that sat at its limit while power or clock fell: since when [s], from what to what, of which channel."""

    since_s: float
    channel: str
    before: float
    after: float
    at_c: float


@dataclass(frozen=True)
class PassFigures:
    """One pass: its settled window [s], None if it still climbs, figures of mapped columns, and when it was loaded [s]."""

    window_s: tuple[float, float] | None
    channels: dict[str, Channel]
    climbing: dict[str, Heading | Refusal]
    throttled: Throttling | None
    ambient_c: float | None
    loaded_s: tuple[float, float] | None = None


@dataclass(frozen=True)
class RunFigures:
    """All passes of a run."""

    run: Run
    passes: tuple[PassFigures, ...]

    def counted(self, figures: Channel) -> float:
        """Return what counts of a channel's figures: the run's own statistic."""
        return {"mean": figures.mean, "maximum": figures.maximum, "p99": figures.p99}[self.run.statistic]

    def values(self, column: str) -> list[float]:
        """Return what counts of a channel, one value per pass that has it."""
        return [self.counted(one.channels[column]) for one in self.passes if column in one.channels]

    def hot_minus_mean(self, device: Device) -> tuple[tuple[str, float, float], ...]:
        """Return hot spot minus average of every body that has both [K]: its id, mean over passes, standard error of that."""
        found = []
        for hot in (sensor for sensor in device.sensors if sensor.reads == "max" and not sensor.also):
            mean = next((one for one in device.sensors if one.body == hot.body and one.reads == "mean" and not one.also), None)
            top, middle = self.column_of(hot.id), self.column_of(mean.id) if mean is not None else None
            if top is None or middle is None:
                continue
            both = [one.channels for one in self.passes if top in one.channels and middle in one.channels]
            apart = [self.counted(one[top]) - self.counted(one[middle]) for one in both]
            if apart:
                error = statistics.stdev(apart) / math.sqrt(len(apart)) if len(apart) > 1 else 0.0
                found.append((hot.body, statistics.fmean(apart), error))
        return tuple(found)

    def column_of(self, sensor: str) -> str | None:
        """Return the column that is mapped to a sensor."""
        return next((channel.column for channel in self.run.channels if channel.sensor == sensor), None)
