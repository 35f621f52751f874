"""A run in sentences."""

from __future__ import annotations

from collections.abc import Iterator

from ashen_bridge.findings.hot_spot_rules import SURELY_K, USUAL_K
from ashen_bridge.logs.outcome import Heading, PassFigures, RunFigures
from ashen_bridge.model.device import Device
from ashen_bridge.words.numbers import number, plus_minus

_SLOW = 0.1  # K/min: what moves slower has no digit left


def in_words(found: RunFigures, device: Device) -> list[str]:
    """Return what there is to say of a run, one sentence each."""
    labels = {sensor.id: sensor.label for sensor in device.sensors}
    names = {one.column: labels.get(one.sensor or "", one.column) for one in found.run.channels}
    said = []
    for n, one in enumerate(found.passes, start=1):
        head = f"Pass {n}: " if len(found.passes) > 1 else ""
        said += [head + sentence for sentence in _pass_in_words(one, names)]
    return [*said, *_hot_spots(found, device)]


def _hot_spots(found: RunFigures, device: Device) -> Iterator[str]:
    bodies = {body.id: body.label for body in device.bodies}
    for body, value, spread in found.hot_minus_mean(device):
        more = f" {plus_minus(spread)}" if len(found.passes) > 1 else ""
        yield f"hot spot minus average of {bodies.get(body, body)}: {number(value, 1)}{more} K{mount_words(value)}."


def mount_words(hot_minus_mean_k: float) -> str:
    """Return what a hot spot so far above its average points at, to be put behind the number; nothing where it is usual."""
    if hot_minus_mean_k > SURELY_K:
        return ", which nearly always points at the mount"
    return ", more than the usual 10 to 20 K: look at the mount" if hot_minus_mean_k > USUAL_K else ""


def _pass_in_words(one: PassFigures, names: dict[str, str]) -> Iterator[str]:
    if one.window_s is not None:
        yield f"settled from {number(one.window_s[0] / 60, 1)} to {number(one.window_s[1] / 60, 1)} min."
    for column, ahead in one.climbing.items():
        way = "falling" if ahead.slope_per_min < 0 else "climbing"
        pace = abs(ahead.slope_per_min)
        moving = f"{names[column]} is still {way} at {number(pace, 1) if pace >= _SLOW else f'under {_SLOW:g}'} K/min"
        if isinstance(ahead, Heading):
            yield f"{moving}, heading for {number(ahead.end, 1)} {plus_minus((ahead.high - ahead.low) / 2)} °C."
        else:
            yield f"{moving}; its end cannot be told: {ahead.reason}."
    if one.throttled is not None:
        t = one.throttled
        fell = f"{t.channel} fell from {number(t.before)} to {number(t.after)} while a temperature sat at {number(t.at_c)} °C"
        yield f"throttled: {fell}. The true temperature would have been higher."
    spiky = sum(stats.spikes for stats in one.channels.values())
    if spiky:
        yield f"{spiky} single sample{'s stand' if spiky > 1 else ' stands'} out and {'were' if spiky > 1 else 'was'} set apart."
