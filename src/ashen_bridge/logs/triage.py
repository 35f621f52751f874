"""What a log alone says, before there is a device: at most five sentences, each with its figure, "cannot tell" where it is so."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.logs.log import Log
from ashen_bridge.logs.mapping import guessed
from ashen_bridge.logs.outcome import Heading, Throttling
from ashen_bridge.logs.remarks import Remark, Triage
from ashen_bridge.logs.settling import Rest, at_rest, last_step, loaded_span, throttling
from ashen_bridge.words.numbers import number, plus_minus

# Hot spot over average: usual up to, and the mount nearly always from; common practice, no source.
USUAL_SPOT_K, MOUNT_SPOT_K = 20.0, 30.0
SOUND_SPOT_K = 15.0  # of a sound mount, 10 to 20; common practice, no source
_WARM_C = 90.0  # what is worth a thought at all; common practice, no source
_MEMORY_SHARE = 1.15  # of the die's rise: memory that rises by more has poor pads; common practice, no source
_KINDS = ("hot", "core", "memory")
_NAMES = {"hot": "hot spot", "core": "die", "memory": "memory"}


@dataclass(frozen=True)
class _Pass:
    standing: dict[str, Rest]
    means: dict[str, float]
    throttled: Throttling | None
    minutes: float


def triage(logs: Sequence[Log]) -> Triage:
    """Return what the passes of one test say. No device is needed; columns are taken for what their words say."""
    passes = [_judged(log) for log in logs]
    columns = guessed(logs[0])
    means = {name: float(np.mean([one.means[name] for one in passes if name in one.means])) for name in passes[0].means}
    remarks = [_settled(passes, means)]
    remarks += [one for one in (_throttled(passes), _spot(means), _suspect(passes, means)) if one is not None]
    remarks.append(_next(passes, means, [one.state for one in remarks]))
    return Triage(tuple(remarks), means, columns)


def _judged(log: Log) -> _Pass:
    columns = guessed(log)
    series = {name: log.column(column).values for name, column in columns.items()}
    for name in ("hot", "core", "memory", "ambient"):
        if name in series and log.column(columns[name]).unit == "°F":
            series[name] = (series[name] - 32) / 1.8
    first, last = loaded_span(log.time_s, series.get("power"))
    under = (log.time_s >= first) & (log.time_s <= last)
    time = log.time_s[under]
    since = last_step(time, series["power"][under] if "power" in series else None)
    standing = {name: at_rest(time, series[name][under], since) for name in _KINDS if name in series}
    starts = [one.window[0] for one in standing.values() if one.window is not None]
    begin = max(starts) if starts and len(starts) == len(standing) else last - 0.2 * (last - first)
    inside = (log.time_s >= begin) & (log.time_s <= last)
    means = {name: float(np.nanmean(v[inside])) for name, v in series.items() if np.isfinite(v[inside]).any()}
    return _Pass(standing, means, _held(log.time_s[under], {n: v[under] for n, v in series.items()}), (last - first) / 60)


def _held(time: Floats, series: dict[str, Floats]) -> Throttling | None:
    """Throttling without a stated limit: power or clock fell while the hottest temperature stood at its own top."""
    hottest = series.get("hot", series.get("core"))
    drivers = {str(name): series[name] for name in ("power", "clock") if name in series}
    if hottest is None or not drivers or not np.isfinite(hottest).any():
        return None
    return throttling(time, hottest, float(np.nanpercentile(hottest, 99)), drivers, near=1.5)


def _settled(passes: Sequence[_Pass], means: dict[str, float]) -> Remark:
    if not any(one.standing for one in passes):
        return Remark(
            "settled", "unknown", "No column could be recognised as a temperature of a die or of memory, so nothing can be told."
        )
    moving = [(name, one) for step in passes for name, one in step.standing.items() if one.window is None]
    shown = ", ".join(f"{_NAMES[name]} {number(means[name], 1)} °C" for name in _KINDS if name in means)
    at = (f" at {number(means['power'])} W" if "power" in means else "") + (
        f", room {number(means['ambient'], 1)} °C" if "ambient" in means else ""
    )
    minutes = min(one.minutes for one in passes)
    if not moving:
        return Remark("settled", "good", f"Settled after {number(minutes)} min of load: {shown}{at}.")
    told = [(name, one.ahead) for name, one in moving if isinstance(one.ahead, Heading)]
    if len(told) < len(moving):
        name = next(name for name, one in moving if not isinstance(one.ahead, Heading))
        return Remark(
            "settled",
            "unknown",
            f"Still moving after {number(minutes)} min ({shown}{at}), and where the {_NAMES[name]} is heading cannot be told.",
        )
    name, ahead = max(told, key=lambda pair: abs(pair[1].end - means[pair[0]]))
    half = (ahead.high - ahead.low) / 2
    return Remark(
        "settled",
        "watch",
        f"Still climbing after {number(minutes)} min ({shown}{at}); "
        f"the {_NAMES[name]} is heading for {number(ahead.end, 1)} {plus_minus(half)} °C.",
    )


def _throttled(passes: Sequence[_Pass]) -> Remark | None:
    held = [one.throttled for one in passes if one.throttled is not None]
    if held:
        one = held[0]
        unit = "W" if one.channel == "power" else "MHz"
        text = (
            f"It throttled: from {number(one.since_s / 60, 1)} min on {one.channel} fell from {number(one.before)} to "
            f"{number(one.after)} {unit} at {number(one.at_c)} °C, so it would be hotter than this."
        )
        return Remark("throttled", "bad", text)
    if any("power" in one.means or "clock" in one.means for one in passes):
        driver = "power" if "power" in passes[0].means else "clock"
        held_at = f"{number(passes[0].means[driver])} {'W' if driver == 'power' else 'MHz'}"
        return Remark("throttled", "good", f"It did not throttle: {driver} held {held_at} while it was hot.")
    return Remark("throttled", "unknown", "Whether it throttled cannot be told: the log shows neither power nor clock.")


def _spot(means: dict[str, float]) -> Remark | None:
    if "hot" not in means or "core" not in means:
        return (
            Remark("spot", "unknown", "Hot spot minus average cannot be told: the log does not show both.")
            if "hot" in means or "core" in means
            else None
        )
    over = means["hot"] - means["core"]
    if over >= MOUNT_SPOT_K:
        return Remark(
            "spot",
            "bad",
            (
                f"The hot spot stands {number(over)} K above the average; from {number(MOUNT_SPOT_K)} K on that "
                f"is nearly always the mount."
            ),
        )
    if over > USUAL_SPOT_K:
        return Remark(
            "spot",
            "watch",
            f"The hot spot stands {number(over)} K above the average, more than the usual 10 to 20 K: it points at the mount.",
        )
    return Remark("spot", "good", f"The hot spot stands {number(over)} K above the average, which is usual (10 to 20 K).")


def _suspect(passes: Sequence[_Pass], means: dict[str, float]) -> Remark | None:
    over = means["hot"] - means["core"] if "hot" in means and "core" in means else math.nan
    room = means.get("ambient")
    if over > USUAL_SPOT_K:
        gain, sure = max(over - SOUND_SPOT_K, 0.0), "can" if over >= MOUNT_SPOT_K else "may"
        return Remark(
            "suspect",
            "watch",
            "Suspect is the joint over the die (tilt, pads that hold the cooler off, dry paste); "
            f"opening {sure} pay: about {number(gain)} ± 5 K at the hot spot.",
        )
    if "memory" in means and "core" in means and room is not None:
        share = (means["memory"] - room) / max(means["core"] - room, 1.0)
        if share > _MEMORY_SHARE:
            return Remark(
                "suspect",
                "watch",
                f"Suspect are the memory pads: memory rises {number(share, 1)} times as far above the room as the die; "
                "opening may pay there.",
            )
    top = max((means[name] for name in _KINDS if name in means), default=math.nan)
    if math.isnan(top):
        return None
    if top < _WARM_C:
        return Remark(
            "suspect", "good", f"No layer stands out and the hottest reading is {number(top)} °C: opening can hardly pay."
        )
    return Remark(
        "suspect",
        "unknown",
        f"Whether paste, cooler or air make the {number(top)} °C cannot be told from this log; "
        "a model of the device can tell them apart.",
    )


def _next(passes: Sequence[_Pass], means: dict[str, float], states: Sequence[str]) -> Remark:
    minutes = min(one.minutes for one in passes)
    if any(one.throttled is not None for one in passes):
        text = "Next: test once more with a lower power limit or a faster fan, so that it does not throttle."
    elif any(rest.window is None for one in passes for rest in one.standing.values()):
        ends = [r.ahead for one in passes for r in one.standing.values() if r.window is None and isinstance(r.ahead, Heading)]
        enough = max((4 * max(one.constants_s) / 60 for one in ends), default=2 * minutes)
        text = f"Next: run it longer, about {number(max(1.3 * minutes, enough))} min in all."
    elif "ambient" not in means:
        text = "Next: note the room's temperature with each pass (±1 K); without it two days cannot be compared."
    elif len(passes) < 3:
        more = 3 - len(passes)
        text = f"Next: {more} more pass{'es' if more > 1 else ''} of the same test, so that a change can be told from chance."
    elif "bad" in states or "watch" in states:
        text = "Next: describe the device in a few answers and see which change would bring how much, before opening it."
    else:
        text = "Next: keep these passes as the baseline; three equal ones show a change of about 1 K."
    return Remark("next", "next", text)
