"""Builds beside each other, each at some operating points: temperatures, joints, what differs, and what it is worth in quiet."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

from ashen_bridge.changes.difference import difference
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.project import Project
from ashen_bridge.planning.choosing.bill import cost, needs
from ashen_bridge.planning.choosing.candidates import known_materials
from ashen_bridge.planning.quiet import FanCurve, fan_curve

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
    gain; `quieter_still` says that it may be more. `power_share`: the share of its power at which that sensor would be as warm as
    in the first build; over 1 there is power to gain. `cost` is of what it has other than the first, by the user's own prices.
    `file` names another file it comes from; what was `measured` is a run. `problem` is why it cannot be computed.
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
    power_share: float | None = None
    cost: float | None = None
    file: str = ""
    measured: bool = False


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
    costs = {one: _cost(project, builds[0], one) for one in builds}
    rows: dict[tuple[str, str], Compared] = {}
    curves: dict[str, FanCurve | None] = {}
    for turn, fidelity in enumerate(("coarse", "fine")):
        reports: dict[str, Report] = {}
        for n, (build, point) in enumerate(at):
            report, problem = _report(engine, project, build, point, fidelity)
            if report is not None and build == builds[0]:
                reports[point] = report
                if point not in curves:
                    curves[point] = fan_curve(engine, project, build, point)
            rows[build, point] = _row(
                project, build, point, differs[build], report, problem, reports.get(point), curves.get(point), costs[build]
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
    curve: FanCurve | None,
    spent: float | None,
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
        power_share=_power_share(report, first),
        cost=spent,
    )


def _cost(project: Project, first: str, build: str) -> float | None:
    """Return what the pieces cost that a build has other than the first; None where it has none, or no price is known."""
    was = {joint.id: joint.pieces for joint in project.build(first).joints}
    bodies = project.bodies_known(project.build(build))
    filled = []
    for joint in project.build(build).joints:
        if joint.pieces != was.get(joint.id):
            boxes = [bodies[name].footprint.bounds for name in joint.lower]
            area = sum((x1 - x0) * (y1 - y0) for x0, y0, x1, y1 in boxes)
            filled += [(piece, area) for piece in joint.pieces if piece.age_days == 0]
    return cost(project, needs(filled, known_materials(project)))[0] if filled and project.shop else None


def _power_share(report: Report, first: Report | None) -> float | None:
    if first is None or first.build == report.build or not first.sensors:
        return None
    worst = min(first.sensors, key=lambda row: row.margin_k if row.margin_k is not None else 1e3 - row.value_c)
    now = next((row.value_c for row in report.sensors if row.id == worst.id), None)
    rise = None if now is None else now - report.ambient_c
    return (worst.value_c - first.ambient_c) / rise if rise is not None and rise > _GAIN_K else None


def at_equal_power(rows: Sequence[Compared]) -> tuple[Compared, ...]:
    """Return all rows at the power and the ambient of the first: rises go with the power, what leaks more when hot aside.

    Rows of which no power is known are left out.
    """
    known = [row for row in rows if row.power_w > 0]
    if not known:
        return ()
    watts, ambient = known[0].power_w, known[0].ambient_c

    def brought(row: Compared) -> Compared:
        def sensor(one: ComparedSensor) -> ComparedSensor:
            value = ambient + (one.value_c - row.ambient_c) * watts / row.power_w
            return replace(one, value_c=value, margin_k=None if one.limit_c is None else one.limit_c - value)

        sensors = tuple(map(sensor, row.sensors))
        die = None if row.die_c is None else ambient + (row.die_c - row.ambient_c) * watts / row.power_w
        least = min((one.margin_k for one in sensors if one.margin_k is not None), default=None)
        return replace(row, sensors=sensors, die_c=die, least_margin_k=least, power_w=watts, ambient_c=ambient)

    return tuple(map(brought, known))


def _quiet(report: Report, first: Report | None, curve: FanCurve | None) -> tuple[float | None, bool]:
    """Return how many decibels the gain at the sensor nearest to its limit is worth, and whether it may be more."""
    if first is None or first.build == report.build or curve is None or not first.sensors:
        return None, False
    worst = min(first.sensors, key=lambda row: row.margin_k if row.margin_k is not None else 1e3 - row.value_c).id
    was, now = (next((row.value_c for row in one.sensors if row.id == worst), None) for one in (first, report))
    if was is None or now is None or was - now < _GAIN_K or worst not in curve.warmer_k:
        return None, False
    return curve.less(worst, was - now), was - now >= curve.warmer_k[worst][-1]


def as_table(rows: Sequence[Compared]) -> list[list[str]]:
    """Return what was compared as rows of text, a head first: for copying and for CSV."""
    names = list(dict.fromkeys(sensor.name for row in rows for sensor in row.sensors))
    table = [
        [
            *("build", "point", *(f"{name} [°C]" for name in names)),
            *("least margin [K]", "quieter [dB]", "power share", "cost", "what differs", "problem"),
        ]
    ]
    for row in rows:
        shown = {sensor.name: f"{sensor.value_c:.2f}" for sensor in row.sensors}
        least = "" if row.least_margin_k is None else f"{row.least_margin_k:.2f}"
        quiet = "" if row.quieter_db is None else f"{row.quieter_db:.1f}"
        share = "" if row.power_share is None else f"{row.power_share:.2f}"
        table.append(
            [
                f"{row.file}: {row.name}" if row.file else row.name,
                row.point_name,
                *(shown.get(name, "") for name in names),
                least,
                quiet,
                share,
                "" if row.cost is None else f"{row.cost:.2f}",
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
