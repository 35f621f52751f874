"""Builds and runs of another file, to be set beside this one's."""

from __future__ import annotations

import statistics
from collections.abc import Iterator
from dataclasses import replace
from typing import TYPE_CHECKING

from ashen_bridge.bench.logbook import figures_of
from ashen_bridge.bench.power_model import powered
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.project import Project
from ashen_bridge.planning.comparing import Compared, ComparedSensor, comparing

if TYPE_CHECKING:
    from ashen_bridge.predict.engine import Engine


def comparing_file(engine: Engine, other: Project, name: str) -> Iterator[tuple[float, tuple[Compared, ...]]]:
    """Yield (progress, what another file says): its builds at its first operating point, and its runs as they were measured."""
    point = other.point().id
    rows: tuple[Compared, ...] = ()
    measured = tuple(replace(one, file=name) for one in _runs(other))
    for progress, some in comparing(engine, other, [one.id for one in other.builds], [point]):
        rows = (*(replace(one, file=name, differs=()) for one in some), *measured)
        yield progress, rows


def _runs(project: Project) -> Iterator[Compared]:
    """Yield a row for every run: what its sensors came to, the mean of its passes."""
    limits = {limit.sensor: limit.max_c.value for limit in project.device.limits if limit.sensor}
    for run in project.runs:
        nothing = ((), (), (), run.ambient_c.value if run.ambient_c else 0.0, 0.0, None, None, None)
        try:
            figures = figures_of(project, run.id)
        except AshenError as error:
            yield Compared(run.build, run.label, run.point, "measured", *nothing, problem=str(error), measured=True)
            continue
        sensors = []
        for one in project.device.sensors:
            column = figures.column_of(one.id)
            values = figures.values(column) if column else [spot.value_c.value for spot in run.spots if spot.sensor == one.id]
            if values:
                value, limit = statistics.fmean(values), limits.get(one.id)
                sensors.append(ComparedSensor(one.id, one.label, value, limit, None if limit is None else limit - value))
        air = [one.ambient_c for one in figures.passes if one.ambient_c is not None]
        ambient = (
            statistics.fmean(air) if air else run.ambient_c.value if run.ambient_c else project.point(run.point).ambient_c.value
        )
        found = powered(figures)
        watts = found.board_w if found.board_w is not None else sum(found.parts_w.values())
        dies = {body.id for body in project.all_bodies if getattr(body, "role", None) == "die"}
        hot = [s.value_c for s in sensors if any(d.id == s.id and d.body in dies for d in project.device.sensors)]
        margins = [s.margin_k for s in sensors if s.margin_k is not None]
        yield Compared(
            run.build,
            run.label,
            run.point,
            "measured",
            tuple(sensors),
            (),
            (),
            ambient,
            watts,
            max(hot, default=None),
            min(margins, default=None),
            None,
            measured=True,
        )
