"""Figures of runs with what the model knows of the device: about how slow it is."""

from __future__ import annotations

from ashen_bridge.bench.logbook import figures_of
from ashen_bridge.bench.recording import run_of
from ashen_bridge.logs.outcome import RunFigures
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.project import Project
from ashen_bridge.predict.engine import Engine


def modelled_figures(project: Project, *run_ids: str, engine: Engine | None = None) -> list[RunFigures]:
    """Return the figures of runs, their tails about as slow as the model says where it can be computed."""
    engine = engine or Engine()
    wanted = [run_of(project, run_id) for run_id in run_ids]
    slow = {place: slowness(engine, project, *place) for place in {(run.build, run.point) for run in wanted}}
    return [figures_of(project, run.id, slowest_s=slow[run.build, run.point]) for run in wanted]


def slowness(engine: Engine, project: Project, build: str, point: str) -> float | None:
    """Return about the slowest time constant [s] of a build under load, by its coarse field; None where there is none."""
    try:
        return engine.predict(project, build, point, fidelity="coarse").report.stored_s
    except AshenError:
        return None
