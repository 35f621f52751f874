"""How quiet fans may get: how much warmer sensors are where they turn slower, by decibels less (fan laws)."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from ashen_bridge.changes.points import fanned_plates, set_all_fans
from ashen_bridge.model.errors import AshenError
from ashen_bridge.model.project import Project

if TYPE_CHECKING:
    from ashen_bridge.predict.engine import Engine

_SLOWER = (1.0, 0.8, 0.65, 0.5, 0.35, 0.2)  # of the present speed; below the last the law of the sink is not trusted


@dataclass(frozen=True)
class FanCurve:
    """By how much every sensor gets warmer [K] at so many decibels less: 50·log10 of the speed (fan laws)."""

    less_db: tuple[float, ...]
    warmer_k: Mapping[str, tuple[float, ...]]

    @property
    def most_db(self) -> float:
        """How far it was looked [dB]."""
        return self.less_db[-1]

    def less(self, sensor: str, by_k: float) -> float:
        """Return how many decibels less make a sensor warmer by that many kelvins; at most as far as was looked."""
        if sensor not in self.warmer_k or by_k <= 0:
            return 0.0
        return float(np.interp(by_k, self.warmer_k[sensor], self.less_db))


def fan_curve(engine: Engine, project: Project, build: str, point: str) -> FanCurve | None:
    """Return a build's own answer to its fans, by some coarse fields; None where none turns or it cannot be computed."""
    plates = fanned_plates(project)
    if not plates:
        return None
    speeds = project.point(point).fans_percent
    now = next((speeds[name].value for name in plates if name in speeds), 100.0)
    shown: dict[str, list[float]] = {}
    try:
        for share in _SLOWER:
            for row in engine.shown(set_all_fans(project, point, now * share), build, point)[0]:
                shown.setdefault(row.id, []).append(row.value_c)
    except AshenError:
        return None
    less = tuple(-50 * math.log10(share) for share in _SLOWER)
    return FanCurve(less, {name: tuple(one - some[0] for one in some) for name, some in shown.items()})
