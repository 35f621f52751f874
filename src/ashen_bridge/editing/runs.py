"""Edits of what is kept of tests: runs with their conditions and windows, goals, and which calibration is in use."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from ashen_bridge.bench.judgement import Calibration
from ashen_bridge.bench.recording import further_logs, new_run, run_of
from ashen_bridge.changes import records
from ashen_bridge.changes.edit import Edit, edit, merging
from ashen_bridge.changes.names import fresh_id, slug
from ashen_bridge.model.project import Project
from ashen_bridge.model.records import Run, RunChannel, SpotReading
from ashen_bridge.model.refusals import validated


def add_run(
    project: Project, name: str, digests: Sequence[str], channels: Sequence[RunChannel], build: str, point: str, **conditions: Any
) -> tuple[Edit, str]:
    """Add a run of stored logs; returns the edit and the run's id."""
    run_id = fresh_id(slug(name, "run"), [run.id for run in project.runs])
    made = new_run(project, run_id, digests, channels, build=build, point=point, name=name, **conditions)
    return edit(f"Run {name}", records.add_run, made), run_id


def add_pass(project: Project, run_id: str, digests: Sequence[str], channels: Sequence[RunChannel]) -> Edit:
    """Add stored logs to a run as further passes. Raises `RunError` if it holds them already."""
    logs, renamed = further_logs(run_of(project, run_id), digests, channels)
    return edit("Another pass", records.add_logs, run_id, logs, renamed)


def change_run(run_id: str, what: str, **fields: Any) -> Edit:
    """Change fields of a run; `what` says it in words."""
    return merging(f"run:{run_id}:{'+'.join(sorted(fields))}", edit(what, records.change_run, run_id, fields))


def set_window(run_id: str, window_s: tuple[float, float] | None) -> Edit:
    """Set the settled window by hand [s], or let it be found again."""
    words = "Settled window" if window_s is not None else "Settled window found again"
    return merging(f"run:{run_id}:window", edit(words, records.change_run, run_id, {"settled_s": window_s}))


def remap_run(run_id: str, channels: Sequence[RunChannel]) -> Edit:
    """Say anew what a run's columns are; later logs of this device are read so too."""
    return edit("What the columns are", records.remap_run, run_id, tuple(channels))


def add_spots(run_id: str, spots: Sequence[dict[str, Any]]) -> Edit:
    """Add readings typed by hand to a run; one of a sensor that has one takes its place."""
    return edit("Typed readings", records.add_spots, run_id, _spots(spots))


def add_typed_run(project: Project, name: str, spots: Sequence[dict[str, Any]], build: str, point: str) -> tuple[Edit, str]:
    """Add a run of nothing but readings typed by hand; returns the edit and the run's id."""
    run_id = fresh_id(slug(name, "run"), [run.id for run in project.runs])
    made = validated(Run, f"run '{run_id}'", id=run_id, name=name, build=build, point=point, spots=_spots(spots))
    return edit(f"Run {name}", records.add_run, made), run_id


def _spots(spots: Sequence[dict[str, Any]]) -> tuple[SpotReading, ...]:
    return tuple(validated(SpotReading, "reading", **spot) for spot in spots)


def remove_run(project: Project, run_id: str) -> Edit:
    """Remove a run, and the calibrations that were fitted to it. Raises `RunError` if there is none."""
    return edit(f"Remove run {run_of(project, run_id).label}", records.remove_run, run_id)


# ---- what is wanted


def set_aim(field: str, value: Any) -> Edit:
    """Say what is wrong or wanted; `field` is one of `Aims`."""
    return merging(f"aims:{field}", edit("What is wanted", records.set_aim, field, value))


def set_goal(sensor: str, at_most_c: float | None) -> Edit:
    """Set what a sensor shall keep below [°C], or take that goal away."""
    return merging(f"goal:{sensor}", edit("Goal", records.set_goal, sensor, at_most_c))


# ---- calibrations


def keep_calibration(project: Project, found: Calibration) -> Edit:
    """Keep a fit and use it from now on."""
    return edit(f"Calibration from {', '.join(found.runs)}", records.keep_calibration, found.record(project))


def use_calibration(name: str | None) -> Edit:
    """Use a kept fit for every prediction, or the numbers as they stand."""
    words = "Use the calibration" if name else "Use the numbers as they stand"
    return edit(words, records.use_calibration, name)


def remove_calibration(name: str) -> Edit:
    """Forget a fit."""
    return edit("Forget a calibration", records.remove_calibration, name)


def set_prior(kind: str, odds: float | None) -> Edit:
    """Say how often a kind of fault is met; None leaves it to common practice."""
    made = edit("Odds of a fault" if odds is not None else "Odds by practice", records.set_prior, kind, odds)
    return made if odds is None else merging(f"prior:{kind}", made)
