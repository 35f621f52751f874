"""Temperatures over time for scripts."""

from __future__ import annotations

from collections.abc import Sequence

from ashen_bridge.api.engines import engine_for
from ashen_bridge.model.calibrated import in_force
from ashen_bridge.model.project import Project
from ashen_bridge.predict.course import Course
from ashen_bridge.predict.meshes import Mesh
from ashen_bridge.predict.patterns import Watch, read_pattern

__all__ = ["Course", "over_time"]


def over_time(
    project: Project,
    pattern: str,
    build: str | None = None,
    point: str | None = None,
    *,
    at_s: Sequence[float] = (),
    mesh: Mesh = "coarse",
    tolerance_k: float = 0.05,
) -> Course:
    """Return what the sensors show over time under a load pattern.

    Patterns are, for example, `step 30min`, `stages 0.5 10min, 1.0 60min` or `cool 10min after 60%`.

    `at_s` : times [s] that are met exactly; without any, all steps are returned. `tolerance_k` : error allowed in a step [K].
    Rises on the coarse mesh are brought to what the fine one settles to. Raises `AshenError`.

    >>> from ashen_bridge import api
    >>> found = api.over_time(api.open("demo:buoy"), "step 10min", at_s=(0.0, 60.0, 600.0), tolerance_k=0.5)
    >>> [round(float(time)) for time in found.time_s], found.values_c.shape[0]
    ([0, 60, 600], 3)
    """
    engine, fidelity = engine_for(mesh)
    watch = Watch(tuple(sorted(set(at_s))), tolerance_k)
    return engine.transient(in_force(project), build, point, read_pattern(pattern), fidelity=fidelity, watch=watch).asked()
