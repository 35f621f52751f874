"""Longer errands for a worker: public generator functions of (engine, *arguments) that yield (progress 0 to 1, value) pairs."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ashen_bridge.assess.result import Answer, Assessment, LayerGain, StripCell, What
from ashen_bridge.model.project import Project
from ashen_bridge.predict.course import Course
from ashen_bridge.predict.report import Report
from ashen_bridge.uncertainty.outcome import Chances

if TYPE_CHECKING:
    from ashen_bridge.predict.engine import Engine
    from ashen_bridge.uncertainty.assumptions import Assumption


def predict(engine: Engine, project: Project, build: str, point: str) -> Iterator[tuple[float, Assessment]]:
    """Assess one build at one operating point: at a glance or on the coarse field, then on the fine one, then with findings."""
    from ashen_bridge.assess.assessment import judge
    from ashen_bridge.assess.glance import glance_at, keep_for_glances

    first = glance_at(engine, project, build, point)
    yield 0.3, Assessment(engine.predict(project, build, point, fidelity="coarse") if first is None else first, ())
    fine = engine.predict(project, build, point, fidelity="fine")
    yield 0.8, Assessment(fine, ())
    yield 1.0, judge(project, fine, engine=engine)
    if first is None:
        keep_for_glances(engine, project, fine)


def thickness_strip(
    engine: Engine, project: Project, report: Report, joints: tuple[str, ...], thicknesses_mm: tuple[float, ...]
) -> Iterator[tuple[float, StripCell]]:
    """Work out the thickness strip of some joints against a finished prediction, cell by cell."""
    from ashen_bridge.assess import strip

    for n, cell in enumerate(strip.thickness_strip(project, report, joints, thicknesses_mm, engine=engine), start=1):
        yield n / len(thicknesses_mm), cell


def over_time(engine: Engine, project: Project, build: str, point: str, text: str) -> Iterator[tuple[float, Course | None]]:
    """Work out the sensors over time for a load pattern as it is written."""
    from ashen_bridge.predict.patterns import read_pattern

    yield from engine.over_time(project, build, point, read_pattern(text))


def draw_chances(
    engine: Engine, project: Project, build: str, point: str, report: Report, count: int
) -> Iterator[tuple[float, Chances | None]]:
    """Draw samples and say what they say, first of some and then of all."""
    from ashen_bridge.uncertainty.chance import chances
    from ashen_bridge.uncertainty.preparation import preparing
    from ashen_bridge.uncertainty.sampling import drawing_samples

    for progress, ready in preparing(engine, project, build, point, report):
        yield 0.7 * progress, None
        for samples in drawing_samples(ready, count) if ready is not None else ():
            drawn = len(samples.values_c) + samples.failed
            yield 0.7 + 0.3 * drawn / count, chances(samples)


def weigh(engine: Engine, project: Project, build: str, point: str) -> Iterator[tuple[float, tuple[Assumption, ...] | None]]:
    """Say what every number that a prediction stands on does to its temperatures."""
    from ashen_bridge.uncertainty.weighing import weighing

    yield from weighing(engine, project, build, point)


def rank_layers(
    engine: Engine, project: Project, build: str, point: str, sensor: str
) -> Iterator[tuple[float, tuple[LayerGain, ...]]]:
    """Rank layers by what they would gain a sensor if they were perfect."""
    from ashen_bridge.assess import dominant

    yield from dominant.rank_layers(engine, project, build, point, sensor)


def answer(
    engine: Engine, project: Project, build: str, point: str, what: What, margin_k: float
) -> Iterator[tuple[float, Answer]]:
    """Answer what fan speed, power or ambient just keeps all limits by a margin."""
    from ashen_bridge.assess.ask import ask

    yield 1.0, ask(project, build, point, what, margin_k, engine)
