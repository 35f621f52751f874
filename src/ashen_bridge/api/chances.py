"""Chances for scripts."""

from __future__ import annotations

from ashen_bridge.api.engines import engine
from ashen_bridge.model.calibrated import in_force
from ashen_bridge.model.project import Project
from ashen_bridge.uncertainty.chance import chances as of_samples
from ashen_bridge.uncertainty.outcome import Chances
from ashen_bridge.uncertainty.preparation import prepared
from ashen_bridge.uncertainty.sampling import draw_samples


def chances(project: Project, build: str | None = None, point: str | None = None, *, count: int = 1000) -> Chances:
    """Return spread, 95 % interval and chance to keep its limit of every sensor, from `count` drawn variants of the project.

    What matters is by share of variance in `shares`. The same project and count give the same answer. Raises `AshenError`.
    """
    used = in_force(project)
    report = engine().predict(used, build, point).report
    return of_samples(draw_samples(prepared(engine(), used, report.build, report.point, report), count))
