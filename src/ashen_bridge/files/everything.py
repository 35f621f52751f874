"""Everything a project holds as plain tables, one per kind of thing, and as one JSON file."""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

from ashen_bridge.files.archive import to_json
from ashen_bridge.files.atomic import write_atomically
from ashen_bridge.files.tables import defused_table
from ashen_bridge.model.cells import defused
from ashen_bridge.model.history import Note
from ashen_bridge.model.project import Project

if TYPE_CHECKING:
    import pandas as pd

Rows = list[dict[str, Any]]


def tables(project: Project) -> Iterator[tuple[str, pd.DataFrame]]:
    """Yield (name, table) of every kind of thing that is there. Numbers have columns of their own: `height_mm.value`.

    What is a list inside a thing stands as JSON in its cell; what lies in joints and what is done in procedures are rows.
    """
    import pandas as pd

    for name, rows in _rows(project):
        if rows:
            table = pd.json_normalize(rows)
            yield name, table.map(lambda cell: json.dumps(cell, ensure_ascii=False) if isinstance(cell, list | dict) else cell)


def export_everything(project: Project, folder: Path) -> list[Path]:
    """Write the tables as CSV, and the project as JSON; returns what was written. Raises `FileError` where it cannot be."""
    folder.mkdir(parents=True, exist_ok=True)
    written = [folder / "project.json"]
    write_atomically(written[0], to_json(project))
    for name, table in tables(project):
        path = folder / f"{name}.csv"
        # Lines end alike everywhere, and figures are written as they are kept.
        write_atomically(path, defused_table(table).to_csv(index=False, lineterminator="\n").encode())
        written.append(path)
    return written


def history_csv(history: Sequence[Note]) -> bytes:
    """Return a history as a table: when, who, kind, what, times."""
    made = io.StringIO()
    writer = csv.writer(made, lineterminator="\n")
    writer.writerow(Note.model_fields)
    writer.writerows([defused(str(cell)) for cell in note.model_dump().values()] for note in history)
    return made.getvalue().encode()


def _rows(project: Project) -> Iterator[tuple[str, Rows]]:
    said = json.loads(project.model_dump_json(exclude_none=True))
    device = said.pop("device")
    yield from ((f"device-{name}", value) for name, value in device.items() if _is_table(value))
    builds, procedures = said.pop("builds", []), said.pop("procedures", [])
    yield "builds", [{k: v for k, v in build.items() if k != "joints"} for build in builds]
    joints = [(build["id"], joint) for build in builds for joint in build.get("joints", [])]
    yield "joints", [{"build": build, **{k: v for k, v in joint.items() if k != "pieces"}} for build, joint in joints]
    pieces = [(build, joint["id"], n, piece) for build, joint in joints for n, piece in enumerate(joint.get("pieces", []))]
    yield "pieces", [{"build": build, "joint": joint, "at": n, **piece} for build, joint, n, piece in pieces]
    steps = [(one, n, step) for one in procedures for n, step in enumerate(one.get("steps", []))]
    yield "steps", [{"procedure": one["id"], "of": one["kind"], "at": n + 1, **step} for one, n, step in steps]
    yield from ((name, value) for name, value in said.items() if _is_table(value))


def _is_table(value: object) -> bool:
    return isinstance(value, list) and bool(value) and all(isinstance(one, dict) for one in value)
