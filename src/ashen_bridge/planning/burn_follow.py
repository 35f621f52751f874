"""Burn-in by readings as they come: how far the present step is, and what the cycles did to rise over power."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.model.material import MaterialKind
from ashen_bridge.model.procedures import ProcedureStep
from ashen_bridge.model.project import Project
from ashen_bridge.words.numbers import number

MELTS_C = 60.0
"""Where phase-change sheets are liquid for certain [°C]; they soften at 45 to 55; common practice, no source."""
HOLD_MIN = 10.0
"""How long they stay liquid, so that they wet both faces; common practice, no source."""
COLD_K = 10.0
"""Over the air: cold enough that a sheet is stiff again; common practice, no source."""
STOP_K = 4.0
"""A sensor that comes so near to its limit stops the burn-in."""
_MEAN_S, _END_S = 5.0, 60.0  # means of what is told now, and of what a cycle came to
_LEAST_W = 1.0
_STILL_S, _STILL_K = 180.0, 0.5  # what falls no further in that time stays where it is
_ON_SHARE = 0.25


@dataclass(frozen=True)
class Heard:
    """What a feed sent since the present step began: times [s], temperatures by sensor id [°C], power [W], air [°C]."""

    seconds: Floats
    sensors: Mapping[str, Floats]
    power_w: Floats | None = None
    air_c: Floats | None = None


@dataclass(frozen=True)
class Stands:
    """How a step stands: whether it may be ticked, whether it must be stopped, and that in words."""

    says: str
    done: bool = False
    stop: bool = False


@dataclass(frozen=True)
class Warm:
    """What a hot stretch came to: rises over the air by sensor id [K], at what power [W]."""

    rises_k: Mapping[str, float]
    power_w: float | None


@dataclass(frozen=True)
class Gained:
    """Rise over power of a sensor in the first and the last hot stretch [K/W]."""

    sensor: str
    label: str
    before_k_w: float
    after_k_w: float

    @property
    def share(self) -> float:
        """By which share it changed; − is better."""
        return self.after_k_w / self.before_k_w - 1.0


def is_hot(step: ProcedureStep) -> bool:
    """Return whether a step of a burn-in is one under power: it names the bodies that have to get hot."""
    return step.kind == "wait" and bool(step.about)


def is_cold(step: ProcedureStep) -> bool:
    """Return whether a step of a burn-in is one without power."""
    return step.kind == "wait" and not step.about


def watched(project: Project, build: str, step: ProcedureStep) -> tuple[tuple[str, ...], bool]:
    """Return the sensors of the bodies that a step heats, and whether something has to melt over them."""
    kinds = {one.id: one.kind for one in project.materials}
    melts = any(
        kinds.get(piece.material) is MaterialKind.PHASE_CHANGE
        for joint in project.build(build).joints
        if set(joint.lower) & set(step.about)
        for piece in joint.pieces
    )
    return tuple(one.id for one in project.device.sensors if one.body in step.about), melts


def stands(project: Project, build: str, point: str, step: ProcedureStep, heard: Heard) -> Stands:
    """Return how a step stands by what was heard since it began."""
    if not len(heard.seconds) or not heard.sensors:
        return Stands("Nothing was heard yet.")
    close = _too_close(project, point, heard)
    if close:
        return Stands(close, stop=True)
    if not is_hot(step) and not is_cold(step):
        return Stands("")
    watts, on = _switched(project, point, heard)
    if is_cold(step):
        if on:
            return Stands(f"Switch the load off: {number(watts)} W are heard.")
        return _cooling(heard, _air(project, point, heard))
    if on is False:
        return Stands(f"Switch the load on: {number(watts)} W are heard.")
    heard = _since_on(project, point, heard)
    gone_min = float(heard.seconds[-1] - heard.seconds[0]) / 60
    sensors, melts = watched(project, build, step)
    known = [heard.sensors[name] for name in sensors if name in heard.sensors]
    left = step.timer_s / 60 - gone_min
    if not melts or not known:
        word = "No sensor is heard where it has to melt, so by the clock: " if melts else "By the clock: "
        return Stands(
            f"{word}{'long enough, go on' if left <= 0 else f'{number(max(left, 0.1), 1)} minutes are left'}.", left <= 0
        )
    coolest = np.min(known, axis=0)
    held = _held(heard.seconds, coolest)
    now = float(np.nanmean(coolest[heard.seconds > heard.seconds[-1] - _MEAN_S]))
    if held >= HOLD_MIN:
        return Stands(f"Melted everywhere for {number(held)} minutes: go on.", done=True)
    if left <= 0:
        why = "not melted everywhere" if held <= 0 else f"melted for {number(held)} of {number(HOLD_MIN)} minutes"
        return Stands(f"Time is up, {why} ({number(now, 1)} °C): the next cycle goes further.", done=True)
    if held > 0:
        return Stands(f"Melted for {number(held)} of {number(HOLD_MIN)} minutes, {number(now, 1)} °C at the coolest.")
    return Stands(f"{number(now, 1)} °C at the coolest, {number(MELTS_C)} °C is needed.")


def _switched(project: Project, point: str, heard: Heard) -> tuple[float, bool | None]:
    """Return the power that is heard now [W], and whether the load is on; None where no power is heard."""
    if heard.power_w is None or not np.isfinite(heard.power_w).any():
        return 0.0, None
    now = float(np.nanmean(heard.power_w[heard.seconds > heard.seconds[-1] - _MEAN_S]))
    return now, now > _on_from(project, point)


def _on_from(project: Project, point: str) -> float:
    """Return the power [W] above which the load counts as on: cycles begin at half of it."""
    at = project.point(point)
    return _ON_SHARE * (at.board_w.value if at.board_w is not None else sum(one.value for one in at.powers_w.values()))


def _since_on(project: Project, point: str, heard: Heard) -> Heard:
    """Return what was heard since the load was last switched on."""
    if heard.power_w is None:
        return heard
    off = np.flatnonzero(~(heard.power_w > _on_from(project, point)))
    start = off[-1] + 1 if len(off) else 0
    sensors = {name: values[start:] for name, values in heard.sensors.items()}
    air = heard.air_c[start:] if heard.air_c is not None else None
    return Heard(heard.seconds[start:], sensors, heard.power_w[start:], air)


def _held(seconds: Floats, coolest: Floats) -> float:
    """Return for how many minutes up to now everything has been liquid without a break."""
    under = np.flatnonzero(~(coolest >= MELTS_C))
    start = under[-1] + 1 if len(under) else 0
    return float(seconds[-1] - seconds[start]) / 60 if start < len(seconds) else 0.0


def _cooling(heard: Heard, air_c: float) -> Stands:
    late = heard.seconds > heard.seconds[-1] - _MEAN_S
    hottest = max(float(np.nanmean(values[late])) for values in heard.sensors.values())
    if hottest <= air_c + COLD_K:
        return Stands(f"Cold, {number(hottest, 1)} °C at the hottest: go on.", done=True)
    before = (heard.seconds > heard.seconds[-1] - _STILL_S) & (heard.seconds <= heard.seconds[-1] - _STILL_S + _MEAN_S)
    if before.any() and heard.seconds[0] <= heard.seconds[-1] - _STILL_S:
        fell = max(float(np.nanmean(values[before]) - np.nanmean(values[late])) for values in heard.sensors.values())
        if fell < _STILL_K:
            return Stands(f"As cold as it gets, {number(hottest, 1)} °C at the hottest: go on.", done=True)
    return Stands(f"{number(hottest, 1)} °C at the hottest, cold at {number(air_c + COLD_K)} °C.")


def _too_close(project: Project, point: str, heard: Heard) -> str:
    late = heard.seconds > heard.seconds[-1] - _MEAN_S
    labels = {one.id: one.label for one in project.device.sensors}
    for limit in project.device.limits:
        values = heard.sensors.get(limit.sensor or "")
        if values is not None and float(np.nanmean(values[late])) > limit.max_c.value - STOP_K:
            name, most = labels[limit.sensor or ""], number(limit.max_c.value)
            return f"Stop: {name} is at {number(float(np.nanmean(values[late])), 1)} °C, close to its limit of {most} °C."
    return ""


def _air(project: Project, point: str, heard: Heard) -> float:
    if heard.air_c is not None and np.isfinite(heard.air_c).any():
        return float(np.nanmean(heard.air_c[heard.seconds > heard.seconds[-1] - _END_S]))
    return project.point(point).ambient_c.value


def warm(project: Project, point: str, heard: Heard) -> Warm:
    """Return what a hot stretch came to, by the mean of its last minute."""
    late = heard.seconds > heard.seconds[-1] - _END_S
    air = _air(project, point, heard)
    power = float(np.nanmean(heard.power_w[late])) if heard.power_w is not None else None
    return Warm({name: float(np.nanmean(values[late])) - air for name, values in heard.sensors.items()}, power)


def gained(project: Project, stretches: Sequence[Warm]) -> tuple[Gained, ...]:
    """Return rise over power before and after, what gained most first; empty for fewer than two stretches or without power."""
    known = [one for one in stretches if one.power_w is not None and one.power_w > _LEAST_W]
    if len(known) < 2:
        return ()
    first, last = known[0], known[-1]
    labels = {one.id: one.label for one in project.device.sensors}
    found = [
        Gained(name, labels.get(name, name), first.rises_k[name] / (first.power_w or 1.0), rise / (last.power_w or 1.0))
        for name, rise in last.rises_k.items()
        if name in first.rises_k and first.rises_k[name] > 1.0
    ]
    return tuple(sorted(found, key=lambda one: one.share))
