"""How long a test should run, and how many passes tell a difference apart."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING

import numpy as np

from ashen_bridge.bench.advice.verdicts import TestPlan
from ashen_bridge.bench.compare import passes_for
from ashen_bridge.bench.spread import USUAL_K
from ashen_bridge.logs.outcome import RunFigures
from ashen_bridge.model.project import Project
from ashen_bridge.predict.patterns import read_pattern

if TYPE_CHECKING:
    from ashen_bridge.predict.engine import Engine

_WINDOW_S = 180.0  # of settled readings after the soak; common practice, no source
_PATTERNS = ("step 40min", "step 6h", "step 24h")


def planning(
    engine: Engine, project: Project, build: str, point: str, runs: Sequence[RunFigures], resolution_k: float
) -> Iterator[tuple[float, TestPlan | None]]:
    """Yield (progress, None), and (1, plan) at the end.

    The length is the model's soak time of the slowest sensor and a window to measure in; the passes are those that show a
    difference of `resolution_k` at the spread from pass to pass.
    """
    soak, slowest = math.inf, ""
    for number, pattern in enumerate(_PATTERNS):
        yield number / len(_PATTERNS), None
        course = engine.transient(project, build, point, read_pattern(pattern))
        if course.soak_s:
            k = int(np.argmax(course.soak_s))
            soak, slowest = course.soak_s[k], course.sensors[k]
        if math.isfinite(soak):
            break
    spread, measured = spread_of(runs)
    yield 1.0, TestPlan(soak, slowest, soak + _WINDOW_S, passes_for(resolution_k, spread), resolution_k, spread, measured)


def spread_of(runs: Sequence[RunFigures]) -> tuple[float, bool]:
    """Return how far passes of a run differ [K], pooled over runs and sensors as rises, and whether that was measured."""
    squares, freedom = 0.0, 0
    for run in runs:
        for one in run.run.channels:
            if one.sensor is None:
                continue
            rises = [
                run.counted(part.channels[one.column]) - (part.ambient_c or 0.0)
                for part in run.passes
                if one.column in part.channels and one.column not in part.climbing
            ]
            if len(rises) > 1:
                squares += float(np.var(rises, ddof=1)) * (len(rises) - 1)
                freedom += len(rises) - 1
    return (max(math.sqrt(squares / freedom), 0.05), True) if freedom else (USUAL_K, False)


def resolution_for(passes: int, spread: float) -> float:
    """Return the smallest difference [K] that so many passes of each build show (95 %)."""
    from scipy.stats import t as student

    n = max(passes, 2)
    return float(student.ppf(0.975, 2 * n - 2)) * spread * math.sqrt(2 / n)
