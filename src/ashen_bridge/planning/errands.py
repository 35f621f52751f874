"""Longer errands for a worker: generator functions of (engine, *arguments) that yield (progress 0 to 1, value) pairs."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING

from ashen_bridge.changes.edit import Edit
from ashen_bridge.model.project import Project
from ashen_bridge.planning.choosing.result import Advice

if TYPE_CHECKING:
    from ashen_bridge.planning.comparing import Compared
    from ashen_bridge.planning.remedies import Effect
    from ashen_bridge.planning.tolerances import Tolerances
    from ashen_bridge.predict.engine import Engine


def advice(engine: Engine, project: Project, build: str, point: str) -> Iterator[tuple[float, Advice | None]]:
    """Search plans for all joints together, better them, and say why not the others."""
    from ashen_bridge.planning.choosing.advise import advising

    yield from advising(engine, project, build, point)


def compared(
    engine: Engine, project: Project, builds: Sequence[str], points: Sequence[str]
) -> Iterator[tuple[float, tuple[Compared, ...]]]:
    """Compute builds at operating points, to be set beside each other."""
    from ashen_bridge.planning.comparing import comparing

    yield from comparing(engine, project, builds, points)


def remedied(
    engine: Engine, project: Project, build: str, point: str, edits: Sequence[Edit]
) -> Iterator[tuple[float, tuple[Effect, ...]]]:
    """Work out what each of some edits would do, before any is made."""
    from ashen_bridge.planning.remedies import effects

    yield from effects(engine, project, build, point, edits)


def tolerances(
    engine: Engine, project: Project, build: str, point: str, chance: float
) -> Iterator[tuple[float, Tolerances | None]]:
    """Work out how wide every chosen ± may be."""
    from ashen_bridge.planning.tolerances import tolerating

    yield from tolerating(engine, project, build, point, chance)
