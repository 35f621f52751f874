"""Assess a build: predict it, ask the few what-ifs the rules need, and judge."""

from __future__ import annotations

from ashen_bridge.assess.glance import glance_at
from ashen_bridge.assess.result import Assessment
from ashen_bridge.changes.layers import thicken_sheets
from ashen_bridge.changes.materials import make_pads_limp
from ashen_bridge.findings.finding import Case, DieWithout
from ashen_bridge.findings.rules import findings
from ashen_bridge.model.errors import AshenError, Cancelled
from ashen_bridge.model.project import Project
from ashen_bridge.model.resolve import resolve
from ashen_bridge.predict.engine import Engine
from ashen_bridge.predict.prediction import Fidelity, Prediction
from ashen_bridge.predict.report import JointRow, Report

CLIFF_STEP_MM = 0.1


def assess(
    project: Project,
    build_id: str | None = None,
    point_id: str | None = None,
    *,
    engine: Engine | None = None,
    fidelity: Fidelity = "fine",
) -> Assessment:
    """Return the assessment of a build at an operating point. Raises `AshenError` for what cannot be computed."""
    engine = engine or Engine()
    return judge(project, engine.predict(project, build_id, point_id, fidelity=fidelity), engine=engine)


def judge(project: Project, prediction: Prediction, *, engine: Engine) -> Assessment:
    """Return a prediction with its findings; the what-ifs are answered on the coarse field, as differences."""
    report = prediction.report
    dies = [row for row in report.joints if _is_die(report, row)]
    pads = [row for row in report.joints if row.compression is not None and any(row.upper == die.upper for die in dies)]
    without: dict[str, DieWithout] = {}
    after: dict[tuple[str, str], float] = {}
    if dies and pads:
        without = _without_push(project, report, dies, engine)
        for label, joints in _groups(project, pads).items():
            if engine.called_off():
                raise Cancelled
            try:
                rows, _ = engine.mechanics(thicken_sheets(project, report.build, tuple(joints), CLIFF_STEP_MM), report.build)
            except AshenError:
                continue  # a step further cannot even be assembled; the present state is what is judged
            after.update(
                {(die.id, label): row.force_n for die in dies for row in rows if (row.joint, row.lower) == (die.id, die.lower)}
            )
    case = Case(project, resolve(project, report.build), report, without, after, CLIFF_STEP_MM)
    return Assessment(prediction, findings(case))


def _is_die(report: Report, row: JointRow) -> bool:
    return report.component(row.lower).kind == "die" if any(c.id == row.lower for c in report.components) else False


def _groups(project: Project, pads: list[JointRow]) -> dict[str, list[str]]:
    groups: dict[str, list[str]] = {}
    for row in pads:
        group = project.group_of(row.id)
        groups.setdefault(group.label if group else row.name, []).append(row.id)
    return groups


def _without_push(project: Project, report: Report, dies: list[JointRow], engine: Engine) -> dict[str, DieWithout]:
    now, free, bond_lines = _with_and_without(project, make_pads_limp(project), report, engine)
    found = {}
    for die in dies:
        # Differences at a glance or of the coarse field, laid on the present value.
        gain = now[die.lower] - free[die.lower]
        present = report.component(die.lower).t_max_c
        found[die.id] = DieWithout(bond_lines[die.id, die.lower], present - gain, present)
    return found


Hottest = dict[str, float]


def _with_and_without(
    project: Project, limp: Project, report: Report, engine: Engine
) -> tuple[Hottest, Hottest, dict[tuple[str, str], float]]:
    """Return how hot every component gets with and without the pads' push [°C], and every mean bond line without it [µm]."""
    looks = [glance_at(engine, one, report.build, report.point) for one in (project, limp)]
    if looks[0] is not None and looks[1] is not None:
        now, free = ({row.id: row.t_max_c for row in one.report.components} for one in looks if one is not None)
        return now, free, {(row.id, row.lower): row.bond_line_um.mean for row in looks[1].report.joints}
    now, _ = engine.hottest(project, report.build, report.point)
    free, joints = engine.hottest(limp, report.build, report.point)
    return now, free, {(row.joint, row.lower): row.bond_line_um.mean for row in joints}
