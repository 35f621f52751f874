"""How well it is known what a sensor shows: by the runs of the build where there are any, else by all the model does not know."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

import numpy as np

from ashen_bridge.bench.logbook import figures_of
from ashen_bridge.bench.readings import readings_of
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.project import Project
from ashen_bridge.uncertainty.preparation import prepared
from ashen_bridge.uncertainty.sampling import draw_samples

if TYPE_CHECKING:
    from ashen_bridge.predict.engine import Engine

_SAMPLES, _UNSURE_K = 500, 3.0


def within(engine: Engine, project: Project, build: str, point: str, sensors: Sequence[str]) -> dict[str, float]:
    """Return the standard uncertainty of the prediction of sensors [K], by id; the usual one where none can be drawn."""
    try:
        drawn = draw_samples(prepared(engine, project, build, point), _SAMPLES)
    except AshenError:
        return dict.fromkeys(sensors, _UNSURE_K)
    spread = dict(zip(drawn.sensors, map(float, drawn.values_c.std(axis=0)), strict=True))
    return {name: spread.get(name, _UNSURE_K) for name in sensors}


def measured(engine: Engine, project: Project, build: str, point: str) -> dict[str, tuple[float, float]]:
    """Return what the last run of a build at a load showed [°C, in the load's air] and its standard uncertainty, by sensor id.

    Empty where there is none, or its logs are not on this machine.
    """
    for run in reversed(project.runs):
        if (run.build, run.point) != (build, point):
            continue
        try:
            figures = figures_of(project, run.id)
            if any(one.throttled is not None for one in figures.passes):
                continue  # at full power it would have been hotter
            read = readings_of(project, [figures], engine)
        except AshenError:
            continue
        sd = np.sqrt(np.diag(read.covariance))
        return {
            sensor: (float(value), float(u))
            for (_, sensor), value, u in zip(read.what, read.values, sd, strict=True)
            if sensor is not None
        }
    return {}
