"""Everything that readings come to for one build, in one go."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from typing import TYPE_CHECKING

from ashen_bridge.changes.readings import before_readings
from ashen_bridge.measuring.gauging import gauging
from ashen_bridge.measuring.result import Found, OddLength
from ashen_bridge.measuring.route import candidates, next_for, offered
from ashen_bridge.measuring.taking import taken_over
from ashen_bridge.model.project import Project

if TYPE_CHECKING:
    from ashen_bridge.predict.engine import Engine


def finding(engine: Engine, project: Project, build: str | None = None) -> Iterator[tuple[float, Found | None]]:
    """Yield (progress, None) and at the end (1, what was found). Raises `AshenError` where it cannot be computed."""
    for progress, gauged in gauging(engine, project, build):
        if gauged is None:
            yield 0.98 * progress, None
            continue
        before = before_readings(project)
        numbers, ties = taken_over(before, gauged)
        listed = candidates(before, gauged)
        gaps = tuple(replace(one, next=next_for(before, gauged, n, listed)) for n, one in enumerate(gauged.gaps))
        odd = tuple(
            OddLength(one.label, one.off, one.standardised, one.expected, gauged.without(one), one.alike, one.separable)
            for one in gauged.odd
        )
        covariance = tuple(tuple(float(value) for value in row) for row in gauged.covariance)
        yield (
            1.0,
            Found(
                gauged.build,
                gaps,
                odd,
                gauged.unchecked,
                gauged.read.refused,
                numbers,
                ties,
                covariance,
                offered(before, gauged, listed),
            ),
        )
