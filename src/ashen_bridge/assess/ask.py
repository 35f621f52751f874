"""An operating point that asks instead of tells: which fan speed, power or ambient just meets all limits with a margin."""

from __future__ import annotations

import math

from scipy.optimize import brentq

from ashen_bridge.assess.result import Answer, What
from ashen_bridge.changes.points import fanned_plates, multiply_powers, set_all_fans, set_ambient
from ashen_bridge.model.errors import AssemblyError
from ashen_bridge.model.project import Project
from ashen_bridge.predict.engine import Engine
from ashen_bridge.predict.prediction import Fidelity
from ashen_bridge.words.numbers import number, percent, short

_RANGE = {"fan": (10.0, 300.0), "power": (0.0, 10.0), "ambient": (-60.0, 120.0)}
_ROUNDS = 4
_CLOSE = {"fan": 0.05, "power": 5e-4, "ambient": 0.02}


def ask(project: Project, build_id: str | None, point_id: str | None, what: What, margin_k: float, engine: Engine) -> Answer:
    """Return the value at which the worst sensor keeps `margin_k` to its limit; everything else stays as it is.

    The coarse field searches, the fine one says by how much it is off where that led to: the answer holds for what is shown.

    Raises `AssemblyError` where no value in a sensible range does, or nothing has a limit.
    """
    point = project.point(point_id)
    make = {"fan": set_all_fans, "power": multiply_powers, "ambient": set_ambient}[what]
    low, high = _RANGE[what]
    if what == "fan" and not fanned_plates(project):
        raise AssemblyError("No sink of this device depends on a fan, so there is no speed to ask for.")
    coarse: dict[float, dict[str, float]] = {}
    offset: dict[str, float] = {}

    def margins(value: float, fidelity: Fidelity) -> dict[str, float]:
        report = engine.predict(make(project, point.id, value), build_id, point.id, fidelity=fidelity).report
        found = {row.name: row.margin_k for row in report.sensors if row.margin_k is not None}
        if not found:
            raise AssemblyError("No sensor has a limit, so nothing decides.")
        return found

    def worst(value: float) -> tuple[float, str]:
        if value not in coarse:
            coarse[value] = margins(value, "coarse")
        return min((margin + offset.get(name, 0.0) - margin_k, name) for name, margin in coarse[value].items())

    value = math.nan
    for _ in range(_ROUNDS):
        ends = worst(low), worst(high)
        if ends[0][0] * ends[1][0] > 0:
            raise AssemblyError(_never(what, margin_k, *ends[1]))
        before, value = value, float(brentq(lambda value: worst(value)[0], low, high, xtol=_CLOSE[what]))
        if abs(value - before) < 2 * _CLOSE[what]:
            break
        worst(value)
        offset.update({name: margin - coarse[value][name] for name, margin in margins(value, "fine").items()})
    decided_by = worst(value)[1]
    return Answer(what, value, decided_by, _sentence(project, point.id, what, value, margin_k, decided_by))


def _never(what: What, margin_k: float, at_high: float, sensor: str) -> str:
    if (what == "fan") is (at_high < 0):
        return f"No {what} in a sensible range leaves {short(margin_k)} K: {sensor} stays too hot."
    return f"Every {what} in a sensible range leaves {short(margin_k)} K or more."


def _sentence(project: Project, point_id: str, what: What, value: float, margin_k: float, sensor: str) -> str:
    keeps = f"keeps {short(margin_k)} K below its limit" if margin_k else "is just at its limit"
    if what == "fan":
        speeds = project.point(point_id).fans_percent
        now = next((speeds[name].value for name in fanned_plates(project) if name in speeds), 100.0)
        # Fan laws: sound power goes with the fifth power of speed, 50·log10 of the ratio in decibels.
        noise = 50 * math.log10(value / now)
        louder = f"{number(abs(noise), 1)} dB {'louder' if noise > 0 else 'quieter'} than now"
        return f"At {number(value)} % of rated fan speed ({louder}) {sensor} {keeps}."
    if what == "power":
        watts = sum(power.value for power in project.point(point_id).powers_w.values())
        return f"At {percent(value)} of the present power ({number(value * watts)} W in all) {sensor} {keeps}."
    return f"At {number(value, 1)} °C ambient {sensor} {keeps}."
