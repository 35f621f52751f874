"""Longer errands for a worker: generator functions of (engine, *arguments) that yield (progress 0 to 1, value) pairs."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ashen_bridge.model.procedures import Procedure
from ashen_bridge.model.project import Project

if TYPE_CHECKING:
    from ashen_bridge.logs.outcome import RunFigures
    from ashen_bridge.predict.engine import Engine
    from ashen_bridge.report.paper import Size


def sheet(engine: Engine, project: Project, procedure: Procedure, size: Size) -> Iterator[tuple[float, bytes | None]]:
    """Print the sheet of a procedure as PDF."""
    from ashen_bridge.report.sheet import sheet_pdf

    del engine
    yield 0.3, None
    yield 1.0, sheet_pdf(project, procedure, size)


def cut_sheet(engine: Engine, project: Project, build: str, size: Size) -> Iterator[tuple[float, bytes | None]]:
    """Print the cut sheet of a build as PDF, drawings at exactly 1:1."""
    from ashen_bridge.planning.cutting.orders import cut_plan
    from ashen_bridge.planning.cutting.volumes import dispensing
    from ashen_bridge.report.cut_sheet import cut_pdf

    dispensed = dispensing(engine, project, build)
    yield 0.3, None
    yield 1.0, cut_pdf(project, cut_plan(project, build, dispensed), dispensed, size)


def record(
    engine: Engine, project: Project, build: str, point: str, size: Size, figures: tuple[RunFigures, ...] = ()
) -> Iterator[tuple[float, bytes | None]]:
    """Print everything a file knows as one PDF; `figures` are those of runs known already."""
    from ashen_bridge.report.record.paper import known_of, record_pdf

    known = known_of(engine, project, build, point, figures)
    yield 0.5, None
    yield 1.0, record_pdf(known, (), size)


def card(engine: Engine, project: Project, build: str, point: str, size: Size) -> Iterator[tuple[float, bytes | None]]:
    """Print the bench card as PDF."""
    from ashen_bridge.report.record.card import card_pdf

    yield 0.1, None
    yield 1.0, card_pdf(engine, project, build, point, size)
