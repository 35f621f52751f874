"""Runs in a project: logs that lie in the store become a run, or further passes of one."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from ashen_bridge.bench.outcome import RunError
from ashen_bridge.model.project import Project
from ashen_bridge.model.records import Run, RunChannel


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
    ambient_c: float | None = None,
    **conditions: Any,
) -> Project:
    """Return the project with a run of these stored logs; logs of a run that is there are added as further passes.

    `conditions` are further fields of `Run` for a new run. Raises `RunError` where the logs do not belong there.
    """
    old = next((run for run in project.runs if run.id == run_id), None)
    project = _remembering(project, channels)
    if old is not None:
        names = new_names(channels, old.channels)
        channels = [one.model_copy(update={"column": names.get(one.column, one.column)}) for one in channels]
        if build not in (None, old.build) or point not in (None, old.point):
            raise RunError(f"Run '{run_id}' is of build '{old.build}' at '{old.point}'; give another run id for another build.")
        new = [digest for digest in digests if digest not in old.passes]
        if not new:
            raise RunError(f"Run '{run_id}' holds these logs already.")
        kept = {channel.column: channel for channel in (*old.channels, *channels)}
        changed = old.model_dump(mode="json") | {
            "log_sha256": (*old.passes, *new)[0],
            "further_passes": (*old.passes, *new)[1:],
            "channels": [channel.model_dump(mode="json") for channel in kept.values()],
        }
        return _with_runs(project, [changed if run.id == run_id else run for run in project.runs])
    run = {
        "id": run_id,
        "build": project.build(build).id,
        "point": project.point(point).id,
        "log_sha256": digests[0],
        "further_passes": [digest for digest in dict.fromkeys(digests) if digest != digests[0]],
        "channels": [channel.model_dump(mode="json") for channel in channels],
        "ambient_c": None if ambient_c is None else {"value": ambient_c, "uncertainty": 0.5, "origin": "measured"},
        **conditions,
    }
    return _with_runs(project, [*project.runs, run])


def _remembering(project: Project, channels: Sequence[RunChannel]) -> Project:
    kept = {one.column: one.model_dump(mode="json") for one in (*project.mappings, *channels)}
    return Project.parse(project.model_dump(mode="json") | {"mappings": list(kept.values())})


def _with_runs(project: Project, runs: Sequence[Run | dict[str, Any]]) -> Project:
    plain = [run.model_dump(mode="json") if isinstance(run, Run) else run for run in runs]
    return Project.parse(project.model_dump(mode="json") | {"runs": plain})
