"""The thickness strip: what every stock thickness of a group would do to that group and to the die."""

from __future__ import annotations

from collections.abc import Iterator

from ashen_bridge.assess.glance import glance_at
from ashen_bridge.assess.result import StripCell
from ashen_bridge.changes.layers import set_sheets
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.project import Project
from ashen_bridge.predict.engine import Engine
from ashen_bridge.predict.report import Report


def thickness_strip(
    project: Project,
    report: Report,
    joints: tuple[str, ...],
    thicknesses_mm: tuple[float, ...],
    *,
    engine: Engine,
) -> Iterator[StripCell]:
    """Yield one cell per thickness, as they are computed.

    Temperatures are differences, at a glance or on the coarse field, laid on the values of `report`, so that the present
    thickness shows exactly what the rest of the window shows.
    """
    here = glance_at(engine, project, report.build, report.point)
    for thickness in thicknesses_mm:
        try:
            variant = set_sheets(project, report.build, joints, thickness)
            look = glance_at(engine, variant, report.build, report.point) if here is not None else None
            if here is not None and look is not None:
                trial, base = look.report, here.report
            else:
                trial, base = (
                    engine.predict(one, report.build, report.point, fidelity="coarse").report for one in (variant, project)
                )
        except AshenError as error:
            yield StripCell(thickness, refusal=str(error))
            continue
        rows = [row for row in trial.joints if row.id in joints]
        lowers = {row.lower for row in rows}
        dies = {row.id for row in trial.components if row.kind == "die"}
        squeezed = [row.compression for row in rows if row.compression is not None]
        yield StripCell(
            thickness,
            group_c=_shifted(report, base, trial, lowers),
            die_c=_shifted(report, base, trial, dies),
            contact=min((row.contact_fraction for row in rows), default=None),
            compression=sum(squeezed) / len(squeezed) if squeezed else None,
        )


def _shifted(fine: Report, base: Report, trial: Report, bodies: set[str]) -> float | None:
    values = [
        fine.component(name).t_max_c + trial.component(name).t_max_c - base.component(name).t_max_c
        for name in bodies
        if any(row.id == name for row in trial.components)
    ]
    return max(values, default=None)
