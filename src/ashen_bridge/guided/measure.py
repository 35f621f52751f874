"""Which numbers to measure next: those whose measuring lets the answer's ± fall most."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import TYPE_CHECKING

import numpy as np

from ashen_bridge.estimate.next_reading import taken
from ashen_bridge.guided.answers import Answers
from ashen_bridge.guided.goal import wanted_sensor
from ashen_bridge.guided.matters import what
from ashen_bridge.guided.result import Next
from ashen_bridge.model.project import Project
from ashen_bridge.uncertainty.assumptions import Assumption
from ashen_bridge.uncertainty.together import correlation_of, covariance_with, directions_of

if TYPE_CHECKING:
    from ashen_bridge.predict.engine import Engine

_MOST, _LEAST = 3, 0.002
_MEASURED = 0.25
"""What a measurement leaves of a ±; common practice, no source."""


def watched(engine: Engine, project: Project, answers: Answers) -> str:
    """Return the sensor that everything is about: what was wished, else the one that has least to spare."""
    wanted = wanted_sensor(answers)
    if wanted is not None and any(sensor.id == wanted for sensor in project.device.sensors):
        return wanted
    rows = engine.shown(project, "as_found", "load")[0]
    margins = {row.id: row.margin_k for row in rows if row.margin_k is not None}
    return min(margins, key=lambda one: margins[one])


def helping_most(weighed: Sequence[Assumption], sensor: str) -> tuple[Next, ...]:
    """Return the three numbers whose measuring would help most, each by itself.

    All in the number's present standard uncertainty.
    """
    listed = [one for one in weighed if one.effect_k is not None]
    effects = np.array([dict(one.effects).get(sensor, 0.0) for one in listed])
    along = covariance_with(effects, directions_of(listed), correlation_of(listed))
    variance = max(float(effects @ along), 0.0)
    error = math.sqrt(1 / (1 / _MEASURED**2 - 1))  # σ that leaves such a share
    found: list[tuple[float, Next]] = []
    for one, share in zip(listed, along, strict=True):
        words, by = what(one)
        less = min(taken(float(share), 1.0, error), variance)
        if by:
            found.append((less, Next(words, by, one.paths[0], math.sqrt(variance), math.sqrt(variance - less))))
    best: dict[str, Next] = {}
    for less, wanted in sorted(found, key=lambda pair: -pair[0]):
        if less > _LEAST * variance:
            best.setdefault(wanted.what, wanted)
    return tuple(best.values())[:_MOST]
