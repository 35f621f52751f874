"""What the model says of each run of a device at the power that was measured in it."""

from __future__ import annotations

import statistics
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

from ashen_bridge.logs.outcome import RunError, RunFigures
from ashen_bridge.model.bodies import Component, ComponentRole
from ashen_bridge.model.build import OperatingPoint
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.project import Project
from ashen_bridge.predict.transient import unthrottled

if TYPE_CHECKING:
    from ashen_bridge.predict.engine import Engine

_SAME = 0.02  # share by which a part's power may differ between runs and still be the same
_STEP = 0.05
_TURNS, _AGREES = 12, 1e-3


@dataclass(frozen=True)
class Modelled:
    """A run at its measured power: what the parts make whose power changes from run to run [W], the model's rises over ambient
    [K] by sensor, and those that the other parts make by themselves.
    """

    watts: float
    rises: Mapping[str, float]
    others: Mapping[str, float]


@dataclass(frozen=True)
class Powered:
    """What was measured of the power in a run: of the board [W], None if it was not, and of parts by id."""

    board_w: float | None
    parts_w: Mapping[str, float]


def powered(run: RunFigures) -> Powered:
    """Return what was measured of the power in a run, mean over its passes."""
    board, parts = None, {}
    for channel in run.run.channels:
        values = [one.channels[channel.column].mean for one in run.passes if channel.column in one.channels]
        if channel.role == "power" and channel.unit == "W" and values:
            if channel.body is None:
                board = statistics.fmean(values)
            else:
                parts[channel.body] = statistics.fmean(values)
    return Powered(board, parts)


def changing(project: Project, measured: Sequence[Powered], points: Sequence[str]) -> frozenset[str]:
    """Return the parts whose power changes between runs: as was measured, else the dies; none where the board has one power."""
    seen = {name: [one.parts_w.get(name) for one in measured] for one in measured for name in one.parts_w}
    found = set()
    for name, values in seen.items():
        known = [value for value in values if value is not None]
        if len(known) == len(measured) and max(known) - min(known) > _SAME * max(known):
            found.add(name)
    if found:
        return frozenset(found)
    dies = {body.id for body in project.all_bodies if isinstance(body, Component) and body.role is ComponentRole.DIE}
    return frozenset(dies & set(project.point(points[0]).powers_w))


def modelled(engine: Engine, project: Project, runs: Sequence[RunFigures]) -> tuple[Modelled, ...] | None:
    """Return what the model says of every run; None where the device cannot be computed.

    Raises `RunError` where a run has no measured power.
    """
    measured = [powered(run) for run in runs]
    for run, one in zip(runs, measured, strict=True):
        if one.board_w is None and not one.parts_w:
            raise RunError(f"Run '{run.run.label}' has no measured power; map a power column, in watts.")
    names = changing(project, measured, [run.run.point for run in runs])
    try:
        return tuple(_modelled(engine, project, run, one, names) for run, one in zip(runs, measured, strict=True))
    except AshenError:
        return None


def _modelled(engine: Engine, project: Project, run: RunFigures, measured: Powered, names: frozenset[str]) -> Modelled:
    ambient = project.point(run.run.point).ambient_c.value
    told = _with_parts(project, run.run.point, measured.parts_w)

    def shown(factor: float) -> tuple[dict[str, float], float]:
        rows, watts = engine.shown(_times(told, run.run.point, factor, names), run.run.build, run.run.point)
        return {row.id: row.value_c - ambient for row in rows}, watts

    nothing, rest = shown(0.0)
    factor = 1.0
    rises, watts = shown(factor)
    if measured.board_w is not None:
        before, tried = (factor, watts), factor * (1.0 + _STEP)
        for _ in range(_TURNS):
            # Leakage bends what a board makes over what its parts are told: a secant goes on until both agree.
            rises, watts = shown(tried)
            if abs(watts - measured.board_w) <= _AGREES * measured.board_w:
                break
            slope = (watts - before[1]) / (tried - before[0]) if tried != before[0] else 0.0
            before, tried = (tried, watts), tried + (measured.board_w - watts) / max(slope, 1e-9)
            if tried <= 0:
                raise RunError(f"Run '{run.run.label}' made less power than its other parts make by themselves.")
    return Modelled(watts - rest, rises, nothing)


def _with_parts(project: Project, point_id: str, parts_w: Mapping[str, float]) -> Project:
    def change(point: OperatingPoint) -> OperatingPoint:
        free = unthrottled(point)
        powers = {n: w.model_copy(update={"value": parts_w.get(n, w.value)}) for n, w in free.powers_w.items()}
        return free.model_copy(update={"powers_w": powers})

    return _in_point(project, point_id, change)


def _times(project: Project, point_id: str, factor: float, names: frozenset[str]) -> Project:
    """Return a project in which some parts make a multiple of their power; the whole board where none is named."""

    def change(point: OperatingPoint) -> OperatingPoint:
        if names:
            powers = {n: w.model_copy(update={"value": w.value * factor}) if n in names else w for n, w in point.powers_w.items()}
            return point.model_copy(update={"powers_w": powers})
        board = point.board_w
        powers = {n: w.model_copy(update={"value": w.value * factor}) for n, w in point.powers_w.items()}
        whole = None if board is None else board.model_copy(update={"value": board.value * factor})
        return point.model_copy(update={"board_w": whole, "powers_w": powers})

    return _in_point(project, point_id, change)


def _in_point(project: Project, point_id: str, change: Callable[[OperatingPoint], OperatingPoint]) -> Project:
    points = tuple(change(one) if one.id == point_id else one for one in project.points)
    return project.model_copy(update={"points": points})
