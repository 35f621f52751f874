"""Runs in a project: logs put into the store and mapped, passes added, and a run's logs read back."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import pandas as pd

from ashen_bridge.bench.mapping import apply_mappings, propose
from ashen_bridge.bench.reading import Log
from ashen_bridge.bench.runs import RunError, RunFigures, figures, pack_log, table, unpack_log
from ashen_bridge.files.blobs import BlobStore, default_folder
from ashen_bridge.model.project import Project
from ashen_bridge.model.records import Run, RunChannel


def run_of(project: Project, run_id: str) -> Run:
    """Return a run by id. Raises `RunError` that names those there are."""
    for run in project.runs:
        if run.id == run_id:
            return run
    there = ", ".join(run.id for run in project.runs) or "none yet"
    raise RunError(f"There is no run '{run_id}'; there are: {there}.")


def remembered(project: Project) -> tuple[RunChannel, ...]:
    """Return how columns were mapped in this device's earlier runs, the latest word on each."""
    found = {channel.column: channel for run in project.runs for channel in run.channels}
    return tuple(found.values())


def record_run(
    project: Project,
    run_id: str,
    logs: Sequence[Log],
    *,
    build: str | None = None,
    point: str | None = None,
    mapped: Sequence[str] = (),
    ambient_c: float | None = None,
    name: str = "",
    workload: str = "",
    store: BlobStore | None = None,
) -> Project:
    """Return the project with a run of these logs, one pass each; logs of a run that is there are added as further passes.

    Columns are mapped as in earlier runs of this device, else by their words; `mapped` corrects it, as COLUMN=SENSOR.
    Raises `RunError` or `MappingError`.
    """
    where = store or BlobStore(default_folder())
    old = next((run for run in project.runs if run.id == run_id), None)
    known = {one.column: one for one in remembered(project)} | {one.column: one for one in (old.channels if old else ())}
    channels = apply_mappings(propose(logs[0], project.device, tuple(known.values())), mapped, project.device)
    names = {channel.column for channel in channels}
    for number, log in enumerate(logs[1:], start=2):
        if not names & {column.name for column in log.columns}:
            raise RunError(f"File {number} shares no column with the first, so it is not another pass of the same run.")
    digests = tuple(where.put(pack_log(log)) for log in logs)
    if old is not None:
        if build not in (None, old.build) or point not in (None, old.point):
            raise RunError(f"Run '{run_id}' is of build '{old.build}' at '{old.point}'; give another run id for another build.")
        new = [digest for digest in digests if digest not in old.passes]
        if not new:
            raise RunError(f"Run '{run_id}' holds these logs already.")
        kept = {channel.column: channel for channel in (*old.channels, *channels)}
        grown = old.model_dump(mode="json") | {
            "further_passes": [*old.further_passes, *new],
            "channels": [channel.model_dump(mode="json") for channel in kept.values()],
        }
        return _with_runs(project, [grown if run.id == run_id else run for run in project.runs])
    run = {
        "id": run_id,
        "name": name,
        "build": project.build(build).id,
        "point": project.point(point).id,
        "log_sha256": digests[0],
        "further_passes": digests[1:],
        "channels": [channel.model_dump(mode="json") for channel in channels],
        "workload": workload,
        "ambient_c": None if ambient_c is None else {"value": ambient_c, "uncertainty": 0.5, "origin": "measured"},
    }
    return _with_runs(project, [*project.runs, run])


def _with_runs(project: Project, runs: Sequence[Run | dict[str, Any]]) -> Project:
    plain = [run.model_dump(mode="json") if isinstance(run, Run) else run for run in runs]
    return Project.parse(project.model_dump(mode="json") | {"runs": plain})


def figures_of(project: Project, run_id: str, store: BlobStore | None = None) -> RunFigures:
    """Return the figures of a project's run, its logs read from the store."""
    run = run_of(project, run_id)
    where = store or BlobStore(default_folder())
    return figures(run, [unpack_log(where.get(digest)) for digest in run.passes], project.device)


def table_of(project: Project, run_id: str, store: BlobStore | None = None) -> pd.DataFrame:
    """Return all passes of a run as one table: `pass`, `time [s]`, one column per channel with its unit."""
    where = store or BlobStore(default_folder())
    parts = []
    for number, digest in enumerate(run_of(project, run_id).passes, start=1):
        part = table(unpack_log(where.get(digest)))
        part.insert(0, "pass", number)
        parts.append(part)
    return pd.concat(parts, ignore_index=True)
