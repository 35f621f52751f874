"""Longer errands for a worker: generator functions of (engine, *arguments) that yield (progress 0 to 1, value) pairs."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ashen_bridge.evidence.result import Seen
from ashen_bridge.model.project import Project

if TYPE_CHECKING:
    from ashen_bridge.predict.engine import Engine


def seen(engine: Engine, project: Project, build: str) -> Iterator[tuple[float, Seen | None]]:
    """Hold everything that was seen against the model, and weigh it."""
    from ashen_bridge.evidence.seeing import seeing

    yield from seeing(engine, project, build)
