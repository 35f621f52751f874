"""Runs in a project: logs that lie in the store become a run, or further passes of one."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from ashen_bridge.changes import records
from ashen_bridge.logs.outcome import RunError
from ashen_bridge.model.project import Project
from ashen_bridge.model.quantity import q
from ashen_bridge.model.records import Run, RunChannel
from ashen_bridge.model.refusals import validated
from ashen_bridge.model.sharing import replaced


def run_of(project: Project, run_id: str) -> Run:
    """Return a run by id. Raises `RunError` that names those there are."""
    for run in project.runs:
        if run.id == run_id:
            return run
    there = ", ".join(run.id for run in project.runs) or "none yet"
    raise RunError(f"There is no run '{run_id}'; there are: {there}.")


def remembered(project: Project, run_id: str = "") -> tuple[RunChannel, ...]:
    """Return how columns were mapped in this device's earlier runs, the latest word on each; `run_id` has the last word."""
    found = {channel.column: channel for channel in project.mappings}
    found |= {channel.column: channel for run in project.runs if run.id == run_id for channel in run.channels}
    return tuple(found.values())


def new_names(channels: Sequence[RunChannel], old: Sequence[RunChannel]) -> dict[str, str]:
    """Return what columns of a further pass are to be called so that one thing has one name in all passes of a run.

    That is the same sensor, or the only column of a role beside temperatures.
    """
    taken = {channel.column for channel in channels}
    found = {}
    for one in channels:
        alike = [other.column for other in old if _same(one, other)]
        own = [other for other in channels if _same(one, other)]
        if len(alike) == len(own) == 1 and alike[0] not in taken:
            found[one.column] = alike[0]
    return found


def _same(one: RunChannel, other: RunChannel) -> bool:
    if one.sensor or other.sensor:
        return one.sensor == other.sensor
    return one.role == other.role and one.body == other.body and one.role not in ("other", "temperature")


def with_run(
    project: Project,
    run_id: str,
    digests: Sequence[str],
    channels: Sequence[RunChannel],
    *,
    build: str | None = None,
    point: str | None = None,
    **conditions: Any,
) -> Project:
    """Return the project with a run of these stored logs; logs of a run that is there are added as further passes.

    `conditions` are further fields of `Run` for a new run. Raises `RunError` where the logs do not belong there.
    """
    old = next((run for run in project.runs if run.id == run_id), None)
    if old is None:
        made = new_run(project, run_id, digests, channels, build=build, point=point, **conditions)
        return records.add_run(project, made)
    if build not in (None, old.build) or point not in (None, old.point):
        raise RunError(f"Run '{run_id}' is of build '{old.build}' at '{old.point}'; give another run id for another build.")
    logs, renamed = further_logs(old, digests, channels)
    return records.remember_columns(records.add_logs(project, run_id, logs, renamed), tuple(channels))


def new_run(
    project: Project,
    run_id: str,
    digests: Sequence[str],
    channels: Sequence[RunChannel],
    *,
    build: str | None = None,
    point: str | None = None,
    ambient_c: float | None = None,
    **conditions: Any,
) -> Run:
    """Return a run of stored logs. Raises `ProjectError` where a condition makes no sense."""
    said: dict[str, Any] = {
        "id": run_id,
        "build": project.build(build).id,
        "point": project.point(point).id,
        "log_sha256": digests[0],
        "further_passes": tuple(digest for digest in dict.fromkeys(digests) if digest != digests[0]),
        "channels": tuple(channels),
        "ambient_c": None if ambient_c is None else q(ambient_c, 0.5, "measured"),
        **conditions,
    }
    return validated(Run, f"run '{run_id}'", **said)


def further_logs(
    run: Run, digests: Sequence[str], channels: Sequence[RunChannel]
) -> tuple[tuple[str, ...], tuple[RunChannel, ...]]:
    """Return those of some logs that a run has not yet, and their columns by the run's names. Raises `RunError` for none."""
    new = tuple(digest for digest in digests if digest not in run.passes)
    if not new:
        raise RunError(f"Run '{run.id}' holds these logs already.")
    names = new_names(channels, run.channels)
    return new, tuple(replaced(one, column=names.get(one.column, one.column)) for one in channels)
