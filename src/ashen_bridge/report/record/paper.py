"""The record as one self-contained page and as PDF, from the template that ships or one of the user's own."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date

import numpy as np

from ashen_bridge.assess.assessment import assess
from ashen_bridge.logs.outcome import RunFigures
from ashen_bridge.model.errors import AshenError, ProjectError
from ashen_bridge.model.project import Project
from ashen_bridge.planning.cutting.orders import cut_plan
from ashen_bridge.planning.cutting.volumes import dispensing
from ashen_bridge.predict.engine import Engine
from ashen_bridge.report.paper import Size, html, pdf
from ashen_bridge.report.record.chapters import CHAPTERS, Known, Spread, written
from ashen_bridge.uncertainty.preparation import prepared
from ashen_bridge.uncertainty.sampling import draw_samples

TEMPLATE = "record.html"
_SAMPLES = 500


def known_of(engine: Engine, project: Project, build: str | None, point: str | None, figures: Sequence[RunFigures] = ()) -> Known:
    """Return what the record is written from: one refined prediction with what is not known of it, and the plan for cutting.

    `figures` of runs that are known already are taken as they are; those of others are worked out.
    """
    here, at = project.build(build), project.point(point)
    assessment = assess(project, here.id, at.id, engine=engine, fidelity="fine")
    half = engine.rest(project, here.id, at)
    try:
        dispensed = dispensing(engine, project, here.id)
        plan = cut_plan(project, here.id, dispensed)
    except AshenError:
        dispensed, plan = (), None
    spread = _spread(engine, project, here.id, at.id)
    known = {one.run.id: one for one in figures}
    return Known(project, here, at, assessment, half, plan, dispensed, spread, engine, known)


def _spread(engine: Engine, project: Project, build: str, point: str) -> Spread:
    """Return what is not known of a prediction, by samples; nothing where none can be drawn."""
    try:
        drawn = draw_samples(prepared(engine, project, build, point), _SAMPLES)
    except AshenError:
        return Spread({}, None)
    limits = np.array([np.inf if one is None else one for one in drawn.limits_c])
    holds = float((drawn.values_c <= limits).all(axis=1).mean()) if np.isfinite(limits).any() else None
    return Spread(dict(zip(drawn.sensors, map(float, drawn.values_c.std(axis=0)), strict=True)), holds)


def chosen(parts: Sequence[str]) -> tuple[str, ...]:
    """Return the parts that are wanted, all if none is named. Raises `ProjectError` for one that is not known."""
    for name in parts:
        if name not in CHAPTERS:
            raise ProjectError(f"The record has no part '{name}'; there is {', '.join(CHAPTERS)}.")
    return tuple(name for name in CHAPTERS if not parts or name in parts)


def record_html(
    known: Known, parts: Sequence[str] = (), size: Size = "A4", template: str | None = None, inside: bool = True
) -> str:
    """Return the record as one page that needs nothing else. `template` is the text of the user's own."""
    device = known.project.device.name or known.project.name or "Device"
    values = {
        "title": known.project.name or device,
        "running": device,
        "under": f"{device}, build “{known.build.label}”, {date.today().isoformat()}",
        "chapters": [vars(one) for one in written(known, chosen(parts))],
    }
    return html(TEMPLATE, values, size, inside, template)


def record_pdf(known: Known, parts: Sequence[str] = (), size: Size = "A4", template: str | None = None) -> bytes:
    """Return the record as PDF. Raises `PaperError` where the system cannot print."""
    return pdf(record_html(known, parts, size, template, inside=False))
