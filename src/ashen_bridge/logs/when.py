"""When each line of a log was written: seconds, clocks and calendars in the ways that loggers have of saying so."""

from __future__ import annotations

import re

import numpy as np
import pandas as pd

from ashen_bridge.arrays import Floats
from ashen_bridge.logs.log import LogError
from ashen_bridge.logs.numbers import split_unit

_DAY, _HOUR = 86_400.0, 3600.0
_LOOKED_AT = 8  # columns from the left
_SCALES = {
    "s": 1.0, "sec": 1.0, "secs": 1.0, "second": 1.0, "seconds": 1.0, "sek": 1.0, "ms": 1e-3, "msec": 1e-3, "us": 1e-6,
    "µs": 1e-6, "μs": 1e-6, "ns": 1e-9, "min": 60.0, "mins": 60.0, "minutes": 60.0, "h": _HOUR, "hr": _HOUR, "hours": _HOUR,
    "std": _HOUR,
}  # fmt: skip
_CALLED = {1.0: "seconds", 1e-3: "milliseconds", 1e-6: "microseconds", 1e-9: "nanoseconds", 60.0: "minutes", _HOUR: "hours"}
_EPOCHS = ((1e17, 1e-9), (1e14, 1e-6), (1e11, 1e-3), (1e8, 1.0))  # what counts from 1970, by its size
_WORDS = re.compile(r"time|zeit|elapsed|laufzeit|timestamp|temps|tiempo|hora|heure|^ts$|^t$|^s$|^seconds?$|uptime")
_SETTING_K = 20.0  # usual steps: a clock that goes further ahead at once was set, or the logger slept
_SUMMER = 2.0  # usual steps by which a change to or from summer time may miss the hour


def looks_like_time(column: pd.Series) -> bool:
    """Return whether cells are clocks or dates."""
    some = column.dropna().astype(str).head(20)
    return bool(len(some)) and bool(some.str.contains(r"\d{1,2}:\d{2}|\d{1,4}[./-]\d{1,2}[./-]\d{1,4}").mean() > 0.7)


def time_of(table: pd.DataFrame, names: list[str], name: str, notes: list[str]) -> tuple[Floats, set[int], str]:
    """Return seconds of every line, the columns that say so, and in words how it was found. Raises `LogError`."""
    seen = range(min(_LOOKED_AT, table.shape[1]))
    for k in seen:
        scale = _stated_scale(names[k])
        if scale is not None and _is_number(table[k]):
            return _counted(table[k], scale, notes), {k}, f"Time is the column “{names[k]}”, in {_CALLED[scale]}."
    stamps = [k for k in seen if not _is_number(table[k]) and looks_like_time(table[k])]
    if len(stamps) >= 2 and re.search(r"date|datum|fecha|jour|tag\b", (names[stamps[0]] + names[stamps[1]]).lower()):
        joined = table[stamps[0]].astype(str) + " " + table[stamps[1]].astype(str)
        return _parsed(joined, name, notes), set(stamps[:2]), f"Time is “{names[stamps[0]]}” and “{names[stamps[1]]}”."
    for k in stamps:
        return _parsed(table[k].astype(str), name, notes), {k}, f"Time is the column “{names[k]}”."
    for k in seen:
        if _WORDS.search(names[k].lower()) and _is_number(table[k]):
            values = pd.to_numeric(table[k], errors="coerce").to_numpy(dtype=float)
            size = float(np.nanmedian(np.abs(values))) if np.isfinite(values).any() else 0.0
            scale = next((scale for least, scale in _EPOCHS if size > least), None)
            if scale is not None:
                return _counted(table[k], scale, notes), {k}, f"Time is the column “{names[k]}”, {_CALLED[scale]} since 1970."
            return _counted(table[k], 1.0, notes), {k}, f"Time is the column “{names[k]}”, taken as seconds."
    if len(names) > 1 and not names[0].strip() and _is_number(table[0]) and _rises(table[0]):
        return (
            _counted(table[0], 1.0, notes),
            {0},
            "Time is the first column, which has no name and rises evenly; taken as seconds.",
        )
    return np.arange(len(table), dtype=float), set(), "No column says the time: one line a second is assumed."


def _stated_scale(heading: str) -> float | None:
    """Return the seconds of one unit of a heading that says it is a time, and in what unit; None if it does not."""
    word, unit = split_unit(heading)
    plain = re.fullmatch(
        r"(?:(?:time|t|elapsed|zeit|laufzeit)[ _]+(?:in[ _])?)?(s|sec|seconds|ms|us|µs|min|minutes|h|hours)", heading.lower()
    )
    if plain is not None:
        return _SCALES[plain[1]]
    if unit.lower() in _SCALES and (_WORDS.search(word.lower()) or word.strip(" []()") in ("", unit)):
        return _SCALES[unit.lower()]
    return None


def _is_number(column: pd.Series) -> bool:
    return bool(pd.api.types.is_numeric_dtype(column))


def _rises(column: pd.Series) -> bool:
    steps = np.diff(pd.to_numeric(column, errors="coerce").to_numpy(dtype=float))
    return bool(len(steps)) and bool((steps > 0).all()) and float(steps.max()) < 5 * float(np.median(steps))


def _counted(column: pd.Series, scale: float, notes: list[str]) -> Floats:
    values = pd.to_numeric(column, errors="coerce")
    first = values.dropna().iloc[0] if values.notna().any() else 0
    # The first is taken off in the column's own type: a count of nanoseconds since 1970 has more digits than a float.
    seconds = (values - first).to_numpy(dtype=float, na_value=np.nan) * scale
    start = float(first) * scale if abs(float(first) * scale) < 1e8 else 0.0
    return _unwrapped(seconds + start, 0.0, notes)


def _parsed(text: pd.Series, name: str, notes: list[str]) -> Floats:
    text = text.str.strip().str.replace(",", ".", regex=False)
    text = text.str.replace(r"(\d{2}:\d{2}:\d{2}):(\d{1,6})$", r"\1.\2", regex=True)
    clock = text.str.extract(r"^(?:(\d{1,3}):)?(\d{1,3}):(\d{2}(?:\.\d+)?)$").astype(float)
    if clock[1].head(20).notna().mean() > 0.7:
        return _clock(text, clock, notes)
    # Written as year first, the order is given; else that order is right whose steps are more regular.
    first = str(text.iloc[0])
    dotted = re.match(r"\d{1,2}[.]\d{1,2}[.]\d{2,4}", first) is not None
    orders = (True,) if dotted else (False,) if re.match(r"\d{4}", first) else (False, True)
    tried = [pd.to_datetime(text, errors="coerce", dayfirst=day_first, format="mixed") for day_first in orders]
    stamps = min(tried, key=_irregular)
    if stamps.notna().sum() < 2:
        raise LogError(f"“{name}”: its times cannot be read, the first is “{first[:30]}”.")
    seconds = (stamps - stamps.dropna().iloc[0]).dt.total_seconds().to_numpy(dtype=float)
    zoned = bool(re.search(r"(Z|[+-]\d{2}:?\d{2})$", first))
    return _unwrapped(seconds if zoned else _without_summer_time(seconds, notes), 0.0, notes)


def _irregular(stamps: pd.Series) -> tuple[int, float]:
    steps = stamps.dropna().diff().dt.total_seconds().to_numpy(dtype=float)[1:]
    usual = float(np.median(np.abs(steps))) if len(steps) else 0.0
    return int(stamps.isna().sum()), float(np.abs(steps).max(initial=0.0)) / (usual or 1.0)


def _clock(text: pd.Series, parts: pd.DataFrame, notes: list[str]) -> Floats:
    """Return the seconds of clocks without a date: h:mm:ss, or of two numbers m:ss or h:mm."""
    if parts[0].notna().any():
        return _unwrapped((parts[0].fillna(0) * 3600 + parts[1] * 60 + parts[2]).to_numpy(dtype=float), _DAY, notes)
    seconds = (parts[1] * 60 + parts[2]).to_numpy(dtype=float)
    fractions = text.str.contains(".", regex=False).any()
    if fractions or parts[1].max() > 23:
        return _unwrapped(seconds, _HOUR, notes)
    return _unwrapped(seconds * 60, _DAY, notes)


def _without_summer_time(seconds: Floats, notes: list[str]) -> Floats:
    """Take out an hour that a calendar gained or lost at once."""
    steps = np.diff(seconds)
    usual = float(np.nanmedian(steps[steps > 0])) if (steps > 0).any() else 1.0
    near = np.flatnonzero(np.abs(np.abs(steps) - _HOUR) <= _SUMMER * usual) if usual < 300 else np.empty(0, int)
    if len(near) != 1:
        return seconds
    found = seconds.copy()
    found[near[0] + 1 :] -= np.sign(steps[near[0]]) * _HOUR
    notes.append("The clock changes by one hour at once, as summer time does; the hour was taken out.")
    return found


def _unwrapped(seconds: Floats, day: float, notes: list[str]) -> Floats:
    """Let time go on where a clock starts again, at midnight or where a logger was started anew; say where it leaps ahead."""
    steps = np.diff(seconds)
    usual = float(np.nanmedian(steps[steps > 0])) if (steps > 0).any() else 1.0
    ahead = np.flatnonzero(steps > max(_SETTING_K * usual, 60.0))
    if len(ahead):
        longest = float(steps[ahead].max())
        notes.append(
            f"Time leaps ahead {len(ahead)} time{'s' if len(ahead) > 1 else ''}, by up to {longest / 60:.3g} min: "
            "the logger paused, or its clock was set. It was left as it is."
        )
    back = np.flatnonzero(steps < -max(2 * usual, 1.0))
    if not len(back):
        return seconds
    found = seconds.copy()
    for at in back:
        jump = day if day and seconds[at] - seconds[at + 1] > day / 2 else seconds[at] - seconds[at + 1] + usual
        found[at + 1 :] += jump
    notes.append(f"Time goes backwards {len(back)} time{'s' if len(back) > 1 else ''}; it was let go on from there.")
    return found
