"""Load patterns: how they are written, and what is looked at while they run."""

from __future__ import annotations

import re
from dataclasses import dataclass, replace

from ashen_bridge.model.build import OperatingPoint
from ashen_bridge.model.errors import AshenError
from ashen_bridge.thermal.transient import Stage
from ashen_bridge.words.numbers import short

_MOST_STAGES = 1000
_MOST_S = 7 * 86400.0
_MOST_SHARE = 10.0
_UNITS = {"s": 1.0, "sec": 1.0, "min": 60.0, "h": 3600.0}
_TIME = r"(\d+(?:\.\d+)?)\s*(s|sec|min|h)"


class PatternError(AshenError, ValueError):
    """A load pattern that cannot be read."""


@dataclass(frozen=True)
class Pattern:
    """A load over time: the share of power the device is soaked at before, then stages.

    start_c : temperature [°C] the whole device starts from instead of being soaked. own_s : how long to go on with the operating
    point's own cycle, in place of stages.
    """

    before: float
    stages: tuple[Stage, ...]
    start_c: float | None = None
    own_s: float = 0.0

    @property
    def seconds(self) -> float:
        """How long all of it takes."""
        return sum(stage.seconds for stage in self.stages) or self.own_s

    def at(self, point: OperatingPoint) -> Pattern:
        """Return the pattern with the operating point's own cycle written out. Raises `PatternError` if it has none."""
        if not self.own_s:
            return self
        if not point.cycle:
            raise PatternError(f"Operating point '{point.id}' has no cycle of its own to go through.")
        left, stages = self.own_s, list[Stage]()
        while left > 1e-9:
            for stretch in point.cycle:
                if left > 1e-9:
                    stages.append(Stage(min(stretch.seconds, left), stretch.share))
                    left -= stretch.seconds
            if len(stages) > _MOST_STAGES:
                raise PatternError(f"The cycle of '{point.id}' would come more than {_MOST_STAGES} times in that time.")
        return replace(self, stages=tuple(stages), own_s=0.0)


@dataclass(frozen=True)
class Watch:
    """What to look at while marching: output times that are met exactly [s], and the error allowed in a step [K]."""

    times: tuple[float, ...] = ()
    tolerance: float = 0.05

    def __post_init__(self) -> None:
        if not 1e-4 <= self.tolerance <= 5.0:
            raise PatternError(f"A step may be off by 0.0001 to 5 K, not by {short(self.tolerance)} K.")
        if any(not 0 <= time <= _MOST_S for time in self.times):
            raise PatternError("Output times must be from 0 to 7 days.")


def read_pattern(text: str) -> Pattern:
    """Return the pattern that is written.

    `step 60min` full power from rest; `cool 30min` none, from full power; `burst 30s in 10min` full power for a while, then
    none; `duty 10s/20s 30min` on and off again and again; `stages 0.5 10min, 1.0 60min` any shares in turn; `cycle 30min` the
    operating point's own. `… from -10C` starts with the whole device at that temperature, `… after 40%` with a device soaked
    at that share of its power.

    >>> read_pattern("burst 30s in 10min").stages
    (Stage(seconds=30.0, factor=1.0), Stage(seconds=570.0, factor=0.0))
    """
    words = " ".join(text.lower().split())
    begin = re.fullmatch(r"(.*) from ([-−+]?\d+(?:\.\d+)?) ?°?c", words)
    if begin:
        start = float(begin[2].replace("−", "-"))
        if not -100 <= start <= 200:
            raise PatternError(f"“{text}”: a device cannot start from {short(start)} °C (−100 to 200).")
        return replace(read_pattern(begin[1]), start_c=start)
    soaked = re.fullmatch(r"(.*) after (\d+(?:\.\d+)?) ?%", words)
    if soaked:
        share = float(soaked[2]) / 100
        if share > _MOST_SHARE:
            raise PatternError(f"“{text}”: a device is soaked at up to ten times its power, not more.")
        return replace(read_pattern(soaked[1]), before=share)
    if found := re.fullmatch(rf"(step|cool) {_TIME}", words):
        seconds = _seconds(found[2], found[3])
        pattern = Pattern(*((0.0, (Stage(seconds, 1.0),)) if found[1] == "step" else (1.0, (Stage(seconds, 0.0),))))
    elif found := re.fullmatch(rf"burst {_TIME} in {_TIME}", words):
        on, total = _seconds(found[1], found[2]), _seconds(found[3], found[4])
        if on >= total:
            raise PatternError(f"“{text}”: the burst must be shorter than the whole.")
        pattern = Pattern(0.0, (Stage(on, 1.0), Stage(total - on, 0.0)))
    elif found := re.fullmatch(rf"duty {_TIME}/{_TIME} {_TIME}", words):
        on, off, total = (_seconds(found[n], found[n + 1]) for n in (1, 3, 5))
        count = round(total / (on + off))
        if not 1 <= count <= 500:
            raise PatternError(f"“{text}” has {count} cycles; from 1 to 500 can be computed.")
        pattern = Pattern(0.0, (Stage(on, 1.0), Stage(off, 0.0)) * count)
    elif found := re.fullmatch(rf"cycle {_TIME}", words):
        pattern = Pattern(0.0, (), own_s=_seconds(found[1], found[2]))
    elif re.fullmatch(rf"stages (?:\d+(?:\.\d+)? {_TIME}(?:, )?)+", words):
        parts = re.findall(rf"(\d+(?:\.\d+)?) {_TIME}", words)
        pattern = Pattern(0.0, tuple(Stage(_seconds(time, unit), float(share)) for share, time, unit in parts))
    else:
        raise PatternError(
            f"“{text}” is not a load pattern; write for example: step 60min, cool 30min, burst 30s in 10min, "
            "duty 10s/20s 30min, stages 0.5 10min, 1.0 60min, cycle 30min, and “from 5C” or “after 40%” behind any of them."
        )
    if not 0 < pattern.seconds <= _MOST_S or any(stage.seconds <= 0 or stage.factor > _MOST_SHARE for stage in pattern.stages):
        raise PatternError(f"“{text}” must last from above 0 to 7 days, at up to ten times the power.")
    return pattern


def _seconds(number: str, unit: str) -> float:
    return float(number) * _UNITS[unit]
