"""Runs of the record: what sensors came to, by run."""

from __future__ import annotations

import statistics
from collections.abc import Iterator
from typing import Any

from ashen_bridge.bench.logbook import figures_of
from ashen_bridge.logs.outcome import RunFigures
from ashen_bridge.model.errors import AshenError
from ashen_bridge.report.record.blocks import Block, rows, words
from ashen_bridge.words.numbers import number


def runs_chapter(known: Any) -> Iterator[Block]:
    """Yield a table of every run, and what each sensor came to in all of them."""
    project = known.project
    if not project.runs:
        return
    figures: dict[str, RunFigures] = {}
    for run in project.runs:
        try:
            figures[run.id] = known.figures.get(run.id) or figures_of(project, run.id)
        except AshenError as error:
            yield words(f"{run.label}: {error}", quiet=True)
    body = [
        [
            *(run.label, project.build(run.build).label, project.point(run.point).label),
            *(len(run.passes), run.workload, run.taken.replace("T", " ")),
        ]
        for run in project.runs
    ]
    yield rows(["Run", "Build", "Point", "Passes", "Load", "When"], body, numbers=(3,))
    sensors = []
    for one in project.device.sensors:
        line = [one.label, *(_came_to(figures.get(run.id), run, one.id) for run in project.runs)]
        if any(cell != "–" for cell in line[1:]):
            sensors.append(line)
    if sensors:
        head = ["Sensor °C", *(run.label for run in project.runs)]
        yield rows(head, sensors, numbers=range(1, len(head)))


def _came_to(figures: RunFigures | None, run: Any, sensor: str) -> str:
    spots = [spot.value_c.value for spot in run.spots if spot.sensor == sensor]
    column = figures.column_of(sensor) if figures is not None else None
    values = figures.values(column) if figures is not None and column else spots
    return number(statistics.fmean(values), 1) if values else "–"
