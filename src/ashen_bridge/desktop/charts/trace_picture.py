"""What curves of a log are drawn: temperatures above, one other quantity below, the settled window between two handles."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.desktop.look.theme import Theme

_LEFT, _RIGHT, _TOP, _BOTTOM = 44.0, 176.0, 10.0, 24.0  # [px] around the curves at the usual text size
_GAP = 12.0


@dataclass(frozen=True)
class Trace:
    """One series. `tint` numbers its colour; None draws it thin and quiet, without a name. `dashed` is the other run."""

    name: str
    unit: str
    time_s: Floats
    values: Floats
    tint: int | None = None
    dashed: bool = False

    def at(self, second: float) -> float | None:
        """Return the sample nearest to a time, None where there is no number."""
        if not len(self.time_s):
            return None
        k = int(np.clip(np.searchsorted(self.time_s, second), 1, max(len(self.time_s) - 1, 1)))
        if len(self.time_s) > 1 and second - self.time_s[k - 1] < self.time_s[min(k, len(self.time_s) - 1)] - second:
            k -= 1
        value = float(self.values[min(k, len(self.values) - 1)])
        return value if math.isfinite(value) else None


@dataclass(frozen=True)
class TracePicture:
    """Curves of one pass, or of one sensor in two runs, which is then their `title`.

    `window_s`: the settled window, `by_hand` if somebody set it; `limits` [°C] of the upper curves.
    """

    upper: tuple[Trace, ...]
    lower: tuple[Trace, ...] = ()
    window_s: tuple[float, float] | None = None
    by_hand: bool = False
    limits: tuple[float, ...] = ()
    movable: bool = False
    title: str = ""

    @property
    def whole(self) -> tuple[float, float]:
        """First and last time of all curves [s]."""
        ends = [(float(one.time_s[0]), float(one.time_s[-1])) for one in (*self.upper, *self.lower) if len(one.time_s)]
        if not ends:
            return 0.0, 1.0
        first, last = min(a for a, _ in ends), max(b for _, b in ends)
        return first, max(last, first + 1.0)


@dataclass(frozen=True)
class Frame:
    """One panel: its pixels from top to bottom and the values they stand for."""

    top: float
    bottom: float
    low: float
    high: float

    def y(self, value: float) -> float:
        return self.bottom - (self.bottom - self.top) * (value - self.low) / (self.high - self.low)


class TracePlacement:
    """How times and values map to pixels while `span` [s] is looked at."""

    def __init__(self, picture: TracePicture, width: float, height: float, theme: Theme, span: tuple[float, float]) -> None:
        self.start, self.end = span
        self.left = theme.px(_LEFT)
        self.right = max(width - min(theme.px(_RIGHT), 0.38 * width), self.left + 40)
        self.names_end = width - theme.px(4)
        top, bottom = theme.px(_TOP), height - theme.px(_BOTTOM)
        split = bottom - 0.24 * (bottom - top) if picture.lower and picture.upper else bottom
        self.upper: Frame | None = None
        self.lower: Frame | None = None
        if picture.upper:
            end = split - theme.px(_GAP) if picture.lower else bottom
            self.upper = Frame(top, end, *self._range(picture.upper, picture.limits))
        if picture.lower:
            self.lower = Frame(split if picture.upper else top, bottom, *self._range(picture.lower, ()))

    def _range(self, traces: tuple[Trace, ...], limits: tuple[float, ...]) -> tuple[float, float]:
        lows, highs = [], []
        for one in traces:
            a, b = np.searchsorted(one.time_s, [self.start, self.end])
            part = one.values[max(a - 1, 0) : b + 1]
            part = part[np.isfinite(part)]
            if len(part):
                lows.append(float(part.min()))
                highs.append(float(part.max()))
        if not lows:
            return 0.0, 1.0
        low, high = min(lows), max(highs)
        near = [limit for limit in limits if high < limit < high + max(15.0, 0.3 * (high - low))]
        high = max([high, *near])
        # What hardly moves is not blown up to fill the height.
        lacking = max(0.02 * abs(high), 0.5) - (high - low)
        if lacking > 0:
            low, high = low - lacking / 2, high + lacking / 2
        step = nice_step(high - low, 8)
        return step * math.floor(low / step), step * math.ceil(high / step + 0.05)

    def x(self, second: float) -> float:
        return self.left + (self.right - self.left) * (second - self.start) / (self.end - self.start)

    def seconds(self, x: float) -> float:
        """Return the time at a place, kept inside what is looked at."""
        share = min(max((x - self.left) / (self.right - self.left), 0.0), 1.0)
        return self.start + share * (self.end - self.start)


def nice_step(span: float, most: float) -> float:
    """Return a step of 1, 2 or 5 times a power of ten that cuts `span` into at most about `most` parts.

    >>> nice_step(70, 4), nice_step(0.9, 4)
    (20.0, 0.5)
    """
    raw = span / most
    power = 10 ** math.floor(math.log10(raw))
    return float(next(step * power for step in (1, 2, 5, 10) if step * power >= raw * (1 - 1e-9)))
