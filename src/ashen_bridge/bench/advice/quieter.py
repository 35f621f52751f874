"""What a gain in kelvin is worth in quiet: the same temperature at how many decibels less."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

from scipy.optimize import brentq

from ashen_bridge.bench.advice.verdicts import Quieter
from ashen_bridge.changes.points import fanned_plates, set_all_fans
from ashen_bridge.model.project import Project

if TYPE_CHECKING:
    from ashen_bridge.predict.engine import Engine

_SLOWEST = 0.2  # of the present speed: below that the law of the sink is not trusted


def quieter(engine: Engine, project: Project, build: str, point: str, sensor: str, gained_k: float) -> Quieter | None:
    """Return how much quieter the fans may be until a sensor is `gained_k` warmer; None without fans or without a gain.

    Sound power goes with the fifth power of speed, 50·log10 of the ratio in decibels (fan laws).
    """
    plates = fanned_plates(project)
    if not plates or gained_k <= 0:
        return None
    speeds = project.point(point).fans_percent
    now = next((speeds[name].value for name in plates if name in speeds), 100.0)

    def warmer(share: float) -> float:
        report = engine.predict(set_all_fans(project, point, now * share), build, point, fidelity="coarse").report
        return next(row.value_c for row in report.sensors if row.id == sensor)

    start = warmer(1.0)
    if warmer(_SLOWEST) - start <= gained_k:
        return Quieter(sensor, gained_k, _SLOWEST, -50 * math.log10(_SLOWEST), True)
    share = float(brentq(lambda one: warmer(one) - start - gained_k, _SLOWEST, 1.0, xtol=1e-3))
    return Quieter(sensor, gained_k, share, -50 * math.log10(share), False)
