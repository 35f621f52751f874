"""Several things were changed at once: what share may each have had, and which one further run would settle it?

Each change is made alone on the build before, and taken back alone from the build after. Where the two agree the share is
decided; where they do not, the changes act on each other.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ashen_bridge.bench.advice.verdicts import Attribution, Share
from ashen_bridge.bench.judgement import ComparedSensor, Comparison
from ashen_bridge.changes.difference import difference, reverse
from ashen_bridge.logs.outcome import RunError
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.project import Project

if TYPE_CHECKING:
    from ashen_bridge.predict.engine import Engine

MOST_CHANGES = 12


def attributing(
    engine: Engine, project: Project, before: str, after: str, point: str, found: Comparison, sensor: str
) -> Iterator[tuple[float, Attribution | None]]:
    """Yield (progress, None), and (1, attribution) at the end, for one sensor of a comparison of two builds' runs.

    Raises `RunError` where the builds do not differ, or in too many ways.
    """
    row = next((one for one in found.sensors if one.sensor == sensor), None)
    if row is None:
        raise RunError("That sensor is not in both runs, so there is nothing to share out.")
    changes = difference(project, before, after)
    if not changes:
        raise RunError("Both runs are of builds that do not differ, so there is no change to share it out to.")
    if len(changes) > MOST_CHANGES:
        raise RunError(f"{len(changes)} things differ between these builds; up to {MOST_CHANGES} can be told apart.")
    # The whole is what a prediction shows; what each change has of it are differences on the coarse field.
    shown = [_shown(engine, project, name, point, sensor) for name in (before, after)]
    start, end = (_value(engine, project, one, point, sensor) for one in (before, after))
    if start is None or end is None or shown[0] is None or shown[1] is None:
        raise RunError("One of the two builds cannot be computed as it is.")
    shares = []
    for n, made in enumerate(changes):
        yield n / len(changes), None
        first = _value(engine, made.applied(project), before, point, sensor)
        last = _value(engine, reverse(made).applied(project), after, point, sensor)
        shares.append(Share(made.name, None if first is None else first - start, None if last is None else end - last))
    shares.sort(key=lambda one: -abs(one.middle_k))
    yield 1.0, _attribution(found, row, shown[1] - shown[0], shares)


def _shown(engine: Engine, project: Project, build: str, point: str, sensor: str) -> float | None:
    try:
        report = engine.predict(project, build, point).report
    except AshenError:
        return None
    return next((row.value_c for row in report.sensors if row.id == sensor), None)


def _value(engine: Engine, project: Project, build: str, point: str, sensor: str) -> float | None:
    try:
        sensors, _ = engine.shown(project, build, point)
    except AshenError:
        return None
    return next((row.value_c for row in sensors if row.id == sensor), None)


def _attribution(found: Comparison, row: ComparedSensor, model_k: float, shares: list[Share]) -> Attribution:
    open_ones = [one for one in shares if one.undecided_k > 0.5]
    if len(shares) == 1:
        settle = "Only this one thing was changed, so it is all its doing."
    elif not open_ones:
        settle = "What each did alone adds up: no further run is needed to tell them apart."
    else:
        widest = max(open_ones, key=lambda one: one.undecided_k)
        settle = f"One run with only this taken back would settle it: {widest.label}."
    return Attribution(found.before, found.after, row.sensor, row.name, row.rise.difference, model_k, tuple(shares), settle)
