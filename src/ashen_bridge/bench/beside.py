"""What two runs show besides temperatures: work rate, power, clock, fan and noise; a repair may help only there."""

from __future__ import annotations

import math

import numpy as np
from scipy.stats import t as student

from ashen_bridge.bench.judgement import Beside
from ashen_bridge.logs.outcome import RunFigures

ROLES = {"rate": "work", "power": "power", "clock": "clock", "fan": "fan", "noise": "noise"}
_ONE_PASS = 0.01  # spread between passes of what has one alone, of its value; common practice, no source
_ONE_PASS_DB = 0.7


def beside(before: RunFigures, after: RunFigures) -> tuple[Beside, ...]:
    """Return the means of all passes for every role that both runs log, work rate first, with the 95 % interval of the change."""
    found = []
    for role, name in ROLES.items():
        columns = [
            next((one for one in run.run.channels if one.role == role and one.body is None), None) for run in (before, after)
        ]
        if columns[0] is None or columns[1] is None:
            continue
        was, now = (run.values(column.column) for run, column in zip((before, after), columns, strict=True) if column)
        if was and now and columns[0].unit == columns[1].unit:
            half = _half_width(was, now, columns[0].unit)
            found.append(Beside(role, name, columns[0].unit, float(np.mean(was)), float(np.mean(now)), half))
    return tuple(found)


def _half_width(was: list[float], now: list[float], unit: str) -> float:
    """95 % half width of the difference of two means; the usual spread stands in where there is one pass each."""
    freedom = len(was) + len(now) - 2
    usual = _ONE_PASS_DB if unit == "dB" else _ONE_PASS * abs(float(np.mean(was)))
    if freedom < 1:
        return float(1.96 * usual * math.sqrt(2))
    pooled = math.sqrt((np.var(was) * len(was) + np.var(now) * len(now)) / freedom)
    return float(student.ppf(0.975, freedom) * pooled * math.sqrt(1 / len(was) + 1 / len(now)))
