"""Sensors over time, as a result. Light to import."""

from __future__ import annotations

from dataclasses import dataclass

from ashen_bridge.geometry.region import Floats

SOAKED_K = 1.0


@dataclass(frozen=True)
class Course:
    """Sensors over time.

    time_s : (n,). sensors : names. values_c : (n, n_sensor). power_w : (n,) made at each time. steady_c : what each sensor
    would come to under full power. soak_s : time after which each stays within 1 K of what it is heading for (infinite if not
    by the end); None unless the load is constant.
    """

    time_s: Floats
    sensors: tuple[str, ...]
    values_c: Floats
    power_w: Floats
    steady_c: Floats
    soak_s: tuple[float, ...] | None


def as_csv(found: Course) -> str:
    """Return a course as CSV: time, power, one column per sensor."""
    head = ["time_s", "power_w", *(f"{name} [C]" for name in found.sensors)]
    lines = [",".join(_quoted(one) for one in head)]
    for time, power, row in zip(found.time_s, found.power_w, found.values_c, strict=True):
        lines.append(",".join([f"{time:.6g}", f"{power:.6g}", *(f"{value:.3f}" for value in row)]))
    return "\n".join(lines) + "\n"


def _quoted(text: str) -> str:
    return '"' + text.replace('"', '""') + '"' if any(c in text for c in ',"\n') else text
