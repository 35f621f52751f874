"""How much every assumption matters: what its standard uncertainty does to every temperature, from one preparation."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.model.project import Project
from ashen_bridge.predict.engine import Engine
from ashen_bridge.uncertainty.assumptions import Assumption, assumptions
from ashen_bridge.uncertainty.preparation import Preparation, preparing


def weighing(
    engine: Engine,
    project: Project,
    build_id: str | None = None,
    point_id: str | None = None,
    listed: Sequence[Assumption] | None = None,
) -> Iterator[tuple[float, tuple[Assumption, ...] | None]]:
    """Yield (progress, None) and at the end (1, assumptions with their effects): some, or all of the build in file order.

    Raises `AshenError` for what cannot be computed.
    """
    wanted = assumptions(project, project.build(build_id).id, project.point(point_id).id) if listed is None else tuple(listed)
    if not any(one.uncertainty > 0 for one in wanted):
        yield 1.0, tuple(replace(one, effect_k=0.0) for one in wanted)
        return
    for progress, ready in preparing(engine, project, build_id, point_id, numbers=listed):
        yield 0.95 * progress, None if ready is None else weighed(wanted, ready)


def weigh(
    engine: Engine,
    project: Project,
    build_id: str | None = None,
    point_id: str | None = None,
    listed: Sequence[Assumption] | None = None,
) -> tuple[Assumption, ...]:
    """Return assumptions with their effects; see `weighing`."""
    *_, (_, found) = weighing(engine, project, build_id, point_id, listed)
    assert found is not None  # the last one always is
    return found


def weighed(listed: Sequence[Assumption], ready: Preparation) -> tuple[Assumption, ...]:
    """Return assumptions with what they do to every sensor; certain ones do nothing, one that cannot move is left open."""
    stuck = {ready.numbers[n].paths for n in ready.stuck}
    slopes = {one.paths: row for one, row in zip(ready.numbers, ready.slopes(), strict=True)}
    return tuple(one if one.paths in stuck else _with(one, ready, slopes.get(one.paths)) for one in listed)


def _with(one: Assumption, ready: Preparation, slopes: Floats | None) -> Assumption:
    if slopes is None or not len(slopes):
        return replace(one, effect_k=0.0)
    most = int(np.argmax(np.abs(slopes)))
    effects = tuple((sensor, float(effect)) for sensor, effect in zip(ready.sensors, slopes, strict=True))
    return replace(one, effect_k=abs(effects[most][1]), sensor=ready.names[ready.sensors[most]], effects=effects)
