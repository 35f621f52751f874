"""Longer errands for a worker: generator functions of (engine, *arguments) that yield (progress 0 to 1, value) pairs."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ashen_bridge.measuring.result import Found, Route
from ashen_bridge.model.project import Project

if TYPE_CHECKING:
    from ashen_bridge.predict.engine import Engine


def gaps(engine: Engine, project: Project, build: str) -> Iterator[tuple[float, Found | None]]:
    """Work out every gap of a build from all readings."""
    from ashen_bridge.measuring.finding import finding

    yield from finding(engine, project, build)


def route(engine: Engine, project: Project, build: str, point: str) -> Iterator[tuple[float, Route | None]]:
    """Work out which readings narrow the verdict."""
    from ashen_bridge.measuring.verdict_route import routing

    yield from routing(engine, project, build, point)
