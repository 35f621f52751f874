"""Sensors over time, as a result. Light to import."""

from __future__ import annotations

from dataclasses import dataclass, field, replace

import numpy as np

from ashen_bridge.arrays import Floats
from ashen_bridge.model.cells import defused

SOAKED_K = 1.0


@dataclass(frozen=True)
class Course:
    """Sensors over time.

    time_s : (n,). sensors : names. values_c : (n, n_sensor). power_w : (n,) made at each time. steady_c : what each sensor
    would come to under full power. soak_s : time after which each stays within 1 K of what it is heading for (infinite if not
    by the end); None unless the load is constant. others : components that no sensor reads and faces of plates, with their values
    (n, n_other) and ends. output_s : times that were asked for; each is one of `time_s`. step_error_k : greatest error of a step,
    as estimated. idle_c : what all columns would show without power, of a device that was not soaked before.
    """

    time_s: Floats
    sensors: tuple[str, ...]
    values_c: Floats
    power_w: Floats
    steady_c: Floats
    soak_s: tuple[float, ...] | None
    others: tuple[str, ...] = ()
    others_c: Floats = field(default_factory=lambda: np.zeros((0, 0)))
    others_steady_c: Floats = field(default_factory=lambda: np.zeros(0))
    output_s: tuple[float, ...] = ()
    step_error_k: float = 0.0
    idle_c: Floats | None = None

    def asked(self) -> Course:
        """Return the course at the output times alone; all of it where none were asked for."""
        if not self.output_s:
            return self
        rows = [int(np.argmin(np.abs(self.time_s - time))) for time in self.output_s]
        return replace(
            self,
            time_s=self.time_s[rows],
            values_c=self.values_c[rows],
            power_w=self.power_w[rows],
            others_c=self.others_c[rows],
        )


def as_csv(found: Course) -> str:
    """Return a course as CSV: time, power, one column per sensor, then components without one and faces of plates."""
    head = ["time_s", "power_w", *(f"{name} [C]" for name in (*found.sensors, *found.others))]
    lines = [",".join(_quoted(defused(one)) for one in head)]
    values = np.hstack([found.values_c, found.others_c]) if found.others else found.values_c
    for time, power, row in zip(found.time_s, found.power_w, values, strict=True):
        lines.append(",".join([f"{time:.6g}", f"{power:.6g}", *(f"{value:.3f}" for value in row)]))
    return "\n".join(lines) + "\n"


def _quoted(text: str) -> str:
    return '"' + text.replace('"', '""') + '"' if any(c in text for c in ',"\n') else text
