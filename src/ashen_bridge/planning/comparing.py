"""Builds beside each other, each at some operating points: temperatures, joints, what differs, and what it is worth in quiet."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

from ashen_bridge.changes.difference import difference
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.project import Project

if TYPE_CHECKING:
    from ashen_bridge.predict.engine import Engine
    from ashen_bridge.predict.report import Report


@dataclass(frozen=True)
class ComparedSensor:
    """A sensor of one build at one point [°C], its ± where it is known, its limit and what is left to it [K]."""

    id: str
    name: str
    value_c: float
    limit_c: float | None
    margin_k: float | None


@dataclass(frozen=True)
class ComparedJoint:
    """A joint over one body: how far it is squeezed, its mean pressure [kPa], its bond line [µm], and the share that touches."""

    id: str
    lower: str
    squeezed: float | None
    pressure_kpa: float
    bond_line_um: float
    contact: float


@dataclass(frozen=True)
class Compared:
    """One build at one point. `differs` says what it has other than the first build.

    `quieter_db`: how many decibels less leave the sensor nearest to its limit as warm as in the first build, None without fans or
    gain; `quieter_still` says that it may be more. `problem` is why it cannot be computed.
    """

    build: str
    name: str
    point: str
    point_name: str
    sensors: tuple[ComparedSensor, ...]
    joints: tuple[ComparedJoint, ...]
    differs: tuple[str, ...]
    ambient_c: float
    power_w: float
    die_c: float | None
    least_margin_k: float | None
    quieter_db: float | None
    quieter_still: bool = False
    problem: str = ""


def comparing(
    engine: Engine, project: Project, builds: Sequence[str], points: Sequence[str]
) -> Iterator[tuple[float, tuple[Compared, ...]]]:
    """Yield (progress, what is compared so far): every build at every point, the first build is what others are held against."""
    rows: list[Compared] = []
    reports: dict[tuple[str, str], Report] = {}
    total = max(len(builds) * len(points), 1)
    for build in builds:
        differs = tuple(made.name for made in difference(project, builds[0], build)) if build != builds[0] else ()
        for point in points:
            rows.append(_row(engine, project, build, point, builds[0], differs, reports))
            yield len(rows) / total, tuple(rows)


def _row(
    engine: Engine,
    project: Project,
    build: str,
    point: str,
    first: str,
    differs: tuple[str, ...],
    reports: dict[tuple[str, str], Report],
) -> Compared:
    name, at = project.build(build).label, project.point(point)
    label = at.name or at.id
    try:
        report = engine.predict(project, build, point, fidelity="coarse" if len(project.builds) > 30 else "fine").report
    except AshenError as error:
        nothing = (None, None, None, False)
        return Compared(build, name, point, label, (), (), differs, at.ambient_c.value, 0.0, *nothing, str(error))
    reports[build, point] = report
    sensors = tuple(ComparedSensor(row.id, row.name, row.value_c, row.limit_c, row.margin_k) for row in report.sensors)
    joints = tuple(
        ComparedJoint(row.id, row.lower, row.compression, row.pressure_kpa.mean, row.bond_line_um.mean, row.contact_fraction)
        for row in report.joints
    )
    dies = [row.t_max_c for row in report.components if row.kind == "die"]
    margins = [row.margin_k for row in report.sensors if row.margin_k is not None]
    return Compared(
        build,
        name,
        point,
        label,
        sensors,
        joints,
        differs,
        report.ambient_c,
        report.power_w,
        max(dies, default=None),
        min(margins, default=None),
        *_quiet(engine, project, build, point, report, reports.get((first, point))),
    )


def _quiet(
    engine: Engine, project: Project, build: str, point: str, report: Report, first: Report | None
) -> tuple[float | None, bool]:
    """Return how many decibels the gain at the sensor nearest to its limit is worth."""
    from ashen_bridge.bench.advice.quieter import quieter

    if first is None or first.build == build or not first.sensors:
        return None, False
    worst = min(first.sensors, key=lambda row: row.margin_k if row.margin_k is not None else 1e3 - row.value_c)
    now = next((row.value_c for row in report.sensors if row.id == worst.id), None)
    if now is None or worst.value_c - now < 0.3:
        return None, False
    try:
        found = quieter(engine, project, build, point, worst.id, worst.value_c - now)
    except AshenError:
        return None, False
    return (None, False) if found is None else (found.less_db, found.at_least)


def as_table(rows: Sequence[Compared]) -> list[list[str]]:
    """Return what was compared as rows of text, a head first: for copying and for CSV."""
    names = list(dict.fromkeys(sensor.name for row in rows for sensor in row.sensors))
    table = [
        ["build", "point", *(f"{name} [°C]" for name in names), "least margin [K]", "quieter [dB]", "what differs", "problem"]
    ]
    for row in rows:
        shown = {sensor.name: f"{sensor.value_c:.2f}" for sensor in row.sensors}
        least = "" if row.least_margin_k is None else f"{row.least_margin_k:.2f}"
        quiet = "" if row.quieter_db is None else f"{row.quieter_db:.1f}"
        table.append(
            [
                row.name,
                row.point_name,
                *(shown.get(name, "") for name in names),
                least,
                quiet,
                "; ".join(row.differs),
                row.problem,
            ]
        )
    return table


def as_csv(rows: Sequence[Compared]) -> str:
    """Return what was compared as CSV."""
    sheet = io.StringIO()
    csv.writer(sheet, lineterminator="\n").writerows(as_table(rows))
    return sheet.getvalue()
