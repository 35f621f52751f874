"""Logs and the store: put there and mapped, read back as figures or as one table."""

from __future__ import annotations

from collections.abc import Sequence

import pandas as pd

from ashen_bridge.bench.recording import new_names, remembered, run_of, with_run
from ashen_bridge.files.blobs import BlobStore, default_folder
from ashen_bridge.logs.log import Column, Log
from ashen_bridge.logs.mapping import apply_mappings, propose
from ashen_bridge.logs.outcome import RunError, RunFigures
from ashen_bridge.logs.packing import pack_log, table, unpack_log
from ashen_bridge.logs.runs import figures
from ashen_bridge.model.project import Project
from ashen_bridge.model.records import RunChannel


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
    proposed = propose(logs[0], project.device, remembered(project, run_id))
    channels = apply_mappings(proposed, mapped, project.device)
    check_alike(logs)
    old = next((run.channels for run in project.runs if run.id == run_id), ())
    digests = keep_logs([as_in_run(log, channels, old) for log in logs], store)
    return with_run(
        project, run_id, digests, channels, build=build, point=point, ambient_c=ambient_c, name=name, workload=workload
    )


def check_alike(logs: Sequence[Log]) -> None:
    """Raise `RunError` if a log cannot be another pass of the first one's run."""
    names = {column.name for column in logs[0].columns}
    for number, log in enumerate(logs[1:], start=2):
        if not names & {column.name for column in log.columns}:
            raise RunError(f"File {number} shares no column with the first, so it is not another pass of the same run.")


def as_in_run(log: Log, channels: Sequence[RunChannel], old: Sequence[RunChannel]) -> Log:
    """Return a log with its columns called as a run's earlier passes call them, where both are mapped to the same thing."""
    names = new_names(channels, old)
    return Log(log.time_s, tuple(Column(names.get(one.name, one.name), one.unit, one.values) for one in log.columns), log.notes)


def keep_logs(logs: Sequence[Log], store: BlobStore | None = None) -> tuple[str, ...]:
    """Put logs into the store and return what they are kept under."""
    where = store or BlobStore(default_folder())
    return tuple(where.put(pack_log(log)) for log in logs)


def logs_of(project: Project, run_id: str, store: BlobStore | None = None) -> tuple[Log, ...]:
    """Return the logs of a run's passes."""
    where = store or BlobStore(default_folder())
    return tuple(unpack_log(where.get(digest)) for digest in run_of(project, run_id).passes)


def figures_of(project: Project, run_id: str, store: BlobStore | None = None, slowest_s: float | None = None) -> RunFigures:
    """Return the figures of a project's run, its logs read from the store; `slowest_s` as the model has it."""
    return figures(run_of(project, run_id), logs_of(project, run_id, store), project.device, slowest_s)


def table_of(project: Project, run_id: str, store: BlobStore | None = None) -> pd.DataFrame:
    """Return all passes of a run as one table: `pass`, `time [s]`, one column per channel with its unit."""
    parts = []
    for number, log in enumerate(logs_of(project, run_id, store), start=1):
        part = table(log)
        part.insert(0, "pass", number)
        parts.append(part)
    return pd.concat(parts, ignore_index=True)
