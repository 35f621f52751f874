"""Builds beside each other, each at some operating points: temperatures, joints, what differs, and what it is worth in quiet."""

from __future__ import annotations

import csv
import io
import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from ashen_bridge.changes.difference import difference
from ashen_bridge.changes.points import fanned_plates, set_all_fans
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.project import Project

_SLOWER = (1.0, 0.8, 0.65, 0.5, 0.35, 0.2)  # of the present speed; below the last the law of the sink is not trusted
_GAIN_K = 0.3  # gains below it are no news

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
    """Yield (progress, what is compared so far): every build at every point, the first build is what others are held against.

    At first by first looks or the coarse field, so that all stand there soon; then each on the refined field.
    """
    at = [(build, point) for build in builds for point in points]
    differs = {
        one: tuple(made.name for made in difference(project, builds[0], one)) if one != builds[0] else () for one in builds
    }
    rows: dict[tuple[str, str], Compared] = {}
    curves: dict[str, _FanCurve | None] = {}
    for turn, fidelity in enumerate(("coarse", "fine")):
        reports: dict[str, Report] = {}
        for n, (build, point) in enumerate(at):
            report, problem = _report(engine, project, build, point, fidelity)
            if report is not None and build == builds[0]:
                reports[point] = report
                if point not in curves:
                    curves[point] = _fan_curve(engine, project, build, point, report)
            rows[build, point] = _row(
                project, build, point, differs[build], report, problem, reports.get(point), curves.get(point)
            )
            yield (turn + (n + 1) / len(at)) / 2, tuple(rows[one] for one in at if one in rows)


def _report(engine: Engine, project: Project, build: str, point: str, fidelity: str) -> tuple[Report | None, str]:
    try:
        return engine.predict(project, build, point, fidelity="coarse" if fidelity == "coarse" else "fine").report, ""
    except AshenError as error:
        return None, str(error)


def _row(
    project: Project,
    build: str,
    point: str,
    differs: tuple[str, ...],
    report: Report | None,
    problem: str,
    first: Report | None,
    curve: _FanCurve | None,
) -> Compared:
    name, at = project.build(build).label, project.point(point)
    label = at.name or at.id
    if report is None:
        nothing = (None, None, None, False)
        return Compared(build, name, point, label, (), (), differs, at.ambient_c.value, 0.0, *nothing, problem)
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
        *_quiet(report, first, curve),
    )


@dataclass(frozen=True)
class _FanCurve:
    """How much warmer the sensor nearest to its limit gets [K] where fans turn slower, by decibels less."""

    sensor: str
    less_db: tuple[float, ...]
    warmer_k: tuple[float, ...]


def _fan_curve(engine: Engine, project: Project, build: str, point: str, report: Report) -> _FanCurve | None:
    """Return the first build's own answer to its fans, by some coarse fields: 50·log10 of their speed (fan laws)."""
    plates = fanned_plates(project)
    if not plates or not report.sensors:
        return None
    worst = min(report.sensors, key=lambda row: row.margin_k if row.margin_k is not None else 1e3 - row.value_c)
    speeds = project.point(point).fans_percent
    now = next((speeds[name].value for name in plates if name in speeds), 100.0)
    values = []
    try:
        for share in _SLOWER:
            shown = engine.shown(set_all_fans(project, point, now * share), build, point)[0]
            values.append(next(row.value_c for row in shown if row.id == worst.id))
    except AshenError:
        return None
    less = tuple(-50 * math.log10(share) for share in _SLOWER)
    return _FanCurve(worst.id, less, tuple(value - values[0] for value in values))


def _quiet(report: Report, first: Report | None, curve: _FanCurve | None) -> tuple[float | None, bool]:
    """Return how many decibels the gain at the sensor nearest to its limit is worth, and whether it may be more."""
    if first is None or first.build == report.build or curve is None:
        return None, False
    was, now = (next((row.value_c for row in one.sensors if row.id == curve.sensor), None) for one in (first, report))
    if was is None or now is None or was - now < _GAIN_K:
        return None, False
    if was - now >= curve.warmer_k[-1]:
        return curve.less_db[-1], True
    return float(np.interp(was - now, curve.warmer_k, curve.less_db)), False


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
