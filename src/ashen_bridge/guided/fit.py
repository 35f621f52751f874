"""Bring the one number nobody knows, the cooler's resistance to air, in line with the die temperature that was seen."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ashen_bridge.guided.answers import Answers
from ashen_bridge.guided.build import project_from
from ashen_bridge.model import paths
from ashen_bridge.model.errors import AssemblyError
from ashen_bridge.model.project import Project
from ashen_bridge.words.numbers import short

if TYPE_CHECKING:
    from ashen_bridge.predict.engine import Engine
    from ashen_bridge.predict.prediction import Fidelity

_LOW_K_W, _HIGH_K_W = 0.01, 20.0
_CLOSE_K = 0.5
_TRIES, _ROUNDS = 8, 4


def fitting(engine: Engine, answers: Answers) -> Iterator[tuple[float, Project | None]]:
    """Yield progress, and in the end the project of some answers, its sink fitted so that the die is as hot as it was seen.

    The coarse field leads, since it is quick; the fine one decides, since it is what will be shown. A temperature that no
    sensible sink explains leaves the nearest sensible one, and the note says so.
    """
    project = project_from(answers)
    seen = answers.die_seen_c
    plate = next((body.id for body in project.device.bodies if getattr(body, "sink", None)), None)
    if seen is None or plate is None:
        yield 1.0, project
        return
    path = f"device.bodies.{plate}.sink.convective_k_w"
    share = float(paths.get(project, path.replace("convective", "fixed"))) / float(paths.get(project, path))
    rough = _die_c(project, engine, "coarse")
    hot = _die_c(project, engine, "fine")
    for turn in range(_ROUNDS):
        yield (turn + 1) / (_ROUNDS + 1), None
        if abs(hot - seen) < _CLOSE_K:
            break
        before = float(paths.get(project, path))
        project = _towards(project, path, share, rough + seen - hot, rough, engine)
        if abs(float(paths.get(project, path)) - before) < 1e-4:
            break
        rough, hot = _die_c(project, engine, "coarse"), _die_c(project, engine, "fine")
    value = float(paths.get(project, path))
    explained = abs(hot - seen) < 2 * _CLOSE_K
    note = (
        f"fitted to the die seen at {short(seen)} °C"
        if explained
        else f"as near as a cooler comes to a die seen at {short(seen)} °C"
    )
    # What does not depend on the fan grew along with what does, so that a slower fan still costs what the fan laws say.
    fixed = path.replace("convective", "fixed")
    spread = {f"{path}.uncertainty": round(0.2 * value, 4), f"{fixed}.uncertainty": round(0.5 * share * value, 4)}
    yield 1.0, paths.set_values(project, {f"{path}.note": note, **spread})


def _towards(project: Project, path: str, share: float, wanted: float, hot: float, engine: Engine) -> Project:
    """Return the project with the sink with which the coarse field's die comes to a temperature [°C]; `hot` is what it has.

    `share` is what of the sink's resistance does not depend on the fan, over what does; both move together.
    """
    value = float(paths.get(project, path))
    for _ in range(_TRIES):
        # The die's rise goes nearly in a straight line with the resistance: its slope is the whole power.
        trial = min(max(value + (wanted - hot) / (1 + share) / _watts(project), _LOW_K_W), _HIGH_K_W)
        if abs(hot - wanted) < _CLOSE_K / 5 or abs(trial - value) < 1e-4:
            break
        found = _with_sink(project, path, share, trial, value, engine)
        if found is None:
            break
        value, project, hot = found
    return project


def _with_sink(
    project: Project, path: str, share: float, trial: float, value: float, engine: Engine
) -> tuple[float, Project, float] | None:
    """Return a resistance, the project with it and its die [°C]; one that the base alone exceeds gives way to the next above."""
    for _ in range(_TRIES):
        fixed = path.replace("convective", "fixed")
        moved = paths.set_values(project, {path: round(trial, 4), fixed: round(share * trial, 4)})
        try:
            return trial, moved, _die_c(moved, engine, "coarse")
        except AssemblyError:
            trial = (trial + value) / 2
    return None


def _die_c(project: Project, engine: Engine, fidelity: Fidelity) -> float:
    return engine.predict(project, fidelity=fidelity).report.component("die").t_max_c


def _watts(project: Project) -> float:
    return max(sum(power.value for power in project.point().powers_w.values()), 1.0)
